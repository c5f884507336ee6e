//! Lengths, exact or between two feeler blades.

use std::fmt;

use super::UnitError;
use super::print;
use super::written::Written;
use crate::quantity::Length;

/// A unit of length that the trade writes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum LengthUnit {
    /// Millimetres.
    Millimetre,
    /// Centimetres.
    Centimetre,
    /// Inches, decimal or as a fraction.
    Inch,
    /// Thousandths of an inch.
    Thou,
    /// Thirty-seconds of an inch.
    ThirtySecond,
    /// Sixty-fourths of an inch.
    SixtyFourth,
}

impl LengthUnit {
    /// Every unit.
    pub const ALL: [Self; 6] = [
        Self::Millimetre,
        Self::Centimetre,
        Self::Inch,
        Self::Thou,
        Self::ThirtySecond,
        Self::SixtyFourth,
    ];

    /// One of it.
    pub const fn one(self) -> Length {
        match self {
            Self::Millimetre => Length::from_mm(1.0),
            Self::Centimetre => Length::from_mm(10.0),
            Self::Inch => Length::from_inches(1.0),
            Self::Thou => Length::from_thou(1.0),
            Self::ThirtySecond => Length::from_inches(1.0 / 32.0),
            Self::SixtyFourth => Length::from_inches(1.0 / 64.0),
        }
    }

    /// As it is written behind a number.
    pub const fn symbol(self) -> &'static str {
        match self {
            Self::Millimetre => "mm",
            Self::Centimetre => "cm",
            Self::Inch => "in",
            Self::Thou => "thou",
            Self::ThirtySecond => "32nds",
            Self::SixtyFourth => "64ths",
        }
    }

    pub(super) fn from_symbol(symbol: &str) -> Option<Self> {
        Some(match symbol.trim_end_matches('.') {
            "mm" | "millimetre" | "millimetres" | "millimeter" | "millimeters" => Self::Millimetre,
            "cm" | "centimetre" | "centimetres" | "centimeter" | "centimeters" => Self::Centimetre,
            "in" | "inch" | "inches" | "\"" => Self::Inch,
            "thou" | "thous" | "thousandth" | "thousandths" | "mil" | "mils" => Self::Thou,
            _ => return None,
        })
    }
}

impl fmt::Display for LengthUnit {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(self.symbol())
    }
}

/// A length as it was written and as it was understood.
#[derive(Debug, Clone, PartialEq)]
pub struct Entry {
    pub(super) written: String,
    pub(super) low: Length,
    pub(super) high: Length,
    pub(super) unit: LengthUnit,
    pub(super) assumed: bool,
    /// The unit a bare number would have taken, where it cannot have been meant.
    pub(super) instead_of: Option<LengthUnit>,
}

impl Entry {
    /// A value that was not typed but computed or carried over.
    pub fn exact(value: Length, unit: LengthUnit) -> Self {
        Self {
            written: print::length(value, unit),
            low: value,
            high: value,
            unit,
            assumed: false,
            instead_of: None,
        }
    }

    /// What was typed.
    pub fn written(&self) -> &str {
        &self.written
    }

    /// The blade that passes, or the value itself.
    pub const fn low(&self) -> Length {
        self.low
    }

    /// The blade that drags, or the value itself.
    pub const fn high(&self) -> Length {
        self.high
    }

    /// The value, or the middle of the interval.
    pub fn middle(&self) -> Length {
        (self.low + self.high) * 0.5
    }

    /// Half the width of the interval.
    pub fn half_width(&self) -> Length {
        (self.high - self.low) * 0.5
    }

    /// Whether one value was written and not an interval.
    pub fn is_exact(&self) -> bool {
        self.low == self.high
    }

    /// The unit it was written in (of the upper blade).
    pub const fn unit(&self) -> LengthUnit {
        self.unit
    }

    /// Whether the unit was the field's and not written.
    pub const fn unit_assumed(&self) -> bool {
        self.assumed
    }

    /// The unit of the field, where a bare number cannot have been meant in it and was read in another.
    pub const fn instead_of(&self) -> Option<LengthUnit> {
        self.instead_of
    }

    /// In millimetres and in inches, as the field shows it back.
    pub fn understood(&self) -> String {
        if self.is_exact() {
            format!(
                "{} = {}",
                print::with_unit(self.low),
                print::inches(self.low)
            )
        } else {
            format!(
                "{} to {} = {} to {}",
                print::with_unit(self.low),
                print::with_unit(self.high),
                print::inches(self.low),
                print::inches(self.high)
            )
        }
    }
}

