//! One pass over the facts of a job, in their order, through the state.

use std::collections::{BTreeMap, BTreeSet};
use std::sync::Arc;

use gradimen_core::intonation::{Doubts, Fingering, Heights, IntonationError, Speaking};
use gradimen_core::neck::FretTops;
use gradimen_core::quantity::{Cents, Force, Length, Level};

use super::board;
use super::saddle::{self, Notes, Track};
use super::state::{Heard, Pulling, State};
use super::swings::Swings;
use super::{
    Estimate, EstimateError, HeardBuzz, LevelReading, NoteRead, StringState, anchors, priors,
};
use crate::job::{FittedString, Job, Stringing};
use crate::journal::{Entry, Event};
use crate::model::{
    Adjuster, Amount, Buzz, End, Fretwork, Measurement, Observation, Place, Reading, ReliefSpan,
    RodFeel,
};

/// A tension that changes by less than this share bends no neck.
const TENSION_UNCHANGED: f64 = 0.005;
/// How far the free length behind nut and saddle may be off, as a share of the scale.
const FREE_LENGTH_DOUBT: f64 = 0.05;
/// A technician's own light finger varies by this between instruments, and from note to note: force, and place.
const FORCE_DOUBT: Force = Force::from_newtons(0.8);
const FORCE_VARIES: f64 = 0.3;
const PLACE_VARIES: Length = Length::from_mm(1.0);
/// The heights a string is taken to lie at where its right place is doubted: as usual.
const USUAL_HEIGHTS: (Length, Length) = (Length::from_mm(0.5), Length::from_mm(1.8));
/// What is left of a pluck in the difference of two notes: the open string swings as far over twice the length, the
/// harmonic half as far.
const PLUCK_DIFFERENCE: f64 = 0.75;
/// No two plucks are alike: their height varies by this share.
const PLUCK_VARIES: f64 = 0.3;
/// What levelling takes off the plane of the tops, and the doubt of that, where nobody measured it (common practice: a tenth of
/// a millimetre where most goes); and what new frets may do.
const LEVELLED: (Length, Length) = (Length::from_mm(0.05), Length::from_mm(0.05));
const REFRETTED: (Length, Length) = (Length::ZERO, Length::from_mm(0.3));
/// Where most goes so much goes in the mean (from memory).
const MEAN_OF_MOST: f64 = 0.5;
/// One standard deviation of a level that was typed: a meter, read over a few strokes of one hand (from memory); none is known better than this.
const METER: Level = Level::from_decibels(0.5);
const FINEST: Level = Level::from_decibels(0.1);
/// A note that went so far with its heights is read again, in cents.
const NOTE_CARRIED: f64 = 0.5;

/// One pass over the facts.
#[derive(Clone)]
pub(super) struct Walk<'a> {
    job: &'a Job,
    /// The method that relief is wanted in.
    relief_span: ReliefSpan,
    state: State,
    stringing: Stringing,
    levels: Vec<LevelReading>,
    buzzes: Vec<HeardBuzz>,
    tracks: Vec<Track>,
    notes: Vec<Notes>,
    read: Vec<NoteRead>,
    ends: Option<[Length; 2]>,
    rod_check: Option<(f64, RodFeel)>,
    gap_reads: usize,
    swings: Swings,
}

