//! What goes with the instrument: as it came and as it is, what was done, what was found, what was left and why, and when it is to
//! come back.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, export::handover::Handover, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let sheet = Handover::of(&known, &Plan::of(&known));
//! assert!(!sheet.readings.is_empty() && sheet.back > sheet.worked);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use jiff::civil::Date;
use jiff::tz::TimeZone;
use jiff::{Span, Timestamp};
use serde::Serialize;

use crate::decision::Quantity;
use crate::estimate::Estimate;
use crate::estimate::season::{self, Forecast};
use crate::finding::Severity;
use crate::journal::Event;
use crate::model::{Adjuster, Place, Reading, Side};
use crate::plan::Plan;
use crate::text::{self, events, moves, numbers};

/// Two looks a year, with the seasons (common practice).
const MONTHS: i64 = 6;
/// Sooner where the neck was moved: it goes on settling (from memory).
const MONTHS_AFTER_A_ROD: i64 = 3;

/// A place as it came and as it is.
#[derive(Debug, Clone, PartialEq, Eq, Serialize)]
pub struct Compared {
    /// Where.
    pub place: String,
    /// As it was left the last time it was here; nothing where it was not read then.
    pub last_time: Option<String>,
    /// As it was first read on this visit; nothing where nobody read it.
    pub came: Option<String>,
    /// As it is now.
    pub now: String,
    /// How it stands to its target.
    pub verdict: &'static str,
    /// What it was to be.
    pub target: String,
}

/// The whole sheet.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Handover {
    /// Readings, in the order of the bench.
    pub readings: Vec<Compared>,
    /// What was turned, filed, fitted, and how often.
    pub done: Vec<String>,
    /// What was found.
    pub found: Vec<String>,
    /// What was left, and why.
    pub left: Vec<String>,
    /// What to watch.
    pub watch: Vec<String>,
    /// Who told what is recorded, where anybody had signed in.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub hands: Vec<String>,
    /// The day of the last entry.
    pub worked: Date,
    /// The day it is to come back.
    pub back: Date,
}

impl Handover {
    /// Of a job as it stands.
    pub fn of(known: &Estimate, plan: &Plan) -> Self {
        let last = known.entries().last();
        let worked = day(last.map_or(Timestamp::UNIX_EPOCH, |entry| entry.at));
        let forecast = forecast(known, plan);
        let months = if adjusted(known, |on| on == Adjuster::TrussRod) {
            MONTHS_AFTER_A_ROD
        } else {
            MONTHS
        };
        Self {
            readings: readings(known, plan),
            done: done(known),
            found: plan
                .findings
                .iter()
                .filter(|found| found.severity() != Severity::Note)
                .map(text::findings::sentence)
                .collect(),
            left: left(known, plan),
            watch: watch(known, forecast.as_ref()),
            hands: hands(known),
            worked,
            back: back_by(worked, months, forecast.as_ref()),
        }
    }
}

/// Who told of this visit, in the order they came to it.
fn hands(known: &Estimate) -> Vec<String> {
    let mut hands: Vec<String> = Vec::new();
    for by in known.entries().iter().filter_map(|entry| entry.by.as_ref()) {
        if !hands.contains(by) {
            hands.push(by.clone());
        }
    }
    hands
}

/// Where the seasons lead its relief, by the bass side; nothing where nobody noted how damp the room is.
pub fn forecast(known: &Estimate, plan: &Plan) -> Option<Forecast> {
    let side = &plan.relief.sides[Side::Bass.index()];
    season::forecast(known, side.now.value - side.target, side.tolerance)
}

/// By the house's months, or sooner where the seasons are expected to take the neck out of its tolerance.
fn back_by(worked: Date, months: i64, forecast: Option<&Forecast>) -> Date {
    // Beyond the calendar's end there is no such day; no instrument comes back then.
    let usual = worked.checked_add(Span::new().months(months));
    let usual = usual.unwrap_or(worked);
    let leaves = forecast.and_then(|forecast| forecast.leaves);
    leaves.map_or(usual, |(on, _)| on.min(usual).max(worked))
}

fn day(at: Timestamp) -> Date {
    at.to_zoned(TimeZone::UTC).date()
}

fn adjusted(known: &Estimate, which: impl Fn(Adjuster) -> bool) -> bool {
    let mut facts = known.facts().iter();
    facts.any(|entry| matches!(entry.event, Event::Adjusted { adjuster, .. } if which(adjuster)))
}

/// The first reading of a place; one by another method than its target's says so, for their numbers are no comparison.
fn first(known: &Estimate, at: Place) -> Option<String> {
    let mut facts = known.facts().iter();
    facts.find_map(|entry| match &entry.event {
        Event::Read { place, value, .. } if place.any_method() == at.any_method() => {
            let read = match value {
                Reading::Length { length } => {
                    format!("{} {}", numbers::in_unit(length.middle(), 2), numbers::UNIT)
                }
                Reading::Note { cents, .. } => {
                    format!("{cents:+.1} cents").replace('-', "\u{2212}")
                }
                other => events::value(other),
            };
            Some(match by_method(*place) {
                Some(method) if *place != at => format!("{read} ({method})"),
                _ => read,
            })
        }
        _ => None,
    })
}

