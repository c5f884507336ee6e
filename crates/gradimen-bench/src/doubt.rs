//! Readings that cannot be right are questioned before they are believed, with the likely slip.
//!
//! A reading further from what is expected of it than [`QUESTIONED`] standard deviations, its own
//! included, is one in some fifteen thousand honest ones; a slip of units or strings is far more
//! likely. What the technician keeps all the same is taken in, and weighs less.

use gradimen_core::quantity::{Cents, Estimate, Length};
use gradimen_core::units::print;

use crate::balance::{BalancePlan, REST_SIGMA_MM};
use crate::estimate::{HAND_SCATTER, estimate};
use crate::event::{Event, Gap};
use crate::geometry::{reading_sigma, seen_relief};
use crate::job::Job;
use crate::record::Measured;

/// Further off than so many standard deviations is questioned.
pub const QUESTIONED: f64 = 4.0;
/// A slip is offered when it would bring the reading within so many.
const EXPLAINED: f64 = 2.0;

/// A slip that would explain a reading, and the reading without it.
#[derive(Debug, Clone, PartialEq)]
pub struct Slip {
    /// In words.
    pub says: String,
    /// What would then be told.
    pub instead: Option<Event>,
}

/// A reading that does not fit.
#[derive(Debug, Clone, PartialEq)]
pub struct Question {
    /// What was read, in words.
    pub read: String,
    /// What was expected, in words.
    pub expected: String,
    /// How many standard deviations lie between.
    pub deviations: f64,
    /// The likely slips.
    pub slips: Vec<Slip>,
}

/// What a length reading is held against.
struct Held<'a> {
    event: &'a Event,
    expected: Estimate<Length>,
    gap: &'a Measured,
    /// The same reading at another string or fret, with words for it and what is expected there.
    elsewhere: Vec<(String, Event, Estimate<Length>)>,
    /// Whether the strings may not have been at pitch, on which this reading hangs.
    pitch: bool,
}

/// The question a reading raises, if it raises one.
pub fn question(job: &Job, event: &Event) -> Option<Question> {
    match event {
        Event::ReliefRead {
            side,
            span,
            seen,
            kept: false,
        } => {
            let sight = job.geometry().relief_sight(*side, span.span()).ok()?;
            let Gap::Open { gap } = seen else {
                let (value, sigma, written) = seen_relief(seen);
                let expected = job.geometry().predict(&sight);
                return unusual(
                    value - expected.value.mm(),
                    expected.sigma.mm().hypot(sigma),
                )
                .map(|deviations| Question {
                    read: written,
                    expected: both(expected),
                    deviations,
                    slips: Vec::new(),
                });
            };
            lengths(&Held {
                event,
                expected: job.geometry().predict(&sight),
                gap,
                elsewhere: Vec::new(),
                pitch: true,
            })
        }
        Event::NutRead {
            string,
            held,
            gap,
            kept: false,
        } => {
            let sight = job.geometry().action_sight(*string, *held, 1).ok()?;
            lengths(&Held {
                event,
                expected: job.geometry().predict(&sight),
                gap,
                elsewhere: neighbours(job, event, *string),
                pitch: false,
            })
        }
        Event::ActionRead {
            string,
            fret,
            held,
            gap,
            kept: false,
        } => {
            let sight = job.geometry().action_sight(*string, *held, *fret).ok()?;
            let mut elsewhere = neighbours(job, event, *string);
            for other in [12, 17].into_iter().filter(|other| other != fret) {
                if let Ok(sight) = job.geometry().action_sight(*string, *held, other) {
                    let mut there = event.clone();
                    if let Event::ActionRead { fret, .. } = &mut there {
                        *fret = other;
                    }
                    let expected = job.geometry().predict(&sight);
                    elsewhere.push((format!("read over fret {other}?"), there, expected));
                }
            }
            lengths(&Held {
                event,
                expected: job.geometry().predict(&sight),
                gap,
                elsewhere,
                pitch: false,
            })
        }
        Event::PickupRead {
            pickup,
            side,
            gap,
            kept: false,
        } => {
            let sight = job.geometry().pickup_sight(*pickup, *side).ok()?;
            lengths(&Held {
                event,
                expected: job.geometry().predict(&sight),
                gap,
                elsewhere: Vec::new(),
                pitch: false,
            })
        }
        Event::BalanceRead {
            gap: Some(gap),
            kept: false,
        } => {
            let now = BalancePlan::of(job)?.now;
            let sigma = Length::from_mm(now.sigma.mm().hypot(REST_SIGMA_MM));
            lengths(&Held {
                event,
                expected: Estimate::new(now.value, sigma),
                gap,
                elsewhere: Vec::new(),
                pitch: true,
            })
        }
        Event::IntonationRead {
            string,
            fret: 12,
            cents,
            kept: false,
            ..
        } => pitches(job, event, *string, Cents::new(*cents)),
        _ => None,
    }
}

fn unusual(off: f64, sigma: f64) -> Option<f64> {
    let deviations = off.abs() / sigma;
    (deviations > QUESTIONED).then_some(deviations)
}

fn both(expected: Estimate<Length>) -> String {
    format!(
        "{} \u{b1} {} ({})",
        print::mm(Length::from_mm(
            (expected.value.mm() * 100.0).round() / 100.0
        )),
        print::mm(Length::from_mm(
            (expected.sigma.mm() * 100.0).round() / 100.0
        )),
        print::thou(expected.value)
    )
}

