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

/// How far the worst string fell after a stretch.
pub(crate) fn stretched(fields: &mut Fields) -> Option<Command> {
    let typed = fields.text("drift").to_owned();
    let plain = typed.replace('\u{2212}', "-").replace(',', ".");
    // A fresh string falls by more than a tuner's hundred cents.
    let read = plain.trim_end_matches("cents").trim().parse::<f64>();
    let inside = read.ok().filter(|cents| cents.abs() <= limits::DRIFT);
    let one = inside.ok_or_else(|| {
        format!(
            "\"{}\" is not understood; write how far the worst string fell, up to {} cents: 12",
            limits::shortened(&typed),
            limits::DRIFT
        )
    });
    let cents = fields.keep("drift", one)?;
    Some(Command::Observe(Observation::Stretched { cents }))
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
