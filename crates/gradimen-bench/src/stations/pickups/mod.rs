//! The pickups station: gaps with the strings held at the last fret, at the heights to come, and pole
//! pieces string by string.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/pickups-and-poles.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! use gradimen_bench::model::Side;
//!
//! let neck = &plan.pickups.pickups[0];
//! assert_eq!(neck.side(Side::Bass).side, Side::Bass);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod levels;

pub use levels::{LevelDifference, StringBalance};

use gradimen_core::quantity::{Estimate, Length, Level, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::rounded_turns;

use crate::decision::Finish;
use crate::decision::{
    Action, Decision, Expectation, Expected, Mark, Move, Quantity, Rule, Station, StationId, Stop,
    Sum, Task, Verdict, mark_of, settled,
};
use crate::estimate::Estimate as Known;
use crate::finding::Finding;
use crate::model::hardware::PickupRecord;
use crate::model::{Adjuster, Amount, End, Measurement, Place, Side, Target};

/// A pole this far from where the board's radius has it can be heard (from memory: about a decibel).
const POLE_TOLERANCE: Length = Length::from_mm(0.3);

/// One side of a pickup.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupSide {
    /// Which side.
    pub side: Side,
    /// Its gap.
    pub quantity: Quantity,
    /// What to do.
    pub action: Action,
    /// At its end, whether foam or spring is squeezed there, or else the screw is out of thread.
    pub squeezed: bool,
    /// So near that the magnets pull on the strings.
    pub too_near: bool,
}

/// The pole under one string.
#[derive(Debug, Clone, PartialEq)]
pub struct PolePiece {
    /// Which string.
    pub string: u8,
    /// The gap that was read.
    pub read: Measurement,
    /// The gap now.
    pub gap: Length,
    /// The gap that would be even with the sides as they stand.
    pub even: Length,
    /// How far it protrudes from a face that runs straight from side to side; negative sunk.
    pub protrudes: Length,
    /// How far it would, were it to follow the board's radius.
    pub follows: Length,
    /// How much louder its string is for that.
    pub louder: Level,
    /// Whether it is a screw.
    pub screw: bool,
    /// What to do.
    pub action: Action,
    /// Whether it moved by more than can be carried since it was read.
    pub stale: bool,
}

impl PolePiece {
    /// How it stands against its neighbours.
    pub fn verdict(&self) -> Verdict {
        match self.gap - self.even {
            _ if self.stale => Verdict::MeasureAgain,
            off if off.abs() <= POLE_TOLERANCE => Verdict::InSpec,
            off if off > Length::ZERO => Verdict::TooHigh,
            _ => Verdict::TooLow,
        }
    }
}

/// The pickups, from the neck to the bridge.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupsPlan {
    /// One by one.
    pub pickups: Vec<PickupPlan>,
}

/// One pickup.
#[derive(Debug, Clone, PartialEq)]
pub struct PickupPlan {
    /// What the shop calls it.
    pub name: String,
    /// Treble and bass.
    pub sides: [PickupSide; 2],
    /// Its poles, where they were read and both sides too.
    pub poles: Vec<PolePiece>,
    /// Whether its poles are screws.
    pub pole_screws: bool,
    /// Its level against the other pickups, where levels were read.
    pub louder: Option<LevelDifference>,
    /// Its level across the strings, where those of several were read.
    pub across: Option<StringBalance>,
}

/// Works the station out, at the heights of the finished state.
pub(crate) fn plan(known: &Known, rule: Rule, end: &Finish) -> PickupsPlan {
    let levels = levels::levels(known);
    let pickups = known
        .instrument()
        .pickups
        .iter()
        .zip(0_u8..)
        .filter_map(|(record, index)| {
            let sides = both_sides(known, rule, end, record, index)?;
            Some(PickupPlan {
                name: record.name.clone(),
                poles: poles(known, record, index),
                pole_screws: record.pole_pitch.is_some(),
                louder: levels.get(usize::from(index)).copied().flatten(),
                across: levels::across(known, index),
                sides,
            })
        })
        .collect();
    PickupsPlan { pickups }
}

