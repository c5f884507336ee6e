//! Numbers and verdicts in the words of the page.

use crate::vocabulary::*;
use gradimen_core::quantity::{Cents, Estimate, Force, Length, Turns};
use gradimen_core::units::print;

/// Millimetres with a fixed number of decimals and a proper minus.
pub(crate) fn mm(length: Length, decimals: usize) -> String {
    let text = format!("{:.decimals$}", length.mm().abs());
    let zero = !text.bytes().any(|byte| (b'1'..=b'9').contains(&byte));
    if length.mm() < 0.0 && !zero {
        format!("\u{2212}{text}")
    } else {
        text
    }
}

/// A length in both units: `2.30 mm (.091 in)`.
pub(crate) fn both(length: Length) -> String {
    format!("{} ({})", print::mm(length), print::inches(length))
}

/// `+6.2 \u{b1} 0.4`.
pub(crate) fn estimate(cents: Estimate<Cents>) -> String {
    format!(
        "{} \u{b1} {:.1}",
        print::cents(cents.value),
        cents.sigma.value()
    )
}

/// `back 2.3 mm`, `forward 0.9 mm`.
pub(crate) fn way(distance: Length) -> String {
    let word = if distance >= Length::ZERO {
        "back"
    } else {
        "forward"
    };
    format!("{word} {} mm", mm(distance.abs(), 1))
}

/// `4 1/2 turns`.
pub(crate) fn turns(turns: Turns) -> String {
    print::turns_with_word(turns)
}

/// `1/2 turn clockwise`.
pub(crate) fn turning(step: &Move) -> String {
    let turns = turns(step.turns());
    step.rotation
        .map_or_else(|| turns.clone(), |rotation| format!("{turns} {rotation}"))
}

/// Newtons to a tenth.
pub(crate) fn newtons(force: Force) -> String {
    format!("{:.1}", force.newtons())
}

/// A change of pull with its sign.
pub(crate) fn change(force: Force) -> String {
    print::signed(force.newtons(), 1)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_like_a_bench_note() {
        assert_eq!(way(Length::from_mm(2.31)), "back 2.3 mm");
        assert_eq!(way(Length::from_mm(-0.86)), "forward 0.9 mm");
        assert_eq!(mm(Length::from_mm(-0.001), 1), "0.0");
        assert_eq!(mm(Length::from_mm(-1.26), 1), "\u{2212}1.3");
        assert_eq!(
            estimate(Estimate::new(Cents::new(-3.04), Cents::new(0.4))),
            "\u{2212}3.0 \u{b1} 0.4"
        );
        assert_eq!(both(Length::from_mm(25.4)), "25.4 mm (1.000 in)");
    }
}
