//! The practice bench: simulated instruments that are set up by the same commands, on the same pages and in the same journal as real
//! ones.
//!
//! [`make`] makes one to an [`order`], [`exercises`] are the graded ones, [`Bench`] is the instrument as its journal left it: it answers to tools and
//! screws. [`Toll`](gradimen_bench::model::Toll) is what some work took; [`par`] is what the plan and careful trial and error take on the
//! same instrument, and [`judgement`] what is to be said of the work.

mod bench;
mod careful;
pub mod exercises;
mod hands;
mod hidden;
pub mod judgement;
pub mod make;
pub mod order;
pub mod par;
pub mod progress;
pub mod toll;
pub mod tools;
mod wav;

pub use bench::{Bench, Refused};
pub use gradimen_sim::Played;
pub use wav::wav;
