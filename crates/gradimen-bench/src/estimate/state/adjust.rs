//! What a move does to the state.

mod change;
mod faces;

use gradimen_core::intonation::Heights;
use gradimen_core::quantity::{Cents, Estimate, Length};
use nalgebra::DVector;

use super::layout::{BASS, PULL, Part, ROD, TREBLE};
use super::{LastRead, Pulling, State};
use crate::estimate::EstimateError;
use crate::estimate::filter::Change;
use crate::model::defaults::tolerance;
use crate::model::hardware::{Lifts, PickupRecord};
use crate::model::{Adjuster, Amount, Place, Side};

/// A neck settles for hours by a share of what it was bent.
const SETTLING: f64 = 0.05;
/// Response of a rod, kept within what necks do.
const ROD_LOG_LIMITS: (f64, f64) = (-3.0, 1.2);
/// Levelling takes more here than there, by this share of its doubt (from memory).
const UNEVENLY: f64 = 0.4;
/// Where a saddle stopped its way ends, whatever profile or rule said of that; how far it went until then was told with
/// the turns, or is unknown by so much (from memory).
const END_UNKNOWN: f64 = 5.0;
const HOW_FAR: f64 = 1.0;
const AT_END: f64 = 0.3;
/// What a change of heights makes of a note is known to a share.
const NOTE_SHARE: f64 = 0.2;
/// A retuned but unchanged string keeps its bias within this share of its doubt.
const RETUNED_SHARE: f64 = 0.3;
/// Springs of one set are not all alike.
const OTHER_SPRINGS: f64 = 0.05;
/// What is carried by more than this share of its tolerance is not fresh any more.
const CARRIED: f64 = 0.3;

/// Heights that differ by less change no pitch that a tuner can show.
const SAME_HEIGHT: Length = Length::from_mm(0.01);

/// How everything stood before a move.
struct Before {
    places: Vec<(Place, f64)>,
    heights: Vec<(Length, Length)>,
}

impl State {
    /// Takes a move in, if it is one of the state.
    ///
    /// # Errors
    /// [`EstimateError`] for adjusters that this instrument does not have.
    pub(crate) fn adjust(
        &mut self,
        adjuster: Adjuster,
        amount: &Amount,
        pocket: Length,
        pickups: &[PickupRecord],
    ) -> Result<bool, EstimateError> {
        if let (Adjuster::PolePiece { pickup, string }, Amount::Turns { turns }) =
            (adjuster, amount)
        {
            return self.pole_turned(pickup, string, *turns, pickups);
        }
        if let (Adjuster::Springs, Amount::Springs { count, converging }) = (adjuster, amount) {
            let before = self.before();
            let was = self.clone();
            let Some(sheet) = &mut self.sheet else {
                return Ok(false);
            };
            sheet.record.springs = *count;
            sheet.record.converging = *converging;
            let rate = self.at.part(Part::Rate);
            let other = Change {
                doubts: vec![(vec![(rate, 1.0)], OTHER_SPRINGS)],
                ..Change::default()
            };
            let change = self.rebalanced(&was, &was.filter.x, other);
            self.filter.change(&change);
            self.moved(&before);
            return Ok(true);
        }
        let Some(change) = self.change(adjuster, amount, pocket, &self.filter.x)? else {
            return Ok(false);
        };
        let change = self.rebalanced(self, &self.filter.x, change);
        let before = self.before();
        self.filter.change(&change);
        match (adjuster, amount) {
            (Adjuster::TrussRod, Amount::Turns { turns }) => {
                self.rod_way = Some(*turns > 0.0);
                let rod = &mut self.filter.x[ROD];
                *rod = rod.clamp(ROD_LOG_LIMITS.0, ROD_LOG_LIMITS.1);
                // No two rods do the same: whatever is predicted, its neck is read again.
                let relief = |place: &Place| matches!(place, Place::Relief { .. });
                let read = self.last.iter_mut().filter(|(place, _)| relief(place));
                read.for_each(|(_, last)| last.fresh = 0);
            }
            (Adjuster::SaddleDrive { string }, Amount::Reversed) => {
                let saddle = self.saddle(self.index(string));
                self.turned_round[saddle] ^= true;
            }
            (Adjuster::NutSlots { strings }, Amount::Distance { distance }) => {
                for string in strings.iter() {
                    let index = self.index(string);
                    self.filed[index] |= distance.middle() < Length::ZERO;
                }
            }
            _ => {}
        }
        self.moved(&before);
        Ok(true)
    }

