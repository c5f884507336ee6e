//! Why a journal is no job.

use gradimen_core::intonation::IntonationError;
use gradimen_core::pitch::PitchError;
use gradimen_core::string::StringError;
use thiserror::Error;

use crate::event::EVENT_VERSION;
use crate::geometry::GeometryError;
use crate::instrument::InstrumentError;

/// Why a journal is no job, or an event cannot join it.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum JobError {
    /// Sequence numbers with a gap, a repeat, or a wrong start.
    #[error("entry {found} of the journal stands where entry {expected} belongs")]
    Sequence {
        /// The number that belongs there.
        expected: u64,
        /// The number found.
        found: u64,
    },
    /// No journal at all, or one that does not begin by opening the job.
    #[error("a journal begins with the event 'opened'")]
    NotOpened,
    /// A second beginning.
    #[error("entry {0} opens the job a second time")]
    OpenedTwice(u64),
    /// Written by a later version of the program.
    #[error("entry {seq} has version {version}; this program reads up to version {EVENT_VERSION}")]
    Version {
        /// Where.
        seq: u64,
        /// Its version.
        version: u32,
    },
    /// Taking back what is not there, or twice.
    #[error("entry {0} cannot be taken back or put again")]
    UndoTarget(u64),
    /// A reading or an adjuster that neck, nut and heights do not have.
    #[error("{0}")]
    Geometry(#[from] GeometryError),
    /// A string the instrument does not have.
    #[error("read string {read}, expected 1 to {strings}")]
    NoSuchString {
        /// The string named.
        read: u8,
        /// How many there are.
        strings: u8,
    },
    /// A fret the board does not have.
    #[error("read fret {read}, expected 1 to {frets}")]
    NoSuchFret {
        /// The fret named.
        read: u8,
        /// How many there are.
        frets: u8,
    },
    /// A number of strings or notes that does not fit the instrument.
    #[error("read {read} strings or notes for an instrument with {strings} strings")]
    Count {
        /// How many were given.
        read: usize,
        /// How many there are.
        strings: u8,
    },
    /// A value that cannot be.
    #[error("{what}: read {read}, expected {expected}")]
    Value {
        /// What it is.
        what: &'static str,
        /// What was read.
        read: String,
        /// What was expected.
        expected: &'static str,
    },
    /// A string that would break.
    #[error(
        "string {string} ({gauge}) at {note} would carry {percent:.0} % of its strength: above 90 % it is refused; take another gauge or tune lower"
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
    #[error("{0}")]
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
    #[error("{0}")]
    Pitch(#[from] PitchError),
    /// Something about heights or readings.
    #[error("{0}")]
    Intonation(#[from] IntonationError),
}
