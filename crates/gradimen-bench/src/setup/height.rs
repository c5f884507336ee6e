//! The height station: turns for every screw or post, on the neck and nut to come.

use gradimen_core::action::{arc_radius, on_gauge, wedge_for};
use gradimen_core::quantity::{Estimate, Length, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::rounded_turns;
use nalgebra::DVector;

use super::{Decision, Quantity, between};
use crate::event::{HeightAdjuster, HeightEnd, Inner, Side, Targets};
use crate::geometry::{Geometry, Place, Sight};
use crate::hardware::Lifts;
use crate::job::Job;
use crate::methods::tolerance;

/// Between the two screws of a saddle (common practice).
const SCREWS_APART: Length = Length::from_mm(8.0);

/// What to do with an adjuster.
#[derive(Debug, Clone, PartialEq)]
pub enum HeightAction {
    /// Read (again): which strings.
    Read(Vec<u8>),
    /// Turn it.
    Turn(HeightMove),
    /// Nothing.
    Leave,
    /// It is at its end and would have to go on.
    AtEnd {
        /// Which end.
        end: HeightEnd,
        /// How far it would have to go on.
        short_by: Length,
        /// A wedge that brings all saddles into the middle of their range, for a screwed-on neck.
        wedge: Option<Length>,
        /// A full shim that does the same.
        shim: Option<Length>,
    },
}

/// A turn of a height adjuster: both screws of a saddle alike.
#[derive(Debug, Clone, PartialEq)]
pub struct HeightMove {
    /// How far it lifts; negative lowers.
    pub distance: Length,
    /// Turns; positive raises.
    pub turns: Turns,
    /// Which way, seen on the head.
    pub rotation: Rotation,
    /// Turns before rounding.
    pub turns_exact: Turns,
    /// Thread pitch.
    pub pitch: Length,
    /// What it really lifts, as a factor on its thread.
    pub response: Estimate<f64>,
    /// What the readings will be on the neck and nut to come, string by string.
    pub expected: Vec<(u8, Estimate<Length>)>,
}

/// One adjuster.
#[derive(Debug, Clone, PartialEq)]
pub struct AdjusterPlan {
    /// Which.
    pub adjuster: HeightAdjuster,
    /// The strings it is judged by.
    pub strings: Vec<u8>,
    /// What to do.
    pub action: HeightAction,
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
    sight: Sight,
    saddle: usize,
    wanted: Length,
    schools: (Length, Length),
}

pub(super) fn plan(
    job: &Job,
    geometry: &Geometry,
    targets: &Targets,
    end: &mut DVector<f64>,
) -> HeightPlan {
    let gauge = gauge_radius(job);
    let laid = lay(job, geometry, targets, gauge, end);
    let adjusters = match geometry.lifts() {
        Lifts::EachString => laid
            .iter()
            .map(|string| each(job, geometry, string, end))
            .collect(),
        Lifts::TwoPosts => posts(job, geometry, &laid, end),
    };
    let strings = laid
        .into_iter()
        .map(|string| HeightString {
            string: string.string,
            quantity: Quantity::new(
                geometry,
                Place::Action(string.string),
                &string.sight,
                string.wanted,
                tolerance::ACTION,
            ),
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
fn gauge_radius(job: &Job) -> Length {
    let instrument = job.instrument();
    let scale = job.speaking_scale(1);
    let end = gradimen_core::fretboard::fret_position(scale, instrument.frets);
    instrument
        .board()
        .map_or(Length::ZERO, |board| board.radius.at(scale, end))
}

/// What every string is to be laid at, by both schools, in the state to come.
fn lay(
    job: &Job,
    geometry: &Geometry,
    targets: &Targets,
    gauge: Length,
    end: &DVector<f64>,
) -> Vec<Laid> {
    let mut found = Vec::new();
    for string in 1..=job.instrument().strings {
        let Ok(sight) = geometry.action_sight(string, 0, targets.action_fret) else {
            continue;
        };
        let blend = between(
            geometry,
            string,
            targets.action_treble.middle(),
            targets.action_bass.middle(),
        );
        found.push(Laid {
            string,
            saddle: geometry.saddle(usize::from(string - 1)),
            sight,
            wanted: blend,
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
            string.wanted = match targets.inner {
                Inner::Blend => string.schools.0,
                Inner::Gauge => string.schools.1,
            };
        }
    }
    found
}

fn quantity(geometry: &Geometry, string: &Laid) -> Quantity {
    Quantity::new(
        geometry,
        Place::Action(string.string),
        &string.sight,
        string.wanted,
        tolerance::ACTION,
    )
}

/// By how much a string will be off on the neck and nut to come, its saddle as it is.
fn off_at(geometry: &Geometry, string: &Laid, end: &DVector<f64>) -> Length {
    geometry.look(&string.sight, end) - string.wanted
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

fn each(job: &Job, geometry: &Geometry, string: &Laid, end: &mut DVector<f64>) -> AdjusterPlan {
    let adjuster = HeightAdjuster::String(string.string);
    let known = quantity(geometry, string);
    let off = off_at(geometry, string, end);
    let lift = -off / string.sight.slope[string.saddle];
    let action = match decide(&known, off) {
        Decision::Unread | Decision::Again => HeightAction::Read(vec![string.string]),
        Decision::Leave => HeightAction::Leave,
        Decision::Move => {
            if let Some(at_end) = at_end(job, geometry, adjuster, lift, string.string) {
                at_end
            } else {
                let index = usize::from(string.string - 1);
                let (turns, step) = screw(job, geometry, index, lift);
                if turns == Turns::ZERO {
                    HeightAction::Leave
                } else {
                    end[string.saddle] += step.distance.mm();
                    let after = Estimate::new(
                        geometry.look(&string.sight, end),
                        spread(known.now.sigma, &step),
                    );
                    HeightAction::Turn(HeightMove {
                        expected: vec![(string.string, after)],
                        ..step
                    })
                }
            }
        }
    };
    AdjusterPlan {
        adjuster,
        strings: vec![string.string],
        action,
    }
}

fn spread(sigma: Length, step: &HeightMove) -> Length {
    Length::from_mm(sigma.mm().hypot(step.distance.mm() * step.response.sigma))
}

/// Turns of one screw for a lift, and the move without its expected readings.
fn screw(job: &Job, geometry: &Geometry, index: usize, lift: Length) -> (Turns, HeightMove) {
    let screws = &job.instrument().bridge.height;
    let pitch = screws.pitch.middle();
    let response = geometry.screw_response(index);
    let turns_exact = Turns::new(lift.ratio(pitch) / response.value);
    let turns = rounded_turns(turns_exact);
    let clockwise = (turns > Turns::ZERO) == screws.clockwise_raises;
    let step = HeightMove {
        distance: pitch * (turns.value() * response.value),
        turns,
        rotation: if clockwise {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        },
        turns_exact,
        pitch,
        response,
        expected: Vec::new(),
    };
    (turns, step)
}

fn posts(
    job: &Job,
    geometry: &Geometry,
    laid: &[Laid],
    end: &mut DVector<f64>,
) -> Vec<AdjusterPlan> {
    let (Some(first), Some(last)) = (laid.first(), laid.last()) else {
        return Vec::new();
    };
    let outer = [first, last];
    let offs = outer.map(|string| off_at(geometry, string, end));
    let known = outer.map(|string| quantity(geometry, string));
    let decisions = [decide(&known[0], offs[0]), decide(&known[1], offs[1])];
    let needy: Vec<u8> = outer
        .iter()
        .zip(&decisions)
        .filter(|(_, decision)| matches!(decision, Decision::Unread | Decision::Again))
        .map(|(string, _)| string.string)
        .collect();
    // Lifts of both posts that bring both outer strings right at once.
    let wanted = [0, 1].map(|at| -offs[at].mm() / outer[at].sight.slope[outer[at].saddle]);
    let share = |side, at: usize| geometry.post_share(side, outer[at].string);
    let (a, b) = (share(Side::Treble, 0), share(Side::Bass, 0));
    let (c, d) = (share(Side::Treble, 1), share(Side::Bass, 1));
    let determinant = a * d - b * c;
    let lifts = [
        (wanted[0] * d - b * wanted[1]) / determinant,
        (a * wanted[1] - c * wanted[0]) / determinant,
    ];
    let mut plans = Vec::new();
    for (at, side) in Side::ALL.into_iter().enumerate() {
        let adjuster = HeightAdjuster::Post(side);
        let lift = Length::from_mm(lifts[at]);
        let action = if !needy.is_empty() {
            HeightAction::Read(needy.clone())
        } else if decisions
            .iter()
            .all(|decision| *decision == Decision::Leave)
        {
            HeightAction::Leave
        } else if let Some(at_end) = at_end(job, geometry, adjuster, lift, outer[at].string) {
            at_end
        } else {
            let (turns, step) = screw(job, geometry, at, lift);
            if turns == Turns::ZERO {
                HeightAction::Leave
            } else {
                for index in 0..geometry.count() {
                    let string = u8::try_from(index + 1).unwrap_or(1);
                    end[geometry.saddle(index)] +=
                        step.distance.mm() * geometry.post_share(side, string);
                }
                HeightAction::Turn(step)
            }
        };
        plans.push(AdjusterPlan {
            adjuster,
            strings: vec![outer[at].string],
            action,
        });
    }
    // Both posts work on both strings: what is expected stands when both are turned.
    for plan in &mut plans {
        if let HeightAction::Turn(step) = &mut plan.action {
            step.expected = outer
                .iter()
                .zip(&known)
                .map(|(string, known)| {
                    let value = geometry.look(&string.sight, end);
                    (
                        string.string,
                        Estimate::new(value, spread(known.now.sigma, step)),
                    )
                })
                .collect();
        }
    }
    plans
}

/// Whether an adjuster that was found at its end would have to go on, and what helps.
fn at_end(
    job: &Job,
    geometry: &Geometry,
    adjuster: HeightAdjuster,
    lift: Length,
    string: u8,
) -> Option<HeightAction> {
    let end = job.height_end(adjuster)?;
    let short_by = match end {
        HeightEnd::Bottom => -lift,
        HeightEnd::Top => lift,
    };
    if short_by <= Length::ZERO {
        return None;
    }
    let neck = &job.instrument().neck;
    // Down at the end: the neck is tilted back until the saddle stands in the middle of its range.
    let middle = job.instrument().bridge.height.travel.middle() * 0.5;
    let raise = short_by + middle;
    let beyond = geometry.line(string).length - geometry.tops(string).joint();
    let helps = end == HeightEnd::Bottom && neck.bolted;
    Some(HeightAction::AtEnd {
        end,
        short_by,
        wedge: helps.then(|| wedge_for(raise, beyond, neck.pocket.middle())),
        shim: helps.then_some(raise),
    })
}

impl HeightPlan {
    pub(super) fn finish(&mut self, geometry: &Geometry, end: &DVector<f64>) {
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
            HeightAdjuster::String(on) => on == string,
            HeightAdjuster::Post(Side::Treble) => usize::from(string) * 2 <= self.strings.len(),
            HeightAdjuster::Post(Side::Bass) => usize::from(string) * 2 > self.strings.len(),
        };
        self.adjusters.iter().find(near)
    }

    /// The adjuster to attend to next: one whose strings are to be read, then the one that has
    /// furthest to go, since a post moves the strings of the other a little too.
    pub fn next_adjuster(&self) -> Option<&AdjusterPlan> {
        let rank = |plan: &AdjusterPlan| match &plan.action {
            HeightAction::Read(_) => (0, 0.0),
            HeightAction::Turn(step) if self.fixed => (1, -step.turns.abs().value()),
            HeightAction::Turn(_) => (1, 0.0),
            HeightAction::AtEnd { .. } => (2, 0.0),
            HeightAction::Leave => (3, 0.0),
        };
        self.adjusters
            .iter()
            .filter(|plan| plan.action != HeightAction::Leave)
            .min_by(|a, b| {
                let (a, b) = (rank(a), rank(b));
                a.0.cmp(&b.0).then(a.1.total_cmp(&b.1))
            })
    }
}