    /// A move with what it does to a plate: the gap is worked out anew. `was` is the instrument as it was strung and
    /// sprung before.
    pub(super) fn rebalanced(&self, was: &Self, x: &DVector<f64>, mut change: Change) -> Change {
        let Some(sheet) = &self.sheet else {
            return change;
        };
        let mut after = x.clone();
        change.shift(&mut after);
        let (further, on_unknowns, unsure) = std::mem::take(&mut change.claw);
        let first = self.at.crown(0)..self.at.crown(self.count());
        let along = self.at.setback(0)..self.at.setback(self.at.saddles);
        let touches = |at: &usize| first.contains(at) || along.contains(at);
        let same = std::ptr::eq(self, was);
        let moves = sheet.carries && change.added.iter().any(|(at, _)| touches(at));
        if same && further == 0.0 && !moves {
            return change;
        }
        let Some((gap, mut slopes, on_after, per_claw)) = self.gap_slopes(was, x, &after, further)
        else {
            return change;
        };
        slopes += &on_after;
        for &(to, by, slope) in &change.slopes {
            slopes[by] += on_after[to] * slope;
        }
        for (by, slope) in on_unknowns {
            slopes[by] += per_claw * slope;
        }
        let at = self.at.part(Part::Gap);
        for (along, _) in &mut change.doubts {
            let shown = along.iter().map(|&(index, by)| on_after[index] * by).sum();
            along.push((at, shown));
        }
        if unsure > 0.0 {
            change.doubts.push((vec![(at, per_claw)], unsure));
        }
        change.anew = Some((at, gap, slopes));
        change
    }

    /// Carries a move out on the best values alone, a plate held where it lies: how a plan goes on.
    pub(crate) fn shift(&self, x: &mut DVector<f64>, adjuster: Adjuster, amount: &Amount) {
        if let Ok(Some(change)) = self.change(adjuster, amount, Length::from_mm(76.0), x) {
            change.shift(x);
        }
    }

    /// What a place will show after some moves, and how well that is known: `F P F' + Q` along its sight.
    pub(crate) fn expect(&self, moves: &[(Adjuster, Amount)], place: Place) -> Option<(f64, f64)> {
        let mut x = self.filter.x.clone();
        let mut changes = Vec::with_capacity(moves.len());
        for (adjuster, amount) in moves {
            let change = self
                .change(*adjuster, amount, Length::from_mm(76.0), &x)
                .ok()??;
            let change = self.rebalanced(self, &x, change);
            change.shift(&mut x);
            changes.push(change);
        }
        let lie = self.lie_in(&x);
        let sight = self.sight_in(place, &x, &lie).ok()?;
        let mut h = sight.slope;
        let added: f64 = changes
            .iter()
            .rev()
            .map(|change| change.before(&mut h))
            .sum();
        let variance = added + self.filter.variance_along(&h);
        Some((sight.value, variance.sqrt()))
    }

    /// The same as a length.
    pub(crate) fn expect_length(
        &self,
        moves: &[(Adjuster, Amount)],
        place: Place,
    ) -> Option<Estimate<Length>> {
        let (value, sigma) = self.expect(moves, place)?;
        Some(Estimate::new(
            Length::from_mm(value),
            Length::from_mm(sigma),
        ))
    }

    /// A saddle was driven until it went no further: it stands so far before the back end of its way.
    pub(crate) fn drive_stopped(&mut self, string: u8, before_end: Length) {
        let saddle = self.saddle(self.index(string));
        let (at, end) = (self.at.setback(saddle), self.at.end(saddle));
        let before = self.before();
        self.filter.doubt(&[(at, 1.0)], HOW_FAR);
        self.filter.doubt(&[(end, 1.0)], END_UNKNOWN);
        let behind = self.filter.unit(&[(end, 1.0), (at, -1.0)]);
        let off = before_end.mm() - self.filter.x.dot(&behind);
        self.filter.observe(&behind, off, AT_END * AT_END);
        self.moved(&before);
    }

    /// Other strings or another tuning: the neck gives by its share of the change, a plate finds another rest, and
    /// what was known of other strings' right places is forgotten. `changed` says which are other strings.
    pub(crate) fn restring(&mut self, strings: Vec<Pulling>, changed: &[bool]) {
        let before = self.before();
        let was = self.clone();
        let pull = |strings: &[Pulling]| strings.iter().map(|one| one.tension).sum::<f64>();
        let share = pull(&strings) / pull(&self.strings) - 1.0;
        self.strings = strings;
        let bend = self.filter.x[PULL].exp() * share / self.plain.slope();
        let mut change = Change::default();
        for side in [BASS, TREBLE] {
            change.added.push((side, bend));
            change.slopes.push((side, PULL, bend));
        }
        change
            .doubts
            .push((vec![(BASS, 1.0), (TREBLE, 1.0)], bend * SETTLING));
        let change = self.rebalanced(&was, &was.filter.x, change);
        self.filter.change(&change);
        for index in 0..self.count() {
            let bias = self.at.bias(index);
            let doubt = self.strings[index].doubt;
            if changed.get(index).copied().unwrap_or(true) {
                self.filter.reset(bias, 0.0, doubt);
            } else {
                self.filter.doubt(&[(bias, 1.0)], doubt * RETUNED_SHARE);
            }
        }
        self.moved(&before);
    }

