//! One SQLite file: instruments with their history, jobs with their append-only journals.
//!
//! A write names the sequence number (or version) its writer saw; if something came between,
//! nothing is written and the writer is told. What a call has acknowledged is on disk: write-ahead
//! log with `synchronous = FULL`.
//!
//! - [`Store`]: opening, checking and locking the file. - [`instruments`]: records with history.
//! - [`shop`]: what a shop keeps of itself. - [`journal`]: jobs and their entries. - [`library`]: the job list and its search.

pub mod accounts;
mod attempts;
pub mod backup;
mod error;
mod files;
pub mod instruments;
pub mod journal;
pub mod library;
mod open;
pub mod sessions;
pub mod shop;
mod shop_lists;
mod sums;
pub mod verify;
pub mod whole;
mod worked;

pub use error::StoreError;
pub use open::{Mark, Store};
pub use worked::Worked;
