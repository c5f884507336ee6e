//! The vibrato as the state has it now, for the ranges and the drawings: one plate with its mean crown, its springs and
//! the pull of all strings.

use gradimen_core::quantity::{Angle, Estimate, Force, Length, Rate};
use gradimen_core::vibrato::{Hooked, Plate};

use super::state::State;
use super::state::layout::Part;
use crate::model::hardware::VibratoRecord;

/// A plate that is balanced.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Balance {
    pub(crate) record: VibratoRecord,
    pub(crate) plate: Plate,
    pub(crate) springs: Vec<Hooked>,
    pub(crate) pull: Force,
    /// Where it stands.
    pub(crate) angle: Angle,
    /// How far it goes up and down.
    pub(crate) ends: (Angle, Angle),
    /// The gap when it is level.
    pub(crate) level: Length,
    /// The rate of one spring.
    pub(crate) rate: Estimate<Rate>,
    /// How far further in the claw stands than it was found.
    pub(crate) claw: Length,
}

impl Balance {
    /// At the best values; nothing for bridges without a vibrato.
    pub(crate) fn of(state: &State) -> Option<Self> {
        let sheet = state.sheet.as_ref()?;
        let x = state.mean();
        let arms: Vec<(f64, f64, f64)> = (0..state.count())
            .map(|index| {
                let (back, up) = state.arm_in(sheet, x, index);
                (state.tension_in(x, index), back, up)
            })
            .collect();
        let pull: f64 = arms.iter().map(|(pull, ..)| pull).sum();
        let mean = |pick: fn(&(f64, f64, f64)) -> f64| {
            Length::from_mm(arms.iter().map(|arm| arm.0 * pick(arm)).sum::<f64>() / pull)
        };
        let (low, high) = state.ends_in(sheet, x);
        let rate = state.at.part(Part::Rate);
        let value = sheet.record.rate_newtons_per_metre * x[rate].exp();
        let sigma = value * state.filter.p[(rate, rate)].sqrt();
        Some(Self {
            record: sheet.record.clone(),
            plate: Plate {
                crown_back: mean(|arm| arm.1),
                crown_up: mean(|arm| arm.2),
                ..state.plate_in(sheet, x)
            },
            springs: state.springs_in(sheet, x),
            pull: Force::from_newtons(pull),
            angle: Angle::from_radians(state.lie().angle),
            ends: (Angle::from_radians(low), Angle::from_radians(high)),
            level: Length::from_mm(state.part(x, Part::Level)),
            rate: Estimate::new(
                Rate::from_newtons_per_metre(value),
                Rate::from_newtons_per_metre(sigma),
            ),
            claw: Length::from_mm(state.claw_sight(x).0),
        })
    }

    /// Whether springs in the body answer the strings.
    pub(crate) const fn has_claw(&self) -> bool {
        matches!(
            self.record.kind,
            crate::model::hardware::VibratoKind::BodySprings
        )
    }

    /// The angle at which it can be pulled up no further: the tail lies on the body, or the spring of a tail is loose.
    pub(crate) const fn up_end(&self) -> Angle {
        self.ends.0
    }

    /// The angle at which it can be dived no further.
    pub(crate) fn dive_end(&self) -> Angle {
        if self.has_claw() {
            let tail = self.plate.tail_back;
            self.plate.angle_of(tail * super::state::FURTHEST)
        } else {
            self.ends.1
        }
    }

    pub(crate) fn angle_of(&self, gap: Length) -> Angle {
        self.plate.angle_of(gap - self.level)
    }

    pub(crate) fn gap_of(&self, angle: Angle) -> Length {
        (self.level + self.plate.gap(angle)).max(Length::ZERO)
    }
}
