//! What is told at the geometry stations.

mod balance;
mod pickups;

use gradimen_bench::event::{
    Event, Gap, HeightAdjuster, HeightEnd, Inner, ReliefSpan, RodStop, Shim, Side, Targets,
};
use gradimen_bench::job::Job;
use gradimen_bench::methods::relief_schools;
use gradimen_bench::record::Measured;
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::parse_turns;

use crate::forms::{Fields, limits};

/// The event a form of these stations tells of, if it is one of them; what is wrong is marked.
pub(super) fn event(job: &Job, fields: &mut Fields) -> Option<Option<Event>> {
    let strings = job.instrument().strings;
    let kept = fields.text("sure") == "yes";
    Some(match fields.text("what").to_owned().as_str() {
        "relief" => relief(job, fields, kept),
        "rod" => signed_turns(fields, "loosen").map(|turns| Event::RodTurned {
            turns: turns.value(),
        }),
        "rod_stopped" => {
            let how = RodStop::from_key(fields.text("how")).ok_or("choose how the rod felt");
            fields.keep("how", how).map(|how| Event::RodStopped { how })
        }
        "relief_target" => {
            let relief = fields.exact("relief", &limits::RELIEF);
            let span = span_of(job, fields.text("target_school"));
            relief.map(|relief| Event::TargetsSet {
                targets: Targets {
                    relief,
                    relief_span: span,
                    ..job.targets()
                },
            })
        }
        "nut" => {
            let string = fields.number("string", "a string", 1, strings);
            let held = held(fields);
            let gap = fields.length("gap", &limits::GAP);
            string.zip(gap).map(|(string, gap)| Event::NutRead {
                string,
                held,
                gap,
                kept,
            })
        }
        "nut_moved" => {
            let by = fields.exact("nut_move", &limits::NUT_MOVE);
            let moved = if fields.text("strings") == "all" {
                Some((1..=strings).collect())
            } else {
                fields
                    .number("strings", "a string", 1, strings)
                    .map(|string| vec![string])
            };
            moved
                .zip(by)
                .map(|(strings, by)| Event::NutMoved { strings, by })
        }
        "nut_target" => {
            let treble = fields.exact("nut_treble", &limits::GAP);
            let bass = fields.exact("nut_bass", &limits::GAP);
            let nut_held = held(fields);
            treble
                .zip(bass)
                .map(|(nut_treble, nut_bass)| Event::TargetsSet {
                    targets: Targets {
                        nut_held,
                        nut_treble,
                        nut_bass,
                        ..job.targets()
                    },
                })
        }
        "action" => {
            let string = fields.number("string", "a string", 1, strings);
            let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
            let gap = fields.length("gap", &limits::ACTION);
            string
                .zip(fret)
                .zip(gap)
                .map(|((string, fret), gap)| Event::ActionRead {
                    string,
                    fret,
                    held: 0,
                    gap,
                    kept,
                })
        }
        "height" => {
            let adjuster = adjuster(fields);
            let turns = signed_turns(fields, "down");
            adjuster
                .zip(turns)
                .map(|(adjuster, turns)| Event::HeightMoved {
                    adjuster,
                    turns: turns.value(),
                })
        }
        "height_end" => {
            let end = if fields.text("end") == "top" {
                HeightEnd::Top
            } else {
                HeightEnd::Bottom
            };
            adjuster(fields).map(|adjuster| Event::HeightAtEnd { adjuster, end })
        }
        "shim" => {
            let shim = if fields.text("shim") == "full" {
                Shim::Full
            } else {
                Shim::Wedge
            };
            let thickness = fields.exact("thickness", &limits::SHIM);
            thickness.map(|thickness| Event::NeckShimmed { shim, thickness })
        }
        "height_target" => height_target(job, fields),
        "buzz" => buzz(job, fields),
        _ => return balance::event(job, fields).or_else(|| pickups::event(job, fields)),
    })
}

/// Relief by a feeler or gauge; `none` where it touches, `rocks` where it rocks.
fn relief(job: &Job, fields: &mut Fields, kept: bool) -> Option<Event> {
    let side = Side::from_key(fields.text("side")).ok_or("choose the treble or the bass side");
    let side = fields.keep("side", side)?;
    let span = span_of(job, fields.text("school"));
    let seen = match fields.text("gap").to_lowercase().as_str() {
        "none" | "touches" | "0" => Gap::Touches,
        "card" | "business card" => Gap::Open {
            gap: improvised("business card", CARD_MM),
        },
        "pick" | "thin pick" => Gap::Open {
            gap: improvised("thin pick", PICK_MM),
        },
        "rocks" => Gap::Rocks,
        _ => Gap::Open {
            gap: fields.length("gap", &limits::RELIEF)?,
        },
    };
    Some(Event::ReliefRead {
        side,
        span,
        seen,
        kept,
    })
}

/// A business card (common practice).
const CARD_MM: (f64, f64) = (0.25, 0.30);
/// A thin nylon pick (common practice).
const PICK_MM: (f64, f64) = (0.36, 0.40);

fn improvised(name: &str, (low, high): (f64, f64)) -> Measured {
    let written = format!("{name}, {low}-{high} mm");
    Measured::new(written, Length::from_mm(low), Length::from_mm(high))
}

fn span_of(job: &Job, school: &str) -> ReliefSpan {
    relief_schools(job.instrument())
        .into_iter()
        .find(|known| known.key == school)
        .map_or(job.targets().relief_span, |school| school.span)
}

fn held(fields: &Fields) -> u8 {
    if fields.text("held") == "3" { 3 } else { 0 }
}

fn adjuster(fields: &mut Fields) -> Option<HeightAdjuster> {
    let adjuster = HeightAdjuster::from_key(fields.text("adjuster"))
        .ok_or("choose which screw or post was turned");
    fields.keep("adjuster", adjuster)
}

/// Turns with the way beside them; `against` is the word for less.
fn signed_turns(fields: &mut Fields, against: &str) -> Option<Turns> {
    let read = parse_turns(fields.text("turns"));
    let turns = fields.keep("turns", read)?;
    Some(if fields.text("way") == against {
        -turns
    } else {
        turns
    })
}

fn height_target(job: &Job, fields: &mut Fields) -> Option<Event> {
    let treble = fields.exact("action_treble", &limits::ACTION);
    let bass = fields.exact("action_bass", &limits::ACTION);
    let action_fret = if fields.text("action_fret").is_empty() {
        Some(job.targets().action_fret)
    } else {
        fields.number("action_fret", "a fret", 5, job.instrument().frets)
    };
    let inner = Inner::ALL
        .into_iter()
        .find(|inner| inner.key() == fields.text("inner"))
        .unwrap_or(Inner::Blend);
    Some(Event::TargetsSet {
        targets: Targets {
            action_treble: treble?,
            action_bass: bass?,
            action_fret: action_fret?,
            inner,
            ..job.targets()
        },
    })
}

fn buzz(job: &Job, fields: &mut Fields) -> Option<Event> {
    let string = fields.number("string", "a string", 1, job.instrument().strings);
    let held = fields.number(
        "held",
        "a fret, or 0 for the open string",
        0,
        job.instrument().frets - 1,
    );
    let attack = fields
        .text("attack")
        .parse::<f64>()
        .map_err(|_| "choose how hard it was played");
    let attack = fields.keep("attack", attack);
    Some(Event::BuzzHeard {
        string: string?,
        held: held?,
        attack: attack?,
    })
}
