//! What stops or redirects a job: the facts of it. The words are in [`crate::text`].
//!
//! ```
//! use gradimen_bench::finding::Severity;
//!
//! assert!(Severity::Stop > Severity::Warning && Severity::Warning > Severity::Note);
//! assert_eq!(Severity::Stop.key(), "stop");
//! ```

use gradimen_core::frets::FretFit;
use gradimen_core::quantity::{Cents, Length, Rate};
use gradimen_core::thread::Rotation;

use crate::model::hardware::BridgeFamily;
use crate::model::instrument::PutRight;
use crate::model::{Adjuster, End, Side, StationId, StringEntry};

/// How much a finding weighs.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, strum::IntoStaticStr)]
#[strum(serialize_all = "snake_case")]
pub enum Severity {
    /// To be kept in mind.
    Note,
    /// To be looked at before going on.
    Warning,
    /// Stop.
    Stop,
}

impl Severity {
    /// Its word.
    pub fn key(self) -> &'static str {
        self.into()
    }
}

/// What a measured scale says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ScaleCheck {
    /// Along which string.
    pub string: u8,
    /// The scale on record.
    pub named: Length,
    /// Twice the distance measured.
    pub measured: Length,
    /// Whether the two belong together.
    pub agrees: bool,
    /// How far the bridge must go away from the neck (negative: toward it), or the neck the other
    /// way, so that every saddle of these strings gets to its place with a turn to spare.
    pub shift: Length,
}

impl ScaleCheck {
    /// How much longer the neck is than its name says.
    pub fn difference(&self) -> Length {
        self.measured - self.named
    }
}

/// An option at the end of a saddle's travel.
#[derive(Debug, Clone, PartialEq)]
pub enum Remedy {
    /// Reverse the saddle.
    ReverseSaddle {
        /// What that gains.
        gain: Length,
        /// Whether it is enough.
        enough: bool,
    },
    /// Another string whose place lies within the travel.
    OtherString {
        /// Which string to fit.
        string: StringEntry,
        /// Where its saddle would stand.
        setback: Length,
    },
    /// Move the bridge (away from the neck; toward it when negative).
    MoveBridge {
        /// How far, a turn to spare included.
        by: Length,
    },
}

/// The height screws of a bridge that may have two sorts.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Screws {
    /// Those in its saddles.
    InSaddles,
    /// Its posts, wheels or feet.
    Posts,
}

