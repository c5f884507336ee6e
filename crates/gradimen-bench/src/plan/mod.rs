//! All stations together: one finished state, built up in the order of the bench, and what every station makes of
//! it. So the end is known before the first turn, every adjuster is touched once, and what is within its tolerance
//! is left alone.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let job = Job::fold(&Document::parse(text)?.events)?;
//! let known = Estimate::of(Arc::new(job))?;
//! let plan = Plan::of(&known);
//! assert!(plan.next_station(&known).is_some());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

pub mod job_plan;
pub mod reading_check;
pub mod what_if;

use gradimen_core::action::StringLine;
use gradimen_core::quantity::Length;
use nalgebra::DVector;

use crate::decision::{Mark, Station, StationId};
use crate::estimate::Estimate;
use crate::estimate::geometry::Geometry;
use crate::finding::Finding;
use crate::model::Targets;
use crate::stations::action::HeightPlan;
use crate::stations::balance::BalancePlan;
use crate::stations::intonation::IntonationPlan;
use crate::stations::nut::NutPlan;
use crate::stations::pickups::PickupsPlan;
use crate::stations::relief::ReliefPlan;
use crate::stations::{action, intonation, nut, pickups, relief, strings};

/// Everything that is known and to be done.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// What it is to be.
    pub targets: Targets,
    /// The vibrato, where there is one.
    pub balance: Option<BalancePlan>,
    /// Relief and the truss rod.
    pub relief: ReliefPlan,
    /// The nut.
    pub nut: NutPlan,
    /// The heights.
    pub action: HeightPlan,
    /// The saddles.
    pub intonation: IntonationPlan,
    /// The pickups, from the neck to the bridge.
    pub pickups: PickupsPlan,
    /// What stops or redirects, the gravest first.
    pub findings: Vec<Finding>,
    /// Clearance over fret 1 and action over fret 12 when all of it is done, string by string.
    pub after: Vec<(Length, Length)>,
    /// The strings as they will lie then, string 1 first.
    pub lines: Vec<StringLine>,
}

impl Plan {
    /// Works the stations out together, on the instrument with its vibrato where it is to rest.
    pub fn of(known: &Estimate) -> Self {
        let geometry = known.geometry();
        let targets = known.targets();
        let balance = BalancePlan::of(known);
        let (back, up) = balance
            .as_ref()
            .map_or((Length::ZERO, Length::ZERO), |balance| balance.to_come);
        // The finished state, built up in the order of the bench.
        let mut end = geometry.mean().clone();
        for index in 0..geometry.count() {
            end[geometry.saddle(index)] += up.mm();
        }
        let mut relief = relief::plan(known, &targets, &mut end);
        let mut nut = nut::plan(known, &targets, &mut end);
        let mut action = action::plan(known, &targets, &mut end);
        relief.finish(geometry, &end);
        nut.finish(known, &end);
        action.finish(geometry, &end);
        let pickups = pickups::plan(known, &end);
        let after = heights_in(geometry, &end);
        let intonation = intonation::plan(known, after.clone(), back);
        let lines = (1..=known.instrument().strings)
            .map(|string| geometry.line_in(string, &end))
            .collect();
        let mut plan = Self {
            targets,
            balance,
            relief,
            nut,
            action,
            intonation,
            pickups,
            findings: Vec::new(),
            after,
            lines,
        };
        plan.findings = plan.found(known);
        plan
    }

    /// The stations that turn something, in the order of the bench. A station is added here and nowhere else.
    pub fn bench(&self) -> Vec<&dyn Station> {
        let balance = self.balance.as_ref().map(|balance| balance as &dyn Station);
        let rest: [&dyn Station; 5] = [
            &self.relief,
            &self.nut,
            &self.action,
            &self.intonation,
            &self.pickups,
        ];
        balance.into_iter().chain(rest).collect()
    }

    /// Where on the bench the work stands: the first station, in its order, that asks for something a setup can do.
    pub fn next_station(&self, known: &Estimate) -> Option<StationId> {
        let bench = self.bench();
        let working = bench.into_iter().find(|station| station.has_work(known));
        working.map(Station::id)
    }

    /// Whether nothing is left to measure or to turn, and nothing stops.
    pub fn done(&self, known: &Estimate) -> bool {
        self.next_station(known).is_none()
            && self
                .bench()
                .iter()
                .all(|station| station.mark() != Mark::Blocked)
    }

    fn found(&self, known: &Estimate) -> Vec<Finding> {
        let mut found = self.intonation.findings(known);
        found.extend(strings::findings(known));
        for station in self.bench() {
            if station.id() != StationId::Intonation {
                found.extend(station.findings(known));
            }
        }
        found.sort_by_key(|finding| std::cmp::Reverse(finding.severity()));
        found
    }
}

/// Clearance over fret 1 and action over fret 12 in a state.
fn heights_in(geometry: &Geometry, x: &DVector<f64>) -> Vec<(Length, Length)> {
    geometry
        .first
        .iter()
        .zip(&geometry.middle)
        .map(|(first, twelfth)| (geometry.look(first, x), geometry.look(twelfth, x)))
        .collect()
}
