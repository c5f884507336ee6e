//! Lengths, exact or between two feeler blades.

use std::fmt;

use super::UnitError;
use super::number::{Number, normalised, number, split_unit};
use super::print;
use crate::quantity::Length;

/// How lengths are written; part of every message about one.
const EXPECTED: &str = "1.75 mm, 5/64, 3.5/32, .010, 10 thou or 6-8 thou";

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

    fn from_symbol(symbol: &str) -> Option<Self> {
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
    written: String,
    low: Length,
    high: Length,
    unit: LengthUnit,
    assumed: bool,
    /// The unit a bare number would have taken, where it cannot have been meant.
    instead_of: Option<LengthUnit>,
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
            format!("{} = {}", print::mm(self.low), print::inches(self.low))
        } else {
            format!(
                "{} to {} = {} to {}",
                print::mm(self.low),
                print::mm(self.high),
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

/// A length as it stands on the paper: numbers, and units where they were written.
struct Written {
    text: String,
    plain: String,
    low: Option<(Number, Option<LengthUnit>)>,
    high: (Number, Option<LengthUnit>),
    /// A little more, or a little less.
    nearly: Option<Nearly>,
}

#[derive(Clone, Copy, PartialEq, Eq)]
enum Nearly {
    More,
    Less,
}

impl Written {
    fn parse(text: &str) -> Result<Self, UnitError> {
        let plain = normalised(text);
        if plain.is_empty() {
            return Err(UnitError::Empty { expected: EXPECTED });
        }
        let (body, nearly) = match (plain.strip_suffix('+'), plain.strip_suffix('-')) {
            (Some(body), _) => (body.trim(), Some(Nearly::More)),
            (_, Some(body)) => (body.trim(), Some(Nearly::Less)),
            (None, None) => (plain.as_str(), None),
        };
        let (low_text, high_text) = split_interval(body)?;
        if nearly.is_some() && low_text.is_some() {
            return Err(UnitError::Interval { read: plain });
        }
        let high = one_side(high_text, &plain)?;
        let low = low_text
            .map(|text| {
                let (value, own) = one_side(text, &plain)?;
                Ok((value, own.or(high.1)))
            })
            .transpose()?;
        Ok(Self {
            text: text.trim().to_owned(),
            low,
            high,
            nearly,
            plain,
        })
    }

    /// Whether no unit was written, and no fraction, which is one of an inch.
    fn is_bare(&self) -> bool {
        self.high.1.is_none() && !self.high.0.fraction
    }

    /// Decimal inches are written `.010`, or with all their thousandths behind a nought: `0.010`.
    fn looks_like_inches(&self) -> bool {
        let number = self.plain.replace(',', ".");
        let digits = |text: &str| text.chars().take_while(char::is_ascii_digit).count();
        number.starts_with('.')
            || number
                .strip_prefix("0.")
                .is_some_and(|behind| digits(behind) >= 3)
    }

    /// Divisions of a rule are read to a half, and told apart to a quarter.
    fn counts_in(&self, unit: LengthUnit) -> bool {
        !matches!(unit, LengthUnit::SixtyFourth | LengthUnit::ThirtySecond)
            || (self.high.0.value * 4.0).fract() == 0.0
    }

    /// What it means when a bare number takes `unit`, in a field whose own unit is `field`.
    fn entry(&self, unit: LengthUnit, field: LengthUnit) -> Result<Entry, UnitError> {
        // Fractions without a unit are fractions of an inch; nobody writes 5/64 of a millimetre.
        let unit_of = |number: Number, written: Option<LengthUnit>| {
            written.unwrap_or(if number.fraction {
                LengthUnit::Inch
            } else {
                unit
            })
        };
        let of = |(number, written): (Number, Option<LengthUnit>)| {
            unit_of(number, written).one() * number.value
        };
        let shown = unit_of(self.high.0, self.high.1);
        let high = of(self.high);
        let half = match (self.high.0.division, shown) {
            (Some(denominator), _) => LengthUnit::Inch.one() * (0.5 / denominator),
            (None, LengthUnit::Millimetre | LengthUnit::Centimetre) => Length::from_mm(0.25),
            (None, LengthUnit::Inch) => Length::from_inches(0.5 / 64.0),
            (None, LengthUnit::Thou | LengthUnit::ThirtySecond | LengthUnit::SixtyFourth) => {
                shown.one() * 0.5
            }
        };
        let (low, high) = match (self.nearly, self.low) {
            (Some(Nearly::More), _) => (high, high + half),
            (Some(Nearly::Less), _) => (high - half, high),
            (None, Some(low)) => (of(low), high),
            (None, None) => (high, high),
        };
        if self.low.is_some() && low >= high {
            return Err(UnitError::Interval {
                read: self.plain.clone(),
            });
        }
        Ok(Entry {
            written: self.text.clone(),
            low,
            high,
            unit: shown,
            assumed: self.is_bare(),
            instead_of: (self.is_bare() && unit != field).then_some(field),
        })
    }
}

/// Separates the two blades of an interval, where there are two.
fn split_interval(plain: &str) -> Result<(Option<&str>, &str), UnitError> {
    for separator in [" to ", ".."] {
        if let Some((low, high)) = plain.split_once(separator) {
            return Ok((Some(low), high));
        }
    }
    // A dash behind the first character separates; at the front it is a sign.
    let Some(at) = plain
        .char_indices()
        .skip(1)
        .find(|&(_, letter)| letter == '-')
        .map(|(at, _)| at)
    else {
        return Ok((None, plain));
    };
    let (low, high) = (plain[..at].trim(), plain[at + 1..].trim());
    if !low.contains('/') && high.contains('/') && low.bytes().all(|byte| byte.is_ascii_digit()) {
        let (top, bottom) = high.split_once('/').unwrap_or((high, ""));
        return Err(UnitError::Ambiguous {
            read: plain.to_owned(),
            first: format!("{low} {high} for a mixed fraction"),
            second: format!("{low}/{bottom} to {}/{bottom} for an interval", top.trim()),
        });
    }
    Ok((Some(low), high))
}

/// A number with the unit behind it. `5 64ths` is read as 5/64 in.
fn one_side(text: &str, read: &str) -> Result<(Number, Option<LengthUnit>), UnitError> {
    for (ending, unit) in [
        ("64ths", LengthUnit::SixtyFourth),
        ("64th", LengthUnit::SixtyFourth),
        ("32nds", LengthUnit::ThirtySecond),
        ("32nd", LengthUnit::ThirtySecond),
    ] {
        // "3.5/32nds" is the fraction; "3.5 32nds" counts divisions.
        if let Some(count) = text.strip_suffix(ending) {
            let count = count.trim();
            return match count.strip_suffix('/') {
                Some(_) => Ok((
                    number(&text[..text.len() - (ending.len() - 2)], read, EXPECTED)?,
                    Some(LengthUnit::Inch),
                )),
                None => Ok((number(count, read, EXPECTED)?, Some(unit))),
            };
        }
    }
    let (digits, symbol) = split_unit(text);
    let unit = if symbol.is_empty() {
        None
    } else {
        Some(
            LengthUnit::from_symbol(symbol).ok_or_else(|| UnitError::UnknownUnit {
                read: read.to_owned(),
                unit: symbol.to_owned(),
                expected: EXPECTED,
            })?,
        )
    };
    Ok((number(digits, read, EXPECTED)?, unit))
}

/// What a field measures: its usual unit, the limits beyond which a value cannot be right, and those
/// within which it is natural.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LengthField {
    /// What it is, for messages.
    pub what: &'static str,
    /// The unit a bare number takes.
    pub unit: LengthUnit,
    /// The least that can be.
    pub low: Length,
    /// The most that can be.
    pub high: Length,
    /// The least and the most that anyone would mean by a number without a unit.
    pub natural: (Length, Length),
}

/// Units a bare number is tried in when it cannot be meant in the field's own.
const OTHERS: [LengthUnit; 4] = [
    LengthUnit::Millimetre,
    LengthUnit::Inch,
    LengthUnit::Thou,
    LengthUnit::SixtyFourth,
];

impl LengthField {
    /// A field with its limits in millimetres.
    pub const fn mm(what: &'static str, unit: LengthUnit, low: f64, high: f64) -> Self {
        let limits = (Length::from_mm(low), Length::from_mm(high));
        Self {
            what,
            unit,
            low: limits.0,
            high: limits.1,
            natural: limits,
        }
    }

    /// With tighter limits, in millimetres, for what is natural.
    #[must_use]
    pub const fn naturally(self, low: f64, high: f64) -> Self {
        Self {
            natural: (Length::from_mm(low), Length::from_mm(high)),
            ..self
        }
    }

    /// With another unit for bare numbers.
    #[must_use]
    pub const fn in_unit(self, unit: LengthUnit) -> Self {
        Self { unit, ..self }
    }

    /// Reads an exact value or an interval within the limits. A bare number takes the field's unit; one
    /// written as decimal inches are, `.010`, is inches; and one that cannot be meant so is read in the
    /// unit in which it can, which [`Entry::instead_of`] tells.
    ///
    /// ```
    /// use gradimen_core::units::{LengthField, LengthUnit};
    ///
    /// let relief = LengthField::mm("relief", LengthUnit::Thou, 0.0, 3.0).naturally(0.02, 1.5);
    /// assert_eq!(relief.parse("6")?.middle().thou().round(), 6.0);
    /// assert_eq!(relief.parse(".010")?.middle().thou().round(), 10.0);
    /// // Three tenths of a thousandth no feeler shows: millimetres.
    /// assert!((relief.parse("0.3")?.middle().mm() - 0.3).abs() < 1e-9);
    /// assert!(relief.parse("2 in").is_err());
    /// # Ok::<(), gradimen_core::units::UnitError>(())
    /// ```
    ///
    /// # Errors
    /// A [`UnitError`]; [`UnitError::Absurd`] outside the limits.
    pub fn parse(&self, text: &str) -> Result<Entry, UnitError> {
        let written = Written::parse(text)?;
        let entry = self.meant(&written)?;
        if entry.low < self.low || entry.high > self.high {
            return Err(UnitError::Absurd {
                read: entry.written.clone(),
                understood: entry.understood(),
                low: print::limit(self.low, self.unit),
                high: print::limit(self.high, self.unit),
                what: self.what.to_owned(),
            });
        }
        Ok(entry)
    }

    fn meant(&self, written: &Written) -> Result<Entry, UnitError> {
        if !written.is_bare() {
            return written.entry(self.unit, self.unit);
        }
        let first = if written.looks_like_inches() {
            LengthUnit::Inch
        } else {
            self.unit
        };
        for unit in [first, self.unit].into_iter().chain(OTHERS) {
            let entry = written.entry(unit, self.unit)?;
            let (low, high) = self.natural;
            let natural = entry.low.abs() == Length::ZERO && entry.is_exact()
                || (entry.low >= low && entry.high <= high);
            if natural && written.counts_in(unit) {
                let inches = unit == LengthUnit::Inch && first == LengthUnit::Inch;
                return Ok(Entry {
                    // Decimal inches are what was written, not what was guessed.
                    instead_of: entry.instead_of.filter(|_| !inches),
                    ..entry
                });
            }
        }
        written.entry(self.unit, self.unit)
    }

    /// Reads one value, no interval, within the limits.
    ///
    /// # Errors
    /// A [`UnitError`]; [`UnitError::NotExact`] for an interval.
    pub fn parse_exact(&self, text: &str) -> Result<Entry, UnitError> {
        let entry = self.parse(text)?;
        if entry.is_exact() {
            Ok(entry)
        } else {
            Err(UnitError::NotExact {
                read: entry.written,
            })
        }
    }
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
    fn a_field_refuses_the_absurd_and_says_what_it_understood() {
        let field = LengthField::mm("action at the 12th fret", LengthUnit::Millimetre, 0.2, 8.0);
        let message = field.parse("20 mm").unwrap_err().to_string();
        assert!(
            message.contains("20 mm") && message.contains("8 mm") && message.contains("action")
        );
        // A bare number that no height is in millimetres is one in thousandths.
        assert_eq!(field.parse("20").unwrap().unit, LengthUnit::Thou);
        assert!(field.parse("4/64").is_ok());
        // Limits are kept in millimetres and told in the unit of the field.
        let relief = LengthField::mm("relief", LengthUnit::Thou, 0.0, 3.0);
        let message = relief.parse("2 in").unwrap_err().to_string();
        assert!(message.contains("0 thou and 118 thou"), "{message}");
        assert!(matches!(
            field.parse_exact("1-2 mm"),
            Err(UnitError::NotExact { .. })
        ));
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

    #[test]
    fn a_bare_number_means_what_the_hand_meant() {
        let relief = LengthField::mm("relief", LengthUnit::Thou, 0.0, 3.0).naturally(0.02, 1.5);
        let action =
            LengthField::mm("the action", LengthUnit::SixtyFourth, 0.2, 8.0).naturally(1.0, 6.0);
        let metric = action.in_unit(LengthUnit::Millimetre);
        let scale = LengthField::mm("a scale", LengthUnit::Inch, 400.0, 1000.0);
        let gauge = LengthField::mm("a gauge", LengthUnit::Thou, 0.1, 4.5);
        let thread = LengthField::mm("a thread pitch", LengthUnit::Millimetre, 0.2, 2.0);
        for (field, text, mm) in [
            (relief, "6", 0.1524),
            (relief, "6-8", 0.1778),
            (relief, ".010", 0.254),
            (relief, "0.010", 0.254),
            (relief, ",010", 0.254),
            (relief, "0.3", 0.3),
            (relief, "0,15", 0.15),
            (relief, "0.05", 0.05),
            (relief, "0", 0.0),
            (action, "5", 25.4 * 5.0 / 64.0),
            (action, "4.5", 25.4 * 4.5 / 64.0),
            (action, "1.75", 1.75),
            (action, "2", 2.0),
            (action, "1,8", 1.8),
            (action, ".062", 25.4 * 0.062),
            (metric, "1.75", 1.75),
            (metric, "5", 5.0),
            (scale, "648", 648.0),
            (scale, "25.5", 647.7),
            (scale, "34", 863.6),
            (gauge, "10", 0.254),
            (gauge, ".010", 0.254),
            (gauge, "0.046", 1.1684),
            (gauge, "0.25", 0.25),
            (thread, ".5", 0.5),
            (thread, "0.635", 0.635),
        ] {
            let entry = field.parse(text).unwrap();
            assert!(
                (entry.middle().mm() - mm).abs() < 1e-9,
                "{} {text}: {}",
                field.what,
                entry.middle().mm()
            );
            assert!(entry.unit_assumed());
        }
        // What was read otherwise than its field says so; decimal inches are inches.
        let swapped = |field: LengthField, text| field.parse(text).unwrap().instead_of();
        assert_eq!(swapped(relief, "0.3"), Some(LengthUnit::Thou));
        assert_eq!(swapped(scale, "648"), Some(LengthUnit::Inch));
        assert_eq!(swapped(relief, "6"), None);
        assert_eq!(swapped(relief, ".010"), None);
    }
}
