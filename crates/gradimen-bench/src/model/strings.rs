//! Strings as packets and documents name them.
//!
//! ```
//! use gradimen_bench::model::{StringConstruction, StringEntry};
//!
//! let low = StringEntry::thou(46.0, StringConstruction::RoundNickelPlated);
//! assert_eq!(low.label(), ".046w");
//! assert!(low.spec().is_ok());
//! ```

use gradimen_core::material::WrapMetal;
use gradimen_core::quantity::{Length, Mass};
use gradimen_core::string::{Construction, StringError, StringSpec};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::measurement::Measurement;
use super::place::Weighing;

/// How a string is made, as one word.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
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
pub enum StringConstruction {
    /// Plain steel.
    Plain,
    /// Round-wound, nickel-plated steel.
    RoundNickelPlated,
    /// Round-wound, pure nickel.
    RoundNickel,
    /// Round-wound, stainless steel.
    RoundStainless,
    /// Round-wound, phosphor bronze.
    RoundBronze,
    /// Flat-wound, stainless steel.
    FlatStainless,
    /// Flat-wound, pure nickel.
    FlatNickel,
}

impl StringConstruction {
    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Plain => "plain",
            Self::RoundNickelPlated => "round-wound, nickel-plated",
            Self::RoundNickel => "round-wound, nickel",
            Self::RoundStainless => "round-wound, stainless",
            Self::RoundBronze => "round-wound, bronze",
            Self::FlatStainless => "flat-wound, stainless",
            Self::FlatNickel => "flat-wound, nickel",
        }
    }

    /// Whether there is a wrap.
    pub const fn is_wound(self) -> bool {
        !matches!(self, Self::Plain)
    }

    /// The same for the computation.
    pub const fn construction(self) -> Construction {
        match self {
            Self::Plain => Construction::Plain,
            Self::RoundNickelPlated => Construction::RoundWound(WrapMetal::NickelPlatedSteel),
            Self::RoundNickel => Construction::RoundWound(WrapMetal::Nickel),
            Self::RoundStainless => Construction::RoundWound(WrapMetal::Stainless),
            Self::RoundBronze => Construction::RoundWound(WrapMetal::Bronze),
            Self::FlatStainless => Construction::FlatWound(WrapMetal::Stainless),
            Self::FlatNickel => Construction::FlatWound(WrapMetal::Nickel),
        }
    }
}

/// One string of a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StringEntry {
    /// Outer diameter.
    pub gauge: Measurement,
    /// How it is made.
    pub make: StringConstruction,
    /// Core diameter (round wire of equal area), where it was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub core: Option<Measurement>,
    /// A weighed cut-off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weighed: Option<Weighing>,
}

impl StringEntry {
    /// A gauge in thousandths of an inch.
    pub fn thou(gauge: f64, make: StringConstruction) -> Self {
        let length = Length::from_thou(gauge);
        let digits = if gauge.fract() == 0.0 { 3 } else { 4 };
        let inches = format!("{:.digits$}", gauge / 1000.0);
        Self {
            gauge: Measurement::new(inches.trim_start_matches('0').to_owned(), length, length),
            make,
            core: None,
            weighed: None,
        }
    }

    /// From a string of the ladder.
    pub fn of(spec: &StringSpec, make: StringConstruction) -> Self {
        // A thousandth of a thou: conversion noise vanishes.
        Self::thou((spec.gauge().thou() * 1e3).round() / 1e3, make)
    }

    /// The string for the computation.
    ///
    /// # Errors
    /// [`StringError`] when there is no such string.
    pub fn spec(&self) -> Result<StringSpec, StringError> {
        let mut spec = StringSpec::new(self.gauge.middle(), self.make.construction())?;
        if let Some(core) = &self.core {
            spec = spec.with_core(core.middle())?;
        }
        if let Some(weighed) = &self.weighed {
            spec = spec.with_weighing(Mass::from_grams(weighed.grams), weighed.length.middle())?;
        }
        Ok(spec)
    }

    /// The gauge as sets are named: `.010`, `.046w`.
    pub fn label(&self) -> String {
        let thou = self.gauge.middle().thou();
        let digits = if (thou - thou.round()).abs() < 0.01 {
            3
        } else {
            4
        };
        let inches = format!("{:.digits$}", thou / 1000.0);
        let suffix = if self.make.is_wound() { "w" } else { "" };
        format!("{}{suffix}", inches.trim_start_matches('0'))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn labels_read_like_a_packet() {
        assert_eq!(
            StringEntry::thou(10.0, StringConstruction::Plain).label(),
            ".010"
        );
        assert_eq!(
            StringEntry::thou(46.0, StringConstruction::RoundNickel).label(),
            ".046w"
        );
        assert_eq!(
            StringEntry::thou(9.5, StringConstruction::Plain).label(),
            ".0095"
        );
        assert_eq!(
            StringEntry::thou(105.0, StringConstruction::RoundNickel).label(),
            ".105w"
        );
    }
}
