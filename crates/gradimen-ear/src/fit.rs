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
use nalgebra::{Matrix4, Vector4};

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
}

/// Before anything is heard: a glide is none or some cents (a hard pluck of a slack string).
const GLIDES: [f64; 4] = [0.01, 0.1, 1.0, 4.0];
/// The energy's own course is told from amplitudes through a pickup that does not see all partials alike: this share of the glide.
const SHAPE: f64 = 0.04;
/// A pickup hears little of the string that swings along it, which dies more slowly (the aftersound: Weinreich 1977): this share
/// of the energy may be hidden, so likely, and dies by this power of what is seen.
const HIDDEN: [(f64, f64); 3] = [(0.0, 0.35), (0.3, 0.4), (0.6, 0.25)];
const AFTER: f64 = 0.55;
/// A phase is never better known than this, radians: a pickup, a coil and sixteen bits.
const PHASE: f64 = 1e-4;
/// Windows that overlap share their noise.
const SHARED: f64 = 0.95;
/// What may pull partials one by one: cents, and hertz.
const PULLS: [f64; 8] = [
    0.000_002_5,
    0.000_05,
    0.0008,
    0.007,
    0.025,
    0.07,
    0.15,
    0.35,
];
const SPLITS: [f64; 7] = [0.000_000_12, 0.000_01, 0.0002, 0.002, 0.008, 0.03, 0.1];
/// As large as either often is: some hundredths of a cent, some hundredths of a hertz.
const PULL: f64 = 0.03;
const SPLIT: f64 = 0.05;
/// A body pulls what lies above all its modes alike: so much of a pull is common to them and no scatter.
const COMMON: f64 = 1.35;
/// A pull no larger than this, in cents, is as often a beat's own, which is not common.
const BEATEN: f64 = 0.03;
/// What splits the polarisations does so by much the same for every partial; this share is its own.
const OWN: f64 = 0.3;
/// A beat moves the bend of a partial this much more than its mean.
const BENT: f64 = 3.0;

/// One choice of pulls: how well it fits, and the mean and the covariance it gives.
type Part = (f64, Vector4<f64>, Matrix4<f64>, f64);

/// Partials that stand this many cents, and this many times the usual, off the curve of all are another thing's lines.
const STRANGE: f64 = 1.5;
const STRANGER: f64 = 6.0;

/// Without those that cannot belong: a line of the mains, another string, a phase that was counted a turn short. The curve through them
/// is the one of Theil and Sen (the middle of the slopes of all pairs), which a third of strangers does not move.
fn of_one_note(mut says: Vec<Says>, lean: &Lean) -> Vec<Says> {
    fn middle(mut values: Vec<f64>) -> f64 {
        values.sort_by(f64::total_cmp);
        values.get(values.len() / 2).copied().unwrap_or(0.0)
    }
    let at: Vec<(f64, f64)> = says
        .iter()
        .map(|s| (lean.slope(s.order), s.cents))
        .collect();
    let pairs = at.iter().enumerate().flat_map(|(n, from)| {
        at[n + 1..]
            .iter()
            .map(move |to| (to.1 - from.1) / (to.0 - from.0))
    });
    let slope = middle(pairs.filter(|slope| slope.is_finite()).collect());
    let centre = middle(at.iter().map(|(d, cents)| cents - slope * d).collect());
    let off = |(d, cents): (f64, f64)| (cents - slope * d - centre).abs();
    let usual = middle(at.iter().copied().map(off).collect());
    let most = STRANGE.max(STRANGER * usual);
    says.retain(|s| off((lean.slope(s.order), s.cents)) < most);
    says
}

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

/// What is thought of `B` before, and how far it bears on each partial.
struct Lean {
    stiffness: f64,
    expected: f64,
    doubt: f64,
}

/// `B` is counted in this, so that the matrix is well scaled.
const UNIT: f64 = 1e-4;

impl Lean {
    /// Cents of partial `k` against the lowest for a change of `B` of one.
    fn slope(&self, k: f64) -> f64 {
        let b = self.stiffness;
        0.5 * CENTS * (k * k / (1.0 + b * k * k) - 1.0 / (1.0 + b))
    }
}

