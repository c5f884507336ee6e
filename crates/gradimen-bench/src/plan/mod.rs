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

pub mod as_it_came;
pub mod first;
mod fret_evidence;
pub mod frets;
pub mod job_plan;
mod level;
pub mod proof;
pub mod reading_check;
pub mod what_if;

use gradimen_core::action::StringLine;
use gradimen_core::quantity::{Cents, Length};

use crate::decision::{
    Action, Expectation, Finish, IN_SPEC, Mark, Odds, Quantity, Rule, Station, StationId, Stop,
};
use crate::estimate::Estimate;
use crate::finding::Finding;
use crate::model::{Place, Targets};
use crate::stations::action::HeightPlan;
use crate::stations::balance::BalancePlan;
use crate::stations::intonation::IntonationPlan;
use crate::stations::nut::NutPlan;
use crate::stations::pickups::PickupsPlan;
use crate::stations::relief::ReliefPlan;
use crate::stations::{action, balance, intonation, nut, pickups, relief, strings};
use first::Check;

/// Everything that is known and to be done.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// What it is to be.
    pub targets: Targets,
    /// What is still to be checked before the first screw.
    pub first: Vec<Check>,
    /// What a setup cannot put right here: nothing is turned.
    pub hurt: Vec<Finding>,
    /// Whether only the last doubts are being closed.
    pub closing: bool,
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

/// How far a quantity may be off, in its own unit.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Allowed {
    /// A gap or a height: too low and too high.
    Length((Length, Length)),
    /// A fretted note, either way.
    Cents(Cents),
}

/// A target that may be out of spec.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Doubt {
    /// Where it is read.
    pub place: Place,
    /// What it is now; of a note, how far off.
    pub now: Expectation,
    /// How far it may be off.
    pub allowed: Allowed,
    /// How probable it is that it is right.
    pub odds: Odds,
}

impl Plan {
    /// Works the stations out together, on the instrument with its vibrato where it is to rest. When no station has
    /// anything left, what could still be wrong is closed, one station at a time: what is moved only to be surer is known
    /// when it was moved, and what stands behind it on the bench is not moved for it before.
    pub fn of(known: &Estimate) -> Self {
        let assumed = known.state().is_assumed();
        let rule = Rule {
            closing: false,
            assumed,
        };
        let plan = Self::by(known, rule);
        if assumed || plan.next_station(known).is_some() {
            return plan;
        }
        let closing = Rule {
            closing: true,
            assumed,
        };
        let closed = Self::by(known, closing);
        match closed.next_station(known) {
            Some(station) => closed.up_to(station, plan),
            None => closed,
        }
    }

    /// This plan as far as a station, the other one behind it.
    fn up_to(self, station: StationId, other: Self) -> Self {
        fn pick<T>(behind: bool, own: T, other: T) -> T {
            if behind { other } else { own }
        }
        Self {
            relief: pick(StationId::Relief > station, self.relief, other.relief),
            nut: pick(StationId::Nut > station, self.nut, other.nut),
            action: pick(StationId::Action > station, self.action, other.action),
            intonation: pick(
                StationId::Intonation > station,
                self.intonation,
                other.intonation,
            ),
            pickups: pick(StationId::Pickups > station, self.pickups, other.pickups),
            ..self
        }
    }

