//! Moves in words: what is turned or filed, which way, how far; and what is still wanted.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//! use gradimen_bench::{plan::job_plan::JobPlan, text::moves};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! for step in &JobPlan::of(&known, &plan).moves {
//!     assert!(!moves::whole(&known, &step.step).is_empty());
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::units::print::UNIT;
use std::collections::BTreeMap;

use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;

use super::{list, side};
use crate::decision::{Move, StationId, Stop, Sum};
use crate::estimate::Estimate;
use crate::model::instrument::RodAt;
use crate::model::{Adjuster, Amount, Place, Shim};
use crate::plan::job_plan::Pending;
use crate::stations::balance::turns_of_side;
use crate::stations::nut::FILE_MARGIN;

/// An adjuster, without the instrument it is on.
pub fn adjuster(adjuster: Adjuster) -> String {
    match adjuster {
        Adjuster::Claw => "claw, both screws".to_owned(),
        Adjuster::Seat => "seat of the vibrato's spring".to_owned(),
        Adjuster::Springs => "springs of the vibrato".to_owned(),
        Adjuster::TrussRod => "truss rod".to_owned(),
        Adjuster::NutSlots { strings } => format!("nut slot of string {strings}"),
        Adjuster::SaddleHeight { string } => format!("saddle height, string {string}"),
        Adjuster::Post { side: on } => format!("{} post", side(on)),
        Adjuster::SaddleDrive { string } => format!("saddle screw of string {string}"),
        Adjuster::Bar => "bar under all strings".to_owned(),
        Adjuster::Bridge => "bridge".to_owned(),
        Adjuster::Pocket { shim: Shim::Wedge } => "wedge in the neck pocket".to_owned(),
        Adjuster::Pocket { shim: Shim::Full } => "shim in the neck pocket".to_owned(),
        Adjuster::PickupScrew { pickup, side: on } => {
            format!("pickup {}, {} side", pickup + 1, side(on))
        }
        Adjuster::PolePiece { pickup, string } => {
            format!("pickup {}, pole piece of string {string}", pickup + 1)
        }
    }
}

/// An adjuster of this instrument, by the names on its record.
pub fn adjuster_of(known: &Estimate, on: Adjuster) -> String {
    match on {
        Adjuster::Claw | Adjuster::Seat => {
            let record = known.instrument().bridge.vibrato.as_ref();
            record.map_or_else(|| adjuster(on), |record| record.kind.adjuster().to_owned())
        }
        Adjuster::PickupScrew { pickup, side: at } => {
            format!("{} pickup, {} side", pickup_name(known, pickup), side(at))
        }
        Adjuster::PolePiece { pickup, string } => {
            format!(
                "{} pickup, pole piece of string {string}",
                pickup_name(known, pickup)
            )
        }
        _ => adjuster(on),
    }
}

/// What the shop calls a pickup.
pub fn pickup_name(known: &Estimate, pickup: u8) -> String {
    let record = known.instrument().pickups.get(usize::from(pickup));
    record.map_or_else(|| (pickup + 1).to_string(), |record| record.name.clone())
}

fn rotation(step: &Move) -> String {
    step.rotation
        .map(|rotation| format!(" {rotation}"))
        .unwrap_or_default()
}

/// This round of a move: `up, 1/2 turn clockwise`.
pub fn direction(known: &Estimate, step: &Move) -> String {
    let turns = print::turns_with_word(step.turns());
    let up = step.distance > Length::ZERO;
    match step.adjuster {
        Adjuster::TrussRod => format!(
            "{}, {turns}{}, seen at its nut",
            tighten(step.turns()),
            rotation(step)
        ),
        Adjuster::Claw | Adjuster::Seat => vibrato(known, step),
        Adjuster::NutSlots { .. } if known.instrument().locking_nut => shim(step),
        Adjuster::NutSlots { .. } => {
            let total = match step.sum {
                Sum::Slot { total } => total,
                _ => step.distance.abs(),
            };
            format!(
                "file {} of {} off, then measure",
                print::with_unit(step.distance.abs()),
                print::with_unit(hundredths(total))
            )
        }
        Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } => format!(
            "{}, {turns}{}",
            if up { "up" } else { "down" },
            rotation(step)
        ),
        Adjuster::Bar => format!("shift the bar: {}", ends(&step.amount)),
        Adjuster::SaddleDrive { .. } if step.is_slid() => format!(
            "slide the saddle {}, {} the neck",
            super::numbers::by(step),
            if up { "away from" } else { "toward" }
        ),
        Adjuster::SaddleDrive { .. } => format!(
            "{turns}{}, seen from {}, {} the neck",
            rotation(step),
            known.instrument().bridge.intonation.head.name(),
            if up { "away from" } else { "toward" }
        ),
        Adjuster::PickupScrew { .. } | Adjuster::PolePiece { .. } => format!(
            "{}, {turns}{}",
            if up { "raise" } else { "lower" },
            rotation(step)
        ),
        Adjuster::Springs | Adjuster::Bridge | Adjuster::Pocket { .. } => String::new(),
    }
}