/// Every choice of pulls, splits and glides for what the partials say, each with the logarithm of how likely it is.
fn likely(says: &[Says], lean: &Lean, belief: f64, parts: &mut Vec<Part>) {
    for pull in PULLS {
        for split in SPLITS {
            let mut info = Matrix4::zeros();
            let mut sums = Vector4::zeros();
            let (mut squares, mut logs) = (0.0, 0.0);
            let mut add = |row: Vector4<f64>, value: f64, variance: f64| {
                info += row * row.transpose() / variance;
                sums += row * (value / variance);
                squares += value * value / variance;
                logs += variance.ln();
            };
            for s in says {
                let beat = CENTS * split / s.hz;
                let row = Vector4::new(1.0, UNIT * lean.slope(s.order), s.energy, beat);
                let own = s.variance + pull * pull + (OWN * beat).powi(2);
                add(row, s.cents, own);
                let bent = s.bend_variance + (BENT * beat).powi(2);
                add(Vector4::new(0.0, 0.0, 1.0, 0.0), s.bend, bent);
            }
            let doubt = (lean.doubt / UNIT).powi(2);
            add(
                Vector4::new(0.0, 1.0, 0.0, 0.0),
                lean.expected / UNIT,
                doubt,
            );
            add(Vector4::new(0.0, 0.0, 0.0, 1.0), 0.0, 1.0);
            for glide in GLIDES {
                let mut info = info;
                info[(2, 2)] += 1.0 / (glide * glide);
                let Some(factor) = info.cholesky() else {
                    continue;
                };
                let mean = factor.solve(&sums);
                let covariance = factor.inverse();
                let determinant: f64 = factor.l().diagonal().iter().map(|d| 2.0 * d.ln()).sum();
                // Half of a normal law before, what is above nought of one after.
                let above = 2.0 * share_below(mean[2] / covariance[(2, 2)].sqrt());
                let misfit = logs + 2.0 * glide.ln() + determinant + squares - mean.dot(&sums);
                // The grid is even in the logarithm; small pulls are as likely as large ones up to what is common.
                let common =
                    -(1.0 + (pull / PULL).powi(2)).ln() - (1.0 + (split / SPLIT).powi(2)).ln();
                let weight = above.max(1e-30).ln() - 0.5 * misfit + common + belief;
                parts.push((weight, mean, covariance, pull));
            }
        }
    }
}

/// The energy of the string over the windows, one at the first.
pub(crate) fn energy(tracks: &[Track]) -> Vec<f64> {
    let windows = tracks.first().map_or(0, |track| track.at.len());
    // A partial's share: half way (in its logarithm) between what the pickup saw and what a plucked string has, 1 / k^2.
    let first: f64 = tracks
        .first()
        .and_then(|track| track.size.first())
        .copied()
        .unwrap_or(1.0);
    let mut curve: Vec<f64> = vec![0.0; windows];
    for track in tracks {
        let at_first = track
            .size
            .first()
            .copied()
            .unwrap_or(0.0)
            .max(f64::MIN_POSITIVE);
        let seen = (at_first / first).powi(2);
        let share = (seen / (track.order * track.order)).sqrt() / (at_first * at_first);
        for (to, size) in curve.iter_mut().zip(&track.size) {
            *to += share * size * size;
        }
    }
    let start = curve.first().copied().unwrap_or(1.0).max(f64::MIN_POSITIVE);
    curve.iter().map(|value| value / start).collect()
}

/// The note these tracks belong to, told against a reference of lowest partial `hz` and `stiffness`; `thought` is what `B` is thought
/// to be before, and its doubt. Nothing where they are too short.
pub(crate) fn fit(tracks: &[Track], hz: f64, stiffness: f64, thought: (f64, f64)) -> Option<Fit> {
    let seen = energy(tracks);
    let base = hz / (1.0 + stiffness).sqrt();
    let lean = Lean {
        stiffness,
        expected: thought.0 - stiffness,
        doubt: thought.1,
    };
    let mut parts: Vec<Part> = Vec::new();
    let mut energies = (0.0, 0.0);
    for (hidden, belief) in HIDDEN {
        let after = |seen: &f64| (1.0 - hidden) * seen + hidden * seen.max(0.0).powf(AFTER);
        let curve: Vec<f64> = seen.iter().map(after).collect();
        let says = |track| says(track, &curve, base, stiffness);
        let says = of_one_note(tracks.iter().filter_map(says).collect(), &lean);
        if says.is_empty() {
            return None;
        }
        for s in &says {
            energies.0 += s.energy / s.variance;
            energies.1 += 1.0 / s.variance;
        }
        likely(&says, &lean, belief.ln(), &mut parts);
    }
    together(&parts, hz, stiffness, energies.0 / energies.1)
}

