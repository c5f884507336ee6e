//! The strings on the instrument: checked, put on, and worked out for the way they lie.

use gradimen_core::intonation::{Anchors, Doubts, Fingering, Heights, Speaking};
use gradimen_core::pitch::{ConcertPitch, Pitch};
use gradimen_core::quantity::{Force, Frequency, Length};
use gradimen_core::tension::{self, Load};

use super::{Job, JobError, StringState};
use crate::event::Strung;
use crate::record::StringRecord;

/// How far the free length behind nut and saddle may be off, as a share of the scale.
const FREE_LENGTH_DOUBT: f64 = 0.05;
/// A technician's own light finger varies by this.
const FORCE_DOUBT: Force = Force::from_newtons(0.8);
/// Between nut and tuner, averaged over the strings (common practice); nothing behind a lock.
const BEHIND_NUT: Length = Length::from_mm(100.0);

impl Job {
    /// Checks set and tuning without putting them on.
    pub(super) fn check_strung(&self, strung: &Strung) -> Result<Vec<StringState>, JobError> {
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

    pub(super) fn string(&mut self, strung: &Strung) -> Result<(), JobError> {
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
        let speaking = Speaking::new(
            &spec,
            frequency,
            self.speaking_scale(string),
            self.heights_of(string),
            Fingering::default(),
        )
        .with_anchors(self.anchors());
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

    /// The string beyond nut and saddle that stretches with the rest.
    pub(crate) fn anchors(&self) -> Anchors {
        Anchors {
            behind_nut: if self.instrument.locking_nut {
                Length::ZERO
            } else {
                BEHIND_NUT
            },
            behind_saddle: self.instrument.bridge.behind_saddle.middle(),
        }
    }

    /// Works the strings out again after something under them changed.
    pub(super) fn refresh(&mut self) -> Result<(), JobError> {
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

    pub(super) fn total_pull(&self) -> Force {
        (1..)
            .zip(&self.strings)
            .map(|(string, state)| state.tension(self.instrument.scale(string)))
            .sum()
    }
}