/// Something that stops or redirects the job.
#[derive(Debug, Clone, PartialEq, strum::EnumCount)]
pub enum Finding {
    /// The neck is not what its name says, or it is.
    Scale(ScaleCheck),
    /// A saddle does not reach its place.
    OutOfTravel {
        /// The string that leads.
        string: u8,
        /// How far it is short; positive at the back, negative at the front.
        short_by: Length,
        /// One standard deviation of that.
        sigma: Length,
        /// What can be done.
        remedies: Vec<Remedy>,
    },
    /// Less than a turn is left at the place.
    Tight {
        /// The string that leads.
        string: u8,
    },
    /// A wire works near its strength.
    NearBreaking {
        /// Which string.
        string: u8,
        /// Share of its strength.
        share: f64,
    },
    /// Old strings make everything provisional.
    OldStrings,
    /// Several frets together point at something.
    Frets {
        /// Which string.
        string: u8,
        /// What was fitted.
        fit: FretFit,
    },
    /// A fretted note does not fit what is known.
    Questioned {
        /// Which string.
        string: u8,
        /// Its place in the journal.
        seq: u64,
        /// What was read.
        cents: Cents,
    },
    /// A screw would not turn.
    Stuck {
        /// The string that leads.
        string: u8,
    },
    /// One side in back-bow while the other has relief, or one with far more relief than the other.
    Twist {
        /// The side that is in back-bow; nothing where both bow forward.
        backward: Option<Side>,
        /// Relief of both sides by hold 1 and last, read 8: treble, bass.
        relief: [Length; 2],
    },
    /// The treble side has clearly more relief than the bass.
    TrebleMore {
        /// By how much.
        by: Length,
    },
    /// Both sides in back-bow.
    BackBow {
        /// On a one-way rod that is slack already.
        slack: bool,
    },
    /// What the other side wants would take this one below straight.
    NoSideBelow(Side),
    /// The neck went the other way than the rod was turned; by the record this way tightens.
    RodBackwards(Rotation),
    /// The bridge stands where saddles cannot reach their places.
    BridgePlace {
        /// The strings that it fails.
        strings: Vec<u8>,
        /// How far the worst is short: positive at the back, negative at the front.
        by: Length,
    },
    /// The truss rod has nothing left in the direction that is needed.
    RodSpent {
        /// How it was found.
        how: End,
        /// Whether this neck needs it; else it is let be, and only known.
        needed: bool,
    },
    /// A long neck that has to be tightened far: off load.
    OffLoad,
    /// By the record height screws raise the other way round than most of this bridge's family.
    OtherWayRound {
        /// On which family.
        family: BridgeFamily,
        /// Which of them.
        screws: Screws,
        /// Whether the record has them raise clockwise.
        clockwise: bool,
    },
    /// The record carried a wrong default of ours for which way screws raise; it was put right.
    RecordPutRight(PutRight),
    /// Slots are too low: which strings, and by how much over fret 1.
    NutTooLow(Vec<(u8, Length)>),
    /// Slots that stay above their target: lower, the open string touches at this player's hardest stroke.
    NutFloor(Vec<u8>),
    /// Slots so high that fret 1 plays out of tune when all else is right: each string, and how sharp it will be.
    NutCeiling(Vec<(u8, Cents)>),
    /// An adjuster of height is at its end.
    HeightSpent {
        /// Which.
        adjuster: Adjuster,
        /// A string it carries.
        string: u8,
        /// Which end.
        end: End,
        /// How far it would have to go on.
        short_by: Length,
        /// A wedge that helps.
        wedge: Option<Length>,
        /// A full shim that helps.
        shim: Option<Length>,
    },
    /// Pickups so near that their magnets pull on the strings: name and side.
    TooNear(Vec<(String, Side)>),
    /// A side of a pickup is at its end.
    PickupSpent {
        /// What the shop calls it.
        pickup: String,
        /// Which side.
        side: Side,
        /// Which end.
        end: End,
        /// Whether foam or spring is squeezed there; else the screw is out of thread.
        squeezed: bool,
        /// How far it would have to go on.
        short_by: Length,
    },
    /// The springs of a vibrato cannot hold it where it is wanted; so many could.
    Springs {
        /// How many are on.
        on: u8,
        /// How many could.
        wanted: Option<u8>,
    },
    /// A plate that is pulled far up at rest.
    PulledUp(Length),
    /// The claw would stand at its wall or out of its thread, or a seat beyond its travel.
    ClawSpent {
        /// How far it would have to go; positive makes the springs stronger.
        by: Length,
        /// Whether that is a claw.
        claw: bool,
        /// The rate of a spring that would do where it stands.
        rate: Option<Rate>,
    },
    /// A float that would run away where it is wanted.
    RunsAway,
    /// A spring hangs loose, or is stretched to twice its length and more.
    SpringsAtEnd {
        /// Whether it hangs loose.
        loose: bool,
    },
}

impl Finding {
    /// How much it weighs.
    pub fn severity(&self) -> Severity {
        match self {
            Self::Scale(check) if check.agrees => Severity::Note,
            Self::Frets { fit, .. } if fit.blame == gradimen_core::frets::Blame::Saddle => {
                Severity::Note
            }
            Self::OldStrings
            | Self::OffLoad
            | Self::RecordPutRight(_)
            | Self::NutFloor(_)
            | Self::RodSpent { needed: false, .. }
            | Self::NoSideBelow(_) => Severity::Note,
            Self::NutCeiling(_)
            | Self::Tight { .. }
            | Self::NearBreaking { .. }
            | Self::Questioned { .. }
            | Self::Frets { .. }
            | Self::TrebleMore { .. }
            | Self::BackBow { slack: false }
            | Self::NutTooLow(_)
            | Self::TooNear(_)
            | Self::PulledUp(_)
            | Self::RunsAway
            | Self::SpringsAtEnd { .. }
            | Self::OtherWayRound { .. }
            | Self::PickupSpent { .. } => Severity::Warning,
            Self::Scale(_)
            | Self::OutOfTravel { .. }
            | Self::Stuck { .. }
            | Self::Twist { .. }
            | Self::BridgePlace { .. }
            | Self::RodSpent { needed: true, .. }
            | Self::BackBow { slack: true }
            | Self::RodBackwards(_)
            | Self::HeightSpent { .. }
            | Self::Springs { .. }
            | Self::ClawSpent { .. } => Severity::Stop,
        }
    }

