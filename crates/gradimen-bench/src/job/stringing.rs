//! The strings on an instrument and what they are tuned to: facts, without how they lie.

use gradimen_core::pitch::{ConcertPitch, Pitch};
use gradimen_core::quantity::{Force, Frequency, Length};
use gradimen_core::string::StringSpec;
use gradimen_core::tension::{self, Load};

use super::JobError;
use crate::model::limits;
use crate::model::{Measurement, StringEntry, Strung, Tuning, Weighing};

/// A string that is on.
#[derive(Debug, Clone, PartialEq)]
pub struct FittedString {
    /// As recorded.
    pub record: StringEntry,
    /// For the computation.
    pub spec: StringSpec,
    /// What it is tuned to.
    pub pitch: Pitch,
    /// The frequency of that.
    pub frequency: Frequency,
}

impl FittedString {
    /// Its tension on a scale.
    pub fn tension(&self, scale: Length) -> Force {
        tension::tension(&self.spec, scale, self.frequency)
    }
}

/// A set at a tuning, worked out string by string.
#[derive(Debug, Clone, PartialEq)]
pub struct Stringing {
    tuning: Tuning,
    concert: ConcertPitch,
    strings: Vec<FittedString>,
}

impl Stringing {
    /// Works a set and tuning out for an instrument with so many strings.
    ///
    /// # Errors
    /// A [`JobError`] for gauges, notes or counts that cannot be.
    pub fn new(strung: &Strung, strings: u8) -> Result<Self, JobError> {
        for count in [strung.set.len(), strung.tuning.notes.len()] {
            if count != usize::from(strings) {
                return Err(JobError::Count {
                    read: count,
                    strings,
                });
            }
        }
        limits::line("name of the tuning", &strung.tuning.name)?;
        for note in &strung.tuning.notes {
            limits::line("note", note)?;
        }
        let concert = ConcertPitch::new(Frequency::from_hertz(strung.tuning.a4_hz))?;
        let pitches = strung.tuning.pitches()?;
        let strings = (1..)
            .zip(strung.set.iter().zip(pitches))
            .map(|(string, (record, pitch))| fit(string, record, pitch, concert))
            .collect::<Result<_, _>>()?;
        Ok(Self {
            tuning: strung.tuning.clone(),
            concert,
            strings,
        })
    }

    /// Refuses strings that would break on their scales.
    ///
    /// # Errors
    /// [`JobError::WouldBreak`] for the first of them.
    pub fn holds(&self, scale: impl Fn(u8) -> Length) -> Result<(), JobError> {
        for (string, fitted) in (1..).zip(&self.strings) {
            let pull = fitted.tension(scale(string));
            if tension::load(&fitted.spec, pull) == Load::TooMuch {
                return Err(JobError::WouldBreak {
                    string,
                    gauge: fitted.record.label(),
                    note: fitted.pitch.to_string(),
                    percent: tension::stress_share(&fitted.spec, pull) * 100.0,
                });
            }
        }
        Ok(())
    }

    /// A core was measured.
    ///
    /// # Errors
    /// [`JobError::Wire`] for a core that string cannot have.
    pub fn core_measured(&mut self, string: u8, core: &Measurement) -> Result<(), JobError> {
        self.remake(string, |record| record.core = Some(core.clone()))
    }

    /// A cut-off was weighed.
    ///
    /// # Errors
    /// [`JobError::Wire`] for a weight that string cannot have.
    pub fn weighed(&mut self, string: u8, weighing: &Weighing) -> Result<(), JobError> {
        self.remake(string, |record| record.weighed = Some(weighing.clone()))
    }

    fn remake(
        &mut self,
        string: u8,
        change: impl FnOnce(&mut StringEntry),
    ) -> Result<(), JobError> {
        let Some(fitted) = self.strings.get_mut(usize::from(string.max(1) - 1)) else {
            return Ok(());
        };
        let mut record = fitted.record.clone();
        change(&mut record);
        *fitted = fit(string, &record, fitted.pitch, self.concert)?;
        Ok(())
    }

    /// What it is tuned to.
    pub const fn tuning(&self) -> &Tuning {
        &self.tuning
    }

    /// Concert pitch of that.
    pub const fn concert(&self) -> ConcertPitch {
        self.concert
    }

    /// The strings, string 1 first.
    pub fn strings(&self) -> &[FittedString] {
        &self.strings
    }

    /// Tension of all of them.
    pub fn total(&self, scale: impl Fn(u8) -> Length) -> Force {
        (1..)
            .zip(&self.strings)
            .map(|(string, fitted)| fitted.tension(scale(string)))
            .sum()
    }

    /// Set and tuning, with what was measured of the strings.
    pub fn strung(&self) -> Strung {
        Strung {
            set: self
                .strings
                .iter()
                .map(|fitted| fitted.record.clone())
                .collect(),
            tuning: self.tuning.clone(),
        }
    }
}

fn fit(
    string: u8,
    record: &StringEntry,
    pitch: Pitch,
    concert: ConcertPitch,
) -> Result<FittedString, JobError> {
    limits::length(&record.gauge, &limits::GAUGE)?;
    if let Some(core) = &record.core {
        limits::length(core, &limits::CORE)?;
    }
    if let Some(weighed) = &record.weighed {
        weighing(weighed)?;
    }
    let spec = record
        .spec()
        .map_err(|error| JobError::Wire { string, error })?;
    Ok(FittedString {
        record: record.clone(),
        spec,
        pitch,
        frequency: pitch.frequency(concert),
    })
}

/// Checks a piece of string that was weighed.
///
/// # Errors
/// [`JobError::Limit`] for what no piece is or weighs.
pub(super) fn weighing(weighed: &Weighing) -> Result<(), JobError> {
    limits::length(&weighed.length, &limits::CUT_OFF)?;
    limits::number("weight of the piece", weighed.grams, &limits::GRAMS, "g")?;
    Ok(())
}
