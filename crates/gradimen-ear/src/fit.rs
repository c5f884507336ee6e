//! One note drawn through all its partials.
//!
//! Of each partial the phase gives two things that noise leaves independent: its mean frequency over the note, and how much that
//! bends with the energy of the string. Together they are
//!
//! `cents_k = a + b d_k + s_k G + e_k`, `bend_k = G + e'_k`
//!
//! with `a` the lowest partial's distance from the first guess with no amplitude, `b` a change of `B` and `d_k` its slope, `G` the
//! glide from the pluck on (Legge and Fletcher 1984: stretching, and so the pitch, follows the energy), and `s_k` the mean energy over
//! what was heard of partial `k`. What pulls partials one by one (body and neck, a second polarisation that cannot be told apart in
//! two seconds) is in `e_k`: so many cents for all, so many hertz for all, both unknown; they are integrated out, so that partials that
//! do not lie on one curve make the answer wide.

use std::f64::consts::{LN_2, PI};

use gradimen_core::probability::{density, share_below};
use nalgebra::{Matrix3, Vector3};

use crate::partials::Track;

/// Cents of a relative change of one.
const CENTS: f64 = 1200.0 / LN_2;

/// A note as its partials give it.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Fit {
    /// The lowest partial with no amplitude, Hz.
    pub(crate) hz: f64,
    /// One standard deviation of it, cents.
    pub(crate) width: f64,
    /// `B`.
    pub(crate) stiffness: f64,
    /// One standard deviation of it.
    pub(crate) stiffness_width: f64,
    /// How much sharper the note was at the pluck, cents.
    pub(crate) glide: f64,
    /// How far the partials lie from their curve, cents (root of the mean square, weighted by what each can say).
    pub(crate) scatter: f64,
}

/// Before anything is heard: a glide is none or some cents (a hard pluck of a slack string).
const GLIDE: f64 = 4.0;
/// The energy's own course is told from amplitudes through a pickup that does not see all partials alike: this share of the glide.
const SHAPE: f64 = 0.12;
/// A phase is never better known than this, radians: a pickup, a coil and sixteen bits.
const PHASE: f64 = 2e-3;
/// Windows that overlap share their noise.
const SHARED: f64 = 2.0;
/// What may pull partials one by one: cents, and hertz.
const PULLS: [f64; 7] = [0.003, 0.01, 0.03, 0.06, 0.12, 0.25, 0.5];
const SPLITS: [f64; 7] = [0.0003, 0.001, 0.003, 0.008, 0.02, 0.05, 0.12];
/// A beat moves the bend of a partial this much more than its mean.
const BENT: f64 = 3.0;

/// What one partial says.
struct Says {
    order: f64,
    hz: f64,
    /// Mean over the note against the reference, cents, and its variance.
    cents: f64,
    variance: f64,
    /// Mean energy that goes with it.
    energy: f64,
    /// Its bend, cents, and its variance.
    bend: f64,
    bend_variance: f64,
}

/// The energy of the string over the windows, one at the first.
pub(crate) fn energy(tracks: &[Track]) -> Vec<f64> {
    let windows = tracks.first().map_or(0, |track| track.at.len());
    // A partial's share: half way (in its logarithm) between what the pickup saw and what a plucked string has, 1 / k^2.
    let first: f64 = tracks.first().and_then(|track| track.size.first()).copied().unwrap_or(1.0);
    let mut curve: Vec<f64> = vec![0.0; windows];
    for track in tracks {
        let at_first = track.size.first().copied().unwrap_or(0.0).max(f64::MIN_POSITIVE);
        let seen = (at_first / first).powi(2);
        let share = (seen / (track.order * track.order)).sqrt() / (at_first * at_first);
        for (to, size) in curve.iter_mut().zip(&track.size) {
            *to += share * size * size;
        }
    }
    let start = curve.first().copied().unwrap_or(1.0).max(f64::MIN_POSITIVE);
    curve.iter().map(|value| value / start).collect()
}

