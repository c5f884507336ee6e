//! What happens to neck, nut and heights, and what the filter makes of it.

use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{BASS, EstimateError, Geometry, LastRead, LinearView, Snapshot, TREBLE};
use crate::estimate::CONFIRMED_WIDENING;
use crate::model::defaults::tolerance;
use crate::model::hardware::PickupRecord;
use crate::model::{Adjuster, Amount, HeightsGiven, Measurement, Place, Reading, ReliefSpan, Side};

/// Heights that are only assumed: over fret 1 and over fret 12.
const ASSUMED_MM: (f64, f64) = (0.12, 0.4);
/// Heights from intake, measured on the outer strings.
const GIVEN_MM: (f64, f64) = (0.05, 0.1);
/// A string that touches may still have a hair of light under it.
const TOUCH_SIGMA_MM: f64 = 0.02;
/// A neck on which an edge rocks is bent backward, by hold 1 and last, read 8, by about so much ...
const ROCKS_MM: f64 = -0.12;
/// ... known no better than this: less is not felt, more is rare (common practice).
const ROCKS_SIGMA_MM: f64 = 0.06;
/// How well the rise of a plate is predicted, as a share.
const PLATE_SHARE: f64 = 0.25;
/// How much less a pickup on springs or foam moves than its screw says, as a share.
const PICKUP_GIVE: f64 = 0.1;
/// Filing by eye: a share of what was meant, and a hair.
const FILING: (f64, f64) = (0.25, 0.01);

impl Geometry {
    /// Takes the action as it came in: the first thing that is known.
    pub(crate) fn as_it_came(&mut self, given: &HeightsGiven) {
        self.given(given);
        self.snapshot(true);
    }

    /// Takes a reading in, if it is one of neck, nut, heights or pickups. `converted` says that relief was
    /// read by another method than the target's: necks are no parabolas, and a converted number is less
    /// certain.
    ///
    /// # Errors
    /// [`EstimateError`] for readings that this instrument does not have; the estimate is then as it was.
    pub(crate) fn read(
        &mut self,
        place: Place,
        value: &Reading,
        confirmed: bool,
        converted: bool,
    ) -> Result<bool, EstimateError> {
        let before = self.filter.x.clone();
        let mut learned = true;
        match (place, value) {
            (Place::Relief { side, span }, value) => {
                self.read_relief(side, span, value, converted, confirmed)?;
            }
            (Place::Nut { string, held }, Reading::Length { length }) => {
                let view = self.action_sight(string, held, 1)?;
                self.observe_length(place, view, length, confirmed);
            }
            (Place::Action { string, fret, held }, Reading::Length { length }) => {
                let view = self.action_sight(string, held, fret)?;
                self.observe_length(place, view, length, confirmed);
            }
            (Place::Pickup { pickup, side }, Reading::Length { length }) => {
                let view = self.pickup_sight(pickup, side)?;
                self.observe_length(place, view, length, confirmed);
            }
            (Place::PolePiece { pickup, string }, Reading::Length { length }) => {
                // It says of the pole, which hangs on nothing else: it stands beside the filter, and is
                // carried with its string and its pickup.
                let view = self.pole_sight(pickup, string)?;
                self.remember(place, view, Some(length.clone()), length.written.clone());
                learned = false;
            }
            _ => return Ok(false),
        }
        if !learned {
            self.drift(&before);
        }
        self.snapshot(learned);
        Ok(true)
    }

