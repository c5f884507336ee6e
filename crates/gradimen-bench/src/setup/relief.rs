//! The relief station: one neck in every school's number, and the next turn of the rod.

use gradimen_core::quantity::{Estimate, Length, Turns};
use gradimen_core::thread::Rotation;
use nalgebra::DVector;

use super::{Decision, Quantity};
use crate::event::{ReliefSpan, RodStop, Side, Targets};
use crate::geometry::{BASS, Geometry, Place, TREBLE};
use crate::instrument::Rod;
use crate::job::Job;
use crate::methods::{relief_schools, tolerance};
use crate::plan::Verdict;

/// Never more than this at once (common practice) ...
const QUARTER: f64 = 0.25;
/// ... this when it is near ...
const EIGHTH: f64 = 0.125;
/// ... and the least a key can set.
const SIXTEENTH: f64 = 0.0625;
/// A treble side that has more relief than the bass by this is a finding (common practice).
const SIDES_DIFFER: Length = Length::from_mm(0.05);
/// Bent backward by more than what can be overlooked.
const BACKWARD: Length = Length::from_mm(-0.03);

/// One school's number on this neck.
#[derive(Debug, Clone, PartialEq)]
pub struct SchoolRow {
    /// Its word in forms.
    pub key: &'static str,
    /// Its name.
    pub name: &'static str,
    /// Where.
    pub span: ReliefSpan,
    /// What it would read now, treble and bass.
    pub now: [Estimate<Length>; 2],
    /// The target in its number, on the treble side and on the bass side.
    pub target: [Length; 2],
}

impl SchoolRow {
    /// The target in its number, between the sides.
    pub fn wanted(&self) -> Length {
        (self.target[0] + self.target[1]) * 0.5
    }
}

/// A turn of the rod.
#[derive(Debug, Clone, PartialEq)]
pub struct RodMove {
    /// This round; positive tightens.
    pub turns: Turns,
    /// Which way, seen at the nut of the rod.
    pub rotation: Rotation,
    /// All of it.
    pub total: Turns,
    /// Rounds expected, this one included.
    pub rounds: u32,
    /// What both sides will read after this round, treble and bass.
    pub expected: [Estimate<Length>; 2],
    /// How far the neck is off, by the target's school, as the mean of both sides.
    pub off: Length,
    /// What a turn takes away by that school.
    pub per_turn: Length,
    /// Share by which that is in doubt.
    pub doubt: f64,
}

/// What to do about relief.
#[derive(Debug, Clone, PartialEq)]
pub enum ReliefAction {
    /// Read (again): which sides.
    Read(Vec<Side>),
    /// Turn the rod.
    Turn(RodMove),
    /// Nothing.
    Leave,
    /// A setup cannot do it.
    Blocked,
}

/// What is wrong with a neck that a rod cannot put right.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum NeckFault {
    /// One side bent backward while the other has relief.
    Twist {
        /// The side that is bent backward.
        backward: Side,
        /// Relief of both sides by hold 1 and last, read 8: treble, bass.
        relief: [Length; 2],
    },
    /// The treble side has clearly more relief than the bass.
    TrebleMore {
        /// By how much.
        by: Length,
    },
    /// Both sides bent backward.
    BackBow,
    /// The rod has nothing left in the direction that is needed.
    RodSpent(RodStop),
}

/// The relief station.
#[derive(Debug, Clone, PartialEq)]
pub struct ReliefPlan {
    /// Treble and bass.
    pub sides: [Quantity; 2],
    /// What to do.
    pub action: ReliefAction,
    /// The same neck in every school's number.
    pub schools: Vec<SchoolRow>,
    /// What stops or redirects.
    pub faults: Vec<NeckFault>,
}

