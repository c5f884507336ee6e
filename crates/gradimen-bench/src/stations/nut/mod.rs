//! The nut station: what is left to file in every slot, on the neck and at the heights to come.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let slot = plan.nut.slot_of(1).ok_or("string 1 has its slot")?;
//! assert!(slot.lever(&known) > 0.5, "most of a slot's depth shows at fret 1");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::intonation::Heights;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::units::LengthUnit;
use nalgebra::DVector;

use crate::decision::{
    Action, Decision, Expectation, Expected, Mark, Move, Quantity, Station, StationId, Stop, Sum,
    Task, mark_of,
};
use crate::estimate::Estimate as Known;
use crate::estimate::geometry::{Geometry, LinearView};
use crate::finding::Finding;
use crate::model::{Adjuster, Amount, Measurement, Place, StringSet, Targets};

/// What a pass with the file leaves standing, a thousandth of an inch: it cannot be put back
/// (common practice). Less than the tolerance, so that mostly one pass will do.
pub const FILE_MARGIN: Length = Length::from_mm(0.03);

/// Share of a deep cut that is left for a second pass: a file by hand does not go to a tenth of what was meant, and what
/// it took too much cannot be put back (common practice: short of it, measure, and again).
const FILE_SHORT: f64 = 0.25;

/// One slot.
#[derive(Debug, Clone, PartialEq)]
pub struct NutString {
    /// Which string.
    pub string: u8,
    /// The gap over fret 1.
    pub quantity: Quantity,
    /// What to do.
    pub action: Action,
    /// All that is to come off, where something is.
    pub total: Length,
    /// Height of the slot when the plan is done.
    filed: Length,
}

/// The nut station.
#[derive(Debug, Clone, PartialEq)]
pub struct NutPlan {
    /// Slot by slot.
    pub strings: Vec<NutString>,
    /// Whether it is a locking nut, which moves as one.
    pub as_one: bool,
}

/// Whether the action has to be known before a slot can be judged.
pub fn awaits_action(places: &[Place]) -> bool {
    places
        .iter()
        .any(|place| matches!(place, Place::Action { .. }))
}

fn slot(geometry: &Geometry, string: u8) -> usize {
    Geometry::nut(usize::from(string.max(1) - 1).min(geometry.count() - 1))
}

/// A slot that has been filed is let alone for the last thousandth that a pass leaves standing.
fn slack(geometry: &Geometry, string: u8) -> Length {
    if geometry.filed[usize::from(string.max(1) - 1).min(geometry.count() - 1)] {
        FILE_MARGIN
    } else {
        Length::ZERO
    }
}

/// The saddle that gives the wanted height in a state.
fn saddle_for(sight: &LinearView, at: usize, x: &DVector<f64>, wanted_mm: f64) -> f64 {
    let lever = sight.slope[at];
    x[at] + (wanted_mm - sight.slope.dot(x) - sight.rest) / lever
}

