//! How well a reading is known from the way it was written: a fraction comes from a rule, an
//! interval from two blades, a decimal from a gauge.

use gradimen_core::quantity::Length;

use crate::record::Measured;

/// A blade's light touch (common practice: half a thousandth of an inch).
const TOUCH_MM: f64 = 0.012;
/// Reading a rule against a string: parallax (common practice).
const PARALLAX_MM: f64 = 0.06;
/// Rules are read to half a division.
const HALF: f64 = 0.5;

/// One standard deviation of a height as it was written.
pub fn reading_sigma(measured: &Measured) -> Length {
    let width = (measured.high - measured.low).mm();
    if width > 0.0 {
        // Anywhere between the blades with the same right.
        return Length::from_mm((width / 12f64.sqrt()).hypot(TOUCH_MM));
    }
    let text = measured.written.to_lowercase();
    if let Some(denominator) = denominator(&text) {
        let division = 25.4 / denominator * HALF;
        return Length::from_mm((division / 12f64.sqrt()).hypot(PARALLAX_MM));
    }
    let unit = if text.contains("mm") {
        1.0
    } else if text.contains("cm") {
        10.0
    } else if text.contains("thou") || text.contains("mil") {
        0.0254
    } else {
        25.4
    };
    let step = unit * 10f64.powi(-decimals(&text));
    // No one sets a gauge under a string better than a light touch, whatever it shows.
    Length::from_mm((step / 12f64.sqrt()).hypot(TOUCH_MM * 1.5))
}

fn denominator(text: &str) -> Option<f64> {
    let after = text.split('/').nth(1)?;
    let digits: String = after
        .trim()
        .chars()
        .take_while(char::is_ascii_digit)
        .collect();
    digits.parse().ok().filter(|denominator| *denominator > 0.0)
}

fn decimals(text: &str) -> i32 {
    let digits = |rest: &str| rest.chars().take_while(char::is_ascii_digit).count();
    text.split_once(['.', ','])
        .map_or(0, |(_, rest)| i32::try_from(digits(rest)).unwrap_or(0))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn rules_blades_and_gauges_differ() {
        let sigma = |written: &str, low: f64, high: f64| {
            let measured =
                Measured::new(written.into(), Length::from_mm(low), Length::from_mm(high));
            reading_sigma(&measured).mm()
        };
        let rule = sigma("4/64", 1.5875, 1.5875);
        let coarse = sigma("3 1/32\"", 2.4, 2.4);
        let blades = sigma("6-8 thou", 0.1524, 0.2032);
        let blade = sigma("10 thou", 0.254, 0.254);
        let tenth = sigma("1.7 mm", 1.7, 1.7);
        let inches = sigma(".020\"", 0.508, 0.508);
        assert!(rule > 0.07 && rule < 0.1 && coarse > rule);
        assert!((blades - (0.0508f64 / 12f64.sqrt()).hypot(0.012)).abs() < 1e-9);
        assert!(blade < 0.03 && inches < 0.03 && tenth > blade && tenth < rule);
    }
}
