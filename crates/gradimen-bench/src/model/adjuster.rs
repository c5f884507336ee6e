//! Everything that is turned, slid, filed, hooked or shimmed, and by how much.
//!
//! ```
//! use gradimen_bench::model::{Adjuster, Amount};
//! use gradimen_core::quantity::Turns;
//!
//! let quarter = Amount::turns(Turns::new(0.25));
//! assert_eq!(quarter.as_turns().map(|turns| turns.value()), Some(0.25));
//! let slots = Adjuster::NutSlots { strings: [1, 2, 3].into_iter().collect() };
//! assert_eq!(serde_json::to_value(slots)?["strings"], serde_json::json!([1, 2, 3]));
//! # Ok::<(), serde_json::Error>(())
//! ```

use std::fmt;

use gradimen_core::quantity::Turns;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::measurement::Measurement;
use super::place::Side;

/// Some of the strings of an instrument, counted from 1.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Default)]
pub struct StringSet(u16);

impl StringSet {
    /// More than this no instrument has.
    const MOST: u8 = 15;

    /// One string.
    pub fn one(string: u8) -> Self {
        std::iter::once(string).collect()
    }

    /// The strings, from string 1.
    pub fn iter(self) -> impl Iterator<Item = u8> {
        (0..=Self::MOST).filter(move |string| self.0 & (1 << string) != 0)
    }

    /// Whether there are none.
    pub const fn is_empty(self) -> bool {
        self.0 == 0
    }
}

/// A string beyond any instrument stands as string 0, which none has: whoever checks the set finds it.
impl FromIterator<u8> for StringSet {
    fn from_iter<I: IntoIterator<Item = u8>>(strings: I) -> Self {
        let bits = strings
            .into_iter()
            .map(|string| if string > Self::MOST { 0 } else { string })
            .fold(0, |bits, string| bits | 1 << string);
        Self(bits)
    }
}

impl Serialize for StringSet {
    fn serialize<S: serde::Serializer>(&self, serializer: S) -> Result<S::Ok, S::Error> {
        serializer.collect_seq(self.iter())
    }
}

impl<'de> Deserialize<'de> for StringSet {
    fn deserialize<D: serde::Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let strings = Vec::<u8>::deserialize(deserializer)?;
        match strings
            .iter()
            .find(|string| !(1..=Self::MOST).contains(*string))
        {
            Some(string) => Err(serde::de::Error::custom(format!(
                "there is no string {string}"
            ))),
            None => Ok(strings.into_iter().collect()),
        }
    }
}

impl JsonSchema for StringSet {
    fn schema_name() -> std::borrow::Cow<'static, str> {
        "StringSet".into()
    }

    fn json_schema(generator: &mut schemars::SchemaGenerator) -> schemars::Schema {
        Vec::<u8>::json_schema(generator)
    }
}

/// `1, 2, 3`.
impl fmt::Display for StringSet {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        for (index, string) in self.iter().enumerate() {
            let before = if index == 0 { "" } else { ", " };
            write!(formatter, "{before}{string}")?;
        }
        Ok(())
    }
}

/// What is put under a neck.
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
pub enum Shim {
    /// A wedge, thick at the heel end.
    Wedge,
    /// An even shim under all of the heel.
    Full,
}

/// Something that is turned, slid, filed, hooked or shimmed.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
)]
#[serde(tag = "kind", rename_all = "snake_case", deny_unknown_fields)]
pub enum Adjuster {
    /// Both screws of a vibrato's claw; turns are positive in, toward the neck.
    Claw,
    /// The seat of a pressed spring; distances are positive up.
    Seat,
    /// The springs of a vibrato.
    Springs,
    /// The truss rod; turns are positive when it is tightened.
    TrussRod,
    /// Slots of the nut, or the whole of it; distances are positive up, filing is negative.
    NutSlots {
        /// Under which strings.
        strings: StringSet,
    },
    /// Both height screws of a saddle; turns are positive when they raise.
    SaddleHeight {
        /// A string on that saddle.
        string: u8,
    },
    /// A post of a bridge; turns are positive when they raise.
    Post {
        /// At which side.
        side: Side,
    },
    /// What moves a saddle along its string; turns and distances are positive away from the neck.
    SaddleDrive {
        /// A string on that saddle.
        string: u8,
    },
    /// One bar for all strings, at its two ends; distances are positive away from the neck.
    Bar,
    /// The whole bridge; distances are positive away from the neck.
    Bridge,
    /// The pocket of a screwed-on neck.
    Pocket {
        /// What was put under the heel.
        shim: Shim,
    },
    /// A screw of a pickup; turns are positive when they bring it nearer to the strings.
    PickupScrew {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// At which side.
        side: Side,
    },
    /// The screw of a pole piece; turns are positive when they bring it nearer to the string.
    PolePiece {
        /// Which pickup, from 0 at the neck.
        pickup: u8,
        /// Under which string.
        string: u8,
    },
}

