//! What is thought of on the what-if sheet beside set and tuning: hand, targets, springs.
//! The sheet and its adoption read the same fields.

use crate::commands::Command;
use crate::forms::Fields;
use crate::stations::strings;
use crate::vocabulary::*;

/// The names of these fields, to be handed on when the sheet is adopted.
pub(crate) const NAMES: [&str; 7] = [
    "touch",
    "want_relief",
    "want_treble",
    "want_bass",
    "school",
    "springs",
    "converging",
];

/// A sheet made so: everything it named, in one go.
pub(crate) fn adopt(job: &Known, fields: &mut Fields) -> Option<Command> {
    let strung = strings::form::strung(job, fields);
    let change = read(job, fields);
    let change = Change {
        strung: strung?,
        ..change?
    };
    if change.events(job).is_empty() {
        fields.wrong("what", "there is nothing to change");
        return None;
    }
    Some(Command::Adopt(Box::new(change)))
}

/// Reads them; empty fields change nothing, what is wrong is marked.
pub(crate) fn read(job: &Job, fields: &mut Fields) -> Option<Change> {
    let touch = Touch::from_key(fields.text("touch")).unwrap_or(job.player().touch);
    let targets = targets(job, fields);
    let school = BalanceSchool::from_key(fields.text("school"));
    let springs = match fields.text("springs") {
        "" => Some(None),
        _ => fields
            .number("springs", "a number of springs", 1, 5)
            .map(Some),
    };
    let converging = job
        .instrument()
        .bridge
        .vibrato
        .as_ref()
        .is_some_and(|record| record.converging);
    let converging = match fields.text("converging") {
        "yes" => true,
        "no" => false,
        _ => converging,
    };
    Some(Change {
        player: Player {
            touch,
            ..job.player().clone()
        },
        targets: targets?,
        school,
        springs: springs?.map(|count| (count, converging)),
        ..Change::none(job)
    })
}

fn targets(job: &Job, fields: &mut Fields) -> Option<Option<Targets>> {
    let relief = fields.perhaps("want_relief", &limits::RELIEF);
    let treble = fields.perhaps("want_treble", &limits::ACTION);
    let bass = fields.perhaps("want_bass", &limits::ACTION);
    let (relief, treble, bass) = (relief?, treble?, bass?);
    if relief.is_none() && treble.is_none() && bass.is_none() {
        return Some(None);
    }
    let now = job.targets();
    Some(Some(Targets {
        spec: None,
        relief: relief.unwrap_or(now.relief),
        action_treble: treble.unwrap_or(now.action_treble),
        action_bass: bass.unwrap_or(now.action_bass),
        ..job.targets()
    }))
}