fn both_sides(
    known: &Known,
    rule: Rule,
    end: &Finish,
    record: &PickupRecord,
    pickup: u8,
) -> Option<[PickupSide; 2]> {
    let state = known.state();
    let target = |side: Side| {
        Some(Target {
            place: Place::Pickup { pickup, side },
            value: known.pickup_wanted(pickup, side)?,
            tolerance: known.targets().pickup_tolerance(),
        })
    };
    let targets = [target(Side::Treble)?, target(Side::Bass)?];
    let mut quantities = targets.map(|target| Quantity::new(state, target));
    // How much nearer each side has to come, at the heights to come.
    let offs = targets.map(|target| state.look(target.place, &end.x, &end.lie) - target.value);
    let decisions = [0, 1].map(|at| quantities[at].judged(offs[at]).decide(rule));
    // A screw moves its own side most, and the other by what is left.
    let own_screw = state.at.face_screw(usize::from(pickup));
    let pitch = record.pitch.middle() * state.factor(&[(own_screw, 1.0)]).value;
    let own = state.own_end_of_pickup();
    let nearer =
        [0, 1].map(|at: usize| (offs[at] * own - offs[1 - at] * (1.0 - own)) / (2.0 * own - 1.0));
    let measures = decisions.contains(&Decision::Measure);
    let moves = decisions.contains(&Decision::Move);
    let spent = |at: usize| {
        let side = Side::ALL[at];
        let end = known.ended(Adjuster::PickupScrew { pickup, side });
        let off = offs[at].abs() > targets[at].tolerance;
        off && end.is_some_and(|end| at_end(end, nearer[at]))
    };
    let mut actions = [0, 1].map(|at| match decisions[at] {
        // At its end, and beyond it: no reading helps.
        Decision::Measure if spent(at) => {
            screw(known, record, (pickup, Side::ALL[at]), pitch, nearer[at])
        }
        Decision::Measure => Action::Measure(vec![targets[at].place]),
        // One screw moves both sides: what the other is read as decides this turn too.
        Decision::Move if measures => Action::Measure(vec![targets[1 - at].place]),
        _ if measures || !moves => Action::Leave,
        _ if (nearer[at] * own).abs() < targets[at].tolerance * WORTH => Action::Leave,
        _ => screw(known, record, (pickup, Side::ALL[at]), pitch, nearer[at]),
    });
    let all: Vec<(Adjuster, Amount)> = actions
        .iter()
        .filter_map(|action| {
            let step = action.next_move()?;
            Some((step.adjuster, step.amount.clone()))
        })
        .collect();
    for at in [0, 1] {
        let place = targets[at].place;
        let after = targets[at].value + offs[at] - state.faces_move(&all, pickup, Side::ALL[at]);
        quantities[at].after = after;
        if let Action::Adjust(step) = &mut actions[at]
            && let Some(expected) = state.expect_length(&all, place)
        {
            step.expected = vec![Expected {
                place,
                value: Expectation::Length(Estimate::new(after, expected.sigma)),
            }];
        }
    }
    let mut both = quantities.into_iter().zip(actions).zip(Side::ALL);
    let mut next = || {
        let ((quantity, action), side) = both.next()?;
        Some(PickupSide {
            side,
            squeezed: matches!(action, Action::Stop(Stop::AtEnd { end, .. }) if record.squeezed_at(end)),
            too_near: quantity.last.is_some() && quantity.now.value < record.family.too_near(side),
            quantity,
            action,
        })
    };
    Some([next()?, next()?])
}

/// A turn that gains less than this share of the tolerance is let be.
const WORTH: f64 = 0.25;

/// The turn of one screw of a pickup.
fn screw(
    known: &Known,
    record: &PickupRecord,
    (pickup, side): (u8, Side),
    pitch: Length,
    nearer: Length,
) -> Action {
    let turns_exact = Turns::new(nearer.ratio(pitch));
    let turns = rounded_turns(turns_exact);
    let adjuster = Adjuster::PickupScrew { pickup, side };
    let stop = |end| {
        Action::Stop(Stop::AtEnd {
            adjuster,
            end,
            short_by: nearer.abs(),
        })
    };
    if turns == Turns::ZERO {
        return Action::Leave;
    }
    match known.ended(adjuster) {
        Some(end) if at_end(end, nearer) => return stop(end),
        _ => {}
    }
    if beyond(record, known.turned(adjuster), turns) {
        return stop(if nearer > Length::ZERO {
            End::Top
        } else {
            End::Bottom
        });
    }
    Action::Adjust(Box::new(Move {
        adjuster,
        amount: Amount::turns(turns),
        rotation: Some(if (turns > Turns::ZERO) == record.clockwise_raises {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        }),
        distance: pitch * turns.value(),
        total: turns,
        rounds: 1,
        expected: Vec::new(),
        sum: Sum::Screw {
            turns_exact,
            pitch,
            response: Estimate::new(1.0, 0.0),
        },
    }))
}

