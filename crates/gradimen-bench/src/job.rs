//! The fold: a journal becomes a job. Pure and deterministic; the order entries are handed over
//! in does not matter, their sequence numbers do.

mod balance;
mod error;
mod history;
mod pickups;
mod setup;
mod view;

pub use error::JobError;

use std::collections::BTreeMap;

use gradimen_core::intonation::{Anchors, Doubts, Fingering, Heights, Speaking};
use gradimen_core::pitch::{ConcertPitch, Pitch};
use gradimen_core::quantity::{Cents, Force, Frequency, Length, Level, Turns};
use gradimen_core::string::StringSpec;
use gradimen_core::tension::{self, Load};
use history::History;
use jiff::Timestamp;

use crate::balance::{Balance, BalanceStep};
use crate::event::{
    Against, BalanceSchool, EVENT_VERSION, Entry, Event, HeightAdjuster, HeightEnd, HeightsGiven,
    Opened, Player, RodStop, Side, Stage, Strung, Targets, Tuner, Tuning,
};
use crate::geometry::{Geometry, GeometryStep};
use crate::instrument::{Instrument, InstrumentError};
use crate::methods::usual_tuner;
use crate::record::{Measured, StringRecord};

/// A string as it is now.
#[derive(Debug, Clone, PartialEq)]
pub struct StringState {
    /// As recorded.
    pub record: StringRecord,
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
    /// Its pull.
    pub fn tension(&self, scale: Length) -> Force {
        tension::tension(&self.spec, scale, self.frequency)
    }
}

/// Something that happened to a saddle, in order.
#[derive(Debug, Clone, PartialEq)]
pub enum SaddleStep {
    /// Other strings or another tuning: readings before it speak of other strings.
    Restrung {
        /// The strings before, on this saddle, that the earlier readings speak of.
        before: Vec<StringState>,
    },
    /// A saddle's place was measured from the crown of fret 12.
    Placed {
        /// Along which string.
        string: u8,
        /// The distance; half the scale less is the setback.
        from_twelfth: Length,
        /// One standard deviation of it.
        sigma: Length,
    },
    /// Way left behind was measured.
    Room {
        /// How much.
        behind: Length,
    },
    /// A fretted note was read.
    Read {
        /// Place in the journal.
        seq: u64,
        /// Which string.
        string: u8,
        /// Which fret.
        fret: u8,
        /// How sharp.
        cents: Cents,
        /// Against what.
        against: Against,
        /// Kept against a question.
        kept: bool,
    },
    /// Its screw was turned.
    Moved {
        /// Positive away from the neck.
        turns: Turns,
    },
    /// It was turned round.
    TurnedRound,
    /// The bridge under it was moved.
    BridgeMoved {
        /// Away from the neck.
        by: Length,
    },
    /// The plate it stands on turned, by this step of the balance.
    PlateTurned(usize),
    /// Neck, nut or heights were read or moved: how the strings lie from here on is the snapshot of
    /// this number.
    Lying(usize),
}

impl SaddleStep {
    /// Whether it moves the saddle or changes its strings, so that readings before it are old.
    pub const fn moves_it(&self) -> bool {
        matches!(
            self,
            Self::Moved { .. }
                | Self::Restrung { .. }
                | Self::TurnedRound
                | Self::BridgeMoved { .. }
                | Self::PlateTurned(_)
        )
    }
}

/// A saddle: what it carries and what happened to it.
#[derive(Debug, Clone, PartialEq)]
pub struct Saddle {
    /// Its strings, counted from 1.
    pub strings: Vec<u8>,
    /// What happened, in order.
    pub steps: Vec<SaddleStep>,
    /// The string that matters more, if one does.
    pub preferred: Option<u8>,
    /// Whether its screw would not turn.
    pub stuck: bool,
}

/// A buzz that was heard.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Buzz {
    /// Which string.
    pub string: u8,
    /// Held where; 0 is the open string.
    pub held: u8,
    /// How hard, as a share of the player's hardest stroke.
    pub attack: f64,
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

