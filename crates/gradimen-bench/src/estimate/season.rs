//! What this neck does with the seasons: learned from how it stood when it left and when it came again, and where that leads.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::{Estimate, season}, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! // A first visit knows of no other season.
//! assert_eq!(season::per_cent(&known), season::USUAL);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::season::{Noted, PerCent, Year, outside};
use jiff::civil::Date;

use super::Estimate;
use crate::journal::Event;
use crate::model::{Air, Behaviour, Observation, Place, Reading};

/// Relief per cent of humidity, in millimetres, before anything is known of a neck: which way it goes nobody says (from memory).
pub const USUAL: PerCent = PerCent {
    slope: 0.0,
    sigma: 0.006,
};
/// Two readings of a blade, and a neck that crept since (from memory).
const BETWEEN_VISITS: f64 = 0.035;
/// It is to be looked at again before it is as probable as this that it has left its tolerance (a choice).
const LOOK: f64 = 0.35;
/// So far ahead is looked, week by week.
const WEEKS: u32 = 52;

/// When the seasons take a neck out of its tolerance.
#[derive(Debug, Clone, PartialEq)]
pub struct Forecast {
    /// What it does per cent.
    pub per: PerCent,
    /// How damp the room was when it was last looked at.
    pub now: Air,
    /// The first week in which it may be out, and how damp the room is expected to be then; nothing where the year as it is known
    /// does not take it out.
    pub leaves: Option<(Date, f64)>,
}

/// How damp it was on this visit and before it, the oldest first.
pub fn air(known: &Estimate) -> Vec<Air> {
    let before = known.last_time().map_or(&[][..], |last| &last.air);
    let mut all: Vec<Air> = before.iter().chain(known.air()).copied().collect();
    all.sort_by_key(|air| air.day);
    all
}

fn day_of(date: Date) -> f64 {
    let since = date.since(Date::constant(2000, 1, 1));
    since.map_or(0.0, |span| f64::from(span.get_days()))
}

/// The first reading of a place on this visit, before anything moved it.
fn as_it_came(known: &Estimate, at: Place) -> Option<f64> {
    let mut facts = known.facts().iter();
    facts.find_map(|entry| match &entry.event {
        Event::Adjusted { .. }
        | Event::Restrung { .. }
        | Event::Observed {
            what: Observation::Fretwork { .. },
        } => Some(None),
        Event::Read {
            place,
            value: Reading::Length { length },
            ..
        } if *place == at => Some(Some(length.middle().mm())),
        _ => None,
    })?
}

/// What this neck does per cent of humidity, with what this visit shows of it.
pub fn per_cent(known: &Estimate) -> PerCent {
    let taught = known
        .taught()
        .iter()
        .find(|one| one.of == Behaviour::Season);
    let mut per = taught.map_or(USUAL, |one| PerCent {
        slope: one.value,
        sigma: one.sigma,
    });
    let Some(last) = known.last_time() else {
        return per;
    };
    let (Some(then), Some(now)) = (last.air.last(), known.air().first()) else {
        return per;
    };
    // Under other strings than it was left with a neck lies otherwise in any season.
    if let Some(Event::Opened(opened)) = known.entries().first().map(|entry| &entry.event)
        && opened
            .arrived
            .as_ref()
            .is_some_and(|arrived| *arrived != opened.strung)
    {
        return per;
    }
    // Both sides bend together: they are one look.
    let sides: Vec<f64> = last
        .left
        .iter()
        .filter(|left| matches!(left.place, Place::Relief { .. }))
        .filter_map(|left| Some(as_it_came(known, left.place)? - left.value))
        .collect();
    if !sides.is_empty() {
        let grew = sides.iter().sum::<f64>() / sides.len() as f64;
        per = per.seen(grew, BETWEEN_VISITS, now.percent - then.percent);
    }
    per
}

/// Where the seasons lead a neck from how far it is off its target, and how far it may be; nothing where nobody noted how damp the room is.
pub fn forecast(known: &Estimate, off: Length, tolerance: Length) -> Option<Forecast> {
    let air = air(known);
    let now = *known.air().last()?;
    let noted: Vec<Noted> = air
        .iter()
        .map(|air| Noted {
            day: day_of(air.day),
            percent: air.percent,
        })
        .collect();
    let (year, per) = (Year::of(&noted), per_cent(known));
    let today = day_of(now.day);
    // What is asked is what the season does to it: where it stands today is taken as it is believed to be.
    let (off, tolerance) = (off.mm(), tolerance.mm());
    let out = |later: f64| outside(&year, per, (today, later), (off, 0.0), tolerance);
    let right = off.abs() < tolerance;
    let mut weeks = (1..=WEEKS).map(|week| f64::from(7 * week));
    let leaves = weeks
        .find(|ahead| right && out(today + ahead) > LOOK)
        .and_then(|ahead| {
            let on = now
                .day
                .checked_add(jiff::Span::new().days(ahead as i64))
                .ok()?;
            Some((on, year.at(today + ahead).0))
        });
    Some(Forecast { per, now, leaves })
}
