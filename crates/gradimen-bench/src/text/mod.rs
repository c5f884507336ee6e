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
pub mod next;
pub mod numbers;
pub mod questions;

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
fn hundredths(value: gradimen_core::quantity::Length) -> String {
    format!("{} mm", numbers::mm(value, 2))
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
