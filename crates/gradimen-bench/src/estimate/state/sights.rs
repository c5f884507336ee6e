//! What each kind of reading sees of the state: its value, and its slope on every unknown.

use gradimen_core::action::{Levers, levers, levers_behind};
use gradimen_core::intonation::{Heights, Reference, Speaking, first_order_move};
use gradimen_core::neck::Span;
use gradimen_core::quantity::{Cents, Curvature, Estimate, Length};
use nalgebra::DVector;

use super::layout::{BASS, BLADE, MIDDLE, PLUCK, Part, RULE, TREBLE};
use super::{Lie, State};
use crate::estimate::EstimateError;
use crate::model::{Place, Side, Tool};

/// What a place shows in a state, in millimetres or cents, and how that hangs on the state.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Sight {
    pub(crate) value: f64,
    pub(crate) slope: DVector<f64>,
}

/// Heights that differ by this change a note by what the slope is worked out from.
const HEIGHT_STEP: Length = Length::from_mm(0.05);

impl State {
    /// What a place shows in a state.
    ///
    /// # Errors
    /// [`EstimateError`] for places that this instrument does not have, or that are none of its state.
    pub(crate) fn sight_in(
        &self,
        place: Place,
        x: &DVector<f64>,
        lie: &Lie,
    ) -> Result<Sight, EstimateError> {
        let mut h = DVector::zeros(x.len());
        let value = match place {
            Place::Relief { side, span } => self.relief_sight(&mut h, x, side, span.span())?,
            Place::Nut { string, held } => {
                // A string that is held at 3 is pulled down on fret 2 as well: it comes straight from there.
                let held = if held == 3 { 2 } else { held };
                let found = self.levers(string, held, 1)?;
                self.height_sight(&mut h, x, lie, self.index(string), &found)
            }
            Place::Action { string, fret, held } => {
                let found = self.levers(string, held, fret)?;
                self.height_sight(&mut h, x, lie, self.index(string), &found)
            }
            Place::Pickup { pickup, side } => {
                let string = self.string_of(side);
                let over = self.over_pickup(&mut h, x, lie, pickup, string)?;
                let face = self.at.face(usize::from(pickup), side);
                h[face] -= 1.0;
                over - x[face]
            }
            Place::PolePiece { pickup, string } => {
                let over = self.over_pickup(&mut h, x, lie, pickup, string)?;
                let bass = self.share(self.index(string));
                let [treble, last] = Side::ALL.map(|side| self.at.face(usize::from(pickup), side));
                h[treble] -= 1.0 - bass;
                h[last] -= bass;
                over - x[treble] * (1.0 - bass) - x[last] * bass
            }
            Place::Gap if self.sheet.is_some() => {
                let gap = self.at.part(Part::Gap);
                h[gap] += 1.0;
                x[gap]
            }
            Place::Spring if self.sheet.is_some() => {
                let (value, slope) = self.spring_in(x);
                h = slope;
                value
            }
            Place::Saddle { string } => {
                let index = self.index(string);
                self.add_setback(&mut h, x, lie, index, 1.0);
                self.setback_in(x, lie, index)
            }
            Place::Room { string } => {
                let saddle = self.saddle(self.index(string));
                let (end, place) = (self.at.end(saddle), self.at.setback(saddle));
                h[end] += 1.0;
                h[place] -= 1.0;
                x[end] - x[place]
            }
            Place::Intonation { string, fret: 12 } => self.note_sight(&mut h, x, lie, string)?,
            other => return Err(EstimateError::NotSeen(other)),
        };
        Ok(Sight { value, slope: h })
    }

    /// What a place shows now.
    ///
    /// # Errors
    /// As [`Self::sight_in`].
    pub(crate) fn sight(&self, place: Place) -> Result<Sight, EstimateError> {
        self.sight_in(place, &self.filter.x, &self.lie)
    }

