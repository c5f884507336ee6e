//! The balance station: what to do about the vibrato, and what the plate does to every string.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/floating-vibrato.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let balance = plan.balance.as_ref().ok_or("a vibrato with springs")?;
//! assert_eq!(balance.ranges.len(), usize::from(known.instrument().strings));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod ranges;

use gradimen_core::quantity::{Angle, Cents, Estimate, Force, Length, Rate, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::vibrato::Held;

use crate::decision::{
    Action, Decision, Expectation, Expected, Mark, Move, Station, StationId, Stop, Sum, Task,
    Verdict,
};
use crate::estimate::Estimate as Known;
use crate::estimate::balance::{Balance, CLAW, RATE, REST_SIGMA_MM};
use crate::finding::Finding;
use crate::model::hardware::{VibratoKind, VibratoRecord};
use crate::model::{Adjuster, Amount, BalanceSchool, Place, Side};

/// An adjuster is moved by no more than this before the strings are brought back to pitch.
const MOST_TURNS: f64 = 4.0;
/// A decked plate stays down through a bend of so many semitones on one string.
const BEND_SEMITONES: f64 = 2.0;
/// Screws of a claw hold over so much either way from where the sheet has it (from memory).
const CLAW_TRAVEL: Length = Length::from_mm(14.0);
/// Seats of pressed springs go no further than this (from memory).
const SEAT_TRAVEL: Length = Length::from_mm(7.0);
/// A claw is screwed in no nearer to the wall than this (from memory).
const WALL: Length = Length::from_mm(1.0);
/// A claw within so much of parallel is parallel: what a rule can tell.
const PARALLEL: Length = Length::from_mm(0.5);
/// Hooks there are for springs (common practice).
const MOST_SPRINGS: u8 = 5;
/// The dive that is shown: the tail so much higher.
pub const DIVE: Length = Length::from_mm(5.0);
/// Flatter than this a string lies on the pole pieces.
const SLACK: Cents = Cents::new(-3600.0);
/// A pulled spring stretched to so many times its length does not come back (from memory).
const OVERSTRETCHED: f64 = 2.0;

/// A spring as it hangs at rest.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hook {
    /// From hook to hook, or from seat to seat.
    pub length: Length,
    /// How hard it pulls or pushes.
    pub pull: Force,
    /// Its share of what answers the strings.
    pub share: f64,
    /// Whether it hangs loose or is stretched too far.
    pub at_end: bool,
}

/// What the plate does to a string.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Range {
    /// Which string.
    pub string: u8,
    /// How far it can be pulled up until it goes no further.
    pub up: Cents,
    /// How far it falls when the tail is raised by [`DIVE`], or a tail is dived to its end; nothing
    /// when it is slack then.
    pub dive: Option<Cents>,
    /// How far the others fall when this one is bent a whole step.
    pub bent: Cents,
}

/// The balance station.
#[derive(Debug, Clone, PartialEq)]
pub struct BalancePlan {
    /// As recorded, with the springs that are on.
    pub record: VibratoRecord,
    /// The gap now, at pitch.
    pub now: Estimate<Length>,
    /// The last reading, and how often it was read since the claw was turned.
    pub last: Option<(String, usize)>,
    /// What was read then; zero when it lay flat.
    pub last_gap: Option<Length>,
    /// The gap that is wanted.
    pub target: Length,
    /// How far off it may be.
    pub tolerance: Length,
    /// The school it is wanted by.
    pub school: BalanceSchool,
    /// How it stands.
    pub verdict: Verdict,
    /// What to do.
    pub action: Action,
    /// The pull of all strings.
    pub pull: Force,
    /// What holds a decked plate down beyond the strings; negative when it is up.
    pub spare: Force,
    /// What that has to be.
    pub spare_wanted: Force,
    /// Pull-up range and the answer to a bend, string by string.
    pub ranges: Vec<Range>,
    /// How far the others go sharp when the thickest string breaks.
    pub broken: Option<Cents>,
    /// How far in the claw stands, and where it is wanted.
    pub claw: (Length, Length),
    /// Angle of the plate now.
    pub angle: Angle,
    /// The springs, from the bass side.
    pub hooks: Vec<Hook>,
    /// The rate of one spring by everything that was read.
    pub rate: Estimate<Rate>,
    /// The rate that would rest it where it is wanted, the adjuster where it stands.
    pub rate_wanted: Option<Rate>,
    /// From claw to wall, where that was read: treble, bass.
    pub ends: Option<[Length; 2]>,
    /// Whether the claw would stand at its wall or out of its thread.
    pub claw_spent: bool,
    /// Whether these springs can hold it where it is wanted, the adjuster within its reach.
    pub can: bool,
    /// How many could, where these cannot.
    pub enough: Option<u8>,
    /// How the crowns go with the move that is planned: back, and up; nothing where none is.
    pub to_come: (Length, Length),
    /// Whether it would run away where it is wanted: lifted a little it is pulled up further.
    pub runs_away: bool,
}

