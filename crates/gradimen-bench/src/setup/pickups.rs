//! The pickups station: gaps with the strings held at the last fret, at the heights to come, and
//! poles string by string.

use gradimen_core::quantity::{Estimate, Length, Level, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::{self, rounded_turns};
use nalgebra::DVector;

use super::levels::{self, Across, Louder};
use super::{Decision, Quantity};
use crate::event::{HeightEnd, Side};
use crate::geometry::{Geometry, Place};
use crate::hardware::PickupRecord;
use crate::job::Job;
use crate::methods::tolerance;
use crate::plan::Verdict;

/// Nearer than this the magnets pull on wound strings and give double notes (common practice).
const TOO_NEAR: Length = Length::from_mm(1.2);
/// A pole this far from where the board's radius has it can be heard (from memory: about a decibel).
const POLE_TOLERANCE: Length = Length::from_mm(0.3);

/// What to do at a side of a pickup.
#[derive(Debug, Clone, PartialEq)]
pub enum PickupAction {
    /// Read its gap (again).
    Read,
    /// Turn its screw.
    Turn(PickupMove),
    /// Its screw is at its end, and so much further it should go.
    AtEnd {
        /// Which end: down, foam or spring are squeezed.
        end: HeightEnd,
        /// How far.
        short_by: Length,
    },
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

/// The pole under one string.
#[derive(Debug, Clone, PartialEq)]
pub struct Pole {
    /// Which string.
    pub string: u8,
    /// The gap that was read, as it was written.
    pub written: String,
    /// What it was then.
    pub read: Length,
    /// The gap now.
    pub gap: Length,
    /// The gap that would be even with the sides as they stand.
    pub even: Length,
    /// How far it stands proud of a face that runs straight from side to side; negative sunk.
    pub proud: Length,
    /// How far it would, were it to follow the board's radius.
    pub follows: Length,
    /// How much louder its string is for that.
    pub louder: Level,
    /// Turns of its screw that put it right, positive nearer; nothing for poles that are fixed.
    pub turns: Option<Turns>,
    /// Whether it moved by more than can be carried since it was read.
    pub stale: bool,
}

impl Pole {
    /// How it stands against its neighbours.
    pub fn verdict(&self) -> Verdict {
        match self.gap - self.even {
            _ if self.stale => Verdict::Recheck,
            off if off.abs() <= POLE_TOLERANCE => Verdict::Within,
            off if off > Length::ZERO => Verdict::Above,
            _ => Verdict::Below,
        }
    }

    /// The turn of its screw, where there is one to make.
    pub fn next_turn(&self) -> Option<Turns> {
        self.turns
            .filter(|turns| *turns != Turns::ZERO && !self.stale)
    }

    /// Which way that is, in words.
    pub fn direction(turns: Turns) -> String {
        format!(
            "{}, {}",
            if turns > Turns::ZERO {
                "nearer"
            } else {
                "away"
            },
            print::turns_with_word(turns)
        )
    }
}

/// One pickup.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupPlan {
    /// What the shop calls it.
    pub name: String,
    /// Treble and bass.
    pub sides: [PickupSide; 2],
    /// Its poles, where they were read and both sides too.
    pub poles: Vec<Pole>,
    /// Whether its poles are screws.
    pub pole_screws: bool,
    /// Its level against the other pickups, where levels were read.
    pub louder: Option<Louder>,
    /// Its level across the strings, where those of several were read.
    pub across: Option<Across>,
}

pub(super) fn plan(job: &Job, geometry: &Geometry, end: &DVector<f64>) -> Vec<PickupPlan> {
    let levels = levels::levels(job, geometry);
    job.instrument()
        .pickups
        .iter()
        .zip(0_u8..)
        .filter_map(|(record, index)| {
            let targets = job.pickup_wanted(index)?;
            let of = |side: Side| one_side(job, geometry, end, (record, index), (side, targets));
            let sides = [of(Side::Treble)?, of(Side::Bass)?];
            Some(PickupPlan {
                name: record.name.clone(),
                poles: poles(job, geometry, record, index),
                pole_screws: record.pole_pitch.is_some(),
                louder: levels.get(usize::from(index)).copied().flatten(),
                across: levels::across(job, geometry, index),
                sides,
            })
        })
        .collect()
}

fn one_side(
    job: &Job,
    geometry: &Geometry,
    end: &DVector<f64>,
    (record, index): (&PickupRecord, u8),
    (side, targets): (Side, [Length; 2]),
) -> Option<PickupSide> {
    let target = targets[usize::from(side == Side::Bass)];
    let sight = geometry.pickup_sight(index, side).ok()?;
    let place = Place::Pickup(index, side);
    let mut quantity = Quantity::new(geometry, place, &sight, target, tolerance::PICKUP);
    // How much nearer it has to come, at the heights to come.
    let off = geometry.look(&sight, end) - target;
    let pitch = record.pitch.middle();
    let turns = rounded_turns(Turns::new(off.ratio(pitch)));
    let found = job.pickup_end(index, side);
    let action = match quantity.decision() {
        Decision::Unread | Decision::Again => PickupAction::Read,
        _ if off.abs() <= tolerance::PICKUP || turns == Turns::ZERO => PickupAction::Leave,
        _ if at_end(found, off) => PickupAction::AtEnd {
            end: found.unwrap_or(HeightEnd::Top),
            short_by: off.abs(),
        },
        _ if beyond(record, job.pickup_turned(index, side), turns) => PickupAction::AtEnd {
            end: if off > Length::ZERO {
                HeightEnd::Top
            } else {
                HeightEnd::Bottom
            },
            short_by: off.abs(),
        },
        _ => PickupAction::Turn(PickupMove {
            distance: pitch * turns.value(),
            turns,
            rotation: if (turns > Turns::ZERO) == record.clockwise_raises {
                Rotation::Clockwise
            } else {
                Rotation::Counterclockwise
            },
            expected: Estimate::new(target + off - pitch * turns.value(), quantity.now.sigma),
        }),
    };
    quantity.after = match &action {
        PickupAction::Turn(step) => step.expected.value,
        _ => target + off,
    };
    Some(PickupSide {
        side,
        too_near: quantity.last.is_some() && quantity.now.value < TOO_NEAR,
        quantity,
        action,
    })
}

/// Whether a move goes on past the end that was found.
fn at_end(found: Option<HeightEnd>, nearer: Length) -> bool {
    match found {
        Some(HeightEnd::Top) => nearer > Length::ZERO,
        Some(HeightEnd::Bottom) => nearer < Length::ZERO,
        None => false,
    }
}

/// Whether so many turns more leave no thread, by the travel on record: wherever it stood at first,
/// a screw goes no further than its whole travel either way.
fn beyond(record: &PickupRecord, turned: Turns, more: Turns) -> bool {
    record.travel.as_ref().is_some_and(|travel| {
        let all = record.pitch.middle() * (turned + more).value();
        all.abs() > travel.middle()
    })
}

/// Poles that were read, against what the board's radius asks for.
fn poles(job: &Job, geometry: &Geometry, record: &PickupRecord, index: u8) -> Vec<Pole> {
    let read = |side: Side| geometry.last(Place::Pickup(index, side)).is_some();
    if !(read(Side::Treble) && read(Side::Bass)) {
        return Vec::new();
    }
    let fall = levels::fitted(job, geometry, index).unwrap_or_default();
    let side = |side: Side| -> Option<Length> {
        let sight = geometry.pickup_sight(index, side).ok()?;
        Some(geometry.predict(&sight).value)
    };
    let (Some(treble), Some(bass)) = (side(Side::Treble), side(Side::Bass)) else {
        return Vec::new();
    };
    (1..=job.instrument().strings)
        .filter_map(|string| {
            let last = geometry.last(Place::Pole(index, string))?;
            let sight = geometry.pole_sight(index, string).ok()?;
            let flush = geometry.predict(&sight).value;
            let read = last.value?;
            let gap = read + last.drift;
            let share = geometry.share(usize::from(string - 1));
            // What the sides have now, carried across; and what they are to have.
            let even = treble * (1.0 - share) + bass * share;
            let off = gap - even;
            Some(Pole {
                string,
                written: last.written.clone(),
                read,
                gap,
                even,
                proud: flush - gap,
                follows: flush - even,
                louder: fall.louder(gap.max(Length::ZERO), even.max(Length::from_mm(0.1))),
                turns: record.pole_pitch.as_ref().map(|pitch| {
                    if off.abs() <= POLE_TOLERANCE {
                        Turns::ZERO
                    } else {
                        rounded_turns(Turns::new(off.ratio(pitch.middle())))
                    }
                }),
                stale: last.fresh == 0,
            })
        })
        .collect()
}
