//! The families of bridges.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A family of bridges.
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
pub enum BridgeFamily {
    /// Knife-edge vibrato with one saddle a string.
    KnifeEdgeVibrato,
    /// Double-locking vibrato.
    DoubleLocking,
    /// Two-post bridge with stop bar.
    TwoPost,
    /// Three-barrel bridge: two strings share a saddle.
    ThreeBarrel,
    /// Fixed plate with one saddle a string.
    FixedPlate,
    /// Rocking bridge with tail vibrato.
    RockingTail,
    /// Two-post bridge with an arm on the tailpiece.
    ArmTail,
    /// Bent-plate bass bridge.
    BentPlateBass,
    /// Single-string bass saddles.
    SingleStringBass,
    /// A wooden bridge that only the strings hold in its place.
    FloatingWooden,
}

impl BridgeFamily {
    /// Which way its height screws raise, seen on their heads from above (common practice). A grub screw through a saddle,
    /// or through the foot of a rocking bridge, stands on what is below it: clockwise drives it down and the saddle up. A post
    /// that is screwed into the body, and a wheel on a post that stands still, go down clockwise.
    pub const fn rises_clockwise(self) -> bool {
        match self {
            Self::FixedPlate
            | Self::KnifeEdgeVibrato
            | Self::ThreeBarrel
            | Self::BentPlateBass
            | Self::SingleStringBass
            | Self::RockingTail => true,
            Self::TwoPost | Self::DoubleLocking | Self::ArmTail | Self::FloatingWooden => false,
        }
    }

    /// Whether most of the family stand on two posts or feet, that lift all strings together.
    pub const fn stands_on_posts(self) -> bool {
        matches!(
            self,
            Self::DoubleLocking
                | Self::TwoPost
                | Self::RockingTail
                | Self::ArmTail
                | Self::FloatingWooden
        )
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::KnifeEdgeVibrato => "knife-edge vibrato, one saddle a string",
            Self::DoubleLocking => "double-locking vibrato",
            Self::TwoPost => "two-post bridge with stop bar",
            Self::ThreeBarrel => "three-barrel bridge",
            Self::FixedPlate => "fixed plate, one saddle a string",
            Self::RockingTail => "rocking bridge with tail vibrato",
            Self::ArmTail => "two-post bridge with arm tailpiece",
            Self::BentPlateBass => "bent-plate bass bridge",
            Self::SingleStringBass => "single-string bass saddles",
            Self::FloatingWooden => "floating wooden bridge",
        }
    }

    /// Its name where room is short.
    pub const fn short_name(self) -> &'static str {
        match self {
            Self::KnifeEdgeVibrato => "knife-edge vibrato",
            Self::DoubleLocking => "double-locking vibrato",
            Self::TwoPost => "two-post bridge",
            Self::ThreeBarrel => "three-barrel bridge",
            Self::FixedPlate => "fixed plate",
            Self::RockingTail => "rocking bridge",
            Self::ArmTail => "arm tailpiece",
            Self::BentPlateBass => "bent-plate bridge",
            Self::SingleStringBass => "single-string saddles",
            Self::FloatingWooden => "wooden bridge",
        }
    }
}
