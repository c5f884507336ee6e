//! What can be told at the strings station.

use gradimen_core::units::parse_mass;

use crate::commands::Command;
use crate::forms::{Fields, set};
use crate::vocabulary::*;

/// The set and tuning in the fields, against what is on.
pub(crate) fn strung(job: &Known, fields: &mut Fields) -> Option<Strung> {
    set::read(fields, job.instrument().strings, Some(&job.strung()))
}

/// Whether the strings are old.
pub(crate) fn aged(fields: &Fields) -> Command {
    Command::Observe(Observation::Strings {
        old: fields.text("old") == "yes",
    })
}

/// The core of a wound string.
pub(crate) fn core(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let length = fields.exact("core", &limits::CORE);
    let place = Place::Core { string: string? };
    Some(Command::read(place, Reading::Length { length: length? }))
}

/// A piece cut off a string, on the scale.
pub(crate) fn weigh(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let length = fields.exact("cut_off", &limits::CUT_OFF);
    let read = parse_mass(fields.text("mass"));
    let mass = fields.keep("mass", read);
    let place = Place::CutOff { string: string? };
    let weighing = Weighing {
        length: length?,
        grams: mass?.grams(),
    };
    Some(Command::read(place, Reading::Weighed { weighing }))
}
