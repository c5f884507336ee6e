//! Quantities as text. [`length`] prints so that reading it back gives the same value;
//! the others round to what a bench tool shows.
//!
//! ```
//! use gradimen_core::quantity::{Length, Turns};
//! use gradimen_core::units::print;
//!
//! assert_eq!(print::thou(Length::from_thou(14.0)), "14 thou");
//! // Rounded once, by the rule that printing uses.
//! assert_eq!(print::turns_with_word(print::rounded_turns(Turns::new(0.24))), "1/4 turn");
//! ```

use std::cell::Cell;
use std::fmt;

use super::LengthUnit;
use crate::quantity::{Cents, Length, NEWTONS_PER_POUND_FORCE, Rate, Turns};

/// The minus of print, as wide as the plus.
const MINUS: char = '\u{2212}';

/// What lengths on a bench are written in, where they are not written back as they were typed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub enum BenchUnits {
    /// Millimetres.
    #[default]
    Millimetres,
    /// Thousandths of an inch; inches where they are many.
    Thousandths,
}

thread_local! {
    /// A page is written by one thread from its first word to its last, and every word of it in the units of one bench.
    static BENCH: Cell<BenchUnits> = const { Cell::new(BenchUnits::Millimetres) };
}

/// Puts the units back, whatever happened meanwhile.
struct Before(BenchUnits);

impl Drop for Before {
    fn drop(&mut self) {
        BENCH.set(self.0);
    }
}

/// Writes something in the units of a bench.
///
/// ```
/// use gradimen_core::quantity::Length;
/// use gradimen_core::units::print::{BenchUnits, UNIT, on_bench, with_unit};
///
/// let gap = Length::from_thou(14.0);
/// assert_eq!(with_unit(gap), "0.356 mm");
/// assert_eq!(on_bench(BenchUnits::Thousandths, || with_unit(gap)), "14 thou");
/// assert_eq!(UNIT.to_string(), "mm");
/// ```
pub fn on_bench<R>(units: BenchUnits, write: impl FnOnce() -> R) -> R {
    let _before = Before(BENCH.replace(units));
    write()
}

/// The units that are written in now.
pub fn bench() -> BenchUnits {
    BENCH.get()
}

/// The unit that stands behind a length, or at the head of its column.
#[derive(Debug, Clone, Copy)]
pub struct Unit;

/// [`Unit`], to be captured in a format string.
pub const UNIT: Unit = Unit;

impl fmt::Display for Unit {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match bench() {
            BenchUnits::Millimetres => "mm",
            BenchUnits::Thousandths => "thou",
        })
    }
}

/// In one unit, exact enough to be read back: `1.75 mm`, `10 thou`, `4.5 64ths`.
pub fn length(value: Length, unit: LengthUnit) -> String {
    // Twelve significant digits: conversion noise vanishes, no tool resolves more.
    let number = value.ratio(unit.one());
    let digits = if number == 0.0 {
        0
    } else {
        (11 - number.abs().log10().floor() as i32).clamp(0, 17)
    };
    let text = format!("{number:.*}", usize::try_from(digits).unwrap_or(0));
    format!("{} {}", trimmed(&text), unit.symbol())
}

/// A limit in one unit, to three digits: `118 thou`, `15.7 in`.
pub fn limit(value: Length, unit: LengthUnit) -> String {
    let number = value.ratio(unit.one());
    let digits = if number == 0.0 {
        0
    } else {
        (2 - number.abs().log10().floor() as i32).max(0)
    };
    let text = format!("{number:.*}", usize::try_from(digits).unwrap_or(0));
    format!("{} {}", trimmed(&text), unit.symbol())
}

fn trimmed(text: &str) -> &str {
    if text.contains('.') {
        text.trim_end_matches('0').trim_end_matches('.')
    } else {
        text
    }
}

