//! What is known of an instrument from everything that was read and moved: the facts of a job, run through the
//! filters in their order.
//!
//! - [`geometry`]: neck, nut, heights and pickups. [`balance`]: the vibrato. [`saddle`]: every saddle.
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
//! let (_, action) = known.geometry().heights(1);
//! assert!(action.value.mm() > 0.5 && action.sigma.mm() < 0.5);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod balance;
pub mod geometry;
mod kalman;
pub mod saddle;

use std::collections::{BTreeMap, BTreeSet};
use std::ops::Deref;
use std::sync::Arc;

use gradimen_core::action::{ActionError, StringLine};
use gradimen_core::intonation::{Anchors, Doubts, Fingering, Heights, IntonationError, Speaking};
use gradimen_core::neck::NeckError;
use gradimen_core::pitch::Pitch;
use gradimen_core::quantity::{Cents, Force, Frequency, Length, Level};
use gradimen_core::string::StringSpec;
use gradimen_core::tension;
use thiserror::Error;

use crate::job::{FittedString, Job, JobError, Stringing};
use crate::journal::{Entry, Event};
use crate::model::instrument::InstrumentError;
use crate::model::{Adjuster, Amount, Buzz, Observation, Place, Reading, StringEntry};
use balance::{Balance, BalanceStep};
use geometry::Geometry;
use saddle::{Saddle, SaddleEstimate, SaddleStep};

/// What is confirmed against a question is taken to be so much wider, in every filter.
pub(crate) const CONFIRMED_WIDENING: f64 = 4.0;
/// One standard deviation of a distance read with a rule along a string.
const RULE_SIGMA: Length = Length::from_mm(0.2);
/// A tension that changes by less than this share bends no neck.
const TENSION_UNCHANGED: f64 = 0.005;
/// How far the free length behind nut and saddle may be off, as a share of the scale.
const FREE_LENGTH_DOUBT: f64 = 0.05;
/// A technician's own light finger varies by this.
const FORCE_DOUBT: Force = Force::from_newtons(0.8);
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

/// A level that was read from a meter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelReading {
    /// Which pickup, from 0 at the neck.
    pub pickup: u8,
    /// Which string was played.
    pub string: u8,
    /// What the meter showed.
    pub level: Level,
    /// The snapshot of the geometry it was read at.
    pub at: usize,
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

/// What is known of a job's instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct Estimate {
    job: Arc<Job>,
    geometry: Geometry,
    balance: Option<Balance>,
    strings: Vec<StringState>,
    levels: Vec<LevelReading>,
    buzzes: Vec<HeardBuzz>,
    saddles: Vec<Saddle>,
    known: Vec<Option<SaddleEstimate>>,
}

impl Deref for Estimate {
    type Target = Job;

    fn deref(&self) -> &Job {
        &self.job
    }
}

impl Estimate {
    /// Runs everything that was read and moved through the filters.
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

    /// The facts it was made from.
    pub fn job(&self) -> &Arc<Job> {
        &self.job
    }

    /// What is known of neck, nut and heights.
    pub const fn geometry(&self) -> &Geometry {
        &self.geometry
    }

