//! A job as one JSON document: the file other programs read and write.
//!
//! The instrument as it was stands in the first event; everything after it is the journal.
//!
//! ```
//! use gradimen_bench::journal::Document;
//!
//! let text = include_str!("../../../../docs/formats/examples/rocking-tail.json");
//! let document = Document::parse(text)?;
//! assert_eq!(Document::parse(&document.to_json()?)?.events, document.events);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use schemars::{JsonSchema, Schema, schema_for};
use serde::{Deserialize, Serialize};
use serde_json::Value;
use thiserror::Error;

use super::event::{EVENT_VERSION, Entry};
use super::wire::v1;
use crate::model::limits;

/// What the format is called in its documents.
pub const FORMAT: &str = "gradimen-job";
/// Version of the document's form.
pub const FORMAT_VERSION: u32 = 1;

/// A job with its whole journal.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Document {
    /// Always `gradimen-job`.
    pub format: String,
    /// Version of the document's form, 1 today.
    pub version: u32,
    /// Newest version of the event forms it contains: 2 today, 1 in older documents.
    pub event_version: u32,
    /// The journal; the first event opens the job with the instrument as it was.
    pub events: Vec<Entry>,
}

/// Why a document cannot be read.
#[derive(Debug, Error)]
pub enum DocumentError {
    /// Not JSON, or not of this form.
    #[error("not a job document: {0}")]
    Json(serde_json::Error),
    /// Another format.
    #[error("format: read \"{0}\", expected \"{FORMAT}\"")]
    Format(String),
    /// A later version.
    #[error("version: read {0}, this program reads version {FORMAT_VERSION}")]
    Version(u64),
    /// Events of a later version.
    #[error("event_version: read {0}, this program reads versions 1 to {EVENT_VERSION}")]
    EventVersion(u64),
    /// It cannot be written.
    #[error("the document cannot be written: {0}")]
    Write(serde_json::Error),
}

impl Document {
    /// From a journal.
    pub fn of(events: Vec<Entry>) -> Self {
        Self {
            format: FORMAT.to_owned(),
            version: FORMAT_VERSION,
            event_version: EVENT_VERSION,
            events,
        }
    }

    /// Reads a document and checks its form, not yet its journal: that is the fold's.
    ///
    /// ```
    /// use gradimen_bench::journal::Document;
    ///
    /// let refused = Document::parse(r#"{"format":"gradimen-job","version":1,"event_version":9,"events":[]}"#);
    /// assert!(refused.unwrap_err().to_string().starts_with("event_version: read 9"));
    /// ```
    ///
    /// # Errors
    /// [`DocumentError`] that says where and what.
    pub fn parse(text: &str) -> Result<Self, DocumentError> {
        // The heads are looked at before the strict reading, so that a document of tomorrow is called
        // that and not damaged.
        let raw: Value = serde_json::from_str(text).map_err(DocumentError::Json)?;
        let number = |name: &str| raw.get(name).and_then(Value::as_u64);
        if let Some(format) = raw.get("format").and_then(Value::as_str)
            && format != FORMAT
        {
            return Err(DocumentError::Format(limits::shortened(format)));
        }
        if let Some(version) = number("version").filter(|found| *found != u64::from(FORMAT_VERSION))
        {
            return Err(DocumentError::Version(version));
        }
        if let Some(version) =
            number("event_version").filter(|found| !(1..=u64::from(EVENT_VERSION)).contains(found))
        {
            return Err(DocumentError::EventVersion(version));
        }
        let document: Self = serde_json::from_value(raw).map_err(DocumentError::Json)?;
        Ok(Self {
            event_version: EVENT_VERSION,
            ..document
        })
    }

    /// The text of a document whose entries stand in whatever form they were written in.
    ///
    /// # Errors
    /// [`DocumentError::Write`] when a value cannot be written.
    pub fn text_of(entries: &impl Serialize) -> Result<String, DocumentError> {
        #[derive(Serialize)]
        struct Raw<'a, T> {
            format: &'static str,
            version: u32,
            event_version: u32,
            events: &'a T,
        }
        let raw = Raw {
            format: FORMAT,
            version: FORMAT_VERSION,
            event_version: EVENT_VERSION,
            events: entries,
        };
        let mut text = serde_json::to_string_pretty(&raw).map_err(DocumentError::Write)?;
        text.push('\n');
        Ok(text)
    }

    /// As text, one document to a file.
    ///
    /// # Errors
    /// [`DocumentError::Write`] when a value cannot be written.
    pub fn to_json(&self) -> Result<String, DocumentError> {
        let mut text = serde_json::to_string_pretty(self).map_err(DocumentError::Write)?;
        text.push('\n');
        Ok(text)
    }
}

/// The JSON Schema of the document. Its `Event` has the kinds of both versions: which ones an entry may have
/// is told by its `version`.
pub fn schema() -> Schema {
    let mut schema = schema_for!(Document);
    let mut first = schema_for!(v1::Event);
    // The older forms and what they are made of, beside today's.
    let older = first.remove("oneOf");
    let parts = first.remove("$defs");
    let Some(Value::Object(defs)) = schema.get_mut("$defs") else {
        return schema;
    };
    if let (Some(Value::Array(today)), Some(Value::Array(older))) = (
        defs.get_mut("Event")
            .and_then(|event| event.get_mut("oneOf")),
        older,
    ) {
        today.extend(older);
    }
    if let Some(Value::Object(parts)) = parts {
        for (name, part) in parts {
            defs.entry(name).or_insert(part);
        }
    }
    if let Some(Value::Object(entry)) = defs.get_mut("Entry")
        && let Some(Value::Array(required)) = entry.get_mut("required")
    {
        required.retain(|name| name != "group");
    }
    schema
}