/// Reads a length; a bare number takes `unit`.
///
/// `3/64+` is a little more than 3/64: up to half a division; `3/64-` a little less.
///
/// ```
/// use gradimen_core::units::{LengthUnit, parse_length};
///
/// assert_eq!(parse_length("6", LengthUnit::Thou)?.middle().thou().round(), 6.0);
/// assert!(parse_length("3/64+", LengthUnit::Millimetre)?.middle().inches() > 3.0 / 64.0);
/// assert!(parse_length("a hair", LengthUnit::Thou).is_err());
/// # Ok::<(), gradimen_core::units::UnitError>(())
/// ```
///
/// # Errors
/// A [`UnitError`] that says what was read, what was expected and how to write it.
pub fn parse_length(text: &str, unit: LengthUnit) -> Result<Entry, UnitError> {
    Written::parse(text).and_then(|written| written.entry(unit, unit))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn mm(text: &str) -> f64 {
        parse_length(text, LengthUnit::Millimetre)
            .unwrap()
            .middle()
            .mm()
    }

    #[test]
    fn reads_what_the_trade_writes() {
        for (text, expected) in [
            ("1.75 mm", 1.75),
            ("1,75", 1.75),
            ("2cm", 20.0),
            ("5/64", 25.4 * 5.0 / 64.0),
            ("5/64\"", 25.4 * 5.0 / 64.0),
            ("3.5/32", 25.4 * 3.5 / 32.0),
            ("4.5/64 in", 25.4 * 4.5 / 64.0),
            ("4.5/64ths", 25.4 * 4.5 / 64.0),
            ("4.5 64ths", 25.4 * 4.5 / 64.0),
            ("25 1/2 in", 647.7),
            ("25\u{bd}\"", 647.7),
            (".010\"", 0.254),
            (".010''", 0.254),
            ("10 thou", 0.254),
            ("10 mil", 0.254),
            ("\u{2212}.5mm", -0.5),
            ("+ 0.2 mm", 0.2),
            ("0", 0.0),
        ] {
            assert!((mm(text) - expected).abs() < 1e-9, "{text}: {}", mm(text));
        }
    }

    #[test]
    fn reads_intervals_between_blades() {
        for text in [
            "6-8 thou",
            "6\u{2013}8 thou",
            "6 to 8 thou",
            "6 thou-8 thou",
            ".006-.008\"",
            "6..8thou",
        ] {
            let entry = parse_length(text, LengthUnit::Millimetre).unwrap();
            assert!((entry.low().thou() - 6.0).abs() < 1e-9, "{text}");
            assert!((entry.high().thou() - 8.0).abs() < 1e-9, "{text}");
            assert!(!entry.is_exact());
        }
        let fractions = parse_length("4/64 - 5/64", LengthUnit::Millimetre).unwrap();
        assert!((fractions.half_width().inches() - 0.5 / 64.0).abs() < 1e-12);
        let across_zero = parse_length("-0.1 to 0.2", LengthUnit::Millimetre).unwrap();
        assert!((across_zero.middle().mm() - 0.05).abs() < 1e-12);
    }

    #[test]
    fn a_bare_number_takes_the_fields_unit_and_says_so() {
        let entry = parse_length("10", LengthUnit::Thou).unwrap();
        assert!((entry.low().thou() - 10.0).abs() < 1e-12);
        assert!(entry.unit_assumed());
        let written = parse_length("10 thou", LengthUnit::Millimetre).unwrap();
        assert!(!written.unit_assumed());
        assert_eq!(written.understood(), "0.254 mm = .010 in");
        assert_eq!(written.written(), "10 thou");
    }

    #[test]
    fn refuses_nonsense_with_a_reason() {
        let refuse = |text| parse_length(text, LengthUnit::Millimetre).unwrap_err();
        assert!(matches!(refuse("  "), UnitError::Empty { .. }));
        assert!(matches!(
            refuse("abc"),
            UnitError::UnknownUnit { .. } | UnitError::NotANumber { .. }
        ));
        assert!(matches!(
            refuse("5 furlongs"),
            UnitError::UnknownUnit { .. }
        ));
        assert!(matches!(refuse("1/3"), UnitError::Denominator { .. }));
        assert!(matches!(refuse("5/0"), UnitError::Denominator { .. }));
        assert!(matches!(refuse("8-6 thou"), UnitError::Interval { .. }));
        assert!(matches!(refuse("25-1/2"), UnitError::Ambiguous { .. }));
        for text in [
            "1.2.3", "1e3", "--5", "5/", "/64", "1 2", ".", "inf", "nan", "2.5 1/2", "5/64/2", "+",
            "-", "6-8+",
        ] {
            assert!(
                parse_length(text, LengthUnit::Millimetre).is_err(),
                "{text}"
            );
        }
    }

    #[test]
    fn a_little_more_or_less_is_half_a_division() {
        for (text, unit, low, high) in [
            ("3/64+", LengthUnit::Millimetre, 3.0 / 64.0, 3.5 / 64.0),
            ("3/64-", LengthUnit::Millimetre, 2.5 / 64.0, 3.0 / 64.0),
            ("5+", LengthUnit::SixtyFourth, 5.0 / 64.0, 5.5 / 64.0),
            ("5/64 in +", LengthUnit::Thou, 5.0 / 64.0, 5.5 / 64.0),
        ] {
            let entry = parse_length(text, unit).unwrap();
            assert!((entry.low().inches() - low).abs() < 1e-12, "{text}");
            assert!((entry.high().inches() - high).abs() < 1e-12, "{text}");
            assert_eq!(entry.written(), text);
        }
    }
}
