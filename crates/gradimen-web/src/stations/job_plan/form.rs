//! What can be told on the sheet before the first screw.

use gradimen_core::units::parse_turns;

use gradimen_bench::plan::as_it_came::named;

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

/// A line of the list, made as it stands there.
pub(crate) fn planned(job: &Known, fields: &mut Fields) -> Option<Command> {
    let list = JobPlan::of(job, &Plan::of(job));
    let line = fields.text("line").parse::<usize>().ok();
    let step = line
        .and_then(|line| list.moves.get(line))
        .filter(|line| line.now);
    let missing = "that line is no longer on the list; look at the list as it is now";
    let step = &fields.keep("line", step.ok_or(missing))?.step;
    let amount = match &job.instrument().bridge.vibrato {
        // A seat is told by how far it goes, whatever turns it.
        Some(sheet) if step.adjuster == Adjuster::Seat => {
            let moved = sheet.seat_moved(step.turns());
            let distance = fields.keep("line", moved)?;
            Amount::Distance { distance }
        }
        _ => step.amount.clone(),
    };
    Some(Command::Adjust {
        adjuster: step.adjuster,
        amount,
    })
}

/// A target set of the shop, or what the instrument came with.
pub(crate) fn spec(job: &Known, fields: &mut Fields, shop: &Shop) -> Option<Command> {
    let targets = named(shop, fields.text("spec"), job);
    let targets = fields.keep("spec", targets)?;
    Some(Command::target(Wanted::Setup { targets }))
}

/// How far each may be off, and what fretted notes are to be true to. What is left empty is as the house has it.
pub(crate) fn allowed(job: &Known, fields: &mut Fields) -> Option<Command> {
    let now = job.targets();
    let relief = fields.perhaps("within_relief", &limits::TOLERANCE_THOU);
    let nut = fields.perhaps("within_nut", &limits::TOLERANCE_THOU);
    let action = fields.perhaps("within_action", &limits::TOLERANCE_64);
    let gap = fields.perhaps("within_gap", &limits::TOLERANCE);
    let pickup = fields.perhaps("within_pickup", &limits::TOLERANCE_64);
    let cents = fields.cents("within_cents", &limits::CENTS_TOLERANCE);
    let aim = fields.cents_aim();
    let reference = IntonationReference::from_key(fields.text("true_to"))
        .ok_or("choose what a fretted note is to be true to");
    let reference = fields.keep("true_to", reference);
    let targets = Targets {
        tolerances: Tolerances {
            relief: relief?,
            nut: nut?,
            action: action?,
            gap: gap?,
            pickup: pickup?,
            intonation_cents: cents?,
        },
        intonation_reference: reference.filter(|to| *to != IntonationReference::Harmonic),
        intonation_aim_cents: aim?,
        spec: None,
        ..now
    };
    reference?;
    Some(Command::target(Wanted::Setup { targets }))
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
