//! What can be told of frets beside the rocker: a press, a groove, the lowest crown, and what was done to them.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

fn note(job: &Known, fields: &mut Fields) -> Option<Note> {
    let string = fields.string(job);
    let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
    Some(Note {
        string: string?,
        fret: fret?,
    })
}

/// A fret pressed with a stick.
pub(crate) fn pressed(job: &Known, fields: &mut Fields) -> Option<Command> {
    let note = note(job, fields)?;
    let moves = match fields.text("gives") {
        "yes" => Ok(true),
        "no" => Ok(false),
        _ => Err("choose whether it gives under the stick"),
    };
    let moves = fields.keep("gives", moves)?;
    Some(Command::Observe(Observation::Pressed { note, moves }))
}

/// A straightedge on two frets, and the blade that goes under it here.
pub(crate) fn edged(job: &Known, fields: &mut Fields) -> Option<Command> {
    let note = note(job, fields);
    let last = job.instrument().frets;
    let low = fields.number("edge_low", "the fret it rests on near the nut", 1, last);
    let high = fields.number("edge_high", "the fret it rests on near the body", 1, last);
    let gap = fields.exact("edge", &limits::EDGE);
    Some(Command::Observe(Observation::Edged {
        note: note?,
        low: low?,
        high: high?,
        gap: gap?,
    }))
}

/// A groove that a string has worn.
pub(crate) fn worn(job: &Known, fields: &mut Fields) -> Option<Command> {
    let note = note(job, fields);
    let depth = fields.exact("wear", &limits::WEAR);
    Some(Command::Observe(Observation::Worn {
        note: note?,
        depth: depth?,
    }))
}

/// The lowest crown of the board.
pub(crate) fn crown(fields: &mut Fields) -> Option<Command> {
    let height = fields.exact("crown", &limits::CROWN)?;
    Some(Command::Observe(Observation::Crown { height }))
}

/// What was done: to one fret, or to all of them.
pub(crate) fn worked(job: &Known, fields: &mut Fields) -> Option<Command> {
    let work = Fretwork::from_key(fields.text("fretwork")).ok_or("choose what was done");
    let work = fields.keep("fretwork", work)?;
    let fret = if work.is_of_all() {
        None
    } else {
        Some(fields.number("worked_fret", "a fret", 1, job.instrument().frets)?)
    };
    let taken = if fields.text("taken").is_empty() || !work.is_of_all() {
        None
    } else {
        Some(fields.exact("taken", &limits::TAKEN)?)
    };
    Some(Command::Observe(Observation::Fretwork {
        work,
        fret,
        taken,
    }))
}
