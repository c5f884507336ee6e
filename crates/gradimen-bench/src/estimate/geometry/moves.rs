//! What a turn of each adjuster does to the state.

use gradimen_core::quantity::Length;

use super::{BASS, Geometry, ROD, TREBLE};
use crate::model::{Shim, Side};

/// A turn of the rod: play in millimetres of relief, and settling as a share of the move.
pub(super) const ROD_PLAY_MM: f64 = 0.015;
const ROD_SETTLING: f64 = 0.12;
/// Response of a rod, kept within what necks do.
const ROD_LOG_LIMITS: (f64, f64) = (-3.0, 1.2);
/// Play of a height screw.
const SCREW_PLAY_MM: f64 = 0.02;
/// A shim settles in its pocket: share of its effect.
const SHIM_SHARE: f64 = 0.15;
/// More relief for all of the pull, at an unchanged rod, and how well that is known (from memory:
/// a set one gauge up, a sixth more pull, bends a neck by 0.05 to 0.1 mm).
const BOW_MM: (f64, f64) = (0.4, 0.3);

impl Geometry {
    pub(super) fn turn_rod(&mut self, turns: f64) {
        self.rod_moves += 1;
        let per_turn = self.filter.x[ROD].exp() / self.plain_slope;
        let moved = -per_turn * turns;
        for side in [BASS, TREBLE] {
            self.filter.carry(side, ROD, moved, moved);
        }
        let play = (ROD_PLAY_MM / self.plain_slope).hypot(moved * ROD_SETTLING);
        for a in [BASS, TREBLE] {
            for b in [BASS, TREBLE] {
                self.filter.p[(a, b)] += play * play;
            }
        }
        self.filter.x[ROD] = self.filter.x[ROD].clamp(ROD_LOG_LIMITS.0, ROD_LOG_LIMITS.1);
    }

    /// Both height screws of a saddle; positive raises.
    pub(super) fn turn_saddle(&mut self, string: u8, turns: f64) {
        let nominal = self.screw_pitch.mm() * turns;
        let index = self.at(string);
        self.lift(self.saddle(index), self.screw(index), nominal);
    }

    /// A post; positive raises.
    pub(super) fn turn_post(&mut self, side: Side, turns: f64) {
        let nominal = self.screw_pitch.mm() * turns;
        let screw = self.screw(side.index());
        for index in 0..self.count() {
            let share = self.post_share(side, u8::try_from(index + 1).unwrap_or(1));
            self.lift(self.saddle(index), screw, nominal * share);
        }
    }

    fn lift(&mut self, saddle: usize, screw: usize, nominal: f64) {
        let moved = self.filter.x[screw] * nominal;
        self.filter.carry(saddle, screw, moved, nominal);
        self.filter.p[(saddle, saddle)] += SCREW_PLAY_MM * SCREW_PLAY_MM;
    }

    pub(super) fn shimmed(&mut self, shim: Shim, thickness: Length, pocket: Length) {
        for index in 0..self.count() {
            let sunk = match shim {
                Shim::Full => thickness.mm(),
                Shim::Wedge => {
                    let beyond = self.lengths[index] - self.tops[index].joint();
                    thickness.ratio(pocket) * beyond.mm()
                }
            };
            let at = self.saddle(index);
            self.filter.x[at] -= sunk;
            self.filter.p[(at, at)] += (sunk * SHIM_SHARE).powi(2);
        }
    }

    /// Other strings or another tuning: the neck gives, and everything is to be read again.
    pub(super) fn pulled(&mut self, change: f64) {
        let (bow, doubt) = (
            BOW_MM.0 * change / self.plain_slope,
            BOW_MM.1 * change / self.plain_slope,
        );
        for a in [BASS, TREBLE] {
            self.filter.x[a] += bow;
            for b in [BASS, TREBLE] {
                self.filter.p[(a, b)] += doubt * doubt;
            }
        }
    }
}
