//! What can be told on the sheet before the first screw.

use gradimen_core::units::parse_turns;

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// The nut of the truss rod, felt with its key.
pub(crate) fn rod_check(fields: &mut Fields) -> Option<Command> {
    let left = parse_turns(fields.text("turns_left"));
    let left = fields.keep("turns_left", left);
    let how = fields.text("how").parse::<RodFeel>();
    let how = fields.keep(
        "how",
        how.map_err(|_| "choose whether it turns freely or hard"),
    );
    Some(Command::read(
        Place::RodCheck,
        Reading::RodNut {
            turns_left: left?.value(),
            how: how?,
        },
    ))
}

/// A rocker over a fret, under a string.
pub(crate) fn rock(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let last = job.instrument().frets.saturating_sub(1);
    let fret = fields.number("fret", "a fret with one on either side", 2, last);
    let seen = fields.text("seen_rock").parse::<Rocking>();
    let seen = fields.keep(
        "seen_rock",
        seen.map_err(|_| "choose how far it rocks: not, a little, or clearly"),
    );
    Some(Command::read(
        Place::Rock {
            string: string?,
            fret: fret?,
        },
        Reading::Rock { seen: seen? },
    ))
}
