//! A measured length: what was typed, what it means, and what it is good to.

use gradimen_core::quantity::Length;
use gradimen_core::units::{Entry, LengthUnit};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::tool::{BLADE_MM, Tool};

/// Between two marks a rule is read to this (common practice: a tenth of a millimetre).
const BY_EYE_MM: f64 = 0.1;
/// Written in another unit, a mark is met within this.
const ON_A_MARK_MM: f64 = 0.012;

/// Lengths as millimetres in JSON.
pub(crate) mod as_mm {
    use gradimen_core::quantity::Length;
    use serde::{Deserialize, Deserializer, Serialize, Serializer};

    /// Millimetres without the noise of conversion: to a picometre.
    pub(crate) fn written(value: Length) -> f64 {
        (value.mm() * 1e9).round() / 1e9
    }

    pub(crate) fn serialize<S: Serializer>(
        value: &Length,
        serializer: S,
    ) -> Result<S::Ok, S::Error> {
        written(*value).serialize(serializer)
    }

    pub(crate) fn deserialize<'de, D: Deserializer<'de>>(
        deserializer: D,
    ) -> Result<Length, D::Error> {
        f64::deserialize(deserializer).map(Length::from_mm)
    }
}

/// A length as it was written, one value or between two marks, and the tool it was read with.
///
/// ```
/// use gradimen_bench::model::{Measurement, Tool};
/// use gradimen_core::units::{LengthUnit, parse_length};
///
/// let typed = parse_length("6-8", LengthUnit::Thou)?;
/// let relief = Measurement::from(&typed).with_tool(Tool::Feeler);
/// assert_eq!(relief.written, "6-8");
/// assert!((relief.middle().thou() - 7.0).abs() < 1e-6);
/// assert!(relief.sigma(Tool::Feeler).thou() < 1.0);
/// # Ok::<(), Box<dyn std::error::Error>>(())
/// ```
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Measurement {
    /// What was typed.
    pub written: String,
    /// The value, or the blade that passes, in millimetres.
    #[serde(rename = "low_mm", with = "as_mm")]
    #[schemars(with = "f64")]
    pub low: Length,
    /// The value, or the blade that drags, in millimetres.
    #[serde(rename = "high_mm", with = "as_mm")]
    #[schemars(with = "f64")]
    pub high: Length,
    /// What it was read with, where that was said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tool: Option<Tool>,
}

impl Measurement {
    /// What was typed and what it means, taken as a document will give it back: a job and its
    /// document are the same to the last digit.
    pub fn new(written: String, low: Length, high: Length) -> Self {
        let rounded = |length| Length::from_mm(as_mm::written(length));
        Self {
            written,
            low: rounded(low),
            high: rounded(high),
            tool: None,
        }
    }

    /// A value that nobody typed.
    pub fn exact(value: Length, unit: LengthUnit) -> Self {
        Self::from(&Entry::exact(value, unit))
    }

    /// A value in millimetres that nobody typed.
    pub fn mm(value: f64) -> Self {
        Self::exact(Length::from_mm(value), LengthUnit::Millimetre)
    }

    /// What a thread moves in a turn, under its name.
    pub fn thread(name: &str, pitch: Length) -> Self {
        Self::new(name.to_owned(), pitch, pitch)
    }

    /// The same, read with a tool.
    pub fn with_tool(self, tool: Tool) -> Self {
        Self {
            tool: Some(tool),
            ..self
        }
    }

    /// The value, or the middle of the interval.
    pub fn middle(&self) -> Length {
        (self.low + self.high) * 0.5
    }

    /// The same the other way.
    #[must_use]
    pub fn turned_back(self) -> Self {
        let written = match self.written.strip_prefix('-') {
            Some(forward) => forward.to_owned(),
            None => format!("-{}", self.written),
        };
        Self {
            written,
            low: -self.high,
            high: -self.low,
            ..self
        }
    }

    /// Half the width of the interval.
    pub fn half_width(&self) -> Length {
        (self.high - self.low) * 0.5
    }

    /// One standard deviation: by its tool; where none was said, by the one that the writing tells of, and
    /// else by what is usual in its place.
    pub fn sigma(&self, usual: Tool) -> Length {
        match self.tool {
            Some(tool) if self.high == self.low && self.is_between_marks(tool) => {
                tool.sigma(Length::from_mm(BY_EYE_MM))
            }
            Some(tool) => tool.sigma(self.high - self.low),
            None => self.sigma_as_written(usual),
        }
    }

    /// The same where it is read for the `count`th time since anything moved there: see [`Tool::sigma_again`].
    pub fn sigma_again(&self, usual: Tool, count: usize) -> Length {
        match self.tool {
            Some(tool) if self.high == self.low && self.is_between_marks(tool) => {
                tool.sigma_again(Length::from_mm(BY_EYE_MM), count)
            }
            Some(tool) => tool.sigma_again(self.high - self.low, count),
            None => self.sigma(usual),
        }
    }

    /// A number that lies on no half division of its rule was read between them, by eye.
    fn is_between_marks(&self, tool: Tool) -> bool {
        tool.half_division().is_some_and(|half| {
            let marks = self.middle().mm() / half;
            (marks - marks.round()).abs() * half > ON_A_MARK_MM
        })
    }

