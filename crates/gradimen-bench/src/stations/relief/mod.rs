//! The relief station: one neck in every method's number, and the next turn of the truss rod.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! // One neck, in every method's number.
//! assert!(plan.relief.schools.len() > 3);
//! if let Some(step) = plan.relief.next_move() {
//!     assert!(step.turns().value().abs() <= 0.25, "never more than a quarter turn at once");
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Estimate, Length, Turns};
use gradimen_core::thread::Rotation;
use nalgebra::DVector;

use crate::decision::{
    Action, Decision, Expectation, Expected, Mark, Move, Quantity, Station, StationId, Stop, Sum,
    Task, Verdict, mark_of,
};
use crate::estimate::Estimate as Known;
use crate::estimate::geometry::{BASS, Geometry, TREBLE};
use crate::finding::Finding;
use crate::model::defaults::relief_schools;
use crate::model::instrument::{Kind, Rod};
use crate::model::{Adjuster, Amount, End, Place, ReliefSpan, Side, Targets};

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

/// What is wrong with a neck that a truss rod cannot put right.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum NeckFault {
    /// One side in back-bow while the other has relief.
    Twist {
        /// The side that is in back-bow.
        backward: Side,
        /// Relief of both sides by hold 1 and last, read 8: treble, bass.
        relief: [Length; 2],
    },
    /// The treble side has clearly more relief than the bass.
    TrebleMore {
        /// By how much.
        by: Length,
    },
    /// Both sides in back-bow.
    BackBow,
    /// The truss rod has nothing left in the direction that is needed.
    RodSpent(End),
}

/// The relief station.
#[derive(Debug, Clone, PartialEq)]
pub struct ReliefPlan {
    /// Treble and bass.
    pub sides: [Quantity; 2],
    /// What to do.
    pub action: Action,
    /// The same neck in every school's number.
    pub schools: Vec<SchoolRow>,
    /// What stops or redirects.
    pub faults: Vec<NeckFault>,
    /// What the target's method shows of a bend, on both sides.
    slopes: [f64; 2],
}

/// Works the station out, and bends the neck of the finished state `end`.
pub(crate) fn plan(known: &Known, targets: &Targets, end: &mut DVector<f64>) -> ReliefPlan {
    let geometry = known.geometry();
    let span = targets.relief_span.span();
    let mut slopes = [geometry.plain_slope(); 2];
    let sides = Side::ALL.map(|side| {
        let (view, slope) = match (
            geometry.relief_sight(side, span),
            geometry.relief(side, span),
        ) {
            (Ok(view), Ok(relief)) => (view, relief.slope()),
            // The fold has refused spans in which no gap can be.
            _ => (geometry.zero(), geometry.plain_slope()),
        };
        slopes[side.index()] = slope;
        let target = targets.relief(side, slope / geometry.plain_slope());
        Quantity::new(geometry, target, &view)
    });
    let faults = faults(known, geometry, &sides);
    let off = (sides[0].off() + sides[1].off()) * 0.5;
    let tolerance = (sides[0].tolerance + sides[1].tolerance) * 0.5;
    let (per_turn, doubt) = geometry
        .relief(Side::Bass, span)
        .map_or((Length::from_mm(1.0), 0.5), |relief| {
            geometry.rod_response(relief)
        });
    let total = off.ratio(per_turn);
    let unread: Vec<Place> = sides
        .iter()
        .filter(|quantity| quantity.decision() == Decision::Unread)
        .map(|quantity| quantity.place)
        .collect();
    let rod = known.instrument().neck.rod;
    let stopped = faults
        .iter()
        .any(|fault| matches!(fault, NeckFault::Twist { .. }))
        || known
            .ended(Adjuster::TrussRod)
            .is_some_and(|how| refuses(how, total, rod));
    let again = sides.iter().any(|side| side.decision() == Decision::Again);
    let sure = sides[0].now.sigma.max(sides[1].now.sigma);
    let action = if !unread.is_empty() {
        Action::Measure(unread)
    } else if stopped {
        Action::Stop(Stop::Neck)
    } else if off.abs() <= tolerance {
        Action::Leave
    } else if again && off.abs() - tolerance < sure {
        Action::Measure(sides.iter().map(|side| side.place).collect())
    } else {
        let response = (per_turn, doubt);
        Action::Adjust(Box::new(rod_move(geometry, &sides, off, total, response)))
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
        schools: schools(known, geometry, targets),
        faults,
        slopes,
    }
}

