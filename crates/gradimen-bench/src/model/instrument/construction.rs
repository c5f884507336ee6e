//! How an instrument is built beyond what most have: nuts, courses, boards without frets. The record says
//! it; a station that has no honest answer for it yet says so.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::model::limits::{self, LimitError};
use crate::model::measurement::Measurement;

/// What the strings run over at the head.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Default,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum NutKind {
    /// A slot for every string.
    #[default]
    Slotted,
    /// A fret carries the strings; the nut only guides.
    ZeroFret,
    /// Its edge stands forward by a known amount for each string.
    Compensated,
}

impl NutKind {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Slotted => "slotted",
            Self::ZeroFret => "zero fret",
            Self::Compensated => "compensated",
        }
    }
}

/// How an instrument is built beyond what most have.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct Construction {
    /// What the strings run over at the head.
    pub nut: NutKind,
    /// How far a compensated nut stands toward the bridge, string by string.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub nut_offsets: Vec<Measurement>,
    /// Tuned at the bridge, without a head.
    pub headless: bool,
    /// Without frets: what is read over a fret is read over its line.
    pub fretless: bool,
    /// Strings that are fretted together, as lists of their numbers.
    #[serde(skip_serializing_if = "Vec::is_empty")]
    pub courses: Vec<Vec<u8>>,
    /// How far the board falls away at the last fret.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub fall_away: Option<Measurement>,
}

impl Construction {
    /// Whether it is built as most are.
    pub fn is_usual(&self) -> bool {
        *self == Self::default()
    }

    /// Whether its courses carry every string, so that they say where each lies.
    pub fn covers(&self, strings: u8) -> bool {
        let mut carried = self.courses.concat();
        carried.sort_unstable();
        carried == (1..=strings).collect::<Vec<_>>()
    }

    /// Says what cannot be on an instrument with so many strings.
    ///
    /// # Errors
    /// The first [`LimitError`] found.
    pub fn validate(&self, strings: u8) -> Result<(), LimitError> {
        let all = usize::from(strings);
        if !self.nut_offsets.is_empty() {
            limits::count("offsets of the nut", self.nut_offsets.len(), &(all..=all))?;
        }
        for offset in &self.nut_offsets {
            limits::length(offset, &limits::NUT_OFFSET)?;
        }
        if let Some(fall) = &self.fall_away {
            limits::length(fall, &limits::FALL_AWAY)?;
        }
        limits::count("courses", self.courses.len(), &(0..=all))?;
        let mut seen = Vec::new();
        for string in self.courses.iter().flatten() {
            if *string == 0 || *string > strings || seen.contains(string) {
                return Err(LimitError::new(
                    "courses",
                    format!("string {string}"),
                    format!("strings 1 to {strings}, each once"),
                ));
            }
            seen.push(*string);
        }
        Ok(())
    }
}
