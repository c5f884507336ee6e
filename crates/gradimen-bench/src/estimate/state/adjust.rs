//! What a move does to the state.

use gradimen_core::intonation::Heights;
use gradimen_core::quantity::{Cents, Estimate, Length};
use nalgebra::DVector;

use super::layout::{
    BASS, DRIVES, LIFTS, MIDDLE, PULL, Part, ROD, ROD_MIDDLE, SHARE, SKEW, TREBLE,
};
use super::{BARREL_BEYOND, LastRead, Pulling, State};
use crate::estimate::EstimateError;
use crate::estimate::filter::Change;
use crate::model::defaults::tolerance;
use crate::model::hardware::{Lifts, PickupRecord};
use crate::model::{Adjuster, Amount, Measurement, Place, Shim, Side};

/// A rod that goes on the way it went: within so many turns. One that turns back is lost in its play for a while, and
/// one whose way nobody knows for half of that (common practice: a sixteenth is near the play of many rods).
const ROD_ON: f64 = 0.008;
const ROD_BACK: (f64, f64) = (0.06, 0.03);
const ROD_FIRST: (f64, f64) = (0.03, 0.03);
/// A neck settles for hours by a share of what it was bent.
const SETTLING: f64 = 0.05;
/// However odd the readings, a rod that is tightened straightens both sides (from memory).
const SKEW_MOST: f64 = 0.6;
/// Response of a rod, kept within what necks do.
const ROD_LOG_LIMITS: (f64, f64) = (-3.0, 1.2);
/// Play of a screw, and what every turn adds, in millimetres.
const LIFT_PLAY: (f64, f64) = (0.010, 0.010);
const DRIVE_PLAY: (f64, f64) = (0.020, 0.010);
const FACE_PLAY: (f64, f64) = (0.03, 0.03);
const CLAW_PLAY: (f64, f64) = (0.02, 0.02);
/// Filing by eye: a share of what was meant, and a hair.
const FILING: (f64, f64) = (0.25, 0.01);
/// A saddle cut or shimmed by hand: a share of what was meant, and what a file does not tell (from memory).
const CUTTING: (f64, f64) = (0.1, 0.03);
/// Levelling takes more here than there, by this share of its doubt (from memory).
const UNEVENLY: f64 = 0.4;
/// A shim settles in its pocket: share of its effect.
const SHIM_SHARE: f64 = 0.15;
/// Turning a saddle round gains what its profile says within this; a bridge is moved, a saddle slid along a rule.
const TURN_ROUND: f64 = 0.3;
const BY_RULE: f64 = 0.2;
/// The end of a bar that is not moved stays within this (from memory).
const BAR_HELD: f64 = 0.1;
/// Where a saddle stopped its way ends, whatever profile or rule said of that; how far it went until then was told with
/// the turns, or is unknown by so much (from memory).
const END_UNKNOWN: f64 = 5.0;
const HOW_FAR: f64 = 1.0;
const AT_END: f64 = 0.3;
/// How high the strings pull over the neutral axis of the neck: what raises them bends it by its share of that.
const PULL_ARM: f64 = 16.0;
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