/// How a place is read, where there are several methods.
fn by_method(place: Place) -> Option<String> {
    match place {
        Place::Relief { span, .. } => Some(span.words()),
        Place::Nut { held: 0, .. } => Some("open".to_owned()),
        Place::Nut { held, .. } => Some(format!("held at {held}")),
        Place::Action { fret, .. } => Some(format!("at fret {fret}")),
        _ => None,
    }
}

fn readings(known: &Estimate, plan: &Plan) -> Vec<Compared> {
    let gap = |quantity: &Quantity| Compared {
        place: moves::place(known, quantity.place),
        last_time: text::last_time::of(known, quantity.place),
        came: first(known, quantity.place),
        now: format!(
            "{} {}",
            numbers::in_unit(quantity.now.value, 2),
            numbers::UNIT
        ),
        verdict: text::gap_verdict(quantity.verdict),
        target: format!("{} {}", numbers::in_unit(quantity.target, 2), numbers::UNIT),
    };
    let mut all: Vec<Compared> = plan.relief.sides.iter().map(gap).collect();
    all.extend(plan.nut.strings.iter().map(|slot| gap(&slot.quantity)));
    all.extend(plan.action.strings.iter().map(|on| gap(&on.quantity)));
    for saddle in &plan.intonation.saddles {
        for (string, verdict) in saddle.estimate.strings.iter().zip(&saddle.verdicts) {
            let place = Place::Intonation {
                string: string.string,
                fret: 12,
            };
            all.push(Compared {
                place: moves::place(known, place),
                last_time: text::last_time::of(known, place),
                came: first(known, place),
                now: if string.count == 0 {
                    "not read".to_owned()
                } else {
                    format!("{} cents", numbers::estimate(string.error))
                },
                verdict: text::note_verdict(*verdict),
                target: "in tune at the 12th".to_owned(),
            });
        }
    }
    all.extend(plan.pickups.sides().map(|(_, side)| gap(&side.quantity)));
    // What was never read says nothing to anyone.
    all.retain(|line| line.came.is_some());
    all
}

/// What was moved, kind by kind in the order of the work, with the strings or pickups it was.
fn done(known: &Estimate) -> Vec<String> {
    let mut kinds: Vec<(String, Vec<String>)> = Vec::new();
    for entry in known.facts() {
        let (kind, which) = match &entry.event {
            Event::Adjusted { adjuster, .. } => kind_of(known, *adjuster),
            Event::Restrung { .. } => ("new strings or tuning".to_owned(), Vec::new()),
            _ => continue,
        };
        let at = kinds.iter().position(|(known, _)| *known == kind);
        let at = at.unwrap_or_else(|| {
            kinds.push((kind, Vec::new()));
            kinds.len() - 1
        });
        for one in which {
            if !kinds[at].1.contains(&one) {
                kinds[at].1.push(one);
            }
        }
    }
    let says = |(kind, mut which): (String, Vec<String>)| {
        // String 2 before string 10.
        which.sort_by_key(|one| (one.len(), one.clone()));
        if which.is_empty() {
            kind
        } else {
            format!("{kind}: {}", which.join(", "))
        }
    };
    kinds.into_iter().map(says).collect()
}

fn kind_of(known: &Estimate, adjuster: Adjuster) -> (String, Vec<String>) {
    let string = |string: u8| vec![format!("string {string}")];
    match adjuster {
        Adjuster::SaddleHeight { string: on } => ("saddle heights".to_owned(), string(on)),
        Adjuster::SaddleDrive { string: on } => ("intonation".to_owned(), string(on)),
        Adjuster::NutSlots { strings } => {
            ("nut".to_owned(), strings.iter().flat_map(string).collect())
        }
        Adjuster::PickupScrew { pickup, .. } => (
            "pickup heights".to_owned(),
            vec![moves::pickup_name(known, pickup)],
        ),
        Adjuster::PolePiece { pickup, .. } => (
            "pole pieces".to_owned(),
            vec![moves::pickup_name(known, pickup)],
        ),
        Adjuster::Post { side } => ("bridge posts".to_owned(), vec![text::side(side).to_owned()]),
        other => (moves::adjuster(other), Vec::new()),
    }
}

fn left(known: &Estimate, plan: &Plan) -> Vec<String> {
    let mut all: Vec<String> = text::next::job_plan::left(known, plan)
        .into_iter()
        .collect();
    let doubts = plan.in_doubt();
    all.extend(
        doubts
            .iter()
            .map(|doubt| text::next::job_plan::doubt(known, doubt)),
    );
    for (note, heard) in known.play_test() {
        all.push(format!("{}: {}", events::note_of(note), heard.name()));
    }
    all
}

fn watch(known: &Estimate, forecast: Option<&Forecast>) -> Vec<String> {
    let mut all = vec!["The neck moves with the seasons: buzz at the first frets, or an action that climbs, is a reason to come sooner.".to_owned()];
    all.extend(forecast.into_iter().flat_map(text::season::sentences));
    if known.old_strings() {
        all.push("The strings are old: what is set on them is provisional.".to_owned());
    }
    if adjusted(known, |on| on == Adjuster::TrussRod) {
        all.push("The truss rod was turned: the neck settles for some weeks.".to_owned());
    }
    if known.instrument().bridge.vibrato.is_some() {
        all.push(
            "Another gauge or tuning moves the vibrato, and with it every height and saddle."
                .to_owned(),
        );
    }
    all
}
