//! The one next move of a station, as it is read across the bench: what it is about, the big sentence, what to expect,
//! the sum behind it, and the usual caution. What can be pressed beside it belongs to the page.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//! use gradimen_bench::{model::Side, text::next};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let says = next::relief::headline(&known, &plan, Side::Bass);
//! assert!(!says.big.is_empty() && says.caution.contains("Never force a truss rod"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod action;
pub mod balance;
pub mod clearance;
pub mod intonation;
pub mod job_plan;
pub mod nut;
pub mod pickups;
pub mod relief;
pub mod strings;
pub mod what_if;

/// Whether something is to be moved, is out of reach, or neither.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum Tone {
    /// Read, or leave.
    #[default]
    Plain,
    /// Turn, file or slide.
    Move,
    /// It stops here.
    Out,
}

/// The one next move, in words.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Headline {
    /// What it is about, and its target.
    pub kicker: String,
    /// The big sentence, in lines.
    pub big: Vec<String>,
    /// Whether it is a move.
    pub tone: Tone,
    /// Whether a reading is wanted here and now.
    pub asks: bool,
    /// What to expect and to mind.
    pub expect: Vec<String>,
    /// Where its numbers come from: name and value.
    pub why: Vec<(String, String)>,
    /// The usual caution at this step.
    pub caution: String,
}

/// A move that would be made in vain before the claw was turned.
fn claw_first(next: &mut Headline, why: &str) {
    next.big = vec!["The claw first:".to_owned(), "see the balance".to_owned()];
    next.expect = vec![format!(
        "It is to be turned, and {why}: what is set before that is set twice."
    )];
}

/// A line of the sum.
fn line(name: &str, value: String) -> (String, String) {
    (name.to_owned(), value)
}
