//! What an event speaks of: the player, the strings, the tuner, how far the job has come.

use gradimen_core::intonation::Reference;
use gradimen_core::pitch::{Pitch, PitchError};
use gradimen_core::quantity::Cents;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::instrument::Instrument;
use crate::record::{Measured, StringRecord};

/// How hard the player plays.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Hand {
    /// A light touch.
    Light,
    /// Neither light nor hard.
    Medium,
    /// A hard attack.
    Hard,
}

impl Hand {
    /// Every hand.
    pub const ALL: [Self; 3] = [Self::Light, Self::Medium, Self::Hard];

    /// Its word, in forms and in text.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Light => "light",
            Self::Medium => "medium",
            Self::Hard => "hard",
        }
    }

    /// From that word.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|hand| hand.key() == key)
    }
}

/// Whose instrument it is to be.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Player {
    /// How hard the player plays.
    pub hand: Hand,
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
    pub set: Vec<StringRecord>,
    /// What it is tuned to.
    pub tuning: Tuning,
}

/// Where the strings lie, as given by hand until the stations for it measure them.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HeightsGiven {
    /// Clearance over fret 1, string 1.
    pub first_fret_treble: Measured,
    /// Clearance over fret 1, last string.
    pub first_fret_bass: Measured,
    /// Action at fret 12, string 1.
    pub twelfth_treble: Measured,
    /// Action at fret 12, last string.
    pub twelfth_bass: Measured,
    /// Measured, or only usual values.
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

/// What a fretted note was compared with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Against {
    /// The open string in tune.
    Open,
    /// The harmonic over the twelfth fret.
    Harmonic,
}

impl Against {
    /// The same for the computation.
    pub const fn reference(self) -> Reference {
        match self {
            Self::Open => Reference::Open,
            Self::Harmonic => Reference::Harmonic,
        }
    }

    /// Its word, in forms and in text.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Open => "open",
            Self::Harmonic => "harmonic",
        }
    }

    /// From that word.
    pub fn from_key(key: &str) -> Option<Self> {
        [Self::Open, Self::Harmonic]
            .into_iter()
            .find(|against| against.key() == key)
    }
}

/// Where a job stands in the shop.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
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
    /// Every stage in the order of the work.
    pub const ALL: [Self; 5] = [
        Self::Waiting,
        Self::OnBench,
        Self::Resting,
        Self::Ready,
        Self::Returned,
    ];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Waiting => "waiting",
            Self::OnBench => "on_bench",
            Self::Resting => "resting",
            Self::Ready => "ready",
            Self::Returned => "returned",
        }
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

    /// From the word in documents and forms.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|stage| stage.key() == key)
    }
}

/// The beginning of a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Opened {
    /// The instrument as it was then.
    pub instrument: Instrument,
    /// Which version of its record that was.
    pub instrument_version: u32,
    /// Why it is here.
    pub purpose: String,
    /// Whose hand it is for.
    pub player: Player,
    /// The strings it is to carry.
    pub strung: Strung,
    /// The strings it came with, where they are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub arrived: Option<Strung>,
    /// Where the strings lie.
    pub heights: HeightsGiven,
    /// Whether the strings now on it are old.
    pub old_strings: bool,
}

#[expect(
    clippy::trivially_copy_pass_by_ref,
    reason = "serde hands over a reference"
)]
pub(super) const fn is_false(value: &bool) -> bool {
    !*value
}

pub(super) fn is_zero(value: &f64) -> bool {
    *value == 0.0
}
