//! Bridges by generic family: what their screws do and how far their saddles go.
//!
//! The profiles are starting values (common practice), every number of which can be edited on
//! the instrument. A captive screw draws its saddle toward its own head when turned clockwise.
//!
//! ```
//! use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
//! use gradimen_core::quantity::Turns;
//! use gradimen_core::thread::Rotation;
//!
//! // A captive screw seen from the tail draws its saddle back when it is turned clockwise.
//! let bridge = Bridge::profile(BridgeFamily::FixedPlate, 6);
//! assert_eq!(bridge.intonation.rotation(Turns::new(1.0)), Rotation::Clockwise);
//! ```

mod details;
mod family;
mod pickup;
mod vibrato;

pub use details::{BridgeDetails, SaddleDrive};
pub use family::BridgeFamily;
pub use pickup::{PickupFamily, PickupMounting, PickupRecord};
pub use vibrato::{VibratoKind, VibratoRecord};

use gradimen_core::quantity::{Length, Turns};
use gradimen_core::thread::{Rotation, Screw, ThreadError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::model::adjuster::Adjuster;
use crate::model::instrument::InstrumentError;
use crate::model::limits;
use crate::model::measurement::{Measurement, as_mm};

/// Where the heads of the intonation screws are reached.
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
pub enum HeadAt {
    /// At the tail of the instrument.
    Tail,
    /// On the side of the pickups.
    Pickups,
}

impl HeadAt {
    /// As it is said behind a direction.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Tail => "the tail",
            Self::Pickups => "the pickup side",
        }
    }
}

/// Which way a saddle goes when its screw is turned clockwise.
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
pub enum SaddleWay {
    /// Away from the neck.
    Away,
    /// Toward the neck.
    Toward,
}

/// The screws that move the saddles along the string.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct IntonationScrews {
    /// Thread pitch.
    pub pitch: Measurement,
    /// Which way clockwise drives the saddle, seen on the head.
    pub clockwise: SaddleWay,
    /// Where the head is.
    pub head: HeadAt,
    /// Setback at the front end of the travel (negative in front of the scale line).
    pub nearest: Measurement,
    /// Setback at the back end of the travel.
    pub furthest: Measurement,
    /// What turning a saddle round gains at the back; nothing where it cannot be turned.
    #[serde(rename = "turn_round_mm", with = "as_mm")]
    #[schemars(with = "f64")]
    pub turn_round: Length,
}

impl IntonationScrews {
    /// The screw for the computation: positive turns drive away from the neck.
    ///
    /// # Errors
    /// [`ThreadError`] for a pitch no bridge screw has.
    pub fn screw(&self) -> Result<Screw, ThreadError> {
        Screw::new(self.pitch.middle(), self.clockwise == SaddleWay::Away)
    }

    /// Which way to turn for so many turns away from the neck.
    pub fn rotation(&self, turns: Turns) -> Rotation {
        let away = turns >= Turns::ZERO;
        if away == (self.clockwise == SaddleWay::Away) {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        }
    }
}

/// What the height screws of a bridge lift.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Lifts {
    /// Every string has screws of its own: the arc can be set.
    EachString,
    /// Two posts lift the whole bridge: its arc is what it is.
    TwoPosts,
    /// Posts for the whole, and screws in the saddles for every string.
    Both,
    /// Nothing: a saddle is shimmed or cut.
    Nothing,
}

/// The screws that raise the strings.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HeightScrews {
    /// Thread pitch.
    pub pitch: Measurement,
    /// Whether clockwise raises.
    pub clockwise_raises: bool,
    /// Whether that was said since posts have their own default: before, all were taken to rise clockwise.
    #[serde(default, skip_serializing_if = "crate::model::is_false")]
    pub direction_checked: bool,
    /// Whole travel.
    pub travel: Measurement,
}

/// A bridge with its numbers.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Bridge {
    /// Its family.
    pub family: BridgeFamily,
    /// What moves the saddles along.
    pub intonation: IntonationScrews,
    /// What raises them.
    pub height: HeightScrews,
    /// Where a bridge has both, posts and screws in its saddles: the sort that most of its family do not have.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub other_height: Option<HeightScrews>,
    /// What it has beyond what most of its family have.
    #[serde(default, skip_serializing_if = "BridgeDetails::is_usual")]
    pub details: BridgeDetails,
    /// The strings on each saddle, string 1 first.
    pub saddles: Vec<Vec<u8>>,
    /// String length that stretches behind the saddle.
    pub behind_saddle: Measurement,
    /// Its vibrato, where springs in the body answer the strings.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub vibrato: Option<VibratoRecord>,
}

impl HeightScrews {
    /// Grub screws in a saddle, as most are (common practice).
    pub fn in_saddles() -> Self {
        Self {
            pitch: Measurement::mm(0.5),
            clockwise_raises: true,
            direction_checked: true,
            travel: Measurement::mm(4.0),
        }
    }

