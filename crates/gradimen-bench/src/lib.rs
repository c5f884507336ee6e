//! The workflow of a setup: form text becomes a typed event, events an append-only journal,
//! the journal folds into a job, the job into an estimate and a plan. Nothing else changes a job.
//!
//! - [`record`]: measured values as they are kept. [`instrument`], [`hardware`]: what is set up.
//! - [`event`], [`document`]: the journal and its file. [`job`]: the fold.
//! - [`methods`]: the shop's defaults: tunings, sets, tuners, heights.
//! - [`geometry`], [`setup`]: the estimate of neck, nut and heights, and their stations.
//! - [`clearance`]: where strings touch. [`doubt`]: readings that cannot be right.
//! - [`strings`]: the strings station. [`estimate`], [`plan`]: the intonation station.
//! - [`findings`]: what stops or redirects a job. [`report`]: all of it for other programs.
//! - [`what_if`]: another set, tuning or hand. [`whole`]: every move in the order of the bench.
//! - [`summary`]: one line of the bench list.

pub mod balance;
pub mod clearance;
pub mod document;
pub mod doubt;
pub mod estimate;
pub mod event;
pub mod findings;
pub mod geometry;
pub mod hardware;
pub mod instrument;
pub mod job;
mod kalman;
pub mod methods;
pub mod plan;
pub mod record;
pub mod report;
pub mod scale;
pub mod setup;
pub mod strings;
pub mod summary;
pub mod what_if;
pub mod whole;