/// The mean of all choices, and its width; `energy` is what was left of it over the note, on the whole.
fn together(parts: &[Part], hz: f64, stiffness: f64, energy: f64) -> Option<Fit> {
    let most = parts
        .iter()
        .map(|part| part.0)
        .fold(f64::NEG_INFINITY, f64::max);
    let (mut all, mut sum, mut square, mut b, mut b_square, mut glide) =
        (0.0, 0.0, 0.0, 0.0, 0.0, 0.0);
    let mut pulls = 0.0;
    for (weight, mean, covariance, pull) in parts {
        let weight = (weight - most).exp();
        let (mean, covariance) = not_below_nought(*mean, *covariance);
        all += weight;
        pulls += weight * pull.powi(4) / (pull * pull + BEATEN * BEATEN);
        sum += weight * mean[0];
        square += weight * (mean[0] * mean[0] + covariance[(0, 0)]);
        b += weight * mean[1];
        b_square += weight * (mean[1] * mean[1] + covariance[(1, 1)]);
        glide += weight * mean[2];
    }
    let (cents, b, glide) = (sum / all, b / all, glide / all);
    let variance = square / all - cents * cents
        + (SHAPE * glide * energy).powi(2)
        + COMMON * COMMON * pulls / all;
    let fit = Fit {
        hz: hz * 2.0_f64.powf(cents / 1200.0),
        width: variance.max(0.0).sqrt(),
        stiffness: (stiffness + UNIT * b).max(0.0),
        stiffness_width: UNIT * (b_square / all - b * b).max(0.0).sqrt(),
        glide,
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
    let weight: Vec<f64> = track
        .doubt
        .iter()
        .map(|doubt| 1.0 / (SHARED * doubt * doubt + PHASE * PHASE))
        .collect();
    let line = |y: &[f64]| -> (f64, f64, f64) {
        let w: f64 = weight.iter().sum();
        let mean = |v: &[f64]| v.iter().zip(&weight).map(|(v, w)| v * w).sum::<f64>() / w;
        let (t, m) = (mean(&track.at), mean(y));
        let xx: f64 = track
            .at
            .iter()
            .zip(&weight)
            .map(|(at, w)| w * (at - t).powi(2))
            .sum();
        let xy: f64 = (0..n)
            .map(|i| weight[i] * (track.at[i] - t) * (y[i] - m))
            .sum();
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
    // A phase that wanders more than noise lets it is known no better than it wanders.
    let wander: f64 = (0..n)
        .map(|i| {
            let bend = drawn[i] - bent_start - energy * track.at[i];
            let left = track.phase[i] - start - rise * track.at[i] - xy / xx * bend;
            weight[i] * left * left
        })
        .sum();
    let wander = (wander / (n as f64 - 3.0).max(1.0)).max(1.0);
    let says = Says {
        order: track.order,
        hz: reference,
        cents: CENTS * (hz / reference).ln(),
        variance: wander * rise_variance / (radians * radians),
        energy,
        bend: xy / xx / radians,
        bend_variance: wander / (xx * radians * radians),
    };
    (says.cents.is_finite() && says.bend.is_finite() && says.variance.is_finite() && xx > 0.0)
        .then_some(says)
}

/// The glide is no less than nought: the mean and the covariance of what is left of the normal law.
fn not_below_nought(mean: Vector4<f64>, covariance: Matrix4<f64>) -> (Vector4<f64>, Matrix4<f64>) {
    let spread = covariance[(2, 2)].sqrt();
    let at = mean[2] / spread;
    if at.is_nan() || at > 6.0 {
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
    (
        moved,
        covariance
            - slope * slope.transpose() * (covariance[(2, 2)] * (1.0 - left.clamp(0.0, 1.0))),
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_phase_that_was_counted_a_turn_short_is_no_partial_of_the_note() {
        // A thick string, guessed 40 cents off: what its partials say rises along the curve, the upper ones a turn short.
        let lean = Lean {
            stiffness: 2e-3,
            expected: 0.0,
            doubt: 1e-3,
        };
        let says = |order: f64| Says {
            order,
            hz: 60.0 * order,
            cents: -43.0 + 4.5e-4 * lean.slope(order) + if order > 14.0 { 34.0 } else { 0.0 },
            variance: 1e-4,
            energy: 0.5,
            bend: 0.0,
            bend_variance: 1e-2,
        };
        let left = of_one_note((1..=19).map(f64::from).map(says).collect(), &lean);
        let orders: Vec<f64> = left.iter().map(|s| s.order).collect();
        assert_eq!(orders, (1..=14).map(f64::from).collect::<Vec<_>>());
    }
}