/// Whether a rod that refused does so in the direction that is needed.
fn refuses(how: End, total: f64, rod: Rod) -> bool {
    match how {
        End::Hard | End::Rubbery | End::Top | End::Stuck => total > 0.0,
        End::NoEffect | End::Bottom => total > 0.0 || rod == Rod::OneWay,
        End::Free => false,
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
    (per_turn, doubt): (Length, f64),
) -> Move {
    let step = step_of(total);
    let mut rounds = 0;
    let mut left = total;
    while left.abs() > SIXTEENTH / 2.0 && left.signum() == total.signum() {
        left -= step_of(left);
        rounds += 1;
    }
    let moved = per_turn * step;
    let spread = |sigma: Length| {
        let own = sigma.mm().hypot(moved.mm() * doubt);
        Length::from_mm(own.hypot(geometry.rod_play_mm()))
    };
    Move {
        adjuster: Adjuster::TrussRod,
        amount: Amount::Turns { turns: step },
        rotation: Some(if step > 0.0 {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        }),
        distance: -moved,
        total: Turns::new(total),
        rounds: rounds.max(1),
        expected: sides
            .iter()
            .map(|side| Expected {
                place: side.place,
                value: Expectation::Length(Estimate::new(
                    side.now.value - moved,
                    spread(side.now.sigma),
                )),
            })
            .collect(),
        sum: Sum::Rod {
            off,
            per_turn,
            doubt,
        },
    }
}

fn schools(known: &Known, geometry: &Geometry, targets: &Targets) -> Vec<SchoolRow> {
    let span = targets.relief_span.span();
    relief_schools(known.instrument())
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

fn faults(known: &Known, geometry: &Geometry, sides: &[Quantity; 2]) -> Vec<NeckFault> {
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
    if let Some(how) = known.ended(Adjuster::TrussRod) {
        found.push(NeckFault::RodSpent(how));
    }
    found
}

impl ReliefPlan {
    /// What the sides will be in the finished state.
    pub(crate) fn finish(&mut self, geometry: &Geometry, end: &DVector<f64>) {
        let now = geometry.mean().clone();
        let shift = [end[TREBLE] - now[TREBLE], end[BASS] - now[BASS]];
        for (quantity, (side, bend)) in self.sides.iter_mut().zip(Side::ALL.into_iter().zip(shift))
        {
            let slope = self.slopes[side.index()];
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
            .zip(self.slopes)
            .map(|(side, slope)| (side.after - side.now.value).mm() / slope)
            .sum::<f64>()
            / 2.0;
        Length::from_mm((sight.slope[BASS] + sight.slope[TREBLE]) * bend)
    }

    /// The side that wants a reading, or the bass.
    pub fn wanting(&self) -> Side {
        let mut places = self.action.places().iter();
        places.find_map(|place| place.side()).unwrap_or(Side::Bass)
    }

    /// The move, where there is one.
    pub fn next_move(&self) -> Option<&Move> {
        self.action.next_move()
    }

    /// All of the move on the finished neck: what both sides will be, and how far the neck goes.
    fn whole(&self) -> Action {
        let Some(step) = self.next_move() else {
            return self.action.clone();
        };
        let Sum::Rod { off, .. } = step.sum else {
            return self.action.clone();
        };
        Action::Adjust(Box::new(Move {
            amount: Amount::turns(step.total),
            distance: -off,
            expected: self
                .sides
                .iter()
                .map(|side| Expected {
                    place: side.place,
                    value: Expectation::Length(Estimate::new(side.after, side.now.sigma)),
                })
                .collect(),
            ..step.clone()
        }))
    }
}

/// A bass neck that is to be tightened by more than a round goes off load.
const FAR: u32 = 2;

impl Station for ReliefPlan {
    fn id(&self) -> StationId {
        StationId::Relief
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        vec![Task {
            strings: Vec::new(),
            next: self.action.clone(),
            whole: self.whole(),
        }]
    }

    fn findings(&self, known: &Known) -> Vec<Finding> {
        let mut found: Vec<Finding> = self
            .faults
            .iter()
            .map(|fault| match *fault {
                NeckFault::Twist { backward, relief } => Finding::Twist { backward, relief },
                NeckFault::TrebleMore { by } => Finding::TrebleMore { by },
                NeckFault::BackBow => Finding::BackBow,
                NeckFault::RodSpent(how) => Finding::RodSpent(how),
            })
            .collect();
        let far = |step: &Move| step.total > Turns::ZERO && step.rounds >= FAR;
        if known.instrument().kind == Kind::Bass && self.next_move().is_some_and(far) {
            found.push(Finding::OffLoad);
        }
        found
    }

    fn mark(&self) -> Mark {
        let mark = mark_of(self.sides.iter(), matches!(self.action, Action::Stop(_)));
        match self.action {
            // The sides together are what the rod can set.
            Action::Leave => Mark::Within,
            _ if mark == Mark::Within => Mark::Working,
            _ => mark,
        }
    }

    /// A neck that a setup cannot put right keeps the work here: all else rests on it.
    fn has_work(&self, _: &Known) -> bool {
        !self.action.is_leave()
    }
}
