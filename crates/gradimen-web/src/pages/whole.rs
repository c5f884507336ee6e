//! The whole-job plan: one list for the bench.

use askama::Template;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::whole::{ExpectedReading, Reading, Station, WholeMove, WholePlan};

use super::Head;
use super::job::Frame;
use super::setup::{Found, found, spread};
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
    frame: Frame,
    headline: String,
    targets: String,
    targets_usual: bool,
    moves: Vec<Line>,
    waiting: Vec<(&'static str, String)>,
    found: Vec<Found>,
}

pub(crate) fn station(frame: Frame, job: &Job, plan: &Plan) -> Whole {
    let whole = WholePlan::of(job, plan);
    let targets = &plan.setup.targets;
    let headline = match (whole.moves.len(), whole.waiting.len()) {
        (0, 0) => "Everything is right".to_owned(),
        (0, _) => "Readings first".to_owned(),
        (1, _) => "One move in all".to_owned(),
        (count, _) => format!("{count} moves in all"),
    };
    let mut before: Option<Station> = None;
    let moves = whole
        .moves
        .iter()
        .map(|step| {
            let first = before != Some(step.station);
            before = Some(step.station);
            line(step, first)
        })
        .collect();
    Whole {
        head: Head::new(),
        headline,
        targets: format!(
            "Relief {} ({}) \u{b7} nut {} treble, {} bass \u{b7} height over fret {}: {} treble, {} bass.",
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
        waiting: whole
            .waiting
            .into_iter()
            .map(|line| (line.station.key(), line.says))
            .collect(),
        found: found(plan, |_| true),
        frame,
    }
}

fn line(step: &WholeMove, first: bool) -> Line {
    let strings: Vec<String> = step.strings.iter().map(u8::to_string).collect();
    let expect: Vec<String> = step
        .expected
        .iter()
        .map(|expected| expectation(step.station, expected))
        .collect();
    Line {
        first,
        station: step.station.key(),
        query: strings
            .first()
            .map_or(String::new(), |string| format!("?string={string}")),
        adjuster: if strings.is_empty() || step.station == Station::Height {
            step.adjuster.clone()
        } else {
            format!("{}, string {}", step.adjuster, strings.join(" and "))
        },
        direction: step.direction.clone(),
        expect: expect.join("; "),
    }
}

fn expectation(station: Station, expected: &ExpectedReading) -> String {
    match expected.value {
        Reading::Gap(gap) if station == Station::Balance => {
            format!("{} mm under the vibrato, at pitch", spread(gap))
        }
        Reading::Gap(gap) if station == Station::Pickups => format!(
            "{} mm, string {} held at {}",
            spread(gap),
            expected.string,
            expected.fret
        ),
        Reading::Gap(gap) => format!(
            "{} mm over {} on string {}",
            spread(gap),
            expected.fret,
            expected.string
        ),
        Reading::Note(note) => format!("{} c on string {}", words::estimate(note), expected.string),
    }
}
