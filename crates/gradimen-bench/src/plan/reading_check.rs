//! Readings that cannot be right are questioned before they are believed, with the likely slip.
//!
//! A reading further from what is expected of it than [`QUESTIONED`] standard deviations, its own included, is one
//! in some fifteen thousand honest ones; a slip of units or strings is far more likely. What the technician
//! confirms all the same is taken in, and weighs less.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{job::Job, journal::Document};
//! use gradimen_bench::plan::reading_check::questions;
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let job = Arc::new(Job::fold(&Document::parse(text)?.events)?);
//! // Honest readings, honestly typed: nothing is asked.
//! assert!(questions(&job)?.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod pitches;

use std::sync::Arc;

use gradimen_core::quantity::{Cents, Estimate as Value, Length};

use super::Plan;
use crate::decision::Expectation;
use crate::estimate::{Estimate, EstimateError};
use crate::job::Job;
use crate::journal::Event;
use crate::model::{Measurement, Place, Reading, Tool};

/// Further off than so many standard deviations is questioned.
pub const QUESTIONED: f64 = 4.0;
/// A neck that rocks is bent back by about so much, and a string that touches by nothing: value and width.
const ROCKS: (f64, f64) = (-0.12, 0.06);
const TOUCHES: (f64, f64) = (0.0, 0.02);
/// A slip is offered when it would bring the reading within so many.
const EXPLAINED: f64 = 2.0;

/// What a reading is held against.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Doubted {
    /// A gap or a height.
    Length(Length),
    /// A fretted note.
    Cents(Cents),
}

/// A slip that would explain a reading.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Cause {
    /// 32nds written for 64ths.
    ThirtySeconds,
    /// 64ths written for 32nds.
    SixtyFourths,
    /// Millimetres meant, inches or thousandths written.
    MillimetresMeant,
    /// Inches meant, millimetres written.
    InchesMeant,
    /// Thousandths meant, hundredths of a millimetre written.
    ThouMeant,
    /// Hundredths of a millimetre meant, thousandths written.
    HundredthsMeant,
    /// Read on another string.
    OtherString(u8),
    /// Read over another fret.
    OtherFret(u8),
    /// Sharp and flat exchanged.
    Sign,
    /// Turned as planned, but not told.
    DoneNotTold,
    /// Not at pitch.
    Pitch,
    /// The open string not retuned after the last move.
    Retuned,
}

/// A slip that would explain a reading, and the reading without it.
#[derive(Debug, Clone, PartialEq)]
pub struct Slip {
    /// What slipped.
    pub cause: Cause,
    /// What the reading would then be, where it would be another.
    pub value: Option<Doubted>,
    /// What would then be told.
    pub instead: Option<Event>,
}

/// A reading that does not fit.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// Where it was read.
    pub place: Place,
    /// As it was written, where it was written.
    pub written: Option<String>,
    /// What was read.
    pub read: Doubted,
    /// What was expected.
    pub expected: Expectation,
    /// How many standard deviations lie between.
    pub deviations: f64,
    /// The likely slips.
    pub slips: Vec<Slip>,
}

/// Nothing nearer than so many standard deviations is odd, whatever else it might be.
const ODD: f64 = 3.0;

/// How often one certain slip is made: one reading in fifty, by hands that are tired or new to a tool (from memory).
const SLIPS: f64 = 0.02;

/// Unit slips, by what the reading would be without the slip.
const UNIT_SLIPS: [(Cause, f64); 6] = [
    (Cause::ThirtySeconds, 0.5),
    (Cause::SixtyFourths, 2.0),
    (Cause::MillimetresMeant, 1.0 / 25.4),
    (Cause::InchesMeant, 25.4),
    (Cause::ThouMeant, 2.54),
    (Cause::HundredthsMeant, 1.0 / 2.54),
];

