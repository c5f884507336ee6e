//! Whom a setup is for, the strings it carries, and how far the job has come.
//!
//! ```
//! use gradimen_bench::model::Tuning;
//! use gradimen_core::pitch::Pitch;
//!
//! let pitches = ["E4".parse::<Pitch>()?, "B3".parse()?];
//! let tuning = Tuning::of("own", 440.0, &pitches);
//! assert_eq!(tuning.notes, ["E4", "B3"]);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::pitch::{Pitch, PitchError};
use gradimen_core::quantity::Cents;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::measurement::Measurement;
use super::strings::StringEntry;

/// How hard the player plays.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
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
pub enum Touch {
    /// A light touch.
    Light,
    /// Neither light nor hard.
    Medium,
    /// A hard attack.
    Hard,
}

/// Whose instrument it is to be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Player {
    /// How hard the player plays.
    #[serde(alias = "hand")]
    pub touch: Touch,
    /// What is played.
    pub style: String,
}

/// What the strings are tuned to.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tuning {
    /// Its name.
    pub name: String,
    /// Frequency of A4 in hertz.
    pub a4_hz: f64,
    /// Notes from string 1, each with an offset in cents where it has one: `E4`, `B3-2`.
    pub notes: Vec<String>,
}

impl Tuning {
    /// From pitches.
    pub fn of(name: &str, a4_hz: f64, pitches: &[Pitch]) -> Self {
        Self {
            name: name.to_owned(),
            a4_hz,
            notes: pitches.iter().map(Pitch::to_string).collect(),
        }
    }

    /// The notes for the computation.
    ///
    /// # Errors
    /// [`PitchError`] for the first that is none.
    pub fn pitches(&self) -> Result<Vec<Pitch>, PitchError> {
        self.notes.iter().map(|note| note.parse()).collect()
    }
}

/// Strings at a tuning.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Strung {
    /// The set from string 1.
    pub set: Vec<StringEntry>,
    /// What it is tuned to.
    pub tuning: Tuning,
}

/// Where the strings lie, as given by hand until the stations for it measure them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HeightsGiven {
    /// Clearance over fret 1, string 1.
    pub first_fret_treble: Measurement,
    /// Clearance over fret 1, last string.
    pub first_fret_bass: Measurement,
    /// Action at fret 12, string 1.
    pub twelfth_treble: Measurement,
    /// Action at fret 12, last string.
    pub twelfth_bass: Measurement,
    /// Measurement, or only usual values.
    pub measured: bool,
}

/// What pitches are read with.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tuner {
    /// What it is.
    pub name: String,
    /// What it resolves, in cents.
    pub resolution_cents: f64,
}

impl Tuner {
    /// What it resolves.
    pub const fn resolution(&self) -> Cents {
        Cents::new(self.resolution_cents)
    }
}

/// Where a job stands in the shop.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
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
pub enum Stage {
    /// Not begun.
    Waiting,
    /// Being worked on.
    OnBench,
    /// Left to settle.
    Resting,
    /// Finished, to be fetched.
    Ready,
    /// Back with its player.
    Returned,
}

impl Stage {
    /// Whether there is work on it still.
    pub const fn is_open(self) -> bool {
        matches!(self, Self::Waiting | Self::OnBench | Self::Resting)
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Waiting => "waiting",
            Self::OnBench => "on the bench",
            Self::Resting => "resting",
            Self::Ready => "ready",
            Self::Returned => "returned",
        }
    }
}