    /// What is known of its vibrato, where it has one.
    pub const fn balance(&self) -> Option<&Balance> {
        self.balance.as_ref()
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

    /// What happened to the saddles, in the order of their strings.
    pub fn saddles(&self) -> &[Saddle] {
        &self.saddles
    }

    /// What is known of the saddles, in the same order; nothing where the model has no answer.
    pub fn known_saddles(&self) -> &[Option<SaddleEstimate>] {
        &self.known
    }

    /// The string beyond nut and saddle that stretches with the rest.
    pub fn anchors(&self) -> Anchors {
        anchors(&self.job)
    }

    /// The last reading of a string at a fret since it was strung and its saddle last moved.
    pub fn last_reading(&self, string: u8, fret: u8) -> Option<Cents> {
        let mut saddles = self.saddles.iter();
        let saddle = saddles.find(|saddle| saddle.strings.contains(&string))?;
        saddle
            .steps
            .iter()
            .rev()
            .take_while(|step| !step.moves_it())
            .find_map(|step| match step {
                SaddleStep::Read {
                    string: on,
                    fret: at,
                    cents,
                    ..
                } if *on == string && *at == fret => Some(*cents),
                _ => None,
            })
    }

    /// The same as if every place of neck, nut, heights and vibrato had been read just now, and read what is
    /// predicted.
    #[must_use]
    pub fn as_if_read(mut self) -> Self {
        self.geometry.take_as_read();
        if let Some(balance) = &mut self.balance {
            balance.take_as_read();
        }
        self
    }
}

/// Readings that a later one was recorded in place of: those of its place since anything moved.
fn replaced(facts: &[Arc<Entry>]) -> BTreeSet<u64> {
    let mut wrong = BTreeSet::new();
    let mut standing: BTreeMap<Place, Vec<u64>> = BTreeMap::new();
    for entry in facts {
        match &entry.event {
            Event::Read {
                place, replaces, ..
            } => {
                let here = standing.entry(place.any_method()).or_default();
                if *replaces {
                    wrong.extend(here.drain(..));
                }
                here.push(entry.seq);
            }
            // What moves anything makes every reading before it one of another state.
            Event::Opened(_) | Event::Restrung { .. } | Event::Adjusted { .. } => standing.clear(),
            Event::Ended { .. }
            | Event::Targeted { .. }
            | Event::Observed { .. }
            | Event::Noted { .. }
            | Event::Staged { .. }
            | Event::Undone { .. }
            | Event::Redone { .. } => {}
        }
    }
    wrong
}

fn anchors(job: &Job) -> Anchors {
    let instrument = job.instrument();
    Anchors {
        behind_nut: if instrument.locking_nut {
            Length::ZERO
        } else {
            BEHIND_NUT
        },
        behind_saddle: instrument.bridge.behind_saddle.middle(),
    }
}

/// One pass over the facts.
struct Walk<'a> {
    job: &'a Job,
    geometry: Geometry,
    balance: Option<Balance>,
    stringing: Stringing,
    levels: Vec<LevelReading>,
    buzzes: Vec<HeardBuzz>,
    saddles: Vec<Saddle>,
    /// How break points went with each step of the balance that turned the plate: back.
    plate: Vec<Length>,
}

impl<'a> Walk<'a> {
    fn new(job: &'a Job) -> Result<Self, EstimateError> {
        let instrument = job.instrument();
        let scales: Vec<Length> = (1..=instrument.strings)
            .map(|string| job.speaking_scale(string))
            .collect();
        let mut geometry = Geometry::new(instrument, &scales)?;
        geometry.as_it_came(job.heights());
        let stringing = job.opened_with().clone();
        let pull = stringing.total(|string| job.speaking_scale(string));
        let record = instrument.bridge.vibrato.as_ref();
        Ok(Self {
            balance: record.map(|record| Balance::new(record, job.balance_school(), pull)),
            saddles: instrument
                .bridge
                .saddles
                .iter()
                .map(|strings| Saddle {
                    strings: strings.clone(),
                    steps: Vec::new(),
                })
                .collect(),
            levels: Vec::new(),
            buzzes: Vec::new(),
            plate: Vec::new(),
            job,
            geometry,
            stringing,
        })
    }

    fn take(&mut self, entry: &Entry) -> Result<(), EstimateError> {
        match &entry.event {
            Event::Restrung { strung } => {
                let stringing = Stringing::new(strung, self.job.instrument().strings)?;
                self.restrung(stringing)
            }
            Event::Read {
                place,
                value,
                confirmed,
                ..
            } => self.read(entry.seq, *place, value, *confirmed),
            Event::Adjusted { adjuster, amount } => self.adjusted(*adjuster, amount),
            Event::Observed {
                what: Observation::Buzz { buzz },
            } => {
                self.heard(*buzz);
                Ok(())
            }
            // No other kind is among the facts of an estimate.
            Event::Opened(_)
            | Event::Ended { .. }
            | Event::Targeted { .. }
            | Event::Observed { .. }
            | Event::Noted { .. }
            | Event::Staged { .. }
            | Event::Undone { .. }
            | Event::Redone { .. } => Ok(()),
        }
    }

    fn heard(&mut self, buzz: Buzz) {
        let states = states(self.job, &self.geometry, &self.stringing);
        let Some(state) = states.get(usize::from(buzz.string.max(1) - 1)) else {
            return;
        };
        self.buzzes.push(HeardBuzz {
            buzz,
            line: self.geometry.line(buzz.string),
            tension: state.tension(self.job.speaking_scale(buzz.string)),
        });
    }

