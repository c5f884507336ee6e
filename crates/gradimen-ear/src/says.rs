//! What one partial says of its note: where it stood on the whole, and how that bent while the note died.

use std::f64::consts::{LN_2, PI};

use crate::partials::Track;

/// Cents of a relative change of one.
pub(crate) const CENTS: f64 = 1200.0 / LN_2;
/// A phase is never better known than this, radians: a pickup, a coil and sixteen bits.
const PHASE: f64 = 1e-4;
/// Windows that overlap share their noise.
const SHARED: f64 = 0.95;

/// Partials that stand this many cents, and this many times the usual, off the curve of all are another thing's lines.
const STRANGE: f64 = 1.5;
const STRANGER: f64 = 6.0;

/// What one partial says.
pub(crate) struct Says {
    pub(crate) order: f64,
    pub(crate) hz: f64,
    /// Mean over the note against the reference, cents, and its variance.
    pub(crate) cents: f64,
    pub(crate) variance: f64,
    /// Mean energy that goes with it.
    pub(crate) energy: f64,
    /// Its bend, cents, and its variance.
    pub(crate) bend: f64,
    pub(crate) bend_variance: f64,
}

/// What is thought of `B` before, and how far it bears on each partial.
pub(crate) struct Lean {
    pub(crate) stiffness: f64,
    pub(crate) expected: f64,
    pub(crate) doubt: f64,
}

impl Lean {
    /// Cents of partial `k` against the lowest for a change of `B` of one.
    pub(crate) fn slope(&self, k: f64) -> f64 {
        let b = self.stiffness;
        0.5 * CENTS * (k * k / (1.0 + b * k * k) - 1.0 / (1.0 + b))
    }
}

/// Without those that cannot belong: a line of the mains, another string, a phase that was counted a turn short. The curve through them
/// is the one of Theil and Sen (the middle of the slopes of all pairs), which a third of strangers does not move.
pub(crate) fn of_one_note(mut says: Vec<Says>, lean: &Lean) -> Vec<Says> {
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

/// What a partial says of its mean and of its bend.
pub(crate) fn says(track: &Track, curve: &[f64], base: f64, stiffness: f64) -> Option<Says> {
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
