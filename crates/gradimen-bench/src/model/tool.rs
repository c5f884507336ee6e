//! What a length is read with, and what such a reading is good to.
//!
//! The width of a reading comes from the tool in hand, never from how the number was written: `6`,
//! `6 thou` and `.006` by a feeler are the same reading. One standard deviation each, from what the trade
//! says of its tools (common practice): a feeler to half a thousandth by light touch, or anywhere between
//! the blade that passes and the one that drags; a rule to half a division, and parallax beside it; a
//! caliper or dial gauge to 0.02-0.05 mm. Whatever lies between two marks does so with the same right
//! anywhere: its deviation is its width over the root of twelve.
//!
//! ```
//! use gradimen_bench::model::{Measurement, Tool};
//!
//! // `6` by a feeler and `6 thou` are the same reading: its width comes from the tool.
//! let by_feeler = Measurement::mm(0.1524).with_tool(Tool::Feeler);
//! let by_dial = Measurement::mm(0.1524).with_tool(Tool::Dial);
//! assert_ne!(by_feeler.sigma(Tool::Rule64), by_dial.sigma(Tool::Rule64));
//! assert_eq!(Tool::Feeler.name(), "feelers");
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::LengthUnit;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A blade's light touch.
const TOUCH_MM: f64 = 0.012;
/// A single blade is set under a string no better than this.
pub(super) const BLADE_MM: f64 = 0.0127;
/// Reading a rule against a string: parallax.
const PARALLAX_MM: f64 = 0.05;
/// A caliper's tail, and a dial gauge.
const CALIPER_MM: f64 = 0.035;
const DIAL_MM: f64 = 0.02;
/// A business card, and a thin nylon pick: between these.
const CARD_MM: (f64, f64) = (0.25, 0.30);
const PICK_MM: (f64, f64) = (0.36, 0.40);

/// What a length is read with.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Tool {
    /// Feeler blades.
    Feeler,
    /// A rule in 64ths of an inch.
    #[serde(rename = "rule_64")]
    #[strum(serialize = "rule_64")]
    Rule64,
    /// A rule in 32nds of an inch.
    #[serde(rename = "rule_32")]
    #[strum(serialize = "rule_32")]
    Rule32,
    /// A rule in half millimetres.
    RuleHalfMm,
    /// A caliper.
    Caliper,
    /// A dial gauge.
    Dial,
    /// A business card under the string.
    Card,
    /// A thin pick under the string.
    Pick,
}

impl Tool {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Feeler => "feelers",
            Self::Rule64 => "rule in 64ths",
            Self::Rule32 => "rule in 32nds",
            Self::RuleHalfMm => "rule in half mm",
            Self::Caliper => "caliper",
            Self::Dial => "dial gauge",
            Self::Card => "business card",
            Self::Pick => "thin pick",
        }
    }

    /// What a bare number read with it counts, where the tool itself says so.
    pub const fn unit(self) -> Option<LengthUnit> {
        match self {
            Self::Rule64 => Some(LengthUnit::SixtyFourth),
            Self::Rule32 => Some(LengthUnit::ThirtySecond),
            Self::RuleHalfMm => Some(LengthUnit::Millimetre),
            Self::Feeler | Self::Caliper | Self::Dial | Self::Card | Self::Pick => None,
        }
    }

    /// The gap that an improvised gauge fills, from and to.
    pub const fn thickness(self) -> Option<(Length, Length)> {
        match self {
            Self::Card => Some((Length::from_mm(CARD_MM.0), Length::from_mm(CARD_MM.1))),
            Self::Pick => Some((Length::from_mm(PICK_MM.0), Length::from_mm(PICK_MM.1))),
            _ => None,
        }
    }

    /// The division of a rule, halved by eye; nothing for other tools.
    pub(super) const fn half_division(self) -> Option<f64> {
        match self {
            Self::Rule64 => Some(25.4 / 64.0 / 2.0),
            Self::Rule32 => Some(25.4 / 32.0 / 2.0),
            Self::RuleHalfMm => Some(0.25),
            _ => None,
        }
    }

    /// One standard deviation of a reading; `interval` is how far its two marks lie apart, nothing for a
    /// single one.
    pub fn sigma(self, interval: Length) -> Length {
        let (width, own) = self.parts(interval);
        Length::from_mm((width / 12f64.sqrt()).hypot(own))
    }

    /// The same for one that is read at a place for the `count`th time, nothing having moved since. What lies between two
    /// marks is not told by reading it again: the hand's own scatter blurs the marks, but only so far. Of a mark's width
    /// there stays, however often it is read, what the first harmonic of its saw-tooth does: `width / (sqrt 2 pi)
    /// exp(-2 pi^2 (scatter / width)^2)` (Widrow's theorem of quantising, from memory). What the last of `count` readings
    /// adds is what is left when the mean of those before it is taken off.
    pub fn sigma_again(self, interval: Length, count: usize) -> Length {
        let (width, own) = self.parts(interval);
        Length::from_mm(nth_of(width, own, count))
    }

    /// The distance of the marks it is read between, and what the hand scatters beside them.
    fn parts(self, interval: Length) -> (f64, f64) {
        let apart = interval.mm();
        let (division, own) = match self {
            Self::Feeler => (25.4e-3, BLADE_MM),
            Self::Card | Self::Pick => (0.0, TOUCH_MM),
            Self::Rule64 | Self::Rule32 | Self::RuleHalfMm => {
                (self.half_division().unwrap_or(0.0), PARALLAX_MM)
            }
            Self::Caliper => (0.0, CALIPER_MM),
            Self::Dial => (0.0, DIAL_MM),
        };
        match (apart > 0.0, self) {
            // Between two blades the touch of each is finer than setting one alone.
            (true, Self::Feeler) => (apart, TOUCH_MM),
            (true, _) => (apart, own),
            (false, _) => (division, own),
        }
    }
}