    fn by(known: &Estimate, rule: Rule) -> Self {
        let state = known.state();
        let targets = known.targets();
        // The finished state, built up in the order of the bench.
        let mut end = Finish::of(state);
        let first = first::checks(known, rule);
        let hurt = first::verdict(known, &targets);
        let mut relief = relief::plan(known, &targets, rule, &mut end);
        let mut nut = nut::plan(known, &targets, rule, &mut end);
        // Heights are read and set where the plate is to rest.
        let rests = balance::rest_wanted(known, &mut end);
        let mut action = action::plan(known, &targets, rule, &mut end);
        let balance = BalancePlan::of(known, rule, &action, rests, &mut end);
        relief.finish(known, &end);
        nut.finish(known, &end);
        action.finish(state, &end);
        let pickups = pickups::plan(known, rule, &end);
        let intonation = intonation::plan(known, rule, end.clone());
        let after = (0..state.count())
            .map(|index| state.heights_in(index, &end.x, &end.lie))
            .collect();
        let lines = (1..=known.instrument().strings)
            .map(|string| state.line_in(string, &end.x, &end.lie))
            .collect();
        let mut plan = Self {
            targets,
            first,
            hurt,
            closing: rule.closing,
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
        if !plan.hurt.is_empty() {
            plan.halt();
        }
        plan.findings = plan.found(known);
        plan
    }

    /// No move is ordered that what was found makes useless.
    fn halt(&mut self) {
        let balance = self.balance.iter_mut().map(|station| &mut station.action);
        let slots = self.nut.strings.iter_mut().map(|slot| &mut slot.action);
        let screws = self
            .action
            .adjusters
            .iter_mut()
            .map(|plan| &mut plan.action);
        let saddles = self
            .intonation
            .saddles
            .iter_mut()
            .map(|plan| &mut plan.action);
        let pickups = self.pickups.pickups.iter_mut();
        let sides = pickups.flat_map(|pickup| pickup.sides.iter_mut().map(|side| &mut side.action));
        let all = std::iter::once(&mut self.relief.action)
            .chain(balance)
            .chain(slots)
            .chain(screws)
            .chain(saddles)
            .chain(sides);
        for action in all.filter(|action| action.next_move().is_some()) {
            *action = Action::Stop(Stop::Unsound);
        }
        if !matches!(self.relief.action, Action::Stop(_)) {
            self.relief.action = Action::Stop(Stop::Unsound);
        }
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

    /// Which other station asks for the reading of a place before it goes on: the nut for the action of a string, say.
    pub fn asked_elsewhere(
        &self,
        known: &Estimate,
        here: StationId,
        place: Place,
    ) -> Option<StationId> {
        let bench = self.bench();
        let asks = |station: &&dyn Station| {
            let tasks = station.tasks(known);
            tasks.iter().any(|task| task.next.places().contains(&place))
        };
        let mut others = bench.into_iter().filter(|station| station.id() != here);
        others.find(asks).map(Station::id)
    }

    /// Whether a station is not gone on with before the claw was turned and its gap read: heights while nobody knows how far
    /// the plate goes with it, saddles while it goes at all.
    pub fn waits_for_the_claw(&self, station: StationId) -> bool {
        let turned = self.balance.iter().filter(|plate| plate.is_let_float());
        let mut steps = turned.filter_map(|plate| Some((plate, plate.next_move()?)));
        match station {
            StationId::Action => steps.any(|(plate, step)| plate.teaches(step)),
            StationId::Intonation => steps.next().is_some(),
            _ => false,
        }
    }

    /// Whether nothing is left to measure or to turn, nothing stops, and every target has its probability.
    pub fn done(&self, known: &Estimate) -> bool {
        self.next_station(known).is_none()
            && self.hurt.is_empty()
            && self
                .bench()
                .iter()
                .all(|station| station.mark() != Mark::Blocked)
            && self.in_doubt().iter().all(|doubt| self.is_arc(doubt.place))
    }

    /// Whether it is what two posts cannot set: the height of an inner string on their fixed arc.
    fn is_arc(&self, place: Place) -> bool {
        let ends = [self.action.strings.first(), self.action.strings.last()];
        let mut ends = ends.iter().flatten().map(|end| end.quantity.place);
        self.action.fixed && matches!(place, Place::Action { .. }) && ends.all(|end| end != place)
    }

    /// Every gap and height with a target, in the order of the bench.
    pub fn quantities(&self) -> impl Iterator<Item = &Quantity> {
        let slots = self.nut.strings.iter().map(|slot| &slot.quantity);
        let heights = self.action.strings.iter().map(|string| &string.quantity);
        let faces = self.pickups.pickups.iter();
        let faces = faces.flat_map(|pickup| pickup.sides.iter().map(|side| &side.quantity));
        let sides = self.relief.sides.iter();
        sides.chain(slots).chain(heights).chain(faces)
    }

    /// What was read and may be out of spec all the same: at the end, neither a reading nor a turn makes it surer.
    pub fn in_doubt(&self) -> Vec<Doubt> {
        let lengths = self.quantities().filter(|quantity| quantity.last.is_some());
        let lengths = lengths.map(|quantity| Doubt {
            place: quantity.place,
            now: Expectation::Length(quantity.now),
            allowed: Allowed::Length(quantity.allowed),
            odds: quantity.odds,
        });
        let gap = self.balance.iter().filter(|gap| gap.last.is_some());
        let gap = gap.map(|gap| Doubt {
            place: Place::Gap,
            now: Expectation::Length(gap.now),
            allowed: Allowed::Length((gap.tolerance, gap.tolerance)),
            odds: gap.odds,
        });
        let threshold = self.intonation.threshold;
        let notes = self.intonation.in_doubt().map(|(string, odds)| Doubt {
            place: Place::Intonation {
                string: string.string,
                fret: 12,
            },
            now: Expectation::Cents(string.error),
            allowed: Allowed::Cents(threshold),
            odds,
        });
        let all = lengths
            .chain(gap)
            .filter(|doubt| doubt.odds.within < IN_SPEC);
        all.chain(notes).collect()
    }

    fn found(&self, known: &Estimate) -> Vec<Finding> {
        let mut found = self.intonation.findings(known);
        for hurt in &self.hurt {
            if !found.contains(hurt) {
                found.push(hurt.clone());
            }
        }
        found.extend(strings::findings(known));
        found.extend(
            known
                .put_right()
                .iter()
                .copied()
                .map(Finding::RecordPutRight),
        );
        for station in self.bench() {
            if station.id() != StationId::Intonation {
                let more = station.findings(known);
                found.extend(more.into_iter().filter(|one| !self.hurt.contains(one)));
            }
        }
        found.sort_by_key(|finding| std::cmp::Reverse(finding.severity()));
        found
    }
}