pub(super) fn plan(
    job: &Job,
    geometry: &Geometry,
    targets: &Targets,
    end: &mut DVector<f64>,
) -> ReliefPlan {
    let span = targets.relief_span.span();
    let sides = Side::ALL.map(|side| {
        let (sight, slope) = match (
            geometry.relief_sight(side, span),
            geometry.relief(side, span),
        ) {
            (Ok(sight), Ok(relief)) => (sight, relief.slope()),
            // The fold has refused spans in which no gap can be.
            _ => (geometry.blank(), geometry.plain_slope()),
        };
        Quantity::new(
            geometry,
            Place::Relief(side),
            &sight,
            targets.relief.middle(),
            tolerance::RELIEF * (slope / geometry.plain_slope()),
        )
    });
    let faults = faults(job, geometry, &sides);
    let off = (sides[0].off() + sides[1].off()) * 0.5;
    let tolerance = (sides[0].tolerance + sides[1].tolerance) * 0.5;
    let (per_turn, doubt) = geometry
        .relief(Side::Bass, span)
        .map_or((Length::from_mm(1.0), 0.5), |relief| {
            geometry.rod_response(relief)
        });
    let total = off.ratio(per_turn);
    let unread: Vec<Side> = Side::ALL
        .into_iter()
        .zip(&sides)
        .filter(|(_, quantity)| quantity.decision() == Decision::Unread)
        .map(|(side, _)| side)
        .collect();
    let stopped = faults
        .iter()
        .any(|fault| matches!(fault, NeckFault::Twist { .. }))
        || job
            .rod_stop()
            .is_some_and(|stop| refuses(stop, total, job.instrument().neck.rod));
    let again = sides.iter().any(|side| side.decision() == Decision::Again);
    let sure = sides[0].now.sigma.max(sides[1].now.sigma);
    let action = if !unread.is_empty() {
        ReliefAction::Read(unread)
    } else if stopped {
        ReliefAction::Blocked
    } else if off.abs() <= tolerance {
        ReliefAction::Leave
    } else if again && off.abs() - tolerance < sure {
        ReliefAction::Read(Side::ALL.to_vec())
    } else {
        ReliefAction::Turn(rod_move(geometry, &sides, off, total, per_turn, doubt))
    };
    // The neck as it will be: both sides go together.
    if off.abs() > tolerance
        && !stopped
        && let Ok(relief) = geometry.relief(Side::Bass, span)
    {
        let bend = off.mm() / relief.slope();
        end[BASS] -= bend;
        end[TREBLE] -= bend;
    }
    ReliefPlan {
        sides,
        action,
        schools: schools(job, geometry, targets),
        faults,
    }
}

/// Whether a rod that refused does so in the direction that is needed.
fn refuses(stop: RodStop, total: f64, rod: Rod) -> bool {
    match stop {
        RodStop::Hard | RodStop::Rubbery => total > 0.0,
        RodStop::NoEffect => total > 0.0 || rod == Rod::OneWay,
    }
}

fn step_of(need: f64) -> f64 {
    let size = need.abs();
    let step = if size >= QUARTER {
        QUARTER
    } else if size >= (EIGHTH + SIXTEENTH) / 2.0 {
        EIGHTH
    } else {
        SIXTEENTH
    };
    step * need.signum()
}

fn rod_move(
    geometry: &Geometry,
    sides: &[Quantity; 2],
    off: Length,
    total: f64,
    per_turn: Length,
    doubt: f64,
) -> RodMove {
    let step = step_of(total);
    let mut rounds = 0;
    let mut left = total;
    while left.abs() > SIXTEENTH / 2.0 && left.signum() == total.signum() {
        left -= step_of(left);
        rounds += 1;
    }
    let moved = per_turn * step;
    let mut expected = [sides[0].now, sides[1].now];
    for side in &mut expected {
        *side = Estimate::new(
            side.value - moved,
            Length::from_mm(
                side.sigma
                    .mm()
                    .hypot(moved.mm() * doubt)
                    .hypot(geometry.rod_play_mm()),
            ),
        );
    }
    RodMove {
        turns: Turns::new(step),
        rotation: if step > 0.0 {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        },
        total: Turns::new(total),
        rounds: rounds.max(1),
        expected,
        off,
        per_turn,
        doubt,
    }
}

