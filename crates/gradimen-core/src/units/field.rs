//! What a field measures, and what a bare number means in it.

use super::UnitError;
use super::length::{Entry, LengthUnit};
use super::print;
use super::written::Written;
use crate::quantity::Length;

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

    /// The unit in which bare numbers count.
    pub const fn unit(&self) -> LengthUnit {
        self.unit
    }

    /// How a hand would type this length: the nearest mark of the unit in which bare numbers count, and nothing where that lies
    /// outside the field. Thousandths are whole, 64ths and 32nds are halved by eye, millimetres are read to a tenth.
    ///
    /// ```
    /// use gradimen_core::quantity::Length;
    /// use gradimen_core::units::{LengthField, LengthUnit};
    ///
    /// let action = LengthField::mm("the action", LengthUnit::SixtyFourth, 0.0, 10.0);
    /// assert_eq!(action.as_typed(Length::from_mm(2.2)).as_deref(), Some("5.5"));
    /// assert_eq!(action.as_typed(Length::from_mm(12.0)), None);
    /// ```
    pub fn as_typed(&self, length: Length) -> Option<String> {
        let mark = match self.unit {
            LengthUnit::Thou => 1.0,
            LengthUnit::SixtyFourth | LengthUnit::ThirtySecond => 0.5,
            LengthUnit::Millimetre => 0.1,
            LengthUnit::Centimetre => 0.01,
            LengthUnit::Inch => 0.001,
        };
        let marks = (length.mm() / (self.unit.one().mm() * mark)).round();
        let shown = Length::from_mm(marks * mark * self.unit.one().mm());
        let inside = shown >= self.low && shown <= self.high;
        // Adding nothing takes the sign off a zero.
        inside.then(|| format!("{}", (marks * mark * 1e6).round() / 1e6 + 0.0))
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
