//! Form text becomes typed events: the one way a page changes a job.

mod setup;

use crate::vocabulary::*;
use gradimen_core::units::{parse_cents, parse_mass, parse_turns};

use crate::forms::{Fields, change, heights, job as job_form, set};

/// The events a form records; what is wrong is marked in its fields. A reading that was asked about is confirmed by
/// `sure`, and one that is to count in place of those before it says so by `replace`.
pub(crate) fn events(job: &Known, fields: &mut Fields) -> Option<Vec<Event>> {
    let events = recorded(job, fields)?;
    let sure = fields.text("sure") == "yes";
    let replace = fields.ticked("replace");
    let event = |event: Event| match (sure, replace) {
        (true, true) => event.confirmed().replacing(),
        (true, false) => event.confirmed(),
        (false, true) => event.replacing(),
        (false, false) => event,
    };
    Some(events.into_iter().map(event).collect())
}

fn recorded(job: &Known, fields: &mut Fields) -> Option<Vec<Event>> {
    let strings = job.instrument().strings;
    match fields.text("what").to_owned().as_str() {
        "undo" => one(job.undo(), fields, "there is nothing to undo"),
        "redo" => one(job.redo(), fields, "there is nothing to redo"),
        "read" => {
            let string = fields.number("string", "a string", 1, strings);
            let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
            let against =
                Reference::from_key(fields.text("against")).unwrap_or(Reference::Harmonic);
            let read = parse_cents(fields.text("cents"));
            let readings = fields.keep("cents", read);
            let (string, fret) = (string?, fret?);
            // A harmonic is compared at the twelfth; elsewhere the open string is what is in tune.
            let against = if fret == 12 { against } else { Reference::Open };
            Some(
                readings?
                    .into_iter()
                    .map(|cents| {
                        Event::read(
                            Place::Intonation { string, fret },
                            Reading::Note {
                                cents: cents.value(),
                                against,
                                resolution_cents: None,
                            },
                        )
                    })
                    .collect(),
            )
        }
        "move" => {
            let string = fields.number("string", "a string", 1, strings);
            let read = parse_turns(fields.text("turns"));
            let turns = fields.keep("turns", read);
            let away = fields.text("way") != "toward";
            let turns = turns.map(|turns| if away { turns } else { -turns });
            Some(vec![Event::Adjusted {
                adjuster: Adjuster::SaddleDrive { string: string? },
                amount: Amount::Turns {
                    turns: turns?.value(),
                },
            }])
        }
        "stuck" => on_string(fields, strings, |string| Event::Ended {
            adjuster: Adjuster::SaddleDrive { string },
            how: End::Stuck,
        }),
        "loose" => on_string(fields, strings, |string| Event::Ended {
            adjuster: Adjuster::SaddleDrive { string },
            how: End::Free,
        }),
        "round" => on_string(fields, strings, |string| Event::Adjusted {
            adjuster: Adjuster::SaddleDrive { string },
            amount: Amount::Reversed,
        }),
        "prefer" => {
            let alone = fields.text("alone") == "yes";
            on_string(fields, strings, |string| Event::Targeted {
                wanted: Wanted::SharedSaddle { string, alone },
            })
        }
        "bridge" => {
            let by = fields.exact("bridge_move", &limits::BRIDGE_MOVE)?;
            Some(vec![Event::Adjusted {
                adjuster: Adjuster::Bridge,
                amount: Amount::Distance { distance: by },
            }])
        }
        "tuner" => tuner(fields),
        "scale" => {
            let string = fields.number("string", "a string", 1, strings);
            let nut_to_twelfth = fields.length("nut_to_twelfth", &limits::NUT_TO_TWELFTH);
            Some(vec![Event::read(
                Place::Scale { string: string? },
                Reading::Length {
                    length: nut_to_twelfth?,
                },
            )])
        }
        "place" => {
            let string = fields.number("string", "a string", 1, strings);
            let twelfth_to_saddle = fields.length("twelfth_to_saddle", &limits::TWELFTH_TO_SADDLE);
            Some(vec![Event::read(
                Place::Saddle { string: string? },
                Reading::Length {
                    length: twelfth_to_saddle?,
                },
            )])
        }
        "room" => {
            let string = fields.number("string", "a string", 1, strings);
            let behind = fields.length("room", &limits::ROOM);
            Some(vec![Event::read(
                Place::Room { string: string? },
                Reading::Length { length: behind? },
            )])
        }
        "core" => {
            let string = fields.number("string", "a string", 1, strings);
            let core = fields.exact("core", &limits::CORE);
            Some(vec![Event::read(
                Place::Core { string: string? },
                Reading::Length { length: core? },
            )])
        }
        "weigh" => {
            let string = fields.number("string", "a string", 1, strings);
            let length = fields.exact("cut_off", &limits::CUT_OFF);
            let read = parse_mass(fields.text("mass"));
            let mass = fields.keep("mass", read);
            Some(vec![Event::read(
                Place::CutOff { string: string? },
                Reading::Weighed {
                    weighing: Weighing {
                        length: length?,
                        grams: mass?.grams(),
                    },
                },
            )])
        }
        "strung" => strung(job, fields).map(|strung| vec![Event::Restrung { strung }]),
        "adopt" => adopt(job, fields),
        "aged" => {
            let old = fields.text("old") == "yes";
            Some(vec![Event::Observed {
                what: Observation::Strings { old },
            }])
        }
        "player" => {
            let player = job_form::read_player(fields)?;
            Some(vec![Event::Targeted {
                wanted: Wanted::Player { player },
            }])
        }
        "heights" => {
            let heights = heights::read(fields)?;
            Some(vec![Event::Observed {
                what: Observation::AsItCame { heights },
            }])
        }
        "note" => {
            let text = fields.text("text").to_owned();
            if text.is_empty() {
                fields.wrong("text", "nothing was written; expected a note in words");
                return None;
            }
            Some(vec![Event::Noted { text }])
        }
        "stage" => {
            let stage = Stage::from_key(fields.text("stage")).ok_or("choose where the job stands");
            let stage = fields.keep("stage", stage)?;
            Some(vec![Event::Staged { stage }])
        }
        other => {
            if let Some(told) = setup::event(job, fields) {
                return told.map(|event| vec![event]);
            }
            let error = format!("read '{other}', which is nothing a job can be told");
            fields.wrong("what", error);
            None
        }
    }
}

