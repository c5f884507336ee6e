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

mod landing;
mod ranges;

use gradimen_core::quantity::{Angle, Cents, Estimate, Force, Length, Rate, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::LengthUnit;
use gradimen_core::vibrato::Held;

use crate::decision::Finish;
use crate::decision::{
    Action, CLOSED, Decision, Expectation, Expected, IN_SPEC, Judged, Mark, Move, Odds, Rule,
    Station, StationId, Stop, Sum, Task, Verdict, WORTH,
};
use crate::estimate::Estimate as Known;
use crate::estimate::balance::Balance;
use crate::estimate::state::State;
use crate::estimate::state::layout::Part;
use crate::estimate::swings::PULLED_UP;
use crate::finding::Finding;
use crate::model::hardware::{VibratoKind, VibratoRecord};
use crate::model::{Adjuster, Amount, BalanceSchool, Measurement, Place, Side, Tool};
use crate::stations::action::HeightPlan;

/// An adjuster is moved by no more than this before the strings are brought back to pitch.
const MOST_TURNS: f64 = 4.0;
/// Turned for it, it is given so much of what a bend asks for.
const SPARE: f64 = 1.2;
/// A claw does what was worked out within this share: arms are read with a rule.
const MOVES_WITHIN: f64 = 0.15;
/// A claw is turned again before all strings are set only where the gap would end this many tolerances off.
const FAR: f64 = 2.0;
/// A decked plate with this share of that is let be (from memory).
const ENOUGH_SPARE: f64 = 0.7;
/// A decked plate stays down through a bend of so many semitones on one string.
const BEND_SEMITONES: f64 = 2.0;
/// Screws of a claw hold over so much either way from where the sheet has it (from memory).
const CLAW_TRAVEL: Length = Length::from_mm(14.0);
/// A plate may wait for its saddles so far under and over its target.
const BELOW: Length = Length::from_mm(2.5);
const ABOVE: Length = Length::from_mm(1.5);
/// A plate may be let up so far over its target at once.
const UP_AT_ONCE: Length = Length::from_mm(4.0);
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
    /// How probable it is that it is right, with the heights to come.
    pub odds: Odds,
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
    /// The order in which strings are tuned after the claw was turned, each so far off that all land: thickest first, each
    /// once. Empty where the plate does not float, nobody knows what its claw does, or a string would have to go so sharp that
    /// it might break.
    pub landing: Vec<(u8, Cents)>,
    /// Whether it would run away where it is wanted: lifted a little it is pulled up further.
    pub runs_away: bool,
}

/// A small float (common practice: 2 to 3 mm).
const SMALL_FLOAT: Length = Length::from_mm(2.5);
/// Only turns finer than this may pass the target by as much as they were short of it (from memory).
const FINE: f64 = 0.25;
/// A claw of which nobody knows what it does is turned by half a turn first (common practice) ...
const FIRST_TURN: f64 = 0.5;
/// ... which is when the gap after all of it would be known no better than this many tolerances.
const UNSURE: f64 = 2.0;
/// A gap known no better than this many tolerances is no number to go by (from memory).
const LOST: f64 = 4.0;

/// The gap that is wanted.
fn wanted(known: &Known, state: &State) -> Length {
    let level = state
        .sheet
        .as_ref()
        .map_or(Length::ZERO, |sheet| sheet.record.level_gap.middle());
    match known.balance_school() {
        // A tail knows one place to rest at.
        _ if !state.sheet.as_ref().is_some_and(|sheet| sheet.has_claw()) => level,
        BalanceSchool::Decked => Length::ZERO,
        BalanceSchool::SmallFloat => level + SMALL_FLOAT,
        BalanceSchool::Level => level,
    }
}

