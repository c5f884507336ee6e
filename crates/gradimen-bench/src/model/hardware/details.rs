//! What a bridge has beyond what most of its family have.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// How a saddle is moved along its string.
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
pub enum SaddleDrive {
    /// By a screw of its own.
    #[default]
    Screw,
    /// Clamped by a bolt, slid by hand with its string slack.
    Clamped,
    /// By a screw that another one locks.
    LockedScrew,
    /// One bar for all strings, moved at its two ends.
    Bar,
    /// Not at all.
    Fixed,
}

impl SaddleDrive {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Screw => "by its screw",
            Self::Clamped => "clamped, slid by hand",
            Self::LockedScrew => "by a screw that is locked",
            Self::Bar => "one bar, moved at its two ends",
            Self::Fixed => "fixed",
        }
    }
}

/// What a bridge has beyond what most of its family have.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields, default)]
pub struct BridgeDetails {
    /// How its saddles are moved along.
    pub drive: SaddleDrive,
    /// Posts lift all of it, and screws in the saddles each string.
    pub posts_and_saddle_screws: bool,
    /// No screw lifts a saddle: it is shimmed or cut.
    pub no_height_screws: bool,
    /// Saddles with rollers.
    pub rollers: bool,
    /// Fine tuners.
    pub fine_tuners: bool,
}

impl BridgeDetails {
    /// Whether it is as most of its family are.
    pub fn is_usual(&self) -> bool {
        *self == Self::default()
    }
}
