//! What a reading teaches.

use gradimen_core::quantity::{Cents, Estimate, Length};
use gradimen_core::units::print;
use nalgebra::DVector;

use super::layout::{BASS, TREBLE};
use super::{LastRead, Sight, State};
use crate::estimate::priors::BEND_TOGETHER;
use crate::estimate::{CONFIRMED_WIDENING, EstimateError};
use crate::model::{Place, Reading, Reference, Side, Tool};

/// What the hand adds to each of two notes that are compared, in cents (common practice: 0.4 to 1.2 with the finger).
pub(crate) const NOTE_HAND: f64 = 0.3;
/// A neck on which an edge rocks is bent back by about so much, by hold 1 and last, read 8, known no better than this:
/// less is not felt, more is rare (common practice).
const ROCKS: (f64, f64) = (-0.12, 0.06);
/// A string that touches leaves a hair of light.
const BLUR: f64 = 0.015;
/// Fret tops are uneven by this: in every chord over three of them that is not the target's own.
const UNEVEN: f64 = 0.012;
/// A plate comes to rest within this: friction of the edge, strings that catch.
pub(crate) const REST: f64 = 0.06;
/// A pickup's poles are no plane.
const POLES: f64 = 0.05;
/// A spring on its hooks is measured no better than this.
const SPRING: f64 = 0.5;
/// A distance read with a rule along a string; what is left behind a saddle.
const ALONG: f64 = 0.2;
/// A plate this near to the end of its way lies there.
const AT_END: f64 = 0.5;
/// A reading with this much behind it says how well the rest can be believed.
const CHECK_WEIGHT: f64 = 12.0;
/// Curves are followed so far; few take more than three.
const ROUNDS: usize = 12;

/// The kinds of readings whose surprises are counted together.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Sort {
    Blade,
    Height,
    Note,
    Gap,
    Pickup,
}

/// A running check of every kind's surprises: the mean square of what readings were off, in standard deviations, should
/// be one. What proves too sure is widened from there on.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(crate) struct Checks {
    sums: [(f64, f64); 5],
}

impl Checks {
    fn of(place: Place) -> Option<Sort> {
        match place {
            Place::Relief { .. } | Place::Nut { .. } => Some(Sort::Blade),
            Place::Action { .. } => Some(Sort::Height),
            Place::Intonation { .. } => Some(Sort::Note),
            Place::Gap => Some(Sort::Gap),
            Place::Pickup { .. } => Some(Sort::Pickup),
            _ => None,
        }
    }

    /// By how much readings of a place are wider than they were thought to be.
    pub(crate) fn widening(&self, place: Place) -> f64 {
        let Some(sort) = Self::of(place) else {
            return 1.0;
        };
        let (squares, count) = self.sums[sort as usize];
        ((CHECK_WEIGHT + squares) / (CHECK_WEIGHT + count))
            .sqrt()
            .clamp(1.0, 2.5)
    }

    fn count(&mut self, place: Place, deviations: f64) {
        if let Some(sort) = Self::of(place) {
            let sum = &mut self.sums[sort as usize];
            // A slip is questioned, and is no measure of honest readings.
            sum.0 += (deviations * deviations).min(9.0);
            sum.1 += 1.0;
        }
    }
}

/// A comparison of two notes as it was read.
pub(crate) struct Heard {
    pub(crate) cents: f64,
    pub(crate) against: Reference,
    pub(crate) resolution: f64,
    pub(crate) by_ear: bool,
}

/// One standard deviation of one comparison of two notes: hand, tuner and finger. By ear the resolution is that of the interval, and the
/// hand that plucks is in it.
pub(crate) fn noise_of_note(finger: f64, resolution: f64, by_ear: bool) -> f64 {
    if by_ear {
        return (resolution / 12f64.sqrt()).hypot(finger);
    }
    // Each of two notes is within the tuner's step, with the same right anywhere.
    let both = 2f64.sqrt();
    (NOTE_HAND * both)
        .hypot(resolution / 12f64.sqrt() * both)
        .hypot(finger)
}