/// The question a reading raises, if it raises one. `plan` is the plan before it, asked for only where something is odd.
pub fn question(known: &Estimate, plan: impl FnOnce() -> Plan, event: &Event) -> Option<Question> {
    let Event::Read {
        place,
        value,
        confirmed: false,
        ..
    } = event
    else {
        return None;
    };
    if let Place::Intonation { string, fret: 12 } = *place {
        return pitches::question(known, event, string);
    }
    let tool = value.length().and_then(|length| length.tool);
    let expected = expected_at(known, *place, tool)?;
    match value {
        Reading::Length { length } => {
            let held = Held {
                event,
                place: *place,
                expected,
                length,
            };
            held.question(known, plan)
        }
        Reading::Touches | Reading::Rocks => {
            let rocks = matches!(value, Reading::Rocks);
            let (value, sigma) = if rocks { ROCKS } else { TOUCHES };
            // Bent back further than it takes to rock or to touch is no surprise.
            let off = (value - expected.value.mm()).min(0.0);
            let deviations = unusual(off, expected.sigma.mm().hypot(sigma))?;
            Some(Question {
                place: *place,
                written: None,
                read: Doubted::Length(Length::from_mm(value)),
                expected: Expectation::Length(expected),
                deviations,
                slips: Vec::new(),
            })
        }
        _ => None,
    }
}

/// Every reading of a journal is looked at up to so many entries; beyond, the last hundred: what stands further back is
/// long decided, and each is held against all that was known before it.
const ALL_LOOKED_AT: usize = 1000;
const LAST_LOOKED_AT: u64 = 100;

/// The questions of a journal: every unconfirmed reading that counts, held against what was known before it.
///
/// # Errors
/// The [`EstimateError`] of a journal that does not fold.
pub fn questions(job: &Arc<Job>) -> Result<Vec<(u64, Question)>, EstimateError> {
    let first = if job.entries().len() > ALL_LOOKED_AT {
        job.seq().saturating_sub(LAST_LOOKED_AT)
    } else {
        0
    };
    let mut found = Vec::new();
    Estimate::before_each(
        job,
        |entry| {
            let unconfirmed = matches!(
                entry.event,
                Event::Read {
                    confirmed: false,
                    ..
                }
            );
            unconfirmed && entry.seq > first
        },
        |entry, known| {
            let asked = question(known, || Plan::of(known), &entry.event);
            found.extend(asked.map(|question| (entry.seq, question)));
        },
    )?;
    Ok(found)
}

/// What a length read at a place is expected to be, the tool's lean in its width.
fn expected_at(known: &Estimate, place: Place, tool: Option<Tool>) -> Option<Value<Length>> {
    match place {
        Place::Relief { .. }
        | Place::Nut { .. }
        | Place::Action { .. }
        | Place::Pickup { .. }
        | Place::Gap => known
            .state()
            .expected_reading(place, tool.unwrap_or(place.usual_tool())),
        _ => None,
    }
}

fn unusual(off: f64, sigma: f64) -> Option<f64> {
    let deviations = off.abs() / sigma;
    (deviations > QUESTIONED).then_some(deviations)
}

fn rounded(value: Length) -> Length {
    Length::from_mm((value.mm() * 1000.0).round() / 1000.0)
}

/// The same reading at another place, or of another value.
fn instead(event: &Event, place: Place, value: &Reading) -> Event {
    let mut other = event.clone();
    if let Event::Read {
        place: at,
        value: read,
        ..
    } = &mut other
    {
        *at = place;
        *read = value.clone();
    }
    other
}

/// A length that is held against what is expected.
struct Held<'a> {
    event: &'a Event,
    place: Place,
    expected: Value<Length>,
    length: &'a Measurement,
}