/// How much an adjuster was moved, in its own terms and with its own sign.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "by", rename_all = "snake_case", deny_unknown_fields)]
pub enum Amount {
    /// Turns of its screw, or of both alike.
    Turns {
        /// How many.
        turns: f64,
    },
    /// Turns of the two screws of a claw: the bass side goes `apart` further in, the treble side as much less.
    Apart {
        /// Both alike.
        turns: f64,
        /// Beyond that.
        apart: f64,
    },
    /// A distance.
    Distance {
        /// How far.
        distance: Measurement,
    },
    /// Distances of the two ends of a bar, under the outer strings.
    Ends {
        /// Under string 1.
        treble: Measurement,
        /// Under the last string.
        bass: Measurement,
    },
    /// Springs as they are now.
    Springs {
        /// How many.
        count: u8,
        /// Whether they converge on the claw.
        converging: bool,
    },
    /// Taken out and put in the other way round.
    Reversed,
}

impl Amount {
    /// So many turns.
    pub const fn turns(turns: Turns) -> Self {
        Self::Turns {
            turns: turns.value(),
        }
    }

    /// The same the other way, as it is taken back; springs as they are have no other way, and what was turned round is turned round again.
    #[must_use]
    pub fn back(&self) -> Self {
        match self {
            Self::Turns { turns } => Self::Turns { turns: -turns },
            Self::Apart { turns, apart } => Self::Apart {
                turns: -turns,
                apart: -apart,
            },
            Self::Distance { distance } => Self::Distance {
                distance: distance.clone().turned_back(),
            },
            Self::Ends { treble, bass } => Self::Ends {
                treble: treble.clone().turned_back(),
                bass: bass.clone().turned_back(),
            },
            Self::Springs { .. } | Self::Reversed => self.clone(),
        }
    }

    /// Its turns, where it is told in turns.
    pub const fn as_turns(&self) -> Option<Turns> {
        match self {
            Self::Turns { turns } | Self::Apart { turns, .. } => Some(Turns::new(*turns)),
            Self::Distance { .. } | Self::Ends { .. } | Self::Springs { .. } | Self::Reversed => {
                None
            }
        }
    }
}

/// How an adjuster refused to go on.
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
pub enum End {
    /// Nothing left on the way down, or it lies on what is below it; of a saddle's screw: no further from the neck.
    Bottom,
    /// Out of thread on the way up; of a saddle's screw: no nearer to the neck.
    Top,
    /// It would not turn at all.
    Stuck,
    /// It turns after all.
    Free,
    /// Very hard to turn.
    Hard,
    /// It springs back.
    Rubbery,
    /// It turns and nothing happens, or it is slack already.
    NoEffect,
}

impl End {
    /// The ways a truss rod refuses.
    pub const OF_ROD: [Self; 3] = [Self::Hard, Self::Rubbery, Self::NoEffect];
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sets_of_strings_are_lists_in_documents() {
        let set: StringSet = [3, 1].into_iter().collect();
        assert_eq!(serde_json::to_string(&set).unwrap(), "[1,3]");
        assert_eq!(serde_json::from_str::<StringSet>("[3,1]").unwrap(), set);
        assert!(serde_json::from_str::<StringSet>("[0]").is_err());
        assert!(serde_json::from_str::<StringSet>("[200]").is_err());
        assert_eq!(set.to_string(), "1, 3");
    }

    #[test]
    fn an_adjuster_is_a_typed_object() {
        let post = Adjuster::Post { side: Side::Bass };
        assert_eq!(
            serde_json::to_string(&post).unwrap(),
            r#"{"kind":"post","side":"bass"}"#
        );
    }
}
