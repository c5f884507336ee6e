//! Vibratos by what answers their strings, and the sheet of their geometry.

use gradimen_core::quantity::{Force, Length, Rate, Turns};
use gradimen_core::spring::{Spring, Works};
use gradimen_core::units::print;
use gradimen_core::vibrato::{Adjusts, Plate};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::BridgeFamily;
use crate::model::Measurement;
use crate::model::limits::{self, LimitError};

/// What answers the strings of a vibrato.
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
pub enum VibratoKind {
    /// Springs in the body, pulled between a block and a claw.
    #[default]
    BodySprings,
    /// One spring in the tail, pressed; a screw moves its seat.
    TailSpring,
    /// One spring under the arm, pressed; washers lift its seat.
    ArmSpring,
}

impl VibratoKind {
    /// The kind a family of bridges has.
    pub const fn of(family: BridgeFamily) -> Option<Self> {
        use BridgeFamily as F;
        match family {
            F::KnifeEdgeVibrato | F::DoubleLocking => Some(Self::BodySprings),
            F::RockingTail => Some(Self::TailSpring),
            F::ArmTail => Some(Self::ArmSpring),
            F::TwoPost
            | F::ThreeBarrel
            | F::FixedPlate
            | F::BentPlateBass
            | F::SingleStringBass
            | F::FloatingWooden => None,
        }
    }

    /// Its adjuster, in words.
    pub const fn adjuster(self) -> &'static str {
        match self {
            Self::BodySprings => "claw, both screws",
            Self::TailSpring => "spring screw of the tail",
            Self::ArmSpring => "washers under the arm's spring",
        }
    }

    /// The ways it goes: stronger, weaker.
    pub const fn ways(self) -> (&'static str, &'static str) {
        match self {
            Self::BodySprings => ("in", "out"),
            Self::TailSpring => ("tighter", "looser"),
            Self::ArmSpring => ("put in", "taken out"),
        }
    }

    /// So many turns of its adjuster, or washers, with the way.
    pub fn in_words(self, turns: Turns) -> String {
        let (stronger, weaker) = self.ways();
        let way = if turns < Turns::ZERO {
            weaker
        } else {
            stronger
        };
        if self == Self::ArmSpring {
            let washers = turns.abs().value().round();
            let word = if washers == 1.0 { "washer" } else { "washers" };
            format!("{washers} {word} {way}")
        } else {
            format!("{} {way}", print::turns_with_word(turns.abs()))
        }
    }
}

/// A vibrato: its geometry sheet. All places are from the knife edge or pivot with plate or tail
/// level, and can be measured with a rule. Springs in the body hang below the edge on their lever; a
/// tail's spring stands before the pivot on its own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct VibratoRecord {
    /// What answers the strings.
    #[serde(default)]
    pub kind: VibratoKind,
    /// A crown, or where the strings hold on to a tail, behind the edge.
    pub crown_back: Measurement,
    /// The same above the edge.
    pub crown_up: Measurement,
    /// The lever of the springs: hooks of the block below the edge, or a tail's spring before its pivot.
    pub hook_down: Measurement,
    /// From the hooks of the block to those of the claw, or from seat to seat, adjuster as found.
    pub spring_length: Measurement,
    /// Where the gap is read: the tail of a plate behind the edge, the bar of a tail before its pivot.
    pub tail_back: Measurement,
    /// The gap there when the plate is level.
    pub level_gap: Measurement,
    /// How many springs are hooked on.
    pub springs: u8,
    /// Whether they converge on the claw.
    pub converging: bool,
    /// Rate of one spring, in newtons per metre.
    pub rate_newtons_per_metre: f64,
    /// A spring's length when nothing pulls or presses.
    pub spring_free: Measurement,
    /// The pull at which its coils part, in newtons.
    pub preload_newtons: f64,
    /// What the adjuster does at once: thread pitch of its screws, or thickness of a washer.
    pub claw_pitch: Measurement,
}

impl VibratoRecord {
    /// Starting values (common practice where given, else from memory), to be measured. The break points of a double-locking
    /// plate lie further back than these; what nobody measured is believed within three millimetres.
    pub fn usual(level_gap_mm: f64) -> Self {
        Self {
            kind: VibratoKind::BodySprings,
            crown_back: Measurement::mm(11.0),
            crown_up: Measurement::mm(10.5),
            hook_down: Measurement::mm(42.0),
            spring_length: Measurement::mm(80.0),
            tail_back: Measurement::mm(30.0),
            level_gap: Measurement::mm(level_gap_mm),
            springs: 3,
            converging: false,
            rate_newtons_per_metre: 1500.0,
            spring_free: Measurement::mm(55.0),
            preload_newtons: 8.0,
            claw_pitch: Measurement::mm(1.8),
        }
    }

    /// What this sheet would be with typical values only.
    pub fn typical(&self) -> Self {
        match self.kind {
            VibratoKind::BodySprings => Self::usual(self.level_gap.middle().mm()),
            VibratoKind::TailSpring => Self::tail(),
            VibratoKind::ArmSpring => Self::arm(),
        }
    }

