//! What is told at the balance station.

use super::signed_turns;
use crate::forms::Fields;
use crate::vocabulary::*;

pub(super) fn event(job: &Known, fields: &mut Fields) -> Option<Option<Event>> {
    Some(match fields.text("what").to_owned().as_str() {
        "balance" => {
            if matches!(
                fields.text("gap").to_lowercase().as_str(),
                "flat" | "0" | "none"
            ) {
                Some(Event::read(Place::Gap, Reading::Flat))
            } else {
                fields
                    .length("gap", &limits::VIBRATO_GAP)
                    .map(|gap| Event::read(Place::Gap, Reading::Length { length: gap }))
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
            apart.zip(turns).map(|(apart, turns)| Event::Adjusted {
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
        "seat" => seat(job, fields),
        "spring_length" => fields
            .exact("spring_length", &limits::SPRING_LENGTH)
            .map(|length| Event::read(Place::Spring, Reading::Length { length })),
        "claw_ends" => {
            let treble = fields.exact("claw_treble", &limits::CLAW_END);
            let bass = fields.exact("claw_bass", &limits::CLAW_END);
            treble
                .zip(bass)
                .map(|(treble, bass)| Event::read(Place::ClawEnds, Reading::Ends { treble, bass }))
        }
        "springs" => fields
            .number("count", "a number of springs", 1, 5)
            .map(|count| Event::Adjusted {
                adjuster: Adjuster::Springs,
                amount: Amount::Springs {
                    count,
                    converging: fields.text("converging") == "yes",
                },
            }),
        "balance_wanted" => {
            let school = BalanceSchool::from_key(fields.text("school_wanted"))
                .ok_or("choose how the vibrato is to rest");
            fields
                .keep("school_wanted", school)
                .map(|school| Event::Targeted {
                    wanted: Wanted::Balance { school },
                })
        }
        _ => return None,
    })
}

/// The seat of a tail's spring, by turns of its screw or by washers.
fn seat(job: &Known, fields: &mut Fields) -> Option<Event> {
    let sheet = job.instrument().bridge.vibrato.as_ref();
    let sheet = fields.keep(
        "turns",
        sheet.ok_or("this bridge has no vibrato on its record"),
    )?;
    let (_, weaker) = sheet.kind.ways();
    let turns = signed_turns(fields, weaker)?;
    fields
        .keep("turns", sheet.seat_moved(turns))
        .map(|by| Event::Adjusted {
            adjuster: Adjuster::Seat,
            amount: Amount::Distance { distance: by },
        })
}