impl State {
    /// Takes a reading in, if it is one of the state. `own_method` says that relief was read by the target's method:
    /// a converted number is less certain.
    ///
    /// # Errors
    /// [`EstimateError`] for readings that this instrument does not have; the state is then as it was.
    pub(crate) fn observe(
        &mut self,
        place: Place,
        value: &Reading,
        confirmed: bool,
        own_method: bool,
    ) -> Result<bool, EstimateError> {
        let widening = if confirmed { CONFIRMED_WIDENING } else { 1.0 };
        match (place, value) {
            (Place::Relief { side, .. }, Reading::Rocks) => {
                // A neck that rocks is not like others: what was believed of this side goes.
                let bend = if side == Side::Bass { BASS } else { TREBLE };
                let plain = self.plain_slope();
                self.filter
                    .reset(bend, ROCKS.0 / plain, BEND_TOGETHER / plain);
                let (h, value) = self.plain_sight(bend);
                let sigma = ROCKS.1 * widening;
                self.filter.observe(&h, ROCKS.0 - value, sigma * sigma);
                self.remember(place, None, "rocks".to_owned());
            }
            (Place::Relief { .. }, Reading::Touches) => {
                let sight = self.sight(place)?;
                self.filter
                    .observe_below(&sight.slope, sight.value, 0.0, BLUR * widening);
                self.remember(place, None, print::with_unit(Length::ZERO));
            }
            (Place::Gap, Reading::Flat) if self.sheet.is_some() => {
                let sight = self.sight(place)?;
                self.filter
                    .observe_below(&sight.slope, sight.value, 0.0, REST * widening);
                self.remember(place, None, "flat".to_owned());
            }
            (Place::Gap, Reading::Length { length }) if self.at_its_end(length.middle()) => {
                // Pulled up as far as it goes, it is pulled at least so far.
                let sight = self.sight(place)?;
                let end = length.middle().mm() - AT_END;
                self.filter
                    .observe_below(&-&sight.slope, -sight.value, -end, REST * widening);
                self.remember(place, Some(length.clone()), length.written.clone());
            }
            (
                Place::Relief { .. }
                | Place::Nut { .. }
                | Place::Action { .. }
                | Place::Pickup { .. }
                | Place::Gap
                | Place::Spring,
                Reading::Length { length },
            ) => {
                if matches!(place, Place::Gap | Place::Spring) && self.sheet.is_none() {
                    return Ok(false);
                }
                let tool = length.tool.unwrap_or(place.usual_tool());
                let count = self.last(place).map_or(0, |last| last.fresh) + 1;
                let own = length.sigma_again(place.usual_tool(), count).mm()
                    * self.checks.widening(place);
                let more = match place {
                    Place::Relief { side, span } if !own_method => self
                        .relief(side, span.span())?
                        .shape_doubt(length.middle())
                        .mm()
                        .hypot(UNEVEN),
                    Place::Gap => REST,
                    Place::Pickup { .. } => POLES,
                    Place::Spring => SPRING,
                    _ => 0.0,
                };
                let alone = confirmed && self.stand_alone(place, length.middle().mm(), tool)?;
                let sigma = own.hypot(more) * if alone { 1.0 } else { widening };
                self.learn_with(place, length.middle().mm(), sigma, Some(tool))?;
                self.remember(place, Some(length.clone()), length.written.clone());
            }
            (Place::PolePiece { .. }, Reading::Length { length }) => {
                // It says of the pole, which hangs on nothing else: it stands beside the state, and is carried with
                // its string and its pickup.
                self.sight(place)?;
                self.remember(place, Some(length.clone()), length.written.clone());
            }
            (Place::Room { .. }, Reading::Length { length }) => {
                let sigma = ALONG.max(length.half_width().mm()) * widening;
                self.learn(place, length.middle().mm(), sigma);
            }
            _ => return Ok(false),
        }
        self.settle();
        Ok(true)
    }

