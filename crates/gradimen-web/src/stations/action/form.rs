//! What can be told at the action station.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// The height of a string over a fret.
pub(crate) fn gap(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
    let length = fields.reading("gap", &limits::ACTION, Tool::Rule64);
    let place = Place::Action {
        string: string?,
        fret: fret?,
        held: 0,
    };
    Some(Command::read(place, Reading::Length { length: length? }))
}

/// A height screw or post was turned.
pub(crate) fn height(fields: &mut Fields) -> Option<Command> {
    let adjuster = adjuster(fields);
    let turns = fields.signed_turns("down");
    Some(Command::turned(adjuster?, turns?))
}

/// A height screw or post goes no further.
pub(crate) fn end(fields: &mut Fields) -> Option<Command> {
    let how = if fields.text("end") == "top" {
        End::Top
    } else {
        End::Bottom
    };
    let adjuster = adjuster(fields)?;
    Some(Command::End { adjuster, how })
}

/// A saddle was shimmed, or cut.
pub(crate) fn cut(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let by = fields.exact("saddle_cut", &limits::SADDLE_CUT)?;
    let distance = if fields.text("way") == "down" {
        by.turned_back()
    } else {
        by
    };
    let adjuster = Adjuster::SaddleHeight { string: string? };
    Some(Command::moved(adjuster, distance))
}

/// Something was laid into the neck's pocket.
pub(crate) fn shim(fields: &mut Fields) -> Option<Command> {
    let shim = if fields.text("shim") == "full" {
        Shim::Full
    } else {
        Shim::Wedge
    };
    let thickness = fields.exact("thickness", &limits::SHIM)?;
    Some(Command::moved(Adjuster::Pocket { shim }, thickness))
}

/// The action wanted.
pub(crate) fn target(job: &Known, fields: &mut Fields) -> Option<Command> {
    let treble = fields.exact("action_treble", &limits::ACTION);
    let bass = fields.exact("action_bass", &limits::ACTION);
    let action_fret = if fields.text("action_fret").is_empty() {
        Some(job.targets().action_fret)
    } else {
        fields.number("action_fret", "a fret", 5, job.instrument().frets)
    };
    let inner = Inner::all()
        .find(|inner| inner.key() == fields.text("inner"))
        .unwrap_or(Inner::Blend);
    let targets = Targets {
        spec: None,
        action_treble: treble?,
        action_bass: bass?,
        action_fret: action_fret?,
        inner,
        ..job.targets()
    };
    Some(Command::target(Wanted::Setup { targets }))
}

/// The word of an adjuster in a form: the number of a string, or a side.
pub(crate) fn key_of(adjuster: Adjuster) -> String {
    match adjuster {
        Adjuster::SaddleHeight { string } => string.to_string(),
        Adjuster::Post { side } => side.key().to_owned(),
        _ => String::new(),
    }
}

fn adjuster(fields: &mut Fields) -> Option<Adjuster> {
    let key = fields.text("adjuster");
    let named = match Side::from_key(key) {
        Some(side) => Ok(Adjuster::Post { side }),
        None => key
            .parse()
            .map(|string| Adjuster::SaddleHeight { string })
            .map_err(|_| "choose which screw or post was turned"),
    };
    fields.keep("adjuster", named)
}
