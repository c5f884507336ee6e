//! The nut station: what is left to file in every slot, on the neck and at the heights to come.

use gradimen_core::intonation::Heights;
use gradimen_core::quantity::{Cents, Length};
use nalgebra::DVector;

use super::{Decision, Quantity, between};
use crate::event::Targets;
use crate::geometry::{Geometry, Place, Sight};
use crate::job::Job;
use crate::methods::tolerance;

/// What a pass with the file leaves standing, a thousandth of an inch: it cannot be put back
/// (common practice). Less than the tolerance, so that mostly one pass will do.
pub const FILE_MARGIN: Length = Length::from_mm(0.03);

/// What to do about a slot.
#[derive(Debug, Clone, PartialEq)]
pub enum NutAction {
    /// Read (again).
    Read,
    /// File, first so far and after reading again the rest.
    File {
        /// First pass.
        first: Length,
        /// All of it.
        total: Length,
    },
    /// It is too low and cannot be filed back.
    TooLow {
        /// By how much.
        by: Length,
    },
    /// Nothing.
    Leave,
}

/// One slot.
#[derive(Debug, Clone, PartialEq)]
pub struct NutString {
    /// Which string.
    pub string: u8,
    /// The gap over fret 1.
    pub quantity: Quantity,
    /// What to do.
    pub action: NutAction,
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
fn saddle_for(sight: &Sight, at: usize, x: &DVector<f64>, wanted_mm: f64) -> f64 {
    let lever = sight.slope[at];
    x[at] + (wanted_mm - sight.slope.dot(x) - sight.rest) / lever
}

pub(super) fn plan(
    job: &Job,
    geometry: &Geometry,
    targets: &Targets,
    end: &mut DVector<f64>,
) -> NutPlan {
    let as_one = job.instrument().locking_nut;
    let mut strings = Vec::new();
    let mut ends = Vec::new();
    for string in 1..=job.instrument().strings {
        let wanted = between(
            geometry,
            string,
            targets.nut_treble.middle(),
            targets.nut_bass.middle(),
        );
        let height = between(
            geometry,
            string,
            targets.action_treble.middle(),
            targets.action_bass.middle(),
        );
        let (Ok(sight), Ok(over)) = (
            geometry.action_sight(string, targets.nut_held, 1),
            geometry.action_sight(string, 0, targets.action_fret),
        ) else {
            continue;
        };
        let quantity = Quantity::with_slack(
            geometry,
            Place::Nut(string),
            &sight,
            wanted,
            tolerance::NUT,
            slack(geometry, string),
        );
        // With the saddle following, so much of a slot's depth shows over fret 1.
        let (at, saddle) = (
            slot(geometry, string),
            geometry.saddle(usize::from(string - 1)),
        );
        let follow = -over.slope[at] / over.slope[saddle];
        let lever = sight.slope[at] + sight.slope[saddle] * follow;
        let mut laid = end.clone();
        laid[saddle] = saddle_for(&over, saddle, &laid, height.mm());
        let off = sight.slope.dot(&laid) + sight.rest - wanted.mm();
        ends.push((at, off / lever));
        strings.push(NutString {
            string,
            action: NutAction::Leave,
            quantity,
            filed: Length::ZERO,
        });
    }
    if as_one && !ends.is_empty() {
        let mean = ends.iter().map(|(_, off)| off).sum::<f64>() / ends.len() as f64;
        ends.iter_mut().for_each(|(_, off)| *off = mean);
    }
    for (string, (at, off)) in strings.iter_mut().zip(ends) {
        let quantity = &string.quantity;
        let (low, high) = (
            quantity.tolerance.mm(),
            (quantity.tolerance + quantity.slack).mm(),
        );
        let allowed = if off > 0.0 { high } else { low };
        let sigma = quantity.now.sigma.mm();
        string.action = match quantity.decision() {
            Decision::Unread => NutAction::Read,
            Decision::Again if (off.abs() - allowed).abs() < sigma => NutAction::Read,
            _ if off > high => {
                end[at] -= off;
                let total = Length::from_mm(off);
                NutAction::File {
                    first: total - FILE_MARGIN.min(total * 0.5),
                    total,
                }
            }
            _ if off < -low => NutAction::TooLow {
                by: Length::from_mm(-off),
            },
            _ => NutAction::Leave,
        };
    }
    NutPlan { strings, as_one }
}

impl NutPlan {
    pub(super) fn finish(&mut self, job: &Job, geometry: &Geometry, end: &DVector<f64>) {
        let held = job.targets().nut_held;
        for string in &mut self.strings {
            if let Ok(sight) = geometry.action_sight(string.string, held, 1) {
                string.quantity.after = geometry.look(&sight, end);
            }
            string.filed = Length::from_mm(end[slot(geometry, string.string)]);
        }
    }

    /// The string to attend to next.
    pub fn next_string(&self) -> Option<u8> {
        let rank = |string: &NutString| match string.action {
            NutAction::File { .. } => 0,
            NutAction::Read => 1,
            NutAction::TooLow { .. } => 2,
            NutAction::Leave => 3,
        };
        self.strings
            .iter()
            .filter(|string| string.action != NutAction::Leave)
            .min_by_key(|string| rank(string))
            .map(|string| string.string)
    }
}

impl NutString {
    /// How much of a slot's depth shows in the reading.
    pub fn lever(&self, job: &Job) -> f64 {
        let geometry = job.geometry();
        geometry
            .action_sight(self.string, job.targets().nut_held, 1)
            .map_or(1.0, |sight| sight.slope[slot(geometry, self.string)])
    }

    /// How sharp fret 1 plays with its saddle right: as the string lies, and with only the slot as
    /// it will be. Nothing for strings the model has no answer for.
    pub fn first_fret(&self, job: &Job) -> Option<(Cents, Cents)> {
        let geometry = job.geometry();
        let state = job.string_state(self.string).ok()?;
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
