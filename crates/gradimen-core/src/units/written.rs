//! A length as it stands on the paper: numbers, and units where they were written.

use super::UnitError;
use super::length::{Entry, LengthUnit};
use super::number::{Number, normalised, number, split_unit};
use crate::quantity::Length;

/// How lengths are written; part of every message about one.
pub(super) const EXPECTED: &str = "1.75 mm, 5/64, 3.5/32, .010, 10 thou or 6-8 thou";

/// A length as it stands on the paper: numbers, and units where they were written.
pub(super) struct Written {
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
    pub(super) fn parse(text: &str) -> Result<Self, UnitError> {
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
    pub(super) fn is_bare(&self) -> bool {
        self.high.1.is_none() && !self.high.0.fraction
    }

    /// Decimal inches are written `.010`, or with all their thousandths behind a nought: `0.010`.
    pub(super) fn looks_like_inches(&self) -> bool {
        let number = self.plain.replace(',', ".");
        let digits = |text: &str| text.chars().take_while(char::is_ascii_digit).count();
        number.starts_with('.')
            || number
                .strip_prefix("0.")
                .is_some_and(|behind| digits(behind) >= 3)
    }

    /// Divisions of a rule are read to a half, and told apart to a quarter.
    pub(super) fn counts_in(&self, unit: LengthUnit) -> bool {
        !matches!(unit, LengthUnit::SixtyFourth | LengthUnit::ThirtySecond)
            || (self.high.0.value * 4.0).fract() == 0.0
    }

    /// What it means when a bare number takes `unit`, in a field whose own unit is `field`.
    pub(super) fn entry(&self, unit: LengthUnit, field: LengthUnit) -> Result<Entry, UnitError> {
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