fn read() -> Action {
    Action::Measure(vec![Place::Gap])
}

fn held(known: &Known) -> Vec<Held> {
    let anchors = known.anchors();
    (1..)
        .zip(known.strings())
        .map(|(string, state)| {
            let scale = known.speaking_scale(string);
            Held {
                tension: state.tension(scale),
                stretch: state.spec.stretch_stiffness(),
                free: scale + anchors.behind_saddle + anchors.behind_nut,
                speaking: scale,
            }
        })
        .collect()
}

impl BalancePlan {
    /// Works the station out; nothing for bridges without a vibrato on record.
    pub fn of(known: &Known) -> Option<Self> {
        let balance = known.balance()?;
        let strings = held(known);
        let springs = balance.springs();
        let angle = balance.rest();
        let gap = balance.gap_of(angle);
        let target = balance.target();
        let now = Estimate::new(gap, balance.gap_sigma());
        let hardest = strings
            .iter()
            .map(|held| held.tension)
            .fold(Force::ZERO, Force::max);
        let spare_wanted = hardest * (2f64.powf(BEND_SEMITONES / 6.0) - 1.0);
        let spare = balance.plate.held_down(balance.pull, &springs);
        let mut plan = Self {
            record: balance.record.clone(),
            now,
            last: balance.last.clone(),
            last_gap: balance.last_gap,
            target,
            tolerance: known.targets().gap_tolerance(),
            school: balance.school,
            verdict: Verdict::Unread,
            action: read(),
            pull: balance.pull,
            spare,
            spare_wanted,
            ranges: ranges::ranges(balance, &strings, &springs, angle),
            broken: ranges::broken(balance, &strings, &springs, angle),
            claw: (Length::from_mm(balance.filter.x[CLAW]), Length::ZERO),
            angle,
            hooks: ranges::hooks(balance, &springs, angle),
            rate: balance.rate(),
            rate_wanted: balance
                .plate
                .rate_found(balance.pull, &springs, balance.angle_of(target)),
            ends: balance.ends,
            claw_spent: false,
            can: true,
            enough: None,
            to_come: (Length::ZERO, Length::ZERO),
            runs_away: false,
        };
        plan.decide(balance);
        Some(plan)
    }

