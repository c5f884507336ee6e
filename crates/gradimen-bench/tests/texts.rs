//! What the program says of every published example, as a technician reads it. A sentence that changes is to be looked at
//! before it is taken over.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use std::fmt::Write;

use common::prelude::*;

/// The record, the plan and what was found, in words.
fn in_words(name: &str) -> String {
    let path = format!(
        "{}/../../docs/formats/examples/{name}.json",
        env!("CARGO_MANIFEST_DIR")
    );
    let document = Document::parse(&std::fs::read_to_string(path).unwrap()).unwrap();
    let job = Job::fold(&document.events).unwrap();
    let report = Report::of(&job).unwrap();
    let mut out = String::new();
    for entry in job.entries() {
        writeln!(
            out,
            "{:>3} {}",
            entry.seq,
            text::events::sentence(&entry.event)
        )
        .unwrap();
    }
    for (part, moves) in [("next", &report.moves), ("all", &report.whole)] {
        writeln!(out, "-- {part}").unwrap();
        for step in moves {
            writeln!(
                out,
                "{}: {}: {}",
                step.station, step.adjuster, step.direction
            )
            .unwrap();
        }
    }
    writeln!(out, "-- wanted").unwrap();
    for wanted in &report.wanted {
        writeln!(out, "{}: {}", wanted.station, wanted.text).unwrap();
    }
    writeln!(out, "-- found").unwrap();
    for finding in &report.findings {
        writeln!(out, "{}: {}", finding.severity, finding.text).unwrap();
        for option in &finding.ways_out {
            writeln!(out, "    {option}").unwrap();
        }
    }
    for question in &report.questions {
        writeln!(out, "entry {}: {}", question.seq, question.text).unwrap();
    }
    out
}

#[test]
fn every_example_in_words() {
    for name in [
        "baritone-done",
        "floating-vibrato",
        "foreign-neck",
        "pickups-and-poles",
        "rocking-tail",
        "seven-string-heights",
        "six-string-mid-work",
        "three-barrel-shared",
        "twisted-neck",
    ] {
        insta::assert_snapshot!(name, in_words(name));
    }
}
