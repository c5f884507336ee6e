//! The fold: a journal becomes a job. Pure and deterministic; the order entries are handed over
//! in does not matter, their sequence numbers do.

mod apply;
mod balance;
mod error;
mod history;
mod pickups;
mod setup;
mod state;
mod strung;
mod view;

pub use error::JobError;
pub use state::{Buzz, LevelReading, Line, Saddle, SaddleStep, StringState};

use std::collections::BTreeMap;

use apply::{check_heights, sound};
use gradimen_core::pitch::ConcertPitch;
use gradimen_core::quantity::{Force, Length, Turns};
use history::History;

use crate::balance::{Balance, BalanceStep};
use crate::event::{
    BalanceSchool, EVENT_VERSION, Entry, Event, HeightAdjuster, HeightEnd, HeightsGiven, Opened,
    Player, RodStop, Side, Stage, Strung, Targets, Tuner, Tuning,
};
use crate::geometry::{Geometry, GeometryStep};
use crate::instrument::{Instrument, InstrumentError};
use crate::methods::usual_tuner;
use crate::record::Measured;

/// A job: one visit of one instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct Job {
    instrument: Instrument,
    instrument_version: u32,
    purpose: String,
    player: Player,
    tuning: Tuning,
    concert: ConcertPitch,
    previous: Option<Strung>,
    strings: Vec<StringState>,
    heights: HeightsGiven,
    geometry: Geometry,
    geometry_steps: Vec<GeometryStep>,
    targets: Option<Targets>,
    rod_stop: Option<RodStop>,
    height_ends: Vec<(HeightAdjuster, HeightEnd)>,
    buzzes: Vec<Buzz>,
    levels: Vec<LevelReading>,
    pickup_ends: Vec<((u8, Side), HeightEnd)>,
    pickup_turns: BTreeMap<(u8, Side), Turns>,
    pickups_wanted: BTreeMap<u8, [Measured; 2]>,
    balance: Option<Balance>,
    balance_school: Option<BalanceSchool>,
    balance_steps: Vec<(BalanceStep, Force)>,
    opening_pull: Force,
    old_strings: bool,
    tuner: Tuner,
    tuner_chosen: bool,
    nut_to_twelfth: Vec<Option<Measured>>,
    saddles: Vec<Saddle>,
    notes: Vec<String>,
    stage: Stage,
    lines: Vec<Line>,
    undo: Option<u64>,
    redo: Option<u64>,
}

/// A measured scale this far from its name is another scale (two readings of a rule).
pub const SCALE_TOLERANCE: Length = Length::from_mm(1.0);
impl Job {
    /// Folds a journal.
    ///
    /// # Errors
    /// A [`JobError`] that names the entry or value that cannot be.
    pub fn fold(entries: &[Entry]) -> Result<Self, JobError> {
        let mut ordered: Vec<&Entry> = entries.iter().collect();
        ordered.sort_by_key(|entry| entry.seq);
        for (expected, entry) in (1..).zip(&ordered) {
            if entry.seq != expected {
                return Err(JobError::Sequence {
                    expected,
                    found: entry.seq,
                });
            }
            if entry.version == 0 || entry.version > EVENT_VERSION {
                return Err(JobError::Version {
                    seq: entry.seq,
                    version: entry.version,
                });
            }
        }
        let history = History::of(&ordered)?;
        let Some((first, rest)) = ordered.split_first() else {
            return Err(JobError::NotOpened);
        };
        let Event::Opened(opened) = &first.event else {
            return Err(JobError::NotOpened);
        };
        let mut job = Self::open(opened)?;
        for entry in rest {
            if history.live.contains(&entry.seq) {
                job.apply(entry)?;
            }
        }
        job.lie()?;
        job.lines = ordered
            .iter()
            .map(|entry| Line {
                seq: entry.seq,
                at: entry.at,
                event: entry.event.clone(),
                live: history.live.contains(&entry.seq)
                    || matches!(
                        entry.event,
                        Event::Opened(_) | Event::Undone { .. } | Event::Redone { .. }
                    ),
            })
            .collect();
        job.undo = history.done.last().copied();
        job.redo = history.undone.last().copied();
        Ok(job)
    }

