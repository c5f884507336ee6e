//! Numbers in words, as they stand on the bench: `0.36 ± 0.02`, `5/64`, `1/2 turn clockwise`.
//!
//! ```
//! use gradimen_bench::text::numbers;
//! use gradimen_core::quantity::Length;
//!
//! assert_eq!(numbers::small(Length::from_thou(14.0)), "0.36 mm (14 thou)");
//! assert_eq!(numbers::way(Length::from_mm(-0.86)), "forward 0.9 mm");
//! ```

use gradimen_core::quantity::{Cents, Estimate, Force, Length, Turns};
use gradimen_core::units::print::{self, BenchUnits};

pub use gradimen_core::units::print::UNIT;

use crate::decision::{Move, Odds, Quantity};
use crate::estimate::Estimate as Known;

/// A length in the unit of the bench, to so many decimals of a millimetre, with a proper minus; [`UNIT`] stands behind it.
pub fn in_unit(length: Length, decimals: usize) -> String {
    let text = match print::bench() {
        BenchUnits::Millimetres => format!("{:.decimals$}", length.mm().abs()),
        // A hundredth of a millimetre is four tenths of a thousandth.
        BenchUnits::Thousandths => {
            format!("{:.1$}", length.thou().abs(), usize::from(decimals > 1))
        }
    };
    let zero = !text.bytes().any(|byte| (b'1'..=b'9').contains(&byte));
    if length.mm() < 0.0 && !zero {
        format!("\u{2212}{text}")
    } else {
        text
    }
}

/// A length in both units: `2.30 mm (.091 in)`.
pub fn both(length: Length) -> String {
    match print::bench() {
        BenchUnits::Millimetres => {
            format!("{} ({})", print::with_unit(length), print::inches(length))
        }
        BenchUnits::Thousandths => format!("{} ({:.2} mm)", print::inches(length), length.mm()),
    }
}

/// `0.36 mm (14 thou)`.
pub fn small(value: Length) -> String {
    match print::bench() {
        BenchUnits::Millimetres => format!("{} mm ({})", in_unit(value, 2), print::thou(value)),
        BenchUnits::Thousandths => format!("{} ({:.2} mm)", print::thou(value), value.mm()),
    }
}

/// A radius: `248 mm`, `9.8 in`.
pub fn radius(value: Length) -> String {
    match print::bench() {
        BenchUnits::Millimetres => format!("{:.0} mm", value.mm()),
        BenchUnits::Thousandths => format!("{:.1} in", value.inches()),
    }
}

/// A height in the nearest half 64th, as a rule shows it.
pub fn sixty_fourths(value: Length) -> String {
    let halves = (value.inches() * 128.0).round();
    format!("{}/64", halves / 2.0)
}

/// `0.36 ± 0.02`.
pub fn spread(value: Estimate<Length>) -> String {
    format!(
        "{} \u{b1} {}",
        in_unit(value.value, 2),
        in_unit(value.sigma, 2)
    )
}

/// How sure it is that a quantity is in spec, where it is let be.
pub fn stands(quantity: &Quantity) -> String {
    stands_within(quantity.odds, quantity.allowed)
}

/// The same of anything that may be so much too low and too high.
pub fn stands_within(odds: Odds, (low, high): (Length, Length)) -> String {
    let (low, high) = (in_unit(low, 2), in_unit(high, 2));
    if low == high {
        return super::stands(odds, &format!("{low} {UNIT}"));
    }
    super::stands_within(odds, &format!("\u{2212}{low}, +{high} {UNIT}"))
}

/// `+6.2 ± 0.4`.
pub fn estimate(cents: Estimate<Cents>) -> String {
    format!(
        "{} \u{b1} {:.1}",
        print::cents(cents.value),
        cents.sigma.value()
    )
}

/// `back 2.3 mm`, `forward 0.9 mm`.
pub fn way(distance: Length) -> String {
    let word = if distance >= Length::ZERO {
        "back"
    } else {
        "forward"
    };
    format!("{word} {} {UNIT}", in_unit(distance.abs(), 1))
}

/// `4 1/2 turns`.
pub fn turns(turns: Turns) -> String {
    print::turns_with_word(turns)
}

