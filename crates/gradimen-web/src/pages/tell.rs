//! Form text becomes typed events: the one way a page changes a job.

mod setup;

use gradimen_bench::event::{Against, Event, Gap, Stage, Strung, Tuner};
use gradimen_bench::job::Job;
use gradimen_bench::methods::TUNERS;
use gradimen_bench::record::Weighing;
use gradimen_bench::what_if::Change;
use gradimen_core::quantity::Turns;
use gradimen_core::units::{parse_cents, parse_mass, parse_turns};

use crate::forms::{Fields, change, heights, job as job_form, limits, set};

/// The events a form tells of; what is wrong is marked in its fields.
pub(crate) fn events(job: &Job, fields: &mut Fields) -> Option<Vec<Event>> {
    let strings = job.instrument().strings;
    match fields.text("what").to_owned().as_str() {
        "undo" => one(job.undo(), fields, "there is nothing to take back"),
        "redo" => one(job.redo(), fields, "there is nothing to put again"),
        "read" => {
            let string = fields.number("string", "a string", 1, strings);
            let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
            let against = Against::from_key(fields.text("against")).unwrap_or(Against::Harmonic);
            let kept = fields.text("sure") == "yes";
            let read = parse_cents(fields.text("cents"));
            let readings = fields.keep("cents", read);
            let (string, fret) = (string?, fret?);
            // A harmonic is compared at the twelfth; elsewhere the open string is what is in tune.
            let against = if fret == 12 { against } else { Against::Open };
            Some(
                readings?
                    .into_iter()
                    .map(|cents| Event::IntonationRead {
                        string,
                        fret,
                        cents: cents.value(),
                        against,
                        kept,
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
            Some(vec![Event::SaddleMoved {
                string: string?,
                turns: turns?.value(),
            }])
        }
        "stuck" => on_string(fields, strings, |string| Event::ScrewStuck { string }),
        // It turns after all: a move of nothing says so and keeps the record.
        "loose" => on_string(fields, strings, |string| Event::SaddleMoved {
            string,
            turns: Turns::ZERO.value(),
        }),
        "round" => on_string(fields, strings, |string| Event::SaddleTurnedRound {
            string,
        }),
        "prefer" => {
            let alone = fields.text("alone") == "yes";
            on_string(fields, strings, |string| Event::Preferred { string, alone })
        }
        "bridge" => {
            let by = fields.exact("bridge_move", &limits::BRIDGE_MOVE)?;
            Some(vec![Event::BridgeMoved { by }])
        }
        "tuner" => tuner(fields),
        "scale" => {
            let string = fields.number("string", "a string", 1, strings);
            let nut_to_twelfth = fields.length("nut_to_twelfth", &limits::NUT_TO_TWELFTH);
            Some(vec![Event::ScaleMeasured {
                string: string?,
                nut_to_twelfth: nut_to_twelfth?,
            }])
        }
        "place" => {
            let string = fields.number("string", "a string", 1, strings);
            let twelfth_to_saddle = fields.length("twelfth_to_saddle", &limits::TWELFTH_TO_SADDLE);
            Some(vec![Event::SaddleMeasured {
                string: string?,
                twelfth_to_saddle: twelfth_to_saddle?,
            }])
        }
        "room" => {
            let string = fields.number("string", "a string", 1, strings);
            let behind = fields.length("room", &limits::ROOM);
            Some(vec![Event::RoomMeasured {
                string: string?,
                behind: behind?,
            }])
        }
        "core" => {
            let string = fields.number("string", "a string", 1, strings);
            let core = fields.exact("core", &limits::CORE);
            Some(vec![Event::CoreMeasured {
                string: string?,
                core: core?,
            }])
        }
        "weigh" => {
            let string = fields.number("string", "a string", 1, strings);
            let length = fields.exact("cut_off", &limits::CUT_OFF);
            let read = parse_mass(fields.text("mass"));
            let mass = fields.keep("mass", read);
            Some(vec![Event::CutOffWeighed {
                string: string?,
                weighing: Weighing {
                    length: length?,
                    grams: mass?.grams(),
                },
            }])
        }
        "strung" => strung(job, fields).map(|strung| vec![Event::Strung { strung }]),
        "adopt" => adopt(job, fields),
        "aged" => {
            let old = fields.text("old") == "yes";
            Some(vec![Event::StringsAged { old }])
        }
        "player" => {
            let player = job_form::read_player(fields)?;
            Some(vec![Event::PlayerChanged { player }])
        }
        "heights" => {
            let heights = heights::read(fields)?;
            Some(vec![Event::HeightsGiven { heights }])
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
            Some(vec![Event::StageSet { stage }])
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
pub(crate) fn strung(job: &Job, fields: &mut Fields) -> Option<Strung> {
    set::read(fields, job.instrument().strings, Some(&job.strung()))
}

/// A what-if sheet made so: everything it named, in one go.
fn adopt(job: &Job, fields: &mut Fields) -> Option<Vec<Event>> {
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
    Some(vec![Event::TunerChosen {
        tuner: Tuner {
            name,
            resolution_cents: resolution,
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
    match event {
        Event::IntonationRead { string, cents, .. } => {
            changed.push(("string", string.to_string()));
            changed.push(("cents", cents.to_string()));
        }
        Event::NutRead { string, gap, .. } => {
            changed.push(("string", string.to_string()));
            changed.push(("gap", gap.written.clone()));
        }
        Event::ActionRead {
            string, fret, gap, ..
        } => {
            changed.push(("string", string.to_string()));
            changed.push(("fret", fret.to_string()));
            changed.push(("gap", gap.written.clone()));
        }
        Event::PickupRead { gap, .. }
        | Event::BalanceRead { gap: Some(gap), .. }
        | Event::ReliefRead {
            seen: Gap::Open { gap },
            ..
        } => changed.push(("gap", gap.written.clone())),
        _ => {}
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