    /// A first reading that was looked at again and kept is believed: what its neighbours said of the place goes. Says
    /// whether it was one.
    fn stand_alone(&mut self, place: Place, read: f64, tool: Tool) -> Result<bool, EstimateError> {
        let own = match place {
            Place::Relief { side, .. } => Some(if side == Side::Bass { BASS } else { TREBLE }),
            Place::Nut { string, .. } => Some(self.at.nut(self.index(string))),
            Place::Action { string, .. } => Some(self.at.crown(self.index(string))),
            Place::Pickup { pickup, side } => Some(self.at.face(usize::from(pickup), side)),
            _ => None,
        };
        let Some(own) = own.filter(|_| self.last(place).is_none()) else {
            return Ok(false);
        };
        let sight = self.with_lean(self.sight(place)?, Some(tool), &self.filter.x);
        if sight.slope[own] == 0.0 {
            return Ok(false);
        }
        let by = (read - sight.value) / sight.slope[own];
        self.filter.doubt(&[(own, 1.0)], by.abs());
        Ok(true)
    }

    /// Whether a gap was read about where a plate goes no further, and it is believed to be pulled beyond that.
    fn at_its_end(&self, read: Length) -> bool {
        self.sheet.as_ref().is_some_and(|sheet| {
            let end = self.furthest_gap(sheet);
            sheet.has_claw() && read.mm() > end - AT_END
        })
    }

    /// Takes a saddle's place in, from the scale line.
    pub(crate) fn observe_place(&mut self, string: u8, setback: Length, half_width: Length) {
        let sigma = ALONG.max(half_width.mm());
        self.learn(Place::Saddle { string }, setback.mm(), sigma);
        self.settle();
    }

    /// Takes a fretted twelfth in. Says whether it was too far off to be believed as it is.
    ///
    /// # Errors
    /// [`EstimateError`] where the model has no answer.
    pub(crate) fn observe_note(
        &mut self,
        string: u8,
        heard: &Heard,
        confirmed: bool,
    ) -> Result<bool, EstimateError> {
        let &Heard {
            cents,
            against,
            resolution,
            by_ear,
        } = heard;
        let place = Place::Intonation { string, fret: 12 };
        let index = self.index(string);
        let noise = noise_of_note(self.strings[index].finger, resolution, by_ear)
            * self.checks.widening(place);
        let mut expected = self.note_expected(string, against)?;
        // The ear takes the pluck out by itself.
        let pluck = |state: &Self, x: &DVector<f64>| {
            if by_ear { state.plucked(index, x) } else { 0.0 }
        };
        let plucked = pluck(self, &self.filter.x);
        expected.value -= plucked;
        expected.slope[super::layout::PLUCK] -= 2.0 * plucked;
        let spread = self
            .filter
            .variance_along(&expected.slope)
            .sqrt()
            .hypot(noise);
        let deviations = (cents - expected.value) / spread;
        let doubted = confirmed || deviations.abs() > QUESTIONED;
        if !doubted {
            self.checks.count(place, deviations);
        }
        let noise = if doubted {
            noise * CONFIRMED_WIDENING
        } else {
            noise
        };
        // A note is nearly straight: where the first round leads its value is worked out again, and its slopes hold.
        let mut first = Some(expected.value);
        let mut filter = self.filter.clone();
        filter.observe_curve(2, cents, noise * noise, |x| {
            let value = match first.take() {
                Some(value) => value,
                None => self.note_shown(string, against, x)? - pluck(self, x),
            };
            Ok::<_, EstimateError>((value, expected.slope.clone()))
        })?;
        self.filter = filter;
        self.settle();
        Ok(doubted)
    }

    /// What a comparison of two notes is expected to read now.
    pub(crate) fn note_expected(
        &self,
        string: u8,
        against: Reference,
    ) -> Result<Sight, EstimateError> {
        self.note_in(string, against, &self.filter.x, &self.lie)
    }

    /// What a tuner is expected to show of it now, in cents.
    pub fn note_now(&self, string: u8, against: Reference) -> Option<Cents> {
        let shown = self.note_shown(string, against, &self.filter.x).ok()?;
        shown.is_finite().then(|| Cents::new(shown))
    }