    /// What a gap or height is now, and how well that is known. What a tool leans by is not in it.
    ///
    /// # Errors
    /// [`EstimateError`] for places that this instrument does not have.
    pub fn predict(&self, place: Place) -> Result<Estimate<Length>, EstimateError> {
        let sight = self.sight(place)?;
        Ok(Estimate::new(
            Length::from_mm(sight.value),
            Length::from_mm(self.filter.variance_along(&sight.slope).sqrt()),
        ))
    }

    /// What a gap or height is in a state.
    pub(crate) fn look(&self, place: Place, x: &DVector<f64>, lie: &Lie) -> Length {
        let found = self.value_in(place, x, lie).or_else(|| {
            let sight = self.sight_in(place, x, lie).ok()?;
            Some(sight.value)
        });
        Length::from_mm(found.unwrap_or(0.0))
    }

    /// The same without its slope, for the places that move with every turn.
    fn value_in(&self, place: Place, x: &DVector<f64>, lie: &Lie) -> Option<f64> {
        match place {
            Place::Nut { string, held } => {
                let held = if held == 3 { 2 } else { held };
                let found = self.levers(string, held, 1).ok()?;
                Some(found.height(&self.line_in(string, x, lie)).mm())
            }
            Place::Action { string, fret, held } => {
                let found = self.levers(string, held, fret).ok()?;
                Some(found.height(&self.line_in(string, x, lie)).mm())
            }
            Place::Gap if self.sheet.is_some() => Some(self.part(x, Part::Gap)),
            _ => None,
        }
    }

    fn levers(&self, string: u8, held: u8, at: u8) -> Result<Levers, EstimateError> {
        let index = self.index(string);
        let (tops, length) = (&self.tops[index], self.lengths[index]);
        Ok(if held > at {
            levers_behind(tops, held, at)?
        } else {
            levers(tops, length, held, at)?
        })
    }

    /// How a height over a fret answers to its own crown: the lever of a height screw.
    pub(crate) fn lever_of(&self, string: u8, fret: u8) -> f64 {
        self.levers(string, 0, fret)
            .map_or(0.5, |levers| levers.saddle)
    }

    /// How the gap over fret 1 answers to its own slot.
    pub(crate) fn nut_lever(&self, string: u8, held: u8) -> f64 {
        let held = if held == 3 { 2 } else { held };
        self.levers(string, held, 1)
            .map_or(1.0, |levers| levers.nut)
    }

    fn relief_sight(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        side: Side,
        span: Span,
    ) -> Result<f64, EstimateError> {
        let relief = self.relief(side, span)?;
        let bend = match side {
            Side::Bass => BASS,
            Side::Treble => TREBLE,
        };
        h[bend] += relief.slope();
        h[MIDDLE] += relief.middle();
        Ok(relief.gap(Curvature::ZERO).mm()
            + relief.slope() * x[bend]
            + relief.middle() * x[MIDDLE])
    }

    fn height_sight(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        lie: &Lie,
        index: usize,
        levers: &Levers,
    ) -> f64 {
        self.add_height(h, x, lie, index, levers, 1.0);
        let string = u8::try_from(index + 1).unwrap_or(1);
        levers.height(&self.line_in(string, x, lie)).mm()
    }

    /// Height of a string, held down at the last fret, over the poles of a pickup.
    fn over_pickup(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        lie: &Lie,
        pickup: u8,
        string: u8,
    ) -> Result<f64, EstimateError> {
        let (before, _) = *self
            .pickups
            .get(usize::from(pickup))
            .ok_or(EstimateError::Pickup(pickup + 1, self.pickups.len()))?;
        let index = self.index(string);
        let tops = &self.tops[index];
        let last = tops.frets();
        // From the last fret to the crown, so much of the crown's height shows over the poles.
        let from = tops.place(last);
        let along = tops.scale() - before - from;
        let share = along.ratio(self.lengths[index] - from);
        self.add_crown(h, x, lie, index, share);
        let top = tops.top(last, Curvature::ZERO).mm();
        Ok(top * (1.0 - share) + self.crown(x, lie, index) * share)
    }