    /// Posts screwed into the body, or wheels on them, as most are (common practice).
    pub fn posts() -> Self {
        Self {
            pitch: Measurement::mm(1.0),
            clockwise_raises: false,
            direction_checked: true,
            travel: Measurement::mm(8.0),
        }
    }
}

impl Bridge {
    /// The usual numbers of a family (common practice) for so many strings.
    pub fn profile(family: BridgeFamily, strings: u8) -> Self {
        use BridgeFamily as F;
        // (intonation pitch, nearest, furthest, turn round, height pitch, travel, behind saddle)
        let (pitch, nearest, furthest, round, height, travel, behind) = match family {
            F::KnifeEdgeVibrato => (0.5, -1.0, 8.0, 0.0, 0.5, 4.0, 45.0),
            F::DoubleLocking => (0.5, -1.0, 8.5, 0.0, 0.8, 4.0, 8.0),
            F::TwoPost => (0.5, -2.0, 6.5, 2.0, 1.0, 8.0, 55.0),
            F::ThreeBarrel => (0.635, -1.0, 10.0, 0.0, 0.5, 4.0, 25.0),
            F::FixedPlate => (0.5, -1.0, 9.0, 0.0, 0.5, 4.0, 25.0),
            F::RockingTail => (0.5, -2.0, 7.0, 2.0, 0.8, 5.0, 120.0),
            F::ArmTail => (0.5, -2.0, 6.5, 2.0, 1.0, 8.0, 110.0),
            F::BentPlateBass => (0.635, -2.0, 14.0, 0.0, 0.5, 6.0, 30.0),
            F::SingleStringBass => (0.635, -3.0, 16.0, 0.0, 0.5, 6.0, 25.0),
            F::FloatingWooden => (0.5, -4.0, 10.0, 0.0, 0.8, 10.0, 120.0),
        };
        let (clockwise, head) = match family {
            F::TwoPost | F::ArmTail => (SaddleWay::Toward, HeadAt::Pickups),
            _ => (SaddleWay::Away, HeadAt::Tail),
        };
        Self {
            family,
            intonation: IntonationScrews {
                pitch: Measurement::mm(pitch),
                clockwise,
                head,
                nearest: Measurement::mm(nearest),
                furthest: Measurement::mm(furthest),
                turn_round: Length::from_mm(round),
            },
            height: HeightScrews {
                pitch: Measurement::mm(height),
                clockwise_raises: family.rises_clockwise(),
                direction_checked: true,
                travel: Measurement::mm(travel),
            },
            other_height: None,
            details: BridgeDetails {
                drive: match family {
                    F::DoubleLocking => SaddleDrive::Clamped,
                    F::FloatingWooden => SaddleDrive::Bar,
                    _ => SaddleDrive::Screw,
                },
                fine_tuners: family == F::DoubleLocking,
                ..BridgeDetails::default()
            },
            saddles: if family == F::ThreeBarrel {
                pairs(strings)
            } else {
                (1..=strings).map(|string| vec![string]).collect()
            },
            behind_saddle: Measurement::mm(behind),
            vibrato: match family {
                F::KnifeEdgeVibrato => Some(VibratoRecord::usual(0.0)),
                F::DoubleLocking => Some(VibratoRecord::usual(3.5)),
                F::RockingTail => Some(VibratoRecord::tail()),
                F::ArmTail => Some(VibratoRecord::arm()),
                _ => None,
            },
        }
    }

    /// Puts right what an old default of ours said of posts and wheels. Says whether it had to.
    pub fn put_right(&mut self) -> bool {
        let height = &mut self.height;
        let wrong =
            !height.direction_checked && height.clockwise_raises && !self.family.rises_clockwise();
        height.clockwise_raises &= !wrong;
        height.direction_checked = true;
        wrong
    }