    /// Starting values of a tail with one spring (from memory), to be measured.
    pub fn tail() -> Self {
        Self {
            kind: VibratoKind::TailSpring,
            crown_back: Measurement::mm(0.0),
            crown_up: Measurement::mm(9.0),
            hook_down: Measurement::mm(15.0),
            spring_length: Measurement::mm(26.0),
            tail_back: Measurement::mm(30.0),
            level_gap: Measurement::mm(8.0),
            springs: 1,
            converging: false,
            rate_newtons_per_metre: 20_000.0,
            spring_free: Measurement::mm(39.0),
            preload_newtons: 0.0,
            claw_pitch: Measurement::mm(1.0),
        }
    }

    /// Starting values of an arm tailpiece (from memory), to be measured.
    pub fn arm() -> Self {
        Self {
            kind: VibratoKind::ArmSpring,
            crown_back: Measurement::mm(0.0),
            crown_up: Measurement::mm(6.0),
            hook_down: Measurement::mm(24.0),
            spring_length: Measurement::mm(20.0),
            tail_back: Measurement::mm(30.0),
            level_gap: Measurement::mm(10.0),
            rate_newtons_per_metre: 9_000.0,
            spring_free: Measurement::mm(32.0),
            claw_pitch: Measurement::mm(0.5),
            ..Self::tail()
        }
    }

    /// How far a tail's seat goes up with so many turns of its screw or so many washers, as it is
    /// written in the journal: `3/8 turn looser`, `2 washers put in`.
    ///
    /// # Errors
    /// In words, when a part of a washer is asked for.
    pub fn seat_moved(&self, turns: Turns) -> Result<Measurement, &'static str> {
        if self.kind == VibratoKind::ArmSpring && turns.value().fract() != 0.0 {
            return Err("washers are whole: write 1 or 2");
        }
        let by = self.claw_pitch.middle() * turns.value();
        Ok(Measurement::new(self.kind.in_words(turns), by, by))
    }

    /// Says what cannot be.
    ///
    /// # Errors
    /// The first [`LimitError`] found.
    pub fn validate(&self) -> Result<(), LimitError> {
        for (name, part) in [
            ("break point behind the edge", &self.crown_back),
            ("break point above the edge", &self.crown_up),
            ("hooks below the edge", &self.hook_down),
            ("spring from hook to hook", &self.spring_length),
            ("where the gap is read", &self.tail_back),
            ("gap when the plate is level", &self.level_gap),
            ("spring length, unhooked", &self.spring_free),
        ] {
            limits::named_length(name, part, &limits::VIBRATO_PART)?;
        }
        // What a lever or a spring is divided by cannot be nothing.
        for (name, part) in [
            ("hooks below the edge", &self.hook_down),
            ("spring from hook to hook", &self.spring_length),
            ("where the gap is read", &self.tail_back),
            ("spring length, unhooked", &self.spring_free),
        ] {
            let least = limits::VIBRATO_PART.low + Length::from_mm(1.0);
            if part.low < least {
                return Err(LimitError::new(name, &part.written, "1 mm or more"));
            }
        }
        limits::named_length("claw screw, a turn", &self.claw_pitch, &limits::CLAW_PITCH)?;
        limits::count(
            "springs",
            usize::from(self.springs),
            &(usize::from(*limits::SPRINGS.start())..=usize::from(*limits::SPRINGS.end())),
        )?;
        limits::number(
            "rate of a spring",
            self.rate_newtons_per_metre,
            &limits::RATE,
            "N/m",
        )?;
        limits::number(
            "force before a spring starts to stretch",
            self.preload_newtons,
            &limits::PRELOAD,
            "N",
        )
    }

    /// For the computation.
    pub fn plate(&self) -> Plate {
        let lever = self.hook_down.middle();
        let level = Plate {
            crown_back: self.crown_back.middle(),
            crown_up: self.crown_up.middle(),
            hook_back: Length::ZERO,
            hook_down: lever,
            claw_front: self.spring_length.middle(),
            claw_down: lever,
            tail_back: self.tail_back.middle(),
            adjusts: Adjusts::Neckward,
        };
        match self.kind {
            VibratoKind::BodySprings => level,
            VibratoKind::TailSpring | VibratoKind::ArmSpring => Plate {
                hook_back: -lever,
                hook_down: Length::ZERO,
                claw_front: lever,
                claw_down: self.spring_length.middle(),
                tail_back: -self.tail_back.middle(),
                adjusts: Adjusts::Upward,
                ..level
            },
        }
    }

    /// One of its springs.
    pub fn spring(&self) -> Spring {
        Spring {
            works: match self.kind {
                VibratoKind::BodySprings => Works::Pulled,
                VibratoKind::TailSpring | VibratoKind::ArmSpring => Works::Pressed,
            },
            rate: Rate::from_newtons_per_metre(self.rate_newtons_per_metre),
            free: self.spring_free.middle(),
            preload: Force::from_newtons(self.preload_newtons),
        }
    }
}
