//! The parts a job is made of.

use gradimen_core::intonation::{Doubts, Speaking};
use gradimen_core::pitch::Pitch;
use gradimen_core::quantity::{Cents, Force, Frequency, Length, Level, Turns};
use gradimen_core::string::StringSpec;
use gradimen_core::tension;
use jiff::Timestamp;

use crate::event::{Against, Event};
use crate::record::StringRecord;

/// A string as it is now.
#[derive(Debug, Clone, PartialEq)]
pub struct StringState {
    /// As recorded.
    pub record: StringRecord,
    /// For the computation.
    pub spec: StringSpec,
    /// What it is tuned to.
    pub pitch: Pitch,
    /// The frequency of that.
    pub frequency: Frequency,
    /// Fretted on this instrument at its scale.
    pub speaking: Speaking,
    /// What is doubtful about that.
    pub doubts: Doubts,
}

impl StringState {
    /// Its pull.
    pub fn tension(&self, scale: Length) -> Force {
        tension::tension(&self.spec, scale, self.frequency)
    }
}

/// Something that happened to a saddle, in order.
#[derive(Debug, Clone, PartialEq)]
pub enum SaddleStep {
    /// Other strings or another tuning: readings before it speak of other strings.
    Restrung {
        /// The strings before, on this saddle, that the earlier readings speak of.
        before: Vec<StringState>,
    },
    /// A saddle's place was measured from the crown of fret 12.
    Placed {
        /// Along which string.
        string: u8,
        /// The distance; half the scale less is the setback.
        from_twelfth: Length,
        /// One standard deviation of it.
        sigma: Length,
    },
    /// Way left behind was measured.
    Room {
        /// How much.
        behind: Length,
    },
    /// A fretted note was read.
    Read {
        /// Place in the journal.
        seq: u64,
        /// Which string.
        string: u8,
        /// Which fret.
        fret: u8,
        /// How sharp.
        cents: Cents,
        /// Against what.
        against: Against,
        /// Kept against a question.
        kept: bool,
    },
    /// Its screw was turned.
    Moved {
        /// Positive away from the neck.
        turns: Turns,
    },
    /// It was turned round.
    TurnedRound,
    /// The bridge under it was moved.
    BridgeMoved {
        /// Away from the neck.
        by: Length,
    },
    /// The plate it stands on turned, by this step of the balance.
    PlateTurned(usize),
    /// Neck, nut or heights were read or moved: how the strings lie from here on is the snapshot of
    /// this number.
    Lying(usize),
}

impl SaddleStep {
    /// Whether it moves the saddle or changes its strings, so that readings before it are old.
    pub const fn moves_it(&self) -> bool {
        matches!(
            self,
            Self::Moved { .. }
                | Self::Restrung { .. }
                | Self::TurnedRound
                | Self::BridgeMoved { .. }
                | Self::PlateTurned(_)
        )
    }
}

/// A saddle: what it carries and what happened to it.
#[derive(Debug, Clone, PartialEq)]
pub struct Saddle {
    /// Its strings, counted from 1.
    pub strings: Vec<u8>,
    /// What happened, in order.
    pub steps: Vec<SaddleStep>,
    /// The string that matters more, if one does.
    pub preferred: Option<u8>,
    /// Whether its screw would not turn.
    pub stuck: bool,
}

/// A buzz that was heard.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Buzz {
    /// Which string.
    pub string: u8,
    /// Held where; 0 is the open string.
    pub held: u8,
    /// How hard, as a share of the player's hardest stroke.
    pub attack: f64,
}

/// A level that was read from a meter.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelReading {
    /// Which pickup, from 0 at the neck.
    pub pickup: u8,
    /// Which string was played.
    pub string: u8,
    /// What the meter showed.
    pub level: Level,
    /// The snapshot of the geometry it was read at.
    pub at: usize,
}

/// A line of the record.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    /// Place in the journal.
    pub seq: u64,
    /// When.
    pub at: Timestamp,
    /// What happened.
    pub event: Event,
    /// Whether it counts, or was taken back.
    pub live: bool,
}
