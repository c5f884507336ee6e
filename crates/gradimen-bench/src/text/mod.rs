//! The English of the product: what happened, what was found, what to do next. Facts come in, sentences go out;
//! nothing is worked out here.
//!
//! ```
//! use gradimen_bench::finding::Finding;
//! use gradimen_bench::text;
//!
//! let sentence = text::findings::sentence(&Finding::Tight { string: 6 });
//! assert_eq!(sentence, "String 6: less than one turn of travel is left where the saddle should be.");
//! ```

pub mod events;
pub mod findings;
pub mod moves;
pub mod questions;

use gradimen_core::quantity::{Cents, Estimate, Force, Length};
use gradimen_core::units::print;

use crate::decision::{Mark, Verdict};
use crate::model::Side;

/// The word of a side.
pub fn side(side: Side) -> &'static str {
    side.into()
}

/// Strings, one after another: `1, 2`.
pub fn list(strings: &[u8], between: &str) -> String {
    let names: Vec<String> = strings.iter().map(u8::to_string).collect();
    names.join(between)
}

/// `0.25 mm`, with a proper minus.
pub fn hundredths(value: Length) -> String {
    format!("{:.2} mm", value.mm()).replace('-', "\u{2212}")
}

/// Millimetres with a fixed number of decimals and a proper minus.
pub fn mm(length: Length, decimals: usize) -> String {
    let text = format!("{:.decimals$}", length.mm().abs());
    let zero = !text.bytes().any(|byte| (b'1'..=b'9').contains(&byte));
    if length.mm() < 0.0 && !zero {
        format!("\u{2212}{text}")
    } else {
        text
    }
}

/// A length in both units: `2.30 mm (.091 in)`.
pub fn both(length: Length) -> String {
    format!("{} ({})", print::mm(length), print::inches(length))
}

/// `+6.2 ± 0.4`.
pub fn estimate(cents: Estimate<Cents>) -> String {
    format!(
        "{} \u{b1} {:.1}",
        print::cents(cents.value),
        cents.sigma.value()
    )
}

/// A tension in the bench's units: `104 lb (462 N)`.
pub fn tension(force: Force) -> String {
    format!("{:.0} lb ({:.0} N)", force.pounds(), force.newtons())
}

/// A verdict on a gap or a height.
pub const fn gap_verdict(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Unread => "not read",
        Verdict::InSpec => "in spec",
        Verdict::TooHigh => "too high",
        Verdict::TooLow => "too low",
        Verdict::MeasureAgain => "measure again",
        Verdict::Blocked => "stopped",
    }
}

/// A verdict on the gap of a pickup: what is too near is not to be called too low.
pub const fn pickup_verdict(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::TooHigh => "too far",
        Verdict::TooLow => "too near",
        other => gap_verdict(other),
    }
}

/// A verdict on a fretted note.
pub const fn note_verdict(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Unread => "not read",
        Verdict::InSpec => "in spec",
        Verdict::TooHigh => "sharp",
        Verdict::TooLow => "flat",
        Verdict::MeasureAgain => "measure again",
        Verdict::Blocked => "out of travel",
    }
}

/// How a station stands.
pub const fn mark(mark: Mark) -> &'static str {
    match mark {
        Mark::Unread => "not read",
        Mark::Working => "in progress",
        Mark::Within => "in spec",
        Mark::Blocked => "stopped",
    }
}