    /// The station that can do something about it; nothing for what concerns all of the job.
    pub const fn station(&self) -> Option<StationId> {
        Some(match self {
            Self::Scale(_)
            | Self::OutOfTravel { .. }
            | Self::Tight { .. }
            | Self::Frets { .. }
            | Self::Questioned { .. }
            | Self::Stuck { .. }
            | Self::BridgePlace { .. } => StationId::Intonation,
            Self::NearBreaking { .. } | Self::OldStrings => return None,
            Self::Twist { .. }
            | Self::TrebleMore { .. }
            | Self::BackBow { .. }
            | Self::NoSideBelow(_)
            | Self::RodBackwards(_)
            | Self::RodSpent { .. }
            | Self::OffLoad => StationId::Relief,
            Self::NutTooLow(_) | Self::NutFloor(_) | Self::NutCeiling(_) => StationId::Nut,
            Self::OtherWayRound { .. }
            | Self::RecordPutRight(PutRight::Posts)
            | Self::HeightSpent { .. } => StationId::Action,
            Self::TooNear(_)
            | Self::RecordPutRight(PutRight::Pickups)
            | Self::PickupSpent { .. } => StationId::Pickups,
            Self::Springs { .. }
            | Self::PulledUp(_)
            | Self::ClawSpent { .. }
            | Self::RunsAway
            | Self::SpringsAtEnd { .. } => StationId::Balance,
        })
    }

    /// Its word for other programs.
    pub const fn kind(&self) -> &'static str {
        match self {
            Self::Scale(_) => "scale",
            Self::OutOfTravel { .. } => "out_of_travel",
            Self::Tight { .. } => "tight",
            Self::NearBreaking { .. } => "near_breaking",
            Self::OldStrings => "old_strings",
            Self::Frets { .. } => "frets",
            Self::Questioned { .. } => "questioned",
            Self::Stuck { .. } => "stuck",
            Self::Twist { .. } => "twist",
            Self::TrebleMore { .. } => "treble_side",
            Self::BackBow { .. } => "back_bow",
            Self::NoSideBelow(_) => "no_side_below",
            Self::RodBackwards(_) => "rod_backwards",
            Self::BridgePlace { .. } => "bridge_place",
            Self::RodSpent { .. } => "rod_spent",
            Self::OffLoad => "off_load",
            Self::OtherWayRound { .. } => "other_way_round",
            Self::RecordPutRight(_) => "record_put_right",
            Self::NutTooLow(_) => "nut_too_low",
            Self::NutFloor(_) => "nut_floor",
            Self::NutCeiling(_) => "nut_ceiling",
            Self::HeightSpent { .. } => "height_spent",
            Self::TooNear(_) => "pickup_too_near",
            Self::PickupSpent { .. } => "pickup_spent",
            Self::Springs { .. } => "springs",
            Self::PulledUp(_) => "pulled_up",
            Self::ClawSpent { .. } => "claw_spent",
            Self::RunsAway => "runs_away",
            Self::SpringsAtEnd { .. } => "springs_at_end",
        }
    }

    /// The string it speaks of, if of one.
    pub const fn string(&self) -> Option<u8> {
        match self {
            Self::Scale(check) => Some(check.string),
            Self::OutOfTravel { string, .. }
            | Self::Tight { string }
            | Self::NearBreaking { string, .. }
            | Self::Frets { string, .. }
            | Self::Questioned { string, .. }
            | Self::Stuck { string }
            | Self::HeightSpent { string, .. } => Some(*string),
            _ => None,
        }
    }
}