/// Works the station out, and files the slots of the finished state `end`.
pub(crate) fn plan(known: &Known, targets: &Targets, end: &mut DVector<f64>) -> NutPlan {
    let geometry = known.geometry();
    let as_one = known.instrument().locking_nut;
    let mut strings = Vec::new();
    let mut ends = Vec::new();
    for string in 1..=known.instrument().strings {
        let share = geometry.share(geometry.at(string));
        let target = targets.nut(string, share);
        let height = targets.action(string, share).value;
        let (Ok(sight), Ok(over)) = (
            geometry.action_sight(string, targets.nut_held, 1),
            geometry.action_sight(string, 0, targets.action_fret),
        ) else {
            continue;
        };
        let quantity = Quantity::with_slack(geometry, target, &sight, slack(geometry, string));
        // With the saddle following, so much of a slot's depth shows over fret 1.
        let (at, saddle) = (slot(geometry, string), geometry.saddle(geometry.at(string)));
        let follow = -over.slope[at] / over.slope[saddle];
        let lever = sight.slope[at] + sight.slope[saddle] * follow;
        let mut laid = end.clone();
        laid[saddle] = saddle_for(&over, saddle, &laid, height.mm());
        let off = sight.slope.dot(&laid) + sight.rest - target.value.mm();
        // What may be filed: no more than is too high already, nor than will be once the saddle is set. A slot that is right
        // under a low string is not filed for a saddle that has yet to come up.
        let standing = quantity.off().mm() / sight.slope[at];
        let to_file = (off / lever).min(standing);
        let off = if off > 0.0 {
            to_file.max(0.0)
        } else {
            off / lever
        };
        ends.push((
            at,
            off,
            action_first(geometry, string, targets, (&sight, &over)),
        ));
        strings.push(NutString {
            string,
            action: Action::Leave,
            total: Length::ZERO,
            quantity,
            filed: Length::ZERO,
        });
    }
    if as_one && !ends.is_empty() {
        let mean = ends.iter().map(|(_, off, _)| off).sum::<f64>() / ends.len() as f64;
        ends.iter_mut().for_each(|(_, off, _)| *off = mean);
    }
    for (string, (at, off, action_first)) in strings.iter_mut().zip(ends) {
        let quantity = &string.quantity;
        let (low, high) = (
            quantity.tolerance.mm(),
            (quantity.tolerance + quantity.slack).mm(),
        );
        let allowed = if off > 0.0 { high } else { low };
        let sigma = quantity.now.sigma.mm();
        let read = || Action::Measure(vec![quantity.place]);
        string.action = match quantity.decision() {
            Decision::Unread => read(),
            Decision::Again if (off.abs() - allowed).abs() < sigma => read(),
            _ if (off > high || off < -low) && action_first.is_some() => {
                Action::Measure(action_first.into_iter().collect())
            }
            _ if off > high => {
                end[at] -= off;
                string.total = Length::from_mm(off);
                file(string.string, string.total)
            }
            _ if off < -low => Action::Stop(Stop::TooLow {
                by: Length::from_mm(-off),
            }),
            _ => Action::Leave,
        };
    }
    NutPlan { strings, as_one }
}

/// Where the action has to be measured before a slot is judged. Open, the gap at fret 1 hangs on it: a string that lies too
/// high looks like a slot to be filed, and what is filed for it cannot be put back.
fn action_first(
    geometry: &Geometry,
    string: u8,
    targets: &Targets,
    (nut, action): (&LinearView, &LinearView),
) -> Option<Place> {
    let place = Place::Action {
        string,
        fret: targets.action_fret,
        held: 0,
    };
    let saddle = geometry.saddle(geometry.at(string));
    let shown = (nut.slope[saddle] / action.slope[saddle]).abs();
    let left_open = geometry.predict(action).sigma * shown;
    let unread = geometry.last(place).is_none_or(|last| last.fresh == 0);
    let matters = left_open > targets.nut(string, 0.0).tolerance * 0.5;
    (unread && matters).then_some(place)
}

/// The first pass: what is left standing can be taken off after reading again.
fn file(string: u8, total: Length) -> Action {
    let margin = FILE_MARGIN.max(total * FILE_SHORT);
    let first = total - margin.min(total * 0.5);
    Action::Adjust(Box::new(slot_move(string, first, total)))
}

fn slot_move(string: u8, off: Length, total: Length) -> Move {
    Move {
        adjuster: Adjuster::NutSlots {
            strings: StringSet::one(string),
        },
        amount: Amount::Distance {
            distance: Measurement::exact(rounded(-off), LengthUnit::Millimetre),
        },
        rotation: None,
        distance: -off,
        total: Turns::ZERO,
        rounds: 1,
        expected: Vec::new(),
        sum: Sum::Slot { total },
    }
}

