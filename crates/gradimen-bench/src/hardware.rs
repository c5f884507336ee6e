//! Bridges by generic family: what their screws do and how far their saddles go.
//!
//! The profiles are starting values (common practice), every number of which can be edited on
//! the instrument. A captive screw draws its saddle toward its own head when turned clockwise.

use gradimen_core::quantity::{Force, Length, Rate, Turns};
use gradimen_core::spring::Spring;
use gradimen_core::thread::{Rotation, Screw, ThreadError};
use gradimen_core::vibrato::Plate;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::record::{Measured, as_mm};

/// A family of bridges.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
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
    /// Bent-plate bass bridge.
    BentPlateBass,
    /// Single-string bass saddles.
    SingleStringBass,
}

impl BridgeFamily {
    /// Every family.
    pub const ALL: [Self; 8] = [
        Self::KnifeEdgeVibrato,
        Self::DoubleLocking,
        Self::TwoPost,
        Self::ThreeBarrel,
        Self::FixedPlate,
        Self::RockingTail,
        Self::BentPlateBass,
        Self::SingleStringBass,
    ];

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::KnifeEdgeVibrato => "knife-edge vibrato, one saddle a string",
            Self::DoubleLocking => "double-locking vibrato",
            Self::TwoPost => "two-post bridge with stop bar",
            Self::ThreeBarrel => "three-barrel bridge",
            Self::FixedPlate => "fixed plate, one saddle a string",
            Self::RockingTail => "rocking bridge with tail vibrato",
            Self::BentPlateBass => "bent-plate bass bridge",
            Self::SingleStringBass => "single-string bass saddles",
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
            Self::BentPlateBass => "bent-plate bridge",
            Self::SingleStringBass => "single-string saddles",
        }
    }

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::KnifeEdgeVibrato => "knife_edge_vibrato",
            Self::DoubleLocking => "double_locking",
            Self::TwoPost => "two_post",
            Self::ThreeBarrel => "three_barrel",
            Self::FixedPlate => "fixed_plate",
            Self::RockingTail => "rocking_tail",
            Self::BentPlateBass => "bent_plate_bass",
            Self::SingleStringBass => "single_string_bass",
        }
    }

    /// From that word.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|family| family.key() == key)
    }
}

/// Where the heads of the intonation screws are reached.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
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
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
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
    pub pitch: Measured,
    /// Which way clockwise drives the saddle, seen on the head.
    pub clockwise: SaddleWay,
    /// Where the head is.
    pub head: HeadAt,
    /// Setback at the front end of the travel (negative in front of the scale line).
    pub nearest: Measured,
    /// Setback at the back end of the travel.
    pub furthest: Measured,
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

/// A vibrato with springs in the body: its geometry sheet. All places are from the knife edge with the
/// plate level, and can be measured with a rule.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct VibratoRecord {
    /// A crown behind the edge.
    pub crown_back: Measured,
    /// A crown above the edge.
    pub crown_up: Measured,
    /// The hooks of the block below the edge.
    pub hook_down: Measured,
    /// From the hooks of the block to those of the claw, its screws as found.
    pub spring_length: Measured,
    /// The tail of the plate, where its gap is read, behind the edge.
    pub tail_back: Measured,
    /// The gap there when the plate is level.
    pub level_gap: Measured,
    /// How many springs are hooked on.
    pub springs: u8,
    /// Whether they converge on the claw.
    pub converging: bool,
    /// Rate of one spring, in newtons per metre.
    pub rate_newtons_per_metre: f64,
    /// A spring's length when nothing pulls.
    pub spring_free: Measured,
    /// The pull at which its coils part, in newtons.
    pub preload_newtons: f64,
    /// Thread pitch of the claw's screws.
    pub claw_pitch: Measured,
}

impl VibratoRecord {
    /// Starting values (common practice where given, else from memory), to be measured.
    pub fn usual(level_gap_mm: f64) -> Self {
        Self {
            crown_back: Measured::mm(5.0),
            crown_up: Measured::mm(11.0),
            hook_down: Measured::mm(40.0),
            spring_length: Measured::mm(80.0),
            tail_back: Measured::mm(30.0),
            level_gap: Measured::mm(level_gap_mm),
            springs: 3,
            converging: false,
            rate_newtons_per_metre: 1200.0,
            spring_free: Measured::mm(55.0),
            preload_newtons: 8.0,
            claw_pitch: Measured::mm(1.0),
        }
    }

