//! The strings station: pull, share and stress of every string, and the inverse questions.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//! use gradimen_bench::stations::strings::pull;
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let pull = pull(&known);
//! let sum: f64 = pull.rows.iter().map(|row| row.share).sum();
//! assert!((sum - 1.0).abs() < 1e-9);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::cores::usual_core;
use gradimen_core::pitch::cents_between;
use gradimen_core::pitch::{Note, Pitch};
use gradimen_core::quantity::{Cents, Force, Length, LinearDensity};
use gradimen_core::tension::{self, Load};

use crate::decision::Mark;
use crate::finding::Finding;
use crate::job::{FittedString, Job, JobError};
use crate::model::limits::LimitError;
use crate::model::{StringEntry, Strung, Tuning};

/// One string under load.
#[derive(Debug, Clone, PartialEq)]
pub struct Row {
    /// Which string.
    pub string: u8,
    /// Mass per length.
    pub unit_weight: LinearDensity,
    /// Whether that comes from a scale.
    pub weighed: bool,
    /// Core diameter.
    pub core: Length,
    /// Whether that is only the usual size.
    pub core_is_estimate: bool,
    /// Pull.
    pub pull: Force,
    /// Share of the total.
    pub share: f64,
    /// Share of the wire's strength.
    pub stress: f64,
    /// Verdict on that.
    pub load: Load,
    /// Change against the set or tuning before, where there was one.
    pub change: Option<Force>,
}

/// A set under load.
#[derive(Debug, Clone, PartialEq)]
pub struct Pull {
    /// String by string.
    pub rows: Vec<Row>,
    /// Of all strings.
    pub total: Force,
    /// The total before, where there was one.
    pub before: Option<Force>,
}

impl Pull {
    /// Change of the total, where there was one before.
    pub fn change(&self) -> Option<Force> {
        self.before.map(|before| self.total - before)
    }
}

fn pulls(job: &Job, states: &[FittedString]) -> Vec<Force> {
    (1..)
        .zip(states)
        .map(|(string, state)| state.tension(job.speaking_scale(string)))
        .collect()
}

/// The strings of a job under load.
pub fn pull(job: &Job) -> Pull {
    let now = pulls(job, job.fitted());
    let before = job
        .previous()
        .and_then(|strung| job.imagine(strung).ok())
        .map(|states| pulls(job, states.strings()));
    let total: Force = now.iter().copied().sum();
    let rows = (1..)
        .zip(job.fitted())
        .zip(&now)
        .enumerate()
        .map(|(index, ((string, state), &pull))| Row {
            string,
            unit_weight: state.spec.unit_weight(),
            weighed: state.spec.is_weighed(),
            core: state.spec.core(),
            core_is_estimate: state.spec.core_is_estimate(),
            pull,
            share: pull.ratio(total),
            stress: tension::stress_share(&state.spec, pull),
            load: tension::load(&state.spec, pull),
            change: before.as_ref().map(|before| pull - before[index]),
        })
        .collect();
    Pull {
        rows,
        total,
        before: before.map(|before| before.into_iter().sum()),
    }
}

/// What a proposal is to achieve.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum TensionGoal {
    /// The same pull as now at another tuning: other gauges.
    KeepFeel,
    /// The pull that today's strings and tuning have on another scale: other gauges.
    FeelOf(Length),
    /// A wanted total: other gauges, shares as now.
    Total(Force),
    /// The same wanted pull on every string: other gauges.
    Even(Force),
}

/// A gauge that misses the wanted pull by more than this share is no answer; neighbouring rungs of
/// the ladder lie about an eighth apart in pull.
const FURTHEST_MISS: f64 = 0.2;