/// All of a move: `tighten, clockwise, about 3/8 turn in all`.
pub fn whole(known: &Estimate, step: &Move) -> String {
    match step.adjuster {
        Adjuster::TrussRod => {
            let heel = known.instrument().neck.rod_at == RodAt::Heel;
            let rounds = if heel {
                ", neck off: one removal, a second sized from the first".to_owned()
            } else if step.rounds > 1 {
                format!(
                    ", {} rounds, never more than a quarter at once",
                    step.rounds
                )
            } else {
                String::new()
            };
            format!(
                "{},{}, about {} turn in all{rounds}",
                tighten(step.total),
                rotation(step),
                print::turns(eighths(step.total))
            )
        }
        Adjuster::Claw | Adjuster::Seat => {
            let record = known.instrument().bridge.vibrato.as_ref();
            record.map_or_else(String::new, |record| {
                let total = eighths(step.total);
                record.kind.in_words(if step.total < Turns::ZERO {
                    -total
                } else {
                    total
                })
            })
        }
        Adjuster::NutSlots { .. } if known.instrument().locking_nut => shim(step),
        Adjuster::NutSlots { .. } => {
            let total = step.distance.abs();
            format!(
                "file {} ({}) off, the last {} after measuring again",
                print::with_unit(hundredths(total)),
                print::thou(total),
                print::with_unit(FILE_MARGIN)
            )
        }
        Adjuster::SaddleDrive { .. } if step.is_slid() => {
            format!("slide {}", super::numbers::way(step.distance))
        }
        Adjuster::SaddleDrive { .. } => format!(
            "{}, {}{}",
            if step.turns() > Turns::ZERO {
                "back"
            } else {
                "forward"
            },
            print::turns_with_word(step.turns()),
            rotation(step)
        ),
        _ => direction(known, step),
    }
}

/// A locking nut goes up and down on its shims, as one.
fn shim(step: &Move) -> String {
    let by = print::with_unit(hundredths(step.distance.abs()));
    if step.distance < Length::ZERO {
        format!("{by} of shim out from under the nut, all strings as one")
    } else {
        format!("{by} of shim under the nut, all strings as one")
    }
}

fn tighten(turns: Turns) -> &'static str {
    if turns > Turns::ZERO {
        "tighten"
    } else {
        "loosen"
    }
}

/// The turn of a claw's screws or of a seat; each screw apart where the claw is not parallel.
fn vibrato(known: &Estimate, step: &Move) -> String {
    let Some(record) = known.instrument().bridge.vibrato.as_ref() else {
        return String::new();
    };
    let words = |turns| record.kind.in_words(turns);
    match &step.amount {
        Amount::Apart { .. } => {
            let [treble, bass] = crate::model::Side::ALL.map(|side| turns_of_side(step, side));
            format!("treble screw {}, bass screw {}", words(treble), words(bass))
        }
        _ => words(step.turns()),
    }
}

fn eighths(turns: Turns) -> Turns {
    Turns::new(((turns.value().abs() * 8.0).round() / 8.0).max(0.125))
}

fn hundredths(value: Length) -> Length {
    Length::from_mm((value.mm() * 100.0).round() / 100.0)
}

/// Both ends of a bar: `treble end back 0.4 mm, bass end stays`.
pub fn ends(amount: &Amount) -> String {
    let Amount::Ends { treble, bass } = amount else {
        return String::new();
    };
    let one = |name: &str, by: Length| {
        if by == Length::ZERO {
            format!("{name} end stays")
        } else {
            format!("{name} end {}", super::numbers::way(by))
        }
    };
    format!(
        "{}, {}",
        one("treble", treble.middle()),
        one("bass", bass.middle())
    )
}

/// The move as a sentence that is read across the bench, in two lines: what for, and the turn.
pub fn big(step: &Move) -> [String; 2] {
    let back = if step.distance >= Length::ZERO {
        "Back"
    } else {
        "Forward"
    };
    if step.adjuster == Adjuster::Bar {
        let both = ends(&step.amount);
        let (treble, bass) = both.split_once(", ").unwrap_or((&both, ""));
        let treble = treble.replacen('t', "T", 1);
        return [format!("{treble},"), bass.to_owned()];
    }
    if step.is_slid() {
        return [
            format!("{back} {}:", super::numbers::by(step)),
            "slide the saddle".to_owned(),
        ];
    }
    [
        format!(
            "{back} {} {UNIT}:",
            super::numbers::in_unit(step.distance.abs(), 1)
        ),
        format!("{}{}", print::turns_with_word(step.turns()), rotation(step)),
    ]
}

