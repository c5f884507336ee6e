//! A neck as a beam: held at the body, bent by the strings' pull over its neutral axis and by the wood's own shape,
//! and bent back by a rod that does most in its middle. The curvature is integrated twice, on a fine grid.

use crate::Rng;

/// How finely it is integrated, in millimetres.
const STEP: f64 = 4.0;

/// One neck. Lengths in millimetres from the nut, moments in newton millimetres.
#[derive(Debug, Clone)]
pub(crate) struct Neck {
    /// Where the body begins to hold it.
    joint: f64,
    /// What bends it at the nut and at the joint.
    stiffness: (f64, f64),
    /// How high the strings run over its neutral axis.
    arm: f64,
    /// Curvature of its own, and how much more at the bass side than at the treble.
    built_in: f64,
    twist: f64,
    /// The side's share of what bends it: the bass side gives more by this.
    skew: f64,
    /// Moment of the rod now, and of a turn.
    rod: f64,
    per_turn: f64,
    /// How much the rod acts in the middle: nought is evenly.
    bulge: f64,
    play: f64,
    slack: f64,
    /// What has yet to settle of the last change, as moment of the rod.
    to_settle: f64,
    settling: f64,
    /// Turns that are left for tightening.
    pub(crate) left: f64,
}

impl Neck {
    pub(crate) fn hidden(joint: f64, chance: &mut Rng) -> Self {
        let stiff = 1.7e8 * chance.factor(0.3);
        let play = chance.between(0.0, 0.06);
        Self {
            joint,
            stiffness: (
                stiff * chance.between(0.6, 0.9),
                stiff * chance.between(1.0, 1.3),
            ),
            arm: chance.between(11.0, 17.0),
            built_in: 0.0,
            twist: 0.0,
            skew: chance.normal(0.05),
            rod: 0.0,
            per_turn: 0.0,
            bulge: chance.between(0.0, 0.8),
            play,
            slack: chance.between(0.0, play),
            to_settle: 0.0,
            settling: chance.between(0.03, 0.10),
            left: chance.between(0.8, 2.5),
        }
    }

    fn stiffness_at(&self, x: f64) -> f64 {
        let share = (x / self.joint).clamp(0.0, 1.0);
        self.stiffness.0 + (self.stiffness.1 - self.stiffness.0) * share
    }

    /// Its curvature under strings that pull so much, `side` from -1 at the treble to +1 at the bass.
    fn curvature(&self, x: f64, pull: f64, rod: f64, side: f64) -> f64 {
        if x >= self.joint {
            return 0.0;
        }
        let along = 2.0 * x / self.joint - 1.0;
        let shape = 1.0 + self.bulge * (0.5 - 1.5 * along * along);
        let moment =
            pull * self.arm * (1.0 + self.skew * side) - rod * shape * (1.0 - self.skew * side);
        moment / self.stiffness_at(x) + self.built_in + self.twist * side
    }

    /// How far the board is bent up toward the strings at some places, from the joint outward.
    pub(crate) fn bent(&self, places: &[f64], pull: f64, side: f64) -> Vec<f64> {
        self.bent_by(places, pull, self.rod, side)
    }

    fn bent_by(&self, places: &[f64], pull: f64, rod: f64, side: f64) -> Vec<f64> {
        let steps = (self.joint / STEP).ceil() as usize;
        let step = self.joint / steps as f64;
        let mut rise = vec![0.0; steps + 1];
        let (mut slope, mut height) = (0.0, 0.0);
        // From the joint toward the nut; the trapezium rule twice.
        for at in (0..steps).rev() {
            let x = step * at as f64;
            let bend = 0.5
                * (self.curvature(x, pull, rod, side)
                    + self.curvature(x + step * 0.999, pull, rod, side));
            height += slope * step + 0.5 * bend * step * step;
            slope += bend * step;
            rise[at] = height;
        }
        places
            .iter()
            .map(|x| {
                if *x >= self.joint {
                    return 0.0;
                }
                let at = (x / step).max(0.0);
                let below = (at as usize).min(steps - 1);
                rise[below] + (rise[below + 1] - rise[below]) * (at - below as f64)
            })
            .collect()
    }

    /// Sets the rod so that `relief` reads what is wanted at the treble and the bass side, and what a turn of it takes away
    /// there. `relief` works that reading out for a neck.
    pub(crate) fn begin(
        &mut self,
        wanted: [f64; 2],
        turn: f64,
        relief: impl Fn(&Self) -> [f64; 2],
    ) {
        let mean = |pair: [f64; 2]| (pair[0] + pair[1]) / 2.0;
        // Both sides are linear in rod and twist.
        (self.rod, self.twist, self.built_in) = (0.0, 0.0, 0.0);
        let none = relief(self);
        self.rod = 1e3;
        let gives = (mean(none) - mean(relief(self))) / 1e3;
        self.per_turn = turn / gives;
        self.rod = (mean(none) - mean(wanted)) / gives;
        let now = relief(self);
        self.twist = 1e-6;
        let twisted = relief(self);
        let apart = |pair: [f64; 2]| pair[1] - pair[0];
        let by = (apart(wanted) - apart(now)) / (apart(twisted) - apart(now));
        self.twist = 1e-6 * by;
        // A rod only pulls: where it would have to push, the wood is straighter than it was taken to be.
        if self.rod < 0.0 {
            self.rod = 0.0;
            let now = mean(relief(self));
            self.built_in = 1e-7;
            let bent = mean(relief(self));
            self.built_in = 1e-7 * (mean(wanted) - now) / (bent - now);
        }
    }

    /// Turns its rod: what is lost in the play does nothing, and some of it comes later.
    pub(crate) fn turn(&mut self, turns: f64) {
        let before = self.slack;
        self.slack = (self.slack + turns).clamp(0.0, self.play);
        let real = turns - (self.slack - before);
        let moment = real * self.per_turn;
        self.rod += moment * (1.0 - self.settling);
        self.to_settle += moment * self.settling;
        self.left -= turns;
    }

    /// Some time goes by.
    pub(crate) fn settle(&mut self) {
        let now = self.to_settle * 0.4;
        self.rod += now;
        self.to_settle -= now;
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_even_moment_bends_an_even_beam_as_the_handbook_has_it() {
        // A cantilever under an end moment: w = M L^2 / (2 EI) (any handbook of beams).
        let mut neck = Neck::hidden(400.0, &mut Rng::new(1));
        neck.stiffness = (1.5e8, 1.5e8);
        neck.skew = 0.0;
        neck.arm = 14.0;
        let rise = neck.bent(&[0.0], 450.0, 0.0)[0];
        let handbook = 450.0 * 14.0 * 400.0 * 400.0 / (2.0 * 1.5e8);
        assert!((rise / handbook - 1.0).abs() < 5e-3, "{rise} {handbook}");
    }

    #[test]
    fn a_rod_that_turns_back_is_lost_in_its_play() {
        let mut neck = Neck::hidden(400.0, &mut Rng::new(2));
        neck.per_turn = 1000.0;
        neck.play = 0.05;
        neck.slack = 0.05;
        neck.settling = 0.0;
        neck.turn(0.25);
        let tight = neck.rod;
        neck.turn(-0.05);
        assert!((neck.rod - tight).abs() < 1e-9);
        neck.turn(-0.1);
        assert!((neck.rod - tight + 100.0).abs() < 1e-9);
    }
}
