//! What the strings pull.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! use gradimen_bench::{stations::strings, text::next};
//!
//! let [total, _] = next::strings::headline(&strings::pull(&known), false);
//! assert!(total.starts_with("total tension"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Force;

use crate::stations::strings::Pull;
use crate::text::numbers;

/// The total in one line, and against what was on before in another.
pub fn headline(pull: &Pull, trying: bool) -> [String; 2] {
    let total = format!("total tension {}", numbers::tension(pull.total));
    let first = if trying {
        format!("Preview: {total}")
    } else {
        total
    };
    let second = match pull.change() {
        Some(change) if change.newtons().abs() >= 0.05 => {
            let word = if change > Force::ZERO { "more" } else { "less" };
            format!("{} N {word} than before", numbers::newtons(change.abs()))
        }
        Some(_) => "as much as before".to_owned(),
        None => "previous strings unknown".to_owned(),
    };
    [first, second]
}
