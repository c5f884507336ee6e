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

use gradimen_core::probability::{density, share_below};
use nalgebra::{Matrix4, Vector4};

use crate::partials::Track;
use crate::says::{CENTS, Lean, Says, of_one_note, says};

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
/// What is tried of pulls, splits and hidden energy.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Grid {
    pulls: &'static [f64],
    splits: &'static [f64],
    hidden: &'static [(f64, f64)],
}

/// All of it, for what is told.
pub(crate) const WHOLE: Grid = Grid {
    pulls: &PULLS,
    splits: &SPLITS,
    hidden: &HIDDEN,
};
/// Some of it, to know where the partials are.
pub(crate) const ROUGH: Grid = Grid {
    pulls: &[0.000_05, 0.007, 0.15],
    splits: &[0.000_01, 0.008],
    hidden: &[(0.3, 1.0)],
};

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

/// `B` is counted in this, so that the matrix is well scaled.
const UNIT: f64 = 1e-4;

/// So much less likely than the best, in the logarithm, a choice is none.
const NOWHERE: f64 = 30.0;

/// Every choice of pulls, splits and glides for what the partials say, each with the logarithm of how likely it is.
fn likely(says: &[Says], lean: &Lean, grid: Grid, belief: f64, parts: &mut Vec<Part>) {
    let held = parts.iter().map(|part| part.0);
    let mut most = held.fold(f64::NEG_INFINITY, f64::max);
    for &pull in grid.pulls {
        for &split in grid.splits {
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
                let glides = factor.solve(&Vector4::z())[2];
                let determinant: f64 = factor.l().diagonal().iter().map(|d| 2.0 * d.ln()).sum();
                // Half of a normal law before, what is above nought of one after.
                let above = 2.0 * share_below(mean[2] / glides.sqrt());
                let misfit = logs + 2.0 * glide.ln() + determinant + squares - mean.dot(&sums);
                // The grid is even in the logarithm; small pulls are as likely as large ones up to what is common.
                let common =
                    -(1.0 + (pull / PULL).powi(2)).ln() - (1.0 + (split / SPLIT).powi(2)).ln();
                let weight = above.max(1e-30).ln() - 0.5 * misfit + common + belief;
                most = most.max(weight);
                if weight > most - NOWHERE {
                    parts.push((weight, mean, factor.inverse(), pull));
                }
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
pub(crate) fn fit(
    tracks: &[Track],
    hz: f64,
    stiffness: f64,
    thought: (f64, f64),
    grid: Grid,
) -> Option<Fit> {
    let seen = energy(tracks);
    let base = hz / (1.0 + stiffness).sqrt();
    let lean = Lean {
        stiffness,
        expected: thought.0 - stiffness,
        doubt: thought.1,
    };
    let mut parts: Vec<Part> = Vec::new();
    let mut energies = (0.0, 0.0);
    for &(hidden, belief) in grid.hidden {
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
        likely(&says, &lean, grid, belief.ln(), &mut parts);
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
