//! Why a journal is no job.

use gradimen_core::action::ActionError;
use gradimen_core::intonation::IntonationError;
use gradimen_core::neck::NeckError;
use gradimen_core::pitch::PitchError;
use gradimen_core::string::StringError;
use thiserror::Error;

use crate::journal::HistoryError;
use crate::model::instrument::InstrumentError;
use crate::model::limits::LimitError;

/// Why a journal is no job, or an event cannot join it.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum JobError {
    /// Entries that are no journal.
    #[error(transparent)]
    History(#[from] HistoryError),
    /// No journal at all, or one that does not begin by opening the job.
    #[error("a journal begins with the event \"opened\"")]
    NotOpened,
    /// A second beginning.
    #[error("entry {0} opens the job a second time")]
    OpenedTwice(u64),
    /// A value that cannot be.
    #[error(transparent)]
    Limit(#[from] LimitError),
    /// What happens at a practice bench only.
    #[error("this is no practice job: nothing waits, hints or is handed in here")]
    NotPractised,
    /// A string the instrument does not have.
    #[error("string: read {read}, expected 1 to {strings}")]
    NoSuchString {
        /// The string named.
        read: u8,
        /// How many there are.
        strings: u8,
    },
    /// A fret the board does not have.
    #[error("fret: read {read}, expected 1 to {frets}")]
    NoSuchFret {
        /// The fret named.
        read: u8,
        /// How many there are.
        frets: u8,
    },
    /// A pickup that is not there.
    #[error("pickup: read {read}, this instrument has {pickups}")]
    NoSuchPickup {
        /// The pickup named, from 1.
        read: usize,
        /// How many there are.
        pickups: usize,
    },
    /// A number of strings or notes that does not fit the instrument.
    #[error("read {read} strings or notes for an instrument with {strings} strings")]
    Count {
        /// How many were given.
        read: usize,
        /// How many there are.
        strings: u8,
    },
    /// Something this instrument does not have, or cannot be told of it.
    #[error("{what}: {why}")]
    NotHere {
        /// What.
        what: &'static str,
        /// Why not.
        why: &'static str,
    },
    /// A string that would break.
    #[error(
        "string {string} ({gauge}) at {note} would carry {percent:.0} % of its breaking strength: above 90 % it is refused; take another gauge or tune lower"
    )]
    WouldBreak {
        /// Which.
        string: u8,
        /// Its gauge.
        gauge: String,
        /// Its note.
        note: String,
        /// Share of the strength.
        percent: f64,
    },
    /// Something about the instrument.
    #[error(transparent)]
    Instrument(#[from] InstrumentError),
    /// Something about a string.
    #[error("string {string}: {error}")]
    Wire {
        /// Which.
        string: u8,
        /// What.
        error: StringError,
    },
    /// Something about a note.
    #[error(transparent)]
    Pitch(#[from] PitchError),
    /// A span in which no relief can be read.
    #[error(transparent)]
    Neck(#[from] NeckError),
    /// A fret over which no height can be read.
    #[error(transparent)]
    Action(#[from] ActionError),
    /// Something about heights or fretted notes.
    #[error(transparent)]
    Intonation(#[from] IntonationError),
}