    fn decide(&mut self, balance: &Balance) {
        let decked = balance.has_claw() && self.school == BalanceSchool::Decked;
        // A decked plate is held for the pull of a bend at the angle at which it lies down.
        let (pull, angle) = if decked {
            (self.pull + self.spare_wanted, balance.up_end())
        } else {
            (self.pull, balance.angle_of(self.target))
        };
        let further = balance.claw_for(pull, angle);
        self.claw.1 = self.claw.0 + further.unwrap_or(Length::ZERO);
        let reached = further.is_ok_and(|distance| self.reaches(distance));
        self.can = reached;
        if !reached {
            self.enough = self.count_enough(balance, pull, angle);
        }
        let there = balance.springs_at(
            self.claw.1.mm(),
            balance.filter.x[RATE],
            balance.record.springs,
        );
        // On the body there is nothing to run away from.
        self.runs_away = !decked && reached && balance.plate.steadiness(pull, &there, angle) <= 0.0;
        let fresh = self.last.as_ref().map_or(0, |(_, fresh)| *fresh);
        let off = self.off();
        let right = if decked {
            self.now.value <= self.tolerance && self.spare >= self.spare_wanted * 0.85
        } else {
            off.abs() <= self.tolerance
        };
        self.verdict = match (fresh, right) {
            (0, _) if self.last.is_none() => Verdict::Unread,
            (0, _) => Verdict::MeasureAgain,
            (_, true) => Verdict::InSpec,
            _ if off > Length::ZERO || (decked && self.spare < self.spare_wanted) => {
                Verdict::TooHigh
            }
            _ => Verdict::TooLow,
        };
        // Its gap is read once a round: the strings are brought to pitch for it, which settles the plate.
        let decision = match (fresh, right && self.apart() == Length::ZERO) {
            (0, _) => Decision::Unread,
            (_, true) => Decision::Leave,
            (_, false) => Decision::Move,
        };
        self.action = match (decision, further) {
            (Decision::Unread | Decision::Again, _) => read(),
            (Decision::Leave, _) => Action::Leave,
            (Decision::Move, _) if right => {
                Action::Adjust(Box::new(self.claw_move(balance, Length::ZERO)))
            }
            (Decision::Move, Ok(distance)) if reached => {
                let step = self.claw_move(balance, distance);
                if moves(&step) {
                    Action::Adjust(Box::new(step))
                } else {
                    // Half a washer is none.
                    Action::Leave
                }
            }
            (Decision::Move, _) => Action::Stop(Stop::Springs {
                enough: self.enough,
            }),
        };
        if balance.has_claw()
            && let Action::Adjust(step) = &self.action
        {
            let (claw, rate) = (balance.filter.x[CLAW], balance.filter.x[RATE]);
            let after = balance.rest_at(claw + step.distance.mm(), rate);
            self.to_come = balance.crowns(self.angle, after);
        }
        self.claw_spent = fresh > 0 && !right && further.is_ok() && !reached;
    }

    /// Whether the adjuster can go so far.
    fn reaches(&self, distance: Length) -> bool {
        let most = match self.record.kind {
            VibratoKind::BodySprings => CLAW_TRAVEL,
            VibratoKind::TailSpring | VibratoKind::ArmSpring => SEAT_TRAVEL,
        };
        let wall = self
            .ends
            .is_none_or(|ends| (ends[0] + ends[1]) * 0.5 - distance >= WALL);
        (self.claw.0 + distance).abs() <= most && wall
    }

    /// How much further in the bass side of the claw is to go than its middle; nothing where it is
    /// parallel.
    fn apart(&self) -> Length {
        let apart = self
            .ends
            .map_or(Length::ZERO, |[treble, bass]| (bass - treble) * 0.5);
        if apart.abs() * 2.0 <= PARALLEL {
            Length::ZERO
        } else {
            apart
        }
    }

    fn claw_move(&self, balance: &Balance, distance: Length) -> Move {
        let pitch = balance.record.claw_pitch.middle();
        let total = distance.ratio(pitch);
        let eighths = |turns: f64| (turns * 8.0).round() / 8.0;
        let within = total.clamp(-MOST_TURNS, MOST_TURNS);
        let step = match balance.record.kind {
            VibratoKind::ArmSpring => within.round(),
            _ if total != 0.0 && eighths(within) == 0.0 => 0.125 * total.signum(),
            _ => eighths(within),
        };
        let (claw, rate) = (balance.filter.x[CLAW], balance.filter.x[RATE]);
        let after = balance.rest_at(claw + pitch.mm() * step, rate);
        let one = balance.rest_at(claw + pitch.mm() * 0.25, rate);
        let per_turn = (balance.gap_of(one) - self.now.value) * 4.0;
        let wider = Length::from_mm(
            self.now
                .sigma
                .mm()
                .hypot(per_turn.mm() * step * 0.15)
                .hypot(REST_SIGMA_MM),
        );
        let apart = eighths(self.apart().ratio(pitch));
        let (adjuster, amount) = match balance.record.kind {
            VibratoKind::BodySprings if apart != 0.0 => {
                (Adjuster::Claw, Amount::Apart { turns: step, apart })
            }
            VibratoKind::BodySprings => (Adjuster::Claw, Amount::Turns { turns: step }),
            VibratoKind::TailSpring | VibratoKind::ArmSpring => {
                (Adjuster::Seat, Amount::Turns { turns: step })
            }
        };
        Move {
            adjuster,
            amount,
            rotation: Some(if step >= 0.0 {
                Rotation::Clockwise
            } else {
                Rotation::Counterclockwise
            }),
            distance,
            total: Turns::new(total),
            rounds: (total.abs() / MOST_TURNS).ceil().max(1.0) as u32,
            expected: vec![Expected {
                place: Place::Gap,
                value: Expectation::Length(Estimate::new(balance.gap_of(after), wider)),
            }],
            sum: Sum::Claw { per_turn },
        }
    }