    /// The same in a state, without its slopes.
    fn note_shown(
        &self,
        string: u8,
        against: Reference,
        x: &DVector<f64>,
    ) -> Result<f64, EstimateError> {
        let (lie, index) = (self.lie_in(x), self.index(string));
        let excess = self.excess(index, against.computed(), x, &lie);
        Ok(self.note_value(x, &lie, string)? + self.plucked(index, x) - excess)
    }

    fn note_in(
        &self,
        string: u8,
        against: Reference,
        x: &DVector<f64>,
        lie: &super::Lie,
    ) -> Result<Sight, EstimateError> {
        let index = self.index(string);
        let mut sight = self.sight_in(Place::Intonation { string, fret: 12 }, x, lie)?;
        let plucked = self.plucked(index, x);
        sight.value += plucked - self.excess(index, against.computed(), x, lie);
        sight.slope[super::layout::PLUCK] += 2.0 * plucked;
        Ok(sight)
    }

    /// Learns from a length, as good as told.
    pub(super) fn learn(&mut self, place: Place, read: f64, sigma: f64) {
        // A place that this instrument does not have teaches nothing.
        let _ = self.learn_with(place, read, sigma, None);
    }

    fn learn_with(
        &mut self,
        place: Place,
        read: f64,
        sigma: f64,
        tool: Option<Tool>,
    ) -> Result<(), EstimateError> {
        let first = self.with_lean(self.sight(place)?, tool, &self.filter.x);
        let spread = self.filter.variance_along(&first.slope).sqrt().hypot(sigma);
        if tool.is_some() {
            self.checks.count(place, (read - first.value) / spread);
        }
        if self.sheet.is_none() {
            self.filter
                .observe(&first.slope, read - first.value, sigma * sigma);
            return Ok(());
        }
        let mut filter = self.filter.clone();
        filter.observe_curve(ROUNDS, read, sigma * sigma, |x| {
            let lie = self.lie_in(x);
            let sight = self.with_lean(self.sight_in(place, x, &lie)?, tool, x);
            Ok::<_, EstimateError>((sight.value, sight.slope))
        })?;
        self.filter = filter;
        Ok(())
    }

    /// What a tool that leans shows of a place.
    fn with_lean(&self, mut sight: Sight, tool: Option<Tool>, x: &DVector<f64>) -> Sight {
        if let Some(tool) = tool {
            let before = sight.slope.clone();
            Self::add_lean(&mut sight.slope, tool);
            sight.value += (&sight.slope - before).dot(x);
        }
        sight
    }

    /// What a tool is expected to read at a place, with what it may lean by and how a plate rests.
    pub(crate) fn expected_reading(&self, place: Place, tool: Tool) -> Option<Estimate<Length>> {
        let sight = self.with_lean(self.sight(place).ok()?, Some(tool), &self.filter.x);
        let rest = if place == Place::Gap { REST } else { 0.0 };
        let sigma = self.filter.variance_along(&sight.slope).sqrt().hypot(rest);
        let value = match &self.sheet {
            // Whatever pulls, a plate is found somewhere on its way.
            Some(sheet) if place == Place::Gap && sheet.has_claw() => {
                let end = self.furthest_gap(sheet);
                sight.value.min(end).max(0.0)
            }
            _ => sight.value,
        };
        Some(Estimate::new(
            Length::from_mm(value),
            Length::from_mm(sigma),
        ))
    }

    /// Solves the plate anew.
    pub(super) fn settle(&mut self) {
        self.lie = self.lie_in(&self.filter.x);
    }

    fn remember(
        &mut self,
        place: Place,
        value: Option<crate::model::Measurement>,
        written: String,
    ) {
        self.told = true;
        let method = place;
        let place = place.any_method();
        let fresh = self.last.get(&place).map_or(0, |last| last.fresh) + 1;
        self.last.insert(
            place,
            LastRead {
                written,
                value,
                fresh,
                drift: Length::ZERO,
                place: method,
            },
        );
    }
}

/// A reading further off than so many standard deviations is questioned, and weighs less.
pub(crate) const QUESTIONED: f64 = 4.0;
