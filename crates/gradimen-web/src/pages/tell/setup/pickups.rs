//! What is told at the pickups station.

use super::signed_turns;
use crate::forms::Fields;
use crate::vocabulary::*;

pub(super) fn event(job: &Known, fields: &mut Fields) -> Option<Option<Event>> {
    Some(match fields.text("what").to_owned().as_str() {
        "pickup" => {
            let place = pickup_side(job, fields);
            let gap = fields.reading("gap", &limits::PICKUP_GAP, Tool::Rule64);
            place.zip(gap).map(|((pickup, side), gap)| {
                Event::read(
                    Place::Pickup { pickup, side },
                    Reading::Length { length: gap },
                )
            })
        }
        "pickup_turned" => {
            let place = pickup_side(job, fields);
            let turns = signed_turns(fields, "away");
            place
                .zip(turns)
                .map(|((pickup, side), turns)| Event::Adjusted {
                    adjuster: Adjuster::PickupScrew { pickup, side },
                    amount: Amount::Turns {
                        turns: turns.value(),
                    },
                })
        }
        "pole" => pole(job, fields),
        "pole_turned" => pole_turned(job, fields),
        "pickup_end" => {
            let end = if fields.text("end") == "up" {
                End::Top
            } else {
                End::Bottom
            };
            pickup_side(job, fields).map(|(pickup, side)| Event::Ended {
                adjuster: Adjuster::PickupScrew { pickup, side },
                how: end,
            })
        }
        "pickup_target" => wanted(job, fields),
        "level" => level(job, fields),
        _ => return None,
    })
}

fn pole(job: &Known, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let string = fields.number("string", "a string", 1, job.instrument().strings);
    let gap = fields.reading("pole_gap", &limits::PICKUP_GAP, Tool::Rule64);
    Some(Event::read(
        Place::PolePiece {
            pickup: pickup?,
            string: string?,
        },
        Reading::Length { length: gap? },
    ))
}

fn pole_turned(job: &Known, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let string = fields.number("string", "a string", 1, job.instrument().strings);
    let turns = signed_turns(fields, "away");
    Some(Event::Adjusted {
        adjuster: Adjuster::PolePiece {
            pickup: pickup?,
            string: string?,
        },
        amount: Amount::Turns {
            turns: turns?.value(),
        },
    })
}

fn wanted(job: &Known, fields: &mut Fields) -> Option<Event> {
    let pickup = pickup(job, fields);
    let treble = fields.exact("pickup_treble", &limits::PICKUP_GAP);
    let bass = fields.exact("pickup_bass", &limits::PICKUP_GAP);
    Some(Event::Targeted {
        wanted: Wanted::Pickup {
            pickup: pickup?,
            treble: treble?,
            bass: bass?,
        },
    })
}

fn level(job: &Known, fields: &mut Fields) -> Option<Event> {
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
    Some(Event::read(
        Place::Level {
            pickup: pickup?,
            string: string?,
        },
        Reading::Level {
            decibels: decibels?,
        },
    ))
}

/// A pickup, counted from 1 at the neck.
fn pickup(job: &Known, fields: &mut Fields) -> Option<u8> {
    let count = u8::try_from(job.instrument().pickups.len()).unwrap_or(u8::MAX);
    fields
        .number("pickup", "a pickup", 1, count)
        .map(|number: u8| number - 1)
}

/// A pickup and a side of it.
fn pickup_side(job: &Known, fields: &mut Fields) -> Option<(u8, Side)> {
    let pickup = pickup(job, fields);
    let side = Side::from_key(fields.text("side")).ok_or("choose the treble or the bass side");
    let side = fields.keep("side", side);
    pickup.zip(side)
}
