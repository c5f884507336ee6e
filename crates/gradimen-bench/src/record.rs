//! Values as the journal keeps them: what was written beside what it means in millimetres.

use gradimen_core::material::WrapMetal;
use gradimen_core::quantity::{Length, LinearDensity, Mass};
use gradimen_core::string::{Construction, StringError, StringSpec};
use gradimen_core::units::{Entry, LengthUnit};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Lengths as millimetres in JSON.
pub(crate) mod as_mm {
    use gradimen_core::quantity::Length;
    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    /// Millimetres without the noise of conversion: to a picometre.
    pub(crate) fn written(value: Length) -> f64 {
        (value.mm() * 1e9).round() / 1e9
    }

    pub(crate) fn serialize<S: Serializer>(
        value: &Length,
        serializer: S,
    ) -> Result<S::Ok, S::Error> {
        written(*value).serialize(serializer)
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(
        deserializer: D,
    ) -> Result<Length, D::Error> {
        f64::deserialize(deserializer).map(Length::from_mm)
    }
}

/// A length as it was written, exact or between two blades.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Measured {
    /// What was typed.
    pub written: String,
    /// The value, or the blade that passes, in millimetres.
    #[serde(rename = "low_mm", with = "as_mm")]
    #[schemars(with = "f64")]
    pub low: Length,
    /// The value, or the blade that drags, in millimetres.
    #[serde(rename = "high_mm", with = "as_mm")]
    #[schemars(with = "f64")]
    pub high: Length,
}

impl Measured {
    /// What was typed and what it means, taken as a document will give it back: a job and its
    /// document are the same to the last digit.
    pub fn new(written: String, low: Length, high: Length) -> Self {
        let kept = |length| Length::from_mm(as_mm::written(length));
        Self {
            written,
            low: kept(low),
            high: kept(high),
        }
    }

    /// A value that nobody typed.
    pub fn exact(value: Length, unit: LengthUnit) -> Self {
        Self::from(&Entry::exact(value, unit))
    }

    /// A value in millimetres that nobody typed.
    pub fn mm(value: f64) -> Self {
        Self::exact(Length::from_mm(value), LengthUnit::Millimetre)
    }

    /// The value, or the middle of the interval.
    pub fn middle(&self) -> Length {
        (self.low + self.high) * 0.5
    }

    /// Half the width of the interval.
    pub fn half_width(&self) -> Length {
        (self.high - self.low) * 0.5
    }

    /// Whether both ends are numbers in order.
    pub fn is_sound(&self) -> bool {
        self.low.is_finite() && self.high.is_finite() && self.low <= self.high
    }
}

impl From<&Entry> for Measured {
    fn from(entry: &Entry) -> Self {
        Self::new(entry.written().to_owned(), entry.low(), entry.high())
    }
}

/// How a string is made, as one word.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Make {
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

impl Make {
    /// Every make.
    pub const ALL: [Self; 7] = [
        Self::Plain,
        Self::RoundNickelPlated,
        Self::RoundNickel,
        Self::RoundStainless,
        Self::RoundBronze,
        Self::FlatStainless,
        Self::FlatNickel,
    ];

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

/// A piece cut off the string, measured and weighed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Weighing {
    /// Its length.
    pub length: Measured,
    /// Its mass in grams.
    pub grams: f64,
}

impl Weighing {
    /// Mass per length of the piece.
    pub fn unit_weight(&self) -> LinearDensity {
        LinearDensity::from_kilograms_per_metre(
            Mass::from_grams(self.grams).kilograms() / self.length.middle().metres(),
        )
    }
}

/// One string of a set.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StringRecord {
    /// Outer diameter.
    pub gauge: Measured,
    /// How it is made.
    pub make: Make,
    /// Core diameter (round wire of equal area), where it was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub core: Option<Measured>,
    /// A weighed cut-off.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weighed: Option<Weighing>,
}

impl StringRecord {
    /// A gauge in thousandths of an inch.
    pub fn thou(gauge: f64, make: Make) -> Self {
        let length = Length::from_thou(gauge);
        let digits = if gauge.fract() == 0.0 { 3 } else { 4 };
        let inches = format!("{:.digits$}", gauge / 1000.0);
        Self {
            gauge: Measured::new(inches.trim_start_matches('0').to_owned(), length, length),
            make,
            core: None,
            weighed: None,
        }
    }

    /// From a string of the ladder.
    pub fn of(spec: &StringSpec, make: Make) -> Self {
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
        assert_eq!(StringRecord::thou(10.0, Make::Plain).label(), ".010");
        assert_eq!(StringRecord::thou(46.0, Make::RoundNickel).label(), ".046w");
        assert_eq!(StringRecord::thou(9.5, Make::Plain).label(), ".0095");
        assert_eq!(
            StringRecord::thou(105.0, Make::RoundNickel).label(),
            ".105w"
        );
    }

    #[test]
    fn a_measured_length_survives_json_with_its_spelling() {
        let entry = gradimen_core::units::parse_length("6-8 thou", LengthUnit::Millimetre).unwrap();
        let measured = Measured::from(&entry);
        let text = serde_json::to_string(&measured).unwrap();
        assert_eq!(
            text,
            r#"{"written":"6-8 thou","low_mm":0.1524,"high_mm":0.2032}"#
        );
        let back: Measured = serde_json::from_str(&text).unwrap();
        assert!((back.middle() - entry.middle()).abs().mm() < 1e-9);
        assert!((back.half_width() - entry.half_width()).abs().mm() < 1e-9);
    }
}
