//! Everything that is read at a bench: a place, and what was found there.
//!
//! ```
//! use gradimen_bench::model::{Place, Side};
//!
//! let action = Place::Action { string: 1, fret: 12, held: 0 };
//! assert_eq!(action.string(), Some(1));
//! assert_eq!(action.on_string(6), Some(Place::Action { string: 6, fret: 12, held: 0 }));
//! assert_eq!(Place::Pickup { pickup: 0, side: Side::Bass }.side(), Some(Side::Bass));
//! ```

use gradimen_core::neck::Span;
use gradimen_core::quantity::{Cents, LinearDensity, Mass};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::measurement::Measurement;
use super::tool::Tool;

/// A side of the board.
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
pub enum Side {
    /// Along the first string.
    Treble,
    /// Along the last string.
    Bass,
}

impl Side {
    /// Both, as they lie on the page.
    pub const ALL: [Self; 2] = [Self::Treble, Self::Bass];

    /// The side across from it.
    pub const fn across(self) -> Self {
        match self {
            Self::Treble => Self::Bass,
            Self::Bass => Self::Treble,
        }
    }

    /// Its place in [`Side::ALL`].
    pub const fn index(self) -> usize {
        match self {
            Self::Treble => 0,
            Self::Bass => 1,
        }
    }
}

/// Where a string is held down, or an edge rests, and where the gap is read.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[serde(deny_unknown_fields)]
pub struct ReliefSpan {
    /// Held at this fret near the nut.
    pub low: u8,
    /// Held at this fret near the body.
    pub high: u8,
    /// Read over this fret.
    pub at: u8,
}

impl ReliefSpan {
    /// The same for the computation.
    pub const fn span(self) -> Span {
        Span {
            low: self.low,
            high: self.high,
            at: self.at,
        }
    }

    /// `hold 1 and 12, read 6`.
    pub fn words(self) -> String {
        format!("hold {} and {}, read {}", self.low, self.high, self.at)
    }
}

/// Something that is read. Strings count from 1 at the thinnest, pickups from 0 at the neck, and a string
/// that is held at 0 is open.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Place {
    /// The gap under a straight string or edge along a side.
    Relief {
        /// Along the string of which side.
        side: Side,
        /// Where it is held and read.
        span: ReliefSpan,
    },
    /// The gap over fret 1.
    Nut {
        /// Which string.
        string: u8,
        /// Held down at this fret, or open.
        held: u8,
    },
    /// The height of a string over a fret.
    Action {
        /// Which string.
        string: u8,
        /// Over which fret.
        fret: u8,
        /// Held down at this fret, or open.
        held: u8,
    },
    /// A fretted note.
    Intonation {
        /// Which string.
        string: u8,
        /// Fretted where.
        fret: u8,
    },
    /// The gap under the tail of a vibrato, at pitch.
    Gap,
    /// A spring of a vibrato at pitch, from hook to hook or from seat to seat.
    Spring,
    /// From the claw to its wall, at both ends.
    ClawEnds,
    /// The gap over a pickup, the string held down at the last fret.
    Pickup {
        /// Which pickup.
        pickup: u8,
        /// Along the string of which side.
        side: Side,
    },
    /// The gap over one pole piece, the string held down at the last fret.
    PolePiece {
        /// Which pickup.
        pickup: u8,
        /// Under which string.
        string: u8,
    },
    /// The level of a string on a pickup.
    Level {
        /// Which pickup.
        pickup: u8,
        /// Which string was played.
        string: u8,
    },
    /// Nut edge to the crown of fret 12.
    Scale {
        /// Along which string.
        string: u8,
    },
    /// Crown of fret 12 to the break point on the saddle.
    Saddle {
        /// Along which string.
        string: u8,
    },
    /// Travel left behind a saddle.
    Room {
        /// A string on that saddle.
        string: u8,
    },
    /// The core of a wound string.
    Core {
        /// Which string.
        string: u8,
    },
    /// A piece cut off a string, measured and weighed.
    CutOff {
        /// Which string.
        string: u8,
    },
    /// The nut of the truss rod, tried before it is relied on.
    RodCheck,
    /// A rocker on three frets, over the middle one.
    Rock {
        /// Along which string.
        string: u8,
        /// Over which fret.
        fret: u8,
    },
}

impl Place {
    /// The string it is read along, where it is one of a number.
    pub const fn string(self) -> Option<u8> {
        match self {
            Self::Nut { string, .. }
            | Self::Action { string, .. }
            | Self::Intonation { string, .. }
            | Self::PolePiece { string, .. }
            | Self::Level { string, .. }
            | Self::Scale { string }
            | Self::Saddle { string }
            | Self::Room { string }
            | Self::Core { string }
            | Self::CutOff { string }
            | Self::Rock { string, .. } => Some(string),
            Self::Relief { .. }
            | Self::Gap
            | Self::Spring
            | Self::ClawEnds
            | Self::Pickup { .. }
            | Self::RodCheck => None,
        }
    }

