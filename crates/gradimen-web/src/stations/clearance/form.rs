//! What can be told at the clearance map.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// A buzz that was heard.
pub(crate) fn buzz(job: &Known, fields: &mut Fields) -> Option<Command> {
    let string = fields.string(job);
    let held = fields.number(
        "held",
        "a fret, or 0 for the open string",
        0,
        job.instrument().frets - 1,
    );
    let attack = fields.text("attack").parse::<f64>();
    let attack = attack.map_err(|_| "choose how hard it was played");
    let attack = fields.keep("attack", attack);
    let doubt = fields.told_by_ear("doubt");
    Some(Command::Observe(Observation::Buzz {
        buzz: Buzz {
            string: string?,
            held: held?,
            attack: attack?,
            doubt: doubt?,
        },
    }))
}