/// Millimetres to a micrometre below one, to a hundredth below a hundred, to a tenth above; trailing zeros gone.
///
/// On a bench of thousandths: those, to a tenth, and inches from two on.
pub fn with_unit(value: Length) -> String {
    if bench() == BenchUnits::Thousandths {
        return if value.inches().abs() < 2.0 {
            thou(value)
        } else {
            inches(value)
        };
    }
    let number = value.mm();
    let digits = if number.abs() < 0.9995 {
        3
    } else if number.abs() < 99.995 {
        2
    } else {
        1
    };
    let text = format!("{number:.digits$}");
    signed_zero_free(format!("{} mm", trimmed(&text)))
}

/// Millimetres to a tenth, or thousandths: what a rule can set.
pub fn tenths(value: Length) -> String {
    if bench() == BenchUnits::Thousandths {
        return signed_zero_free(format!("{:.0} thou", value.thou()));
    }
    signed_zero_free(format!("{:.1} mm", value.mm()))
}

/// Decimal inches to a thou, as the trade writes them: `.010 in`, `1.750 in`.
pub fn inches(value: Length) -> String {
    let text = format!("{:.3}", value.inches());
    let text = match text.strip_prefix("0.") {
        Some(rest) => format!(".{rest}"),
        None => text.replacen("-0.", "-.", 1),
    };
    signed_zero_free(format!("{text} in"))
}

/// Thousandths of an inch, to a tenth.
pub fn thou(value: Length) -> String {
    let text = format!("{:.1}", value.thou());
    signed_zero_free(format!("{} thou", trimmed(&text)))
}

fn signed_zero_free(text: String) -> String {
    let Some(rest) = text.strip_prefix('-') else {
        return text;
    };
    if rest.starts_with(|letter: char| letter.is_ascii_digit() || letter == '.')
        && !rest.bytes().any(|byte| (b'1'..=b'9').contains(&byte))
    {
        rest.to_owned()
    } else {
        format!("{MINUS}{rest}")
    }
}

/// A difference with its sign, to so many decimals: `+6.2`, `\u{2212}1.1`, `0.0`.
pub fn signed(value: f64, decimals: usize) -> String {
    let text = format!("{:.decimals$}", value.abs());
    let zero = !text.bytes().any(|byte| (b'1'..=b'9').contains(&byte));
    match (zero, value < 0.0) {
        (true, _) => text,
        (false, true) => format!("{MINUS}{text}"),
        (false, false) => format!("+{text}"),
    }
}

/// A cents reading with its sign, to a tenth.
pub fn cents(value: Cents) -> String {
    signed(value.value(), 1)
}

/// Cents as a hand types what a tuner shows, in steps of its resolution and no finer than a tenth: `-3`, `0.5`.
pub fn plain_cents(value: Cents, resolution: f64) -> String {
    let step = resolution.max(0.1);
    let shown = (value.value() / step).round() * step;
    // Adding nothing takes the sign off a zero.
    format!("{}", (shown * 1e3).round() / 1e3 + 0.0)
}

/// How hard a spring is: `1200 N/m (6.9 lbf/in)`.
pub fn rate(value: Rate) -> String {
    let metric = value.newtons_per_metre();
    let inch = metric * Length::from_inches(1.0).metres() / NEWTONS_PER_POUND_FORCE;
    format!("{metric:.0} N/m ({inch:.1} lbf/in)")
}

/// The finest part of a turn anyone sets by eye on a screw.
pub const TURN_DIVISIONS: f64 = 8.0;
/// The finest part of a turn a truss rod's key can set, and the finest that is printed.
pub const FINEST_DIVISIONS: f64 = 16.0;

/// Turns rounded to an eighth: what a screw is set to.
pub fn rounded_turns(turns: Turns) -> Turns {
    Turns::new((turns.value() * TURN_DIVISIONS).round() / TURN_DIVISIONS)
}

/// An amount of turning without direction, to a sixteenth: `4 1/2`, `3/8`, `1/16`, `2`, `0`.
pub fn turns(turns: Turns) -> String {
    let sixteenths = (turns.value().abs() * FINEST_DIVISIONS).round() as u64;
    let (whole, part) = (sixteenths / 16, sixteenths % 16);
    let shift = part.trailing_zeros().min(4);
    let (top, bottom) = (part >> shift, 16 >> shift);
    match (whole, top) {
        (whole, 0) => whole.to_string(),
        (0, top) => format!("{top}/{bottom}"),
        (whole, top) => format!("{whole} {top}/{bottom}"),
    }
}