/// To a thousandth of a millimetre: finer than any file.
fn rounded(length: Length) -> Length {
    Length::from_mm((length.mm() * 1000.0).round() / 1000.0)
}

impl NutPlan {
    /// What the slots will be in the finished state.
    pub(crate) fn finish(&mut self, known: &Known, end: &DVector<f64>) {
        let geometry = known.geometry();
        let held = known.targets().nut_held;
        for string in &mut self.strings {
            if let Ok(sight) = geometry.action_sight(string.string, held, 1) {
                string.quantity.after = geometry.look(&sight, end);
            }
            string.filed = Length::from_mm(end[slot(geometry, string.string)]);
            let expected = Expected {
                place: string.quantity.place,
                value: Expectation::Length(Estimate::new(
                    string.quantity.after,
                    string.quantity.now.sigma,
                )),
            };
            if let Action::Adjust(step) = &mut string.action {
                step.expected = vec![expected];
            }
        }
    }

    /// The slot of a string.
    pub fn slot_of(&self, string: u8) -> Option<&NutString> {
        self.strings.iter().find(|slot| slot.string == string)
    }

    /// The string to attend to next.
    pub fn next_string(&self) -> Option<u8> {
        let rank = |string: &NutString| match string.action {
            Action::Adjust(_) => 0,
            Action::Measure(_) => 1,
            Action::Stop(_) => 2,
            Action::Leave => 3,
        };
        self.strings
            .iter()
            .filter(|string| !string.action.is_leave())
            .min_by_key(|string| rank(string))
            .map(|string| string.string)
    }
}

impl NutString {
    /// How much of a slot's depth shows in the reading.
    pub fn lever(&self, known: &Known) -> f64 {
        let geometry = known.geometry();
        geometry
            .action_sight(self.string, known.targets().nut_held, 1)
            .map_or(1.0, |sight| sight.slope[slot(geometry, self.string)])
    }

    /// How sharp fret 1 plays with its saddle right: as the string lies, and with only the slot as
    /// it will be. Nothing for strings the model has no answer for.
    pub fn first_fret(&self, known: &Known) -> Option<(Cents, Cents)> {
        let geometry = known.geometry();
        let state = known.string_state(self.string)?;
        let index = usize::from(self.string - 1);
        let mut filed = geometry.mean().clone();
        filed[slot(geometry, self.string)] = self.filed.mm();
        let sharp = |x: &DVector<f64>| {
            let first = geometry.look(&geometry.first[index], x);
            let twelfth = geometry.look(&geometry.middle[index], x);
            let speaking = state
                .speaking
                .with_heights(Heights::bounded(first, twelfth));
            let setback = speaking.setback_for(12, Cents::ZERO).ok()?;
            speaking.error(1, setback).ok()
        };
        Some((sharp(geometry.mean())?, sharp(&filed)?))
    }
}

impl Station for NutPlan {
    fn id(&self) -> StationId {
        StationId::Nut
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        self.strings
            .iter()
            .map(|slot| {
                let whole = match &slot.action {
                    Action::Adjust(step) => Action::Adjust(Box::new(Move {
                        rounds: 2,
                        expected: step.expected.clone(),
                        ..slot_move(slot.string, slot.total, slot.total)
                    })),
                    other => other.clone(),
                };
                Task {
                    strings: vec![slot.string],
                    next: slot.action.clone(),
                    whole,
                }
            })
            .collect()
    }

    fn findings(&self, _: &Known) -> Vec<Finding> {
        let low: Vec<(u8, Length)> = self
            .strings
            .iter()
            .filter_map(|slot| match slot.action {
                Action::Stop(Stop::TooLow { by }) => Some((slot.string, by)),
                _ => None,
            })
            .collect();
        if low.is_empty() {
            Vec::new()
        } else {
            vec![Finding::NutTooLow(low)]
        }
    }

    fn mark(&self) -> Mark {
        mark_of(self.strings.iter().map(|slot| &slot.quantity), false)
    }
}
