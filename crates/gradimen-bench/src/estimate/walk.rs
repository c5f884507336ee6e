//! One pass over the facts of a job, in their order, through the filters.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use gradimen_core::intonation::{Anchors, Doubts, Fingering, Heights, Speaking};
use gradimen_core::quantity::{Cents, Force, Length, Level};

use super::balance::{Balance, BalanceStep};
use super::geometry::Geometry;
use super::saddle::{self, Saddle, SaddleStep};
use super::{Estimate, EstimateError, HeardBuzz, LevelReading, StringState, anchors};
use crate::job::{FittedString, Job, Stringing};
use crate::journal::{Entry, Event};
use crate::model::{Adjuster, Amount, Buzz, Observation, Place, Reading, ReliefSpan};

/// One standard deviation of a distance read with a rule along a string.
const RULE_SIGMA: Length = Length::from_mm(0.2);
/// A tension that changes by less than this share bends no neck.
const TENSION_UNCHANGED: f64 = 0.005;
/// How far the free length behind nut and saddle may be off, as a share of the scale.
const FREE_LENGTH_DOUBT: f64 = 0.05;
/// A technician's own light finger varies by this.
const FORCE_DOUBT: Force = Force::from_newtons(0.8);

/// One pass over the facts.
#[derive(Clone)]
pub(super) struct Walk<'a> {
    job: &'a Job,
    /// The method that relief is wanted in.
    relief_span: ReliefSpan,
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
    pub(super) fn new(job: &'a Job) -> Result<Self, EstimateError> {
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
            relief_span: job.targets().relief_span,
            job,
            geometry,
            stringing,
        })
    }

    pub(super) fn take(&mut self, entry: &Entry) -> Result<(), EstimateError> {
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
        let converted = matches!(place, Place::Relief { span, .. } if span != self.relief_span);
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

    pub(super) fn finish(self, job: Arc<Job>) -> Result<Estimate, EstimateError> {
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

/// Readings that a later one was recorded in place of: those of its place since anything moved.
pub(super) fn replaced(facts: &[Arc<Entry>]) -> BTreeSet<u64> {
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