/// `1 turn`, `3/4 turn`, `2 turns`.
pub fn turns_with_word(amount: Turns) -> String {
    let word = if (amount.value().abs() * FINEST_DIVISIONS).round() > FINEST_DIVISIONS {
        "turns"
    } else {
        "turn"
    };
    format!("{} {word}", turns(amount))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::units::parse_length;

    #[test]
    fn prints_for_the_bench() {
        assert_eq!(with_unit(Length::from_mm(2.3)), "2.3 mm");
        assert_eq!(with_unit(Length::from_mm(0.2541)), "0.254 mm");
        assert_eq!(with_unit(Length::from_mm(-1.106)), "\u{2212}1.11 mm");
        assert_eq!(with_unit(Length::from_mm(-0.0001)), "0 mm");
        assert_eq!(with_unit(Length::from_mm(647.7)), "647.7 mm");
        assert_eq!(limit(Length::from_mm(400.0), LengthUnit::Inch), "15.7 in");
        assert_eq!(
            limit(Length::from_mm(1000.0), LengthUnit::Millimetre),
            "1000 mm"
        );
        assert_eq!(
            limit(Length::from_mm(0.05), LengthUnit::Millimetre),
            "0.05 mm"
        );
        assert_eq!(tenths(Length::from_mm(1.04)), "1.0 mm");
        assert_eq!(tenths(Length::from_mm(-0.02)), "0.0 mm");
        assert_eq!(inches(Length::from_thou(10.0)), ".010 in");
        assert_eq!(inches(Length::from_inches(25.5)), "25.500 in");
        assert_eq!(thou(Length::from_thou(6.5)), "6.5 thou");
        assert_eq!(
            rate(Rate::from_newtons_per_metre(1200.0)),
            "1200 N/m (6.9 lbf/in)"
        );
        assert_eq!(cents(Cents::new(6.24)), "+6.2");
        assert_eq!(cents(Cents::new(-0.04)), "0.0");
        assert_eq!(cents(Cents::new(-1.1)), "\u{2212}1.1");
    }

    #[test]
    fn prints_turns_to_a_sixteenth() {
        for (value, text) in [
            (4.5, "4 1/2"),
            (-0.37, "3/8"),
            (0.0625, "1/16"),
            (-0.1875, "3/16"),
            (1.9375, "1 15/16"),
            (2.03, "2"),
            (0.02, "0"),
            (0.97, "1"),
            (1.75, "1 3/4"),
        ] {
            assert_eq!(turns(Turns::new(value)), text);
        }
        assert_eq!(turns_with_word(Turns::new(1.02)), "1 turn");
        assert_eq!(turns_with_word(Turns::new(-1.2)), "1 3/16 turns");
        assert_eq!(turns_with_word(Turns::new(-1.24)), "1 1/4 turns");
        assert_eq!(rounded_turns(Turns::new(-0.70)), Turns::new(-0.75));
    }

    #[test]
    fn a_printed_length_reads_back_the_same() {
        for unit in LengthUnit::ALL {
            let value = unit.one() * 3.4375;
            let entry = parse_length(&length(value, unit), LengthUnit::Centimetre).unwrap();
            assert!((entry.middle() - value).abs().mm() < 1e-9, "{unit}");
            assert_eq!(entry.unit(), unit);
        }
    }

    #[test]
    fn what_is_printed_of_turns_is_what_was_meant() {
        // A sixteenth of a rod was once printed as an eighth, and learned as a sixteenth.
        for sixteenths in 0..=160 {
            let amount = Turns::new(f64::from(sixteenths) / 16.0);
            let back = crate::units::parse_turns(&turns_with_word(amount)).unwrap();
            assert_eq!(back, amount);
        }
    }
}
