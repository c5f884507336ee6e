//! What can be told at the pickups station.

use gradimen_core::units::parse_decibels;

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// The gap of a side, the string held down at the last fret.
pub(crate) fn gap(job: &Known, fields: &mut Fields) -> Option<Command> {
    let place = pickup_side(job, fields);
    let length = fields.reading("gap", &limits::PICKUP_GAP, Tool::Rule64);
    let (pickup, side) = place?;
    let reading = Reading::Length { length: length? };
    Some(Command::read(Place::Pickup { pickup, side }, reading))
}

/// The screw of a side was turned.
pub(crate) fn turned(job: &Known, fields: &mut Fields) -> Option<Command> {
    let place = pickup_side(job, fields);
    let turns = fields.signed_turns("away");
    let (pickup, side) = place?;
    Some(Command::turned(
        Adjuster::PickupScrew { pickup, side },
        turns?,
    ))
}

/// The screw of a side goes no further.
pub(crate) fn end(job: &Known, fields: &mut Fields) -> Option<Command> {
    let how = if fields.text("end") == "up" {
        End::Top
    } else {
        End::Bottom
    };
    let (pickup, side) = pickup_side(job, fields)?;
    Some(Command::End {
        adjuster: Adjuster::PickupScrew { pickup, side },
        how,
    })
}

/// The gaps wanted of a pickup.
pub(crate) fn target(job: &Known, fields: &mut Fields) -> Option<Command> {
    let pickup = pickup(job, fields);
    let treble = fields.exact("pickup_treble", &limits::PICKUP_GAP);
    let bass = fields.exact("pickup_bass", &limits::PICKUP_GAP);
    Some(Command::target(Wanted::Pickup {
        pickup: pickup?,
        treble: treble?,
        bass: bass?,
    }))
}

/// The gap over a pole piece.
pub(crate) fn pole(job: &Known, fields: &mut Fields) -> Option<Command> {
    let pickup = pickup(job, fields);
    let string = fields.string(job);
    let length = fields.reading("pole_gap", &limits::PICKUP_GAP, Tool::Rule64);
    let place = Place::PolePiece {
        pickup: pickup?,
        string: string?,
    };
    Some(Command::read(place, Reading::Length { length: length? }))
}

/// A pole piece was turned.
pub(crate) fn pole_turned(job: &Known, fields: &mut Fields) -> Option<Command> {
    let pickup = pickup(job, fields);
    let string = fields.string(job);
    let turns = fields.signed_turns("away");
    let adjuster = Adjuster::PolePiece {
        pickup: pickup?,
        string: string?,
    };
    Some(Command::turned(adjuster, turns?))
}

/// The level of a string on a pickup, as a meter shows it.
pub(crate) fn level(job: &Known, fields: &mut Fields) -> Option<Command> {
    let pickup = pickup(job, fields);
    let string = fields.string(job);
    let read = parse_decibels(fields.text("level"));
    let level = fields.keep("level", read);
    let doubt = fields.told_by_ear("doubt");
    let place = Place::Level {
        pickup: pickup?,
        string: string?,
    };
    let reading = Reading::Level {
        decibels: level?.decibels(),
        doubt_decibels: doubt?,
    };
    Some(Command::read(place, reading))
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
