//! What is told at the balance station.

use gradimen_bench::event::{BalanceSchool, Event};
use gradimen_bench::job::Job;

use super::signed_turns;
use crate::forms::{Fields, limits};

pub(super) fn event(job: &Job, fields: &mut Fields) -> Option<Option<Event>> {
    let kept = fields.text("sure") == "yes";
    Some(match fields.text("what").to_owned().as_str() {
        "balance" => {
            if matches!(
                fields.text("gap").to_lowercase().as_str(),
                "flat" | "0" | "none"
            ) {
                Some(Event::BalanceRead { gap: None, kept })
            } else {
                fields
                    .length("gap", &limits::VIBRATO_GAP)
                    .map(|gap| Event::BalanceRead {
                        gap: Some(gap),
                        kept,
                    })
            }
        }
        "claw" => {
            let apart = match fields.text("apart") {
                "" => Ok(0.0),
                text => text.parse::<f64>(),
            };
            let apart = fields.keep(
                "turns",
                apart.map_err(|_| "one side is to go further by turns: 0.25"),
            );
            let turns = signed_turns(fields, "out");
            apart.zip(turns).map(|(apart, turns)| Event::ClawTurned {
                turns: turns.value(),
                apart,
            })
        }
        "seat" => seat(job, fields),
        "spring_length" => fields
            .exact("spring_length", &limits::SPRING_LENGTH)
            .map(|length| Event::SpringMeasured { length }),
        "claw_ends" => {
            let treble = fields.exact("claw_treble", &limits::CLAW_END);
            let bass = fields.exact("claw_bass", &limits::CLAW_END);
            treble
                .zip(bass)
                .map(|(treble, bass)| Event::ClawEnds { treble, bass })
        }
        "springs" => fields
            .number("count", "a number of springs", 1, 5)
            .map(|count| Event::SpringsHooked {
                count,
                converging: fields.text("converging") == "yes",
            }),
        "balance_wanted" => {
            let school = BalanceSchool::from_key(fields.text("school_wanted"))
                .ok_or("choose how the vibrato is to rest");
            fields
                .keep("school_wanted", school)
                .map(|school| Event::BalanceWanted { school })
        }
        _ => return None,
    })
}

/// The seat of a tail's spring, by turns of its screw or by washers.
fn seat(job: &Job, fields: &mut Fields) -> Option<Event> {
    let sheet = job.instrument().bridge.vibrato.as_ref();
    let sheet = fields.keep(
        "turns",
        sheet.ok_or("this bridge has no vibrato on its record"),
    )?;
    let (_, weaker) = sheet.kind.ways();
    let turns = signed_turns(fields, weaker)?;
    fields
        .keep("turns", sheet.seat_moved(turns))
        .map(|by| Event::SeatMoved { by })
}
