//! The stiff string: how bending stiffness raises a note.
//!
//! With `delta = sqrt(EI / T)`, a string of length `l` whose ends behave as if they lay
//! `e` nearer sounds partial `k` at
//!
//! `f_k = k / (2 l') sqrt(T / mu) sqrt(1 + B k^2)`, `l' = l - e_1 - e_2`, `B = pi^2 delta^2 / l'^2`
//!
//! (Fletcher 1964; Fletcher and Rossing, *The Physics of Musical Instruments*, section 2.18).
//! The end `e`: hinged 0, clamped `delta`, run over a support into a long tail `delta / 2`, and
//! into a tail held at a distance `a`: `1 / ((1 + coth(a / delta)) / delta - 1 / a)`. The last comes
//! from matching slope and moment at the support: outside, `w = A (x + a) + B sinh((x + a) / delta)`
//! vanishes at both ends of the tail; inside, `w = phi x + C (1 - exp(-x / delta))`. It runs from
//! clamped for a tail of nothing to `delta / 2` for a long one. (Leaving out the hyperbolic cotangent,
//! as for a tail much longer than `delta`, is 0.25 cent off on a thick bass string under a finger
//! 8 mm behind the fret.) Checked against eigenvalues of the beam-string equation in
//! `tests/references.rs`: the fundamental agrees within 0.05 cent.
//!
//! ```
//! use gradimen_core::{quantity::{BendingStiffness, Force}, vibration::bending_length};
//!
//! // delta = sqrt(EI / T).
//! let delta = bending_length(BendingStiffness::from_newton_square_metres(7e-5), Force::from_newtons(70.0));
//! assert!((delta.mm() - 1.0).abs() < 1e-9);
//! ```

use std::f64::consts::PI;

use crate::quantity::{BendingStiffness, Force, Frequency, Length, LinearDensity};

/// What holds one end of the vibrating part.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum End {
    /// Free to turn.
    Hinged,
    /// Held straight.
    Clamped,
    /// Runs over a support and is held again so much further on.
    Tail(Length),
}

impl End {
    /// How much nearer this end seems to lie.
    pub fn correction(self, delta: Length) -> Length {
        match self {
            Self::Hinged => Length::ZERO,
            Self::Clamped => delta,
            Self::Tail(tail) => {
                let (d, a) = (delta.metres(), tail.metres());
                if a < SHORTEST_TAIL * d {
                    delta
                } else {
                    Length::from_metres(1.0 / ((1.0 + 1.0 / (a / d).tanh()) / d - 1.0 / a))
                }
            }
        }
    }
}

/// Below this share of `delta` a tail clamps to within a millionth, and the formula loses its digits.
const SHORTEST_TAIL: f64 = 1e-4;

/// The length `sqrt(EI / T)` over which an end makes itself felt.
pub fn bending_length(stiffness: BendingStiffness, tension: Force) -> Length {
    Length::from_metres((stiffness.newton_square_metres() / tension.newtons()).sqrt())
}

/// A stretched stiff string between two ends.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StiffString {
    /// Distance between the supports.
    pub length: Length,
    /// Pull.
    pub tension: Force,
    /// Mass per length.
    pub unit_weight: LinearDensity,
    /// Resistance to bending.
    pub stiffness: BendingStiffness,
    /// The two ends.
    pub ends: [End; 2],
}

impl StiffString {
    /// Length and inharmonicity `B` as the partials see them.
    fn effective(&self) -> (f64, f64) {
        let delta = bending_length(self.stiffness, self.tension);
        let ends = self.ends[0].correction(delta) + self.ends[1].correction(delta);
        let length = (self.length - ends).metres();
        (length, (PI * delta.metres() / length).powi(2))
    }

    /// Frequency of partial `k`, counted from 1.
    pub fn partial(&self, k: u8) -> Frequency {
        let k = f64::from(k);
        let (length, b) = self.effective();
        let speed = (self.tension.newtons() / self.unit_weight.kilograms_per_metre()).sqrt();
        Frequency::from_hertz(k / (2.0 * length) * speed * (1.0 + b * k * k).sqrt())
    }

    /// The same string with its pull such that its fundamental is `frequency`.
    ///
    /// Fixed-point iteration on `delta(T)`: it contracts by about `delta / l`, a few thousandths,
    /// a step.
    pub fn tuned_to(self, frequency: Frequency) -> Self {
        let mut tuned = self;
        for _ in 0..TUNING_STEPS {
            let (length, b) = tuned.effective();
            let speed = 2.0 * length * frequency.hertz() / (1.0 + b).sqrt();
            tuned.tension =
                Force::from_newtons(self.unit_weight.kilograms_per_metre() * speed * speed);
        }
        tuned
    }
}

/// Enough for better than a ten-thousandth of a cent on the thickest bass string.
const TUNING_STEPS: usize = 5;

#[cfg(test)]
mod tests {
    use super::*;

    fn string() -> StiffString {
        StiffString {
            length: Length::from_mm(648.0),
            tension: Force::from_newtons(82.0),
            unit_weight: LinearDensity::from_grams_per_metre(1.15),
            stiffness: BendingStiffness::from_newton_square_metres(3.4e-4),
            ends: [End::Tail(Length::from_mm(40.0)); 2],
        }
    }

    #[test]
    fn tuning_hits_the_note() {
        let tuned = string().tuned_to(Frequency::from_hertz(196.0));
        let cents = crate::pitch::cents_between(Frequency::from_hertz(196.0), tuned.partial(1));
        assert!(cents.value().abs() < 1e-5, "{cents:?}");
    }

    #[test]
    fn ends_lie_between_hinged_and_clamped() {
        let delta = Length::from_mm(2.0);
        let long = End::Tail(Length::from_metres(1e3)).correction(delta);
        assert!((long.mm() - 1.0).abs() < 1e-5);
        assert_eq!(End::Hinged.correction(delta), Length::ZERO);
        assert_eq!(End::Clamped.correction(delta), delta);
        // A shorter tail holds harder; one of next to nothing is a clamp.
        assert!(End::Tail(Length::from_mm(5.0)).correction(delta) > long);
        assert!((End::Tail(Length::from_mm(1e-3)).correction(delta).mm() - 2.0).abs() < 1e-3);
    }

    #[test]
    fn the_octave_harmonic_is_sharp_by_one_and_a_half_b() {
        let string = string();
        let (_, b) = string.effective();
        let ratio = string.partial(2).ratio(string.partial(1)) / 2.0;
        assert!((ratio - 1.0 - 1.5 * b).abs() < 1e-6);
    }
}
