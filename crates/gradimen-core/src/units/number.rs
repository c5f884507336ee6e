//! Plain, fractional and mixed numbers as people type them.

use super::UnitError;

/// One spelling for the many dashes, spaces, marks and ready-made fractions of keyboards.
pub(super) fn normalised(text: &str) -> String {
    let mut plain = String::with_capacity(text.len());
    for letter in text.trim().chars() {
        match letter {
            '\u{2212}' | '\u{2013}' | '\u{2014}' | '\u{2010}' | '\u{2011}' => plain.push('-'),
            '\u{2033}' | '\u{201d}' | '\u{201c}' => plain.push('"'),
            '\u{2044}' => plain.push('/'),
            '\u{bd}' => plain.push_str(" 1/2"),
            '\u{bc}' => plain.push_str(" 1/4"),
            '\u{be}' => plain.push_str(" 3/4"),
            '\u{215b}' => plain.push_str(" 1/8"),
            '\u{215c}' => plain.push_str(" 3/8"),
            '\u{215d}' => plain.push_str(" 5/8"),
            '\u{215e}' => plain.push_str(" 7/8"),
            other if other.is_whitespace() => plain.push(' '),
            other => plain.extend(other.to_lowercase()),
        }
    }
    plain.replace("''", "\"").trim().to_owned()
}

/// Splits the number from the unit that follows it.
pub(super) fn split_unit(text: &str) -> (&str, &str) {
    let end = text
        .find(|letter: char| letter.is_alphabetic() || letter == '"' || letter == '%')
        .unwrap_or(text.len());
    (text[..end].trim(), text[end..].trim())
}

/// A decimal with point or comma, no exponent, no sign.
fn decimal(text: &str) -> Option<f64> {
    let text = text.replace(',', ".");
    let plain = !text.is_empty()
        && text
            .bytes()
            .all(|byte| byte.is_ascii_digit() || byte == b'.')
        && text.bytes().any(|byte| byte.is_ascii_digit());
    if plain { text.parse().ok() } else { None }
}

/// A number and whether it was written as a fraction of an inch would be.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) struct Number {
    pub(super) value: f64,
    pub(super) fraction: bool,
    /// What the divisions are of, where it was written as a fraction.
    pub(super) division: Option<f64>,
}

/// Reads `1.75`, `.010`, `1,75`, `5/64`, `3.5/32`, `25 1/2`, each with an optional sign.
pub(super) fn number(text: &str, read: &str, expected: &'static str) -> Result<Number, UnitError> {
    let wrong = || UnitError::NotANumber {
        read: read.trim().to_owned(),
        expected,
    };
    let text = text.trim();
    let (sign, text) = match text.strip_prefix('-') {
        Some(rest) => (-1.0, rest.trim()),
        None => (1.0, text.strip_prefix('+').unwrap_or(text).trim()),
    };
    let Some((top, bottom)) = text.split_once('/') else {
        return Ok(Number {
            value: sign * decimal(text).ok_or_else(wrong)?,
            fraction: false,
            division: None,
        });
    };
    let denominator = decimal(bottom.trim()).ok_or_else(wrong)?;
    if ![2.0, 4.0, 8.0, 16.0, 32.0, 64.0, 128.0].contains(&denominator) {
        return Err(UnitError::Denominator {
            read: read.trim().to_owned(),
            denominator,
        });
    }
    let top = top.trim();
    let (whole, numerator) = match top.rsplit_once(' ') {
        Some((whole, numerator)) => (decimal(whole.trim()).ok_or_else(wrong)?, numerator),
        None => (0.0, top),
    };
    let numerator = decimal(numerator).ok_or_else(wrong)?;
    if whole != 0.0 && (whole.fract() != 0.0 || numerator >= denominator) {
        return Err(wrong());
    }
    Ok(Number {
        value: sign * (whole + numerator / denominator),
        fraction: true,
        division: Some(denominator),
    })
}
