//! Entries as they stand on paper: the version is looked at first, then the event is read strictly by the
//! form of that version, and told in today's.
//!
//! ```
//! use gradimen_bench::journal::wire;
//!
//! let raw = serde_json::json!({"type": "noted", "text": "?"});
//! let refused = wire::event(1, 99, raw).unwrap_err().to_string();
//! assert!(refused.contains("99"), "{refused}");
//! ```

pub mod v1;

use jiff::Timestamp;
use serde::{Deserialize, Deserializer};
use serde_json::Value;
use thiserror::Error;

use super::event::{EVENT_VERSION, Entry, Event};
use crate::model::limits;

/// Why an entry cannot be read.
#[derive(Debug, Error)]
pub enum WireError {
    /// Written by a later version of the program, or by none.
    #[error("entry {seq} has version {version}; this program reads versions 1 to {EVENT_VERSION}")]
    Version {
        /// Where.
        seq: u64,
        /// Its version.
        version: u32,
    },
    /// Not an event of that version.
    #[error("entry {seq} is no event of version {version}: {error}")]
    Event {
        /// Where.
        seq: u64,
        /// Its version.
        version: u32,
        /// What was wrong.
        error: serde_json::Error,
    },
}

/// Reads an event of a version from its raw value.
///
/// # Errors
/// A [`WireError`] that names the entry.
pub fn event(seq: u64, version: u32, raw: Value) -> Result<Event, WireError> {
    let wrong = |error| WireError::Event {
        seq,
        version,
        error,
    };
    match version {
        1 => serde_json::from_value(raw)
            .map(v1::Event::upcast)
            .map_err(wrong),
        EVENT_VERSION => serde_json::from_value(raw).map_err(wrong),
        version => Err(WireError::Version { seq, version }),
    }
}

#[derive(Deserialize)]
#[serde(deny_unknown_fields)]
struct RawEntry {
    seq: u64,
    at: Timestamp,
    version: u32,
    #[serde(default)]
    group: Option<u64>,
    #[serde(default)]
    by: Option<String>,
    event: Value,
}

impl<'de> Deserialize<'de> for Entry {
    fn deserialize<D: Deserializer<'de>>(deserializer: D) -> Result<Self, D::Error> {
        let raw = RawEntry::deserialize(deserializer)?;
        let event = event(raw.seq, raw.version, raw.event).map_err(serde::de::Error::custom)?;
        if let Some(by) = &raw.by {
            limits::line("who told it", by).map_err(serde::de::Error::custom)?;
        }
        Ok(Self {
            seq: raw.seq,
            at: raw.at,
            // It stands here in today's form, and is written in it.
            version: EVENT_VERSION,
            group: raw.group.unwrap_or(raw.seq),
            by: raw.by,
            event,
        })
    }
}
