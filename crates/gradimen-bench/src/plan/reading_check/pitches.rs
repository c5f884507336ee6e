//! A fretted note that does not fit: the sign, the string, the open string out of tune.

use gradimen_core::quantity::{Cents, Estimate as Value};

use super::{Cause, Doubted, EXPLAINED, Question, Slip, instead, unusual};
use crate::decision::Expectation;
use crate::estimate::Estimate;
use crate::estimate::state::noise_of_note;
use crate::journal::Event;
use crate::model::{Place, Reading, Reference};

pub(super) fn question(known: &Estimate, event: &Event, string: u8) -> Option<Question> {
    let Event::Read {
        place,
        value:
            Reading::Note {
                cents,
                against,
                resolution_cents,
                by_ear,
            },
        ..
    } = event
    else {
        return None;
    };
    let cents = Cents::new(*cents);
    let on = |string: u8| expected(known, string, *against);
    let expected = on(string)?;
    let tuner = resolution_cents.unwrap_or_else(|| known.tuner().resolution().value());
    let finger = known.state().strings[known.state().index(string)].finger;
    let own = noise_of_note(finger, tuner, *by_ear);
    let deviations = unusual(
        (cents - expected.value).value(),
        expected.sigma.value().hypot(own),
    )?;
    let fits = |read: Cents, expected: Value<Cents>| {
        (read - expected.value).abs().value() < EXPLAINED * expected.sigma.value().hypot(own)
    };
    let mut slips = Vec::new();
    if fits(-cents, expected) {
        let other = Reading::Note {
            cents: -cents.value(),
            against: *against,
            resolution_cents: *resolution_cents,
            by_ear: *by_ear,
        };
        slips.push(Slip {
            cause: Cause::Sign,
            value: Some(Doubted::Cents(-cents)),
            instead: Some(instead(event, *place, &other)),
        });
    }
    for other in [string.wrapping_sub(1), string + 1] {
        if (1..=known.instrument().strings).contains(&other)
            && on(other).is_some_and(|expected| fits(cents, expected))
        {
            let there = Place::Intonation {
                string: other,
                fret: 12,
            };
            let same = Reading::Note {
                cents: cents.value(),
                against: *against,
                resolution_cents: *resolution_cents,
                by_ear: *by_ear,
            };
            slips.push(Slip {
                cause: Cause::OtherString(other),
                value: None,
                instead: Some(instead(event, there, &same)),
            });
        }
    }
    slips.push(Slip {
        cause: Cause::Retuned,
        value: None,
        instead: None,
    });
    Some(Question {
        place: *place,
        written: None,
        read: Doubted::Cents(cents),
        expected: Expectation::Cents(expected),
        deviations,
        slips,
    })
}

/// What a string is expected to read at fret 12.
fn expected(known: &Estimate, string: u8, against: Reference) -> Option<Value<Cents>> {
    let state = known.state();
    let sight = state.note_expected(string, against).ok()?;
    let sigma = state.filter.variance_along(&sight.slope).sqrt();
    Some(Value::new(Cents::new(sight.value), Cents::new(sigma)))
}