/// Lays the plate of the finished state where it is to rest: heights are set for that. Says the angle.
pub(crate) fn rest_wanted(known: &Known, end: &mut Finish) -> Option<f64> {
    let state = known.state();
    let sheet = state.sheet.as_ref()?;
    let target = wanted(known, state).mm();
    let gap = state.at.part(Part::Gap);
    if sheet.carries {
        // One that lies on the body lies there however hard.
        let flat = target == 0.0 && end.x[gap] < 0.0;
        if !flat {
            end.x[gap] = target;
        }
        end.lie = state.lie_in(&end.x);
    }
    Some(state.angle_of(&end.x, target))
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
    /// Works the station out, and turns the claw of the finished state `end`, in which the strings already lie where
    /// they are to; nothing for bridges without a vibrato on record.
    pub(crate) fn of(
        known: &Known,
        rule: Rule,
        heights: &HeightPlan,
        rests: Option<f64>,
        end: &mut Finish,
    ) -> Option<Self> {
        let state = known.state();
        let balance = Balance::of(state)?;
        let rests = rests?;
        let strings = held(known);
        let target = wanted(known, state);
        let gap = Place::Gap;
        let now = state
            .predict(gap)
            .unwrap_or(Estimate::new(target, Length::from_mm(1.0)));
        // Beyond the ends of its way it does not stand, whatever pulls.
        let dived = balance.gap_of(balance.dive_end());
        let now = Estimate::new(
            now.value.max(Length::ZERO).min(dived.max(target)),
            now.sigma,
        );
        let hardest = strings
            .iter()
            .map(|held| held.tension)
            .fold(Force::ZERO, Force::max);
        let spare_wanted = hardest * (2f64.powf(BEND_SEMITONES / 6.0) - 1.0);
        let last = state.last(gap);
        let mut plan = Self {
            now,
            last: last.map(|last| (last.written.clone(), known.gap_reads())),
            last_gap: last.map(|last| {
                let read = last.value.as_ref();
                read.map_or(Length::ZERO, |read| read.middle())
            }),
            target,
            tolerance: known.targets().gap_tolerance(),
            school: known.balance_school(),
            odds: Odds::of(0.0, 0.0, (0.0, 0.0)),
            verdict: Verdict::Unread,
            action: Action::Leave,
            pull: balance.pull,
            spare: balance.plate.held_down(balance.pull, &balance.springs),
            spare_wanted,
            ranges: ranges::ranges(&balance, &strings),
            broken: ranges::broken(&balance, &strings),
            claw: (balance.claw, balance.claw),
            angle: balance.angle,
            hooks: ranges::hooks(&balance),
            rate: balance.rate,
            rate_wanted: balance.plate.rate_found(
                balance.pull,
                &balance.springs,
                balance.angle_of(target),
            ),
            ends: known.claw_ends(),
            claw_spent: false,
            can: true,
            enough: None,
            landing: Vec::new(),
            runs_away: false,
            record: balance.record.clone(),
        };
        plan.decide(known, rule, heights, rests, end);
        plan.landing = landing::landing(&plan, known, &balance, &strings);
        Some(plan)
    }

    fn decide(
        &mut self,
        known: &Known,
        rule: Rule,
        heights: &HeightPlan,
        rests: f64,
        end: &mut Finish,
    ) {
        let state = known.state();
        let has_claw = self.record.kind == VibratoKind::BodySprings;
        let decked = has_claw && self.school == BalanceSchool::Decked;
        // A decked plate is held for the pull of a bend at the angle at which it lies down.
        let harder = if decked {
            self.spare_wanted.ratio(self.pull) * SPARE
        } else {
            0.0
        };
        let further = state.claw_for(&end.x, rests, self.record.springs, harder);
        let distance = further.map(Length::from_mm);
        self.claw.1 = self.claw.0 + distance.unwrap_or(Length::ZERO);
        let reached = distance.is_some_and(|distance| self.reaches(distance));
        self.can = reached;
        if !reached {
            self.enough = self.holding(1..=MOST_SPRINGS, state, end, rests, harder);
        }
        // As the plate would rest with the heights to come and its claw where it is.
        let rests_at = state.rests_after(state, state.mean(), &end.x, 0.0);
        let gap = Length::from_mm(rests_at);
        let off = gap - self.target;
        let judged = self.judged(known, off, decked);
        self.odds = judged.odds();
        let fresh = known.gap_reads();
        // Held down for a bend, under the strings as they are to lie: whether its claw would have to go in for that.
        let least = self.a_turn(state) * (self.finest() / 2.0);
        let spare = !decked
            || state
                .claw_for(&end.x, rests, self.record.springs, harder * ENOUGH_SPARE)
                .is_some_and(|further| Length::from_mm(further) <= least);
        let now = Odds::of(self.off().mm(), self.now.sigma.mm(), judged.allowed);
        self.verdict = match now.verdict() {
            _ if self.last.is_none() && !rule.assumed => Verdict::Unread,
            _ if fresh == 0 && now.within < CLOSED && !rule.assumed => Verdict::MeasureAgain,
            Verdict::InSpec if !spare => Verdict::TooHigh,
            verdict => verdict,
        };
        let straight = self.apart() == Length::ZERO;
        let mut decision = judged.decide(rule);
        // Pulled right up, reading it again tells nothing.
        let right_up = state.lie().held && self.now.value > self.target + self.tolerance;
        if decision == Decision::Measure && fresh > 0 && right_up {
            decision = Decision::Move;
        }
        // While strings are still to be moved the gap is on its way: what it is off by at the end is seen at the end, unless
        // it is surely far off. Then the claw goes to its last place at once, if the plate stays about where it is wanted
        // until the saddles follow; else only so far that it lies there under the strings as they are, for a plate that
        // hangs far off is no place to set heights on, and one that is let up for saddles to come runs away.
        let coarse = off.abs() > self.tolerance * FAR + self.now.sigma;
        let waits = has_claw && !decked && heights.moves_any();
        let (mut distance, mut judged) = (distance, judged);
        if waits
            && reached
            && fresh > 0
            && !rule.assumed
            && let Some(last) = distance
        {
            let next = state.rests_after(state, state.mean(), state.mean(), last.mm());
            let next = Length::from_mm(next) - self.target;
            if next < -BELOW || next > ABOVE {
                let here = state.claw_for(state.mean(), rests, self.record.springs, harder);
                distance = here.map(Length::from_mm);
                judged.off = self.off().mm();
                let stands = self.off();
                // Once saddles are on their way it is let stand wider, or the claw would follow every one of them.
                let away = if heights.begun(known) {
                    stands < -BELOW || stands > ABOVE
                } else {
                    stands.abs() > self.tolerance * FAR + self.now.sigma
                };
                decision = if away {
                    Decision::Move
                } else {
                    Decision::Leave
                };
            } else if !coarse {
                decision = Decision::Leave;
            }
        }
        let reached = reached && distance.is_some_and(|distance| self.reaches(distance));
        if decision == Decision::Leave && !(spare && straight) {
            decision = Decision::Move;
        }
        // What a claw, a spring or other strings did is read: before it is turned (again), and before it is let be.
        if decision != Decision::Measure && fresh == 0 && !rule.assumed && !waits {
            decision = Decision::Measure;
        }
        let unread = heights.unread_places(rule);
        self.action = match decision {
            Decision::Measure => Action::Measure(if has_claw && !decked && fresh == 0 {
                // On a float heights and gap are one: all of them are read before its claw is turned.
                std::iter::once(Place::Gap).chain(unread).collect()
            } else {
                vec![Place::Gap]
            }),
            Decision::Leave => Action::Leave,
            Decision::Move
                if has_claw && !decked && !unread.is_empty() && judged.odds().within < IN_SPEC =>
            {
                Action::Measure(unread)
            }
            Decision::Move => match distance {
                Some(distance) if reached => {
                    let wanted = if spare && judged.odds().within >= IN_SPEC {
                        Length::ZERO
                    } else {
                        distance
                    };
                    let step = self.claw_move(known, wanted);
                    if moves(&step) && (decked || !straight || self.betters(known, &step, &judged))
                    {
                        Action::Adjust(Box::new(step))
                    } else {
                        // Half a washer is none, and the finest turn may pass the target by as much as it was short.
                        Action::Leave
                    }
                }
                _ => Action::Stop(Stop::Springs {
                    enough: self.enough,
                }),
            },
        };
        // A plate that was read at both ends of its way, time after time, rests nowhere between: no turn is fine enough.
        let unsteady = known.has_no_rest() && has_claw && !decked;
        if unsteady && matches!(self.action, Action::Adjust(_)) {
            let more = self.record.springs + 1..=MOST_SPRINGS;
            let enough = self.holding(more, state, end, rests, harder);
            self.action = Action::Stop(Stop::Springs { enough });
        }
        let turned = matches!(self.action, Action::Adjust(_));
        if !(turned || state.is_assumed() && !decked && reached) {
            end.x[state.at.part(Part::Gap)] = rests_at;
        }
        end.lie = state.lie_in(&end.x);
        // On the body there is nothing to run away from.
        self.runs_away =
            unsteady || !decked && reached && has_claw && state.runs_away(&end.x, rests);
        self.claw_spent = fresh > 0 && decision == Decision::Move && distance.is_some() && !reached;
    }

    fn judged(&self, known: &Known, off: Length, decked: bool) -> Judged {
        let tolerance = self.tolerance.mm();
        let state = known.state();
        let last = state.last(Place::Gap);
        let tool = last
            .and_then(|last| last.value.as_ref()?.tool)
            .unwrap_or(Tool::RuleHalfMm);
        Judged {
            off: off.mm(),
            sigma: self.now.sigma.mm(),
            // Flat on the body is flat, however hard it lies there.
            allowed: (if decked { 100.0 } else { tolerance }, tolerance),
            reads: known.gap_reads().min(usize::from(last.is_some())),
            fresh: last.map_or(0, |last| last.fresh),
            reading: tool
                .sigma_again(Length::ZERO, last.map_or(0, |last| last.fresh) + 1)
                .mm(),
            fewest: 1,
            moving: (off.mm() * MOVES_WITHIN).abs(),
            closed: CLOSED,
        }
    }

    /// Whether a move brings the gap nearer than it is: it does nothing finer than a sixteenth, or a washer.
    /// The first turn of a claw that nobody knows teaches in any case.
    fn betters(&self, known: &Known, step: &Move, judged: &Judged) -> bool {
        let expected = step.expected.first().and_then(|gap| gap.value.length());
        let unsure = expected.is_some_and(|gap| gap.sigma > self.tolerance * UNSURE);
        if unsure && known.turned(Adjuster::Claw) == Turns::ZERO {
            return true;
        }
        let all = step.total.value();
        let rest = if all == 0.0 {
            0.0
        } else {
            (1.0 - step.turns().value() / all).abs()
        };
        let after = Odds::of(judged.off * rest, judged.sigma, judged.allowed);
        let far = step.rounds > 1 || step.turns().value().abs() > FINE;
        rest < 1.0 && (far || after.within - judged.odds().within > WORTH)
    }

    /// Whether a turn is made to find out what it does, more than to bring the gap right.
    pub fn teaches(&self, step: &Move) -> bool {
        let expected = step.expected.first().and_then(|gap| gap.value.length());
        expected.is_some_and(|gap| gap.sigma > self.tolerance * LOST)
    }

    /// Whether it is a plate with a claw that is to rest on nothing but its springs.
    pub(crate) fn is_let_float(&self) -> bool {
        self.record.kind == VibratoKind::BodySprings && self.school != BalanceSchool::Decked
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

    /// What a turn moves the claw or the seat by.
    fn a_turn(&self, state: &State) -> Length {
        let factor = if self.record.kind == VibratoKind::BodySprings {
            1.0 + state.part(state.mean(), Part::ClawTurn)
        } else {
            1.0
        };
        self.record.claw_pitch.middle() * factor
    }

    /// A claw moves a plate by several times what its screws do: it is set to a sixteenth.
    fn finest(&self) -> f64 {
        if self.record.kind == VibratoKind::BodySprings {
            1.0 / 16.0
        } else {
            1.0 / 8.0
        }
    }

    fn claw_move(&self, known: &Known, distance: Length) -> Move {
        let state = known.state();
        let claw = self.record.kind == VibratoKind::BodySprings;
        let pitch = self.a_turn(state);
        let total = distance.ratio(pitch);
        let finest = self.finest();
        let set = |turns: f64| (turns / finest).round() * finest;
        let apart = (self.apart().ratio(pitch) * 8.0).round() / 8.0;
        let told = |turns: f64| match self.record.kind {
            VibratoKind::BodySprings if apart != 0.0 => {
                (Adjuster::Claw, Amount::Apart { turns, apart })
            }
            VibratoKind::BodySprings => (Adjuster::Claw, Amount::Turns { turns }),
            VibratoKind::TailSpring | VibratoKind::ArmSpring => {
                (Adjuster::Seat, Amount::Turns { turns })
            }
        };
        // In the state a seat goes by a distance.
        let moved = |turns: f64| match told(turns) {
            (Adjuster::Seat, _) => (
                Adjuster::Seat,
                Amount::Distance {
                    distance: Measurement::exact(pitch * turns, LengthUnit::Millimetre),
                },
            ),
            told => told,
        };
        let gap_after = |turns: f64| {
            let found = state.expect_length(&[moved(turns)], Place::Gap);
            found.map_or(self.now, |found| {
                Estimate::new(found.value.max(Length::ZERO), found.sigma)
            })
        };
        let within = total.clamp(-MOST_TURNS, MOST_TURNS);
        let mut step = match self.record.kind {
            VibratoKind::ArmSpring => within.round(),
            _ if total != 0.0 && set(within) == 0.0 => finest * total.signum(),
            _ => set(within),
        };
        let decked = self.school == BalanceSchool::Decked;
        let unsure = !decked && gap_after(step).sigma > self.tolerance * UNSURE;
        if claw && unsure && step != 0.0 && known.turned(Adjuster::Claw) == Turns::ZERO {
            // Out, the plate comes up: not further than it is thought to have to. In, it lies down at worst.
            let most = if step > 0.0 { FIRST_TURN } else { -step };
            step = step.signum() * most.min(FIRST_TURN);
        }
        // A claw that comes out lets the plate up: never so far at once that it might run away.
        let too_far = |turns: f64| {
            let after = gap_after(turns);
            after.value + after.sigma * 2.0 > self.target + UP_AT_ONCE
        };
        while claw && step < -FIRST_TURN && too_far(step) {
            step = set(step / 2.0).min(-FIRST_TURN);
        }
        let (adjuster, amount) = told(step);
        let per_turn = (gap_after(0.25).value - gap_after(0.0).value) * 4.0;
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
            rounds: (total.abs() / step.abs().max(finest))
                .round()
                .clamp(1.0, 9.0) as u32,
            expected: vec![Expected {
                place: Place::Gap,
                value: Expectation::Length(gap_after(step)),
            }],
            sum: Sum::Claw { per_turn },
        }
    }

    /// How many springs of some numbers could hold the plate where it is wanted.
    fn holding(
        &self,
        mut counts: std::ops::RangeInclusive<u8>,
        state: &State,
        end: &Finish,
        angle: f64,
        harder: f64,
    ) -> Option<u8> {
        if self.record.kind != VibratoKind::BodySprings {
            return None;
        }
        counts.find(|count| {
            let distance = state.claw_for(&end.x, angle, *count, harder);
            distance.is_some_and(|distance| self.reaches(Length::from_mm(distance)))
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
        Amount::Ends { .. } | Amount::Springs { .. } | Amount::Reversed => true,
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
