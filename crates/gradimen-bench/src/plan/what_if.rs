//! What another set, tuning, touch, target or spring would change, before the strings come off.
//!
//! The job is folded some events further without writing them; what was read is taken to have moved as the
//! estimate predicts, and the moves that the change would cost are worked out from there.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//! use gradimen_bench::plan::what_if::{Change, WhatIf};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! // Nothing changed: nothing is told to the job, and the pull is what it was.
//! let none = Change::none(&known);
//! assert!(none.events(&known).is_empty());
//! let (now, then) = WhatIf::of(&known, &plan, &none)?.total;
//! assert_eq!(now, then);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::sync::Arc;

use gradimen_core::quantity::{Estimate as Value, Force, Length, Turns};
use gradimen_core::tension::{self, Load};
use gradimen_core::units::print::rounded_turns;

use super::Plan;
use crate::decision::{Action, Quantity, Sum};
use crate::estimate::{Estimate, EstimateError};
use crate::job::Job;
use crate::journal::Event;
use crate::model::hardware::VibratoKind;
use crate::model::{Adjuster, Amount, BalanceSchool, Player, Side, Strung, Targets, Wanted};
use crate::stations::balance::BalancePlan;
use crate::stations::clearance::{StringMap, map_now};
use crate::stations::intonation::SaddlePlan;
use crate::stations::strings;

/// A saddle that would move by less than this stays where it is.
const SADDLE_STAYS: Length = Length::from_mm(0.15);

const fn targeted(wanted: Wanted) -> Event {
    Event::Targeted { wanted }
}

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
    pub fn events(&self, known: &Estimate) -> Vec<Event> {
        let mut events = Vec::new();
        if self.strung != known.strung() {
            events.push(Event::Restrung {
                strung: self.strung.clone(),
            });
        }
        if self.player != *known.player() {
            events.push(targeted(Wanted::Player {
                player: self.player.clone(),
            }));
        }
        if let Some(targets) = self
            .targets
            .clone()
            .filter(|wanted| *wanted != known.targets())
        {
            events.push(targeted(Wanted::Setup { targets }));
        }
        if let Some(school) = self
            .school
            .filter(|school| *school != known.balance_school())
        {
            events.push(targeted(Wanted::Balance { school }));
        }
        let hooked = BalancePlan::of(known)
            .map(|balance| (balance.record.springs, balance.record.converging));
        if let Some((count, converging)) = self.springs.filter(|springs| Some(*springs) != hooked) {
            events.push(Event::Adjusted {
                adjuster: Adjuster::Springs,
                amount: Amount::Springs { count, converging },
            });
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
    pub after: Value<Length>,
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
    pub setback: (Length, Value<Length>),
    /// Way left behind the saddle then.
    pub left: Length,
    /// What its tightest place leaves, before and after.
    pub margin: (Length, Length),
}

impl StringChange {
    /// Whether its slot is too narrow for it.
    pub fn binds(&self) -> bool {
        self.thicker > PINCHES
    }
}

/// A move that the change would cost.
#[derive(Debug, Clone, PartialEq)]
pub struct Cost {
    /// What is turned or filed.
    pub adjuster: Adjuster,
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// By how much: the strings up, the saddle away from the neck, the neck's gap wider.
    pub distance: Length,
    /// In turns of its screw, where it has one; the truss rod positive when tightened.
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
    /// Works it out. `now` is the plan as the job is.
    ///
    /// # Errors
    /// The [`EstimateError`] that the change itself would be refused with.
    pub fn of(known: &Estimate, now: &Plan, change: &Change) -> Result<Self, EstimateError> {
        let events = change.events(known);
        let job = known.with(events.clone())?;
        // As if every place had been read just as it is predicted.
        let there = Estimate::of(Arc::new(job))?.as_if_read();
        let then = Plan::of(&there);
        let pull = |job: &Job| strings::pull(job).total;
        Ok(Self {
            total: (pull(known), pull(&there)),
            relief: [0, 1].map(|side| pair(&now.relief.sides[side], &then.relief.sides[side])),
            strings: strings_changed(known, &there, now, &then),
            pickups: pickups(now, &then),
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
            costs: costs(&there, now, &then),
            events,
        })
    }
}

fn pair(now: &Quantity, then: &Quantity) -> Pair {
    Pair {
        before: now.now.value,
        after: then.now,
        target: then.target,
    }
}

fn strings_changed(
    known: &Estimate,
    there: &Estimate,
    now: &Plan,
    then: &Plan,
) -> Vec<StringChange> {
    let (before, after) = (map_now(known), map_now(there));
    (1..=known.instrument().strings)
        .filter_map(|string| {
            let at = usize::from(string - 1);
            let (old, new) = (known.string_state(string)?, there.string_state(string)?);
            let scale = known.speaking_scale(string);
            let worn = |plan: &Plan| {
                let saddle = plan.intonation.saddle_of(string)?;
                let on = saddle
                    .estimate
                    .strings
                    .iter()
                    .find(|on| on.string == string)?;
                Some((on.ideal, on.left.value))
            };
            let ((was, _), (will, left)) = (worn(now)?, worn(then)?);
            let margin = |map: &[StringMap]| {
                map.get(at)
                    .and_then(StringMap::worst)
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
                    &now.nut.strings.get(at)?.quantity,
                    &then.nut.strings.get(at)?.quantity,
                ),
                action: pair(
                    &now.action.strings.get(at)?.quantity,
                    &then.action.strings.get(at)?.quantity,
                ),
                setback: (was.value, will),
                left,
                margin: (margin(&before)?, margin(&after)?),
            })
        })
        .collect()
}