/// The same reading on the strings beside it.
fn neighbours(job: &Job, event: &Event, string: u8) -> Vec<(String, Event, Estimate<Length>)> {
    [string.wrapping_sub(1), string + 1]
        .into_iter()
        .filter(|other| (1..=job.instrument().strings).contains(other))
        .filter_map(|other| {
            let mut there = event.clone();
            let sight = match &mut there {
                Event::NutRead { string, held, .. } => {
                    *string = other;
                    job.geometry().action_sight(other, *held, 1).ok()?
                }
                Event::ActionRead {
                    string, held, fret, ..
                } => {
                    *string = other;
                    job.geometry().action_sight(other, *held, *fret).ok()?
                }
                _ => return None,
            };
            let expected = job.geometry().predict(&sight);
            Some((format!("read on string {other}?"), there, expected))
        })
        .collect()
}

/// Units that are taken for one another, by what the reading would be without the slip.
const UNIT_SLIPS: [(&str, f64); 6] = [
    ("32nds written for 64ths?", 0.5),
    ("64ths written for 32nds?", 2.0),
    (
        "millimetres meant, inches or thousandths written?",
        1.0 / 25.4,
    ),
    ("inches meant, millimetres written?", 25.4),
    (
        "thousandths meant, hundredths of a millimetre written?",
        2.54,
    ),
    (
        "hundredths of a millimetre meant, thousandths written?",
        1.0 / 2.54,
    ),
];

fn lengths(held: &Held<'_>) -> Option<Question> {
    let expected = held.expected;
    let own = reading_sigma(held.gap).mm();
    let read = held.gap.middle();
    let deviations = unusual((read - expected.value).mm(), expected.sigma.mm().hypot(own))?;
    let fits = |value: Length, expected: Estimate<Length>| {
        (value - expected.value).abs().mm() < EXPLAINED * expected.sigma.mm().hypot(own)
    };
    let mut slips = Vec::new();
    for (says, factor) in UNIT_SLIPS {
        let value = read * factor;
        if fits(value, expected) {
            slips.push(Slip {
                says: format!("{says} Then it is {}.", print::mm(rounded(value))),
                instead: with_gap(held.event, &Measured::mm(rounded(value).mm())),
            });
        }
    }
    for (says, event, expected) in &held.elsewhere {
        if fits(read, *expected) {
            slips.push(Slip {
                says: says.clone(),
                instead: Some(event.clone()),
            });
        }
    }
    if held.pitch {
        slips.push(Slip {
            says: "not at pitch? Tune every string up to pitch and read again.".to_owned(),
            instead: None,
        });
    }
    Some(Question {
        read: format!("{} ({})", held.gap.written, print::mm(rounded(read))),
        expected: both(expected),
        deviations,
        slips,
    })
}

fn rounded(value: Length) -> Length {
    Length::from_mm((value.mm() * 1000.0).round() / 1000.0)
}

fn with_gap(event: &Event, corrected: &Measured) -> Option<Event> {
    let mut instead = event.clone();
    match &mut instead {
        Event::NutRead { gap, .. }
        | Event::ActionRead { gap, .. }
        | Event::PickupRead { gap, .. }
        | Event::BalanceRead { gap: Some(gap), .. }
        | Event::ReliefRead {
            seen: Gap::Open { gap },
            ..
        } => *gap = corrected.clone(),
        _ => return None,
    }
    Some(instead)
}

fn pitches(job: &Job, event: &Event, string: u8, cents: Cents) -> Option<Question> {
    let on = |string: u8| -> Option<Estimate<Cents>> {
        let at = job.instrument().bridge.saddle_of(string)?;
        let known = estimate(job, job.saddles().get(at)?).ok()?;
        let found = known.strings.iter().find(|on| on.string == string)?;
        let state = job.string_state(string).ok()?;
        let excess = state.speaking.harmonic_excess(known.setback.value);
        let Event::IntonationRead { against, .. } = event else {
            return None;
        };
        let seen = match against {
            crate::event::Against::Harmonic => found.error.value - excess,
            crate::event::Against::Open => found.error.value,
        };
        Some(Estimate::new(seen, found.error.sigma))
    };
    let expected = on(string)?;
    let tuner = job.tuner().resolution().value();
    let own = HAND_SCATTER.value().hypot(tuner / 3f64.sqrt());
    let deviations = unusual(
        (cents - expected.value).value(),
        expected.sigma.value().hypot(own),
    )?;
    let fits = |read: Cents, expected: Estimate<Cents>| {
        (read - expected.value).abs().value() < EXPLAINED * expected.sigma.value().hypot(own)
    };
    let mut slips = Vec::new();
    let change = |to: &dyn Fn(&mut Event)| {
        let mut instead = event.clone();
        to(&mut instead);
        instead
    };
    if fits(-cents, expected) {
        slips.push(Slip {
            says: format!(
                "sharp and flat exchanged? Then it is {} cents.",
                print::cents(-cents)
            ),
            instead: Some(change(&|event| {
                if let Event::IntonationRead { cents, .. } = event {
                    *cents = -*cents;
                }
            })),
        });
    }
    for other in [string.wrapping_sub(1), string + 1] {
        if (1..=job.instrument().strings).contains(&other)
            && on(other).is_some_and(|expected| fits(cents, expected))
        {
            slips.push(Slip {
                says: format!("read on string {other}?"),
                instead: Some(change(&|event| {
                    if let Event::IntonationRead { string, .. } = event {
                        *string = other;
                    }
                })),
            });
        }
    }
    slips.push(Slip {
        says: "not retuned after the last move? Tune the open string up to pitch and read again."
            .to_owned(),
        instead: None,
    });
    Some(Question {
        read: format!("{} cents", print::cents(cents)),
        expected: format!(
            "{} \u{b1} {:.1} cents",
            print::cents(expected.value),
            expected.sigma.value()
        ),
        deviations,
        slips,
    })
}
