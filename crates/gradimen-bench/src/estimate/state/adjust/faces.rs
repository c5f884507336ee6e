//! What the screws of a pickup and of its poles change.

use gradimen_core::quantity::Length;
use nalgebra::DVector;

use super::change::play;
use crate::estimate::EstimateError;
use crate::estimate::filter::Change;
use crate::estimate::state::State;
use crate::estimate::state::layout::SHARE;
use crate::model::hardware::PickupRecord;
use crate::model::{Adjuster, Amount, Measurement, Place, Side};

/// Play of a screw, and what every turn adds, in millimetres.
const FACE_PLAY: (f64, f64) = (0.03, 0.03);

impl State {
    pub(super) fn face_moved(
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

    pub(super) fn pole_turned(
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
}