    /// The plane of the fret tops came down by so much: nut, crowns and pickups stand higher over it. How evenly, and how the
    /// neck lies after it, nobody knows.
    pub(crate) fn frets_lowered(&mut self, by: Length, doubt: Length) {
        let before = self.before();
        let mut over: Vec<usize> = (0..self.count())
            .flat_map(|index| [self.at.nut(index), self.at.crown(index)])
            .collect();
        for pickup in 0..self.at.pickups {
            over.extend(Side::ALL.map(|side| self.at.face(pickup, side)));
        }
        if self.sheet.is_some() {
            over.push(self.at.part(Part::EdgeUp));
        }
        let mut change = Change {
            added: over.iter().map(|at| (*at, by.mm())).collect(),
            ..Change::default()
        };
        let all = over.iter().map(|at| (*at, 1.0)).collect();
        change.doubts.push((all, doubt.mm()));
        let own = |at: usize| (vec![(at, 1.0)], doubt.mm() * UNEVENLY);
        change.doubts.extend(over.iter().map(|at| own(*at)));
        let bends = vec![(BASS, 1.0), (TREBLE, 1.0)];
        let bend = doubt.mm() / self.plain.slope();
        change.doubts.push((bends, bend));
        self.filter.change(&change);
        self.moved(&before);
    }

    /// The strings are what they were, and are known better.
    pub(crate) fn know_strings(&mut self, strings: Vec<Pulling>) {
        self.strings = strings;
        self.settle();
    }

    /// How everything stood before a move.
    fn before(&self) -> Before {
        let of = |(place, last): (&Place, &LastRead)| {
            (
                *place,
                self.look(last.place, &self.filter.x, &self.lie).mm(),
            )
        };
        Before {
            places: self.last.iter().map(of).collect(),
            heights: (0..self.count())
                .map(|index| self.heights_in(index, &self.filter.x, &self.lie))
                .collect(),
        }
    }

    /// The plate finds its rest; what was read goes with it, and is no longer fresh where it went far. A note whose
    /// heights went elsewhere is known a little less.
    fn moved(&mut self, before: &Before) {
        self.settle();
        for (place, was) in &before.places {
            let Some(method) = self.last.get(place).map(|last| last.place) else {
                continue;
            };
            let by = self.look(method, &self.filter.x, &self.lie).mm() - was;
            if let Some(last) = self.last.get_mut(place) {
                last.drift += Length::from_mm(by);
                if last.drift.abs() > carried(*place) {
                    last.fresh = 0;
                }
            }
        }
        for (index, was) in before.heights.iter().enumerate() {
            let now = self.heights_in(index, &self.filter.x, &self.lie);
            let differs = |a: Length, b: Length| (a - b).abs() > SAME_HEIGHT;
            if differs(was.0, now.0) || differs(was.1, now.1) {
                self.note_lies_otherwise(index, *was, now);
            }
        }
    }

    /// What a change of a string's heights makes of its note is known to a share.
    fn note_lies_otherwise(&mut self, index: usize, was: (Length, Length), now: (Length, Length)) {
        let bias = self.at.bias(index);
        let setback = self.setback_in(&self.filter.x, &self.lie, index);
        let place = Length::from_mm(setback - self.filter.x[bias]);
        let speaking = self.strings[index].speaking;
        let error = |(first, twelfth): (Length, Length)| {
            let laid = speaking.with_heights(Heights::bounded(first, twelfth));
            laid.error(12, place).map(Cents::value)
        };
        if let (Ok(was), Ok(now)) = (error(was), error(now)) {
            let doubt = (now - was) / self.cents_per_mm(index) * NOTE_SHARE;
            self.filter.doubt(&[(bias, 1.0)], doubt);
        }
    }

    /// Whether the saddle of a string stands the other way round than it was found.
    pub(crate) fn is_turned_round(&self, string: u8) -> bool {
        self.turned_round[self.saddle(self.index(string))]
    }

    /// Whether all strings are lifted together.
    pub(crate) fn is_fixed(&self) -> bool {
        self.lifts == Lifts::TwoPosts
    }
}

/// How far a place may go with a move before it is to be read again.
fn carried(place: Place) -> Length {
    let tolerance = match place {
        Place::Relief { .. } => tolerance::RELIEF,
        Place::Nut { .. } => tolerance::NUT,
        Place::Action { .. } => tolerance::ACTION,
        Place::Gap => tolerance::GAP,
        _ => tolerance::PICKUP,
    };
    tolerance * CARRIED
}
