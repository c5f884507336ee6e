//! Everything typed that is not a length.

use super::UnitError;
use super::number::{normalised, number, split_unit};
use crate::quantity::{Cents, Force, Frequency, Level, Mass, Turns};

const CENTS: &str =
    "cents with a sign, sharp positive: +6.2 or -3; several readings with spaces between";
const TURNS: &str = "turns: 1/4, 1 1/2 or 2.25";
const MASS: &str = "0.62 g or 620 mg";
const FORCE: &str = "80 N, 18 lb or 8.2 kg";
const DECIBELS: &str = "what the meter shows in decibels: -18.5";
const FREQUENCY: &str = "440 or 440 Hz";

/// A reading further off than this is another note, not intonation.
const MOST_CENTS: f64 = 100.0;

/// Reads one or several tuner readings: `+6.2`, `-3 c`, `6,1 6,4 5,9`.
///
/// # Errors
/// A [`UnitError`]; beyond 100 cents it is another note.
pub fn parse_cents(text: &str) -> Result<Vec<Cents>, UnitError> {
    let plain = normalised(text)
        .replace(['\u{a2}', ';'], " ")
        .replace("cents", " ")
        .replace("cent", " ");
    // A sign standing apart belongs to the number behind it.
    let plain = plain.replace("+ ", "+").replace("- ", "-");
    let mut readings = Vec::new();
    for word in plain.split_whitespace() {
        let word = word.trim_end_matches('c');
        if word.is_empty() {
            continue;
        }
        let value = number(word, text, CENTS)?.value;
        if value.abs() > MOST_CENTS {
            return Err(UnitError::Absurd {
                read: text.trim().to_owned(),
                understood: format!("{value} cents"),
                low: "-100".to_owned(),
                high: "+100 cents".to_owned(),
                what: "a reading of the same note: beyond that the tuner shows another note"
                    .to_owned(),
            });
        }
        readings.push(Cents::new(value));
    }
    if readings.is_empty() {
        return Err(UnitError::Empty { expected: CENTS });
    }
    Ok(readings)
}

/// One number with one of the units given, each with its factor; the first is the default.
fn with_unit(text: &str, units: &[(&str, f64)], expected: &'static str) -> Result<f64, UnitError> {
    let plain = normalised(text);
    if plain.is_empty() {
        return Err(UnitError::Empty { expected });
    }
    let (digits, symbol) = split_unit(&plain);
    let factor = if symbol.is_empty() {
        units.first().map_or(1.0, |&(_, factor)| factor)
    } else {
        units
            .iter()
            .find(|(name, _)| *name == symbol)
            .map(|&(_, factor)| factor)
            .ok_or_else(|| UnitError::UnknownUnit {
                read: text.trim().to_owned(),
                unit: symbol.to_owned(),
                expected,
            })?
    };
    Ok(number(digits, text, expected)?.value * factor)
}

/// What lies outside the limits, with its reason.
fn within(
    value: f64,
    (low, high): (f64, f64),
    unit: &str,
    what: &str,
    text: &str,
) -> Result<f64, UnitError> {
    if (low..=high).contains(&value) {
        Ok(value)
    } else {
        Err(UnitError::Absurd {
            read: text.trim().to_owned(),
            understood: format!("{value} {unit}"),
            low: low.to_string(),
            high: format!("{high} {unit}"),
            what: what.to_owned(),
        })
    }
}

/// Reads turns of a screw: `1/4`, `1 1/2`, `2.25 turns`. A sign is allowed.
///
/// # Errors
/// A [`UnitError`]; more than 40 turns is a screw on the floor.
pub fn parse_turns(text: &str) -> Result<Turns, UnitError> {
    let value = with_unit(text, &[("turns", 1.0), ("turn", 1.0), ("t", 1.0)], TURNS)?;
    within(value, (-40.0, 40.0), "turns", "one move of a screw", text).map(Turns::new)
}

