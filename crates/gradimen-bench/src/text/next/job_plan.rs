//! The whole-job plan.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! use gradimen_bench::{plan::job_plan::JobPlan, text::next::job_plan};
//!
//! let whole = JobPlan::of(&known, &plan);
//! assert!(job_plan::headline(&whole, &plan).contains("adjustment"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Cents, Length};
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use crate::decision::Expectation;
use crate::estimate::Estimate;
use crate::finding::Severity;
use crate::model::{Adjuster, IntonationReference, Side, Stage, Targets};
use crate::plan::job_plan::{JobMove, JobPlan};
use crate::plan::{Allowed, Doubt, Plan};
use crate::text::numbers::{self, spread};
use crate::text::{list, moves};

/// How many adjustments, or what comes before them.
pub fn headline(whole: &JobPlan, plan: &Plan) -> String {
    let stops = plan
        .findings
        .iter()
        .filter(|found| found.severity() == Severity::Stop)
        .count();
    match (whole.moves.len(), whole.pending.len()) {
        (0, _) if stops == 1 => "Stopped: see what was found".to_owned(),
        (0, _) if stops > 0 => format!("Stopped: {stops} findings"),
        (0, 0) if plan.in_doubt().is_empty() => "Everything is in spec".to_owned(),
        (0, 0) => "Nothing is left to turn or to read".to_owned(),
        (0, _) => "Measure first".to_owned(),
        (1, _) => "1 adjustment".to_owned(),
        (count, _) => format!("{count} adjustments"),
    }
}

/// What comes when nothing is left to turn or to read, by where the job stands.
pub fn end(known: &Estimate) -> String {
    match known.stage() {
        Stage::Ready => "Set up, and waiting to be fetched. It holds for the strings and the tuning that are on it.",
        Stage::Returned => "Back with its player. What it taught is kept for its next visit.",
        _ => "Play it before it goes: every fret on every string at this touch, bends high up, chords low, open strings, and back to pitch. Then set it ready.",
    }
    .to_owned()
}

/// How many moves, readings and notes of the play test are left, where any are.
pub fn left(known: &Estimate, plan: &Plan) -> Option<String> {
    let whole = JobPlan::of(known, plan);
    let count = |number: usize, one: &str, more: &str| match number {
        0 => None,
        1 => Some(format!("1 {one}")),
        _ => Some(format!("{number} {more}")),
    };
    let all = [
        count(whole.moves.len(), "adjustment", "adjustments"),
        count(whole.pending.len(), "reading", "readings"),
        count(
            known.play_test().count(),
            "note still heard in the play test",
            "notes still heard in the play test",
        ),
    ];
    let all: Vec<String> = all.into_iter().flatten().collect();
    let (last, before) = all.split_last()?;
    Some(if before.is_empty() {
        last.clone()
    } else {
        format!("{} and {last}", before.join(", "))
    })
}

/// What is let be in doubt, with its odds.
pub fn doubt(known: &Estimate, doubt: &Doubt) -> String {
    let place = moves::place(known, doubt.place);
    let now = match doubt.now {
        Expectation::Length(now) => format!("{} {UNIT}", spread(now)),
        Expectation::Cents(now) => format!("{} cents", numbers::estimate(now)),
    };
    let stands = match doubt.allowed {
        Allowed::Length(allowed) => numbers::stands_within(doubt.odds, allowed),
        Allowed::Cents(threshold) => {
            crate::text::stands(doubt.odds, &format!("{:.1}", threshold.value()))
        }
    };
    format!("{place}: {now}, {stands}.")
}

/// What is wanted, in a sentence.
pub fn targets(targets: &Targets) -> String {
    match &targets.spec {
        Some(name) => format!("House spec \"{name}\": {}", values(targets)),
        None => values(targets),
    }
}

/// The values of targets in a sentence.
pub fn values(targets: &Targets) -> String {
    format!(
        "Relief {} ({}) \u{b7} nut {} treble, {} bass \u{b7} action at fret {}: {} treble, {} bass.",
        targets.relief.written,
        targets.relief_span.words(),
        targets.nut_treble.written,
        targets.nut_bass.written,
        targets.action_fret,
        targets.action_treble.written,
        targets.action_bass.written
    )
}

/// How far each may be off, and what a fretted note is to be true to, in a sentence.
pub fn allowed(plan: &Plan) -> String {
    let targets = &plan.targets;
    let within = |length: Length| format!("\u{b1}{} {UNIT}", numbers::in_unit(length, 2));
    let relief = targets.relief(Side::Treble).tolerance;
    let (nut, action) = (
        targets.nut(1, 0.0).tolerance,
        targets.action(1, 0.0).tolerance,
    );
    let mut parts = vec![
        format!("relief {}", within(relief)),
        format!("nut {}", within(nut)),
        format!("action {}", within(action)),
    ];
    if plan.balance.is_some() {
        parts.push(format!("vibrato gap {}", within(targets.gap_tolerance())));
    }
    if !plan.pickups.pickups.is_empty() {
        parts.push(format!("pickups {}", within(targets.pickup_tolerance())));
    }
    let reference = targets
        .intonation_reference
        .unwrap_or(IntonationReference::Harmonic);
    let aim = match targets.intonation_aim_cents {
        Some(aim) if aim != 0.0 => format!("{} of ", print::cents(Cents::new(aim))),
        _ => String::new(),
    };
    parts.push(format!(
        "12th within {:.1} cents of {aim}{}",
        plan.intonation.threshold.value(),
        reference.name()
    ));
    format!("Allowed: {}.", parts.join(" \u{b7} "))
}

/// The adjuster of a line, with all the strings it carries.
pub fn adjuster(known: &Estimate, line: &JobMove) -> String {
    match line.step.adjuster {
        Adjuster::SaddleDrive { .. } => {
            format!("saddle screw, string {}", list(&line.strings, " and "))
        }
        on => moves::adjuster_of(known, on),
    }
}

/// What is to be read after a line's move.
pub fn expected(known: &Estimate, line: &JobMove) -> String {
    let each = line.step.expected.iter().map(|expected| {
        let place = moves::place(known, expected.place);
        match (expected.value.length(), expected.value.cents()) {
            (Some(length), _) => format!("{} {UNIT}: {place}", spread(length)),
            (None, Some(cents)) => format!("{} c: {place}", numbers::estimate(cents)),
            (None, None) => place,
        }
    });
    each.collect::<Vec<_>>().join("; ")
}
