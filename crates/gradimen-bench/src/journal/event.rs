//! What can happen to a job, in the form that is written today.

use jiff::Timestamp;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::model::instrument::Instrument;
use crate::model::{
    Adjuster, Amount, End, HeightsGiven, LastTime, Observation, Place, Player, Practice, Reading,
    Stage, Strung, Taught, Wanted,
};

/// Version of the event forms written today.
pub const EVENT_VERSION: u32 = 2;

/// One line of a journal.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Entry {
    /// Its place in the journal, from 1 without gaps.
    pub seq: u64,
    /// When it was recorded.
    pub at: Timestamp,
    /// Version of the event's form.
    pub version: u32,
    /// The first entry of what the same press recorded; its own place when it stands alone.
    pub group: u64,
    /// Who told it, by the name of an account, where somebody had signed in.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub by: Option<String>,
    /// What happened.
    pub event: Event,
}

impl Entry {
    /// An entry in today's form that stands alone.
    pub const fn new(seq: u64, at: Timestamp, event: Event) -> Self {
        Self {
            seq,
            at,
            version: EVENT_VERSION,
            group: seq,
            by: None,
            event,
        }
    }

    /// The same, told by somebody.
    #[must_use]
    pub fn by(self, who: Option<&str>) -> Self {
        Self {
            by: who.map(str::to_owned),
            ..self
        }
    }

    /// What one press records, from this place on: one group.
    pub fn group(first: u64, at: Timestamp, events: Vec<Event>) -> Vec<Self> {
        (first..)
            .zip(events)
            .map(|(seq, event)| Self {
                group: first,
                ..Self::new(seq, at, event)
            })
            .collect()
    }
}

/// The beginning of a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Opened {
    /// The instrument as it was then.
    pub instrument: Instrument,
    /// Which version of its record that was.
    pub instrument_version: u32,
    /// Reason for the visit.
    pub purpose: String,
    /// Whom it is for.
    pub player: Player,
    /// The strings it is to carry.
    pub strung: Strung,
    /// The strings it came with, where they are known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub arrived: Option<Strung>,
    /// The action as it came.
    pub heights: HeightsGiven,
    /// Whether the strings now on it are old.
    pub old_strings: bool,
    /// What earlier visits taught of this instrument.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub taught: Vec<Taught>,
    /// Where it stood when it left the last time.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub last_time: Option<LastTime>,
    /// What was made to practise on; nothing for a real instrument.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub practice: Option<Practice>,
}

/// A record put right while the job was open.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Corrected {
    /// The instrument as it is.
    pub instrument: Instrument,
    /// Which version of its record that is.
    pub instrument_version: u32,
}

/// Something that happened to a job.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "type", rename_all = "snake_case", deny_unknown_fields)]
#[expect(
    clippy::large_enum_variant,
    reason = "a journal is kept behind pointers, and a target is rare in it"
)]
pub enum Event {
    /// The job was opened; always the first event.
    Opened(Box<Opened>),
    /// The record of the instrument was put right: it holds from the beginning, for what it says was always so.
    Corrected(Box<Corrected>),
    /// Other strings, another tuning, or both.
    Restrung {
        /// Set and tuning now.
        strung: Strung,
    },
    /// Something was read.
    Read {
        /// Where.
        place: Place,
        /// What was found there.
        value: Reading,
        /// Confirmed although it was questioned: it weighs less.
        #[serde(default, skip_serializing_if = "crate::model::is_false")]
        confirmed: bool,
        /// In place of what was read there before: earlier readings of this place, since it last
        /// moved, were wrong.
        #[serde(default, skip_serializing_if = "crate::model::is_false")]
        replaces: bool,
    },
    /// Something was turned, slid, filed, hooked or shimmed.
    Adjusted {
        /// What.
        adjuster: Adjuster,
        /// By how much.
        amount: Amount,
    },
    /// An adjuster is at its end, or would not go.
    Ended {
        /// Which.
        adjuster: Adjuster,
        /// How.
        how: End,
    },
    /// What is wanted.
    Targeted {
        /// What.
        wanted: Wanted,
    },
    /// Something was seen, heard or learnt.
    Observed {
        /// What.
        what: Observation,
    },
    /// Something to remember.
    Noted {
        /// The text.
        text: String,
    },
    /// The job moved on in the shop.
    Staged {
        /// Where it stands now.
        stage: Stage,
    },
    /// An earlier group is taken back.
    Undone {
        /// The first entry of that group.
        target: u64,
    },
    /// A group taken back counts again.
    Redone {
        /// The first entry of that group.
        target: u64,
    },
}

impl Event {
    /// A length read somewhere.
    pub const fn read(place: Place, value: Reading) -> Self {
        Self::Read {
            place,
            value,
            confirmed: false,
            replaces: false,
        }
    }

    /// A reading in place of those of its place since anything moved; any other event is as it was.
    #[must_use]
    pub fn replacing(mut self) -> Self {
        if let Self::Read { replaces, .. } = &mut self {
            *replaces = true;
        }
        self
    }

    /// The same reading, confirmed against a question; any other event is as it was.
    #[must_use]
    pub fn confirmed(mut self) -> Self {
        if let Self::Read { confirmed, .. } = &mut self {
            *confirmed = true;
        }
        self
    }
}
