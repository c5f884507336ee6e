//! What another set, tuning, hand, target or spring would change, before the strings come off.
//!
//! The job is folded one event further without writing it; what was read is taken to have moved as
//! the estimate predicts, and the moves that the change would cost are worked out from there.

use gradimen_core::quantity::{Estimate, Force, Length, Turns};
use gradimen_core::tension::{self, Load};
use gradimen_core::units::print::rounded_turns;

use crate::clearance::map_now;
use crate::event::{BalanceSchool, Event, Player, Side, Strung, Targets};
use crate::job::{Job, JobError};
use crate::plan::Plan;
use crate::setup::{HeightAction, NutAction, ReliefAction, SetupPlan};
use crate::strings;

/// A change that is thought of.
#[derive(Debug, Clone, PartialEq)]
pub struct Change {
    /// Strings and tuning.
    pub strung: Strung,
    /// Whose hand.
    pub player: Player,
    /// Other targets, where they are not to follow the hand.
    pub targets: Option<Targets>,
    /// Another way for the vibrato to rest.
    pub school: Option<BalanceSchool>,
    /// Other springs: how many, and whether they converge.
    pub springs: Option<(u8, bool)>,
}

impl Change {
    /// No change yet.
    pub fn none(job: &Job) -> Self {
        Self {
            strung: job.strung(),
            player: job.player().clone(),
            targets: None,
            school: None,
            springs: None,
        }
    }

    /// What would be told to the job to make it so; nothing where nothing changes.
    pub fn events(&self, job: &Job) -> Vec<Event> {
        let mut events = Vec::new();
        if self.strung != job.strung() {
            events.push(Event::Strung {
                strung: self.strung.clone(),
            });
        }
        if self.player != *job.player() {
            events.push(Event::PlayerChanged {
                player: self.player.clone(),
            });
        }
        if let Some(targets) = self
            .targets
            .clone()
            .filter(|wanted| *wanted != job.targets())
        {
            events.push(Event::TargetsSet { targets });
        }
        if let Some(school) = self.school.filter(|school| *school != job.balance_school()) {
            events.push(Event::BalanceWanted { school });
        }
        let hooked = crate::balance::BalancePlan::of(job)
            .map(|balance| (balance.record.springs, balance.record.converging));
        if let Some((count, converging)) = self.springs.filter(|springs| Some(*springs) != hooked) {
            events.push(Event::SpringsHooked { count, converging });
        }
        events
    }
}

/// A length before and after.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pair {
    /// Now.
    pub before: Length,
    /// After the change, before anything is turned.
    pub after: Estimate<Length>,
    /// What it is to be then.
    pub target: Length,
}

/// A string before and after.
#[derive(Debug, Clone, PartialEq)]
pub struct StringChange {
    /// Which.
    pub string: u8,
    /// Its pull before and after.
    pub pull: (Force, Force),
    /// Share of its strength after.
    pub stress: f64,
    /// Whether that is near or beyond what a wire should carry.
    pub load: Load,
    /// How much thicker it is: a slot cut for the old one pinches a thicker string.
    pub thicker: Length,
    /// The gap over fret 1.
    pub nut: Pair,
    /// Its height.
    pub action: Pair,
    /// Where its saddle belongs, before and after, with the doubt of the latter.
    pub setback: (Length, Estimate<Length>),
    /// Way left behind the saddle then.
    pub left: Length,
    /// What its tightest place leaves, before and after.
    pub margin: (Length, Length),
}

/// A move that the change would cost.
#[derive(Debug, Clone, PartialEq)]
pub struct Cost {
    /// What is turned or filed.
    pub adjuster: String,
    /// By how much: the strings up, the saddle away from the neck, the neck's gap wider.
    pub distance: Length,
    /// In turns of its screw, where it has one; the rod positive when tightened.
    pub turns: Option<Turns>,
    /// One standard deviation of the distance.
    pub sigma: Length,
}

