//! The fold: a journal becomes a job. Pure and deterministic, and facts only: what was read, moved, wanted and
//! seen, with nothing computed from it. What follows from the facts is [`crate::estimate`]'s.
//!
//! ```
//! use gradimen_bench::job::Job;
//! use gradimen_bench::journal::Document;
//!
//! let text = include_str!("../../../../docs/formats/examples/twisted-neck.json");
//! let job = Job::fold(&Document::parse(text)?.events)?;
//! assert_eq!(job.instrument().strings, 6);
//! assert!(job.seq() > 1);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod apply;
mod check;
mod corrected;
mod error;
mod stringing;
mod view;

pub use error::JobError;
pub use stringing::{FittedString, Stringing};

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use gradimen_core::neck::FretTops;
use gradimen_core::quantity::{Length, Turns};

use self::corrected::Records;
use crate::journal::{Corrected, Entry, Event, History, Opened};
use crate::model::defaults::usual_tuner;
use crate::model::instrument::{Instrument, PutRight};
use crate::model::limits;
use crate::model::{
    Adjuster, Air, BalanceSchool, Buzz, CheckLine, Complaint, Condition, End, Heard, HeightsGiven,
    LastTime, Measurement, Note, Player, Practice, Practised, Round, Stage, Strung, Targets,
    Taught, Tuner,
};

/// A measured scale this far from its name is another scale (two readings of a rule).
pub const SCALE_TOLERANCE: Length = Length::from_mm(1.75);

/// What is wanted.
#[derive(Debug, Clone, PartialEq, Default)]
struct Wants {
    targets: Option<Targets>,
    school: Option<BalanceSchool>,
    pickups: BTreeMap<u8, [Measurement; 2]>,
    /// The string that matters more, by the place of its saddle.
    alone: BTreeMap<usize, u8>,
}

/// How far the adjusters have gone, and which would not go on.
#[derive(Debug, Clone, PartialEq, Default)]
struct Travel {
    ended: BTreeMap<Adjuster, End>,
    turned: BTreeMap<Adjuster, Turns>,
}

/// What was told and looked at beside the readings.
#[derive(Debug, Clone, PartialEq, Default)]
struct Told {
    complaint: Complaint,
    checked: BTreeMap<(Round, CheckLine), Condition>,
    heard: BTreeMap<Note, Heard>,
    played_through: bool,
    /// How far the strings that are on fell at each stretch.
    stretches: Vec<f64>,
    frets: FretsTold,
    /// How damp the room was, day by day.
    air: Vec<Air>,
}

/// What a press, a look and a caliper told of the frets, since they were last worked on.
#[derive(Debug, Clone, PartialEq, Default)]
struct FretsTold {
    pressed: BTreeMap<Note, bool>,
    worn: BTreeMap<Note, Measurement>,
    crown: Option<Measurement>,
    /// Marks of the play test that were made before frets were worked on there: to be played again, and no evidence.
    heard_before: BTreeSet<Note>,
}

/// How the job stands in the shop.
#[derive(Debug, Clone, PartialEq)]
struct Shop {
    stage: Stage,
    notes: Vec<String>,
    tuner: Tuner,
    tuner_chosen: bool,
    restrung: usize,
}

/// A job: one visit of one instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct Job {
    instrument: Instrument,
    instrument_version: u32,
    purpose: String,
    player: Player,
    opened_with: Stringing,
    stringing: Stringing,
    previous: Option<Strung>,
    old_strings: bool,
    taught: Vec<Taught>,
    last_time: Option<LastTime>,
    practice: Option<Practice>,
    practised: Vec<(u64, Practised)>,
    put_right: Vec<PutRight>,
    heights: HeightsGiven,
    nut_to_twelfth: Vec<Option<Measurement>>,
    buzzes: Vec<Buzz>,
    told: Told,
    wants: Wants,
    travel: Travel,
    shop: Shop,
    /// Fret tops under every string, to tell which readings there can be.
    tops: Vec<FretTops>,
    /// What the estimate is made from, in order: readings, moves and new strings that count.
    facts: Vec<Arc<Entry>>,
    entries: Vec<Arc<Entry>>,
    history: History,
}

impl Job {
    /// Folds a journal; the order in which its entries are handed over does not matter, their sequence
    /// numbers do.
    ///
    /// # Errors
    /// A [`JobError`] that names the entry or value that cannot be.
    pub fn fold(entries: &[Entry]) -> Result<Self, JobError> {
        if entries.len() > limits::ENTRIES {
            return Err(crate::journal::HistoryError::TooMany(entries.len()).into());
        }
        let mut ordered: Vec<Arc<Entry>> = entries.iter().cloned().map(Arc::new).collect();
        ordered.sort_by_key(|entry| entry.seq);
        Self::fold_ordered(ordered)
    }