    /// A string as it speaks in a state.
    pub(crate) fn speaking_in(&self, index: usize, x: &DVector<f64>, lie: &Lie) -> Speaking {
        let (first, twelfth) = self.heights_in(index, x, lie);
        self.strings[index]
            .speaking
            .with_heights(Heights::bounded(first, twelfth))
    }

    /// Cents that a note falls by for a millimetre that its saddle goes back: to first order, which is within a
    /// few hundredths of the model's own slope and far better than screws are.
    pub(crate) fn cents_per_mm(&self, index: usize) -> f64 {
        let scale = self.strings[index].speaking.scale();
        -1.0 / first_order_move(Cents::new(1.0), scale).mm()
    }

    /// How sharp a fretted twelfth is of the octave of its open string, and how that hangs on the state.
    fn note_sight(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        lie: &Lie,
        string: u8,
    ) -> Result<f64, EstimateError> {
        let index = self.index(string);
        let bias = self.at.bias(index);
        let place = Length::from_mm(self.setback_in(x, lie, index) - x[bias]);
        let slope = self.cents_per_mm(index);
        self.add_setback(h, x, lie, index, slope);
        h[bias] -= slope;
        let (first, twelfth) = self.heights_in(index, x, lie);
        let speaking = self.strings[index].speaking;
        let error = |first: Length, twelfth: Length| {
            let laid = speaking.with_heights(Heights::bounded(first, twelfth));
            laid.error(12, place).map(Cents::value)
        };
        let here = error(first, twelfth)?;
        for (fret, higher) in [
            (1, error(first + HEIGHT_STEP, twelfth)?),
            (self.twelfth, error(first, twelfth + HEIGHT_STEP)?),
        ] {
            let per_mm = (higher - here) / HEIGHT_STEP.mm();
            let levers = self.levers(string, 0, fret)?;
            self.add_height(h, x, lie, index, &levers, per_mm);
        }
        Ok(here)
    }

    /// What a fretted twelfth is sharp of the octave of its open string, without what that hangs on.
    pub(crate) fn note_value(
        &self,
        x: &DVector<f64>,
        lie: &Lie,
        string: u8,
    ) -> Result<f64, EstimateError> {
        let index = self.index(string);
        let place = Length::from_mm(self.setback_in(x, lie, index) - x[self.at.bias(index)]);
        let error = self.speaking_in(index, x, lie).error(12, place)?;
        Ok(error.value())
    }

    fn add_height(
        &self,
        h: &mut DVector<f64>,
        x: &DVector<f64>,
        lie: &Lie,
        index: usize,
        levers: &Levers,
        weight: f64,
    ) {
        let bass = self.share(index);
        h[BASS] += weight * levers.curvature * bass;
        h[TREBLE] += weight * levers.curvature * (1.0 - bass);
        h[MIDDLE] += weight * levers.middle;
        h[self.at.nut(index)] += weight * levers.nut;
        if levers.saddle != 0.0 {
            self.add_crown(h, x, lie, index, weight * levers.saddle);
        }
    }

    /// What a reference itself is sharp of the octave by.
    pub(crate) fn excess(
        &self,
        index: usize,
        against: Reference,
        x: &DVector<f64>,
        lie: &Lie,
    ) -> f64 {
        match against {
            Reference::Open => 0.0,
            Reference::Harmonic => {
                let place = Length::from_mm(self.setback_in(x, lie, index));
                self.strings[index].speaking.harmonic_excess(place).value()
            }
        }
    }

    /// How much sharper a plucked note reads than the same note in the limit of no amplitude.
    pub(crate) fn plucked(&self, index: usize, x: &DVector<f64>) -> f64 {
        self.strings[index].pluck * (2.0 * x[PLUCK]).exp()
    }

    /// Adds to a slope what the tool in hand leans by.
    pub(crate) fn add_lean(h: &mut DVector<f64>, tool: Tool) {
        match tool {
            Tool::Rule64 | Tool::Rule32 | Tool::RuleHalfMm | Tool::Caliper => h[RULE] += 1.0,
            Tool::Feeler => h[BLADE] += 1.0,
            Tool::Dial | Tool::Card | Tool::Pick => {}
        }
    }
}