fn one(event: Option<Event>, fields: &mut Fields, nothing: &str) -> Option<Vec<Event>> {
    if event.is_none() {
        fields.wrong("what", nothing);
    }
    event.map(|event| vec![event])
}

fn on_string(fields: &mut Fields, strings: u8, event: impl Fn(u8) -> Event) -> Option<Vec<Event>> {
    fields
        .number("string", "a string", 1, strings)
        .map(|string| vec![event(string)])
}

/// The set and tuning in the fields, against what is on.
pub(crate) fn strung(job: &Known, fields: &mut Fields) -> Option<Strung> {
    set::read(fields, job.instrument().strings, Some(&job.strung()))
}

/// A what-if sheet made so: everything it named, in one go.
fn adopt(job: &Known, fields: &mut Fields) -> Option<Vec<Event>> {
    let strung = strung(job, fields);
    let change = change::read(job, fields);
    let change = Change {
        strung: strung?,
        ..change?
    };
    let events = change.events(job);
    if events.is_empty() {
        fields.wrong("what", "there is nothing to change");
        return None;
    }
    Some(events)
}

/// A tuner by its name, or by what it resolves.
fn tuner(fields: &mut Fields) -> Option<Vec<Event>> {
    let known = TUNERS
        .iter()
        .find(|(name, _)| *name == fields.text("tuner"));
    let (name, resolution) = match known {
        Some((name, resolution)) => ((*name).to_owned(), resolution.value()),
        None => {
            let read = parse_cents(fields.text("resolution"));
            let resolution = fields.keep("resolution", read)?.first()?.value().abs();
            ("own".to_owned(), resolution)
        }
    };
    Some(vec![Event::Observed {
        what: Observation::Tuner {
            tuner: Tuner {
                name,
                resolution_cents: resolution,
            },
        },
    }])
}

/// The field an error of the journal belongs to.
pub(crate) fn main_field(what: &str) -> &'static str {
    match what {
        "read" => "cents",
        "move" => "turns",
        "bridge" => "bridge_move",
        "tuner" => "resolution",
        "scale" => "nut_to_twelfth",
        "place" => "twelfth_to_saddle",
        "room" => "room",
        "core" => "core",
        "weigh" => "mass",
        "strung" => "set",
        "heights" => "twelfth_treble",
        "note" => "text",
        "relief" | "nut" | "action" | "pickup" | "balance" => "gap",
        "rod" | "height" | "pickup_turned" | "pole_turned" | "claw" | "seat" => "turns",
        "spring_length" => "spring_length",
        "claw_ends" => "claw_treble",
        "pole" => "pole_gap",
        "pickup_target" => "pickup_treble",
        "level" => "level",
        "nut_moved" => "nut_move",
        "relief_target" => "relief",
        "nut_target" => "nut_treble",
        "height_target" => "action_treble",
        "shim" => "thickness",
        "buzz" => "held",
        _ => "what",
    }
}

/// The fields of the same form for a reading as it would be without a slip.
pub(crate) fn without_slip(fields: &Fields, event: &Event) -> Vec<(String, String)> {
    let mut changed: Vec<(&str, String)> = Vec::new();
    if let Event::Read { place, value, .. } = event {
        if let Some(string) = place.string() {
            changed.push(("string", string.to_string()));
        }
        if let Place::Action { fret, .. } = place {
            changed.push(("fret", fret.to_string()));
        }
        match value {
            Reading::Note { cents, .. } => changed.push(("cents", cents.to_string())),
            Reading::Length { length } => changed.push(("gap", length.written.clone())),
            _ => {}
        }
    }
    fields
        .all()
        .map(|(name, value)| {
            let other = changed.iter().find(|(changed, _)| changed == name);
            let value = other.map_or(value, |(_, value)| value);
            (name.clone(), value.clone())
        })
        .collect()
}
