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

pub mod cautions;
pub mod events;
pub mod findings;
pub mod first;
pub mod frets;
pub mod last_time;
pub mod learned;
pub mod moves;
pub mod next;
pub mod numbers;
pub mod proof;
pub mod questions;
pub mod restring;
pub mod season;
pub mod triage;

use crate::decision::{IN_SPEC, Mark, Odds, Verdict};
use crate::model::Side;
use gradimen_core::quantity::Length;
use gradimen_core::units::print::UNIT;

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
fn hundredths(value: Length) -> String {
    format!("{} {UNIT}", numbers::in_unit(value, 2))
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

/// A probability as a share of a hundred, never quite none nor all.
pub fn chance(share: f64) -> String {
    let percent = share * 100.0;
    if percent >= 99.5 {
        "> 99 %".to_owned()
    } else if percent < 0.5 {
        "< 1 %".to_owned()
    } else {
        format!("{percent:.0} %")
    }
}

/// How sure it is that something is in spec, where it is let be: `in spec (± 0.10 mm) with 97 %`.
pub fn stands(odds: Odds, allowed: &str) -> String {
    stands_within(odds, &format!("\u{b1}\u{a0}{allowed}"))
}

/// The same, with both sides of what is allowed written out.
fn stands_within(odds: Odds, allowed: &str) -> String {
    let chance = chance(odds.within);
    if odds.within >= IN_SPEC {
        format!("in spec ({allowed}) with {chance}")
    } else {
        format!("in spec ({allowed}) with {chance}; no reading or turn makes that surer")
    }
}

/// The odds behind a verdict, opened: `in spec 97 %, too high 2 %, too low 1 %`.
pub fn odds(odds: Odds, [high, low]: [&str; 2]) -> String {
    format!(
        "in spec {}, {high} {}, {low} {}",
        chance(odds.within),
        chance(odds.high),
        chance(odds.low)
    )
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
