//! What can be told in the proof.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// A line of a check list.
pub(crate) fn checked(fields: &mut Fields) -> Option<Command> {
    let round = Round::from_key(fields.text("round")).ok_or("choose before or after");
    let round = fields.keep("round", round)?;
    let line = CheckLine::from_key(fields.text("line")).ok_or("choose a line of the list");
    let line = fields.keep("line", line)?;
    let condition = Condition::from_key(fields.text("condition"));
    let condition = fields.keep("condition", condition.ok_or("choose fine or fault"))?;
    Some(Command::Observe(Observation::Checked {
        round,
        line,
        condition,
    }))
}

/// What is heard at a note; `clean` where nothing is any more.
pub(crate) fn played(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job)?;
    let fret = fields.number("fret", "a fret", 0, job.instrument().frets)?;
    let heard = match fields.text("heard") {
        "clean" => None,
        heard => {
            let heard = Heard::from_key(heard).ok_or("choose what is heard");
            Some(fields.keep("heard", heard)?)
        }
    };
    Some(Command::Observe(Observation::Played {
        note: Note { string, fret },
        heard,
        sure: fields.told_by_ear("sure")?,
    }))
}