fn pickups(now: &Plan, then: &Plan) -> Vec<(String, Side, Length, Length)> {
    now.pickups
        .pickups
        .iter()
        .zip(&then.pickups.pickups)
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
fn costs(there: &Estimate, now: &Plan, then: &Plan) -> Vec<Cost> {
    let mut found: Vec<Cost> = then.balance.iter().filter_map(claw_cost).collect();
    if let Some(step) = then.relief.next_move()
        && let Sum::Rod { off, doubt, .. } = step.sum
    {
        found.push(Cost {
            adjuster: Adjuster::TrussRod,
            strings: Vec::new(),
            distance: -off,
            turns: Some(step.total),
            sigma: (off.abs() * doubt).max(then.relief.sides[1].now.sigma),
        });
    }
    for slot in &then.nut.strings {
        if let Action::Adjust(step) = &slot.action {
            found.push(Cost {
                adjuster: step.adjuster,
                strings: vec![slot.string],
                distance: -slot.total,
                turns: None,
                sigma: slot.quantity.now.sigma,
            });
        }
    }
    for adjuster in &then.action.adjusters {
        if let Action::Adjust(step) = &adjuster.action {
            let expected = step.expected.first();
            found.push(Cost {
                adjuster: adjuster.adjuster,
                strings: adjuster.strings.clone(),
                distance: step.distance,
                turns: Some(step.turns()),
                sigma: expected
                    .and_then(|expected| expected.value.length())
                    .map_or(Length::ZERO, |value| value.sigma),
            });
        }
    }
    let saddles = then.intonation.saddles.iter();
    found.extend(
        saddles
            .zip(&now.intonation.saddles)
            .filter_map(|(saddle, was)| saddle_cost(there, then, saddle, was)),
    );
    found
}

fn claw_cost(balance: &BalancePlan) -> Option<Cost> {
    let distance = balance.claw.1 - balance.claw.0;
    let pitch = balance.record.claw_pitch.middle();
    let off = balance.off().abs() > balance.tolerance;
    // A decked plate lies where it should; what holds it there may not be enough, or far too much.
    let decked = balance.target == Length::ZERO && distance > pitch;
    (balance.can && (off || decked)).then(|| Cost {
        adjuster: match balance.record.kind {
            VibratoKind::BodySprings => Adjuster::Claw,
            VibratoKind::TailSpring | VibratoKind::ArmSpring => Adjuster::Seat,
        },
        strings: Vec::new(),
        distance,
        turns: Some(Turns::new(distance.ratio(pitch))),
        sigma: distance.abs() * 0.2,
    })
}

/// From where a saddle will stand, where that is known; from where it should be now, where it is not; to where it
/// should be at the heights to come.
fn saddle_cost(
    there: &Estimate,
    then: &Plan,
    saddle: &SaddlePlan,
    was: &SaddlePlan,
) -> Option<Cost> {
    let target = then
        .intonation
        .end_of(there, saddle)
        .map_or(saddle.target.value, |end| end.place);
    let from = if saddle.estimate.placed {
        saddle.estimate.setback.value + then.intonation.plate_back
    } else {
        was.target.value
    };
    let distance = target - from;
    let pitch = there.instrument().bridge.intonation.pitch.middle();
    let turns = rounded_turns(Turns::new(
        distance.ratio(pitch) / saddle.estimate.response.value,
    ));
    let strings: Vec<u8> = saddle.strings().collect();
    let lead = strings.first().copied()?;
    (turns != Turns::ZERO && distance.abs() > SADDLE_STAYS).then_some(Cost {
        adjuster: Adjuster::SaddleDrive { string: lead },
        strings,
        distance,
        turns: Some(turns),
        sigma: saddle.target.sigma,
    })
}
