//! Each partial followed through the note: its amplitude and its phase, window by window.

use std::f64::consts::PI;

use crate::spectrum::window;

/// A partial as it was followed.
#[derive(Debug, Clone)]
pub(crate) struct Track {
    /// Its number.
    pub(crate) order: f64,
    /// The frequency its phase is told against, Hz.
    pub(crate) hz: f64,
    /// Middles of the windows, seconds from the start of the samples.
    pub(crate) at: Vec<f64>,
    /// Amplitude in each.
    pub(crate) size: Vec<f64>,
    /// Phase in each against `hz`, radians, unwrapped.
    pub(crate) phase: Vec<f64>,
    /// Standard deviation of each phase that the noise alone would give, radians.
    pub(crate) doubt: Vec<f64>,
}

/// Where and how a note is looked at.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Span {
    /// Samples a second.
    pub(crate) rate: f64,
    /// First sample that counts: after the pluck.
    pub(crate) from: usize,
    /// One past the last.
    pub(crate) until: usize,
    /// Variance of the noise, a sample.
    pub(crate) noise: f64,
}

/// Windows a spacing of partials long and a little more, so that a neighbour stands outside the main lobe; but no shorter than this.
const SHORTEST: f64 = 0.03;
const SPACINGS: f64 = 4.7;

/// How many windows fall on one another.
const OVERLAP: usize = 4;

/// Follows the partials at `places` (order, Hz) through the span.
pub(crate) fn follow(samples: &[f64], span: Span, spacing: f64, places: &[(f64, f64)]) -> Vec<Track> {
    let seconds = (SPACINGS / spacing).max(SHORTEST);
    let length = ((seconds * span.rate) as usize).clamp(16, (span.until - span.from).max(16));
    let shape = window(length);
    let hop = (length / OVERLAP).max(1);
    let gain = shape.iter().sum::<f64>() / 2.0;
    let energy: f64 = shape.iter().map(|weight| weight * weight).sum();
    // Noise in each of the two parts of the projection, as a share of the amplitude.
    let grain = (span.noise * energy / 2.0).sqrt() / gain;
    let count = (span.until.min(samples.len()).saturating_sub(span.from + length)) / hop + 1;
    let mut weighted = vec![0.0; length];
    let mut tracks: Vec<Track> = places
        .iter()
        .map(|&(order, hz)| Track {
            order,
            hz,
            at: Vec::with_capacity(count),
            size: Vec::with_capacity(count),
            phase: Vec::with_capacity(count),
            doubt: Vec::with_capacity(count),
        })
        .collect();
    for frame in 0..count {
        let start = span.from + frame * hop;
        let Some(part) = samples.get(start..start + length) else { break };
        for ((to, sample), weight) in weighted.iter_mut().zip(part).zip(&shape) {
            *to = sample * weight;
        }
        let middle = (start as f64 + (length as f64 - 1.0) / 2.0) / span.rate;
        for track in &mut tracks {
            let (re, im) = project(&weighted, 2.0 * PI * track.hz / span.rate);
            let size = re.hypot(im) / gain;
            // The projection's phase is told from the first sample of the window; wanted is the phase in its middle against hz.
            let start_phase = 2.0 * PI * track.hz * (start as f64 / span.rate) % (2.0 * PI);
            let mut phase = im.atan2(re) - start_phase;
            if let Some(last) = track.phase.last() {
                phase += ((last - phase) / (2.0 * PI)).round() * 2.0 * PI;
            }
            track.at.push(middle);
            track.size.push(size);
            track.phase.push(phase);
            track.doubt.push(grain / size.max(f64::MIN_POSITIVE));
        }
    }
    tracks
}

/// The sum of `x_n exp(-i w n)`, by four phasors side by side: exact to rounding over a window's length.
fn project(x: &[f64], w: f64) -> (f64, f64) {
    let step = |n: f64| ((w * n).cos(), -(w * n).sin());
    let mut phasors = [step(0.0), step(1.0), step(2.0), step(3.0)];
    let (turn_re, turn_im) = step(4.0);
    let mut sums = [(0.0, 0.0); 4];
    let chunks = x.chunks_exact(4);
    let rest = chunks.remainder();
    let whole = x.len() - rest.len();
    for chunk in chunks {
        for lane in 0..4 {
            let (re, im) = phasors[lane];
            sums[lane].0 += chunk[lane] * re;
            sums[lane].1 += chunk[lane] * im;
            phasors[lane] = (re * turn_re - im * turn_im, re * turn_im + im * turn_re);
        }
    }
    let mut sum = sums.iter().fold((0.0, 0.0), |sum, lane| (sum.0 + lane.0, sum.1 + lane.1));
    for (n, sample) in rest.iter().enumerate() {
        let (re, im) = step((whole + n) as f64);
        sum.0 += sample * re;
        sum.1 += sample * im;
    }
    sum
}
