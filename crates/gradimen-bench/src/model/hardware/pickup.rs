//! Pickups by family, and what their screws do.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use gradimen_core::quantity::Length;
use gradimen_core::thread::pitch_named;

use crate::model::limits::{self, LimitError};
use crate::model::{End, Measurement, Side};

/// A family of pickups, by how near it is set.
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
}

/// How a pickup is held.
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
pub enum PickupMounting {
    /// Hung from a ring or a guard: clockwise raises.
    Hung,
    /// Screwed to the body over foam or springs: clockwise lowers.
    Body,
}

impl PickupMounting {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Hung => "hung from a ring or guard",
            Self::Body => "screwed to the body",
        }
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
    pub before_saddle: Measurement,
    /// Thread pitch of its screws.
    pub pitch: Measurement,
    /// Whether clockwise brings it nearer to the strings.
    pub clockwise_raises: bool,
    /// Whether that was said since pickups on a body have their own default.
    #[serde(default, skip_serializing_if = "crate::model::is_false")]
    pub direction_checked: bool,
    /// How it is held, where that was said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub mounting: Option<PickupMounting>,
    /// Whole travel of those screws, where it was measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub travel: Option<Measurement>,
    /// Thread pitch of its poles, where they are screws.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pole_pitch: Option<Measurement>,
}

impl PickupMounting {
    /// Which way its screws bring it nearer to the strings (common practice).
    pub const fn rises_clockwise(self) -> bool {
        matches!(self, Self::Hung)
    }
}

impl PickupFamily {
    /// How most of the family are held (common practice): on a bass over foam, screwed to the body.
    pub const fn usual_mounting(self) -> PickupMounting {
        match self {
            Self::Bass => PickupMounting::Body,
            Self::SingleCoil | Self::OlderSingleCoil | Self::CloseSet | Self::DoubleCoil => {
                PickupMounting::Hung
            }
        }
    }
}

impl PickupFamily {
    /// What most of the family hang on (common practice): fine screws in a ring, coarser ones in a guard or in wood.
    pub fn usual_screw(self) -> Measurement {
        let thread = match self {
            Self::DoubleCoil => "3-48",
            Self::SingleCoil | Self::OlderSingleCoil | Self::CloseSet => "6-32",
            // A wood screw.
            Self::Bass => return Measurement::mm(0.8),
        };
        Measurement::thread(thread, pitch_named(thread).unwrap_or(Length::ZERO))
    }

    /// Nearer than this its magnets pull on the strings and give double notes on the wound ones (common practice for the bass
    /// side of single coils, which are magnets all through; the others from memory).
    pub const fn too_near(self, side: Side) -> Length {
        Length::from_mm(match (self, side) {
            (Self::SingleCoil | Self::OlderSingleCoil, Side::Bass) => 1.8,
            (Self::CloseSet, Side::Bass) => 1.5,
            (Self::DoubleCoil, _) => 0.8,
            (Self::SingleCoil | Self::OlderSingleCoil | Self::CloseSet, Side::Treble)
            | (Self::Bass, _) => 1.2,
        })
    }
}

impl PickupRecord {
    /// How it is held: as was said, or else as its screws turn.
    pub const fn held(&self) -> PickupMounting {
        match self.mounting {
            Some(mounting) => mounting,
            None if self.clockwise_raises => PickupMounting::Hung,
            None => PickupMounting::Body,
        }
    }

    /// Whether at this end of a screw foam, spring or tubing is squeezed; at the other the screw runs out of thread (common
    /// practice). Hung, a spring is squeezed as the pickup comes up to its ring; on a body, as it goes down to the wood.
    pub const fn squeezed_at(&self, end: End) -> bool {
        matches!(
            (self.held(), end),
            (PickupMounting::Hung, End::Top) | (PickupMounting::Body, End::Bottom)
        )
    }

    /// Puts right what an old default of ours said of pickups that are screwed to the body. Says whether it had to.
    pub fn put_right(&mut self) -> bool {
        let held = self.mounting.unwrap_or(self.family.usual_mounting());
        let wrong = !self.direction_checked && self.clockwise_raises && !held.rises_clockwise();
        if wrong {
            self.clockwise_raises = false;
            self.mounting = Some(held);
        }
        self.direction_checked = true;
        wrong
    }

    /// Says what cannot be.
    ///
    /// # Errors
    /// The first [`LimitError`] found.
    pub fn validate(&self) -> Result<(), LimitError> {
        limits::line("name of a pickup", &self.name)?;
        limits::length(&self.before_saddle, &limits::PICKUP_PLACE)?;
        limits::named_length("pickup screw, a turn", &self.pitch, &limits::THREAD)?;
        if let Some(travel) = &self.travel {
            limits::named_length("travel of a pickup", travel, &limits::HEIGHT_TRAVEL)?;
        }
        if let Some(pitch) = &self.pole_pitch {
            limits::named_length("pole screw, a turn", pitch, &limits::THREAD)?;
        }
        Ok(())
    }
}
