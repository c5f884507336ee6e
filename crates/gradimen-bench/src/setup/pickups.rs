//! The pickups station: gaps with the strings held at the last fret, at the heights to come, and
//! levels made equal.

use gradimen_core::pickup::FallOff;
use gradimen_core::quantity::{Estimate, Length, Level, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::rounded_turns;
use nalgebra::DVector;

use super::{Decision, Quantity};
use crate::event::Side;
use crate::geometry::{Geometry, Place};
use crate::job::Job;
use crate::methods::{pickup_target, tolerance};

/// Nearer than this the magnets pull on wound strings and give double notes (common practice).
const TOO_NEAR: Length = Length::from_mm(1.2);
/// Levels are made equal within what players hear.
const LEVELS_EQUAL: Level = Level::from_decibels(1.0);
/// A balance never sends a pickup nearer than this, or further.
const BALANCE_WITHIN: (Length, Length) = (Length::from_mm(1.4), Length::from_mm(5.0));

/// What to do at a side of a pickup.
#[derive(Debug, Clone, PartialEq)]
pub enum PickupAction {
    /// Read its gap (again).
    Read,
    /// Turn its screw.
    Turn(PickupMove),
    /// Nothing.
    Leave,
}

/// A turn of a pickup's screw.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupMove {
    /// How far nearer to the strings; negative away from them.
    pub distance: Length,
    /// Turns; positive brings it nearer.
    pub turns: Turns,
    /// Which way, seen on the head.
    pub rotation: Rotation,
    /// What the gap will be at the heights to come.
    pub expected: Estimate<Length>,
}

/// One side of a pickup.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupSide {
    /// Which side.
    pub side: Side,
    /// Its gap.
    pub quantity: Quantity,
    /// What to do.
    pub action: PickupAction,
    /// So near that the magnets pull on the strings.
    pub too_near: bool,
}

/// How a pickup stands to the quietest one, by the levels that were read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Louder {
    /// Mean of its levels.
    pub level: Level,
    /// How much louder it is than the quietest.
    pub by: Level,
    /// How much further off it has to go to be as loud, within what is set in practice.
    pub further: Length,
    /// Whether that lies within what players hear already.
    pub equal: bool,
    /// Whether its own fall-off was fitted, or is only usual.
    pub fitted: bool,
}

/// One pickup.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupPlan {
    /// What the shop calls it.
    pub name: String,
    /// Treble and bass.
    pub sides: [PickupSide; 2],
    /// Its level, where levels were read.
    pub louder: Option<Louder>,
}

pub(super) fn plan(job: &Job, geometry: &Geometry, end: &DVector<f64>) -> Vec<PickupPlan> {
    let levels = levels(job, geometry);
    job.instrument()
        .pickups
        .iter()
        .zip(0_u8..)
        .filter_map(|(record, index)| {
            let targets = pickup_target(record.family);
            let side = |at: usize| -> Option<PickupSide> {
                let side = Side::ALL[at];
                let sight = geometry.pickup_sight(index, side).ok()?;
                let place = Place::Pickup(index, side);
                let mut quantity =
                    Quantity::new(geometry, place, &sight, targets[at], tolerance::PICKUP);
                let off = geometry.look(&sight, end) - targets[at];
                let pitch = record.pitch.middle();
                let turns = rounded_turns(Turns::new(off.ratio(pitch)));
                let action = match quantity.decision() {
                    Decision::Unread | Decision::Again => PickupAction::Read,
                    _ if off.abs() <= tolerance::PICKUP || turns == Turns::ZERO => {
                        PickupAction::Leave
                    }
                    _ => PickupAction::Turn(PickupMove {
                        distance: pitch * turns.value(),
                        turns,
                        rotation: if (turns > Turns::ZERO) == record.clockwise_raises {
                            Rotation::Clockwise
                        } else {
                            Rotation::Counterclockwise
                        },
                        expected: Estimate::new(
                            targets[at] + off - pitch * turns.value(),
                            quantity.now.sigma,
                        ),
                    }),
                };
                quantity.after = match &action {
                    PickupAction::Turn(step) => step.expected.value,
                    _ => targets[at] + off,
                };
                Some(PickupSide {
                    side,
                    too_near: quantity.last.is_some() && quantity.now.value < TOO_NEAR,
                    quantity,
                    action,
                })
            };
            Some(PickupPlan {
                name: record.name.clone(),
                sides: [side(0)?, side(1)?],
                louder: levels.get(usize::from(index)).copied().flatten(),
            })
        })
        .collect()
}

/// Levels of every pickup against the quietest, from the last reading of every string.
fn levels(job: &Job, geometry: &Geometry) -> Vec<Option<Louder>> {
    let count = job.instrument().pickups.len();
    let strings = job.instrument().strings;
    let gap = |pickup: u8| -> Option<Length> {
        let both = Side::ALL.map(|side| {
            let sight = geometry.pickup_sight(pickup, side).ok()?;
            geometry.last(Place::Pickup(pickup, side))?;
            Some(geometry.predict(&sight).value)
        });
        Some((both[0]? + both[1]?) * 0.5)
    };
    let mean = |pickup: u8| -> Option<Level> {
        let last: Vec<Level> = (1..=strings)
            .filter_map(|string| {
                let read = job.levels().iter().rev();
                let mut of = read.filter(|read| read.pickup == pickup && read.string == string);
                of.next().map(|read| read.level)
            })
            .collect();
        let count = last.len();
        (count > 0).then(|| last.into_iter().sum::<Level>() / count as f64)
    };
    let means: Vec<Option<Level>> = (0..count)
        .map(|pickup| mean(u8::try_from(pickup).unwrap_or(u8::MAX)))
        .collect();
    let Some(quietest) = means.iter().flatten().copied().reduce(Level::min) else {
        return vec![None; count];
    };
    means
        .into_iter()
        .zip(0_u8..)
        .map(|(level, pickup)| {
            let level = level?;
            let by = level - quietest;
            let fitted = fitted(job, geometry, pickup);
            let fall = fitted.unwrap_or_default();
            let further = gap(pickup).map_or(Length::ZERO, |now| {
                let wanted = fall.gap_for(now, -by);
                let (near, far) = BALANCE_WITHIN;
                wanted.max(near).min(far.max(now)) - now
            });
            Some(Louder {
                level,
                by,
                further,
                equal: by <= LEVELS_EQUAL,
                fitted: fitted.is_some(),
            })
        })
        .collect()
}

/// The fall-off of a pickup, where one string was read at two gaps that differ enough.
fn fitted(job: &Job, geometry: &Geometry, pickup: u8) -> Option<FallOff> {
    let read: Vec<_> = job
        .levels()
        .iter()
        .filter(|read| read.pickup == pickup)
        .collect();
    let gap_at = |at: usize| geometry.pickup_gap_at(pickup, at);
    read.iter().rev().find_map(|late| {
        let early = read.iter().find(|early| {
            early.string == late.string
                && gap_at(early.at)
                    .zip(gap_at(late.at))
                    .is_some_and(|(a, b)| (a - b).abs() > Length::from_mm(0.5))
        })?;
        FallOff::fit(
            (gap_at(early.at)?, early.level),
            (gap_at(late.at)?, late.level),
        )
        .ok()
    })
}