    /// Takes a move in, if it is one of neck, nut, heights or pickups.
    ///
    /// # Errors
    /// [`EstimateError`] for adjusters that this instrument does not have.
    pub(crate) fn adjusted(
        &mut self,
        adjuster: Adjuster,
        amount: &Amount,
        pocket: Length,
        pickups: &[PickupRecord],
    ) -> Result<bool, EstimateError> {
        let before = self.filter.x.clone();
        match (adjuster, amount) {
            (Adjuster::TrussRod, Amount::Turns { turns }) => self.turn_rod(*turns),
            (Adjuster::NutSlots { strings }, Amount::Distance { distance }) => {
                let by = distance.middle();
                for string in strings.iter() {
                    let index = self.at(string);
                    let at = Self::nut(index);
                    self.filed[index] |= by < Length::ZERO;
                    self.filter.x[at] += by.mm();
                    let sigma = (by.mm() * FILING.0).hypot(FILING.1);
                    self.filter.p[(at, at)] += sigma * sigma;
                }
            }
            (Adjuster::SaddleHeight { string }, Amount::Turns { turns }) => {
                self.turn_saddle(string, *turns);
            }
            (Adjuster::Post { side }, Amount::Turns { turns }) => self.turn_post(side, *turns),
            (Adjuster::Pocket { shim }, Amount::Distance { distance }) => {
                self.shimmed(shim, distance.middle(), pocket);
            }
            (Adjuster::PickupScrew { pickup, side }, Amount::Turns { turns }) => {
                self.pickup_sight(pickup, side)?;
                let pitch = self.pickup_pitch(pickup).unwrap_or(Length::ZERO);
                let at = self.face(usize::from(pickup), side);
                let moved = pitch.mm() * turns;
                self.filter.x[at] += moved;
                self.filter.p[(at, at)] += (moved * PICKUP_GIVE).powi(2);
            }
            (Adjuster::PolePiece { pickup, string }, Amount::Turns { turns }) => {
                self.pole_sight(pickup, string)?;
                let record = pickups.get(usize::from(pickup));
                let pitch = record.and_then(|record| record.pole_pitch.as_ref());
                let up = pitch.map_or(Length::ZERO, Measurement::middle) * *turns;
                if let Some(last) = self.last.get_mut(&Place::PolePiece { pickup, string }) {
                    last.drift -= up;
                }
            }
            _ => return Ok(false),
        }
        self.drift(&before);
        self.snapshot(false);
        Ok(true)
    }

    /// The plate of a vibrato turned: all break points rose by so much.
    pub(crate) fn plate_turned(&mut self, up: Length) {
        let before = self.filter.x.clone();
        let rise = up.mm();
        let first = self.saddle(0);
        let count = self.count();
        for a in first..first + count {
            self.filter.x[a] += rise;
            for b in first..first + count {
                // All rise together, within a quarter.
                self.filter.p[(a, b)] += (rise * PLATE_SHARE).powi(2);
            }
        }
        self.drift(&before);
        self.snapshot(false);
    }

    /// The strings pull otherwise from here on, by a share of their tension before.
    pub(crate) fn tension_changed(&mut self, change: f64) {
        let before = self.filter.x.clone();
        self.pulled(change);
        self.drift(&before);
        self.snapshot(false);
    }

    fn given(&mut self, given: &HeightsGiven) {
        let (first_sigma, twelfth_sigma) = if given.measured { GIVEN_MM } else { ASSUMED_MM };
        for index in 0..self.count() {
            let bass = self.share(index);
            let between = |treble: &Measurement, last: &Measurement| {
                (treble.middle() * (1.0 - bass) + last.middle() * bass).mm()
            };
            // What lies between two measured strings follows the board only roughly.
            let wider = 1.0 + 2.0 * bass * (1.0 - bass);
            for (sight, read, sigma) in [
                (
                    self.first[index].clone(),
                    between(&given.first_fret_treble, &given.first_fret_bass),
                    first_sigma,
                ),
                (
                    self.middle[index].clone(),
                    between(&given.twelfth_treble, &given.twelfth_bass),
                    twelfth_sigma,
                ),
            ] {
                self.observe(&sight, read, sigma * wider);
            }
        }
    }

    fn observe(&mut self, sight: &LinearView, read_mm: f64, sigma_mm: f64) {
        let innovation = read_mm - self.look(sight, &self.filter.x).mm();
        self.filter
            .observe(&sight.slope, innovation, sigma_mm * sigma_mm);
    }

