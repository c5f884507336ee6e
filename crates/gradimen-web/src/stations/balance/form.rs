//! What can be told at the balance station.

use crate::commands::Command;
use crate::forms::Fields;
use crate::vocabulary::*;

/// The gap at pitch; `flat` where the plate lies on the body.
pub(crate) fn gap(fields: &mut Fields) -> Option<Command> {
    let typed = fields.text("gap").to_lowercase();
    let reading = match typed.as_str() {
        "flat" | "0" | "none" => Reading::Flat,
        _ => Reading::Length {
            length: fields.length("gap", &limits::VIBRATO_GAP)?,
        },
    };
    Some(Command::read(Place::Gap, reading))
}

/// Both screws of the claw; one side further than the other by `apart`.
pub(crate) fn claw(fields: &mut Fields) -> Option<Command> {
    let apart = match fields.text("apart") {
        "" => Ok(0.0),
        text => text.parse::<f64>(),
    };
    let apart = apart.map_err(|_| "one side is to go further by turns: 0.25");
    let apart = fields.keep("turns", apart);
    let turns = fields.signed_turns("out");
    let (apart, turns) = (apart?, turns?);
    Some(Command::Adjust {
        adjuster: Adjuster::Claw,
        amount: if apart == 0.0 {
            Amount::turns(turns)
        } else {
            Amount::Apart {
                turns: turns.value(),
                apart,
            }
        },
    })
}

/// The seat of a tail's spring, by turns of its screw or by washers.
pub(crate) fn seat(job: &Known, fields: &mut Fields) -> Option<Command> {
    let sheet = job.instrument().bridge.vibrato.as_ref();
    let sheet = fields.keep(
        "turns",
        sheet.ok_or("this bridge has no vibrato on its record"),
    )?;
    let (_, weaker) = sheet.kind.ways();
    let turns = fields.signed_turns(weaker)?;
    let by = fields.keep("turns", sheet.seat_moved(turns))?;
    Some(Command::moved(Adjuster::Seat, by))
}

/// A spring's length, unhooked.
pub(crate) fn spring_length(fields: &mut Fields) -> Option<Command> {
    let length = fields.exact("spring_length", &limits::SPRING_LENGTH)?;
    Some(Command::read(Place::Spring, Reading::Length { length }))
}

/// Claw to wall on both sides.
pub(crate) fn claw_ends(fields: &mut Fields) -> Option<Command> {
    let treble = fields.exact("claw_treble", &limits::CLAW_END);
    let bass = fields.exact("claw_bass", &limits::CLAW_END);
    let ends = Reading::Ends {
        treble: treble?,
        bass: bass?,
    };
    Some(Command::read(Place::ClawEnds, ends))
}

/// How many springs are hooked on, and how they run.
pub(crate) fn springs(fields: &mut Fields) -> Option<Command> {
    let count = fields.number("count", "a number of springs", 1, 5)?;
    Some(Command::Adjust {
        adjuster: Adjuster::Springs,
        amount: Amount::Springs {
            count,
            converging: fields.text("converging") == "yes",
        },
    })
}

/// How the vibrato is to rest.
pub(crate) fn wanted(fields: &mut Fields) -> Option<Command> {
    let school = BalanceSchool::from_key(fields.text("school_wanted"))
        .ok_or("choose how the vibrato is to rest");
    let school = fields.keep("school_wanted", school)?;
    Some(Command::target(Wanted::Balance { school }))
}