/// Everything before and after.
#[derive(Debug, Clone, PartialEq)]
pub struct WhatIf {
    /// What would be told to the job to make it so.
    pub events: Vec<Event>,
    /// Total pull before and after.
    pub total: (Force, Force),
    /// Relief of both sides by the target's school: treble, bass.
    pub relief: [Pair; 2],
    /// String by string.
    pub strings: Vec<StringChange>,
    /// Gaps of the pickups that were read: name, side, before, after.
    pub pickups: Vec<(String, Side, Length, Length)>,
    /// The gap under the vibrato, where there is one.
    pub vibrato: Option<Pair>,
    /// Springs that could not hold it, and how many could.
    pub springs: Option<(u8, Option<u8>)>,
    /// The moves it would cost.
    pub costs: Vec<Cost>,
}

/// A string this much thicker no longer fits the slot of the one before (common practice: a slot is
/// cut two or three thousandths wider than its string).
pub const PINCHES: Length = Length::from_mm(0.06);

impl WhatIf {
    /// Works it out.
    ///
    /// # Errors
    /// The [`JobError`] that the change itself would be refused with.
    pub fn of(job: &Job, change: &Change) -> Result<Self, JobError> {
        let events = change.events(job);
        let mut there = job.clone();
        for event in &events {
            there = there.with(event.clone())?;
        }
        // As if every place had been read just as it is predicted.
        let there = there.as_if_read();
        let (now, then) = (Plan::of(job), Plan::of(&there));
        let pull = |job: &Job| strings::pull(job).total;
        Ok(Self {
            total: (pull(job), pull(&there)),
            relief: [0, 1].map(|side| {
                let (now, then) = (
                    &now.setup.relief.sides[side],
                    &then.setup.relief.sides[side],
                );
                Pair {
                    before: now.now.value,
                    after: then.now,
                    target: then.target,
                }
            }),
            strings: strings_changed(job, &there, &now, &then),
            pickups: pickups(&now.setup, &then.setup),
            vibrato: now
                .balance
                .as_ref()
                .zip(then.balance.as_ref())
                .map(|(now, then)| Pair {
                    before: now.now.value,
                    after: then.now,
                    target: then.target,
                }),
            springs: then
                .balance
                .as_ref()
                .filter(|balance| !balance.can)
                .map(|balance| (balance.record.springs, balance.enough)),
            costs: costs(&there, &now, &then),
            events,
        })
    }
}

fn strings_changed(job: &Job, there: &Job, now: &Plan, then: &Plan) -> Vec<StringChange> {
    let (before, after) = (map_now(job), map_now(there));
    let pair = |now: &crate::setup::Quantity, then: &crate::setup::Quantity| Pair {
        before: now.now.value,
        after: then.now,
        target: then.target,
    };
    (1..=job.instrument().strings)
        .filter_map(|string| {
            let at = usize::from(string - 1);
            let (old, new) = (
                job.string_state(string).ok()?,
                there.string_state(string).ok()?,
            );
            let scale = job.instrument().scale(string);
            let worn = |plan: &Plan| {
                let saddle = plan.saddle_of(string)?;
                let known = saddle
                    .estimate
                    .strings
                    .iter()
                    .find(|on| on.string == string)?;
                Some((known.ideal, known.left.value))
            };
            let ((was, _), (will, left)) = (worn(now)?, worn(then)?);
            let margin = |map: &[crate::clearance::StringMap]| {
                map.get(at)
                    .and_then(crate::clearance::StringMap::worst)
                    .map(|worst| worst.margin)
            };
            let pull = new.tension(scale);
            Some(StringChange {
                string,
                pull: (old.tension(scale), pull),
                stress: tension::stress_share(&new.spec, pull),
                load: tension::load(&new.spec, pull),
                thicker: new.spec.gauge() - old.spec.gauge(),
                nut: pair(
                    &now.setup.nut.strings.get(at)?.quantity,
                    &then.setup.nut.strings.get(at)?.quantity,
                ),
                action: pair(
                    &now.setup.height.strings.get(at)?.quantity,
                    &then.setup.height.strings.get(at)?.quantity,
                ),
                setback: (was.value, will),
                left,
                margin: (margin(&before)?, margin(&after)?),
            })
        })
        .collect()
}

