//! The journal: what can happen to a job, how it is written down, and how old forms are still read.
//!
//! Entries are facts in the order they were recorded: never changed, never removed; undoing is itself an
//! entry. What one press records is one group, undone and redone as one.
//!
//! ```
//! use gradimen_bench::journal::Event;
//! use gradimen_bench::model::{Measurement, Place, Reading};
//!
//! let read = Event::read(Place::Gap, Reading::Length { length: Measurement::mm(3.2) });
//! let again = read.clone().replacing();
//! assert_ne!(read, again);
//! ```

pub mod document;
mod event;
mod history;
mod station;
pub mod wire;

pub use document::{Document, DocumentError};
pub use event::{Corrected, EVENT_VERSION, Entry, Event, Opened};
pub use history::{History, HistoryError};
