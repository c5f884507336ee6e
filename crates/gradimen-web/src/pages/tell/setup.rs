//! What is told at the geometry stations.

mod balance;
mod pickups;

use crate::vocabulary::*;
use gradimen_core::quantity::Turns;
use gradimen_core::units::parse_turns;

use crate::forms::Fields;

/// The event a form of these stations tells of, if it is one of them; what is wrong is marked.
pub(super) fn event(job: &Known, fields: &mut Fields) -> Option<Option<Event>> {
    let strings = job.instrument().strings;
    Some(match fields.text("what").to_owned().as_str() {
        "relief" => relief(job, fields),
        "rod" => signed_turns(fields, "loosen").map(|turns| Event::Adjusted {
            adjuster: Adjuster::TrussRod,
            amount: Amount::Turns {
                turns: turns.value(),
            },
        }),
        "rod_stopped" => {
            let how = End::from_key(fields.text("how")).ok_or("choose how the rod felt");
            fields.keep("how", how).map(|how| Event::Ended {
                adjuster: Adjuster::TrussRod,
                how,
            })
        }
        "relief_target" => {
            let relief = fields.exact("relief", &limits::RELIEF);
            let span = span_of(job, fields.text("target_school"));
            relief.map(|relief| Event::Targeted {
                wanted: Wanted::Setup {
                    targets: Targets {
                        relief,
                        relief_span: span,
                        ..job.targets()
                    },
                },
            })
        }
        "nut" => {
            let string = fields.number("string", "a string", 1, strings);
            let held = held(fields);
            let gap = fields.reading("gap", &limits::NUT, Tool::Feeler);
            string.zip(gap).map(|(string, gap)| {
                Event::read(Place::Nut { string, held }, Reading::Length { length: gap })
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
            moved.zip(by).map(|(strings, by)| Event::Adjusted {
                adjuster: Adjuster::NutSlots {
                    strings: strings.into_iter().collect(),
                },
                amount: Amount::Distance { distance: by },
            })
        }
        "nut_target" => {
            let treble = fields.exact("nut_treble", &limits::NUT);
            let bass = fields.exact("nut_bass", &limits::NUT);
            let nut_held = held(fields);
            treble
                .zip(bass)
                .map(|(nut_treble, nut_bass)| Event::Targeted {
                    wanted: Wanted::Setup {
                        targets: Targets {
                            nut_held,
                            nut_treble,
                            nut_bass,
                            ..job.targets()
                        },
                    },
                })
        }
        "action" => {
            let string = fields.number("string", "a string", 1, strings);
            let fret = fields.number("fret", "a fret", 1, job.instrument().frets);
            let gap = fields.reading("gap", &limits::ACTION, Tool::Rule64);
            string.zip(fret).zip(gap).map(|((string, fret), gap)| {
                Event::read(
                    Place::Action {
                        string,
                        fret,
                        held: 0,
                    },
                    Reading::Length { length: gap },
                )
            })
        }
        "height" => {
            let adjuster = adjuster(fields);
            let turns = signed_turns(fields, "down");
            adjuster
                .zip(turns)
                .map(|(adjuster, turns)| Event::Adjusted {
                    adjuster,
                    amount: Amount::Turns {
                        turns: turns.value(),
                    },
                })
        }
        "height_end" => {
            let end = if fields.text("end") == "top" {
                End::Top
            } else {
                End::Bottom
            };
            adjuster(fields).map(|adjuster| Event::Ended { adjuster, how: end })
        }
        "shim" => {
            let shim = if fields.text("shim") == "full" {
                Shim::Full
            } else {
                Shim::Wedge
            };
            let thickness = fields.exact("thickness", &limits::SHIM);
            thickness.map(|thickness| Event::Adjusted {
                adjuster: Adjuster::Pocket { shim },
                amount: Amount::Distance {
                    distance: thickness,
                },
            })
        }
        "height_target" => height_target(job, fields),
        "buzz" => buzz(job, fields),
        _ => return balance::event(job, fields).or_else(|| pickups::event(job, fields)),
    })
}

/// Relief by a feeler or gauge; `none` where it touches, `rocks` where it rocks.
fn relief(job: &Known, fields: &mut Fields) -> Option<Event> {
    let side = Side::from_key(fields.text("side")).ok_or("choose the treble or the bass side");
    let side = fields.keep("side", side)?;
    let span = span_of(job, fields.text("school"));
    let seen = match fields.text("gap").to_lowercase().as_str() {
        "none" | "touches" | "0" => Reading::Touches,
        "card" | "business card" => Reading::Length {
            length: improvised("business card", Tool::Card)?,
        },
        "pick" | "thin pick" => Reading::Length {
            length: improvised("thin pick", Tool::Pick)?,
        },
        "rocks" => Reading::Rocks,
        _ => Reading::Length {
            length: fields.reading("gap", &limits::RELIEF, Tool::Feeler)?,
        },
    };
    Some(Event::read(Place::Relief { side, span }, seen))
}

/// What an improvised feeler is thick.
fn improvised(name: &str, tool: Tool) -> Option<Measurement> {
    let (low, high) = tool.thickness()?;
    let written = format!("{name}, {}-{} mm", low.mm(), high.mm());
    Some(Measurement::new(written, low, high).with_tool(tool))
}

fn span_of(job: &Known, school: &str) -> ReliefSpan {
    relief_schools(job.instrument())
        .into_iter()
        .find(|known| known.key == school)
        .map_or(job.targets().relief_span, |school| school.span)
}

fn held(fields: &Fields) -> u8 {
    if fields.text("held") == "3" { 3 } else { 0 }
}

/// A string by its number, a post by its side.
fn adjuster_named(key: &str) -> Option<Adjuster> {
    match Side::from_key(key) {
        Some(side) => Some(Adjuster::Post { side }),
        None => key
            .parse()
            .ok()
            .map(|string| Adjuster::SaddleHeight { string }),
    }
}

fn adjuster(fields: &mut Fields) -> Option<Adjuster> {
    let adjuster =
        adjuster_named(fields.text("adjuster")).ok_or("choose which screw or post was turned");
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

fn height_target(job: &Known, fields: &mut Fields) -> Option<Event> {
    let treble = fields.exact("action_treble", &limits::ACTION);
    let bass = fields.exact("action_bass", &limits::ACTION);
    let action_fret = if fields.text("action_fret").is_empty() {
        Some(job.targets().action_fret)
    } else {
        fields.number("action_fret", "a fret", 5, job.instrument().frets)
    };
    let inner = Inner::all()
        .find(|inner| inner.key() == fields.text("inner"))
        .unwrap_or(Inner::Blend);
    Some(Event::Targeted {
        wanted: Wanted::Setup {
            targets: Targets {
                action_treble: treble?,
                action_bass: bass?,
                action_fret: action_fret?,
                inner,
                ..job.targets()
            },
        },
    })
}

fn buzz(job: &Known, fields: &mut Fields) -> Option<Event> {
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
    Some(Event::Observed {
        what: Observation::Buzz {
            buzz: Buzz {
                string: string?,
                held: held?,
                attack: attack?,
            },
        },
    })
}
