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
use crate::decision::{Quantity, StationId};
use crate::estimate::{Estimate, EstimateError};
use crate::job::Job;
use crate::journal::Event;
use crate::model::{Adjuster, Amount, BalanceSchool, Player, Side, Strung, Targets, Wanted};
use crate::stations::clearance::{StringMap, map_now};
use crate::stations::strings;

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
        let hooked = known
            .state()
            .sheet
            .as_ref()
            .map(|sheet| (sheet.record.springs, sheet.record.converging));
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
        // Today's moves by the same rule: the cost of a change is the difference.
        let as_read = known.clone().as_if_read();
        let planned = Plan::of(&as_read);
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
            costs: costs(&as_read, &there, &planned, &then),
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

/// The moves that the change costs beyond what is planned anyway: each adjuster's move then, less its move now.
fn costs(known: &Estimate, there: &Estimate, now: &Plan, then: &Plan) -> Vec<Cost> {
    let before = all_moves(known, now);
    let mut found = all_moves(there, then);
    for cost in &mut found {
        if let Some(planned) = before.iter().find(|old| old.adjuster == cost.adjuster) {
            cost.distance -= planned.distance;
            cost.turns = cost.turns.zip(planned.turns).map(|(then, now)| then - now);
        }
    }
    // What would be done now and is not to be done then is undone work, and saved.
    for planned in before {
        if !found.iter().any(|cost| cost.adjuster == planned.adjuster) {
            found.push(Cost {
                distance: -planned.distance,
                turns: planned.turns.map(|turns| Turns::ZERO - turns),
                ..planned
            });
        }
    }
    found.retain(|cost| match cost.turns {
        Some(turns) => rounded_turns(turns) != Turns::ZERO,
        None => cost.distance.abs() > SLOT_STAYS,
    });
    found
}

/// A slot that would differ by less than this stays as it is.
const SLOT_STAYS: Length = Length::from_mm(0.01);

/// Every move of a plan, on the instrument as the moves before it leave it.
fn all_moves(known: &Estimate, plan: &Plan) -> Vec<Cost> {
    let list = super::job_plan::JobPlan::of(known, plan);
    list.moves
        .into_iter()
        .filter(|line| line.station != StationId::Pickups)
        .map(|line| {
            let step = line.step;
            let slot = matches!(step.adjuster, Adjuster::NutSlots { .. });
            let sigma = step
                .expected
                .first()
                .and_then(|expected| expected.value.length());
            Cost {
                adjuster: step.adjuster,
                strings: line.strings,
                distance: step.distance,
                turns: (!slot && !step.is_slid()).then_some(step.total),
                sigma: sigma.map_or(Length::from_mm(0.2), |value| value.sigma),
            }
        })
        .collect()
}
