//! Gaps between strings and pickups, and what they are worth in level.
//!
//! Held down at the last fret a string runs straight to its saddle; the gap at a pickup is its height
//! there less the height of the pole or cover. A pickup turned up by a screw on each side moves its
//! two ends; what lies between follows in a line.
//!
//! The level falls off with the gap `g` as `level = a - 20 n log10((g + g0) / mm)`: the field of a pole
//! of finite size is that of a magnet `g0` deeper. Two levels of one pickup at two gaps give `n` for a
//! usual `g0` (from memory: a millimetre and a half), or `n` is taken as usual until they are read.
//!
//! ```
//! use gradimen_core::{pickup::FallOff, quantity::{Length, Level}};
//!
//! let fall = FallOff::default();
//! let (two, three) = (Length::from_mm(2.0), Length::from_mm(3.0));
//! let gain = fall.louder(two, three);
//! assert!(gain > Level::ZERO);
//! assert!((fall.gap_for(three, gain) - two).abs().mm() < 1e-9);
//! ```

use thiserror::Error;

use crate::quantity::{Length, Level};

/// Why there is no such level.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum PickupError {
    /// Two gaps that are one.
    #[error(
        "read two levels at gaps of {0:.2} and {1:.2} mm, expected gaps half a millimetre apart or more"
    )]
    SameGap(f64, f64),
    /// A pickup that would be no louder the nearer it stands.
    #[error(
        "read {0:+.1} dB nearer than at the wider gap, expected more level nearer: read both again"
    )]
    NoFallOff(f64),
}

/// How deep behind its face a pole's magnet seems to lie (from memory).
pub const POLE_DEPTH: Length = Length::from_mm(1.5);
/// Fall-off until it was fitted: between a single pole (3) and a wide coil (1).
pub const USUAL_FALL: f64 = 1.6;

/// How the level of one pickup falls off with the gap.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FallOff {
    /// The exponent `n`.
    pub power: f64,
    /// The depth `g0`.
    pub depth: Length,
}

impl Default for FallOff {
    fn default() -> Self {
        Self {
            power: USUAL_FALL,
            depth: POLE_DEPTH,
        }
    }
}

impl FallOff {
    /// From two levels of one pickup and string at two gaps.
    ///
    /// # Errors
    /// [`PickupError::SameGap`] for gaps too near one another to tell, [`PickupError::NoFallOff`]
    /// where the nearer gap was not the louder.
    pub fn fit(near: (Length, Level), far: (Length, Level)) -> Result<Self, PickupError> {
        if (near.0 - far.0).abs() < Length::from_mm(0.499) {
            return Err(PickupError::SameGap(near.0.mm(), far.0.mm()));
        }
        let ratio = (far.0 + POLE_DEPTH).ratio(near.0 + POLE_DEPTH);
        let more = (near.1 - far.1).decibels();
        let power = more / (20.0 * ratio.log10());
        if power.is_nan() || power <= 0.0 {
            return Err(PickupError::NoFallOff(more));
        }
        Ok(Self {
            power,
            depth: POLE_DEPTH,
        })
    }

    /// How much louder it is at one gap than at another.
    pub fn louder(&self, at: Length, than: Length) -> Level {
        let ratio = (than + self.depth).ratio(at + self.depth);
        Level::from_decibels(20.0 * self.power * ratio.log10())
    }

    /// The gap at which it is louder by `more` than at the gap `now`.
    pub fn gap_for(&self, now: Length, more: Level) -> Length {
        let ratio = 10f64.powf(more.decibels() / (20.0 * self.power));
        (now + self.depth) / ratio - self.depth
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use proptest::prelude::*;

    proptest! {
        #[test]
        fn a_fit_recovers_the_fall_it_was_made_with(power in 0.8..3.0f64, near in 0.8..3.0f64, apart in 0.6..3.0f64, more in -6.0..6.0f64) {
            let made = FallOff { power, depth: POLE_DEPTH };
            let (near, far) = (Length::from_mm(near), Length::from_mm(near + apart));
            let level = |gap| Level::from_decibels(-20.0) + made.louder(gap, Length::from_mm(2.0));
            let fitted = FallOff::fit((near, level(near)), (far, level(far))).unwrap();
            prop_assert!((fitted.power - power).abs() < 1e-9);
            let gap = fitted.gap_for(far, Level::from_decibels(more));
            prop_assert!((fitted.louder(gap, far).decibels() - more).abs() < 1e-9);
            prop_assert!(FallOff::fit((near, level(near)), (near, level(near))).is_err());
            // Levels told the wrong way round would order the screw the wrong way.
            prop_assert!(FallOff::fit((near, level(far)), (far, level(near))).is_err());
        }
    }
}
