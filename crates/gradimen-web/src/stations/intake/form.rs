//! What can be told at intake and in the record.

use crate::commands::Command;
use crate::forms::{Fields, heights as given, job};
use crate::vocabulary::*;
use gradimen_bench::text::next::job_plan as says;

/// Whose hand it is set up for.
pub(crate) fn player(fields: &mut Fields) -> Option<Command> {
    let player = job::read_player(fields)?;
    Some(Command::target(Wanted::Player { player }))
}

/// What the player says at the counter.
pub(crate) fn complaint(fields: &mut Fields) -> Option<Command> {
    let symptoms = Symptom::all()
        .filter(|symptom| fields.ticked(&field_of(*symptom)))
        .collect();
    let picks = match fields.text("picks") {
        "" => None,
        picks => {
            let picks = Picks::from_key(picks).ok_or("choose where the player plays");
            Some(fields.keep("picks", picks)?)
        }
    };
    Some(Command::Observe(Observation::Complaint {
        complaint: Complaint {
            symptoms,
            words: fields.text("words").to_owned(),
            liked: fields.text("liked").to_owned(),
            picks,
        },
    }))
}

/// The tick of a symptom.
pub(super) fn field_of(symptom: Symptom) -> String {
    format!("says_{}", symptom.key())
}

/// How the strings lay as it came.
pub(crate) fn heights(fields: &mut Fields) -> Option<Command> {
    let heights = given::read(fields)?;
    Some(Command::Observe(Observation::AsItCame { heights }))
}

/// How damp the room is: `42`, `42 %`.
pub(crate) fn humidity(fields: &mut Fields) -> Option<Command> {
    let typed = fields.text("humidity").to_owned();
    let plain = typed.trim_end_matches(['%', ' ']).replace(',', ".");
    let inside = plain.parse::<f64>().ok();
    let inside = inside.filter(|percent| limits::HUMIDITY.contains(percent));
    let percent = inside.ok_or_else(|| {
        format!(
            "\"{}\" is not understood; write what the meter shows, {} to {} per cent: 42",
            limits::shortened(&typed),
            limits::HUMIDITY.start(),
            limits::HUMIDITY.end()
        )
    });
    let percent = fields.keep("humidity", percent)?;
    Some(Command::Observe(Observation::Humidity { percent }))
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

/// Where the job stands in the shop. With work left it is set ready or returned only by a second press.
pub(crate) fn stage(job: &Known, fields: &mut Fields) -> Option<Command> {
    let stage = Stage::from_key(fields.text("stage")).ok_or("choose where the job stands");
    let stage = fields.keep("stage", stage)?;
    let ends = matches!(stage, Stage::Ready | Stage::Returned);
    if ends
        && fields.text("all_the_same") != stage.key()
        && let Some(left) = says::left(job, &Plan::of(job))
    {
        fields.wrong(
            "stage",
            format!(
                "{left} are left: press {} again to set it so all the same",
                stage.name()
            ),
        );
        return None;
    }
    Some(Command::Stage(stage))
}
