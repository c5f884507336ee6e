//! A job as one JSON document: the file other programs read and write.
//!
//! The instrument as it was stands in the first event; everything after it is the journal.

use schemars::{JsonSchema, Schema, schema_for};
use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::event::{EVENT_VERSION, Entry};
use crate::job::{Job, JobError};

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
    /// Version of the event forms it may contain, 1 today.
    pub event_version: u32,
    /// The journal; the first event opens the job with the instrument as it was.
    pub events: Vec<Entry>,
}

/// Why a document cannot be read.
#[derive(Debug, Error)]
pub enum DocumentError {
    /// Not JSON, or not of this form.
    #[error("not a job document: {0}")]
    Json(#[from] serde_json::Error),
    /// Another format.
    #[error("read the format '{0}', expected '{FORMAT}'")]
    Format(String),
    /// A later version.
    #[error("read version {0} of the document, this program reads version {FORMAT_VERSION}")]
    Version(u32),
    /// The journal is no job.
    #[error("{0}")]
    Job(#[from] JobError),
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

    /// Reads a document and checks its form (not yet its journal).
    ///
    /// # Errors
    /// [`DocumentError`] that says where and what.
    pub fn parse(text: &str) -> Result<Self, DocumentError> {
        let document: Self = serde_json::from_str(text)?;
        if document.format != FORMAT {
            return Err(DocumentError::Format(document.format));
        }
        if document.version != FORMAT_VERSION {
            return Err(DocumentError::Version(document.version));
        }
        Ok(document)
    }

    /// Folds its journal.
    ///
    /// # Errors
    /// [`DocumentError::Job`].
    pub fn fold(&self) -> Result<Job, DocumentError> {
        Ok(Job::fold(&self.events)?)
    }

    /// As text, one document to a file.
    ///
    /// # Errors
    /// [`DocumentError::Json`] when a value cannot be written.
    pub fn to_json(&self) -> Result<String, DocumentError> {
        let mut text = serde_json::to_string_pretty(self)?;
        text.push('\n');
        Ok(text)
    }
}

/// The JSON Schema of the document.
pub fn schema() -> Schema {
    schema_for!(Document)
}