fn schools(job: &Job, geometry: &Geometry, targets: &Targets) -> Vec<SchoolRow> {
    let span = targets.relief_span.span();
    relief_schools(job.instrument())
        .into_iter()
        .filter_map(|school| {
            let mut now = [Estimate::new(Length::ZERO, Length::ZERO); 2];
            let mut target = [Length::ZERO; 2];
            for (index, side) in Side::ALL.into_iter().enumerate() {
                let sight = geometry.relief_sight(side, school.span.span()).ok()?;
                let relief = geometry.relief(side, school.span.span()).ok()?;
                let seen = geometry.predict(&sight);
                // As it was read, or turned into another school's number.
                let shape = if school.span == targets.relief_span {
                    Length::ZERO
                } else {
                    relief.shape_doubt(seen.value)
                };
                now[index] = Estimate::new(
                    seen.value,
                    Length::from_mm(seen.sigma.mm().hypot(shape.mm())),
                );
                let wanted = geometry
                    .relief(side, span)
                    .ok()?
                    .curvature(targets.relief.middle());
                target[index] = relief.gap(wanted);
            }
            Some(SchoolRow {
                key: school.key,
                name: school.name,
                span: school.span,
                now,
                target,
            })
        })
        .collect()
}

fn faults(job: &Job, geometry: &Geometry, sides: &[Quantity; 2]) -> Vec<NeckFault> {
    let mut found = Vec::new();
    let read = sides.iter().all(|side| side.last.is_some());
    let [treble, bass] = geometry.plain_relief();
    let surely_below = |side: Estimate<Length>| side.value + side.sigma < BACKWARD;
    let surely_bent = |side: Estimate<Length>| side.value - side.sigma > -BACKWARD;
    if read {
        if surely_below(treble) && surely_below(bass) {
            found.push(NeckFault::BackBow);
        } else if surely_below(treble) && surely_bent(bass) {
            found.push(NeckFault::Twist {
                backward: Side::Treble,
                relief: [treble.value, bass.value],
            });
        } else if surely_below(bass) && surely_bent(treble) {
            found.push(NeckFault::Twist {
                backward: Side::Bass,
                relief: [treble.value, bass.value],
            });
        } else {
            let by = treble.value - bass.value;
            let doubt = Length::from_mm(treble.sigma.mm().hypot(bass.sigma.mm()));
            if by > SIDES_DIFFER && by - doubt > Length::ZERO {
                found.push(NeckFault::TrebleMore { by });
            }
        }
    }
    if let Some(stop) = job.rod_stop() {
        found.push(NeckFault::RodSpent(stop));
    }
    found
}

impl ReliefPlan {
    pub(super) fn finish(&mut self, geometry: &Geometry, end: &DVector<f64>) {
        let now = geometry.mean().clone();
        let shift = [end[TREBLE] - now[TREBLE], end[BASS] - now[BASS]];
        for (quantity, (side, bend)) in self.sides.iter_mut().zip(Side::ALL.into_iter().zip(shift))
        {
            let slope = quantity.tolerance.ratio(tolerance::RELIEF) * geometry.plain_slope();
            quantity.after = quantity.now.value + Length::from_mm(bend * slope);
            let blocked = self.faults.iter().any(
                |fault| matches!(fault, NeckFault::Twist { backward, .. } if *backward == side),
            );
            if blocked {
                quantity.verdict = Verdict::Blocked;
            }
        }
    }

    /// What all of the move does to the action at the twelfth of the middle string: the nut comes
    /// up with the neck.
    pub fn twelfth_change(&self, geometry: &Geometry) -> Length {
        let sight = &geometry.middle[geometry.count() / 2];
        let bend = self
            .sides
            .iter()
            .map(|side| {
                let slope = side.tolerance.ratio(tolerance::RELIEF) * geometry.plain_slope();
                (side.after - side.now.value).mm() / slope
            })
            .sum::<f64>()
            / 2.0;
        Length::from_mm((sight.slope[BASS] + sight.slope[TREBLE]) * bend)
    }

    /// The move, where there is one.
    pub const fn next_move(&self) -> Option<&RodMove> {
        match &self.action {
            ReliefAction::Turn(step) => Some(step),
            _ => None,
        }
    }
}
