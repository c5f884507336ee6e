//! Where an instrument stood when it left the last time: what the next visit shows beside its own readings.
//!
//! ```
//! use gradimen_bench::model::{Left, Place, Side};
//!
//! let left = Left { place: Place::Gap, value: 2.4 };
//! assert!(left.check().is_ok());
//! assert!(Left { value: f64::NAN, ..left }.check().is_err());
//! ```

use jiff::civil::Date;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::limits::{self, LimitError};
use super::place::Place;

/// As many places, and as many days of the air, as are kept.
const MOST: usize = 200;
/// No reading of a bench is larger, in millimetres or cents.
const LARGEST: f64 = 2000.0;

/// What one place was left at.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Left {
    /// Which, by the method of its target then.
    pub place: Place,
    /// In millimetres; cents for a note.
    pub value: f64,
}

impl Left {
    /// Whether it can be.
    ///
    /// # Errors
    /// [`LimitError`] for what no bench reads.
    pub fn check(&self) -> Result<(), LimitError> {
        let within = -LARGEST..=LARGEST;
        limits::number("what a place was left at", self.value, &within, "")
    }
}

/// How damp the room was on a day.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Air {
    /// When.
    pub day: Date,
    /// Relative humidity, per cent.
    pub percent: f64,
}

/// A visit before this one.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LastTime {
    /// The day of its last entry.
    pub day: Date,
    /// Where it stood then; only what was read.
    pub left: Vec<Left>,
    /// How damp it was, on that day and on those before it, the oldest first.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub air: Vec<Air>,
}

impl LastTime {
    /// Whether it can be.
    ///
    /// # Errors
    /// [`LimitError`] that names what cannot.
    pub fn check(&self) -> Result<(), LimitError> {
        limits::count("places of the last visit", self.left.len(), &(0..=MOST))?;
        limits::count("days of humidity", self.air.len(), &(0..=MOST))?;
        self.left.iter().try_for_each(Left::check)?;
        self.air
            .iter()
            .try_for_each(|air| limits::humidity(air.percent))
    }

    /// What a place was left at, read the same way.
    pub fn at(&self, place: Place) -> Option<f64> {
        let found = self.left.iter().find(|left| left.place == place)?;
        Some(found.value)
    }
}
