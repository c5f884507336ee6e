//! A piece of sound, and a file of it.

use std::io::Read;

use hound::{SampleFormat, WavReader};
use thiserror::Error;

/// One channel of sound.
#[derive(Debug, Clone, PartialEq)]
pub struct Sound {
    /// Samples a second.
    pub rate: f64,
    /// Full scale is one.
    pub samples: Vec<f64>,
}

/// Why a file gives no sound.
#[derive(Debug, Error)]
pub enum SoundError {
    /// It is none, or cut off.
    #[error(
        "this is no WAV file that can be read ({0}): save the recording as WAV, 16 or 24 bits, 44100 or 48000 samples a second"
    )]
    Unreadable(String),
    /// A rate at which a string cannot be measured.
    #[error("read {0} samples a second, expected 16000 to 192000: record at 44100 or 48000")]
    Rate(u32),
    /// Longer than anybody plays in one go.
    #[error("read {0} seconds of sound, expected at most 600: cut the recording into pieces")]
    TooLong(u64),
}

/// Ten minutes: every string of a bench in one go, and a small machine's memory.
const LONGEST: u64 = 600;

impl Sound {
    /// A WAV file; of several channels the mean.
    ///
    /// # Errors
    /// [`SoundError`] with what was read and what was expected.
    pub fn from_wav(file: impl Read) -> Result<Self, SoundError> {
        let unreadable = |error: hound::Error| SoundError::Unreadable(error.to_string());
        let mut reader = WavReader::new(file).map_err(unreadable)?;
        let spec = reader.spec();
        if !(16_000..=192_000).contains(&spec.sample_rate) {
            return Err(SoundError::Rate(spec.sample_rate));
        }
        let seconds = u64::from(reader.duration() / spec.sample_rate);
        if seconds > LONGEST {
            return Err(SoundError::TooLong(seconds));
        }
        let flat: Vec<f64> = match spec.sample_format {
            SampleFormat::Float => {
                let samples = reader.samples::<f32>();
                let finite = |sample: f32| {
                    if sample.is_finite() {
                        f64::from(sample)
                    } else {
                        0.0
                    }
                };
                samples
                    .map(|sample| sample.map(finite))
                    .collect::<Result<_, _>>()
            }
            SampleFormat::Int => {
                let full = 2.0_f64.powi(i32::from(spec.bits_per_sample) - 1);
                let samples = reader.samples::<i32>();
                samples
                    .map(|sample| sample.map(|sample| f64::from(sample) / full))
                    .collect()
            }
        }
        .map_err(unreadable)?;
        let channels = usize::from(spec.channels.max(1));
        let mean = |frame: &[f64]| frame.iter().sum::<f64>() / channels as f64;
        Ok(Self {
            rate: f64::from(spec.sample_rate),
            samples: flat.chunks(channels).map(mean).collect(),
        })
    }
}