    /// For the computation.
    pub fn plate(&self) -> Plate {
        Plate {
            crown_back: self.crown_back.middle(),
            crown_up: self.crown_up.middle(),
            hook_back: Length::ZERO,
            hook_down: self.hook_down.middle(),
            claw_front: self.spring_length.middle(),
            claw_down: self.hook_down.middle(),
            tail_back: self.tail_back.middle(),
        }
    }

    /// One of its springs.
    pub fn spring(&self) -> Spring {
        Spring {
            rate: Rate::from_newtons_per_metre(self.rate_newtons_per_metre),
            free: self.spring_free.middle(),
            preload: Force::from_newtons(self.preload_newtons),
        }
    }
}

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
}

/// What the height screws of a bridge lift.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Lifts {
    /// Every string has screws of its own: the arc can be set.
    EachString,
    /// Two posts lift the whole bridge: its arc is what it is.
    TwoPosts,
}

/// The screws that raise the strings.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct HeightScrews {
    /// Thread pitch.
    pub pitch: Measured,
    /// Whether clockwise raises.
    pub clockwise_raises: bool,
    /// Whole travel.
    pub travel: Measured,
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
    /// The strings on each saddle, string 1 first.
    pub saddles: Vec<Vec<u8>>,
    /// String length that stretches behind the saddle.
    pub behind_saddle: Measured,
    /// Its vibrato, where springs in the body answer the strings.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub vibrato: Option<VibratoRecord>,
}

impl Bridge {
    /// The usual numbers of a family (common practice) for so many strings.
    pub fn profile(family: BridgeFamily, strings: u8) -> Self {
        use BridgeFamily as F;
        // (intonation pitch, nearest, furthest, turn round, height pitch, travel, behind saddle)
        let (pitch, nearest, furthest, round, height, travel, behind) = match family {
            F::KnifeEdgeVibrato => (0.5, -1.0, 8.0, 0.0, 0.5, 4.0, 45.0),
            F::DoubleLocking => (0.5, -1.0, 8.5, 0.0, 0.8, 4.0, 8.0),
            F::TwoPost => (0.5, -2.0, 6.5, 2.0, 1.0, 8.0, 80.0),
            F::ThreeBarrel => (0.635, -1.0, 10.0, 0.0, 0.5, 4.0, 25.0),
            F::FixedPlate => (0.5, -1.0, 9.0, 0.0, 0.5, 4.0, 25.0),
            F::RockingTail => (0.5, -2.0, 7.0, 2.0, 0.7, 5.0, 120.0),
            F::BentPlateBass => (0.7, -2.0, 14.0, 0.0, 0.5, 6.0, 30.0),
            F::SingleStringBass => (0.7, -3.0, 16.0, 0.0, 0.5, 6.0, 25.0),
        };
        let (clockwise, head) = match family {
            F::TwoPost => (SaddleWay::Toward, HeadAt::Pickups),
            _ => (SaddleWay::Away, HeadAt::Tail),
        };
        Self {
            family,
            intonation: IntonationScrews {
                pitch: Measured::mm(pitch),
                clockwise,
                head,
                nearest: Measured::mm(nearest),
                furthest: Measured::mm(furthest),
                turn_round: Length::from_mm(round),
            },
            height: HeightScrews {
                pitch: Measured::mm(height),
                clockwise_raises: true,
                travel: Measured::mm(travel),
            },
            saddles: if family == F::ThreeBarrel {
                pairs(strings)
            } else {
                (1..=strings).map(|string| vec![string]).collect()
            },
            behind_saddle: Measured::mm(behind),
            vibrato: match family {
                F::KnifeEdgeVibrato => Some(VibratoRecord::usual(0.0)),
                F::DoubleLocking => Some(VibratoRecord::usual(3.5)),
                _ => None,
            },
        }
    }

    /// What its height screws lift.
    pub const fn lifts(&self) -> Lifts {
        use BridgeFamily as F;
        match self.family {
            F::DoubleLocking | F::TwoPost | F::RockingTail => Lifts::TwoPosts,
            F::KnifeEdgeVibrato
            | F::ThreeBarrel
            | F::FixedPlate
            | F::BentPlateBass
            | F::SingleStringBass => Lifts::EachString,
        }
    }

    /// Which strings each saddle carries, in words: `1 2 | 3 4` with the separators given.
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

    #[test]
    fn every_profile_carries_every_string_once() {
        for family in BridgeFamily::ALL {
            assert_eq!(BridgeFamily::from_key(family.key()), Some(family));
            for strings in 4..=8 {
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
