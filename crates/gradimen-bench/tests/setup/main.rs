//! The geometry stations: one estimate, moves solved together, readings that are questioned.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

#[path = "../common/mod.rs"]
mod common;
mod height;
mod relief;
mod whole;

use gradimen_bench::event::{Event, Gap, HeightAdjuster, ReliefSpan, Side};
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::record::Measured;
use gradimen_bench::setup::ReliefAction;
use gradimen_core::units::{LengthUnit, parse_length};

const TWELVE_SIX: ReliefSpan = ReliefSpan {
    low: 1,
    high: 12,
    at: 6,
};
const LAST_EIGHT: ReliefSpan = ReliefSpan {
    low: 1,
    high: 22,
    at: 8,
};

fn gap(text: &str) -> Measured {
    Measured::from(&parse_length(text, LengthUnit::Millimetre).unwrap())
}

fn relief(side: Side, text: &str) -> Event {
    relief_by(side, TWELVE_SIX, text)
}

fn relief_by(side: Side, span: ReliefSpan, text: &str) -> Event {
    let seen = match text {
        "none" => Gap::Touches,
        "rocks" => Gap::Rocks,
        _ => Gap::Open { gap: gap(text) },
    };
    Event::ReliefRead {
        side,
        span,
        seen,
        kept: false,
    }
}

fn both(text: &str) -> Vec<Event> {
    vec![relief(Side::Treble, text), relief(Side::Bass, text)]
}

fn nut(string: u8, text: &str) -> Event {
    Event::NutRead {
        string,
        held: 0,
        gap: gap(text),
        kept: false,
    }
}

fn action(string: u8, text: &str) -> Event {
    Event::ActionRead {
        string,
        fret: 12,
        held: 0,
        gap: gap(text),
        kept: false,
    }
}

fn raised(string: u8, turns: f64) -> Event {
    Event::HeightMoved {
        adjuster: HeightAdjuster::String(string),
        turns,
    }
}

/// A neck, nut and heights that are right already.
fn right() -> Vec<Event> {
    let mut events = both("6 thou");
    for string in 1..=6 {
        events.push(nut(string, "20 thou"));
        let share = f64::from(string - 1) / 5.0;
        let height = 25.4 / 64.0 * (4.0 + share);
        events.push(action(string, &format!("{height:.2} mm")));
    }
    events
}

fn rod_of(job: &Job) -> gradimen_bench::setup::RodMove {
    match Plan::of(job).setup.relief.action {
        ReliefAction::Turn(step) => step,
        other => panic!("{other:?}"),
    }
}
