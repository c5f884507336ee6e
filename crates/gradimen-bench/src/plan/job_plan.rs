//! The whole job: every move in the order of the bench, each adjuster once, and the readings without which the
//! rest is not known.
//!
//! Each move is worked out on the instrument as the moves before it will leave it: the truss rod lifts the nut,
//! nut and neck change the heights, and the saddles are placed for the heights to come.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//! use gradimen_bench::plan::job_plan::JobPlan;
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let list = JobPlan::of(&known, &plan);
//! // In the order of the bench, every adjuster once.
//! for (at, step) in list.moves.iter().enumerate() {
//!     assert!(list.moves[at + 1..].iter().all(|later| later.step.adjuster != step.step.adjuster));
//! }
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use super::Plan;
use crate::decision::{Action, Move, StationId, Stop};
use crate::estimate::Estimate;
use crate::model::Place;

/// One line of the job.
#[derive(Debug, Clone, PartialEq)]
pub struct JobMove {
    /// Where on the bench.
    pub station: StationId,
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// The move.
    pub step: Move,
    /// Whether it is made as it stands now: in one go, on the instrument as it is.
    pub now: bool,
}

/// What is wanted before the rest is known, or why it cannot go on.
#[derive(Debug, Clone, PartialEq)]
pub enum Pending {
    /// A reading.
    Reading(Place),
    /// It cannot go on.
    Stopped {
        /// The strings it carries.
        strings: Vec<u8>,
        /// Why.
        why: Stop,
    },
}

/// All of it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct JobPlan {
    /// The moves, in the order of the bench.
    pub moves: Vec<JobMove>,
    /// What they wait for, station by station.
    pub pending: Vec<(StationId, Pending)>,
}

impl JobPlan {
    /// Works the list out.
    pub fn of(known: &Estimate, plan: &Plan) -> Self {
        let mut job = Self::default();
        for check in &plan.first {
            for place in &check.places {
                job.wait(StationId::First, Pending::Reading(*place));
            }
        }
        for station in plan.bench() {
            let waits = plan.waits_for_the_claw(station.id());
            for task in station.tasks(known) {
                let next = task.next.next_move().cloned();
                match task.whole {
                    Action::Measure(places) => {
                        for place in places {
                            job.wait(station.id(), Pending::Reading(place));
                        }
                    }
                    Action::Adjust(step) => job.moves.push(JobMove {
                        station: station.id(),
                        strings: task.strings,
                        now: !waits
                            && step.rounds == 1
                            && next.is_some_and(|next| next.amount == step.amount),
                        step: *step,
                    }),
                    Action::Leave => {}
                    Action::Stop(why) => job.wait(
                        station.id(),
                        Pending::Stopped {
                            strings: task.strings,
                            why,
                        },
                    ),
                }
            }
        }
        // In the order of the bench, whatever was found out first.
        job.pending.sort_by_key(|(station, _)| *station);
        job
    }

    fn wait(&mut self, station: StationId, pending: Pending) {
        let line = (station, pending);
        if !self.pending.contains(&line) {
            self.pending.push(line);
        }
    }
}
