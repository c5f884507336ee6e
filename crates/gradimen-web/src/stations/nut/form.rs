//! What can be told at the nut station.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// The gap over fret 1.
pub(crate) fn gap(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let held = held(fields);
    let length = fields.reading("gap", &limits::NUT, Tool::Feeler);
    let place = Place::Nut {
        string: string?,
        held,
    };
    Some(Command::read(place, Reading::Length { length: length? }))
}

/// Slots were filed or built up: one, or all as one.
pub(crate) fn moved(job: &Known, fields: &mut Fields) -> Option<Command> {
    let by = fields.exact("nut_move", &limits::NUT_MOVE);
    let strings = job.instrument().strings;
    let moved: Vec<u8> = match fields.text("strings") {
        "all" => (1..=strings).collect(),
        _ => vec![fields.number("strings", "a string", 1, strings)?],
    };
    let slots = Adjuster::NutSlots {
        strings: moved.into_iter().collect(),
    };
    Some(Command::moved(slots, by?))
}

/// The gaps wanted.
pub(crate) fn target(job: &Known, fields: &mut Fields) -> Option<Command> {
    let treble = fields.exact("nut_treble", &limits::NUT);
    let bass = fields.exact("nut_bass", &limits::NUT);
    let targets = Targets {
        spec: None,
        nut_held: held(fields),
        nut_treble: treble?,
        nut_bass: bass?,
        ..job.targets()
    };
    Some(Command::target(Wanted::Setup { targets }))
}

/// Where the string is held while the gap is read: open, or at fret 3.
fn held(fields: &Fields) -> u8 {
    if fields.text("held") == "3" { 3 } else { 0 }
}