    /// The side it is read on, where it is one of two.
    pub const fn side(self) -> Option<Side> {
        match self {
            Self::Relief { side, .. } | Self::Pickup { side, .. } => Some(side),
            Self::Nut { .. }
            | Self::Action { .. }
            | Self::Intonation { .. }
            | Self::Gap
            | Self::Spring
            | Self::ClawEnds
            | Self::PolePiece { .. }
            | Self::Level { .. }
            | Self::Scale { .. }
            | Self::Saddle { .. }
            | Self::Room { .. }
            | Self::Core { .. }
            | Self::CutOff { .. }
            | Self::RodCheck
            | Self::Rock { .. } => None,
        }
    }

    /// The same place on another string; nothing where it is along none.
    pub fn on_string(self, other: u8) -> Option<Self> {
        let mut there = self;
        match &mut there {
            Self::Nut { string, .. }
            | Self::Action { string, .. }
            | Self::Intonation { string, .. }
            | Self::PolePiece { string, .. }
            | Self::Level { string, .. }
            | Self::Scale { string }
            | Self::Saddle { string }
            | Self::Room { string }
            | Self::Core { string }
            | Self::CutOff { string }
            | Self::Rock { string, .. } => *string = other,
            Self::Relief { .. }
            | Self::Gap
            | Self::Spring
            | Self::ClawEnds
            | Self::Pickup { .. }
            | Self::RodCheck => return None,
        }
        Some(there)
    }

    /// The place without the method: readings of one quantity by several methods fall together.
    #[must_use]
    pub const fn any_method(self) -> Self {
        match self {
            Self::Relief { side, .. } => Self::Relief {
                side,
                span: ReliefSpan {
                    low: 0,
                    high: 0,
                    at: 0,
                },
            },
            Self::Nut { string, .. } => Self::Nut { string, held: 0 },
            Self::Action { string, .. } => Self::Action {
                string,
                fret: 0,
                held: 0,
            },
            other => other,
        }
    }

    /// What is usually in the hand there (common practice), where nothing was said.
    pub const fn usual_tool(self) -> Tool {
        match self {
            Self::Relief { .. } | Self::Nut { .. } => Tool::Feeler,
            Self::Core { .. } => Tool::Caliper,
            _ => Tool::RuleHalfMm,
        }
    }
}

/// What a fretted note is compared with.
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
pub enum Reference {
    /// The open string in tune.
    Open,
    /// The harmonic over the twelfth fret.
    Harmonic,
}

impl Reference {
    /// The same for the computation.
    pub const fn computed(self) -> gradimen_core::intonation::Reference {
        match self {
            Self::Open => gradimen_core::intonation::Reference::Open,
            Self::Harmonic => gradimen_core::intonation::Reference::Harmonic,
        }
    }
}

/// A piece cut off the string, measured and weighed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Weighing {
    /// Its length.
    pub length: Measurement,
    /// Its mass in grams.
    pub grams: f64,
}

impl Weighing {
    /// Mass per length of the piece.
    pub fn unit_weight(&self) -> LinearDensity {
        LinearDensity::from_kilograms_per_metre(
            Mass::from_grams(self.grams).kilograms() / self.length.middle().metres(),
        )
    }
}

/// How the nut of a truss rod turns.
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
pub enum RodFeel {
    /// Freely.
    Free,
    /// Hard, or not at all.
    Hard,
}

/// How far a rocker rocks.
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
pub enum Rocking {
    /// Not at all.
    None,
    /// Just so that it is felt.
    Slight,
    /// So that it is seen.
    Clear,
}

/// What was found at a place.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "found", rename_all = "snake_case", deny_unknown_fields)]
pub enum Reading {
    /// A length, exact or between two marks.
    Length {
        /// How long.
        length: Measurement,
    },
    /// No gap: it touches.
    Touches,
    /// It rests in the middle and rocks: back-bow.
    Rocks,
    /// The plate of a vibrato lies flat on the body.
    Flat,
    /// A fretted note.
    Note {
        /// How sharp, in cents.
        cents: f64,
        /// Compared with what.
        against: Reference,
        /// What the tuner resolves that it was read with, in cents.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        resolution_cents: Option<f64>,
        /// Whether it was worked out from the sound: the interval with no amplitude, which a hard pluck does not sharpen, and as fine as
        /// its resolution says.
        #[serde(default, skip_serializing_if = "std::ops::Not::not")]
        by_ear: bool,
    },
    /// A level from a meter, or by ear.
    Level {
        /// What it showed.
        decibels: f64,
        /// One standard deviation of it, where whoever listened knows it.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        doubt_decibels: Option<f64>,
    },
    /// Two lengths: at the treble side and at the bass side.
    Ends {
        /// At the treble side.
        treble: Measurement,
        /// At the bass side.
        bass: Measurement,
    },
    /// A piece of string on a scale.
    Weighed {
        /// What was weighed.
        weighing: Weighing,
    },
    /// The nut of a truss rod.
    RodNut {
        /// Turns that its thread still shows for tightening.
        turns_left: f64,
        /// How it turns.
        how: RodFeel,
    },
    /// A rocker.
    Rock {
        /// How far it rocks.
        seen: Rocking,
    },
}

impl Reading {
    /// The length that was read, where it is one.
    pub const fn length(&self) -> Option<&Measurement> {
        match self {
            Self::Length { length } => Some(length),
            _ => None,
        }
    }

    /// The cents that were read, where it is a note.
    pub const fn cents(&self) -> Option<Cents> {
        match self {
            Self::Note { cents, .. } => Some(Cents::new(*cents)),
            _ => None,
        }
    }
}