/// A line of the record.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Place in the journal.
    pub seq: u64,
    /// When.
    pub at: Timestamp,
    /// What happened.
    pub event: Event,
    /// Whether it counts, or was taken back.
    pub live: bool,
}

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

/// One standard deviation of a distance read with a rule to half a millimetre division.
const RULE_SIGMA: Length = Length::from_mm(0.2);
/// A measured scale this far from its name is another scale (two readings of a rule).
pub const SCALE_TOLERANCE: Length = Length::from_mm(1.0);
/// A pull that changes by less than this share bends no neck.
const PULL_UNCHANGED: f64 = 0.005;
/// How far the free length behind nut and saddle may be off, as a share of the scale.
const FREE_LENGTH_DOUBT: f64 = 0.05;
/// A technician's own light finger varies by this.
const FORCE_DOUBT: Force = Force::from_newtons(0.8);
/// Between nut and tuner, averaged over the strings (common practice); nothing behind a lock.
const BEHIND_NUT: Length = Length::from_mm(100.0);

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

    fn apply(&mut self, entry: &Entry) -> Result<(), JobError> {
        match &entry.event {
            Event::Opened(_) => return Err(JobError::OpenedTwice(entry.seq)),
            Event::Undone { .. } | Event::Redone { .. } => {}
            Event::PlayerChanged { player } => self.player = player.clone(),
            Event::HeightsGiven { heights } => {
                check_heights(heights)?;
                self.heights = heights.clone();
                self.lay(GeometryStep::Given(heights.clone()));
            }
            event @ (Event::ReliefRead { .. }
            | Event::RodTurned { .. }
            | Event::RodStopped { .. }
            | Event::NutRead { .. }
            | Event::NutMoved { .. }
            | Event::ActionRead { .. }
            | Event::HeightMoved { .. }
            | Event::HeightAtEnd { .. }
            | Event::NeckShimmed { .. }
            | Event::TargetsSet { .. }
            | Event::BuzzHeard { .. }
            | Event::BalanceRead { .. }
            | Event::ClawTurned { .. }
            | Event::SeatMoved { .. }
            | Event::SpringMeasured { .. }
            | Event::ClawEnds { .. }
            | Event::SpringsHooked { .. }
            | Event::BalanceWanted { .. }
            | Event::PickupRead { .. }
            | Event::PickupTurned { .. }
            | Event::PoleRead { .. }
            | Event::PoleTurned { .. }
            | Event::PickupAtEnd { .. }
            | Event::PickupWanted { .. }
            | Event::LevelRead { .. }) => self.apply_setup(event)?,
            Event::Strung { strung } => {
                // As the strings lay until now.
                self.lie()?;
                let before = self.strung();
                let states = self.strings.clone();
                let pull = self.total_pull();
                self.string(strung)?;
                let change = self.total_pull().ratio(pull) - 1.0;
                for saddle in &mut self.saddles {
                    let on = |&string: &u8| states[usize::from(string - 1)].clone();
                    let before = saddle.strings.iter().map(on).collect();
                    saddle.steps.push(SaddleStep::Restrung { before });
                }
                if before.set != strung.set {
                    self.old_strings = false;
                }
                if change.abs() > PULL_UNCHANGED {
                    self.lay(GeometryStep::Pull { change });
                    self.weigh(BalanceStep::Pull);
                }
                self.previous = Some(before);
            }
            Event::CoreMeasured { string, core } => {
                let index = self.index(*string)?;
                sound(core, "core diameter")?;
                self.strings[index].record.core = Some(core.clone());
            }
            Event::CutOffWeighed { string, weighing } => {
                let index = self.index(*string)?;
                sound(&weighing.length, "length of the piece")?;
                self.strings[index].record.weighed = Some(weighing.clone());
            }
            Event::StringsAged { old } => self.old_strings = *old,
            Event::TunerChosen { tuner } => {
                if !(0.01..=10.0).contains(&tuner.resolution_cents) {
                    return Err(JobError::Value {
                        what: "tuner resolution",
                        read: format!("{} cents", tuner.resolution_cents),
                        expected: "0.01 to 10 cents",
                    });
                }
                self.tuner = tuner.clone();
                self.tuner_chosen = true;
            }
            Event::ScaleMeasured {
                string,
                nut_to_twelfth,
            } => {
                let index = self.index(*string)?;
                sound(nut_to_twelfth, "nut to fret 12")?;
                self.nut_to_twelfth[index] = Some(nut_to_twelfth.clone());
            }
            Event::SaddleMeasured {
                string,
                twelfth_to_saddle,
            } => {
                self.index(*string)?;
                sound(twelfth_to_saddle, "fret 12 to saddle")?;
                let sigma = RULE_SIGMA.max(twelfth_to_saddle.half_width());
                let step = SaddleStep::Placed {
                    string: *string,
                    from_twelfth: twelfth_to_saddle.middle(),
                    sigma,
                };
                self.saddle_mut(*string)?.steps.push(step);
            }
            Event::RoomMeasured { string, behind } => {
                sound(behind, "room behind the saddle")?;
                let step = SaddleStep::Room {
                    behind: behind.middle(),
                };
                self.saddle_mut(*string)?.steps.push(step);
            }
            Event::IntonationRead {
                string,
                fret,
                cents,
                against,
                kept,
            } => {
                self.index(*string)?;
                self.check_reading(*string, *fret, *cents, *against)?;
                let step = SaddleStep::Read {
                    seq: entry.seq,
                    string: *string,
                    fret: *fret,
                    cents: Cents::new(*cents),
                    against: *against,
                    kept: *kept,
                };
                self.saddle_mut(*string)?.steps.push(step);
            }
            Event::SaddleMoved { string, turns } => {
                if !turns.is_finite() || turns.abs() > 40.0 {
                    return Err(JobError::Value {
                        what: "turns of a saddle screw",
                        read: turns.to_string(),
                        expected: "at most 40 either way",
                    });
                }
                let saddle = self.saddle_mut(*string)?;
                saddle.stuck = false;
                // No turns at all only say that the screw turns after all.
                if *turns != 0.0 {
                    let turns = Turns::new(*turns);
                    saddle.steps.push(SaddleStep::Moved { turns });
                }
            }
            Event::SaddleTurnedRound { string } => {
                if self.instrument.bridge.intonation.turn_round <= Length::ZERO {
                    return Err(JobError::Value {
                        what: "turning a saddle round",
                        read: "a bridge whose saddles cannot be turned".to_owned(),
                        expected: "a gain on the instrument's record",
                    });
                }
                self.saddle_mut(*string)?
                    .steps
                    .push(SaddleStep::TurnedRound);
            }
            Event::BridgeMoved { by } => {
                sound(by, "move of the bridge")?;
                for saddle in &mut self.saddles {
                    saddle
                        .steps
                        .push(SaddleStep::BridgeMoved { by: by.middle() });
                }
            }
            Event::ScrewStuck { string } => self.saddle_mut(*string)?.stuck = true,
            Event::Preferred { string, alone } => {
                self.saddle_mut(*string)?.preferred = alone.then_some(*string);
            }
            Event::Noted { text } => self.notes.push(text.clone()),
            Event::StageSet { stage } => self.stage = *stage,
        }
        Ok(())
    }

    fn check_reading(
        &self,
        string: u8,
        fret: u8,
        cents: f64,
        against: Against,
    ) -> Result<(), JobError> {
        if fret == 0 || fret > self.instrument.frets {
            return Err(JobError::NoSuchFret {
                read: fret,
                frets: self.instrument.frets,
            });
        }
        if cents.is_nan() || cents.abs() > 100.0 {
            return Err(JobError::Value {
                what: "fretted note",
                read: format!("{cents} cents"),
                expected: "-100 to +100 cents",
            });
        }
        let speaking = &self.strings[self.index(string)?].speaking;
        speaking.true_error(fret, Cents::new(cents), against.reference(), Length::ZERO)?;
        Ok(())
    }

    /// Checks set and tuning without putting them on.
    fn check_strung(&self, strung: &Strung) -> Result<Vec<StringState>, JobError> {
        let strings = self.instrument.strings;
        for count in [strung.set.len(), strung.tuning.notes.len()] {
            if count != usize::from(strings) {
                return Err(JobError::Count {
                    read: count,
                    strings,
                });
            }
        }
        let concert = ConcertPitch::new(Frequency::from_hertz(strung.tuning.a4_hz))?;
        let pitches = strung.tuning.pitches()?;
        (1..=strings)
            .zip(strung.set.iter().zip(pitches))
            .map(|(string, (record, pitch))| self.state_of(string, record, pitch, concert))
            .collect()
    }

    fn string(&mut self, strung: &Strung) -> Result<(), JobError> {
        let states = self.check_strung(strung)?;
        for (string, state) in (1..).zip(&states) {
            let pull = state.tension(self.instrument.scale(string));
            if tension::load(&state.spec, pull) == Load::TooMuch {
                return Err(JobError::WouldBreak {
                    string,
                    gauge: state.record.label(),
                    note: state.pitch.to_string(),
                    percent: tension::stress_share(&state.spec, pull) * 100.0,
                });
            }
        }
        self.concert = ConcertPitch::new(Frequency::from_hertz(strung.tuning.a4_hz))?;
        self.strings = states;
        self.tuning = strung.tuning.clone();
        Ok(())
    }

    fn state_of(
        &self,
        string: u8,
        record: &StringRecord,
        pitch: Pitch,
        concert: ConcertPitch,
    ) -> Result<StringState, JobError> {
        let spec = record
            .spec()
            .map_err(|error| JobError::Wire { string, error })?;
        let frequency = pitch.frequency(concert);
        let anchors = Anchors {
            behind_nut: if self.instrument.locking_nut {
                Length::ZERO
            } else {
                BEHIND_NUT
            },
            behind_saddle: self.instrument.bridge.behind_saddle.middle(),
        };
        let speaking = Speaking::new(
            &spec,
            frequency,
            self.speaking_scale(string),
            self.heights_of(string),
            Fingering::default(),
        )
        .with_anchors(anchors);
        let (first, over_twelfth) = self.geometry.heights(string);
        Ok(StringState {
            record: record.clone(),
            doubts: Doubts {
                force: FORCE_DOUBT,
                twelfth: over_twelfth.sigma,
                first_fret: first.sigma,
                free_length: FREE_LENGTH_DOUBT,
                core: spec.core_uncertainty(),
            },
            spec,
            pitch,
            frequency,
            speaking,
        })
    }

    /// Works the strings out again after something under them changed.
    fn refresh(&mut self) -> Result<(), JobError> {
        let states: Result<Vec<StringState>, JobError> = (1..)
            .zip(&self.strings)
            .map(|(string, state)| self.state_of(string, &state.record, state.pitch, self.concert))
            .collect();
        self.strings = states?;
        Ok(())
    }

    fn heights_of(&self, string: u8) -> Heights {
        let (first, twelfth) = self.geometry.heights(string);
        Heights::bounded(first.value, twelfth.value)
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

    fn total_pull(&self) -> Force {
        (1..)
            .zip(&self.strings)
            .map(|(string, state)| state.tension(self.instrument.scale(string)))
            .sum()
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

/// Heights given by hand, on both sides, have to be such that a string can lie there.
fn check_heights(given: &HeightsGiven) -> Result<(), JobError> {
    for (first, twelfth) in [
        (&given.first_fret_treble, &given.twelfth_treble),
        (&given.first_fret_bass, &given.twelfth_bass),
    ] {
        sound(first, "height of the strings")?;
        sound(twelfth, "height of the strings")?;
        Heights::new(first.middle(), twelfth.middle())?;
    }
    Ok(())
}

fn sound(measured: &Measured, what: &'static str) -> Result<(), JobError> {
    if measured.is_sound() {
        Ok(())
    } else {
        Err(JobError::Value {
            what,
            read: measured.written.clone(),
            expected: "a length",
        })
    }
}