impl Held<'_> {
    fn sigma(&self) -> f64 {
        self.length.sigma(self.place.usual_tool()).mm()
    }

    fn fits(&self, value: Length, expected: Value<Length>) -> bool {
        let sigma = expected.sigma.mm().hypot(self.sigma());
        (value - expected.value).abs().mm() < EXPLAINED * sigma
    }

    fn question(&self, known: &Estimate, plan: impl FnOnce() -> Plan) -> Option<Question> {
        let read = self.length.middle();
        let off = (read - self.expected.value).mm();
        let sigma = self.expected.sigma.mm().hypot(self.sigma());
        let deviations = unusual(off, sigma)
            .or_else(|| Some(off.abs() / sigma).filter(|far| *far > ODD && self.slipped(known)))?;
        let mut slips = Vec::new();
        for (cause, factor) in UNIT_SLIPS {
            let value = rounded(read * factor);
            if self.fits(value, self.expected) {
                let corrected = Reading::Length {
                    length: Measurement {
                        tool: self.length.tool,
                        ..Measurement::mm(value.mm())
                    },
                };
                slips.push(Slip {
                    cause,
                    value: Some(Doubted::Length(value)),
                    instead: Some(instead(self.event, self.place, &corrected)),
                });
            }
        }
        for (cause, there) in self.elsewhere(known) {
            let near = expected_at(known, there, self.length.tool)
                .is_some_and(|expected| self.fits(read, expected));
            if near {
                let value = Reading::Length {
                    length: self.length.clone(),
                };
                slips.push(Slip {
                    cause,
                    value: None,
                    instead: Some(instead(self.event, there, &value)),
                });
            }
        }
        if planned(known, &plan(), self.place).is_some_and(|expected| self.fits(read, expected)) {
            slips.push(Slip {
                cause: Cause::DoneNotTold,
                value: None,
                instead: None,
            });
        }
        if matches!(self.place, Place::Relief { .. } | Place::Gap) {
            slips.push(Slip {
                cause: Cause::Pitch,
                value: None,
                instead: None,
            });
        }
        Some(Question {
            place: self.place,
            written: Some(self.length.written.clone()),
            read: Doubted::Length(rounded(read)),
            expected: Expectation::Length(self.expected),
            deviations,
            slips,
        })
    }

    /// Whether a slip is likelier than that it was read as it was written: Bayes, with what slips are worth beforehand.
    /// Far less than four standard deviations can be odd, where the same number in another unit, or over the next string,
    /// is just what was expected there.
    fn slipped(&self, known: &Estimate) -> bool {
        let read = self.length.middle().mm();
        // As a share of what it would be without a slip, all as logarithms of densities.
        let density = |value: f64, expected: Value<Length>| {
            let sigma = expected.sigma.mm().hypot(self.sigma());
            let off = (value - expected.value.mm()) / sigma;
            -0.5 * off * off - sigma.ln()
        };
        let honest = density(read, self.expected);
        let units = UNIT_SLIPS
            .iter()
            .map(|(_, factor)| factor.ln() + density(read * factor, self.expected));
        // What was read here before speaks for itself; at a first reading only the strings beside it do.
        let first = known.state().last(self.place).is_none();
        let beside = self.elsewhere(known).into_iter().filter_map(|(_, there)| {
            let expected = expected_at(known, there, self.length.tool).filter(|_| first)?;
            Some(density(read, expected))
        });
        let slips: f64 = units.chain(beside).map(|slip| (slip - honest).exp()).sum();
        slips * SLIPS > 1.0
    }

    /// The places beside it that it may have been read at.
    fn elsewhere(&self, known: &Estimate) -> Vec<(Cause, Place)> {
        let mut found = Vec::new();
        if let Some(string) = self.place.string() {
            for other in [string.wrapping_sub(1), string + 1] {
                if (1..=known.instrument().strings).contains(&other)
                    && let Some(there) = self.place.on_string(other)
                {
                    found.push((Cause::OtherString(other), there));
                }
            }
        }
        if let Place::Action { string, fret, held } = self.place {
            for other in [12, 17].into_iter().filter(|other| *other != fret) {
                let there = Place::Action {
                    string,
                    fret: other,
                    held,
                };
                found.push((Cause::OtherFret(other), there));
            }
        }
        found
    }
}

/// What a reading there would be after the move that is planned.
fn planned(known: &Estimate, plan: &Plan, place: Place) -> Option<Value<Length>> {
    plan.bench()
        .into_iter()
        .flat_map(|station| station.tasks(known))
        .find_map(|task| task.next.next_move()?.expected_at(place)?.length())
}
