//! What a setup is to be: values, each with the method it is read by and how far it may be off.
//!
//! ```
//! use gradimen_bench::model::Touch;
//! use gradimen_bench::model::defaults::{targets, usual_instrument};
//! use gradimen_bench::model::instrument::Kind;
//!
//! let wanted = targets(&usual_instrument(Kind::Guitar, 6), Touch::Medium);
//! // From the treble to the bass side, string by string.
//! let (first, last) = (wanted.action(1, 0.0), wanted.action(6, 1.0));
//! assert!(first.value < last.value);
//! ```

use gradimen_core::quantity::{Cents, Length};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::defaults::tolerance;
use super::measurement::Measurement;
use super::place::{Place, Reference, ReliefSpan, Side};

/// How a vibrato is to rest.
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
pub enum BalanceSchool {
    /// Flat on the body, and staying there through a bend.
    Decked,
    /// A small gap under the tail, for a little pull-up.
    SmallFloat,
    /// Plate parallel to the body.
    Level,
}

impl BalanceSchool {
    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Decked => "decked, dive only",
            Self::SmallFloat => "small float",
            Self::Level => "level float",
        }
    }
}

/// How the inner strings are laid.
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
pub enum Inner {
    /// Stepping from the treble's height to the bass's.
    Blend,
    /// On the arc of a radius gauge through the outer two.
    Gauge,
}

impl Inner {
    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Blend => "each string its own height, stepping across",
            Self::Gauge => "outer two, then a radius gauge",
        }
    }
}

/// How far a finished instrument may be off its targets; what is left out is as the house has it. Each is
/// stated in the method its target is read by.
#[derive(Debug, Clone, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tolerances {
    /// Of relief.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub relief: Option<Measurement>,
    /// Of the gap over fret 1.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nut: Option<Measurement>,
    /// Of the action.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub action: Option<Measurement>,
    /// Of the gap of a vibrato.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub gap: Option<Measurement>,
    /// Of the gap of a pickup.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub pickup: Option<Measurement>,
    /// Of a fretted note, in cents.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intonation_cents: Option<f64>,
}

impl Tolerances {
    fn is_empty(&self) -> bool {
        *self == Self::default()
    }

    /// The lengths that were given, each with its name.
    pub fn lengths(&self) -> impl Iterator<Item = (&'static str, &Measurement)> {
        [
            ("tolerance of relief", &self.relief),
            ("tolerance of the nut", &self.nut),
            ("tolerance of the action", &self.action),
            ("tolerance of the vibrato's gap", &self.gap),
            ("tolerance of a pickup's gap", &self.pickup),
        ]
        .into_iter()
        .filter_map(|(name, given)| Some((name, given.as_ref()?)))
    }
}

/// A value to reach at a place, which says the method, and how far off it may be.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Target {
    /// What is read, and how.
    pub place: Place,
    /// What it is to be.
    pub value: Length,
    /// How far off it may be, either way.
    pub tolerance: Length,
}

/// What a setup is to be, each value with the method it is read by.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Targets {
    /// The method of relief.
    pub relief_span: ReliefSpan,
    /// Relief by that method.
    pub relief: Measurement,
    /// The method of the nut: open (0), or held down at this fret.
    pub nut_held: u8,
    /// Gap over fret 1, string 1.
    pub nut_treble: Measurement,
    /// Gap over fret 1, last string.
    pub nut_bass: Measurement,
    /// The fret at which the action is read.
    pub action_fret: u8,
    /// Action of string 1 there.
    pub action_treble: Measurement,
    /// Action of the last string there.
    pub action_bass: Measurement,
    /// How the inner strings are laid.
    pub inner: Inner,
    /// How far off each may be, where that is not as the house has it.
    #[serde(default, skip_serializing_if = "Tolerances::is_empty")]
    pub tolerances: Tolerances,
    /// What a fretted note is to be true to; the harmonic over fret 12 where nothing is said.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intonation_reference: Option<IntonationReference>,
    /// How sharp of that it is to be, in cents, where it is not to be true.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intonation_aim_cents: Option<f64>,
    /// The house spec that they are, by its name, where they are one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spec: Option<String>,
}

/// What a fretted twelfth is to be true to.
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
pub enum IntonationReference {
    /// The harmonic over the twelfth fret.
    Harmonic,
    /// The octave of the open string.
    Octave,
}

impl IntonationReference {
    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Harmonic => "the harmonic at 12",
            Self::Octave => "the octave of the open string",
        }
    }

    /// What a reading is compared with to be judged by it.
    pub const fn reading(self) -> Reference {
        match self {
            Self::Harmonic => Reference::Harmonic,
            Self::Octave => Reference::Open,
        }
    }
}

impl Targets {
    /// Relief of a side. Every tolerance, the house's too, holds in the method that the target is read by.
    pub fn relief(&self, side: Side) -> Target {
        Target {
            place: Place::Relief {
                side,
                span: self.relief_span,
            },
            value: self.relief.middle(),
            tolerance: given(&self.tolerances.relief, tolerance::RELIEF),
        }
    }

    /// The gap over fret 1 of a string, which lies `bass` of the way from the first to the last.
    pub fn nut(&self, string: u8, bass: f64) -> Target {
        Target {
            place: Place::Nut {
                string,
                held: self.nut_held,
            },
            value: between(&self.nut_treble, &self.nut_bass, bass),
            tolerance: given(&self.tolerances.nut, tolerance::NUT),
        }
    }

    /// The action of a string, stepping from treble to bass.
    pub fn action(&self, string: u8, bass: f64) -> Target {
        Target {
            place: Place::Action {
                string,
                fret: self.action_fret,
                held: 0,
            },
            value: between(&self.action_treble, &self.action_bass, bass),
            tolerance: given(&self.tolerances.action, tolerance::ACTION),
        }
    }

    /// How far the gap of a vibrato may be off.
    pub fn gap_tolerance(&self) -> Length {
        given(&self.tolerances.gap, tolerance::GAP)
    }

    /// How far the gap of a pickup may be off.
    pub fn pickup_tolerance(&self) -> Length {
        given(&self.tolerances.pickup, tolerance::PICKUP)
    }

    /// How far a fretted note may be off, where that was said.
    pub fn intonation_tolerance(&self) -> Option<Cents> {
        self.tolerances.intonation_cents.map(Cents::new)
    }
}

fn given(said: &Option<Measurement>, house: Length) -> Length {
    said.as_ref().map_or(house, Measurement::middle)
}

fn between(treble: &Measurement, bass: &Measurement, share: f64) -> Length {
    treble.middle() * (1.0 - share) + bass.middle() * share
}

/// Something wanted of a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
#[expect(clippy::large_enum_variant, reason = "a target is rare in a journal")]
pub enum Wanted {
    /// Relief, nut, action and their tolerances.
    Setup {
        /// The targets now.
        targets: Targets,
    },
    /// How the vibrato is to rest.
    Balance {
        /// By which method.
        school: BalanceSchool,
    },
    /// The gaps of a pickup.
    Pickup {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// At the treble side.
        treble: Measurement,
        /// At the bass side.
        bass: Measurement,
    },
    /// Which string of a shared saddle matters more.
    SharedSaddle {
        /// A string on that saddle.
        string: u8,
        /// True: this string is to be right; false: shared evenly.
        alone: bool,
    },
    /// Whom it is for.
    Player {
        /// The player now.
        player: super::player::Player,
    },
}