    fn pull(&self) -> Force {
        self.stringing
            .total(|string| self.job.speaking_scale(string))
    }

    fn restrung(&mut self, stringing: Stringing) -> Result<(), EstimateError> {
        let states = states(self.job, &self.geometry, &self.stringing);
        let before = self.pull();
        self.stringing = stringing;
        let change = self.pull().ratio(before) - 1.0;
        for saddle in &mut self.saddles {
            let on = |&string: &u8| states[usize::from(string - 1)].clone();
            let before = saddle.strings.iter().map(on).collect();
            saddle.steps.push(SaddleStep::Restrung { before });
        }
        if change.abs() > TENSION_UNCHANGED {
            self.geometry.tension_changed(change);
            self.lies_otherwise();
            self.balance_step(&BalanceStep::Pull);
        }
        Ok(())
    }

    fn read(
        &mut self,
        seq: u64,
        place: Place,
        value: &Reading,
        confirmed: bool,
    ) -> Result<(), EstimateError> {
        let target = self.job.targets().relief_span;
        let converted = matches!(place, Place::Relief { span, .. } if span != target);
        if self.geometry.read(place, value, confirmed, converted)? {
            self.lies_otherwise();
            return Ok(());
        }
        match (place, value) {
            (Place::Gap, Reading::Length { length }) => {
                self.balance_step(&BalanceStep::Read(length.clone(), confirmed));
            }
            (Place::Gap, Reading::Flat) => self.balance_step(&BalanceStep::Flat),
            (Place::Spring, Reading::Length { length }) => {
                self.balance_step(&BalanceStep::Spring(length.clone()));
            }
            (Place::ClawEnds, Reading::Ends { treble, bass }) => {
                self.balance_step(&BalanceStep::Ends([treble.clone(), bass.clone()]));
            }
            (Place::Level { pickup, string }, Reading::Level { decibels }) => {
                self.levels.push(LevelReading {
                    pickup,
                    string,
                    level: Level::from_decibels(*decibels),
                    at: self.geometry.snapshots().len() - 1,
                });
            }
            (Place::Core { string }, Reading::Length { length }) => {
                self.stringing.core_measured(string, length)?;
            }
            (Place::CutOff { string }, Reading::Weighed { weighing }) => {
                self.stringing.weighed(string, weighing)?;
            }
            (Place::Saddle { string }, Reading::Length { length }) => {
                self.saddle_step(
                    string,
                    SaddleStep::Placed {
                        string,
                        from_twelfth: length.middle(),
                        sigma: RULE_SIGMA.max(length.half_width()),
                    },
                );
            }
            (Place::Room { string }, Reading::Length { length }) => {
                let behind = length.middle();
                self.saddle_step(string, SaddleStep::Room { behind });
            }
            (
                Place::Intonation { string, fret },
                Reading::Note {
                    cents,
                    against,
                    resolution_cents,
                },
            ) => self.saddle_step(
                string,
                SaddleStep::Read {
                    seq,
                    string,
                    fret,
                    cents: Cents::new(*cents),
                    against: *against,
                    resolution: Cents::new(
                        resolution_cents.unwrap_or(self.job.tuner().resolution_cents),
                    ),
                    confirmed,
                },
            ),
            _ => {}
        }
        Ok(())
    }

