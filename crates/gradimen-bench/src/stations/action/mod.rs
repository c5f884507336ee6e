//! The action station: turns for every height screw or post, on the neck and nut to come.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let first = plan.action.adjuster_of(1).ok_or("string 1 has its screws")?;
//! assert!(first.strings.contains(&1));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod posts;

use gradimen_core::action::{arc_radius, on_gauge, wedge_for};
use gradimen_core::quantity::{Estimate, Length, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::rounded_turns;
use nalgebra::DVector;

use crate::decision::{
    Action, Decision, Expectation, Expected, Mark, Move, Quantity, Station, StationId, Stop, Sum,
    Task, mark_of,
};
use crate::estimate::Estimate as Known;
use crate::estimate::geometry::{Geometry, LinearView};
use crate::finding::Finding;
use crate::model::hardware::Lifts;
use crate::model::{Adjuster, Amount, End, Inner, Side, Target, Targets};

/// Between the two screws of a saddle (common practice).
const SCREWS_APART: Length = Length::from_mm(8.0);

/// One adjuster.
#[derive(Debug, Clone, PartialEq)]
pub struct AdjusterPlan {
    /// Which.
    pub adjuster: Adjuster,
    /// The strings it is judged by.
    pub strings: Vec<u8>,
    /// What to do.
    pub action: Action,
}

/// One string's height.
#[derive(Debug, Clone, PartialEq)]
pub struct HeightString {
    /// Which string.
    pub string: u8,
    /// Its height over the fret of the target.
    pub quantity: Quantity,
    /// What stays when the plan is done: raise by so much with a shim or another saddle, cut so
    /// deep into its slot when negative. Nothing where every string has screws.
    pub remains: Length,
    /// What the two schools for inner strings would lay it at: blended, by the gauge.
    pub schools: (Length, Length),
    /// Height of the crown now, and when done, over the crown of the board; and where across.
    pub crown: (Length, Length, Length),
    /// By how much the outer of a saddle's two screws stands lower than the inner, for the saddle to
    /// lean with the arc. Nothing where two posts carry all.
    pub lean: Length,
}

/// The height station.
#[derive(Debug, Clone, PartialEq)]
pub struct HeightPlan {
    /// Over which fret heights are read.
    pub fret: u8,
    /// String by string.
    pub strings: Vec<HeightString>,
    /// What turns.
    pub adjusters: Vec<AdjusterPlan>,
    /// Whether two posts lift all strings together.
    pub fixed: bool,
    /// Radius of the crowns now, and when done.
    pub arc: (Option<Length>, Option<Length>),
    /// Radius of the board carried on to the bridge: the gauge of that school.
    pub gauge: Length,
}

struct Laid {
    string: u8,
    sight: LinearView,
    saddle: usize,
    target: Target,
    schools: (Length, Length),
}

/// Works the station out, and sets the saddles of the finished state `end`.
pub(crate) fn plan(known: &Known, targets: &Targets, end: &mut DVector<f64>) -> HeightPlan {
    let geometry = known.geometry();
    let gauge = gauge_radius(known);
    let laid = lay(known, targets, gauge, end);
    let adjusters = match geometry.lifts() {
        Lifts::EachString => laid.iter().map(|string| each(known, string, end)).collect(),
        Lifts::TwoPosts => posts::plan(known, &laid, end),
    };
    let strings = laid
        .into_iter()
        .map(|string| HeightString {
            string: string.string,
            quantity: quantity(geometry, &string),
            remains: Length::ZERO,
            schools: string.schools,
            crown: (Length::ZERO, Length::ZERO, Length::ZERO),
            lean: Length::ZERO,
        })
        .collect();
    HeightPlan {
        fret: targets.action_fret,
        strings,
        adjusters,
        fixed: geometry.lifts() == Lifts::TwoPosts,
        arc: (None, None),
        gauge,
    }
}

/// Radius of the board carried on to the bridge.
fn gauge_radius(known: &Known) -> Length {
    let instrument = known.instrument();
    let scale = known.speaking_scale(1);
    let end = gradimen_core::fretboard::fret_position(scale, instrument.frets);
    instrument
        .board()
        .map_or(Length::ZERO, |board| board.radius.at(scale, end))
}

/// What every string is to be laid at, by both schools, in the state to come.
fn lay(known: &Known, targets: &Targets, gauge: Length, end: &DVector<f64>) -> Vec<Laid> {
    let geometry = known.geometry();
    let mut found = Vec::new();
    for string in 1..=known.instrument().strings {
        let Ok(sight) = geometry.action_sight(string, 0, targets.action_fret) else {
            continue;
        };
        let target = targets.action(string, geometry.share(geometry.at(string)));
        let blend = target.value;
        found.push(Laid {
            string,
            saddle: geometry.saddle(usize::from(string - 1)),
            sight,
            target,
            schools: (blend, blend),
        });
    }
    let crown = |string: &Laid| {
        let height = end[string.saddle]
            + (string.schools.0.mm() - geometry.look(&string.sight, end).mm())
                / string.sight.slope[string.saddle];
        (
            geometry.tops(string.string).offset_at_bridge(),
            Length::from_mm(height),
        )
    };
    if let (Some(treble), Some(bass)) = (found.first().map(crown), found.last().map(crown)) {
        for string in &mut found {
            let (y, blended) = crown(string);
            if let Ok(on_arc) = on_gauge(treble, bass, gauge, y) {
                let lever = string.sight.slope[string.saddle];
                string.schools.1 = string.schools.0 + (on_arc - blended) * lever;
            }
            string.target.value = match targets.inner {
                Inner::Blend => string.schools.0,
                Inner::Gauge => string.schools.1,
            };
        }
    }
    found
}

fn quantity(geometry: &Geometry, string: &Laid) -> Quantity {
    Quantity::new(geometry, string.target, &string.sight)
}

/// By how much a string will be off on the neck and nut to come, its saddle as it is.
fn off_at(geometry: &Geometry, string: &Laid, end: &DVector<f64>) -> Length {
    geometry.look(&string.sight, end) - string.target.value
}

/// Whether what is known allows the turn, asks for a reading, or lets it be.
fn decide(quantity: &Quantity, off: Length) -> Decision {
    match quantity.decision() {
        Decision::Unread => Decision::Unread,
        _ if off.abs() <= quantity.tolerance => Decision::Leave,
        Decision::Again if (off.abs() - quantity.tolerance) < quantity.now.sigma => Decision::Again,
        _ => Decision::Move,
    }
}

fn each(known: &Known, string: &Laid, end: &mut DVector<f64>) -> AdjusterPlan {
    let geometry = known.geometry();
    let adjuster = Adjuster::SaddleHeight {
        string: string.string,
    };
    let quantity = quantity(geometry, string);
    let off = off_at(geometry, string, end);
    let lift = -off / string.sight.slope[string.saddle];
    let action = match decide(&quantity, off) {
        Decision::Unread | Decision::Again => Action::Measure(vec![quantity.place]),
        Decision::Leave => Action::Leave,
        Decision::Move => at_end(known, adjuster, lift).unwrap_or_else(|| {
            let index = geometry.at(string.string);
            let Some(mut step) = screw(known, adjuster, index, lift) else {
                return Action::Leave;
            };
            end[string.saddle] += step.distance.mm();
            let after = geometry.look(&string.sight, end);
            step.expected = vec![expected(&quantity, after, &step)];
            Action::Adjust(Box::new(step))
        }),
    };
    AdjusterPlan {
        adjuster,
        strings: vec![string.string],
        action,
    }
}

/// What will be read after a move that is itself known only so well.
fn expected(quantity: &Quantity, after: Length, step: &Move) -> Expected {
    let response = match &step.sum {
        Sum::Screw { response, .. } => response.sigma,
        _ => 0.0,
    };
    let sigma = quantity.now.sigma.mm().hypot(step.distance.mm() * response);
    Expected {
        place: quantity.place,
        value: Expectation::Length(Estimate::new(after, Length::from_mm(sigma))),
    }
}

/// The turn of one screw for a lift, without its expected readings; none where it rounds to nothing.
fn screw(known: &Known, adjuster: Adjuster, index: usize, lift: Length) -> Option<Move> {
    let screws = &known.instrument().bridge.height;
    let pitch = screws.pitch.middle();
    let response = known.geometry().screw_response(index);
    let turns_exact = Turns::new(lift.ratio(pitch) / response.value);
    let turns = rounded_turns(turns_exact);
    if turns == Turns::ZERO {
        return None;
    }
    let clockwise = (turns > Turns::ZERO) == screws.clockwise_raises;
    Some(Move {
        adjuster,
        amount: Amount::turns(turns),
        rotation: Some(if clockwise {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        }),
        distance: pitch * (turns.value() * response.value),
        total: turns,
        rounds: 1,
        expected: Vec::new(),
        sum: Sum::Screw {
            turns_exact,
            pitch,
            response,
        },
    })
}

/// Whether an adjuster that was found at its end would have to go on.
fn at_end(known: &Known, adjuster: Adjuster, lift: Length) -> Option<Action> {
    let end = known.ended(adjuster)?;
    let short_by = match end {
        End::Top => lift,
        End::Bottom => -lift,
        // It will not go either way.
        End::Stuck | End::Hard | End::Rubbery | End::NoEffect => lift.abs(),
        End::Free => return None,
    };
    (short_by > Length::ZERO).then_some(Action::Stop(Stop::AtEnd {
        adjuster,
        end,
        short_by,
    }))
}

/// What helps under the neck when a saddle is all the way down: the neck is tilted back until the saddle
/// stands in the middle of its range.
fn under_the_neck(known: &Known, string: u8, end: End, short_by: Length) -> [Option<Length>; 2] {
    let neck = &known.instrument().neck;
    if end != End::Bottom || !neck.bolted {
        return [None, None];
    }
    let geometry = known.geometry();
    let middle = known.instrument().bridge.height.travel.middle() * 0.5;
    let raise = short_by + middle;
    let beyond = geometry.line(string).length - geometry.tops(string).joint();
    [
        Some(wedge_for(raise, beyond, neck.pocket.middle())),
        Some(raise),
    ]
}

impl AdjusterPlan {
    /// The string that wants attention on it: the first to be measured, or one that it carries.
    pub fn wanting(&self) -> Option<u8> {
        let mut measured = self.action.places().iter();
        let first = measured.find_map(|place| place.string());
        first.or_else(|| self.strings.first().copied())
    }
}

impl HeightPlan {
    /// What the heights will be in the finished state.
    pub(crate) fn finish(&mut self, geometry: &Geometry, end: &DVector<f64>) {
        for string in &mut self.strings {
            let index = usize::from(string.string - 1);
            let saddle = geometry.saddle(index);
            if let Ok(sight) = geometry.action_sight(string.string, 0, self.fret) {
                string.quantity.after = geometry.look(&sight, end);
                if self.fixed {
                    let off = string.quantity.target - string.quantity.after;
                    string.remains = off / sight.slope[saddle];
                }
            }
            string.crown = (
                Length::from_mm(geometry.mean()[saddle]),
                Length::from_mm(end[saddle]),
                geometry.tops(string.string).offset_at_bridge(),
            );
        }
        let arc = |pick: fn(&HeightString) -> Length| {
            let points: Vec<(Length, Length)> = self
                .strings
                .iter()
                .map(|string| (string.crown.2, pick(string)))
                .collect();
            arc_radius(&points).ok()
        };
        self.arc = (arc(|string| string.crown.0), arc(|string| string.crown.1));
        if let Some(radius) = self.arc.1.filter(|_| !self.fixed) {
            for string in &mut self.strings {
                // The slope of a circle at y is y / sqrt(R^2 - y^2).
                let (y, r) = (string.crown.2.abs().mm(), radius.mm());
                string.lean = SCREWS_APART * (y / (r * r - y * y).max(1.0).sqrt());
            }
        }
    }

    /// The adjuster of a string, or the post of its half of the bridge.
    pub fn adjuster_of(&self, string: u8) -> Option<&AdjusterPlan> {
        let near = |plan: &&AdjusterPlan| match plan.adjuster {
            Adjuster::SaddleHeight { string: on } => on == string,
            Adjuster::Post { side: Side::Treble } => usize::from(string) * 2 <= self.strings.len(),
            Adjuster::Post { side: Side::Bass } => usize::from(string) * 2 > self.strings.len(),
            _ => false,
        };
        self.adjusters.iter().find(near)
    }

    /// The adjuster to attend to next: one whose strings are to be read, then the one that has
    /// furthest to go, since a post moves the strings of the other a little too.
    pub fn next_adjuster(&self) -> Option<&AdjusterPlan> {
        let rank = |plan: &AdjusterPlan| match &plan.action {
            Action::Measure(_) => (0, 0.0),
            Action::Adjust(step) if self.fixed => (1, -step.turns().abs().value()),
            Action::Adjust(_) => (1, 0.0),
            Action::Stop(_) => (2, 0.0),
            Action::Leave => (3, 0.0),
        };
        self.adjusters
            .iter()
            .filter(|plan| !plan.action.is_leave())
            .min_by(|a, b| {
                let (a, b) = (rank(a), rank(b));
                a.0.cmp(&b.0).then(a.1.total_cmp(&b.1))
            })
    }
}

impl Station for HeightPlan {
    fn id(&self) -> StationId {
        StationId::Action
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        self.adjusters
            .iter()
            .map(|plan| Task::new(plan.strings.clone(), plan.action.clone()))
            .collect()
    }

    fn findings(&self, known: &Known) -> Vec<Finding> {
        self.adjusters
            .iter()
            .filter_map(|plan| match plan.action {
                Action::Stop(Stop::AtEnd {
                    adjuster,
                    end,
                    short_by,
                }) => {
                    let string = plan.strings.first().copied().unwrap_or(1);
                    let [wedge, shim] = under_the_neck(known, string, end, short_by);
                    Some(Finding::HeightSpent {
                        adjuster,
                        string,
                        end,
                        short_by,
                        wedge,
                        shim,
                    })
                }
                _ => None,
            })
            .collect()
    }

    fn mark(&self) -> Mark {
        let spent = |plan: &AdjusterPlan| matches!(plan.action, Action::Stop(_));
        let judged = self.strings.iter().filter(|string| {
            self.adjusters
                .iter()
                .any(|plan| plan.strings.contains(&string.string))
        });
        mark_of(
            judged.map(|string| &string.quantity),
            self.adjusters.iter().any(spent),
        )
    }
}
