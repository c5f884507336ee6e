//! A sound as a file.

use std::io::Cursor;

use gradimen_sim::RATE;
use hound::{SampleFormat, WavSpec, WavWriter};

/// Samples at the rate of the simulated pickups, as a WAV file of 16 bits.
///
/// # Errors
/// Where the file would be too long to be one.
pub fn wav(samples: &[f32]) -> Result<Vec<u8>, hound::Error> {
    let spec = WavSpec {
        channels: 1,
        sample_rate: RATE,
        bits_per_sample: 16,
        sample_format: SampleFormat::Int,
    };
    let mut file = Cursor::new(Vec::with_capacity(samples.len() * 2 + 64));
    let mut writer = WavWriter::new(&mut file, spec)?;
    for sample in samples {
        let full = f32::from(i16::MAX);
        writer.write_sample((sample.clamp(-1.0, 1.0) * full) as i16)?;
    }
    writer.finalize()?;
    Ok(file.into_inner())
}
