//! What can be told at intake and in the record.

use crate::commands::Command;
use crate::forms::{Fields, heights as given, job};
use crate::vocabulary::*;

/// Whose hand it is set up for.
pub(crate) fn player(fields: &mut Fields) -> Option<Command> {
    let player = job::read_player(fields)?;
    Some(Command::target(Wanted::Player { player }))
}

/// How the strings lay as it came.
pub(crate) fn heights(fields: &mut Fields) -> Option<Command> {
    let heights = given::read(fields)?;
    Some(Command::Observe(Observation::AsItCame { heights }))
}

/// A word for the record.
pub(crate) fn note(fields: &mut Fields) -> Option<Command> {
    let text = fields.text("text").to_owned();
    if text.is_empty() {
        fields.wrong("text", "nothing was written; expected a note in words");
        return None;
    }
    Some(Command::Note(text))
}

/// Where the job stands in the shop.
pub(crate) fn stage(fields: &mut Fields) -> Option<Command> {
    let stage = Stage::from_key(fields.text("stage")).ok_or("choose where the job stands");
    fields.keep("stage", stage).map(Command::Stage)
}
