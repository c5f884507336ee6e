//! Where a station was left the last time, in one line beside what is read there now.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, model::StationId, text::last_time};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! // It was never here before.
//! assert_eq!(last_time::line(&known, StationId::Relief), None);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Cents, Length};
use gradimen_core::units::print::{self, UNIT};

use super::{moves, numbers};
use crate::estimate::Estimate;
use crate::journal::Event;
use crate::model::{Place, Reading, StationId};

/// Where a place was left the last time, by the same method; nothing where it was not read then.
pub fn of(job: &Estimate, place: Place) -> Option<String> {
    let value = job.last_time()?.at(place)?;
    Some(match place {
        Place::Intonation { .. } => format!("{} cents", print::cents(Cents::new(value))),
        _ => format!("{} {UNIT}", numbers::in_unit(Length::from_mm(value), 2)),
    })
}

/// The station at which a place is read.
fn is_at(place: Place, station: StationId) -> bool {
    let read = Event::read(place, Reading::Touches);
    read.station() == Some(station)
}

/// Everything that was left at a station, with the day: `Last time, 3 May 2026: string 1 1.58 mm, string 6 2.0 mm`.
pub fn line(job: &Estimate, station: StationId) -> Option<String> {
    let last = job.last_time()?;
    let here = last.left.iter().filter(|left| is_at(left.place, station));
    let said: Vec<String> = here
        .filter_map(|left| {
            let where_ = match (left.place, left.place.string()) {
                (_, Some(string)) => format!("string {string}"),
                (Place::Relief { side, .. }, _) => super::side(side).to_owned(),
                (place, None) => moves::place(job, place),
            };
            Some(format!("{where_} {}", of(job, left.place)?))
        })
        .collect();
    let day = last.day.strftime("%-d %b %Y");
    (!said.is_empty()).then(|| format!("Last time, {day}: {}", said.join(", ")))
}