/// How far a move goes in the terms of its drive: `4 1/2 turns`, `0.8 mm`.
pub fn by(step: &Move) -> String {
    if step.is_slid() {
        format!("{} {UNIT}", in_unit(step.distance.abs(), 1))
    } else {
        turns(step.turns())
    }
}

/// `1/2 turn clockwise`.
pub fn turning(step: &Move) -> String {
    let turns = turns(step.turns());
    step.rotation
        .map_or_else(|| turns.clone(), |rotation| format!("{turns} {rotation}"))
}

/// Newtons to a tenth.
pub fn newtons(force: Force) -> String {
    format!("{:.1}", force.newtons())
}

/// A change of pull with its sign.
pub fn change(force: Force) -> String {
    print::signed(force.newtons(), 1)
}

/// A tension in the bench's units: `104 lb (462 N)`.
pub fn tension(force: Force) -> String {
    format!("{:.0} lb ({:.0} N)", force.pounds(), force.newtons())
}

/// A share in whole hundredths: `45 %`.
pub fn percent(share: f64) -> String {
    format!("{:.0} %", share * 100.0)
}

/// What the first reading after a move will be: `0.36 ± 0.02`.
pub fn expected(step: &Move) -> String {
    let value = step.expected.first().and_then(|first| first.value.length());
    value.map_or_else(String::new, spread)
}

/// What the star behind a reading means: something moved since, and it is carried on by the estimate.
pub const CARRIED: &str = "* carried from an earlier reading";

/// What was last read, and whether it is carried since.
pub fn last_read(quantity: &Quantity) -> String {
    quantity.last.as_ref().map_or_else(
        || "not read".to_owned(),
        |last| {
            if quantity.is_carried() {
                format!("{} *", last.written)
            } else {
                last.written.clone()
            }
        },
    )
}

/// What a quantity is now, or nothing when it was never read: `0.36 mm`.
pub fn now(quantity: &Quantity, decimals: usize) -> String {
    if quantity.last.is_some() {
        format!("{} {UNIT}", in_unit(quantity.now.value, decimals))
    } else {
        String::new()
    }
}

/// The note a string is tuned to.
pub fn note(known: &Known, string: u8) -> String {
    known
        .string_state(string)
        .map_or(String::new(), |state| state.pitch.note().to_string())
}

/// Where a string is held: `open`, or the fret.
pub fn held(fret: u8) -> String {
    if fret == 0 {
        "open".to_owned()
    } else {
        fret.to_string()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_like_a_bench_note() {
        assert_eq!(way(Length::from_mm(2.31)), "back 2.3 mm");
        assert_eq!(in_unit(Length::from_mm(-0.001), 1), "0.0");
        assert_eq!(in_unit(Length::from_mm(-1.26), 1), "\u{2212}1.3");
        assert_eq!(
            estimate(Estimate::new(Cents::new(-3.04), Cents::new(0.4))),
            "\u{2212}3.0 \u{b1} 0.4"
        );
        assert_eq!(both(Length::from_mm(25.4)), "25.4 mm (1.000 in)");
    }

    #[test]
    fn on_a_bench_of_thousandths_all_of_it_is_in_thousandths() {
        let gap = Length::from_thou(14.2);
        let said = print::on_bench(BenchUnits::Thousandths, || {
            [
                format!("{} {UNIT}", in_unit(gap, 2)),
                small(gap),
                way(Length::from_mm(-0.86)),
                spread(Estimate::new(gap, Length::from_thou(0.8))),
                both(Length::from_inches(17.0)),
                print::tenths(Length::from_mm(2.2)),
            ]
        });
        let wanted = [
            "14.2 thou",
            "14.2 thou (0.36 mm)",
            "forward 34 thou",
            "14.2 \u{b1} 0.8",
            "17.000 in (431.80 mm)",
            "87 thou",
        ];
        assert_eq!(said, wanted);
        assert_eq!(small(gap), "0.36 mm (14.2 thou)");
    }

    #[test]
    fn heights_as_a_rule_shows_them() {
        assert_eq!(sixty_fourths(Length::from_inches(5.0 / 64.0)), "5/64");
        assert_eq!(sixty_fourths(Length::from_inches(4.4 / 64.0)), "4.5/64");
        assert_eq!(
            spread(Estimate::new(Length::from_mm(0.361), Length::from_mm(0.02))),
            "0.36 \u{b1} 0.02"
        );
    }
}
