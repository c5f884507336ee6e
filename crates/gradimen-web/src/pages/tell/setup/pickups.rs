//! What is told at the pickups station.

use gradimen_bench::event::{Event, HeightEnd, Side};
use gradimen_bench::job::Job;

use super::signed_turns;
use crate::forms::{Fields, limits};

pub(super) fn event(job: &Job, fields: &mut Fields) -> Option<Option<Event>> {
    let kept = fields.text("sure") == "yes";
    Some(match fields.text("what").to_owned().as_str() {
        "pickup" => {
            let place = pickup_side(job, fields);
            let gap = fields.length("gap", &limits::PICKUP_GAP);
            place
                .zip(gap)
                .map(|((pickup, side), gap)| Event::PickupRead {
                    pickup,
                    side,
                    gap,
                    kept,
                })
        }
        "pickup_turned" => {
            let place = pickup_side(job, fields);
            let turns = signed_turns(fields, "away");
            place
                .zip(turns)
                .map(|((pickup, side), turns)| Event::PickupTurned {
                    pickup,
                    side,
                    turns: turns.value(),
                })
        }
        "pole" => pole(job, fields),
        "pole_turned" => pole_turned(job, fields),
        "pickup_end" => {
            let end = if fields.text("end") == "up" {
                HeightEnd::Top
            } else {
                HeightEnd::Bottom
            };
            pickup_side(job, fields).map(|(pickup, side)| Event::PickupAtEnd { pickup, side, end })
        }
        "pickup_target" => wanted(job, fields),
        "level" => level(job, fields),
        _ => return None,
    })
}

fn pole(job: &Job, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let string = fields.number("string", "a string", 1, job.instrument().strings);
    let gap = fields.length("pole_gap", &limits::PICKUP_GAP);
    Some(Event::PoleRead {
        pickup: pickup?,
        string: string?,
        gap: gap?,
    })
}

fn pole_turned(job: &Job, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let string = fields.number("string", "a string", 1, job.instrument().strings);
    let turns = signed_turns(fields, "away");
    Some(Event::PoleTurned {
        pickup: pickup?,
        string: string?,
        turns: turns?.value(),
    })
}

fn wanted(job: &Job, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let treble = fields.exact("pickup_treble", &limits::PICKUP_GAP);
    let bass = fields.exact("pickup_bass", &limits::PICKUP_GAP);
    Some(Event::PickupWanted {
        pickup: pickup?,
        treble: treble?,
        bass: bass?,
    })
}

fn level(job: &Job, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let string = fields.number("string", "a string", 1, job.instrument().strings);
    let level = fields
        .text("level")
        .replace(['\u{2212}'], "-")
        .replace(',', ".")
        .trim_end_matches("dB")
        .trim()
        .parse::<f64>()
        .map_err(|_| "expected what the meter shows in decibels: -18.5");
    let decibels = fields.keep("level", level);
    Some(Event::LevelRead {
        pickup: pickup?,
        string: string?,
        decibels: decibels?,
    })
}

/// A pickup, counted from 1 at the neck.
fn pickup(job: &Job, fields: &mut Fields) -> Option<u8> {
    let count = u8::try_from(job.instrument().pickups.len()).unwrap_or(u8::MAX);
    fields
        .number("pickup", "a pickup", 1, count)
        .map(|number: u8| number - 1)
}

/// A pickup and a side of it.
fn pickup_side(job: &Job, fields: &mut Fields) -> Option<(u8, Side)> {
    let pickup = pickup(job, fields);
    let side = Side::from_key(fields.text("side")).ok_or("choose the treble or the bass side");
    let side = fields.keep("side", side);
    pickup.zip(side)
}
