//! The parts of events that speak of neck, nut and height.

use gradimen_core::neck::Span;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::record::Measured;

/// A side of the board.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[serde(rename_all = "snake_case")]
pub enum Side {
    /// Along the first string.
    Treble,
    /// Along the last string.
    Bass,
}

impl Side {
    /// Both, as they lie on the page.
    pub const ALL: [Self; 2] = [Self::Treble, Self::Bass];

    /// Its word, in forms and in text.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Treble => "treble",
            Self::Bass => "bass",
        }
    }

    /// From that word.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|side| side.key() == key)
    }
}

/// Where a string is held down, or an edge rests, and where the gap is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
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

/// How a vibrato is to rest.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum BalanceSchool {
    /// Flat on the body, and staying there through a bend.
    Decked,
    /// A small gap under the tail, for a little pull-up.
    SmallFloat,
    /// Plate parallel to the body.
    Level,
}

impl BalanceSchool {
    /// Every school.
    pub const ALL: [Self; 3] = [Self::Decked, Self::SmallFloat, Self::Level];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Decked => "decked",
            Self::SmallFloat => "small_float",
            Self::Level => "level",
        }
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Decked => "decked, dive only",
            Self::SmallFloat => "small float",
            Self::Level => "level float",
        }
    }

    /// From the word in documents and forms.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|school| school.key() == key)
    }
}

/// What was seen under a straight string or edge.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "seen", rename_all = "snake_case", deny_unknown_fields)]
pub enum Gap {
    /// A gap.
    Open {
        /// How wide.
        gap: Measured,
    },
    /// No gap: it touches.
    Touches,
    /// It rests in the middle and rocks: the neck is bent backward.
    Rocks,
}

/// How a rod refused.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum RodStop {
    /// Very hard to turn.
    Hard,
    /// It springs back.
    Rubbery,
    /// It turns and nothing happens, or it is slack already.
    NoEffect,
}

impl RodStop {
    /// Every way.
    pub const ALL: [Self; 3] = [Self::Hard, Self::Rubbery, Self::NoEffect];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Hard => "hard",
            Self::Rubbery => "rubbery",
            Self::NoEffect => "no_effect",
        }
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Hard => "very hard to turn",
            Self::Rubbery => "rubbery: it springs back",
            Self::NoEffect => "slack, or without effect",
        }
    }

    /// From the word in documents and forms.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|stop| stop.key() == key)
    }
}

/// What lifts strings at the bridge.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum HeightAdjuster {
    /// Both screws under a string.
    String(u8),
    /// The post of a side.
    Post(Side),
}

impl HeightAdjuster {
    /// Its name in words.
    pub fn name(self) -> String {
        match self {
            Self::String(string) => format!("string {string}"),
            Self::Post(side) => format!("{} post", side.key()),
        }
    }

    /// Its word in forms: `3`, `treble`.
    pub fn key(self) -> String {
        match self {
            Self::String(string) => string.to_string(),
            Self::Post(side) => side.key().to_owned(),
        }
    }

    /// From the word in forms.
    pub fn from_key(key: &str) -> Option<Self> {
        Side::from_key(key)
            .map(Self::Post)
            .or_else(|| key.parse().ok().map(Self::String))
    }
}

/// An end of a height adjuster's travel.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum HeightEnd {
    /// It lies on the plate.
    Bottom,
    /// Its screws have no thread left.
    Top,
}

/// What is put under a neck.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Shim {
    /// A wedge, thick at the heel end.
    Wedge,
    /// An even shim under all of the heel.
    Full,
}

/// How the inner strings are laid.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Inner {
    /// Stepping from the treble's height to the bass's.
    Blend,
    /// On the arc of a radius gauge through the outer two.
    Gauge,
}

impl Inner {
    /// Both schools.
    pub const ALL: [Self; 2] = [Self::Blend, Self::Gauge];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Blend => "blend",
            Self::Gauge => "gauge",
        }
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Blend => "each string its own height, stepping across",
            Self::Gauge => "outer two, then a radius gauge",
        }
    }
}

/// What a setup is to be, each value with the school it is read by.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Targets {
    /// The school of relief.
    pub relief_span: ReliefSpan,
    /// Relief by that school.
    pub relief: Measured,
    /// The school of the nut: open (0), or held down at this fret.
    pub nut_held: u8,
    /// Gap over fret 1, string 1.
    pub nut_treble: Measured,
    /// Gap over fret 1, last string.
    pub nut_bass: Measured,
    /// The fret at which heights are read.
    pub action_fret: u8,
    /// Height of string 1 there.
    pub action_treble: Measured,
    /// Height of the last string there.
    pub action_bass: Measured,
    /// How the inner strings are laid.
    pub inner: Inner,
}
