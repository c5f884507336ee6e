//! A reading that looks off, in words.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! use gradimen_bench::{journal::Event, model::{Place, Reading, Reference}};
//! use gradimen_bench::{plan::reading_check, text::questions};
//!
//! // A tuner that shows the next note.
//! let far = Event::read(
//!     Place::Intonation { string: 4, fret: 12 },
//!     Reading::Note { cents: 80.0, against: Reference::Harmonic, resolution_cents: None, by_ear: false },
//! );
//! let question = reading_check::question(&known, || plan, &far).ok_or("it is asked about")?;
//! assert!(questions::sentence(&question).contains("80"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Estimate as Value, Length};
use gradimen_core::units::print;

use crate::decision::Expectation;
use crate::plan::reading_check::{Cause, Doubted, Question, Slip};

/// What was read.
pub fn read(question: &Question) -> String {
    let means = value(question.read);
    match &question.written {
        Some(written) if *written != means => format!("{written} ({means})"),
        _ => means,
    }
}

fn value(read: Doubted) -> String {
    match read {
        Doubted::Length(length) => print::with_unit(length),
        Doubted::Cents(cents) => format!("{} cents", print::cents(cents)),
    }
}

/// What was expected.
pub fn expected(question: &Question) -> String {
    match question.expected {
        Expectation::Length(length) => both(length),
        Expectation::Cents(cents) => format!(
            "{} \u{b1} {:.1} cents",
            print::cents(cents.value),
            cents.sigma.value()
        ),
    }
}

fn both(expected: Value<Length>) -> String {
    let rounded =
        |length: Length| print::with_unit(Length::from_mm((length.mm() * 100.0).round() / 100.0));
    format!(
        "{} \u{b1} {} ({})",
        rounded(expected.value),
        rounded(expected.sigma),
        print::thou(expected.value)
    )
}

/// The whole question.
pub fn sentence(question: &Question) -> String {
    format!(
        "You entered {}, expected about {}: far outside normal measuring error.",
        read(question),
        expected(question)
    )
}

/// A likely slip.
pub fn slip(slip: &Slip) -> String {
    let asks = match slip.cause {
        Cause::ThirtySeconds => "32nds written for 64ths?".to_owned(),
        Cause::SixtyFourths => "64ths written for 32nds?".to_owned(),
        Cause::MillimetresMeant => "millimetres meant, inches or thousandths written?".to_owned(),
        Cause::InchesMeant => "inches meant, millimetres written?".to_owned(),
        Cause::ThouMeant => "thousandths meant, hundredths of a millimetre written?".to_owned(),
        Cause::HundredthsMeant => "hundredths of a millimetre meant, thousandths written?".to_owned(),
        Cause::OtherString(string) => format!("measured on string {string}?"),
        Cause::OtherFret(fret) => format!("measured at fret {fret}?"),
        Cause::Sign => "sharp and flat exchanged?".to_owned(),
        Cause::DoneNotTold => {
            "turned as planned, and Done not pressed? Discard it, press Done, then enter what was read."
                .to_owned()
        }
        Cause::Pitch => "not at pitch? Tune every string up to pitch and measure again.".to_owned(),
        Cause::Retuned => {
            "not retuned after the last adjustment? Tune the open string up to pitch and measure again."
                .to_owned()
        }
    };
    slip.value.map_or_else(
        || asks.clone(),
        |then| format!("{asks} Then it is {}.", value(then)),
    )
}