    /// How many springs could hold the plate where it is wanted.
    fn count_enough(&self, balance: &Balance, pull: Force, angle: Angle) -> Option<u8> {
        if !balance.has_claw() {
            return None;
        }
        (1..=MOST_SPRINGS).find(|count| {
            let hooked = balance.springs_at(balance.filter.x[CLAW], balance.filter.x[RATE], *count);
            balance
                .plate
                .claw_for(pull, &hooked, angle)
                .is_ok_and(|distance| self.reaches(distance))
        })
    }

    /// By how much the gap is off what is wanted.
    pub fn off(&self) -> Length {
        self.now.value - self.target
    }

    /// The move, where there is one.
    pub fn next_move(&self) -> Option<&Move> {
        self.action.next_move()
    }
}

/// Whether a move goes anywhere at all.
fn moves(step: &Move) -> bool {
    match &step.amount {
        Amount::Turns { turns } => *turns != 0.0,
        Amount::Apart { turns, apart } => *turns != 0.0 || *apart != 0.0,
        Amount::Distance { distance } => distance.middle() != Length::ZERO,
        Amount::Springs { .. } | Amount::Reversed => true,
    }
}

/// What a side's screw of a claw is turned by.
pub fn turns_of_side(step: &Move, side: Side) -> Turns {
    let apart = match step.amount {
        Amount::Apart { apart, .. } => Turns::new(apart),
        _ => Turns::ZERO,
    };
    match side {
        Side::Treble => step.turns() - apart,
        Side::Bass => step.turns() + apart,
    }
}

/// Pulled up by more than a float asks for.
const PULLED_UP: Length = Length::from_mm(5.0);

impl Station for BalancePlan {
    fn id(&self) -> StationId {
        StationId::Balance
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        let whole = match &self.action {
            Action::Adjust(step) => {
                let sigma = step
                    .expected
                    .first()
                    .and_then(|expected| expected.value.length())
                    .map_or(Length::ZERO, |value| value.sigma);
                Action::Adjust(Box::new(Move {
                    expected: vec![Expected {
                        place: Place::Gap,
                        value: Expectation::Length(Estimate::new(self.target, sigma)),
                    }],
                    ..step.as_ref().clone()
                }))
            }
            other => other.clone(),
        };
        vec![Task {
            strings: Vec::new(),
            next: self.action.clone(),
            whole,
        }]
    }

    fn findings(&self, _: &Known) -> Vec<Finding> {
        let mut found = Vec::new();
        let claw = self.record.kind == VibratoKind::BodySprings;
        if self.claw_spent {
            found.push(Finding::ClawSpent {
                by: self.claw.1 - self.claw.0,
                claw,
                rate: self.rate_wanted,
            });
        }
        if self.runs_away {
            found.push(Finding::RunsAway);
        }
        if self.last.is_some()
            && let Some(hook) = self.hooks.iter().find(|hook| hook.at_end)
        {
            found.push(Finding::SpringsAtEnd {
                loose: hook.pull == Force::ZERO,
            });
        }
        if let Action::Stop(Stop::Springs { enough }) = self.action {
            found.push(Finding::Springs {
                on: self.record.springs,
                wanted: enough,
            });
        }
        if self.last.is_some() && claw && self.now.value > self.target.max(PULLED_UP) {
            found.push(Finding::PulledUp(self.now.value));
        }
        found
    }

    fn mark(&self) -> Mark {
        match (&self.action, self.verdict) {
            (Action::Stop(_), _) => Mark::Blocked,
            (Action::Leave, _) => Mark::Within,
            (_, Verdict::Unread) => Mark::Unread,
            _ => Mark::Working,
        }
    }

    /// Springs that cannot are work too: others are hooked on here.
    fn has_work(&self, _: &Known) -> bool {
        !self.action.is_leave()
    }
}
