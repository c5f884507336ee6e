//! What a job has told and found already.

use std::collections::BTreeSet;

use super::{ELECTRICS, Evidence, Trial};
use crate::estimate::Estimate;
use crate::finding::Finding;
use crate::journal::Event;
use crate::model::{Condition, Place, Reading, Rocking, Round};
use crate::plan::Plan;

/// Everything that speaks for a kind of work: symptoms, quick checks, earlier visits. Taken from what was read before the first
/// screw was turned, and from what the plan finds.
pub fn evidence(known: &Estimate, plan: &Plan) -> Vec<Evidence> {
    let mut found: Vec<Evidence> = Vec::new();
    for symptom in &known.complaint().symptoms {
        let told = Evidence::Told(*symptom);
        if !found.contains(&told) {
            found.push(told);
        }
    }
    let trials = [
        (Trial::Rocker, rocker(known)),
        (Trial::Rod, rod(known, plan)),
        (Trial::Neck, neck(known, plan)),
        (Trial::Slots, slots(plan)),
        (Trial::Travel, travel(known, plan)),
        (Trial::Electrics, electrics(known)),
    ];
    found.extend(
        trials
            .into_iter()
            .filter_map(|(trial, fine)| Some(Evidence::Tried(trial, fine?))),
    );
    if !known.taught().is_empty() {
        found.push(Evidence::SeenBefore);
    }
    found
}

fn read(known: &Estimate, at: impl Fn(&Place) -> bool) -> bool {
    let mut facts = known.facts().iter();
    facts.any(|entry| matches!(&entry.event, Event::Read { place, .. } if at(place)))
}

fn finds(plan: &Plan, what: impl Fn(&Finding) -> bool) -> bool {
    plan.findings.iter().any(what)
}

/// One rock is enough to say that a fret rocks; that none does is said once it was laid under every string.
fn rocker(known: &Estimate) -> Option<bool> {
    let mut strings = BTreeSet::new();
    let mut rocks = false;
    for entry in known.facts() {
        if let Event::Read {
            place: Place::Rock { string, .. },
            value: Reading::Rock { seen },
            ..
        } = &entry.event
        {
            strings.insert(*string);
            rocks |= *seen != Rocking::None;
        }
    }
    if rocks {
        return Some(false);
    }
    (strings.len() == usize::from(known.instrument().strings)).then_some(true)
}

fn rod(known: &Estimate, plan: &Plan) -> Option<bool> {
    if finds(plan, |found| matches!(found, Finding::RodSpent { .. })) {
        return Some(false);
    }
    read(known, |place| matches!(place, Place::RodCheck)).then_some(true)
}

fn neck(known: &Estimate, plan: &Plan) -> Option<bool> {
    let bad = |found: &Finding| {
        matches!(
            found,
            Finding::Twist { .. } | Finding::BackBow { slack: true }
        )
    };
    if finds(plan, bad) {
        return Some(false);
    }
    let side = |wanted| {
        read(
            known,
            |place| matches!(place, Place::Relief { side, .. } if *side == wanted),
        )
    };
    crate::model::Side::ALL
        .into_iter()
        .all(side)
        .then_some(true)
}

fn slots(plan: &Plan) -> Option<bool> {
    if finds(plan, |found| matches!(found, Finding::NutTooLow(_))) {
        return Some(false);
    }
    let mut strings = plan.nut.strings.iter();
    strings
        .all(|slot| slot.quantity.last.is_some())
        .then_some(true)
}

fn travel(known: &Estimate, plan: &Plan) -> Option<bool> {
    let bad = |found: &Finding| {
        matches!(found, Finding::Scale(check) if !check.agrees)
            || matches!(
                found,
                Finding::BridgePlace { .. } | Finding::OutOfTravel { .. }
            )
    };
    if finds(plan, bad) {
        return Some(false);
    }
    read(known, |place| matches!(place, Place::Scale { .. })).then_some(true)
}

/// The round before the work: one fault is a fault; fine only where somebody looked.
fn electrics(known: &Estimate) -> Option<bool> {
    let lines = ELECTRICS.map(|line| known.checked(Round::Before, line));
    if lines.contains(&Condition::Fault) {
        return Some(false);
    }
    lines.contains(&Condition::Fine).then_some(true)
}