    /// Old documents name no tool. There a fraction came from a rule, an interval from two blades, a
    /// decimal from a gauge that shows so many digits of its unit. A number without a unit has the one
    /// it was taken in: the value tells which.
    fn sigma_as_written(&self, usual: Tool) -> Length {
        if self.high > self.low {
            return Tool::Feeler.sigma(self.high - self.low);
        }
        if let Some(denominator) = denominator(&self.written) {
            let division = Length::from_inches(1.0 / denominator / 2.0);
            return Tool::RuleHalfMm.sigma(division);
        }
        match self.unit_written() {
            Some(unit) => {
                // No gauge is set under a string better than by a light touch, whatever it shows.
                let step = unit.mm() * 10f64.powi(-decimals(&self.written));
                let shown = Length::from_mm((step / 12f64.sqrt()).hypot(BLADE_MM));
                // Where a rule is usual, whole millimetres were read from a rule and not guessed.
                match usual.half_division() {
                    Some(_) => shown.min(usual.sigma(Length::ZERO)),
                    None => shown,
                }
            }
            None => usual.sigma(Length::ZERO),
        }
    }

    /// One of the unit that was written or assumed, by the value it gave.
    fn unit_written(&self) -> Option<Length> {
        let number: String = self
            .written
            .trim()
            .chars()
            .map(|letter| if letter == ',' { '.' } else { letter })
            .take_while(|letter| letter.is_ascii_digit() || *letter == '.')
            .collect();
        let number: f64 = number.parse().ok()?;
        if number == 0.0 {
            return None;
        }
        let one = self.middle() / number;
        LengthUnit::ALL
            .into_iter()
            .map(LengthUnit::one)
            .find(|unit| (unit.ratio(one) - 1.0).abs() < 1e-6)
    }
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

impl From<&Entry> for Measurement {
    fn from(entry: &Entry) -> Self {
        Self::new(entry.written().to_owned(), entry.low(), entry.high())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_core::units::parse_length;
    use proptest::prelude::*;

    fn typed(text: &str, unit: LengthUnit) -> Measurement {
        Measurement::from(&parse_length(text, unit).unwrap())
    }

    #[test]
    fn survives_json_with_its_spelling_and_its_tool() {
        let measured = typed("6-8 thou", LengthUnit::Millimetre);
        let text = serde_json::to_string(&measured).unwrap();
        assert_eq!(
            text,
            r#"{"written":"6-8 thou","low_mm":0.1524,"high_mm":0.2032}"#
        );
        let with_tool = measured.with_tool(Tool::Feeler);
        let text = serde_json::to_string(&with_tool).unwrap();
        assert_eq!(
            serde_json::from_str::<Measurement>(&text).unwrap(),
            with_tool
        );
    }

    #[test]
    fn a_bare_six_under_a_feeler_is_six_thou_and_not_within_inches() {
        // The number that was once believed to within 7 mm.
        let bare = typed("6", LengthUnit::Thou);
        for reading in [bare.clone(), bare.with_tool(Tool::Feeler)] {
            assert!(reading.sigma(Tool::Feeler).thou() < 1.0, "{reading:?}");
        }
    }

    #[test]
    fn old_readings_without_a_tool_are_known_by_how_they_were_written() {
        let sigma = |text, unit| typed(text, unit).sigma(Tool::Feeler).mm();
        let mm = LengthUnit::Millimetre;
        let (rule, coarse) = (sigma("4/64", mm), sigma("3 1/32\"", mm));
        let (blades, blade) = (sigma("6-8 thou", mm), sigma("10 thou", mm));
        let (tenth, inches) = (sigma("1.7 mm", mm), sigma(".020\"", mm));
        assert!(rule > 0.07 && rule < 0.1 && coarse > rule);
        assert!((blades - (0.0508f64 / 12f64.sqrt()).hypot(0.012)).abs() < 1e-9);
        assert!(blade < 0.03 && inches < 0.03 && tenth > blade && tenth < rule);
    }

    proptest! {
        #[test]
        fn the_width_never_hangs_on_whether_the_unit_was_written(
            number in 1_u32..400,
            digits in 0_usize..3,
            unit in prop::sample::select(LengthUnit::ALL.to_vec()),
            tool in prop::option::of(prop::sample::select(vec![
                Tool::Feeler, Tool::Rule64, Tool::Rule32, Tool::RuleHalfMm, Tool::Caliper, Tool::Dial,
            ])),
            comma in any::<bool>(),
        ) {
            let scaled = f64::from(number) / 10f64.powi(i32::try_from(digits).unwrap());
            let mut bare = format!("{scaled:.digits$}");
            if comma {
                bare = bare.replace('.', ",");
            }
            let written = format!("{bare} {}", unit.symbol());
            let of = |text: &str| Measurement { tool, ..typed(text, unit) };
            let (bare, written) = (of(&bare), of(&written));
            prop_assert!((bare.middle() - written.middle()).abs().mm() < 1e-9);
            prop_assert_eq!(bare.sigma(Tool::Feeler), written.sigma(Tool::Feeler));
        }
    }
}
