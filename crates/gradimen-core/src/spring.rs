//! Helical springs of vibratos: rate from wire and coil, from a hung weight, from a balanced state.
//!
//! - Rate of a helical spring, pulled or pressed: `k = G d^4 / (8 D^3 N)`, wire `d`, mean coil diameter
//!   `D`, active coils `N` (Shigley, Mechanical Engineering Design, chapter on springs).
//! - Pulled: `F = F0 + k (length - free length)`; `F0` is the pull at which close-wound coils part.
//! - Pressed: `F = -k (free length - length)`; it pushes its seats apart.
//!
//! ```
//! use gradimen_core::{quantity::{Length, Mass}, spring::rate_of_weight};
//!
//! // A kilogram that stretches it by 10 mm: 0.981 N/mm.
//! let rate = rate_of_weight(Mass::from_kilograms(1.0), Length::from_mm(10.0))?;
//! assert!((rate.newtons_per_metre() - 980.665).abs() < 1e-6);
//! # Ok::<(), gradimen_core::spring::SpringError>(())
//! ```

use thiserror::Error;

use crate::material::music_wire_shear;
use crate::quantity::{Force, Length, Mass, Rate};

/// Gravity that a hung mass pulls with (standard, ISO 80000-3).
const STANDARD_GRAVITY: f64 = 9.806_65;

/// Why there is no such spring.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum SpringError {
    /// A coil no wire makes.
    #[error(
        "read a wire of {wire:.2} mm on a coil of {coil:.2} mm with {turns:.1} turns, expected a coil at least twice as wide as its wire and at least one turn"
    )]
    Coil {
        /// Wire diameter in millimetres.
        wire: f64,
        /// Outside diameter in millimetres.
        coil: f64,
        /// Active coils.
        turns: f64,
    },
    /// A weight that stretches nothing.
    #[error("read {0:.2} mm of stretch under that weight, expected 0.5 to 100 mm")]
    Stretch(f64),
}

/// How a spring works.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Works {
    /// Pulled between hooks.
    Pulled,
    /// Pressed between seats.
    Pressed,
}

/// A spring.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Spring {
    /// How it works.
    pub works: Works,
    /// Force per length.
    pub rate: Rate,
    /// Its length when nothing pulls or presses.
    pub free: Length,
    /// The pull at which its coils part; a pressed spring has none.
    pub preload: Force,
}

impl Spring {
    /// Its pull at a length, negative when it pushes; nothing where it hangs or lies loose.
    pub fn pull(&self, length: Length) -> Force {
        let stretch = (length - self.free).metres();
        let more = Force::from_newtons(self.rate.newtons_per_metre() * stretch);
        match self.works {
            Works::Pulled if stretch > 0.0 => self.preload + more,
            Works::Pressed if stretch < 0.0 => more,
            Works::Pulled | Works::Pressed => Force::ZERO,
        }
    }

    /// The length at which it pulls so hard.
    pub fn length_for(&self, pull: Force) -> Length {
        let beyond = match self.works {
            Works::Pulled => (pull - self.preload).newtons().max(0.0),
            Works::Pressed => pull.newtons().min(0.0),
        };
        self.free + Length::from_metres(beyond / self.rate.newtons_per_metre())
    }
}

/// Rate of a helical spring of music wire.
///
/// # Errors
/// [`SpringError::Coil`] for a coil no wire makes.
pub fn rate_of_coil(wire: Length, outside: Length, active: f64) -> Result<Rate, SpringError> {
    let (d, mean) = (wire.metres(), (outside - wire).metres());
    if !(d > 0.0 && mean >= d && active >= 1.0) {
        return Err(SpringError::Coil {
            wire: wire.mm(),
            coil: outside.mm(),
            turns: active,
        });
    }
    let shear = music_wire_shear(wire).pascals();
    Ok(Rate::from_newtons_per_metre(
        shear * d.powi(4) / (8.0 * mean.powi(3) * active),
    ))
}

/// Rate from the stretch that one more hung mass gives.
///
/// # Errors
/// [`SpringError::Stretch`] for a stretch that cannot be read or that no such spring has.
pub fn rate_of_weight(mass: Mass, stretch: Length) -> Result<Rate, SpringError> {
    if !(0.5..=100.0).contains(&stretch.mm()) {
        return Err(SpringError::Stretch(stretch.mm()));
    }
    let pull = mass.kilograms() * STANDARD_GRAVITY;
    Ok(Rate::from_newtons_per_metre(pull / stretch.metres()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shigleys_extension_spring() {
        // Shigley, worked example of a helical spring: music wire of 0.037 in, 7/16 in outside, 10.5
        // active coils: about 4.13 lbf/in.
        let rate = rate_of_coil(
            Length::from_inches(0.037),
            Length::from_inches(7.0 / 16.0),
            10.5,
        )
        .unwrap();
        let per_inch = rate.newtons_per_metre() * 0.0254 / crate::quantity::NEWTONS_PER_POUND_FORCE;
        assert!((per_inch - 4.13).abs() < 0.06, "{per_inch}");
    }

    #[test]
    fn a_hung_weight_is_hooke_by_hand() {
        // 1 kg stretches by 10 mm: 980.665 N/m.
        let rate = rate_of_weight(Mass::from_kilograms(1.0), Length::from_mm(10.0)).unwrap();
        assert!((rate.newtons_per_metre() - 980.665).abs() < 1e-9);
        assert!(rate_of_weight(Mass::from_kilograms(1.0), Length::from_mm(0.1)).is_err());
        assert!(rate_of_coil(Length::from_mm(1.0), Length::from_mm(1.5), 10.0).is_err());
    }

    #[test]
    fn pull_and_length_answer_each_other() {
        let spring = Spring {
            works: Works::Pulled,
            rate: Rate::from_newtons_per_metre(900.0),
            free: Length::from_mm(52.0),
            preload: Force::from_newtons(12.0),
        };
        let length = spring.length_for(Force::from_newtons(60.0));
        assert!((spring.pull(length).newtons() - 60.0).abs() < 1e-9);
        assert_eq!(spring.pull(Length::from_mm(40.0)), Force::ZERO);
        let pressed = Spring {
            works: Works::Pressed,
            preload: Force::ZERO,
            ..spring
        };
        // 10 mm short of its free length it pushes with 9 N; longer than that it lies loose.
        assert!((pressed.pull(Length::from_mm(42.0)).newtons() + 9.0).abs() < 1e-9);
        assert_eq!(pressed.pull(Length::from_mm(60.0)), Force::ZERO);
        let length = pressed.length_for(Force::from_newtons(-9.0));
        assert!((length.mm() - 42.0).abs() < 1e-9);
    }
}
