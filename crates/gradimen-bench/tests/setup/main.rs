//! The geometry stations: one estimate, moves solved together, readings that are questioned.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

#[path = "../common/mod.rs"]
mod common;
mod height;
mod relief;
mod whole;

use common::prelude::*;
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

fn gap(text: &str) -> Measurement {
    Measurement::from(&parse_length(text, LengthUnit::Millimetre).unwrap())
}

fn relief(side: Side, text: &str) -> Event {
    relief_by(side, TWELVE_SIX, text)
}

fn relief_by(side: Side, span: ReliefSpan, text: &str) -> Event {
    let seen = match text {
        "none" => Reading::Touches,
        "rocks" => Reading::Rocks,
        _ => Reading::Length { length: gap(text) },
    };
    Event::read(Place::Relief { side, span }, seen)
}

fn both(text: &str) -> Vec<Event> {
    vec![relief(Side::Treble, text), relief(Side::Bass, text)]
}

fn nut(string: u8, text: &str) -> Event {
    Event::read(
        Place::Nut { string, held: 0 },
        Reading::Length { length: gap(text) },
    )
}

fn action(string: u8, text: &str) -> Event {
    Event::read(
        Place::Action {
            string,
            fret: 12,
            held: 0,
        },
        Reading::Length {
            length: gap(text).with_tool(Tool::Dial),
        },
    )
}

fn raised(string: u8, turns: f64) -> Event {
    Event::Adjusted {
        adjuster: Adjuster::SaddleHeight { string },
        amount: Amount::Turns { turns },
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

fn rod_of(job: &Job) -> Move {
    match plan_of(job).relief.action {
        Action::Adjust(step) => *step,
        other => panic!("{other:?}"),
    }
}
