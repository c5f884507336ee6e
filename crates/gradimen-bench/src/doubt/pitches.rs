//! A fretted note that does not fit: the sign, the string, the open string out of tune.

use gradimen_core::quantity::{Cents, Estimate};
use gradimen_core::units::print;

use super::{EXPLAINED, Question, Slip, unusual};
use crate::estimate::{HAND_SCATTER, estimate};
use crate::event::{Against, Event};
use crate::job::Job;

pub(super) fn question(job: &Job, event: &Event, string: u8, cents: Cents) -> Option<Question> {
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
            Against::Harmonic => found.error.value - excess,
            Against::Open => found.error.value,
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
