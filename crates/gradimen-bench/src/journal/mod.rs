//! The journal: what can happen to a job, how it is written down, and how old forms are still read.
//!
//! Entries are facts in the order they were recorded: never changed, never removed; undoing is itself an
//! entry. What one press records is one group, undone and redone as one.

pub mod document;
mod event;
mod history;
pub mod wire;

pub use document::{Document, DocumentError};
pub use event::{EVENT_VERSION, Entry, Event, Opened};
pub use history::{History, HistoryError};
