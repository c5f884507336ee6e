//! How hard a spring is, by any of the three ways a bench can tell.

use super::number::{normalised, number, split_unit};
use super::{LengthUnit, UnitError, parse_length};
use crate::quantity::{Length, Mass, NEWTONS_PER_POUND_FORCE, Rate};
use crate::spring::{rate_of_coil, rate_of_weight};

const RATE: &str = "1200 N/m, 1.2 N/mm or 6.9 lbf/in; a weight and what it stretches: 500 g 4.1 mm; or the coil: wire 1.2 mm coil 8.5 mm turns 30";
/// Springs of vibratos, pulled or pressed, in newtons per metre.
const LIMITS: (f64, f64) = (100.0, 100_000.0);

/// Reads a spring's rate: a number (a bare one is newtons per metre), a hung weight with the stretch it
/// gives, or wire, outside of the coil and active turns.
///
/// # Errors
/// A [`UnitError`] that says what was read and how it is written.
pub fn parse_rate(text: &str) -> Result<Rate, UnitError> {
    let plain = normalised(text);
    if plain.is_empty() {
        return Err(UnitError::Empty { expected: RATE });
    }
    let rate = if plain.starts_with("wire") {
        by_coil(&plain, text)?
    } else if let Some((mass, stretch)) = weight(&plain) {
        by_weight(mass, stretch, text)?
    } else {
        plain_rate(&plain, text)?
    };
    let value = rate.newtons_per_metre();
    if (LIMITS.0..=LIMITS.1).contains(&value) {
        Ok(rate)
    } else {
        Err(UnitError::Absurd {
            read: text.trim().to_owned(),
            understood: format!("{value:.0} N/m"),
            low: LIMITS.0.to_string(),
            high: format!("{} N/m", LIMITS.1),
            what: "a spring of a vibrato".to_owned(),
        })
    }
}

fn wrong(text: &str) -> UnitError {
    UnitError::NotANumber {
        read: text.trim().to_owned(),
        expected: RATE,
    }
}

fn plain_rate(plain: &str, text: &str) -> Result<Rate, UnitError> {
    let (digits, symbol) = split_unit(plain);
    let factor = match symbol.replace(' ', "").as_str() {
        "" | "n/m" => 1.0,
        "n/mm" => 1e3,
        "lbf/in" | "lb/in" => NEWTONS_PER_POUND_FORCE / Length::from_inches(1.0).metres(),
        _ => {
            return Err(UnitError::UnknownUnit {
                read: text.trim().to_owned(),
                unit: symbol.to_owned(),
                expected: RATE,
            });
        }
    };
    let value = number(digits, text, RATE)?.value * factor;
    Ok(Rate::from_newtons_per_metre(value))
}

/// `500 g 4.1 mm`, with anything that is no number between the two.
fn weight(plain: &str) -> Option<(&str, &str)> {
    let end = ["kg", "g", "lb"].into_iter().find_map(|unit| {
        let at = plain.find(unit)?;
        let behind = plain[at + unit.len()..].chars().next();
        behind
            .is_none_or(|letter| !letter.is_alphanumeric() && letter != '/')
            .then_some(at + unit.len())
    })?;
    let stretch = plain[end..].find(|letter: char| letter.is_ascii_digit() || letter == '.')?;
    Some((&plain[..end], &plain[end + stretch..]))
}

fn by_weight(mass: &str, stretch: &str, text: &str) -> Result<Rate, UnitError> {
    let (digits, symbol) = split_unit(mass);
    let kilograms = match symbol {
        "kg" => 1.0,
        "g" => 1e-3,
        // SP 811: a pound is 0.453 592 37 kg.
        _ => 0.453_592_37,
    };
    let mass = Mass::from_kilograms(number(digits, text, RATE)?.value * kilograms);
    let stretch = parse_length(stretch, LengthUnit::Millimetre)?.middle();
    rate_of_weight(mass, stretch).map_err(|_| wrong(text))
}

fn by_coil(plain: &str, text: &str) -> Result<Rate, UnitError> {
    let part = |from: &str, to: Option<&str>| -> Result<String, UnitError> {
        let (_, rest) = plain.split_once(from).ok_or_else(|| wrong(text))?;
        let part = match to {
            Some(to) => rest.split_once(to).ok_or_else(|| wrong(text))?.0,
            None => rest,
        };
        Ok(part.trim_matches([' ', ',', ';', ':']).to_owned())
    };
    let wire = parse_length(&part("wire", Some("coil"))?, LengthUnit::Millimetre)?;
    let coil = parse_length(&part("coil", Some("turns"))?, LengthUnit::Millimetre)?;
    let turns = number(&part("turns", None)?, text, RATE)?.value;
    rate_of_coil(wire.middle(), coil.middle(), turns).map_err(|_| wrong(text))
}

#[cfg(test)]
mod tests {
    use super::*;

    fn read(text: &str) -> f64 {
        parse_rate(text).unwrap().newtons_per_metre()
    }

    #[test]
    fn numbers_weights_and_coils() {
        assert_eq!(read("1200"), 1200.0);
        assert_eq!(read("1,2 N/mm"), 1200.0);
        // SP 811: 1 lbf/in is 175.1268 N/m.
        assert!((read("6.85 lbf/in") - 6.85 * 175.126_8).abs() < 0.01);
        // Half a kilogram on 4.1 mm, by Hooke.
        let hung = 0.5 * 9.806_65 / 0.0041;
        for text in ["500 g 4.1 mm", "0.5 kg: 4.1", "500g stretches 4.1 mm"] {
            assert!((read(text) - hung).abs() < 1e-6, "{text}");
        }
        // Shigley's worked example: about 4.13 lbf/in.
        let coil = read("wire .037 in, coil 7/16 in, turns 10.5");
        assert!((coil / 175.126_8 - 4.13).abs() < 0.06, "{coil}");
    }

    #[test]
    fn nonsense_says_how_to_write_it() {
        for text in [
            "",
            "soft",
            "12 horses",
            "500 g",
            "500 g 0.1 mm",
            "wire 1.2",
            "wire 1.2 coil 8 turns x",
            "3",
            "400 N/mm",
            "1 kg 4 stone",
        ] {
            let says = parse_rate(text).unwrap_err().to_string();
            assert!(
                says.contains("write") || says.contains("lies between"),
                "{text}: {says}"
            );
        }
    }
}