/// The set of the ladder that comes nearest to a wish at a tuning.
///
/// Strings keep their make; core sizes and weighings are of other strings and fall away.
///
/// # Errors
/// [`JobError`] when the tuning does not fit the instrument, or nothing on the ladder does.
pub fn set_for(job: &Job, tuning: &Tuning, goal: TensionGoal) -> Result<Strung, JobError> {
    let same_set = Strung {
        set: job.strung().set,
        tuning: tuning.clone(),
    };
    let states = job.imagine(&same_set)?;
    let states = states.strings();
    let now = pull(job);
    let family = job.instrument().kind.family();
    let mut set = Vec::with_capacity(states.len());
    for (row, state) in now.rows.iter().zip(states) {
        let wanted = match goal {
            TensionGoal::KeepFeel => row.pull,
            // Mersenne: at one pitch the pull of a string goes with its length squared.
            TensionGoal::FeelOf(other) => {
                row.pull * other.ratio(job.speaking_scale(row.string)).powi(2)
            }
            TensionGoal::Total(total) => total * row.share,
            TensionGoal::Even(each) => each,
        };
        let scale = job.speaking_scale(row.string);
        let make = state.record.make;
        let found = tension::gauge_for(family, make.construction(), scale, state.frequency, wanted)
            .filter(|spec| {
                let pull = tension::tension(spec, scale, state.frequency);
                pull.ratio(wanted).ln().abs() < FURTHEST_MISS
            })
            .ok_or_else(|| {
                LimitError::new(
                    "a string for that tension",
                    format!(
                        "string {} at {} with {:.0} N",
                        row.string,
                        state.pitch,
                        wanted.newtons()
                    ),
                    "a tension and pitch that this make of string is made for",
                )
            })?;
        let record = StringEntry::of(&found, make);
        // The same gauge is the same string: what was measured of it stays.
        set.push(if record.label() == state.record.label() {
            state.record.clone()
        } else {
            record
        });
    }
    Ok(Strung {
        set,
        tuning: tuning.clone(),
    })
}

/// The tuning, all strings moved alike, at which this set pulls a wanted total.
///
/// # Errors
/// [`JobError`] when that is no note any more.
pub fn tuning_for(job: &Job, wanted: Force) -> Result<(Tuning, Cents), JobError> {
    let total = pull(job).total;
    // Pull goes with the square of the frequency: every string moves by the same interval.
    let shift = Cents::new(600.0 * wanted.ratio(total).log2());
    let concert = job.concert();
    let mut pitches = Vec::new();
    for state in job.fitted() {
        let aim = state.pitch.offset() + shift;
        let semitones = (aim.value() / 100.0).round();
        let note: Note = state.pitch.note().transposed(semitones as i16)?;
        let rest = Cents::new(((aim.value() - semitones * 100.0) * 10.0).round() / 10.0);
        pitches.push(Pitch::new(note, rest)?);
    }
    let tuning = Tuning::of("for a wanted pull", concert.a4().hertz(), &pitches);
    Ok((tuning, shift))
}

/// How far each string's own tuning would have to move for a wanted pull on every string.
pub fn retuning_each(job: &Job, wanted: Force) -> Vec<Cents> {
    (1..)
        .zip(job.fitted())
        .map(|(string, state)| {
            let scale = job.speaking_scale(string);
            cents_between(
                state.frequency,
                tension::frequency_for(&state.spec, scale, wanted),
            )
        })
        .collect()
}

/// The usual core under a gauge, for the field that replaces it.
pub fn core_hint(record: &StringEntry) -> Option<Length> {
    record
        .make
        .is_wound()
        .then(|| usual_core(record.gauge.middle()))
}

/// What is found about the strings.
pub fn findings(job: &Job) -> Vec<Finding> {
    let mut found: Vec<Finding> = pull(job)
        .rows
        .iter()
        .filter(|row| row.load == Load::High)
        .map(|row| Finding::NearBreaking {
            string: row.string,
            share: row.stress,
        })
        .collect();
    if job.old_strings() {
        found.push(Finding::OldStrings);
    }
    found
}

/// The mark of the strings.
pub fn mark(job: &Job) -> Mark {
    let fine = pull(job).rows.iter().all(|row| row.load == Load::Fine);
    if fine { Mark::Within } else { Mark::Working }
}
