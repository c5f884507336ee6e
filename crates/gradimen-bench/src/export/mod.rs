//! What other programs get of a job: the report of its plan, its readings as a table, the line of the job list.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! use gradimen_bench::export::summary;
//!
//! assert!(summary::describes(&known).contains("guitar"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod difference;
pub mod figures;
pub mod handover;
pub mod report;
pub mod summary;
pub mod table;
pub mod time;
pub mod visits;

pub use summary::Summary;
