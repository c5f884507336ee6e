//! What is known of an instrument from everything that was read and moved: the facts of a job, taken in their order
//! into one state with one covariance ([`state`]). [`saddle`] is that state seen along the strings, [`learned`] what
//! it tells of this instrument's own ways.
//!
//! An estimate is always of a job, and whatever is a fact of the job can be asked of it too.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/seven-string-heights.json");
//! let job = Job::fold(&Document::parse(text)?.events)?;
//! let known = Estimate::of(Arc::new(job))?;
//! let (_, action) = known.state().heights(1);
//! assert!(action.value.mm() > 0.5 && action.sigma.mm() < 0.5);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub(crate) mod balance;
pub(crate) mod board;
mod filter;
pub mod learned;
mod priors;
pub mod saddle;
pub mod season;
pub mod state;
pub(crate) mod swings;
mod walk;

use std::ops::Deref;
use std::sync::Arc;

use gradimen_core::action::{ActionError, StringLine};
use gradimen_core::intonation::{Anchors, Doubts, IntonationError, Speaking};
use gradimen_core::neck::NeckError;
use gradimen_core::pitch::Pitch;
use gradimen_core::quantity::{Cents, Force, Frequency, Length, Level};
use gradimen_core::string::StringSpec;
use gradimen_core::tension;
use thiserror::Error;

use crate::job::{Job, JobError};
use crate::journal::Entry;
use crate::model::hardware::VibratoKind;
use crate::model::instrument::InstrumentError;
use crate::model::{Buzz, Place, Reference, RodFeel, StringEntry};
use saddle::SaddleEstimate;
use state::State;
use swings::Swings;
use walk::{Walk, replaced};

/// What is confirmed against a question is taken to be so much wider.
pub(crate) const CONFIRMED_WIDENING: f64 = 4.0;
/// Between nut and tuner, averaged over the strings (common practice); nothing behind a lock.
const BEHIND_NUT: Length = Length::from_mm(100.0);

/// Why there is no estimate. The fold refuses all of it before; this is for records that got past it.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum EstimateError {
    /// The instrument's record.
    #[error(transparent)]
    Instrument(#[from] InstrumentError),
    /// A relief reading.
    #[error(transparent)]
    Neck(#[from] NeckError),
    /// A height reading.
    #[error(transparent)]
    Action(#[from] ActionError),
    /// A fretted note.
    #[error(transparent)]
    Intonation(#[from] IntonationError),
    /// The strings.
    #[error(transparent)]
    Job(#[from] JobError),
    /// A place that is none of the state.
    #[error("{0:?} is no part of the estimate")]
    NotSeen(Place),
    /// A pickup that is not there.
    #[error("pickup: read {0}, this instrument has {1}")]
    Pickup(u8, usize),
}

/// A string as it is now and as it lies.
#[derive(Debug, Clone, PartialEq)]
pub struct StringState {
    /// As recorded.
    pub record: StringEntry,
    /// For the computation.
    pub spec: StringSpec,
    /// What it is tuned to.
    pub pitch: Pitch,
    /// The frequency of that.
    pub frequency: Frequency,
    /// Fretted on this instrument at its scale.
    pub speaking: Speaking,
    /// What is doubtful about that.
    pub doubts: Doubts,
}

impl StringState {
    /// Its tension.
    pub fn tension(&self, scale: Length) -> Force {
        tension::tension(&self.spec, scale, self.frequency)
    }
}

/// A level that was read from a meter, or by ear.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelReading {
    /// Which pickup, from 0 at the neck.
    pub pickup: u8,
    /// Which string was played.
    pub string: u8,
    /// What it was.
    pub level: Level,
    /// One standard deviation of it.
    pub doubt: Level,
    /// The gap over the middle of the pickup then.
    pub gap: Option<Length>,
}

/// A buzz, and how the string lay when it was heard: what is moved since changes nothing about that.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct HeardBuzz {
    /// Where, and how hard it was played.
    pub buzz: Buzz,
    /// The string as it lay then.
    pub line: StringLine,
    /// How hard it pulled then.
    pub tension: Force,
}

/// A fretted note that was read with the strings that are on and its saddle where it is.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct NoteRead {
    /// Place in the journal.
    pub seq: u64,
    /// Which string.
    pub string: u8,
    /// Which fret.
    pub fret: u8,
    /// How sharp.
    pub cents: Cents,
    /// Against what.
    pub against: Reference,
}

/// What is known of a job's instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct Estimate {
    job: Arc<Job>,
    state: State,
    strings: Vec<StringState>,
    levels: Vec<LevelReading>,
    buzzes: Vec<HeardBuzz>,
    notes: Vec<NoteRead>,
    known: Vec<Option<SaddleEstimate>>,
    ends: Option<[Length; 2]>,
    rod_check: Option<(f64, RodFeel)>,
    gap_reads: usize,
    swings: Swings,
}

