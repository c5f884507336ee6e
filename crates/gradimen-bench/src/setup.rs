//! The geometry stations: relief, nut and height, solved together in the order of the bench.
//!
//! The rod is set first, for it moves everything; then the nut, worked out on the neck as it will
//! be; then the heights, on that neck and nut. So the finished state is known before the first
//! turn, and every adjuster is touched once. What is within its tolerance is left alone.

mod height;
mod levels;
mod nut;
mod pickups;
mod relief;

pub use height::{AdjusterPlan, HeightAction, HeightMove, HeightPlan, HeightString};
pub use levels::{Across, Louder};
pub use nut::{FILE_MARGIN, NutAction, NutPlan, NutString};
pub use pickups::{PickupAction, PickupMove, PickupPlan, PickupSide, Pole};
pub use relief::{NeckFault, ReliefAction, ReliefPlan, RodMove, SchoolRow};

use gradimen_core::action::StringLine;
use gradimen_core::quantity::{Estimate, Length};
use nalgebra::DVector;

use crate::balance::BalancePlan;
use crate::event::Targets;
use crate::geometry::{Geometry, LastRead, Place, Sight};
use crate::job::Job;
use crate::plan::{ENOUGH_READINGS, Verdict};

/// A quantity of a station with everything known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Quantity {
    /// What it is.
    pub place: Place,
    /// What was last read, as it was read then.
    pub last: Option<LastRead>,
    /// What the target's school would read now.
    pub now: Estimate<Length>,
    /// What it is to be.
    pub target: Length,
    /// By how much it may miss that.
    pub tolerance: Length,
    /// By how much more it may be too large, where less cannot be undone.
    pub slack: Length,
    /// How it stands.
    pub verdict: Verdict,
    /// What it will be when the whole plan is done.
    pub after: Length,
}

/// Whether a quantity calls for a move, for a reading or for nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Decision {
    /// Never read, or moved too far since.
    Unread,
    /// One more reading could change the decision.
    Again,
    /// Off, beyond doubt.
    Move,
    /// As good as can be told.
    Leave,
}

impl Quantity {
    pub(crate) fn new(
        geometry: &Geometry,
        place: Place,
        sight: &Sight,
        target: Length,
        tolerance: Length,
    ) -> Self {
        Self::with_slack(geometry, place, sight, target, tolerance, Length::ZERO)
    }

    /// One that may be more above its target than below.
    pub(crate) fn with_slack(
        geometry: &Geometry,
        place: Place,
        sight: &Sight,
        target: Length,
        tolerance: Length,
        slack: Length,
    ) -> Self {
        let mut quantity = Self {
            place,
            last: geometry.last(place).cloned(),
            now: geometry.predict(sight),
            target,
            tolerance,
            slack,
            verdict: Verdict::Unread,
            after: Length::ZERO,
        };
        quantity.verdict = match quantity.decision() {
            Decision::Unread if quantity.last.is_none() => Verdict::Unread,
            Decision::Unread => Verdict::Recheck,
            Decision::Leave => Verdict::Within,
            Decision::Again | Decision::Move if quantity.off().abs() <= quantity.allowed() => {
                Verdict::Within
            }
            Decision::Again | Decision::Move if quantity.off() > Length::ZERO => Verdict::Above,
            Decision::Again | Decision::Move => Verdict::Below,
        };
        quantity
    }

    /// By how much it is off its target.
    pub fn off(&self) -> Length {
        self.now.value - self.target
    }

    /// By how much it may miss its target on the side on which it does.
    pub fn allowed(&self) -> Length {
        if self.off() > Length::ZERO {
            self.tolerance + self.slack
        } else {
            self.tolerance
        }
    }

    /// How often it was read since it moved by more than can be carried.
    pub fn fresh(&self) -> usize {
        self.last.as_ref().map_or(0, |last| last.fresh)
    }

    /// Whether its last reading stands for a value that moved since, and is carried with it.
    pub fn is_carried(&self) -> bool {
        self.last
            .as_ref()
            .is_some_and(|last| last.drift.abs() > Length::from_mm(0.005))
            && self.verdict != Verdict::Recheck
    }

    pub(crate) fn decision(&self) -> Decision {
        let (off, sigma, allowed) = (self.off().abs(), self.now.sigma, self.allowed());
        let fresh = self.fresh();
        if fresh == 0 {
            return Decision::Unread;
        }
        if off > allowed {
            if fresh >= ENOUGH_READINGS || off - allowed > sigma {
                Decision::Move
            } else {
                Decision::Again
            }
        } else if sigma > allowed && fresh < ENOUGH_READINGS {
            Decision::Again
        } else {
            Decision::Leave
        }
    }
}

/// The geometry stations of a job.
#[derive(Debug, Clone, PartialEq)]
pub struct SetupPlan {
    /// What it is to be.
    pub targets: Targets,
    /// Relief and the rod.
    pub relief: ReliefPlan,
    /// The nut.
    pub nut: NutPlan,
    /// The heights.
    pub height: HeightPlan,
    /// The pickups, from the neck to the bridge.
    pub pickups: Vec<PickupPlan>,
    /// Clearance over fret 1 and action over fret 12 when all of it is done, string by string.
    pub after: Vec<(Length, Length)>,
    /// The strings as they will lie then, string 1 first.
    pub lines: Vec<StringLine>,
}

impl SetupPlan {
    /// Works the stations out together, on the instrument with its vibrato where it is to rest.
    pub fn of(job: &Job) -> Self {
        Self::with_crowns_up(
            job,
            BalancePlan::of(job).map_or(Length::ZERO, |balance| balance.to_come.1),
        )
    }

    /// The same, where it is known how far the vibrato is yet to lift the crowns.
    pub(crate) fn with_crowns_up(job: &Job, up: Length) -> Self {
        let geometry = job.geometry();
        let targets = job.targets();
        // The finished state, built up in the order of the bench.
        let mut end = geometry.mean().clone();
        for index in 0..geometry.count() {
            end[geometry.saddle(index)] += up.mm();
        }
        let mut relief = relief::plan(job, geometry, &targets, &mut end);
        let mut nut = nut::plan(job, geometry, &targets, &mut end);
        let mut height = height::plan(job, geometry, &targets, &mut end);
        relief.finish(geometry, &end);
        nut.finish(job, geometry, &end);
        height.finish(geometry, &end);
        let pickups = pickups::plan(job, geometry, &end);
        Self {
            after: geometry.heights_in(&end),
            lines: (1..=job.instrument().strings)
                .map(|string| geometry.line_in(string, &end))
                .collect(),
            targets,
            relief,
            nut,
            height,
            pickups,
        }
    }

    /// Whether anything was ever read at these stations.
    pub fn is_begun(&self, job: &Job) -> bool {
        job.geometry().read_any()
    }
}

/// A target between treble and bass for a string.
pub(crate) fn between(geometry: &Geometry, string: u8, treble: Length, bass: Length) -> Length {
    let share = geometry.share(usize::from(string.max(1) - 1));
    treble * (1.0 - share) + bass * share
}

impl Geometry {
    /// The best values now.
    pub(crate) const fn mean(&self) -> &DVector<f64> {
        &self.filter.x
    }

    /// Clearance over fret 1 and action over fret 12 in another state.
    pub(crate) fn heights_in(&self, x: &DVector<f64>) -> Vec<(Length, Length)> {
        self.first
            .iter()
            .zip(&self.middle)
            .map(|(first, twelfth)| (self.look(first, x), self.look(twelfth, x)))
            .collect()
    }
}
