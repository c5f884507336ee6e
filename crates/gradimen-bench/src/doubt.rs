//! Readings that cannot be right are questioned before they are believed, with the likely slip.
//!
//! A reading further from what is expected of it than [`QUESTIONED`] standard deviations, its own
//! included, is one in some fifteen thousand honest ones; a slip of units or strings is far more
//! likely. What the technician keeps all the same is taken in, and weighs less.

mod pitches;

use gradimen_core::quantity::{Cents, Estimate, Length};
use gradimen_core::units::print;

use crate::balance::{BalanceAction, BalancePlan, REST_SIGMA_MM};
use crate::event::{Event, Gap};
use crate::geometry::{Place, reading_sigma, seen_relief};
use crate::job::Job;
use crate::record::Measured;
use crate::setup::{HeightAction, PickupAction, ReliefAction, SetupPlan};

/// Further off than so many standard deviations is questioned.
pub const QUESTIONED: f64 = 4.0;
/// What is kept all the same is taken to be so much wider, here and in every filter.
pub(crate) const KEPT_WIDENING: f64 = 4.0;
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
            lengths(
                job,
                &Held {
                    event,
                    expected: job.geometry().predict(&sight),
                    gap,
                    elsewhere: Vec::new(),
                    pitch: true,
                },
            )
        }
        Event::NutRead {
            string,
            held,
            gap,
            kept: false,
        } => {
            let sight = job.geometry().action_sight(*string, *held, 1).ok()?;
            lengths(
                job,
                &Held {
                    event,
                    expected: job.geometry().predict(&sight),
                    gap,
                    elsewhere: neighbours(job, event, *string),
                    pitch: false,
                },
            )
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
            lengths(
                job,
                &Held {
                    event,
                    expected: job.geometry().predict(&sight),
                    gap,
                    elsewhere,
                    pitch: false,
                },
            )
        }
        Event::PickupRead {
            pickup,
            side,
            gap,
            kept: false,
        } => {
            let sight = job.geometry().pickup_sight(*pickup, *side).ok()?;
            lengths(
                job,
                &Held {
                    event,
                    expected: job.geometry().predict(&sight),
                    gap,
                    elsewhere: Vec::new(),
                    pitch: false,
                },
            )
        }
        Event::BalanceRead {
            gap: Some(gap),
            kept: false,
        } => {
            let now = BalancePlan::of(job)?.now;
            let sigma = Length::from_mm(now.sigma.mm().hypot(REST_SIGMA_MM));
            lengths(
                job,
                &Held {
                    event,
                    expected: Estimate::new(now.value, sigma),
                    gap,
                    elsewhere: Vec::new(),
                    pitch: true,
                },
            )
        }
        Event::IntonationRead {
            string,
            fret: 12,
            cents,
            kept: false,
            ..
        } => pitches::question(job, event, *string, Cents::new(*cents)),
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

fn lengths(job: &Job, held: &Held<'_>) -> Option<Question> {
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
    if planned(job, held.event).is_some_and(|expected| fits(read, expected)) {
        slips.push(Slip {
            says: "turned as planned, and Done not pressed? Drop it, press Done, then tell what was read."
                .to_owned(),
            instead: None,
        });
    }
    if held.pitch {
        slips.push(Slip {
            says: "not at pitch? Tune every string up to pitch and read again.".to_owned(),
            instead: None,
        });
    }
    Some(Question {
        read: twice(&held.gap.written, print::mm(rounded(read))),
        expected: both(expected),
        deviations,
        slips,
    })
}

/// As it was written, and what that is where it was written otherwise.
fn twice(written: &str, means: String) -> String {
    if written == means {
        means
    } else {
        format!("{written} ({means})")
    }
}

/// What this reading would be after the move that is planned there.
fn planned(job: &Job, event: &Event) -> Option<Estimate<Length>> {
    let targets = job.targets();
    match event {
        Event::BalanceRead { .. } => match BalancePlan::of(job)?.action {
            BalanceAction::Turn(step) => Some(step.expected),
            _ => None,
        },
        Event::ReliefRead { side, span, .. } if *span == targets.relief_span => {
            let setup = SetupPlan::of(job);
            let at = setup
                .relief
                .sides
                .iter()
                .position(|known| known.place == Place::Relief(*side))?;
            match setup.relief.action {
                ReliefAction::Turn(step) => step.expected.get(at).copied(),
                _ => None,
            }
        }
        Event::ActionRead {
            string,
            fret,
            held: 0,
            ..
        } if *fret == targets.action_fret => {
            SetupPlan::of(job)
                .height
                .adjusters
                .iter()
                .find_map(|adjuster| match &adjuster.action {
                    HeightAction::Turn(step) => step
                        .expected
                        .iter()
                        .find(|(on, _)| on == string)
                        .map(|(_, value)| *value),
                    _ => None,
                })
        }
        Event::PickupRead { pickup, side, .. } => {
            let setup = SetupPlan::of(job);
            let known = setup.pickups.get(usize::from(*pickup))?;
            let known = known.sides.iter().find(|known| known.side == *side)?;
            match &known.action {
                PickupAction::Turn(step) => Some(step.expected),
                _ => None,
            }
        }
        _ => None,
    }
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