    fn adjusted(&mut self, adjuster: Adjuster, amount: &Amount) -> Result<(), EstimateError> {
        let instrument = self.job.instrument();
        let pocket = instrument.neck.pocket.middle();
        if self
            .geometry
            .adjusted(adjuster, amount, pocket, &instrument.pickups)?
        {
            self.lies_otherwise();
            return Ok(());
        }
        match (adjuster, amount) {
            (Adjuster::Claw, Amount::Turns { turns }) => {
                self.balance_step(&BalanceStep::Claw(*turns, 0.0));
            }
            (Adjuster::Claw, Amount::Apart { turns, apart }) => {
                self.balance_step(&BalanceStep::Claw(*turns, *apart));
            }
            (Adjuster::Seat, Amount::Distance { distance }) => {
                self.balance_step(&BalanceStep::Seat(distance.middle()));
            }
            (Adjuster::Springs, Amount::Springs { count, converging }) => {
                self.balance_step(&BalanceStep::Springs {
                    count: *count,
                    converging: *converging,
                });
            }
            (Adjuster::SaddleDrive { string }, Amount::Turns { turns }) => {
                let turns = gradimen_core::quantity::Turns::new(*turns);
                self.saddle_step(string, SaddleStep::Moved { turns });
            }
            (Adjuster::SaddleDrive { string }, Amount::Distance { distance }) => {
                let by = distance.middle();
                self.saddle_step(string, SaddleStep::Slid { by });
            }
            (Adjuster::SaddleDrive { string }, Amount::Reversed) => {
                self.saddle_step(string, SaddleStep::TurnedRound);
            }
            (Adjuster::Bridge, Amount::Distance { distance }) => {
                let by = distance.middle();
                for saddle in &mut self.saddles {
                    saddle.steps.push(SaddleStep::BridgeMoved { by });
                }
            }
            _ => {}
        }
        Ok(())
    }

    fn saddle_step(&mut self, string: u8, step: SaddleStep) {
        let at = self.job.instrument().bridge.saddle_of(string);
        if let Some(saddle) = at.and_then(|at| self.saddles.get_mut(at)) {
            saddle.steps.push(step);
        }
    }

    /// Neck, nut or heights were read or moved: the pitch of every fretted note hangs on them.
    fn lies_otherwise(&mut self) {
        let snapshot = self.geometry.snapshots().len() - 1;
        for saddle in &mut self.saddles {
            saddle.steps.push(SaddleStep::Lying(snapshot));
        }
    }

    /// Takes a step of the balance in. What turns the plate moves every break point.
    fn balance_step(&mut self, step: &BalanceStep) {
        let pull = self.pull();
        let Some(balance) = &mut self.balance else {
            return;
        };
        let (back, up) = balance.step(step, pull);
        let turns = matches!(
            step,
            BalanceStep::Claw(..) | BalanceStep::Springs { .. } | BalanceStep::Pull
        );
        if !turns {
            return;
        }
        self.geometry.plate_turned(up);
        self.lies_otherwise();
        let index = self.plate.len();
        self.plate.push(back);
        for saddle in &mut self.saddles {
            saddle.steps.push(SaddleStep::PlateTurned(index));
        }
    }

    fn finish(self, job: Arc<Job>) -> Result<Estimate, EstimateError> {
        let strings = states(&job, &self.geometry, &self.stringing);
        let known = self
            .saddles
            .iter()
            .map(|saddle| {
                let ground = saddle::Ground {
                    job: &job,
                    geometry: &self.geometry,
                    strings: &strings,
                    plate: &self.plate,
                };
                saddle::estimate(&ground, saddle).ok()
            })
            .collect();
        Ok(Estimate {
            geometry: self.geometry,
            balance: self.balance,
            levels: self.levels,
            buzzes: self.buzzes,
            saddles: self.saddles,
            strings,
            known,
            job,
        })
    }
}

/// The strings as they lie in an estimate.
fn states(job: &Job, geometry: &Geometry, stringing: &Stringing) -> Vec<StringState> {
    let anchors = anchors(job);
    (1..)
        .zip(stringing.strings())
        .map(|(string, fitted)| state(job, geometry, anchors, string, fitted))
        .collect()
}

fn state(
    job: &Job,
    geometry: &Geometry,
    anchors: Anchors,
    string: u8,
    fitted: &FittedString,
) -> StringState {
    let (first, twelfth) = geometry.heights(string);
    let speaking = Speaking::new(
        &fitted.spec,
        fitted.frequency,
        job.speaking_scale(string),
        Heights::bounded(first.value, twelfth.value),
        Fingering::default(),
    )
    .with_anchors(anchors);
    StringState {
        record: fitted.record.clone(),
        doubts: Doubts {
            force: FORCE_DOUBT,
            twelfth: twelfth.sigma,
            first_fret: first.sigma,
            free_length: FREE_LENGTH_DOUBT,
            core: fitted.spec.core_uncertainty(),
        },
        spec: fitted.spec,
        pitch: fitted.pitch,
        frequency: fitted.frequency,
        speaking,
    }
}
