//! One visit after another: where the neck, the heights and the notes stood when an instrument left.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, export::visits::Visit, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let visit = Visit::of(&known, &Plan::of(&known));
//! assert!(visit.cents.is_some());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;
use jiff::civil::Date;
use jiff::tz::TimeZone;

use crate::decision::Quantity;
use crate::estimate::{Estimate, learned, season};
use crate::journal::Opened;
use crate::model::{Air, LastTime, Left, Place, Side};
use crate::plan::Plan;

/// Where an instrument stood when it left; nothing where it was not read.
#[derive(Debug, Clone, PartialEq)]
pub struct Visit {
    /// The day of the first entry, and of the last.
    pub days: (Date, Date),
    /// Relief of the bass side.
    pub relief: Option<Length>,
    /// The gap at fret 1, mean of the strings that were read.
    pub nut: Option<Length>,
    /// Action of string 1.
    pub treble: Option<Length>,
    /// Action of the last string.
    pub bass: Option<Length>,
    /// The worst string at the twelfth, in cents.
    pub cents: Option<f64>,
    /// How damp the room was, last.
    pub air: Option<Air>,
}

/// What the next visit is told of this one: where everything stood that was read, and how damp it was.
pub fn last_time(known: &Estimate, plan: &Plan) -> LastTime {
    let gaps = plan.relief.sides.iter();
    let gaps = gaps.chain(plan.nut.strings.iter().map(|slot| &slot.quantity));
    let gaps = gaps.chain(plan.action.strings.iter().map(|on| &on.quantity));
    let gaps = gaps.chain(plan.pickups.sides().map(|(_, side)| &side.quantity));
    let mut left: Vec<Left> = gaps
        .filter(|quantity| quantity.last.is_some())
        .map(|quantity| Left {
            place: quantity.place,
            value: quantity.now.value.mm(),
        })
        .collect();
    let saddles = plan.intonation.saddles.iter();
    let notes = saddles.flat_map(|saddle| &saddle.estimate.strings);
    left.extend(notes.filter(|string| string.count > 0).map(|string| Left {
        place: Place::Intonation {
            string: string.string,
            fret: 12,
        },
        value: string.error.value.value(),
    }));
    let mut air = season::air(known);
    let old = air.len().saturating_sub(MOST_DAYS);
    air.drain(..old);
    LastTime {
        day: last_day(known),
        left: left
            .into_iter()
            .filter(|left| left.check().is_ok())
            .collect(),
        air,
    }
}

/// A job that is opened goes on from an earlier one of the same instrument: with what was learned, and where it was left.
pub fn goes_on(opened: &mut Opened, earlier: &Estimate, plan: &Plan) {
    opened.taught = learned::kept(earlier, &opened.instrument);
    opened.last_time = Some(last_time(earlier, plan));
}

/// As many looks at the meter go on to the next visit.
const MOST_DAYS: usize = 60;

fn last_day(known: &Estimate) -> Date {
    known
        .entries()
        .last()
        .map_or(Date::ZERO, |entry| entry.at.to_zoned(TimeZone::UTC).date())
}

impl Visit {
    /// Of a job as it stands.
    pub fn of(known: &Estimate, plan: &Plan) -> Self {
        let day = |entry: Option<&std::sync::Arc<crate::journal::Entry>>| {
            entry.map_or(Date::ZERO, |entry| entry.at.to_zoned(TimeZone::UTC).date())
        };
        let read = |quantity: &Quantity| quantity.last.as_ref().map(|_| quantity.now.value);
        let slots: Vec<f64> = plan
            .nut
            .strings
            .iter()
            .filter_map(|slot| Some(read(&slot.quantity)?.mm()))
            .collect();
        let action = |string: u8| {
            let mut strings = plan.action.strings.iter();
            strings
                .find(|on| on.string == string)
                .and_then(|on| read(&on.quantity))
        };
        let notes = plan
            .intonation
            .saddles
            .iter()
            .flat_map(|saddle| &saddle.estimate.strings);
        Self {
            days: (day(known.entries().first()), day(known.entries().last())),
            relief: read(&plan.relief.sides[Side::Bass.index()]),
            nut: (!slots.is_empty())
                .then(|| Length::from_mm(slots.iter().sum::<f64>() / slots.len() as f64)),
            treble: action(1),
            bass: action(known.instrument().strings),
            air: known.air().last().copied(),
            cents: notes
                .filter(|string| string.count > 0)
                .map(|string| string.error.value.value())
                .max_by(|one, other| one.abs().total_cmp(&other.abs())),
        }
    }
}