    fn open(opened: &Opened) -> Result<Self, JobError> {
        let instrument = opened.instrument.clone();
        instrument.check()?;
        let strings = usize::from(instrument.strings);
        check_heights(&opened.heights)?;
        let scales: Vec<Length> = (1..=instrument.strings)
            .map(|string| instrument.scale(string))
            .collect();
        let mut job = Self {
            instrument_version: opened.instrument_version,
            purpose: opened.purpose.clone(),
            player: opened.player.clone(),
            tuning: opened.strung.tuning.clone(),
            concert: ConcertPitch::default(),
            previous: opened.arrived.clone(),
            strings: Vec::new(),
            heights: opened.heights.clone(),
            geometry: Geometry::new(&instrument, &scales)?,
            geometry_steps: vec![GeometryStep::Given(opened.heights.clone())],
            targets: None,
            rod_stop: None,
            height_ends: Vec::new(),
            buzzes: Vec::new(),
            levels: Vec::new(),
            pickup_ends: Vec::new(),
            pickup_turns: BTreeMap::new(),
            pickups_wanted: BTreeMap::new(),
            balance: None,
            balance_school: None,
            balance_steps: Vec::new(),
            opening_pull: Force::ZERO,
            old_strings: opened.old_strings,
            tuner: usual_tuner(),
            tuner_chosen: false,
            nut_to_twelfth: vec![None; strings],
            saddles: instrument
                .bridge
                .saddles
                .iter()
                .map(|strings| Saddle {
                    strings: strings.clone(),
                    steps: Vec::new(),
                    preferred: None,
                    stuck: false,
                })
                .collect(),
            notes: Vec::new(),
            stage: Stage::Waiting,
            lines: Vec::new(),
            undo: None,
            redo: None,
            instrument,
        };
        if let Some(arrived) = &opened.arrived {
            job.check_strung(arrived)?;
        }
        job.string(&opened.strung)?;
        job.opening_pull = job.total_pull();
        Ok(job)
    }

    /// Whether an event could be the next entry.
    ///
    /// # Errors
    /// The [`JobError`] that folding it would give.
    pub fn accepts(&self, event: &Event) -> Result<(), JobError> {
        match event {
            Event::Opened(_) => Err(JobError::OpenedTwice(self.seq() + 1)),
            Event::Undone { target } if self.undo == Some(*target) => Ok(()),
            Event::Redone { target } if self.redo == Some(*target) => Ok(()),
            Event::Undone { target } | Event::Redone { target } => {
                Err(JobError::UndoTarget(*target))
            }
            _ => self.with(event.clone()).map(|_| ()),
        }
    }

    /// Where the strings lie after all that was read and moved, and the strings as they lie there.
    fn lie(&mut self) -> Result<(), JobError> {
        let scales: Vec<Length> = (1..=self.instrument.strings)
            .map(|string| self.speaking_scale(string))
            .collect();
        self.balance_all();
        let mut geometry = Geometry::new(&self.instrument, &scales)?;
        for step in &self.geometry_steps {
            match step {
                // What the plate did is known only now, from all that was told of it.
                GeometryStep::Plate(index) => {
                    let up = self.plate_moved(*index).1;
                    geometry.step(&GeometryStep::PlateTurned { up })?;
                }
                other => geometry.step(other)?,
            }
        }
        self.geometry = geometry;
        self.refresh()
    }

    /// Takes note of a step of neck, nut or heights, also for the saddles, whose pitch hangs on it.
    fn lay(&mut self, step: GeometryStep) {
        let snapshot = self.geometry_steps.len();
        self.geometry_steps.push(step);
        for saddle in &mut self.saddles {
            saddle.steps.push(SaddleStep::Lying(snapshot));
        }
    }

    /// Takes note of a step of the balance. What turns the plate moves every crown.
    fn weigh(&mut self, step: BalanceStep) {
        if self.instrument.bridge.vibrato.is_none() {
            return;
        }
        let turns = matches!(
            step,
            BalanceStep::Claw(..) | BalanceStep::Springs { .. } | BalanceStep::Pull
        );
        let index = self.balance_steps.len();
        self.balance_steps.push((step, self.total_pull()));
        if turns {
            self.lay(GeometryStep::Plate(index));
            for saddle in &mut self.saddles {
                saddle.steps.push(SaddleStep::PlateTurned(index));
            }
        }
    }

    fn balance_all(&mut self) {
        let school = self.balance_school();
        self.balance = self.instrument.bridge.vibrato.as_ref().map(|record| {
            let mut balance = Balance::new(record, school, self.opening_pull);
            for (step, pull) in &self.balance_steps {
                balance.step(step, *pull);
            }
            balance
        });
    }

    /// How the crowns went with a step of the balance: back, and up.
    pub(crate) fn plate_moved(&self, index: usize) -> (Length, Length) {
        self.balance
            .as_ref()
            .map_or((Length::ZERO, Length::ZERO), |balance| balance.moved(index))
    }

    fn index(&self, string: u8) -> Result<usize, JobError> {
        if (1..=self.instrument.strings).contains(&string) {
            Ok(usize::from(string - 1))
        } else {
            Err(JobError::NoSuchString {
                read: string,
                strings: self.instrument.strings,
            })
        }
    }

    fn saddle_mut(&mut self, string: u8) -> Result<&mut Saddle, JobError> {
        self.index(string)?;
        let at = self.instrument.bridge.saddle_of(string);
        at.and_then(|at| self.saddles.get_mut(at))
            .ok_or(JobError::Instrument(InstrumentError::Saddles(string)))
    }
}
