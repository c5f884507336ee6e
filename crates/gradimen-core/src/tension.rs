//! Tension, stress and the inverse questions.
//!
//! Mersenne's law, `T = mu (2 L f)^2` (Mersenne 1636; Fletcher and Rossing, *The Physics of
//! Musical Instruments*, chapter 2).
//!
//! ```
//! use gradimen_core::{quantity::{Frequency, Length}, string::StringSpec, tension::tension};
//!
//! // A plain .010 at E4 on 25.5 inches pulls 72 N (16.2 lbf).
//! let string = StringSpec::plain(Length::from_inches(0.010))?;
//! let pull = tension(&string, Length::from_inches(25.5), Frequency::from_hertz(329.63));
//! assert!((pull.newtons() - 72.5).abs() < 0.5);
//! # Ok::<(), gradimen_core::string::StringError>(())
//! ```

use std::fmt;

use crate::ladder::{Family, gauges};
use crate::pitch::cents_between;
use crate::quantity::{Cents, Force, Frequency, Length};
use crate::string::{Construction, StringSpec};

/// Pull of a string of speaking length `length` at `frequency`.
pub fn tension(string: &StringSpec, length: Length, frequency: Frequency) -> Force {
    let speed = 2.0 * length.metres() * frequency.hertz();
    Force::from_newtons(string.unit_weight().kilograms_per_metre() * speed * speed)
}

/// The frequency at which a string of that length pulls so much.
pub fn frequency_for(string: &StringSpec, length: Length, pull: Force) -> Frequency {
    let speed = (pull.newtons() / string.unit_weight().kilograms_per_metre()).sqrt();
    Frequency::from_hertz(speed / (2.0 * length.metres()))
}

/// How far the tuning has to move for a wanted pull.
pub fn retuning_for(string: &StringSpec, length: Length, now: Frequency, wanted: Force) -> Cents {
    cents_between(now, frequency_for(string, length, wanted))
}

/// The gauge of the ladder whose pull at that pitch comes nearest to the wanted one.
pub fn gauge_for(
    family: Family,
    construction: Construction,
    length: Length,
    frequency: Frequency,
    wanted: Force,
) -> Option<StringSpec> {
    let miss = |string: &StringSpec| {
        (tension(string, length, frequency).newtons() / wanted.newtons())
            .ln()
            .abs()
    };
    gauges(family, construction)
        .into_iter()
        .filter(|string| load(string, tension(string, length, frequency)) != Load::TooMuch)
        .min_by(|a, b| miss(a).total_cmp(&miss(b)))
}

/// Share of the wire's strength from which a plan is warned about.
pub const WARN_SHARE: f64 = 0.75;
/// Share of the wire's strength above which a plan is refused.
pub const REFUSE_SHARE: f64 = 0.90;

/// How hard a wire is worked.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Load {
    /// Below 75 % of its strength.
    Fine,
    /// From 75 %: it may break when tuned or bent.
    High,
    /// Above 90 %: not to be strung.
    TooMuch,
}

impl fmt::Display for Load {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(match self {
            Self::Fine => "fine",
            Self::High => "near breaking",
            Self::TooMuch => "would break",
        })
    }
}

/// Stress as a share of the strength of the core wire.
pub fn stress_share(string: &StringSpec, pull: Force) -> f64 {
    string.stress(pull).ratio(string.strength())
}

/// The verdict on that share.
pub fn load(string: &StringSpec, pull: Force) -> Load {
    match stress_share(string, pull) {
        share if share > REFUSE_SHARE => Load::TooMuch,
        share if share >= WARN_SHARE => Load::High,
        _ => Load::Fine,
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::WrapMetal;

    fn plain(thou: f64) -> StringSpec {
        StringSpec::plain(Length::from_thou(thou)).unwrap()
    }

    #[test]
    fn mersenne_by_hand() {
        // mu = 0.397 77 g/m; 2 L f = 2 * 0.6477 * 329.6276 = 427.00 m/s;
        // T = 0.397 77e-3 * 427.00^2 = 72.53 N.
        let pull = tension(
            &plain(10.0),
            Length::from_inches(25.5),
            Frequency::from_hertz(329.627_6),
        );
        assert!((pull.newtons() - 72.53).abs() < 0.01, "{pull:?}");
    }

    #[test]
    fn inverse_questions_undo_the_law() {
        let (string, length, note) = (
            plain(10.0),
            Length::from_mm(648.0),
            Frequency::from_hertz(329.6),
        );
        let pull = tension(&string, length, note);
        assert!((frequency_for(&string, length, pull) - note).abs().hertz() < 1e-9);
        // Twice the pull is half an octave up.
        let up = retuning_for(&string, length, note, pull * 2.0);
        assert!((up.value() - 600.0).abs() < 1e-9);
        let found = gauge_for(Family::Guitar, Construction::Plain, length, note, pull).unwrap();
        assert_eq!(found.gauge(), string.gauge());
        let wound = Construction::RoundWound(WrapMetal::Nickel);
        assert!(gauge_for(Family::Guitar, wound, length, note, pull).is_none());
    }

    #[test]
    fn warns_before_it_breaks_and_refuses_beyond() {
        let string = plain(10.0);
        let strength = string.strength();
        let at = |share: f64| {
            Force::from_newtons(
                share * strength.pascals() * std::f64::consts::PI * string.core().metres().powi(2)
                    / 4.0,
            )
        };
        assert_eq!(load(&string, at(0.74)), Load::Fine);
        assert_eq!(load(&string, at(0.76)), Load::High);
        assert_eq!(load(&string, at(0.91)), Load::TooMuch);
        assert!((stress_share(&string, at(0.5)) - 0.5).abs() < 1e-12);
    }
}