    fn read_relief(
        &mut self,
        side: Side,
        span: ReliefSpan,
        seen: &Reading,
        converted: bool,
        confirmed: bool,
    ) -> Result<(), EstimateError> {
        let place = Place::Relief { side, span };
        let relief = self.relief(side, span.span())?;
        let view = self.relief_sight(side, span.span())?;
        let (value, sigma, written) = seen_relief(place, seen);
        let shape = if converted {
            relief.shape_doubt(Length::from_mm(value)).mm()
        } else {
            0.0
        };
        let widening = if confirmed { CONFIRMED_WIDENING } else { 1.0 };
        if matches!(seen, Reading::Rocks) {
            // A neck that rocks is not like others: what was believed of this side goes.
            let bend = if side == Side::Bass { BASS } else { TREBLE };
            let (value, sigma) = (
                ROCKS_MM / self.plain_slope,
                ROCKS_SIGMA_MM / self.plain_slope,
            );
            self.filter.reset(bend, value, sigma);
        } else {
            self.observe(&view, value, sigma.hypot(shape) * widening);
        }
        self.remember(place, view, seen.length().cloned(), written);
        Ok(())
    }

    fn observe_length(
        &mut self,
        place: Place,
        view: LinearView,
        length: &Measurement,
        confirmed: bool,
    ) {
        let widening = if confirmed { CONFIRMED_WIDENING } else { 1.0 };
        let sigma = length.sigma(place.usual_tool()).mm() * widening;
        self.observe(&view, length.middle().mm(), sigma);
        self.remember(place, view, Some(length.clone()), length.written.clone());
    }

    fn remember(
        &mut self,
        place: Place,
        sight: LinearView,
        value: Option<Measurement>,
        written: String,
    ) {
        let place = place.any_method();
        self.told = true;
        let fresh = self.last.get(&place).map_or(0, |last| last.fresh) + 1;
        let last = LastRead {
            written,
            value,
            fresh,
            drift: Length::ZERO,
            sight,
        };
        self.last.insert(place, last);
    }

    /// What every last reading would be now, after a move: further off than can be carried, it has
    /// to be read again.
    fn drift(&mut self, before: &nalgebra::DVector<f64>) {
        let change = &self.filter.x - before;
        let plain = self.plain_slope;
        for (place, last) in &mut self.last {
            last.drift += Length::from_mm(last.sight.slope.dot(&change));
            let allowed = match place {
                Place::Relief { .. } => tolerance::RELIEF * (last.sight.slope.norm() / plain),
                Place::Nut { .. } => tolerance::NUT,
                Place::Action { .. } => tolerance::ACTION,
                _ => tolerance::PICKUP,
            };
            if last.drift.abs() > allowed {
                last.fresh = 0;
            }
        }
    }

    fn snapshot(&mut self, learned: bool) {
        let heights = self
            .first
            .iter()
            .zip(&self.middle)
            .map(|(first, twelfth)| {
                (
                    self.look(first, &self.filter.x),
                    self.look(twelfth, &self.filter.x),
                )
            })
            .collect();
        let pickups = self.faces.iter().map(|both| {
            let [treble, bass] = [&both[0], &both[1]].map(|face| self.look(face, &self.filter.x));
            (treble + bass) * 0.5
        });
        let pickups = pickups.collect();
        self.snapshots.push(Snapshot {
            learned,
            heights,
            pickups,
        });
    }
}

/// What was seen as a number, how well, and as it was typed.
pub(crate) fn seen_relief(place: Place, seen: &Reading) -> (f64, f64, String) {
    match seen {
        Reading::Length { length } => (
            length.middle().mm(),
            length.sigma(place.usual_tool()).mm(),
            length.written.clone(),
        ),
        Reading::Rocks => (ROCKS_MM, ROCKS_SIGMA_MM, "rocks".to_owned()),
        _ => (0.0, TOUCH_SIGMA_MM, print::mm(Length::ZERO)),
    }
}
