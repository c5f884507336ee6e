//! What a hand reads with a tool, and what it then types: with the tool's lean, its touch, its marks, and as people
//! write: bare numbers, halves of 64ths, two blades, millimetres.

use gradimen_bench::model::{Measurement, Tool};
use gradimen_core::units::{LengthUnit, parse_length};

use crate::Rng;

/// The blades of a set, in thousandths of an inch and in hundredths of a millimetre (common practice).
const THOU: [f64; 26] = [
    1.5, 2.0, 3.0, 4.0, 5.0, 6.0, 7.0, 8.0, 9.0, 10.0, 11.0, 12.0, 13.0, 14.0, 15.0, 16.0, 17.0,
    18.0, 19.0, 20.0, 21.0, 22.0, 24.0, 26.0, 28.0, 32.0,
];
const METRIC: [f64; 20] = [
    4.0, 5.0, 6.0, 8.0, 10.0, 12.0, 15.0, 18.0, 20.0, 25.0, 30.0, 35.0, 40.0, 45.0, 50.0, 55.0,
    60.0, 70.0, 80.0, 100.0,
];

/// A dial gauge set on fret and string by hand (common practice).
const GAUGE: f64 = 0.02;

/// How this hand reads heights.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Ruler {
    /// In 64ths, to half of one.
    SixtyFourths,
    /// In half millimetres, to a quarter.
    HalfMillimetres,
    /// In half millimetres, and between them by eye to a tenth.
    ByEye,
    /// No rule: a dial gauge on the frets, to a hundredth.
    Gauge,
}

/// A hand and its tools.
#[derive(Debug, Clone)]
pub(crate) struct Hand {
    pub(crate) ruler: Ruler,
    pub(crate) metric_blades: bool,
    /// A worn rule end and a habit of the eye: all its readings are off by so much.
    lean: f64,
    /// A blade is pushed in that bends the string up, or one that is held clear of it.
    touch: f64,
    /// How much the eye scatters beside the marks.
    parallax: f64,
    /// Whether bare numbers are typed.
    bare: bool,
    pub(crate) chance: Rng,
}

/// Something that was read, as typed and meant.
fn typed(text: &str, unit: LengthUnit, tool: Tool) -> Option<Measurement> {
    let entry = parse_length(text, unit).ok()?;
    Some(Measurement::from(&entry).with_tool(tool))
}

impl Hand {
    pub(crate) fn new(seed: u64) -> Self {
        let mut chance = Rng::new(seed);
        let ruler = match chance.between(0.0, 3.0) as u8 {
            0 => Ruler::SixtyFourths,
            1 => Ruler::HalfMillimetres,
            _ => Ruler::ByEye,
        };
        Self {
            ruler,
            metric_blades: chance.between(0.0, 1.0) < 0.4,
            lean: chance.normal(0.025),
            touch: chance.normal(0.004),
            parallax: chance.between(0.02, 0.07),
            bare: chance.between(0.0, 1.0) < 0.5,
            chance,
        }
    }

    /// A height or a gap by the rule.
    pub(crate) fn ruled(&mut self, truth: f64) -> Option<Measurement> {
        if self.ruler == Ruler::Gauge {
            let seen = (truth + self.chance.normal(GAUGE)).max(0.0);
            let text = format!("{seen:.2} mm");
            return typed(&text, LengthUnit::Millimetre, Tool::Dial);
        }
        let seen = (truth + self.lean + self.chance.normal(self.parallax)).max(0.0);
        match self.ruler {
            Ruler::SixtyFourths => {
                let halves = (seen / (25.4 / 128.0)).round();
                let number = halves / 2.0;
                let text = if self.bare {
                    format!("{number}")
                } else {
                    format!("{number}/64")
                };
                typed(&text, LengthUnit::SixtyFourth, Tool::Rule64)
            }
            Ruler::HalfMillimetres | Ruler::ByEye | Ruler::Gauge => {
                let step = if self.ruler == Ruler::ByEye {
                    0.1
                } else {
                    0.25
                };
                let read = (seen / step).round() * step;
                let text = if self.bare {
                    format!("{read:.2}")
                } else {
                    format!("{read:.2} mm")
                };
                typed(&text, LengthUnit::Millimetre, Tool::RuleHalfMm)
            }
        }
    }

    /// A small gap by blades: between the last that passes and the first that drags, or by the rule where none is thick
    /// enough. Nothing below the thinnest.
    pub(crate) fn bladed(&mut self, truth: f64) -> Option<Measurement> {
        let seen = truth + self.touch + self.chance.normal(0.008);
        let (blades, one, unit) = if self.metric_blades {
            (&METRIC[..], 0.01, LengthUnit::Millimetre)
        } else {
            (&THOU[..], 0.0254, LengthUnit::Thou)
        };
        let passes = blades.iter().copied().rfind(|blade| blade * one <= seen)?;
        let Some(drags) = blades.iter().copied().find(|blade| blade * one > seen) else {
            return self.ruled(truth);
        };
        let text = if self.metric_blades {
            format!("{:.2}-{:.2}", passes / 100.0, drags / 100.0)
        } else {
            format!("{passes}-{drags}")
        };
        typed(&text, unit, Tool::Feeler)
    }

    /// A depth by a caliper's tail.
    pub(crate) fn calipered(&mut self, truth: f64) -> Option<Measurement> {
        let seen = (truth + self.chance.normal(0.03)).max(0.0);
        typed(&format!("{seen:.2}"), LengthUnit::Millimetre, Tool::Caliper)
    }

    /// A long distance along a string, by a rule.
    pub(crate) fn along(&mut self, truth: f64) -> Option<Measurement> {
        let seen = truth + self.chance.normal(0.3);
        let read = (seen * 2.0).round() / 2.0;
        typed(
            &format!("{read:.1} mm"),
            LengthUnit::Millimetre,
            Tool::RuleHalfMm,
        )
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn what_is_typed_means_about_what_is_there() {
        for seed in 0..40 {
            let mut hand = Hand::new(seed);
            let height = hand.ruled(1.75).unwrap();
            assert!((height.middle().mm() - 1.75).abs() < 0.4, "{height:?}");
            let gap = hand.bladed(0.2).unwrap();
            assert!(gap.low < gap.high && (gap.middle().mm() - 0.2).abs() < 0.06);
        }
    }
}