impl<'a> Walk<'a> {
    pub(super) fn new(job: &'a Job) -> Result<Self, EstimateError> {
        let instrument = job.instrument();
        let scales: Vec<Length> = (1..=instrument.strings)
            .map(|string| job.speaking_scale(string))
            .collect();
        let stringing = job.opened_with().clone();
        let pulling = pulling(job, &stringing)?;
        let mut state = State::new(instrument, &scales, pulling, job.heights(), job.taught())?;
        let facts = job.facts();
        let worked = facts.iter().position(is_fretwork);
        let first = &facts[..worked.unwrap_or(facts.len())];
        if let Some(by) = board::uneven(job, first, worked.is_none()) {
            state.lay(tops(job, &by)?);
        }
        Ok(Self {
            tracks: vec![Track::default(); instrument.bridge.saddles.len()],
            notes: vec![Notes::default(); state.count()],
            levels: Vec::new(),
            read: Vec::new(),
            buzzes: Vec::new(),
            relief_span: job.targets().relief_span,
            ends: None,
            rod_check: None,
            gap_reads: 0,
            swings: Swings::default(),
            job,
            state,
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
            Event::Observed {
                what: Observation::Fretwork { work, fret, taken },
            } => self.frets_worked(entry.seq, *work, *fret, taken.as_ref()),
            Event::Ended {
                adjuster: Adjuster::SaddleDrive { string },
                how,
            } => {
                self.stopped(*string, *how);
                Ok(())
            }
            // No other kind is among the facts of an estimate.
            Event::Opened(_)
            | Event::Ended { .. }
            | Event::Targeted { .. }
            | Event::Observed { .. }
            | Event::Noted { .. }
            | Event::Corrected(_)
            | Event::Staged { .. }
            | Event::Undone { .. }
            | Event::Redone { .. } => Ok(()),
        }
    }

    /// A saddle that goes no further: its way ends where it stands.
    fn stopped(&mut self, string: u8, how: End) {
        let screws = &self.job.instrument().bridge.intonation;
        let before_end = match how {
            End::Bottom => Length::ZERO,
            _ => screws.furthest.middle() - screws.nearest.middle(),
        };
        self.state.drive_stopped(string, before_end);
        let bridge = &self.job.instrument().bridge;
        let saddle = bridge.saddle_of(string);
        self.read
            .retain(|note| bridge.saddle_of(note.string) != saddle);
        if let Some(track) = self.track(string) {
            track.moves += 1;
            track.room_read = true;
        }
        let strings = bridge.saddles.iter().find(|on| on.contains(&string));
        for on in strings.into_iter().flatten() {
            let index = self.state.index(*on);
            self.notes[index].fresh.clear();
        }
    }

    fn heard(&mut self, buzz: Buzz) {
        let index = usize::from(buzz.string.max(1) - 1);
        let Some(fitted) = self.stringing.strings().get(index) else {
            return;
        };
        self.buzzes.push(HeardBuzz {
            buzz,
            line: self.state.line(buzz.string),
            tension: fitted.tension(self.job.speaking_scale(buzz.string)),
        });
    }

    /// From here to the next fretwork the tops are others.
    fn frets_worked(
        &mut self,
        seq: u64,
        work: Fretwork,
        fret: Option<u8>,
        taken: Option<&Measurement>,
    ) -> Result<(), EstimateError> {
        let facts = self.job.facts();
        let later = |entry: &Arc<Entry>| entry.seq > seq && is_fretwork(entry);
        let next = facts.iter().position(later);
        let known = &facts[..next.unwrap_or(facts.len())];
        let by = board::uneven(self.job, known, next.is_none()).unwrap_or_default();
        self.state.lay(tops(self.job, &by)?);
        let touches = |held: u8| fret.is_none_or(|fret| held == fret || held + 1 == fret);
        self.buzzes.retain(|heard| !touches(heard.buzz.held));
        let (usual, doubt) = match work {
            Fretwork::Seated | Fretwork::Spot => return Ok(()),
            Fretwork::Levelled => LEVELLED,
            Fretwork::Refretted => REFRETTED,
        };
        let by = taken.map_or(usual, |taken| taken.middle() * MEAN_OF_MOST);
        self.state.frets_lowered(by, doubt);
        self.read.clear();
        for notes in &mut self.notes {
            notes.fresh.clear();
        }
        Ok(())
    }

    fn pull(&self) -> Force {
        self.stringing
            .total(|string| self.job.speaking_scale(string))
    }

    fn restrung(&mut self, stringing: Stringing) -> Result<(), EstimateError> {
        let before = self.pull();
        let old = std::mem::replace(&mut self.stringing, stringing);
        let share = self.pull().ratio(before) - 1.0;
        let changed: Vec<bool> = old
            .strings()
            .iter()
            .zip(self.stringing.strings())
            .map(|(old, new)| old.record != new.record)
            .collect();
        if share.abs() > TENSION_UNCHANGED {
            self.gap_reads = 0;
            self.swings = Swings::default();
        }
        self.state
            .restring(pulling(self.job, &self.stringing)?, &changed);
        // Readings before it speak of other strings, or of another pitch.
        self.read.clear();
        for notes in &mut self.notes {
            *notes = Notes::default();
        }
        for track in &mut self.tracks {
            track.moves = 0;
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
        let own_method = match place {
            Place::Relief { span, .. } => span == self.relief_span,
            _ => true,
        };
        if self.state.observe(place, value, confirmed, own_method)? {
            if place == Place::Gap {
                self.gap_reads += 1;
                let plate = self.job.instrument().bridge.vibrato.as_ref();
                let level = plate.map_or(Length::ZERO, |plate| plate.level_gap.middle());
                self.swings.read(value, level);
            }
            if let Place::Room { string } = place
                && let Some(track) = self.track(string)
            {
                track.room_read = true;
            }
            return Ok(());
        }
        match (place, value) {
            (Place::ClawEnds, Reading::Ends { treble, bass }) => {
                self.ends = Some([treble.middle(), bass.middle()]);
            }
            (Place::RodCheck, Reading::RodNut { turns_left, how }) => {
                self.rod_check = Some((*turns_left, *how));
            }
            (
                Place::Level { pickup, string },
                Reading::Level {
                    decibels,
                    doubt_decibels,
                },
            ) => {
                let doubt = doubt_decibels.map_or(METER, Level::from_decibels);
                self.levels.push(LevelReading {
                    pickup,
                    string,
                    level: Level::from_decibels(*decibels),
                    doubt: doubt.abs().max(FINEST),
                    gap: self.gap_over(pickup),
                });
            }
            (Place::Core { string }, Reading::Length { length }) => {
                self.stringing.core_measured(string, length)?;
                self.known_otherwise()?;
            }
            (Place::CutOff { string }, Reading::Weighed { weighing }) => {
                self.stringing.weighed(string, weighing)?;
                self.known_otherwise()?;
            }
            (Place::Saddle { string }, Reading::Length { length }) => {
                let setback = self.job.setback_at(string, length.middle());
                self.state
                    .observe_place(string, setback, length.half_width());
                if let Some(track) = self.track(string) {
                    track.placed = true;
                    track.measured = Some(setback);
                }
            }
            (
                Place::Intonation { string, fret },
                Reading::Note {
                    cents,
                    against,
                    resolution_cents,
                    by_ear,
                },
            ) => {
                self.read.push(NoteRead {
                    seq,
                    string,
                    fret,
                    cents: Cents::new(*cents),
                    against: *against,
                });
                if fret != 12 {
                    return Ok(());
                }
                let resolution = resolution_cents.unwrap_or(self.job.tuner().resolution_cents);
                let heard = Heard {
                    cents: *cents,
                    against: *against,
                    resolution,
                    by_ear: *by_ear,
                };
                let doubted = self.state.observe_note(string, &heard, confirmed)?;
                let index = self.state.index(string);
                let stood = self.note(index);
                if let Some(track) = self.track(string) {
                    track.placed = true;
                    if doubted {
                        track.questioned.push((seq, string, Cents::new(*cents)));
                    }
                }
                let notes = &mut self.notes[index];
                notes.fresh.push(Cents::new(*cents));
                notes.last = Some(Cents::new(*cents));
                notes.count += 1;
                notes.stood = stood;
            }
            _ => {}
        }
        Ok(())
    }

    /// The strings are what they were, and are known better.
    fn known_otherwise(&mut self) -> Result<(), EstimateError> {
        let known = pulling(self.job, &self.stringing)?;
        self.state.know_strings(known);
        Ok(())
    }

    /// The gap over the middle of a pickup now.
    fn gap_over(&self, pickup: u8) -> Option<Length> {
        let [treble, bass] = crate::model::Side::ALL
            .map(|side| self.state.predict(Place::Pickup { pickup, side }).ok());
        Some((treble?.value + bass?.value) * 0.5)
    }

    /// The note of a string as predicted.
    fn note(&self, index: usize) -> f64 {
        let string = u8::try_from(index + 1).unwrap_or(1);
        let (x, lie) = (self.state.mean(), self.state.lie());
        self.state.note_value(x, lie, string).unwrap_or(0.0)
    }

    fn track(&mut self, string: u8) -> Option<&mut Track> {
        let at = self.job.instrument().bridge.saddle_of(string)?;
        self.tracks.get_mut(at)
    }

    fn adjusted(&mut self, adjuster: Adjuster, amount: &Amount) -> Result<(), EstimateError> {
        let instrument = self.job.instrument();
        let pocket = instrument.neck.pocket.middle();
        self.state
            .adjust(adjuster, amount, pocket, &instrument.pickups)?;
        match (adjuster, amount) {
            (Adjuster::SaddleDrive { string }, amount) => {
                let moved = !matches!(amount, Amount::Reversed);
                let bridge = &instrument.bridge;
                let saddle = bridge.saddle_of(string);
                self.read
                    .retain(|note| bridge.saddle_of(note.string) != saddle);
                if let Some(track) = self.track(string) {
                    track.moves += usize::from(moved);
                }
            }
            (Adjuster::Claw, Amount::Turns { turns } | Amount::Apart { turns, .. }) => {
                let apart = match amount {
                    Amount::Apart { apart, .. } => *apart,
                    _ => 0.0,
                };
                let record = instrument.bridge.vibrato.as_ref();
                if let (Some(ends), Some(record)) = (&mut self.ends, record) {
                    let pitch = record.claw_pitch.middle();
                    ends[0] -= pitch * (turns - apart);
                    ends[1] -= pitch * (turns + apart);
                }
                self.gap_reads = 0;
            }
            (Adjuster::Bar, _) => {
                self.read.clear();
                self.tracks.iter_mut().for_each(|track| track.moves += 1);
            }
            (Adjuster::Bridge, _) => self.read.clear(),
            (Adjuster::Seat, _) => self.gap_reads = 0,
            (Adjuster::Springs, _) => {
                self.gap_reads = 0;
                self.swings = Swings::default();
            }
            (Adjuster::TrussRod, Amount::Turns { turns }) => {
                // What was felt before it was turned says nothing of it now.
                self.rod_check = self.rod_check.filter(|_| *turns == 0.0);
            }
            _ => {}
        }
        self.refresh_notes();
        Ok(())
    }

    /// A note that went elsewhere with what was moved is read again.
    fn refresh_notes(&mut self) {
        for index in 0..self.notes.len() {
            if self.notes[index].fresh.is_empty() {
                continue;
            }
            let now = self.note(index);
            let notes = &mut self.notes[index];
            if (now - notes.stood).abs() > NOTE_CARRIED {
                notes.fresh.clear();
            }
        }
    }

    pub(super) fn finish(self, job: Arc<Job>) -> Result<Estimate, EstimateError> {
        let strings = states(&self.state, &self.stringing);
        let known = self
            .tracks
            .iter()
            .enumerate()
            .map(|(index, track)| {
                saddle::conclude(&job, &self.state, index, track, &self.notes).ok()
            })
            .collect();
        Ok(Estimate {
            state: self.state,
            levels: self.levels,
            buzzes: self.buzzes,
            notes: self.read,
            strings,
            known,
            ends: self.ends,
            rod_check: self.rod_check,
            gap_reads: self.gap_reads,
            swings: self.swings,
            job,
        })
    }
}

fn is_fretwork(entry: &Arc<Entry>) -> bool {
    matches!(
        entry.event,
        Event::Observed {
            what: Observation::Fretwork { .. }
        }
    )
}

/// The tops under every string, deviating by so much each.
fn tops(job: &Job, by: &[Vec<Length>]) -> Result<Vec<FretTops>, EstimateError> {
    let instrument = job.instrument();
    let under = |string: u8| {
        let even = instrument.fret_tops(string, job.speaking_scale(string))?;
        let deviate = by.get(usize::from(string - 1));
        Ok(deviate.map_or(even.clone(), |by| even.uneven(by)))
    };
    (1..=instrument.strings).map(under).collect()
}

/// The strings as the state needs them.
fn pulling(job: &Job, stringing: &Stringing) -> Result<Vec<Pulling>, EstimateError> {
    let anchors = anchors(job);
    (1..)
        .zip(stringing.strings())
        .map(|(string, fitted)| {
            let scale = job.speaking_scale(string);
            let speaking = Speaking::new(
                &fitted.spec,
                fitted.frequency,
                scale,
                Heights::bounded(USUAL_HEIGHTS.0, USUAL_HEIGHTS.1),
                Fingering::default(),
            )
            .with_anchors(anchors)
            .with_nut_offset(job.instrument().nut_offset(string));
            let place = speaking.predicted_setback(&doubts(fitted, Length::ZERO, Length::ZERO))?;
            let tension = fitted.tension(scale);
            let swing = priors::pluck(job.instrument().kind).ratio(scale) * std::f64::consts::TAU;
            // A string that swings by `a` on a length `l` is stretched by EA (pi a / 2 l)^2 at its furthest, which makes
            // a Duffing oscillator of it: sharp by 3/32 (pi a / l)^2 EA / T (Kirchhoff 1876; any textbook on vibrations).
            let stretch = fitted.spec.stretch_stiffness().ratio(tension);
            let relative = 3.0 / 32.0 * swing * swing * stretch * PLUCK_DIFFERENCE;
            let pluck = 1200.0 * relative.ln_1p() / std::f64::consts::LN_2;
            Ok(Pulling {
                tension: tension.newtons(),
                doubt: place.sigma.mm().hypot(priors::BIAS),
                finger: finger_scatter(&speaking, place.value)?.hypot(2.0 * pluck * PLUCK_VARIES),
                pluck,
                speaking,
            })
        })
        .collect()
}

/// How much a note scatters because no finger comes down twice alike, in cents.
fn finger_scatter(speaking: &Speaking, place: Length) -> Result<f64, IntonationError> {
    let usual = speaking.fingering();
    let here = speaking.error(12, place)?;
    let other = |fingering| -> Result<f64, IntonationError> {
        Ok((speaking.with_fingering(fingering).error(12, place)? - here).value())
    };
    let harder = other(Fingering {
        force: usual.force + Force::from_newtons(FORCE_VARIES),
        ..usual
    })?;
    let further = other(Fingering {
        behind: usual.behind + PLACE_VARIES,
        ..usual
    })?;
    Ok(harder.hypot(further))
}

fn doubts(fitted: &FittedString, first_fret: Length, twelfth: Length) -> Doubts {
    Doubts {
        force: FORCE_DOUBT,
        twelfth,
        first_fret,
        free_length: FREE_LENGTH_DOUBT,
        core: fitted.spec.core_uncertainty(),
    }
}

/// The strings as they lie in an estimate.
fn states(state: &State, stringing: &Stringing) -> Vec<StringState> {
    (1..)
        .zip(stringing.strings())
        .map(|(string, fitted)| {
            let (first, twelfth) = state.heights(string);
            let index = state.index(string);
            StringState {
                record: fitted.record.clone(),
                doubts: doubts(fitted, first.sigma, twelfth.sigma),
                spec: fitted.spec,
                pitch: fitted.pitch,
                frequency: fitted.frequency,
                speaking: state.speaking_in(index, state.mean(), state.lie()),
            }
        })
        .collect()
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
            Event::Observed {
                what: Observation::Fretwork { .. },
            } => standing.clear(),
            Event::Ended { .. }
            | Event::Targeted { .. }
            | Event::Observed { .. }
            | Event::Noted { .. }
            | Event::Corrected(_)
            | Event::Staged { .. }
            | Event::Undone { .. }
            | Event::Redone { .. } => {}
        }
    }
    wrong
}