/// Whether a move goes on past the end that was found.
fn at_end(found: End, nearer: Length) -> bool {
    match found {
        End::Top => nearer > Length::ZERO,
        End::Bottom => nearer < Length::ZERO,
        End::Stuck | End::Hard | End::Rubbery | End::NoEffect => true,
        End::Free => false,
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
fn poles(known: &Known, record: &PickupRecord, pickup: u8) -> Vec<PolePiece> {
    let state = known.state();
    let read = |side: Side| state.last(Place::Pickup { pickup, side }).is_some();
    if !(read(Side::Treble) && read(Side::Bass)) {
        return Vec::new();
    }
    let fall = levels::fitted(known, pickup).unwrap_or_default();
    let side = |side: Side| -> Option<Length> {
        Some(state.predict(Place::Pickup { pickup, side }).ok()?.value)
    };
    let (Some(treble), Some(bass)) = (side(Side::Treble), side(Side::Bass)) else {
        return Vec::new();
    };
    (1..=known.instrument().strings)
        .filter_map(|string| {
            let place = Place::PolePiece { pickup, string };
            let last = state.last(place)?;
            let flush = state.predict(place).ok()?.value;
            let read = last.value.clone()?;
            let gap = read.middle() + last.drift;
            let share = state.share(state.index(string));
            // What the sides have now, carried across; and what they are to have.
            let even = treble * (1.0 - share) + bass * share;
            let off = gap - even;
            Some(PolePiece {
                string,
                read,
                gap,
                even,
                protrudes: flush - gap,
                follows: flush - even,
                louder: fall.louder(gap.max(Length::ZERO), even.max(Length::from_mm(0.1))),
                screw: record.pole_pitch.is_some(),
                action: if last.fresh == 0 {
                    Action::Measure(vec![Place::PolePiece { pickup, string }])
                } else {
                    pole_turn(record, Adjuster::PolePiece { pickup, string }, off)
                },
                stale: last.fresh == 0,
            })
        })
        .collect()
}

/// The turn of a pole's screw that puts it right, where there is one to make.
fn pole_turn(record: &PickupRecord, adjuster: Adjuster, off: Length) -> Action {
    let Some(pitch) = &record.pole_pitch else {
        return Action::Leave;
    };
    let pitch = pitch.middle();
    let turns_exact = Turns::new(off.ratio(pitch));
    let turns = rounded_turns(turns_exact);
    if off.abs() <= POLE_TOLERANCE || turns == Turns::ZERO {
        return Action::Leave;
    }
    // A pole piece is a screw in its coil: it comes nearer as it is unscrewed (common practice).
    let rotation = if turns > Turns::ZERO {
        Rotation::Counterclockwise
    } else {
        Rotation::Clockwise
    };
    Action::Adjust(Box::new(Move {
        adjuster,
        amount: Amount::turns(turns),
        rotation: Some(rotation),
        distance: off,
        total: turns,
        rounds: 1,
        expected: Vec::new(),
        sum: Sum::Screw {
            turns_exact,
            pitch,
            response: Estimate::new(1.0, 0.0),
        },
    }))
}

impl PickupPlan {
    /// One of its sides.
    pub const fn side(&self, side: Side) -> &PickupSide {
        &self.sides[side.index()]
    }
}

impl PickupsPlan {
    /// The first side that wants something: its pickup by place, and which. One that waits for the reading of another leads
    /// to that one.
    pub fn wanting(&self) -> Option<(usize, Side)> {
        self.pickups.iter().enumerate().find_map(|(index, pickup)| {
            let mut sides = pickup.sides.iter();
            let side = sides.find(|side| side.action != Action::Leave)?;
            let asked = match &side.action {
                Action::Measure(places) => places.first(),
                _ => None,
            };
            Some(match asked {
                Some(Place::Pickup { pickup, side }) => (usize::from(*pickup), *side),
                _ => (index, side.side),
            })
        })
    }

    /// Whether the gap of any was read.
    pub fn read_any(&self) -> bool {
        let mut sides = self.sides();
        sides.any(|(_, side)| side.quantity.last.is_some())
    }

    /// Every side of every pickup, with the pickup.
    pub fn sides(&self) -> impl Iterator<Item = (&PickupPlan, &PickupSide)> {
        self.pickups
            .iter()
            .flat_map(|pickup| pickup.sides.iter().map(move |side| (pickup, side)))
    }
}

impl Station for PickupsPlan {
    fn id(&self) -> StationId {
        StationId::Pickups
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        let mut tasks = Vec::new();
        for pickup in &self.pickups {
            for side in &pickup.sides {
                tasks.push(Task::new(Vec::new(), side.action.clone()));
            }
            for pole in &pickup.poles {
                if pole.action.next_move().is_some() {
                    tasks.push(Task::new(vec![pole.string], pole.action.clone()));
                }
            }
        }
        tasks
    }

    fn findings(&self, _: &Known) -> Vec<Finding> {
        let mut found = Vec::new();
        let near: Vec<(String, Side)> = self
            .sides()
            .filter(|(_, side)| side.too_near)
            .map(|(pickup, side)| (pickup.name.clone(), side.side))
            .collect();
        if !near.is_empty() {
            found.push(Finding::TooNear(near));
        }
        for (pickup, side) in self.sides() {
            if let Action::Stop(Stop::AtEnd { end, short_by, .. }) = side.action {
                found.push(Finding::PickupSpent {
                    pickup: pickup.name.clone(),
                    side: side.side,
                    end,
                    squeezed: side.squeezed,
                    short_by,
                });
            }
        }
        found
    }

    fn mark(&self) -> Mark {
        if self.pickups.is_empty() {
            return Mark::Unread;
        }
        let quantities: Vec<&Quantity> = self.sides().map(|(_, side)| &side.quantity).collect();
        let left = self.sides().all(|(_, side)| side.action.is_leave());
        settled(mark_of(quantities.into_iter(), false), left)
    }

    /// Poles are a matter of choice, and do not keep the work here.
    fn has_work(&self, _: &Known) -> bool {
        self.sides().any(|(_, side)| side.action.is_work())
    }
}