    fn fold_ordered(entries: Vec<Arc<Entry>>) -> Result<Self, JobError> {
        let mut history = History::default();
        for entry in &entries {
            history.push(entry)?;
        }
        let (first, rest) = entries.split_first().ok_or(JobError::NotOpened)?;
        let Event::Opened(opened) = &first.event else {
            return Err(JobError::NotOpened);
        };
        let corrected = rest.iter().rev().find_map(|entry| match &entry.event {
            Event::Corrected(corrected) if history.counts(entry) => Some(&**corrected),
            _ => None,
        });
        let mut job = Self::open(opened, corrected)?;
        // What an old default of ours had wrong is put right on opening; nobody turned anything by it.
        let mut as_opened = opened.instrument.clone();
        as_opened.put_right();
        let mut records = Records::new(&as_opened, corrected);
        for entry in rest {
            if let Event::Opened(_) = entry.event {
                return Err(JobError::OpenedTwice(entry.seq));
            }
            if history.counts(entry) {
                if let Event::Corrected(corrected) = &entry.event {
                    records.pass(corrected);
                }
                job.apply(&records.meant(entry))?;
            }
        }
        corrected::keeps_its_pickups(&as_opened, corrected, &job.facts)?;
        job.entries = entries;
        job.history = history;
        Ok(job)
    }

    /// The job as it is with more entries behind its last one. What was there is not folded again, but for
    /// taking back and for another record.
    ///
    /// # Errors
    /// The [`JobError`] that folding the whole journal would give.
    pub fn extended(&self, more: Vec<Entry>) -> Result<Self, JobError> {
        let from_the_start = |entry: &Entry| {
            matches!(
                entry.event,
                Event::Undone { .. } | Event::Redone { .. } | Event::Corrected(_)
            )
        };
        if more.iter().any(from_the_start) {
            let mut all = self.entries.clone();
            all.extend(more.into_iter().map(Arc::new));
            return Self::fold_ordered(all);
        }
        let mut job = self.clone();
        for entry in more {
            job.history.push(&entry)?;
            if let Event::Opened(_) = entry.event {
                return Err(JobError::OpenedTwice(entry.seq));
            }
            let entry = Arc::new(entry);
            job.apply(&entry)?;
            job.entries.push(entry);
        }
        Ok(job)
    }

    /// The job as it would be after more events, for looking at; nothing is written.
    ///
    /// # Errors
    /// The [`JobError`] that the events would be refused with.
    pub fn with(&self, events: Vec<Event>) -> Result<Self, JobError> {
        self.extended(Entry::group(
            self.seq() + 1,
            jiff::Timestamp::UNIX_EPOCH,
            events,
        ))
    }

    fn open(opened: &Opened, corrected: Option<&Corrected>) -> Result<Self, JobError> {
        let (instrument, instrument_version) = corrected.map_or(
            (&opened.instrument, opened.instrument_version),
            |corrected| (&corrected.instrument, corrected.instrument_version),
        );
        let mut instrument = instrument.clone();
        let put_right = instrument.put_right();
        instrument.validate()?;
        limits::text("reason for the visit", &opened.purpose)?;
        check::player(&opened.player)?;
        check::heights(&opened.heights)?;
        check::taught(&opened.taught)?;
        if let Some(last) = &opened.last_time {
            last.check()?;
        }
        if let Some(practice) = &opened.practice {
            practice.check()?;
        }
        let strings = instrument.strings;
        if let Some(arrived) = &opened.arrived {
            Stringing::new(arrived, strings)?;
        }
        let stringing = Stringing::new(&opened.strung, strings)?;
        stringing.holds(|string| instrument.scale(string))?;
        let tops = (1..=strings)
            .map(|string| instrument.fret_tops(string, instrument.scale(string)))
            .collect::<Result<_, _>>()?;
        Ok(Self {
            instrument_version,
            purpose: opened.purpose.clone(),
            player: opened.player.clone(),
            opened_with: stringing.clone(),
            stringing,
            previous: opened.arrived.clone(),
            old_strings: opened.old_strings,
            taught: opened.taught.clone(),
            last_time: opened.last_time.clone(),
            practice: opened.practice.clone(),
            practised: Vec::new(),
            put_right,
            heights: opened.heights.clone(),
            nut_to_twelfth: vec![None; usize::from(strings)],
            buzzes: Vec::new(),
            told: Told::default(),
            wants: Wants::default(),
            travel: Travel::default(),
            shop: Shop {
                stage: Stage::Waiting,
                notes: Vec::new(),
                tuner: usual_tuner(),
                tuner_chosen: false,
                restrung: 0,
            },
            tops,
            facts: Vec::new(),
            entries: Vec::new(),
            history: History::default(),
            instrument,
        })
    }
}
