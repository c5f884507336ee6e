//! What each kind of reading sees of the state.

use gradimen_core::action::{ActionError, Levers, levers, levers_behind};
use gradimen_core::neck::{NeckError, Relief, Span};
use gradimen_core::quantity::{Curvature, Length};

use super::{BASS, EstimateError, Geometry, LinearView, TREBLE};
use crate::model::Side;

impl Geometry {
    /// How a relief school looks at a side of this neck.
    ///
    /// # Errors
    /// [`NeckError`] for spans in which no gap can be.
    pub fn relief(&self, side: Side, span: Span) -> Result<Relief, NeckError> {
        self.tops(self.string_of(side)).relief(span)
    }

    /// The sight of a relief reading.
    ///
    /// # Errors
    /// [`NeckError`] for spans in which no gap can be.
    pub fn relief_sight(&self, side: Side, span: Span) -> Result<LinearView, NeckError> {
        let relief = self.relief(side, span)?;
        let bend = match side {
            Side::Bass => BASS,
            Side::Treble => TREBLE,
        };
        Ok(LinearView {
            slope: self.filter.unit(&[(bend, relief.slope())]),
            rest: relief.gap(Curvature::ZERO).mm(),
        })
    }

    /// The sight of a height: over fret `at`, the string held down at `held` (0: open), on either
    /// side of it.
    ///
    /// # Errors
    /// [`ActionError`] when it lies on that fret.
    pub fn action_sight(&self, string: u8, held: u8, at: u8) -> Result<LinearView, ActionError> {
        let index = self.at(string);
        let (tops, length) = (&self.tops[index], self.lengths[index]);
        let found = if held > at {
            levers_behind(tops, held, at)?
        } else {
            levers(tops, length, held, at)?
        };
        Ok(self.sight(index, &found))
    }

    fn sight(&self, index: usize, levers: &Levers) -> LinearView {
        let bass = self.share(index);
        LinearView {
            slope: self.filter.unit(&[
                (BASS, levers.curvature * bass),
                (TREBLE, levers.curvature * (1.0 - bass)),
                (Self::nut(index), levers.nut),
                (self.saddle(index), levers.saddle),
            ]),
            rest: levers.rest.mm(),
        }
    }

    pub(crate) fn face(&self, pickup: usize, side: Side) -> usize {
        let first = self.filter.x.len() - 2 * self.pickups.len();
        first + 2 * pickup + usize::from(side == Side::Bass)
    }

    /// The sight of a pickup's gap: the outer string of that side, held down at the last fret, over
    /// its face there.
    ///
    /// # Errors
    /// [`EstimateError::Pickup`] for a pickup that is not there.
    pub fn pickup_sight(&self, pickup: u8, side: Side) -> Result<LinearView, EstimateError> {
        let index = usize::from(pickup);
        let (before, _) = *self
            .pickups
            .get(index)
            .ok_or(EstimateError::Pickup(pickup + 1, self.pickups.len()))?;
        let string = self.string_of(side);
        let mut sight = self.over_pickup(before, string);
        sight.slope[self.face(index, side)] = -1.0;
        Ok(sight)
    }

    /// The sight of a pole's gap, were all poles of the pickup flush: the string held down at the last
    /// fret, over a face that runs straight from side to side.
    ///
    /// # Errors
    /// [`EstimateError::Pickup`] for a pickup that is not there.
    pub fn pole_sight(&self, pickup: u8, string: u8) -> Result<LinearView, EstimateError> {
        let index = usize::from(pickup);
        let (before, _) = *self
            .pickups
            .get(index)
            .ok_or(EstimateError::Pickup(pickup + 1, self.pickups.len()))?;
        let bass = self.share(usize::from(string.max(1) - 1).min(self.count() - 1));
        let mut sight = self.over_pickup(before, string);
        sight.slope[self.face(index, Side::Treble)] = bass - 1.0;
        sight.slope[self.face(index, Side::Bass)] = -bass;
        Ok(sight)
    }

    /// Height of a string, held down at the last fret, over a place before the scale line.
    fn over_pickup(&self, before: Length, string: u8) -> LinearView {
        let at = usize::from(string.max(1) - 1).min(self.count() - 1);
        let tops = &self.tops[at];
        let last = tops.frets();
        // From the last fret to the crown, so much of the crown's height shows over the poles.
        let crown = self.lengths[at];
        let from = tops.place(last);
        let along = tops.scale() - before - from;
        let share = along.ratio(crown - from);
        let mut sight = self.zero();
        sight.slope[self.saddle(at)] = share;
        sight.rest = tops.top(last, Curvature::ZERO).mm() * (1.0 - share);
        sight
    }
}