impl Deref for Estimate {
    type Target = Job;

    fn deref(&self) -> &Job {
        &self.job
    }
}

impl Estimate {
    /// Takes everything that was read and moved into the state.
    ///
    /// # Errors
    /// [`EstimateError`] for facts that this instrument cannot have; the fold refuses them before.
    pub fn of(job: Arc<Job>) -> Result<Self, EstimateError> {
        let mut walk = Walk::new(&job)?;
        let wrong = replaced(job.facts());
        for entry in job.facts() {
            if !wrong.contains(&entry.seq) {
                walk.take(entry)?;
            }
        }
        walk.finish(Arc::clone(&job))
    }

    /// Shows what was known before each of some facts, in one pass over all of them. A reading whose place a later one
    /// took counts for nothing, as in [`Self::of`]; what the job says of itself is as it is now.
    ///
    /// # Errors
    /// As [`Self::of`].
    pub fn before_each(
        job: &Arc<Job>,
        wanted: impl Fn(&Entry) -> bool,
        mut show: impl FnMut(&Entry, &Self),
    ) -> Result<(), EstimateError> {
        let mut walk = Walk::new(job)?;
        let wrong = replaced(job.facts());
        for entry in job.facts() {
            if wrong.contains(&entry.seq) {
                continue;
            }
            if wanted(entry) {
                show(entry, &walk.clone().finish(Arc::clone(job))?);
            }
            walk.take(entry)?;
        }
        Ok(())
    }

    /// The facts it was made from.
    pub fn job(&self) -> &Arc<Job> {
        &self.job
    }

    /// All that is known of the instrument.
    pub const fn state(&self) -> &State {
        &self.state
    }

    /// The strings as they lie, string 1 first.
    pub fn strings(&self) -> &[StringState] {
        &self.strings
    }

    /// One string, counted from 1.
    pub fn string_state(&self, string: u8) -> Option<&StringState> {
        self.strings.get(usize::from(string.checked_sub(1)?))
    }

    /// The levels that were read.
    pub fn levels(&self) -> &[LevelReading] {
        &self.levels
    }

    /// The buzzes that were heard.
    pub fn heard(&self) -> &[HeardBuzz] {
        &self.buzzes
    }

    /// The fretted notes that were read with the strings that are on, each since its saddle last moved.
    pub fn notes_read(&self) -> &[NoteRead] {
        &self.notes
    }

    /// From the claw to its wall, where that was read: treble, bass.
    pub const fn claw_ends(&self) -> Option<[Length; 2]> {
        self.ends
    }

    /// Turns that the rod's nut still goes when tightened, where it was tried, and how it turns.
    pub const fn rod_check(&self) -> Option<(f64, RodFeel)> {
        self.rod_check
    }

    /// How often the gap of a vibrato was read since its springs or the pull of the strings changed.
    pub const fn gap_reads(&self) -> usize {
        self.gap_reads
    }

    /// Whether its plate went from one end of its way to the other, time after time, and rested nowhere between.
    pub(crate) const fn has_no_rest(&self) -> bool {
        self.swings.too_often()
    }

    /// Whether a plate on springs stands so far up that its saddles lie where they will not: what is read of them then says nothing of
    /// where the bridge is, nor of how far they reach.
    pub fn is_pulled_up(&self) -> bool {
        let sheet = self.instrument().bridge.vibrato.as_ref();
        let springs = sheet.filter(|sheet| sheet.kind == VibratoKind::BodySprings);
        springs.is_some_and(|sheet| {
            let gap = self.state.predict(Place::Gap);
            gap.is_ok_and(|gap| gap.value > sheet.level_gap.middle() + swings::TILTED)
        })
    }

    /// What is known of the saddles, in the order of their strings; nothing where the model has no answer.
    pub fn known_saddles(&self) -> &[Option<SaddleEstimate>] {
        &self.known
    }

    /// The string beyond nut and saddle that stretches with the rest.
    pub fn anchors(&self) -> Anchors {
        anchors(&self.job)
    }

    /// The last reading of a string at a fret since it was strung and its saddle last moved.
    pub fn last_reading(&self, string: u8, fret: u8) -> Option<Cents> {
        let mut read = self.notes.iter().rev();
        let found = read.find(|note| note.string == string && note.fret == fret)?;
        Some(found.cents)
    }

    /// The same as if every place had been read just now, and read what is predicted.
    #[must_use]
    pub fn as_if_read(mut self) -> Self {
        self.state.take_as_read();
        self
    }
}

fn anchors(job: &Job) -> Anchors {
    let instrument = job.instrument();
    Anchors {
        // Clamped at the nut, or at the end of a neck without a head: nothing stretches behind it.
        behind_nut: if instrument.locking_nut || instrument.construction.headless {
            Length::ZERO
        } else {
            BEHIND_NUT
        },
        behind_saddle: instrument.bridge.behind_saddle.middle(),
    }
}