/// The note these tracks belong to, told against a reference of lowest partial `hz` and `stiffness`, which is thought to be
/// known to `stiffness_doubt`. Nothing where they are too short.
pub(crate) fn fit(tracks: &[Track], hz: f64, stiffness: f64, prior: (f64, f64)) -> Option<Fit> {
    let curve = energy(tracks);
    let base = hz / (1.0 + stiffness).sqrt();
    let says: Vec<Says> = tracks.iter().filter_map(|track| says(track, &curve, base, stiffness)).collect();
    if says.is_empty() {
        return None;
    }
    let slope = |k: f64| 0.5 * CENTS * (k * k / (1.0 + stiffness * k * k) - 1.0 / (1.0 + stiffness));
    // In units of a ten-thousandth of B, so that the matrix is well scaled.
    let (expected, doubt) = (prior.0 - stiffness, prior.1);
    let unit = 1e-4;
    let mut parts: Vec<(f64, Vector3<f64>, Matrix3<f64>)> = Vec::with_capacity(PULLS.len() * SPLITS.len());
    for pull in PULLS {
        for split in SPLITS {
            let mut info = Matrix3::zeros();
            let mut sums = Vector3::zeros();
            let mut squares = 0.0;
            let mut logs = 0.0;
            let mut add = |row: Vector3<f64>, value: f64, variance: f64| {
                info += row * row.transpose() / variance;
                sums += row * (value / variance);
                squares += value * value / variance;
                logs += variance.ln();
            };
            for s in &says {
                let beat = CENTS * split / s.hz;
                add(Vector3::new(1.0, unit * slope(s.order), s.energy), s.cents, s.variance + pull * pull + beat * beat);
                add(Vector3::new(0.0, 0.0, 1.0), s.bend, s.bend_variance + (BENT * beat).powi(2));
            }
            add(Vector3::new(0.0, 0.0, 1.0), 0.0, GLIDE * GLIDE);
            add(Vector3::new(0.0, 1.0, 0.0), expected / unit, (doubt / unit).powi(2));
            let Some(factor) = info.cholesky() else { continue };
            let mean = factor.solve(&sums);
            let determinant: f64 = factor.l().diagonal().iter().map(|d| 2.0 * d.ln()).sum();
            // The grid is even in the logarithm; small pulls are as likely as large ones up to some tenths of a cent.
            let belief = pull.ln() - (1.0 + (pull / 0.1_f64).powi(2)).ln() + split.ln() - (1.0 + (split / 0.01_f64).powi(2)).ln();
            let weight = -0.5 * (logs + determinant + squares - mean.dot(&sums)) + 0.3 * belief;
            parts.push((weight, mean, factor.inverse()));
        }
    }
    let most = parts.iter().map(|part| part.0).fold(f64::NEG_INFINITY, f64::max);
    let (mut all, mut sum, mut square, mut b, mut b_square, mut glide) = (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
    for (weight, mean, covariance) in &parts {
        let weight = (weight - most).exp();
        let (mean, covariance) = not_below_nought(*mean, *covariance);
        all += weight;
        sum += weight * mean[0];
        square += weight * (mean[0] * mean[0] + covariance[(0, 0)]);
        b += weight * mean[1];
        b_square += weight * (mean[1] * mean[1] + covariance[(1, 1)]);
        glide += weight * mean[2];
    }
    let (cents, b, glide) = (sum / all, b / all, glide / all);
    let mean_energy = says.iter().map(|s| s.energy / s.variance).sum::<f64>() / says.iter().map(|s| 1.0 / s.variance).sum::<f64>();
    let variance = square / all - cents * cents + (SHAPE * glide * mean_energy).powi(2);
    let left = |s: &Says| (s.cents - cents - unit * slope(s.order) * b - s.energy * glide).powi(2);
    let weight = |s: &Says| 1.0 / (s.variance + 0.01);
    let scatter = (says.iter().map(|s| weight(s) * left(s)).sum::<f64>() / says.iter().map(weight).sum::<f64>()).sqrt();
    let fit = Fit {
        hz: hz * 2.0_f64.powf(cents / 1200.0),
        width: variance.max(0.0).sqrt(),
        stiffness: (stiffness + unit * b).max(0.0),
        stiffness_width: unit * (b_square / all - b * b).max(0.0).sqrt(),
        glide,
        scatter,
    };
    (fit.hz.is_finite() && fit.width.is_finite() && fit.stiffness.is_finite()).then_some(fit)
}

/// What a partial says of its mean and of its bend.
fn says(track: &Track, curve: &[f64], base: f64, stiffness: f64) -> Option<Says> {
    let n = track.at.len();
    if n < 4 {
        return None;
    }
    let mut drawn = vec![0.0; n];
    for i in 1..n {
        drawn[i] = drawn[i - 1] + 0.5 * (curve[i] + curve[i - 1]) * (track.at[i] - track.at[i - 1]);
    }
    let weight: Vec<f64> = track.doubt.iter().map(|doubt| 1.0 / (SHARED * doubt * doubt + PHASE * PHASE)).collect();
    let line = |y: &[f64]| -> (f64, f64, f64) {
        let w: f64 = weight.iter().sum();
        let mean = |v: &[f64]| v.iter().zip(&weight).map(|(v, w)| v * w).sum::<f64>() / w;
        let (t, m) = (mean(&track.at), mean(y));
        let xx: f64 = track.at.iter().zip(&weight).map(|(at, w)| w * (at - t).powi(2)).sum();
        let xy: f64 = (0..n).map(|i| weight[i] * (track.at[i] - t) * (y[i] - m)).sum();
        (m - xy / xx * t, xy / xx, 1.0 / xx)
    };
    let (start, rise, rise_variance) = line(&track.phase);
    let (bent_start, energy, _) = line(&drawn);
    let hz = track.hz + rise / (2.0 * PI);
    let reference = track.order * base * (1.0 + stiffness * track.order * track.order).sqrt();
    let radians = 2.0 * PI * reference / CENTS;
    let (mut xx, mut xy) = (0.0, 0.0);
    for i in 0..n {
        let bend = drawn[i] - bent_start - energy * track.at[i];
        let left = track.phase[i] - start - rise * track.at[i];
        xx += weight[i] * bend * bend;
        xy += weight[i] * bend * left;
    }
    let says = Says {
        order: track.order,
        hz: reference,
        cents: CENTS * (hz / reference).ln(),
        variance: rise_variance / (radians * radians),
        energy,
        bend: xy / xx / radians,
        bend_variance: 1.0 / (xx * radians * radians),
    };
    (says.cents.is_finite() && says.bend.is_finite() && says.variance.is_finite() && xx > 0.0).then_some(says)
}

/// The glide is no less than nought: the mean and the covariance of what is left of the normal law.
fn not_below_nought(mean: Vector3<f64>, covariance: Matrix3<f64>) -> (Vector3<f64>, Matrix3<f64>) {
    let spread = covariance[(2, 2)].sqrt();
    let at = mean[2] / spread;
    if !(at < 6.0) {
        return (mean, covariance);
    }
    let (shift, left) = if at < -6.0 {
        // Far out the law is as good as an exponential one.
        (-at + 1.0 / -at, 1.0 / (at * at))
    } else {
        let ratio = density(at) / share_below(at);
        (ratio, 1.0 - at * ratio - ratio * ratio)
    };
    let slope = covariance.column(2) / covariance[(2, 2)];
    let moved = mean + slope * (shift * spread);
    (moved, covariance - slope * slope.transpose() * (covariance[(2, 2)] * (1.0 - left.clamp(0.0, 1.0))))
}