fn play((once, each): (f64, f64), turns: f64) -> f64 {
    once + each * turns.abs()
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

    /// Which strings a height screw lifts, and by what share.
    pub(crate) fn lifted_by(&self, string: u8) -> Vec<(usize, f64)> {
        let on = self.barrel(string);
        let share = self.filter.x[SHARE];
        on.into_iter()
            .map(|(index, own, by)| (index, own + by * share))
            .collect()
    }

    /// What a move does in a state; nothing for what is none of it.
    ///
    /// # Errors
    /// [`EstimateError`] for adjusters that this instrument does not have.
    pub(crate) fn change(
        &self,
        adjuster: Adjuster,
        amount: &Amount,
        pocket: Length,
        x: &DVector<f64>,
    ) -> Result<Option<Change>, EstimateError> {
        Ok(Some(match (adjuster, amount) {
            (Adjuster::TrussRod, Amount::Turns { turns }) => self.rod_turned(x, *turns),
            (Adjuster::NutSlots { strings }, Amount::Distance { distance }) => {
                let by = distance.middle().mm();
                let mut change = Change::default();
                for string in strings.iter() {
                    let at = self.at.nut(self.index(string));
                    change.added.push((at, by));
                    change
                        .doubts
                        .push((vec![(at, 1.0)], (by * FILING.0).hypot(FILING.1)));
                }
                change
            }
            (Adjuster::SaddleHeight { string }, Amount::Turns { turns }) => {
                let screw = (self.index(string), self.height_pitch);
                self.lift(x, screw, &self.barrel(string), *turns)
            }
            (Adjuster::SaddleHeight { string }, Amount::Distance { distance }) => {
                self.saddle_cut(string, distance.middle().mm())
            }
            (Adjuster::Post { side }, Amount::Turns { turns }) => self.post_turned(x, side, *turns),
            (Adjuster::SaddleDrive { string }, amount) => {
                let saddle = self.saddle(self.index(string));
                return Ok(self.driven(x, saddle, amount));
            }
            (Adjuster::Bar, Amount::Ends { treble, bass }) => {
                self.bar_moved(treble.middle().mm(), bass.middle().mm())
            }
            (Adjuster::Bridge, Amount::Distance { distance }) => {
                let mut change = Change::default();
                let mut along = Vec::new();
                // All go together: the way left behind is not touched, nor the strings' arms about the edge of a plate.
                let saddles = 0..self.at.saddles;
                let ends = saddles.flat_map(|on| [self.at.setback(on), self.at.end(on)]);
                let edge = self.sheet.as_ref().map(|_| self.at.part(Part::EdgeBack));
                for at in ends.chain(edge) {
                    change.added.push((at, distance.middle().mm()));
                    along.push((at, 1.0));
                }
                change.doubts.push((along, BY_RULE));
                change
            }
            (Adjuster::Claw, Amount::Turns { turns } | Amount::Apart { turns, .. })
                if self.sheet.is_some() =>
            {
                self.claw_turned(x, *turns)
            }
            (Adjuster::Seat, Amount::Distance { distance }) if self.sheet.is_some() => Change {
                claw: (distance.middle().mm(), Vec::new(), CLAW_PLAY.0),
                ..Change::default()
            },
            (Adjuster::Pocket { shim }, Amount::Distance { distance }) => {
                self.shimmed(shim, distance.middle(), pocket)
            }
            (Adjuster::PickupScrew { pickup, side }, Amount::Turns { turns }) => {
                return self.face_moved(x, pickup, side, *turns).map(Some);
            }
            _ => return Ok(None),
        }))
    }

    fn rod_turned(&self, x: &DVector<f64>, turns: f64) -> Change {
        let (lost, wide) = match self.rod_way {
            Some(way) if way == (turns > 0.0) => (0.0, ROD_ON),
            Some(_) => ROD_BACK,
            None => ROD_FIRST,
        };
        let lost = lost.min(turns.abs() * 0.5);
        let real = turns - lost * turns.signum();
        let per_turn = x[ROD].exp() / self.plain.slope();
        let mut change = Change::default();
        let mut along = Vec::new();
        for (side, sign) in [(TREBLE, 1.0), (BASS, -1.0)] {
            let own = 1.0 + sign * x[SKEW].clamp(-SKEW_MOST, SKEW_MOST);
            let moved = -per_turn * real * own;
            change.added.push((side, moved));
            change.slopes.push((side, ROD, moved));
            change.slopes.push((side, SKEW, -per_turn * real * sign));
            along.push((side, per_turn * own));
        }
        let middle = -per_turn * real;
        change.added.push((MIDDLE, middle * x[ROD_MIDDLE]));
        change.slopes.push((MIDDLE, ROD, middle * x[ROD_MIDDLE]));
        change.slopes.push((MIDDLE, ROD_MIDDLE, middle));
        along.push((MIDDLE, per_turn * x[ROD_MIDDLE]));
        change.doubts.push((along, wide.hypot(real * SETTLING)));
        change
    }

    /// Which strings a saddle's screw lifts, and by what share: its own, and the neighbour on the same barrel.
    fn barrel(&self, string: u8) -> Vec<(usize, f64, f64)> {
        let index = self.index(string);
        let on = &self.saddles[self.saddle(index)];
        let [first, second] = on[..] else {
            return vec![(index, 1.0, 0.0)];
        };
        let y = |at: usize| self.tops[at].offset_at_bridge();
        let half = (y(first) - y(second)).abs() * 0.5;
        let near = (1.0 + half.ratio(half + BARREL_BEYOND)) / 2.0;
        let other = if index == first { second } else { first };
        vec![(index, near, 1.0), (other, 1.0 - near, -1.0)]
    }

    /// Lifts strings by shares of one screw; each share may hang on what parts on two screws share.
    fn lift(
        &self,
        x: &DVector<f64>,
        (screw, pitch): (usize, f64),
        on: &[(usize, f64, f64)],
        turns: f64,
    ) -> Change {
        let nominal = pitch * turns;
        let own = self.at.lift(screw.min(self.at.screws - 1));
        let factor = 1.0 + x[LIFTS] + x[own];
        let mut change = Change::default();
        let mut along = Vec::new();
        let mut lifted = 0.0;
        for &(index, share, by_share) in on {
            let share = share + by_share * x[SHARE];
            let at = self.at.crown(index);
            change.added.push((at, nominal * factor * share));
            change.slopes.push((at, LIFTS, nominal * share));
            change.slopes.push((at, own, nominal * share));
            if by_share != 0.0 {
                change.slopes.push((at, SHARE, nominal * factor * by_share));
            }
            along.push((at, share));
            lifted += nominal * factor * share / self.count() as f64;
        }
        change.doubts.push((along, play(LIFT_PLAY, turns)));
        // Strings that pull higher over the neck bend it more: by half, for they lie where they did at the nut.
        let per_mm = x[PULL].exp() / PULL_ARM / 2.0 / self.plain.slope();
        let turned = on.iter().map(|(_, _, by)| by).sum::<f64>() / self.count() as f64;
        for side in [BASS, TREBLE] {
            change.added.push((side, per_mm * lifted));
            change.slopes.push((side, PULL, per_mm * lifted));
            for thread in [LIFTS, own] {
                change.slopes.push((side, thread, per_mm * lifted / factor));
            }
            change
                .slopes
                .push((side, SHARE, per_mm * nominal * factor * turned));
        }
        change
    }

    /// A saddle was shimmed or cut: all strings on it go with it.
    fn saddle_cut(&self, string: u8, by: f64) -> Change {
        let mut change = Change::default();
        for &index in &self.saddles[self.saddle(self.index(string))] {
            let at = self.at.crown(index);
            change.added.push((at, by));
            let doubt = (by * CUTTING.0).hypot(CUTTING.1);
            change.doubts.push((vec![(at, 1.0)], doubt));
        }
        change
    }

    fn post_turned(&self, x: &DVector<f64>, side: Side, turns: f64) -> Change {
        let half = self.post;
        let sign = match side {
            Side::Treble => 1.0,
            Side::Bass => -1.0,
        };
        let on: Vec<(usize, f64, f64)> = (0..self.count())
            .map(|index| {
                let out = self.tops[index].offset_at_bridge().ratio(half * 2.0);
                (index, 0.5 + sign * out, 2.0 * sign * out)
            })
            .collect();
        let post = self.post_at(side);
        let mut change = self.lift(x, (post, self.post_pitch), &on, turns);
        if let Some(sheet) = &self.sheet
            && sheet.carries
        {
            // A post under a plate lifts its edge with it: the arms stay what they are, and the tail rises as the edge does.
            let nominal = self.post_pitch * turns / 2.0;
            let own = self.at.lift(post.min(self.at.screws - 1));
            let factor = 1.0 + x[LIFTS] + x[own];
            for part in [Part::EdgeUp, Part::Level] {
                let at = self.at.part(part);
                change.added.push((at, nominal * factor));
                change.slopes.push((at, LIFTS, nominal));
                change.slopes.push((at, own, nominal));
            }
        }
        change
    }

    fn driven(&self, x: &DVector<f64>, saddle: usize, amount: &Amount) -> Option<Change> {
        let at = self.at.setback(saddle);
        let own = self.at.drive(saddle);
        Some(match amount {
            Amount::Turns { turns } => {
                let nominal = self.drive_pitch * turns;
                Change {
                    added: vec![(at, nominal * (1.0 + x[DRIVES] + x[own]))],
                    slopes: vec![(at, DRIVES, nominal), (at, own, nominal)],
                    doubts: vec![(vec![(at, 1.0)], play(DRIVE_PLAY, *turns))],
                    ..Change::default()
                }
            }
            Amount::Distance { distance } => Change {
                added: vec![(at, distance.middle().mm())],
                doubts: vec![(vec![(at, 1.0)], BY_RULE)],
                ..Change::default()
            },
            Amount::Reversed => {
                let end = self.at.end(saddle);
                Change {
                    added: vec![(at, self.turn_round), (end, self.turn_round)],
                    doubts: vec![
                        (vec![(at, 1.0)], TURN_ROUND),
                        (vec![(end, 1.0)], TURN_ROUND),
                    ],
                    ..Change::default()
                }
            }
            Amount::Apart { .. } | Amount::Ends { .. } | Amount::Springs { .. } => return None,
        })
    }

    /// A bar went so far under its outer strings: every saddle goes by its share of both.
    fn bar_moved(&self, treble: f64, bass: f64) -> Change {
        let mut change = Change::default();
        let mut along = [Vec::new(), Vec::new()];
        for (saddle, on) in self.saddles.iter().enumerate() {
            let at = self.at.setback(saddle);
            let shares = on.iter().map(|&index| self.share(index));
            let y = shares.sum::<f64>() / on.len().max(1) as f64;
            change.added.push((at, treble * (1.0 - y) + bass * y));
            along[0].push((at, 1.0 - y));
            along[1].push((at, y));
        }
        for (along, by) in along.into_iter().zip([treble, bass]) {
            // The end that stays is held, as far as a hand can.
            let doubt = if by == 0.0 { BAR_HELD } else { BY_RULE };
            change.doubts.push((along, doubt));
        }
        change
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

    fn claw_turned(&self, x: &DVector<f64>, turns: f64) -> Change {
        let pitch = self
            .sheet
            .as_ref()
            .map_or(1.0, |sheet| sheet.record.claw_pitch.middle().mm());
        let factor = self.at.part(Part::ClawTurn);
        Change {
            claw: (
                pitch * turns * (1.0 + x[factor]),
                vec![(factor, pitch * turns)],
                play(CLAW_PLAY, turns),
            ),
            ..Change::default()
        }
    }

    fn shimmed(&self, shim: Shim, thickness: Length, pocket: Length) -> Change {
        let mut change = Change::default();
        for index in 0..self.count() {
            let sunk = match shim {
                Shim::Full => thickness.mm(),
                Shim::Wedge => {
                    let beyond = self.lengths[index] - self.tops[index].joint();
                    thickness.ratio(pocket) * beyond.mm()
                }
            };
            let at = self.at.crown(index);
            change.added.push((at, -sunk));
            change.doubts.push((vec![(at, 1.0)], sunk * SHIM_SHARE));
        }
        change
    }

    fn face_moved(
        &self,
        x: &DVector<f64>,
        pickup: u8,
        side: Side,
        turns: f64,
    ) -> Result<Change, EstimateError> {
        let index = usize::from(pickup);
        let pitch = self
            .pickup_pitch(pickup)
            .ok_or(EstimateError::Pickup(pickup + 1, self.pickups.len()))?;
        let nominal = pitch.mm() * turns;
        let screw = self.at.face_screw(index);
        let factor = 1.0 + x[screw];
        let mut change = Change::default();
        let mut along = Vec::new();
        for here in Side::ALL {
            let (share, sign) = if here == side {
                (self.pickup_share, 1.0)
            } else {
                (1.0 - self.pickup_share, -1.0)
            };
            let share = share + sign * x[SHARE];
            let at = self.at.face(index, here);
            change.added.push((at, nominal * factor * share));
            change.slopes.push((at, screw, nominal * share));
            change.slopes.push((at, SHARE, nominal * factor * sign));
            along.push((at, share));
        }
        change.doubts.push((along, play(FACE_PLAY, turns)));
        Ok(change)
    }

    /// How much of a pickup's screw reaches its own side.
    pub(crate) fn own_end_of_pickup(&self) -> f64 {
        self.pickup_share + self.filter.x[SHARE]
    }

    /// How much nearer some moves bring a side of a pickup.
    pub(crate) fn faces_move(
        &self,
        moves: &[(Adjuster, Amount)],
        pickup: u8,
        side: Side,
    ) -> Length {
        let mut x = self.filter.x.clone();
        for (adjuster, amount) in moves {
            self.shift(&mut x, *adjuster, amount);
        }
        let face = self.at.face(usize::from(pickup), side);
        Length::from_mm(x[face] - self.filter.x[face])
    }

    fn pole_turned(
        &mut self,
        pickup: u8,
        string: u8,
        turns: f64,
        pickups: &[PickupRecord],
    ) -> Result<bool, EstimateError> {
        let place = Place::PolePiece { pickup, string };
        self.sight(place)?;
        let record = pickups.get(usize::from(pickup));
        let pitch = record.and_then(|record| record.pole_pitch.as_ref());
        let up = pitch.map_or(Length::ZERO, Measurement::middle) * turns;
        if let Some(last) = self.last.get_mut(&place) {
            last.drift -= up;
            last.fresh = 0;
        }
        Ok(true)
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