/// Reads a mass from a pocket scale; a bare number is grams.
///
/// # Errors
/// A [`UnitError`]; a cut-off weighs between a milligram and 200 g.
pub fn parse_mass(text: &str) -> Result<Mass, UnitError> {
    let value = with_unit(
        text,
        &[("g", 1.0), ("gram", 1.0), ("grams", 1.0), ("mg", 1e-3)],
        MASS,
    )?;
    within(value, (0.001, 200.0), "g", "a piece of string", text).map(Mass::from_grams)
}

/// Reads a tension; a bare number is newtons.
///
/// # Errors
/// A [`UnitError`]; one string pulls 5 to 600 N, a set up to 3000 N.
pub fn parse_force(text: &str) -> Result<Force, UnitError> {
    let (pound, kilogram) = (
        Force::from_pounds(1.0).newtons(),
        Force::from_kilograms(1.0).newtons(),
    );
    let units = [
        ("n", 1.0),
        ("lbf", pound),
        ("lb", pound),
        ("lbs", pound),
        ("kgf", kilogram),
        ("kg", kilogram),
        ("kp", kilogram),
    ];
    let value = with_unit(text, &units, FORCE)?;
    within(value, (5.0, 3000.0), "N", "the pull of strings", text).map(Force::from_newtons)
}

/// Reads a frequency; a bare number is hertz.
///
/// # Errors
/// A [`UnitError`].
pub fn parse_frequency(text: &str) -> Result<Frequency, UnitError> {
    let value = with_unit(text, &[("hz", 1.0), ("hertz", 1.0)], FREQUENCY)?;
    within(value, (1.0, 20_000.0), "Hz", "a note", text).map(Frequency::from_hertz)
}

/// Reads a level as a meter shows it; a bare number is decibels.
///
/// # Errors
/// A [`UnitError`]; no meter shows more than 150 dB either way.
pub fn parse_decibels(text: &str) -> Result<Level, UnitError> {
    let value = with_unit(text, &[("db", 1.0), ("dbfs", 1.0)], DECIBELS)?;
    within(value, (-150.0, 150.0), "dB", "a level", text).map(Level::from_decibels)
}

#[cfg(test)]
mod tests {
    use super::*;

    fn cents(text: &str) -> Vec<f64> {
        parse_cents(text)
            .unwrap()
            .into_iter()
            .map(Cents::value)
            .collect()
    }

    #[test]
    fn reads_tuner_readings() {
        assert_eq!(cents("+6.2"), [6.2]);
        assert_eq!(cents("\u{2212}3 c"), [-3.0]);
        assert_eq!(cents("6,1 6,4; 5.9c"), [6.1, 6.4, 5.9]);
        assert_eq!(cents("- 2 cents"), [-2.0]);
        assert_eq!(cents("0"), [0.0]);
    }

    #[test]
    fn refuses_what_is_no_reading() {
        for text in ["", "sharp", "6-8", "1e2", "+", "c"] {
            assert!(parse_cents(text).is_err(), "{text}");
        }
        let message = parse_cents("440").unwrap_err().to_string();
        assert!(message.contains("another note"), "{message}");
    }

    #[test]
    fn reads_the_other_quantities() {
        assert_eq!(parse_turns("1 1/2").unwrap(), Turns::new(1.5));
        assert_eq!(parse_turns("-\u{bc} turn").unwrap(), Turns::new(-0.25));
        assert!((parse_mass("620 mg").unwrap().grams() - 0.62).abs() < 1e-12);
        assert!((parse_force("18 lb").unwrap().pounds() - 18.0).abs() < 1e-9);
        assert!((parse_force("8.2 kg").unwrap().kilograms() - 8.2).abs() < 1e-9);
        assert_eq!(parse_frequency("442 Hz").unwrap().hertz(), 442.0);
        assert_eq!(parse_decibels("\u{2212}18,5 dB").unwrap().decibels(), -18.5);
        assert!(parse_decibels("loud").is_err() && parse_decibels("NaN").is_err());
        assert!(parse_turns("90").is_err());
        assert!(parse_mass("2 lb").is_err());
        assert!(parse_force("2 N").is_err());
    }
}