/// A place in words.
pub fn place(known: &Estimate, at: Place) -> String {
    match at {
        Place::Relief { side: on, .. } => format!("relief, {} side", side(on)),
        Place::Nut { string, .. } => format!("nut at string {string}"),
        Place::Action { string, fret, .. } => {
            format!("action of string {string} at fret {fret}")
        }
        Place::Intonation { string, fret } => {
            format!("intonation of string {string} at fret {fret}")
        }
        Place::Gap => "gap under the vibrato, at pitch".to_owned(),
        Place::Spring => "spring length, unhooked".to_owned(),
        Place::ClawEnds => "claw to wall, both sides".to_owned(),
        Place::Pickup { pickup, side: on } => format!(
            "gap of the {} pickup, {} side",
            pickup_name(known, pickup),
            side(on)
        ),
        Place::PolePiece { pickup, string } => format!(
            "{} pickup, pole piece of string {string}",
            pickup_name(known, pickup)
        ),
        Place::Level { pickup, string } => format!(
            "level of string {string} on the {} pickup",
            pickup_name(known, pickup)
        ),
        Place::Scale { string } => format!("nut to fret 12 along string {string}"),
        Place::Saddle { string } => format!("fret 12 to the saddle of string {string}"),
        Place::Room { string } => format!("room behind the saddle of string {string}"),
        Place::Core { string } => format!("core of string {string}"),
        Place::CutOff { string } => format!("weight of a piece of string {string}"),
        Place::RodCheck => "nut of the truss rod: turns it still goes".to_owned(),
        Place::Rock { string, fret } => format!("rocker over fret {fret}, along string {string}"),
    }
}

/// What a line of the job plan waits for.
pub fn pending(known: &Estimate, line: &Pending) -> String {
    match line {
        Pending::Reading(Place::Intonation { string, .. }) => {
            format!("read intonation of string {string}")
        }
        Pending::Reading(at) => format!("measure the {}", place(known, *at)),
        Pending::Stopped { strings, why } => stopped(known, strings, *why),
    }
}

/// All that is waited for, places of one station that read alike on one line.
pub fn pending_lines(known: &Estimate, all: &[(StationId, Pending)]) -> Vec<(StationId, String)> {
    let mut found: Vec<(StationId, String)> = Vec::new();
    let mut grouped: BTreeMap<(StationId, &'static str), Vec<String>> = BTreeMap::new();
    for (station, line) in all {
        let (kind, what) = match line {
            Pending::Reading(Place::Nut { string, .. }) => {
                ("measure the nut at string", string.to_string())
            }
            Pending::Reading(Place::Action { string, .. }) => {
                ("measure the action of string", string.to_string())
            }
            Pending::Reading(Place::Intonation { string, .. }) => {
                ("read intonation of string", string.to_string())
            }
            Pending::Reading(Place::Relief { side: on, .. }) => {
                ("measure relief,", format!("{} side", side(*on)))
            }
            Pending::Reading(at @ Place::Pickup { .. }) => ("measure the", place(known, *at)),
            other => {
                found.push((*station, pending(known, other)));
                continue;
            }
        };
        grouped.entry((*station, kind)).or_default().push(what);
    }
    found.extend(
        grouped
            .into_iter()
            .map(|((station, kind), what)| (station, format!("{kind} {}", what.join(", ")))),
    );
    found.sort_by_key(|(station, _)| *station);
    found
}

/// Why it cannot go on.
pub fn stopped(known: &Estimate, strings: &[u8], why: Stop) -> String {
    let names = list(strings, " and ");
    match why {
        Stop::Neck => "stopped: see the findings".to_owned(),
        Stop::Unsound => "stopped: nothing is turned before the findings are settled".to_owned(),
        Stop::AtEnd {
            adjuster, short_by, ..
        } => format!(
            "{}: at its end, {} short",
            adjuster_of(known, adjuster),
            print::tenths(short_by)
        ),
        Stop::TooLow { by } => format!(
            "string {names}: stopped, its slot is {} too low",
            print::with_unit(hundredths(by))
        ),
        Stop::ZeroFret { by } => format!(
            "string {names}: its zero fret is {} too {}",
            print::with_unit(hundredths(by.abs())),
            if by > Length::ZERO { "high" } else { "low" }
        ),
        Stop::Springs {
            enough: Some(count),
        } => format!("these springs cannot: {count} could"),
        Stop::Springs { enough: None } => {
            "no number of these springs can: other springs".to_owned()
        }
        Stop::OutOfTravel { short_by } => format!(
            "string {names}: out of travel, {} short",
            print::tenths(short_by.abs())
        ),
        Stop::Stuck => format!("string {names}: screw is stuck"),
        Stop::NoLift { by } => format!(
            "string {names}: no screw lifts its saddle, {} it {}",
            if by > Length::ZERO { "shim" } else { "cut" },
            print::with_unit(hundredths(by.abs()))
        ),
        Stop::NoDrive { by } => format!(
            "string {names}: its saddle has no drive of its own, it would go {}",
            super::numbers::way(by)
        ),
    }
}