fn pickups(now: &SetupPlan, then: &SetupPlan) -> Vec<(String, Side, Length, Length)> {
    now.pickups
        .iter()
        .zip(&then.pickups)
        .flat_map(|(now, then)| {
            now.sides
                .iter()
                .zip(&then.sides)
                .map(move |sides| (now, sides))
        })
        .filter(|(_, (now, _))| now.quantity.last.is_some())
        .map(|(pickup, (now, then))| {
            (
                pickup.name.clone(),
                now.side,
                now.quantity.now.value,
                then.quantity.now.value,
            )
        })
        .collect()
}

/// The moves, each on the instrument as the ones before leave it.
fn costs(there: &Job, now: &Plan, then: &Plan) -> Vec<Cost> {
    let setup = &then.setup;
    let mut found = Vec::new();
    if let Some(balance) = &then.balance {
        let distance = balance.claw.1 - balance.claw.0;
        let turns = distance.ratio(balance.record.claw_pitch.middle());
        let off = balance.off().abs() > crate::balance::TOLERANCE;
        // A decked plate lies where it should; what holds it there may not be enough, or far too much.
        let decked =
            balance.target == Length::ZERO && distance > balance.record.claw_pitch.middle();
        if balance.can && (off || decked) {
            found.push(Cost {
                adjuster: balance.record.kind.adjuster().to_owned(),
                distance,
                turns: Some(Turns::new(turns)),
                sigma: distance.abs() * 0.2,
            });
        }
    }
    if let ReliefAction::Turn(step) = &setup.relief.action {
        let doubt = step.off.abs() * step.doubt;
        found.push(Cost {
            adjuster: "rod".to_owned(),
            distance: -step.off,
            turns: Some(step.total),
            sigma: doubt.max(setup.relief.sides[1].now.sigma),
        });
    }
    for slot in &setup.nut.strings {
        if let NutAction::File { total, .. } = slot.action {
            found.push(Cost {
                adjuster: format!("nut slot of string {}", slot.string),
                distance: -total,
                turns: None,
                sigma: slot.quantity.now.sigma,
            });
        }
    }
    for adjuster in &setup.height.adjusters {
        if let HeightAction::Turn(step) = &adjuster.action {
            let sigma = step
                .expected
                .first()
                .map_or(Length::ZERO, |(_, value)| value.sigma);
            found.push(Cost {
                adjuster: format!("height, {}", adjuster.adjuster.name()),
                distance: step.distance,
                turns: Some(step.turns),
                sigma,
            });
        }
    }
    let screws = &there.instrument().bridge.intonation;
    let back = then
        .balance
        .as_ref()
        .map_or(Length::ZERO, |balance| balance.to_come.0);
    for (saddle, was) in then.saddles.iter().zip(&now.saddles) {
        // From where it will stand, where that is known; from where it belongs now, where it is not.
        let from = if saddle.estimate.placed {
            saddle.estimate.setback.value + back
        } else {
            was.target.value
        };
        let distance = saddle.target.value - from;
        let turns = rounded_turns(Turns::new(
            distance.ratio(screws.pitch.middle()) / saddle.estimate.response.value,
        ));
        if turns != Turns::ZERO && distance.abs() > Length::from_mm(0.15) {
            let names: Vec<String> = saddle.strings().map(|string| string.to_string()).collect();
            found.push(Cost {
                adjuster: format!("saddle of string {}", names.join(" and ")),
                distance,
                turns: Some(turns),
                sigma: saddle.target.sigma,
            });
        }
    }
    found
}