    /// Says what cannot be; whether its saddles fit the strings is the instrument's to say.
    ///
    /// # Errors
    /// The first [`InstrumentError`] found.
    pub fn validate(&self) -> Result<(), InstrumentError> {
        let screws = &self.intonation;
        for (name, measured, within) in [
            ("saddle travel per turn", &screws.pitch, &limits::THREAD),
            ("saddle front limit", &screws.nearest, &limits::TRAVEL_END),
            ("saddle back limit", &screws.furthest, &limits::TRAVEL_END),
            ("height screw, a turn", &self.height.pitch, &limits::THREAD),
            (
                "travel of a height screw",
                &self.height.travel,
                &limits::HEIGHT_TRAVEL,
            ),
            (
                "string behind the saddle",
                &self.behind_saddle,
                &limits::BEHIND_SADDLE,
            ),
        ] {
            limits::named_length(name, measured, within)?;
        }
        let reversed = Measurement::new(String::new(), screws.turn_round, screws.turn_round);
        limits::length(&reversed, &limits::TURN_ROUND)?;
        screws.screw()?;
        if let Some(other) = &self.other_height {
            limits::named_length(
                "the other height screws, a turn",
                &other.pitch,
                &limits::THREAD,
            )?;
            let travel = &other.travel;
            limits::named_length("their travel", travel, &limits::HEIGHT_TRAVEL)?;
        }
        if self.details.no_height_screws && self.details.posts_and_saddle_screws {
            return Err(limits::LimitError::new(
                "height screws",
                "none, and posts and screws in the saddles too",
                "one of the two",
            )
            .into());
        }
        let (near, far) = (screws.nearest.middle(), screws.furthest.middle());
        if near >= far {
            return Err(InstrumentError::Travel(near.mm(), far.mm()));
        }
        if let Some(vibrato) = &self.vibrato {
            vibrato.validate()?;
        }
        Ok(())
    }

    /// What its height screws lift.
    pub const fn lifts(&self) -> Lifts {
        if self.details.no_height_screws {
            Lifts::Nothing
        } else if self.details.posts_and_saddle_screws {
            Lifts::Both
        } else if self.family.stands_on_posts() {
            Lifts::TwoPosts
        } else {
            Lifts::EachString
        }
    }

    /// The screws in its saddles; of a bridge on posts alone what they would be.
    pub fn saddle_screws(&self) -> HeightScrews {
        if self.family.stands_on_posts() {
            let other = self.other_height.clone();
            other.unwrap_or_else(HeightScrews::in_saddles)
        } else {
            self.height.clone()
        }
    }

    /// Its posts; of a bridge without them what they would be.
    pub fn posts(&self) -> HeightScrews {
        if self.family.stands_on_posts() {
            self.height.clone()
        } else {
            let other = self.other_height.clone();
            other.unwrap_or_else(HeightScrews::posts)
        }
    }

    /// The screws that an adjuster of height is driven by.
    pub fn screws_of(&self, adjuster: Adjuster) -> HeightScrews {
        match adjuster {
            Adjuster::Post { .. } => self.posts(),
            _ => self.saddle_screws(),
        }
    }

    /// Which strings each saddle carries, in words: `1+2, 3+4` with the separators given.
    pub fn saddles_in_words(&self, within: &str, between: &str) -> String {
        let one = |strings: &Vec<u8>| {
            let numbers: Vec<String> = strings.iter().map(u8::to_string).collect();
            numbers.join(within)
        };
        self.saddles
            .iter()
            .map(one)
            .collect::<Vec<_>>()
            .join(between)
    }

    /// The saddle that carries a string.
    pub fn saddle_of(&self, string: u8) -> Option<usize> {
        self.saddles
            .iter()
            .position(|strings| strings.contains(&string))
    }
}

/// Neighbours two by two; an odd last string has a saddle of its own.
pub fn pairs(strings: u8) -> Vec<Vec<u8>> {
    (1..=strings)
        .collect::<Vec<_>>()
        .chunks(2)
        .map(<[u8]>::to_vec)
        .collect()
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::Keyed;
    use strum::VariantArray;

    #[test]
    fn every_profile_carries_every_string_once() {
        for family in BridgeFamily::VARIANTS.iter().copied() {
            assert_eq!(BridgeFamily::from_key(family.key()), Some(family));
            for strings in limits::STRINGS {
                let bridge = Bridge::profile(family, strings);
                let carried: Vec<u8> = bridge.saddles.concat();
                assert_eq!(carried, (1..=strings).collect::<Vec<_>>());
                assert!(bridge.intonation.screw().is_ok());
            }
        }
    }

    #[test]
    fn a_screw_draws_the_saddle_toward_its_head() {
        let tail = Bridge::profile(BridgeFamily::FixedPlate, 6);
        assert_eq!(
            tail.intonation.rotation(Turns::new(1.0)),
            Rotation::Clockwise
        );
        let front = Bridge::profile(BridgeFamily::TwoPost, 6);
        assert_eq!(
            front.intonation.rotation(Turns::new(1.0)),
            Rotation::Counterclockwise
        );
        assert_eq!(
            front.intonation.rotation(Turns::new(-1.0)),
            Rotation::Clockwise
        );
    }

    #[test]
    fn barrels_carry_two() {
        assert_eq!(pairs(5), [vec![1, 2], vec![3, 4], vec![5]]);
        let barrels = Bridge::profile(BridgeFamily::ThreeBarrel, 6);
        assert_eq!(barrels.saddle_of(4), Some(1));
        assert_eq!(barrels.saddles_in_words("+", ", "), "1+2, 3+4, 5+6");
    }
}
