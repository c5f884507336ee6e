//! The workflow of a setup, one way only: a command becomes events, events an append-only journal, the journal
//! folds into the facts of a job, the facts give an estimate of the instrument, the estimate a plan, the plan
//! text and drawings. Nothing else changes a job, and nothing imports against that flow.
//!
//! - [`model`]: places and readings, adjusters and amounts, targets, instruments, limits, the shop's defaults.
//! - [`journal`]: events, their written forms old and new, history, documents. [`job`]: the fold.
//! - [`estimate`]: what is known of the instrument. [`decision`]: measure, adjust, leave or stop.
//! - [`stations`]: one folder a station of the bench. [`plan`]: all of them together, what-if, reading check.
//! - [`triage`]: what kind of work it will be, with odds. [`text`]: the English. [`export`]: report, tables, the line of the job list.
//!
//! ```
//! use gradimen_bench::{export::report::Report, job::Job, journal::Document};
//!
//! let text = include_str!("../../../docs/formats/examples/six-string-mid-work.json");
//! let job = Job::fold(&Document::parse(text)?.events)?;
//! let report = Report::of(&job)?;
//! assert!(report.moves.iter().any(|step| step.station == "intonation"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod decision;
pub mod estimate;
pub mod export;
pub mod finding;
pub mod job;
pub mod journal;
pub mod model;
pub mod plan;
pub mod stations;
pub mod text;
pub mod triage;
