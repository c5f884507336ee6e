//! Each partial followed through the note: its amplitude and its phase, window by window.

use std::f64::consts::PI;

use crate::spectrum::window;
use crate::turning::{coarse_dot, turning};

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
const OVERLAP: usize = 2;

/// Follows the partials at `places` (order, Hz) through the span.
pub(crate) fn follow(
    samples: &[f64],
    span: Span,
    spacing: f64,
    places: &[(f64, f64)],
) -> Vec<Track> {
    let seconds = (SPACINGS / spacing).max(SHORTEST);
    let length = ((seconds * span.rate) as usize).clamp(16, (span.until - span.from).max(16));
    let shape = window(length);
    let hop = (length / OVERLAP).max(1);
    let gain = shape.iter().sum::<f64>() / 2.0;
    let energy: f64 = shape.iter().map(|weight| weight * weight).sum();
    // Noise in each of the two parts of the projection, as a share of the amplitude.
    let grain = (span.noise * energy / 2.0).sqrt() / gain;
    let count = (span
        .until
        .min(samples.len())
        .saturating_sub(span.from + length))
        / hop
        + 1;
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
    let middle = (length as f64 - 1.0) / 2.0;
    // Single precision's grain, summed over a window, is a hundred-millionth of the strongest partial.
    let single =
        |values: &[f64]| -> Vec<f32> { values.iter().map(|value| *value as f32).collect() };
    let samples = single(samples);
    for track in &mut tracks {
        let turn = 2.0 * PI * track.hz / span.rate;
        let (re, im) = shaped(&shape, turn);
        let (re, im) = (single(&re), single(&im));
        for frame in 0..count {
            let start = span.from + frame * hop;
            let Some(part) = samples.get(start..start + length) else {
                break;
            };
            let (re, im) = (
                f64::from(coarse_dot(part, &re)),
                f64::from(coarse_dot(part, &im)),
            );
            let size = re.hypot(im) / gain;
            // Told from the first sample of the window; wanted against hz from the start of the samples.
            let mut phase = im.atan2(re) - turn * start as f64 % (2.0 * PI);
            if let Some(last) = track.phase.last() {
                phase += ((last - phase) / (2.0 * PI)).round() * 2.0 * PI;
            }
            track.at.push((start as f64 + middle) / span.rate);
            track.size.push(size);
            track.phase.push(phase);
            track.doubt.push(grain / size.max(f64::MIN_POSITIVE));
        }
    }
    tracks
}

/// `w_n exp(-i turn n)` in its two parts.
pub(crate) fn shaped(shape: &[f64], turn: f64) -> (Vec<f64>, Vec<f64>) {
    let (mut re, mut im) = turning(shape.len(), (1.0, 0.0), (turn.cos(), -turn.sin()));
    for ((re, im), weight) in re.iter_mut().zip(&mut im).zip(shape) {
        *re *= weight;
        *im *= weight;
    }
    (re, im)
}

/// The sound of these partials, each dying evenly and turning as its phase did on the whole: what beats and hums is left out.
pub(crate) fn resound(
    tracks: &[Track],
    curve: &[f64],
    glide: f64,
    span: Span,
    length: usize,
) -> Vec<f64> {
    let mut out = vec![0.0; length];
    for track in tracks {
        let n = track.at.len() as f64;
        let mean = |values: &mut dyn Iterator<Item = f64>| values.sum::<f64>() / n;
        let t = mean(&mut track.at.iter().copied());
        let xx: f64 = track.at.iter().map(|at| (at - t).powi(2)).sum();
        let line = |values: &[f64]| {
            let m = mean(&mut values.iter().copied());
            let slope = track
                .at
                .iter()
                .zip(values)
                .map(|(at, v)| (at - t) * (v - m))
                .sum::<f64>()
                / xx;
            (m - slope * t, slope)
        };
        // The glide is taken out of the phase before a line is drawn through it, and put back.
        let bend = glide * std::f64::consts::LN_2 / 1200.0 * 2.0 * PI * track.hz;
        let mut drawn = vec![0.0; track.at.len()];
        for i in 1..drawn.len() {
            drawn[i] = drawn[i - 1]
                + 0.5 * bend * (curve[i] + curve[i - 1]) * (track.at[i] - track.at[i - 1]);
        }
        let straight: Vec<f64> = track
            .phase
            .iter()
            .zip(&drawn)
            .map(|(phase, drawn)| phase - drawn)
            .collect();
        let logs: Vec<f64> = track.size.iter().map(|size| size.max(1e-12).ln()).collect();
        let ((phase, turn), (log, dies)) = (line(&straight), line(&logs));
        let hop = track.at.get(1).map_or(1.0, |next| next - track.at[0]);
        // From window to window by a phasor; the bend between them is as good as even.
        let mut n = span.from;
        let mut segment = 0;
        while n < length.min(span.until) {
            let now = n as f64 / span.rate;
            while segment + 2 < track.at.len() && now >= track.at[segment + 1] {
                segment += 1;
            }
            let bent = |at: f64| {
                let share = (at - track.at[segment]) / hop;
                let (from, to) = (
                    drawn[segment],
                    drawn.get(segment + 1).copied().unwrap_or(drawn[segment]),
                );
                from + (to - from) * share
            };
            let next = (n + 256).min(length).min(span.until);
            let at = |now: f64| 2.0 * PI * track.hz * now + phase + turn * now + bent(now);
            let (begin, end) = (at(now), at(next as f64 / span.rate));
            let step = (end - begin) / (next - n) as f64;
            let fade = (dies / span.rate).exp();
            let size = (log + dies * now).exp();
            let start = (size * begin.cos(), size * begin.sin());
            let (sound, _) = turning(next - n, start, (fade * step.cos(), fade * step.sin()));
            for (to, sound) in out[n..next].iter_mut().zip(sound) {
                *to += sound;
            }
            n = next;
        }
    }
    out
}
