//! What can go wrong with the file.

use std::path::PathBuf;

use gradimen_bench::estimate::EstimateError;
use gradimen_bench::job::JobError;
use gradimen_bench::journal::{DocumentError, wire::WireError};
use gradimen_bench::model::instrument::InstrumentError;
use gradimen_bench::model::limits::LimitError;
use thiserror::Error;

/// Why the store did not do it.
#[derive(Debug, Error)]
pub enum StoreError {
    /// Not a data file of this program.
    #[error("{} is not a data file of this program; it was left untouched", .0.display())]
    Foreign(PathBuf),
    /// Damaged.
    #[error("{path} is damaged ({what}); it was left untouched. Put back a copy, or look at it with SQLite's own tools", path = .path.display())]
    Damaged {
        /// Which file.
        path: PathBuf,
        /// What the check said.
        what: String,
    },
    /// Written by a later version of the program.
    #[error("{path} was written by a newer version of this program (form {found}, this one knows {known}); it was left untouched", path = .path.display())]
    Newer {
        /// Which file.
        path: PathBuf,
        /// Its form.
        found: i64,
        /// The newest form known here.
        known: i64,
    },
    /// The log beside the file is there, the file itself is not.
    #[error("{} is missing or empty, but the file beside it with '-wal' at its end holds what was written last; both were left untouched. Put the data file back beside it and start again", .0.display())]
    Orphaned(PathBuf),
    /// Another process has it.
    #[error("{} is in use by another process of this program", .0.display())]
    InUse(PathBuf),
    /// Something came between.
    #[error("this changed in another window since entry {seen}: it now stands at entry {now}")]
    Conflict {
        /// What the writer saw.
        seen: u64,
        /// What there is.
        now: u64,
    },
    /// No such job.
    #[error("there is no job {0}")]
    NoSuchJob(i64),
    /// No such instrument.
    #[error("there is no instrument {0}")]
    NoSuchInstrument(i64),
    /// The event cannot be.
    #[error("{0}")]
    Job(#[from] JobError),
    /// What was recorded cannot be worked out.
    #[error("{0}")]
    Estimate(#[from] EstimateError),
    /// It took too long.
    #[error("working this job out took longer than {} s and was given up; nothing was changed", .0.as_secs())]
    GivenUp(std::time::Duration),
    /// An entry that this program cannot read.
    #[error("{0}")]
    Wire(#[from] WireError),
    /// A document that cannot be written.
    #[error("{0}")]
    Document(#[from] DocumentError),
    /// The instrument cannot be.
    #[error("{0}")]
    Instrument(#[from] InstrumentError),
    /// The shop cannot be.
    #[error(transparent)]
    Shop(LimitError),
    /// A body that cannot be read or written.
    #[error("a record could not be read or written: {0}")]
    Body(#[from] serde_json::Error),
    /// A time that cannot be read.
    #[error("a time could not be read: {0}")]
    Time(#[from] jiff::Error),
    /// The database.
    #[error("the data file: {0}")]
    Database(sqlx::Error),
    /// The disk is full.
    #[error(
        "there is no room on the disk: nothing was saved. Make room and press again; what is on the page stays"
    )]
    NoRoom,
    /// It may not be written.
    #[error(
        "the data file may not be written: nothing was saved. Give this program the right to write in its folder, or start it as whoever has it"
    )]
    NoPermission,
    /// Somebody else holds it.
    #[error(
        "the data file is locked by another program: nothing was saved. Close what has it open, a backup or another SQLite tool, and press again"
    )]
    Busy,
    /// Damaged while it was open.
    #[error(
        "the data file is damaged: nothing was saved. Stop the program, run \"gradimen verify\", and put a backup back"
    )]
    Hurt,
    /// There is a file where a copy was to be written.
    #[error("{} is there already; a backup never takes another file's place", .0.display())]
    Taken(PathBuf),
    /// A copy that does not hold.
    #[error("{path} cannot be put back: {what}", path = .path.display())]
    Unsound {
        /// Which file.
        path: PathBuf,
        /// What does not hold.
        what: String,
    },
    /// A shop is taken in on an empty bench only.
    #[error(
        "there are {0} instruments already; a whole shop is taken in on a bench that has none, with a folder of its own"
    )]
    NotEmpty(i64),
    /// No document of a shop.
    #[error("this is no document of a whole shop from this program: {0}")]
    NoShop(String),
    /// A practice job among the shop's, or a job of the shop among those.
    #[error(
        "what is practised stays at the practice bench, and what is not does not go there: nothing was saved"
    )]
    Practised,
    /// An account that cannot be.
    #[error("{0}")]
    Account(String),
    /// The file system.
    #[error("{path}: {error}", path = .path.display())]
    File {
        /// Which file.
        path: PathBuf,
        /// What.
        error: std::io::Error,
    },
}

impl From<sqlx::Error> for StoreError {
    fn from(error: sqlx::Error) -> Self {
        if matches!(error, sqlx::Error::PoolTimedOut) {
            return Self::Busy;
        }
        let code = error.as_database_error().and_then(|error| error.code());
        let code: Option<u32> = code.and_then(|code| code.parse().ok());
        // The primary result codes of SQLite stand in the lowest byte (sqlite.org/rescode.html).
        match code.map(|code| code & 0xff) {
            Some(13) => Self::NoRoom,
            Some(3 | 8 | 14 | 23) => Self::NoPermission,
            Some(5 | 6) => Self::Busy,
            Some(11 | 26) => Self::Hurt,
            _ => Self::Database(error),
        }
    }
}
