//! What a what-if sheet says a change costs is the plan once it is adopted, less today's plan.
//!
//! The other side goes the long way: the change is told to the job, everything is read by hand just as it is predicted,
//! and what the plans of both jobs order is subtracted screw by screw. Nothing of the sheet's own shortcut is in it: there
//! every place counts as read without a reading, and a move is made wherever a target is missed.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use std::collections::BTreeMap;

use common::prelude::*;
use gradimen_core::quantity::Length;

/// A document of the repository.
fn example(name: &str) -> Job {
    let path = format!(
        "{}/../../docs/formats/examples/{name}.json",
        env!("CARGO_MANIFEST_DIR")
    );
    let text = std::fs::read_to_string(path).unwrap();
    Job::fold(&Document::parse(&text).unwrap().events).unwrap()
}

/// The same job with so much allowed of its relief.
fn allowing(job: &Job, relief: f64) -> Job {
    let mut targets = known(job).targets();
    targets.tolerances.relief = Some(Measurement::mm(relief));
    let wanted = Wanted::Setup { targets };
    job.with(vec![Event::Targeted { wanted }]).unwrap()
}

/// Everything but notes and pickups, read twice with a dial gauge, and found as predicted.
fn read_as_predicted(mut job: Job) -> Job {
    for _ in 0..2 {
        let known = known(&job);
        let targets = known.targets();
        let sheet = known.instrument().bridge.vibrato.as_ref();
        let claw = sheet.is_some_and(|sheet| sheet.kind == VibratoKind::BodySprings);
        let mut places: Vec<Place> = Side::ALL.map(|side| targets.relief(side).place).to_vec();
        for string in 1..=known.instrument().strings {
            places.push(targets.nut(string, 0.0).place);
            places.push(targets.action(string, 0.0).place);
        }
        if sheet.is_some() {
            places.push(Place::Gap);
        }
        let events = places
            .into_iter()
            .map(|place| {
                let seen = known
                    .state()
                    .predict(place)
                    .unwrap_or_else(|error| panic!("{place:?}: {error}"))
                    .value;
                let relief = matches!(place, Place::Relief { .. });
                let reading = match place {
                    Place::Gap if claw && seen <= Length::from_mm(0.02) => Reading::Flat,
                    _ if relief && seen < Length::from_mm(-0.03) => Reading::Rocks,
                    _ if place != Place::Gap && seen <= Length::ZERO => Reading::Touches,
                    _ => Reading::Length {
                        length: Measurement::mm(seen.mm().max(0.0)).with_tool(Tool::Dial),
                    },
                };
                Event::read(place, reading)
            })
            .collect();
        job = job.with(events).unwrap();
    }
    job
}

/// What a plan orders in all, adjuster by adjuster: turns, or millimetres where nothing has a screw.
fn ordered(job: &Job) -> BTreeMap<Adjuster, f64> {
    let known = known(job);
    let plan = Plan::of(&known);
    let mut all = BTreeMap::new();
    for line in JobPlan::of(&known, &plan).moves {
        let slot = matches!(line.step.adjuster, Adjuster::NutSlots { .. });
        let amount = if slot {
            line.step.distance.mm()
        } else {
            line.step.total.value()
        };
        all.insert(line.step.adjuster, amount);
    }
    all
}

/// Whether an adjuster is one that readings of heights decide on.
const fn is_height(adjuster: Adjuster) -> bool {
    matches!(
        adjuster,
        Adjuster::TrussRod | Adjuster::SaddleHeight { .. } | Adjuster::Post { .. }
    )
}

/// Whether a side of the neck lies where one hundredth or two decide if its rod is turned.
fn on_edge(job: &Job) -> bool {
    plan_of(job).relief.sides.iter().any(|side| {
        let beyond = side.off().abs() - side.tolerance;
        beyond.abs() < Length::from_mm(0.015)
    })
}

/// By how much two ways of planning may differ: an eighth either way in the rounding of both plans, and what the tolerance
/// of a target lets be in one of them: 0.1 over the twelfth fret is 0.2 under a saddle, 0.4 of a turn.
fn room(adjuster: Adjuster) -> f64 {
    if adjuster == Adjuster::TrussRod {
        0.13
    } else {
        0.65
    }
}

#[test]
fn the_cost_of_a_change_is_the_plan_after_it_less_the_plan_of_today() {
    let (mut compared, mut moved, mut apart) = (0, 0, 0.0);
    let (mut sheets, mut at_edge) = (0, 0);
    let names = [
        "six-string-mid-work",
        "seven-string-heights",
        "rocking-tail",
        "baritone-done",
        "three-barrel-shared",
    ];
    // A neck that is turned for anything, and one that is turned for nothing.
    for (name, relief) in names
        .into_iter()
        .flat_map(|name| [(name, 0.005), (name, 0.25)])
    {
        let job = allowing(&example(name), relief);
        let (kind, strings) = (job.instrument().kind, job.instrument().strings);
        let mut changes = Vec::new();
        for set in defaults::sets(kind, strings) {
            let strung = Strung {
                set: set.strings,
                ..job.strung()
            };
            changes.push(Change {
                strung,
                ..Change::none(&job)
            });
        }
        for preset in defaults::tunings(kind, strings) {
            let strung = Strung {
                tuning: Tuning::of(preset.name, job.tuning().a4_hz, &preset.pitches),
                ..job.strung()
            };
            changes.push(Change {
                strung,
                ..Change::none(&job)
            });
        }
        let read = read_as_predicted(job.clone());
        let today = ordered(&read);
        if on_edge(&read) {
            continue;
        }
        for change in changes {
            let known = known(&job);
            let Ok(sheet) = WhatIf::of(&known, &plan_of(&job), &change) else {
                continue;
            };
            let adopted = job.with(change.events(&known)).unwrap();
            let read = read_as_predicted(adopted);
            let then = ordered(&read);
            // At the edge of its tolerance a neck is let be by the one and turned by the other, and all heights follow.
            if on_edge(&read) {
                at_edge += 1;
                continue;
            }
            sheets += 1;
            let adjusters: std::collections::BTreeSet<Adjuster> = sheet
                .costs
                .iter()
                .map(|cost| cost.adjuster)
                .chain(today.keys().copied())
                .chain(then.keys().copied())
                .filter(|adjuster| is_height(*adjuster))
                .collect();
            for adjuster in adjusters {
                let said = sheet
                    .costs
                    .iter()
                    .find(|cost| cost.adjuster == adjuster)
                    .map_or(0.0, |cost| cost.turns.unwrap().value());
                let (now, after) = (today.get(&adjuster), then.get(&adjuster));
                let found = after.copied().unwrap_or(0.0) - now.copied().unwrap_or(0.0);
                assert!(
                    (said - found).abs() <= room(adjuster),
                    "{name}: {adjuster:?} said {said}, found {after:?} less {now:?}"
                );
                apart += (said - found).abs();
                compared += 1;
                moved += u32::from(said.abs() >= 0.25);
            }
        }
    }
    assert!(compared > 60 && moved > 20, "{compared} {moved}");
    assert!(at_edge * 3 <= sheets, "{at_edge} of {sheets}");
    let mean = apart / f64::from(compared);
    assert!(mean < 0.15, "{mean}");
}
