//! Pickups by family, and what their screws do.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::record::Measured;

/// A family of pickups, by how near it is set.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum PickupFamily {
    /// One coil, poles that are magnets.
    SingleCoil,
    /// The same in the older style, set further off.
    OlderSingleCoil,
    /// Set close, an older low-output sort.
    CloseSet,
    /// Two coils.
    DoubleCoil,
    /// On a bass.
    Bass,
}

impl PickupFamily {
    /// Every family.
    pub const ALL: [Self; 5] = [
        Self::SingleCoil,
        Self::OlderSingleCoil,
        Self::CloseSet,
        Self::DoubleCoil,
        Self::Bass,
    ];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::SingleCoil => "single_coil",
            Self::OlderSingleCoil => "older_single_coil",
            Self::CloseSet => "close_set",
            Self::DoubleCoil => "double_coil",
            Self::Bass => "bass",
        }
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::SingleCoil => "single coil",
            Self::OlderSingleCoil => "single coil, older style",
            Self::CloseSet => "close-set, older style",
            Self::DoubleCoil => "double coil",
            Self::Bass => "bass pickup",
        }
    }

    /// From the word in documents and forms.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|family| family.key() == key)
    }
}

/// A pickup on two screws, one at each side.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PickupRecord {
    /// What the shop calls it: neck, middle, bridge.
    pub name: String,
    /// Its family.
    pub family: PickupFamily,
    /// From the scale line to its poles, toward the neck.
    pub before_saddle: Measured,
    /// Thread pitch of its screws.
    pub pitch: Measured,
    /// Whether clockwise brings it nearer to the strings.
    pub clockwise_raises: bool,
    /// Whole travel of those screws, where it was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub travel: Option<Measured>,
    /// Thread pitch of its poles, where they are screws.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pole_pitch: Option<Measured>,
}