fn nth_of(width: f64, own: f64, count: usize) -> f64 {
    let all = width * width / 12.0 + own * own;
    if count <= 1 || width <= 0.0 {
        return all.sqrt();
    }
    let blur = (-2.0 * (std::f64::consts::PI * own / width).powi(2)).exp();
    let stays = (width / (2f64.sqrt() * std::f64::consts::PI) * blur).powi(2);
    let mean_of = |count: usize| stays + (all - stays) / count as f64;
    let more = 1.0 / mean_of(count) - 1.0 / mean_of(count - 1);
    (1.0 / more).sqrt()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Keyed;
    use strum::VariantArray;

    #[test]
    fn words_are_those_of_the_documents() {
        for tool in Tool::VARIANTS {
            let word = serde_json::to_value(tool).unwrap();
            assert_eq!(word, tool.key());
            assert_eq!(Tool::from_key(tool.key()), Some(*tool));
        }
        assert_eq!(Tool::RuleHalfMm.key(), "rule_half_mm");
    }

    #[test]
    fn tools_are_as_good_as_the_trade_says() {
        // Common practice: half a thou by light touch, about 0.1 mm by rule, 0.02 to 0.05 by caliper.
        let one = |tool: Tool| tool.sigma(Length::ZERO);
        assert!(one(Tool::Feeler).thou() < 1.0 && one(Tool::Feeler).thou() > 0.4);
        for rule in [Tool::Rule64, Tool::RuleHalfMm] {
            assert!((one(rule).mm() - 0.1).abs() < 0.03, "{rule:?}");
        }
        assert!(one(Tool::Rule32) > one(Tool::Rule64));
        for gauge in [Tool::Caliper, Tool::Dial] {
            assert!((0.02..=0.05).contains(&one(gauge).mm()), "{gauge:?}");
        }
        // Read again and again a coarse rule never tells what lies between its marks.
        let rule = |count| Tool::RuleHalfMm.sigma_again(Length::ZERO, count).mm();
        let known: f64 = (1..=100).map(|count| rule(count).powi(-2)).sum();
        let (left, one) = (known.sqrt().recip(), rule(1));
        assert!(left > 0.025 && left < 0.04 && (one - 0.088).abs() < 0.005);
        // Blades a thou apart are blurred by the hand: there the mean of four is half as wide.
        let blade = |count| Tool::Feeler.sigma_again(Length::from_thou(1.0), count).mm();
        assert!((blade(4) / blade(1) - 1.0).abs() < 0.01);
        // Six passes, eight does not.
        let blades = Tool::Feeler.sigma(Length::from_thou(2.0));
        assert!(blades.thou() > 0.55 && blades.thou() < 0.8);
    }
}
