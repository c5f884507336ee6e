//! Numbers of one instrument that an earlier visit taught: what its rod, screws and springs do.
//!
//! ```
//! use gradimen_bench::model::{Behaviour, Taught};
//!
//! let rod = Taught { of: Behaviour::Rod, value: 0.41, sigma: 0.03 };
//! assert!(rod.check().is_ok());
//! // No rod takes away a metre a turn.
//! assert!(Taught { value: 1000.0, ..rod }.check().is_err());
//! ```

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::limits::LimitError;

/// What a number is about.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Behaviour {
    /// Relief that a turn of the rod takes away, by hold 1 and last, read 8, in millimetres.
    Rod,
    /// Relief that the pull of all strings makes, by the same method, in millimetres.
    Pull,
    /// What a turn of a height screw or a post lifts, in millimetres: of all, in common.
    HeightScrews,
    /// What a turn of a saddle's screw moves it by, in millimetres: of all, in common.
    Drives,
    /// The share of a screw that reaches its own end of a barrel or of a bridge on posts, beyond what is usual: 1 is usual.
    OwnEnd,
    /// The rate of one spring of the vibrato, in newtons per metre.
    SpringRate,
    /// What a turn of the claw's screws moves it by, in millimetres.
    Claw,
    /// Relief that a per cent of humidity more makes, in millimetres; less than nothing where it takes it away.
    Season,
}

impl Behaviour {
    /// Unit of its numbers.
    pub const fn unit(self) -> &'static str {
        match self {
            Self::Rod | Self::Pull | Self::HeightScrews | Self::Drives | Self::Claw => "mm",
            Self::Season => "mm per cent",
            Self::OwnEnd => "share of the usual",
            Self::SpringRate => "N/m",
        }
    }

    /// What such a number can be.
    const fn range(self) -> (f64, f64) {
        match self {
            Self::Rod | Self::Pull => (0.01, 5.0),
            Self::HeightScrews | Self::Drives | Self::Claw => (0.1, 5.0),
            Self::OwnEnd => (0.5, 1.5),
            Self::SpringRate => (50.0, 100_000.0),
            Self::Season => (-0.1, 0.1),
        }
    }
}

/// A number that was learned, and how well.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Taught {
    /// About what.
    pub of: Behaviour,
    /// How much, in the unit of its behaviour.
    pub value: f64,
    /// One standard deviation of that.
    pub sigma: f64,
}

impl Taught {
    /// Says what cannot be.
    ///
    /// # Errors
    /// [`LimitError`] for a number that no instrument has, or a width that is none.
    pub fn check(self) -> Result<(), LimitError> {
        let name: &'static str = self.of.into();
        let (low, high) = self.of.range();
        if !(low..=high).contains(&self.value) {
            let allowed = format!("{low} to {high}");
            return Err(LimitError::new(name, self.value.to_string(), allowed));
        }
        if !(self.sigma > 0.0 && self.sigma <= high) {
            let allowed = format!("more than 0 and at most {high}");
            return Err(LimitError::new(name, self.sigma.to_string(), allowed));
        }
        Ok(())
    }
}
