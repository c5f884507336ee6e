//! How it comes to the bench: everything set so that it reads as its condition has it.

use gradimen_bench::model::{ReliefSpan, Side};

use super::{Coil, SimulatedInstrument};
use crate::screw::Screw;
use crate::{Condition, Rng};

/// A plate that was balanced rests within so much of where it was balanced.
const STAYS: f64 = 0.5;
/// So much travel is left at either end where a saddle is right.
const REACH: f64 = 0.6;
/// And so much where a bridge was set back for them.
const FITTED: f64 = 0.8;

impl SimulatedInstrument {
    /// Sets everything so that it reads as the condition has it.
    pub(super) fn come(&mut self, condition: &Condition, chance: &mut Rng) -> Option<()> {
        let span = ReliefSpan {
            low: 1,
            high: self.record.frets,
            at: 8,
        };
        let bass = self.record.kind == gradimen_bench::model::instrument::Kind::Bass;
        let turn = if bass {
            chance.between(0.25, 0.9)
        } else {
            chance.between(0.3, 1.1)
        };
        let own = if self.lifts.is_empty() { 0.05 } else { 0.15 };
        let [first, twelfth] = condition.scatter_mm.unwrap_or([0.03, own]);
        let lies: Vec<(f64, f64)> = (0..self.courses.len())
            .map(|index| {
                let share = index as f64 / (self.courses.len() - 1).max(1) as f64;
                let action =
                    condition.action_mm[0] * (1.0 - share) + condition.action_mm[1] * share;
                let nut = condition.nut_mm + chance.normal(first);
                (nut, action + chance.normal(twelfth))
            })
            .collect();
        // Neck, plate and saddles all bear on each other: each is brought there a few times.
        for _ in 0..3 {
            let mut neck = self.neck.clone();
            neck.begin(condition.relief_mm, turn, |neck| {
                Side::ALL.map(|side| self.relief_of(neck, side, span))
            });
            self.neck = neck;
            for (index, (nut, action)) in lies.iter().enumerate() {
                self.lay(index, *nut, *action);
            }
            for _ in 0..3 {
                let Some(mut plate) = self.plate.take() else {
                    break;
                };
                let hung = self.hung(&plate);
                if !plate.begin(&hung, condition.gap_mm) {
                    return None;
                }
                self.plate = Some(plate);
                for (index, (nut, action)) in lies.iter().enumerate() {
                    self.lay(index, *nut, *action);
                }
            }
            if condition.fitted {
                self.fit()?;
            }
            for index in 0..self.courses.len() {
                let right = self.right_setback(index)?;
                let off = condition.saddles_mm[index % condition.saddles_mm.len()];
                let (near, far) = self.travel;
                // What its saddle cannot reach cannot be set: another instrument.
                if condition.trap.is_none() && !(near + REACH..far - REACH).contains(&right) {
                    return None;
                }
                self.courses[index].setback = (right + off).clamp(near, far);
            }
            // Two strings on one saddle stand in one place.
            for group in self.record.bridge.saddles.clone() {
                let first = self.courses[usize::from(group[0] - 1)].setback;
                for string in &group[1..] {
                    self.courses[usize::from(string - 1)].setback = first;
                }
            }
            self.tune();
        }
        // A plate that does not stay where it was balanced was never balanced.
        if self
            .gap()
            .is_some_and(|gap| (gap - condition.gap_mm).abs() > STAYS)
        {
            return None;
        }
        for pickup in self.record.pickups.clone() {
            let before = pickup.before_saddle.middle().mm();
            let pitch = pickup.pitch.middle().mm();
            let wanted = [chance.between(1.2, 3.4), chance.between(1.5, 3.6)];
            let mut coil = Coil {
                before,
                face: [0.0; 2],
                screws: [(); 2].map(|()| Screw::hidden(pitch, 0.04, 0.05, chance)),
                beyond: chance.between(0.15, 0.3),
                poles: (0..self.courses.len())
                    .map(|_| {
                        let pole = pickup
                            .pole_pitch
                            .as_ref()
                            .map(|pitch| Screw::hidden(pitch.middle().mm(), 0.04, 0.05, chance));
                        let off = if pole.is_some() {
                            chance.normal(0.3)
                        } else {
                            0.0
                        };
                        (off, pole)
                    })
                    .collect(),
            };
            for side in Side::ALL {
                let over = self.over_pickup(&coil, self.index(side));
                coil.face[side.index()] = over - wanted[side.index()];
            }
            self.pickups.push(coil);
        }
        Some(())
    }

    /// Sets the bridge back or forward so that its saddles reach, where some do not: whoever drilled its holes had the strings on.
    fn fit(&mut self) -> Option<()> {
        let (near, far) = self.travel;
        let mut rights = Vec::with_capacity(self.courses.len());
        for index in 0..self.courses.len() {
            rights.push(self.right_setback(index)?);
        }
        let furthest = rights.iter().copied().fold(f64::MIN, f64::max);
        let nearest = rights.iter().copied().fold(f64::MAX, f64::min);
        let behind = (furthest - (far - FITTED)).max(0.0);
        let before = (near + FITTED - nearest).max(0.0);
        for course in &mut self.courses {
            course.bridge += behind - before;
        }
        Some(())
    }

    /// Lays a string over frets 1 and 12 as it is wanted.
    fn lay(&mut self, index: usize, first: f64, twelfth: f64) {
        for _ in 0..8 {
            self.courses[index].slot += first - self.height(index, 0, 1);
            self.courses[index].crown += 2.0 * (twelfth - self.height(index, 0, 12));
        }
    }

    /// Where a saddle would be right, or none in reach of any bridge.
    fn right_setback(&mut self, index: usize) -> Option<f64> {
        let was = self.courses[index].setback;
        let mut off = |setback: f64| {
            self.courses[index].setback = setback;
            self.note(index, self.courses[index].finger)
        };
        let (mut low, mut high) = (-60.0, 60.0);
        if off(low) < 0.0 || off(high) > 0.0 {
            return None;
        }
        for _ in 0..40 {
            let middle = 0.5 * (low + high);
            if off(middle) > 0.0 {
                low = middle;
            } else {
                high = middle;
            }
        }
        self.courses[index].setback = was;
        Some(0.5 * (low + high))
    }
}
