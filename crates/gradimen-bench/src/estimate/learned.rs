//! What an instrument taught of its own ways: numbers that hold for its next visit too.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, estimate::learned, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let found = learned::of(&known);
//! // A rod is never known beyond doubt.
//! assert!(found.iter().all(|learned| learned.sigma > 0.0));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use super::Estimate;
use super::priors;
use super::state::layout::{DRIVES, LIFTS, PULL, Part, ROD, SHARE};
use crate::model::hardware::Lifts;

/// What a number is about.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Subject {
    /// Relief a turn of the rod takes away, by hold 1 and last, read 8, in millimetres.
    Rod,
    /// Relief that all of the strings' pull makes, in millimetres.
    Pull,
    /// What a height screw lifts, as a factor on its thread: of all, in common.
    HeightScrews,
    /// What a saddle's screw moves it by, as a factor on its thread: of all, in common.
    Drives,
    /// The share of a screw that reaches its own end of a barrel, post or pickup, beyond what is usual.
    OwnEnd,
    /// The rate of one spring of the vibrato, in newtons per metre.
    SpringRate,
    /// What a turn of the claw's screws moves it by, in millimetres.
    Claw,
}

/// A number that was learned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Learned {
    /// About what.
    pub subject: Subject,
    /// How much.
    pub value: f64,
    /// One standard deviation of that.
    pub sigma: f64,
    /// What was believed of any instrument of the kind, before this one said something.
    pub before: f64,
    /// One standard deviation of that.
    pub before_sigma: f64,
}

impl Learned {
    /// Whether this instrument said anything about it.
    pub fn is_own(&self) -> bool {
        self.sigma < 0.9 * self.before_sigma
    }
}

/// Everything that an instrument can teach, whether it did or not.
pub fn of(known: &Estimate) -> Vec<Learned> {
    let state = known.state();
    let filter = &state.filter;
    let of = |subject, at: usize, value: fn(f64) -> f64, before: f64, sigma: f64| {
        let here = value(filter.x[at]);
        // By the slope of the curve the number is kept on.
        let slope = |x: f64| (value(x + 1e-4) - value(x - 1e-4)) / 2e-4;
        Learned {
            subject,
            value: here,
            sigma: slope(filter.x[at]).abs() * filter.p[(at, at)].sqrt(),
            before: value(before),
            before_sigma: slope(before).abs() * sigma,
        }
    };
    let kind = known.instrument().kind;
    let factor = |x: f64| 1.0 + x;
    let mut found = vec![
        of(
            Subject::Rod,
            ROD,
            f64::exp,
            priors::ROD.0.ln(),
            priors::ROD.1,
        ),
        of(
            Subject::Pull,
            PULL,
            f64::exp,
            priors::pull(kind).ln(),
            priors::PULL_LOG,
        ),
        of(Subject::HeightScrews, LIFTS, factor, 0.0, priors::THREAD.1),
        of(Subject::Drives, DRIVES, factor, 0.0, priors::THREAD.1),
    ];
    if state.lifts() == Lifts::TwoPosts || known.instrument().bridge.saddles.len() < state.count() {
        found.push(of(Subject::OwnEnd, SHARE, factor, 0.0, priors::SHARE));
    }
    if let Some(sheet) = &state.sheet {
        let rate = state.at.part(Part::Rate);
        let scale = sheet.record.rate_newtons_per_metre;
        let mut springs = of(Subject::SpringRate, rate, f64::exp, 0.0, priors::RATE_LOG.1);
        for number in [
            &mut springs.value,
            &mut springs.sigma,
            &mut springs.before,
            &mut springs.before_sigma,
        ] {
            *number *= scale;
        }
        found.push(springs);
        if sheet.has_claw() {
            let pitch = sheet.record.claw_pitch.middle().mm();
            let at = state.at.part(Part::ClawTurn);
            let mut claw = of(Subject::Claw, at, factor, 0.0, priors::CLAW_TURN.1);
            for number in [
                &mut claw.value,
                &mut claw.sigma,
                &mut claw.before,
                &mut claw.before_sigma,
            ] {
                *number *= pitch;
            }
            found.push(claw);
        }
    }
    found
}
