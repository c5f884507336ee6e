//! The whole-job plan: one list for the bench.

use crate::vocabulary::*;
use askama::Template;

use super::Head;
use super::layout::JobLayout;
use super::setup::{FindingView, found, spread};
use crate::{filters, words};

struct Line {
    first: bool,
    station: &'static str,
    query: String,
    adjuster: String,
    direction: String,
    expect: String,
}

#[derive(Template)]
#[template(path = "whole.html")]
pub(crate) struct Whole {
    head: Head,
    frame: JobLayout,
    headline: String,
    targets: String,
    targets_usual: bool,
    moves: Vec<Line>,
    waiting: Vec<(&'static str, String)>,
    found: Vec<FindingView>,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan) -> Whole {
    let whole = JobPlan::of(job, plan);
    let targets = &plan.targets;
    let headline = match (whole.moves.len(), whole.pending.len()) {
        (0, 0) => "Everything is in spec".to_owned(),
        (0, _) => "Measure first".to_owned(),
        (1, _) => "1 adjustment".to_owned(),
        (count, _) => format!("{count} adjustments"),
    };
    let mut before: Option<StationId> = None;
    let moves = whole
        .moves
        .iter()
        .map(|step| {
            let first = before != Some(step.station);
            before = Some(step.station);
            line(job, step, first)
        })
        .collect();
    Whole {
        head: Head::new(),
        headline,
        targets: format!(
            "Relief {} ({}) \u{b7} nut {} treble, {} bass \u{b7} action at fret {}: {} treble, {} bass.",
            targets.relief.written,
            targets.relief_span.words(),
            targets.nut_treble.written,
            targets.nut_bass.written,
            targets.action_fret,
            targets.action_treble.written,
            targets.action_bass.written
        ),
        targets_usual: !job.targets_told(),
        moves,
        waiting: text::moves::pending_lines(job, &whole.pending)
            .into_iter()
            .map(|(station, line)| (station.key(), line))
            .collect(),
        found: found(plan, |_| true),
        frame,
    }
}

fn line(job: &Known, line: &JobMove, first: bool) -> Line {
    let step = &line.step;
    let string = line.strings.first();
    let mut adjuster = text::moves::adjuster_of(job, step.adjuster);
    if let Adjuster::SaddleDrive { .. } = step.adjuster {
        adjuster = format!(
            "saddle screw, string {}",
            text::list(&line.strings, " and ")
        );
    }
    let expect: Vec<String> = step
        .expected
        .iter()
        .map(|expected| {
            let place = text::moves::place(job, expected.place);
            match (expected.value.length(), expected.value.cents()) {
                (Some(length), _) => format!("{} mm: {place}", spread(length)),
                (None, Some(cents)) => format!("{} c: {place}", words::estimate(cents)),
                (None, None) => place,
            }
        })
        .collect();
    Line {
        first,
        station: line.station.key(),
        query: string.map_or_else(String::new, |string| format!("?string={string}")),
        adjuster,
        direction: text::moves::whole(job, step),
        expect: expect.join("; "),
    }
}
