//! What each move changes, and how well that is known: the physics of every adjuster.

use gradimen_core::quantity::Length;
use nalgebra::DVector;

use super::SETTLING;
use crate::estimate::EstimateError;
use crate::estimate::filter::Change;
use crate::estimate::state::layout::{
    BASS, DRIVES, LIFTS, MIDDLE, PULL, Part, ROD, ROD_MIDDLE, SHARE, SKEW, TREBLE,
};
use crate::estimate::state::{BARREL_BEYOND, State};
use crate::model::{Adjuster, Amount, Shim, Side};

/// A rod that goes on the way it went: within so many turns. One that turns back is lost in its play for a while, and
/// one whose way nobody knows for half of that (common practice: a sixteenth is near the play of many rods).
const ROD_ON: f64 = 0.008;
const ROD_BACK: (f64, f64) = (0.06, 0.03);
const ROD_FIRST: (f64, f64) = (0.03, 0.03);
/// However odd the readings, a rod that is tightened straightens both sides (from memory).
const SKEW_MOST: f64 = 0.6;
/// Play of a screw, and what every turn adds, in millimetres.
const LIFT_PLAY: (f64, f64) = (0.010, 0.010);
const DRIVE_PLAY: (f64, f64) = (0.020, 0.010);
const CLAW_PLAY: (f64, f64) = (0.02, 0.02);
/// Filing by eye: a share of what was meant, and a hair.
const FILING: (f64, f64) = (0.25, 0.01);
/// A saddle cut or shimmed by hand: a share of what was meant, and what a file does not tell (from memory).
const CUTTING: (f64, f64) = (0.1, 0.03);
/// A shim settles in its pocket: share of its effect.
const SHIM_SHARE: f64 = 0.15;
/// Turning a saddle round gains what its profile says within this; a bridge is moved, a saddle slid along a rule.
const TURN_ROUND: f64 = 0.3;
const BY_RULE: f64 = 0.2;
/// The end of a bar that is not moved stays within this (from memory).
const BAR_HELD: f64 = 0.1;
/// How high the strings pull over the neutral axis of the neck: what raises them bends it by its share of that.
const PULL_ARM: f64 = 16.0;

pub(super) fn play((once, each): (f64, f64), turns: f64) -> f64 {
    once + each * turns.abs()
}

impl State {
    /// Which strings a height screw lifts, and by what share.
    pub(crate) fn lifted_by(&self, string: u8) -> Vec<(usize, f64)> {
        let on = self.barrel(string);
        let share = self.filter.x[SHARE];
        on.into_iter()
            .map(|(index, own, by)| (index, own + by * share))
            .collect()
    }

    /// What a move does in a state; nothing for what is none of it.
    ///
    /// # Errors
    /// [`EstimateError`] for adjusters that this instrument does not have.
    pub(crate) fn change(
        &self,
        adjuster: Adjuster,
        amount: &Amount,
        pocket: Length,
        x: &DVector<f64>,
    ) -> Result<Option<Change>, EstimateError> {
        Ok(Some(match (adjuster, amount) {
            (Adjuster::TrussRod, Amount::Turns { turns }) => self.rod_turned(x, *turns),
            (Adjuster::NutSlots { strings }, Amount::Distance { distance }) => {
                let by = distance.middle().mm();
                let mut change = Change::default();
                for string in strings.iter() {
                    let at = self.at.nut(self.index(string));
                    change.added.push((at, by));
                    change
                        .doubts
                        .push((vec![(at, 1.0)], (by * FILING.0).hypot(FILING.1)));
                }
                change
            }
            (Adjuster::SaddleHeight { string }, Amount::Turns { turns }) => {
                let screw = (self.index(string), self.height_pitch);
                self.lift(x, screw, &self.barrel(string), *turns)
            }
            (Adjuster::SaddleHeight { string }, Amount::Distance { distance }) => {
                self.saddle_cut(string, distance.middle().mm())
            }
            (Adjuster::Post { side }, Amount::Turns { turns }) => self.post_turned(x, side, *turns),
            (Adjuster::SaddleDrive { string }, amount) => {
                let saddle = self.saddle(self.index(string));
                return Ok(self.driven(x, saddle, amount));
            }
            (Adjuster::Bar, Amount::Ends { treble, bass }) => {
                self.bar_moved(treble.middle().mm(), bass.middle().mm())
            }
            (Adjuster::Bridge, Amount::Distance { distance }) => {
                let mut change = Change::default();
                let mut along = Vec::new();
                // All go together: the way left behind is not touched, nor the strings' arms about the edge of a plate.
                let saddles = 0..self.at.saddles;
                let ends = saddles.flat_map(|on| [self.at.setback(on), self.at.end(on)]);
                let edge = self.sheet.as_ref().map(|_| self.at.part(Part::EdgeBack));
                for at in ends.chain(edge) {
                    change.added.push((at, distance.middle().mm()));
                    along.push((at, 1.0));
                }
                change.doubts.push((along, BY_RULE));
                change
            }
            (Adjuster::Claw, Amount::Turns { turns } | Amount::Apart { turns, .. })
                if self.sheet.is_some() =>
            {
                self.claw_turned(x, *turns)
            }
            (Adjuster::Seat, Amount::Distance { distance }) if self.sheet.is_some() => Change {
                claw: (distance.middle().mm(), Vec::new(), CLAW_PLAY.0),
                ..Change::default()
            },
            (Adjuster::Pocket { shim }, Amount::Distance { distance }) => {
                self.shimmed(shim, distance.middle(), pocket)
            }
            (Adjuster::PickupScrew { pickup, side }, Amount::Turns { turns }) => {
                return self.face_moved(x, pickup, side, *turns).map(Some);
            }
            _ => return Ok(None),
        }))
    }

    fn rod_turned(&self, x: &DVector<f64>, turns: f64) -> Change {
        let (lost, wide) = match self.rod_way {
            Some(way) if way == (turns > 0.0) => (0.0, ROD_ON),
            Some(_) => ROD_BACK,
            None => ROD_FIRST,
        };
        let lost = lost.min(turns.abs() * 0.5);
        let real = turns - lost * turns.signum();
        let per_turn = x[ROD].exp() / self.plain.slope();
        let mut change = Change::default();
        let mut along = Vec::new();
        for (side, sign) in [(TREBLE, 1.0), (BASS, -1.0)] {
            let own = 1.0 + sign * x[SKEW].clamp(-SKEW_MOST, SKEW_MOST);
            let moved = -per_turn * real * own;
            change.added.push((side, moved));
            change.slopes.push((side, ROD, moved));
            change.slopes.push((side, SKEW, -per_turn * real * sign));
            along.push((side, per_turn * own));
        }
        let middle = -per_turn * real;
        change.added.push((MIDDLE, middle * x[ROD_MIDDLE]));
        change.slopes.push((MIDDLE, ROD, middle * x[ROD_MIDDLE]));
        change.slopes.push((MIDDLE, ROD_MIDDLE, middle));
        along.push((MIDDLE, per_turn * x[ROD_MIDDLE]));
        change.doubts.push((along, wide.hypot(real * SETTLING)));
        change
    }

    /// Which strings a saddle's screw lifts, and by what share: its own, and the neighbour on the same barrel.
    fn barrel(&self, string: u8) -> Vec<(usize, f64, f64)> {
        let index = self.index(string);
        let on = &self.saddles[self.saddle(index)];
        let [first, second] = on[..] else {
            return vec![(index, 1.0, 0.0)];
        };
        let y = |at: usize| self.tops[at].offset_at_bridge();
        let half = (y(first) - y(second)).abs() * 0.5;
        let near = (1.0 + half.ratio(half + BARREL_BEYOND)) / 2.0;
        let other = if index == first { second } else { first };
        vec![(index, near, 1.0), (other, 1.0 - near, -1.0)]
    }

    /// Lifts strings by shares of one screw; each share may hang on what parts on two screws share.
    fn lift(
        &self,
        x: &DVector<f64>,
        (screw, pitch): (usize, f64),
        on: &[(usize, f64, f64)],
        turns: f64,
    ) -> Change {
        let nominal = pitch * turns;
        let own = self.at.lift(screw.min(self.at.screws - 1));
        let factor = 1.0 + x[LIFTS] + x[own];
        let mut change = Change::default();
        let mut along = Vec::new();
        let mut lifted = 0.0;
        for &(index, share, by_share) in on {
            let share = share + by_share * x[SHARE];
            let at = self.at.crown(index);
            change.added.push((at, nominal * factor * share));
            change.slopes.push((at, LIFTS, nominal * share));
            change.slopes.push((at, own, nominal * share));
            if by_share != 0.0 {
                change.slopes.push((at, SHARE, nominal * factor * by_share));
            }
            along.push((at, share));
            lifted += nominal * factor * share / self.count() as f64;
        }
        change.doubts.push((along, play(LIFT_PLAY, turns)));
        // Strings that pull higher over the neck bend it more: by half, for they lie where they did at the nut.
        let per_mm = x[PULL].exp() / PULL_ARM / 2.0 / self.plain.slope();
        let turned = on.iter().map(|(_, _, by)| by).sum::<f64>() / self.count() as f64;
        for side in [BASS, TREBLE] {
            change.added.push((side, per_mm * lifted));
            change.slopes.push((side, PULL, per_mm * lifted));
            for thread in [LIFTS, own] {
                change.slopes.push((side, thread, per_mm * lifted / factor));
            }
            change
                .slopes
                .push((side, SHARE, per_mm * nominal * factor * turned));
        }
        change
    }

    /// A saddle was shimmed or cut: all strings on it go with it.
    fn saddle_cut(&self, string: u8, by: f64) -> Change {
        let mut change = Change::default();
        for &index in &self.saddles[self.saddle(self.index(string))] {
            let at = self.at.crown(index);
            change.added.push((at, by));
            let doubt = (by * CUTTING.0).hypot(CUTTING.1);
            change.doubts.push((vec![(at, 1.0)], doubt));
        }
        change
    }

    fn post_turned(&self, x: &DVector<f64>, side: Side, turns: f64) -> Change {
        let half = self.post;
        let sign = match side {
            Side::Treble => 1.0,
            Side::Bass => -1.0,
        };
        let on: Vec<(usize, f64, f64)> = (0..self.count())
            .map(|index| {
                let out = self.tops[index].offset_at_bridge().ratio(half * 2.0);
                (index, 0.5 + sign * out, 2.0 * sign * out)
            })
            .collect();
        let post = self.post_at(side);
        let mut change = self.lift(x, (post, self.post_pitch), &on, turns);
        if let Some(sheet) = &self.sheet
            && sheet.carries
        {
            // A post under a plate lifts its edge with it: the arms stay what they are, and the tail rises as the edge does.
            let nominal = self.post_pitch * turns / 2.0;
            let own = self.at.lift(post.min(self.at.screws - 1));
            let factor = 1.0 + x[LIFTS] + x[own];
            for part in [Part::EdgeUp, Part::Level] {
                let at = self.at.part(part);
                change.added.push((at, nominal * factor));
                change.slopes.push((at, LIFTS, nominal));
                change.slopes.push((at, own, nominal));
            }
        }
        change
    }

    fn driven(&self, x: &DVector<f64>, saddle: usize, amount: &Amount) -> Option<Change> {
        let at = self.at.setback(saddle);
        let own = self.at.drive(saddle);
        Some(match amount {
            Amount::Turns { turns } => {
                let nominal = self.drive_pitch * turns;
                Change {
                    added: vec![(at, nominal * (1.0 + x[DRIVES] + x[own]))],
                    slopes: vec![(at, DRIVES, nominal), (at, own, nominal)],
                    doubts: vec![(vec![(at, 1.0)], play(DRIVE_PLAY, *turns))],
                    ..Change::default()
                }
            }
            Amount::Distance { distance } => Change {
                added: vec![(at, distance.middle().mm())],
                doubts: vec![(vec![(at, 1.0)], BY_RULE)],
                ..Change::default()
            },
            Amount::Reversed => {
                let end = self.at.end(saddle);
                // Turned round again it is what it was.
                let by = if self.turned_round[saddle] {
                    -self.turn_round
                } else {
                    self.turn_round
                };
                Change {
                    added: vec![(at, by), (end, by)],
                    doubts: vec![
                        (vec![(at, 1.0)], TURN_ROUND),
                        (vec![(end, 1.0)], TURN_ROUND),
                    ],
                    ..Change::default()
                }
            }
            Amount::Apart { .. } | Amount::Ends { .. } | Amount::Springs { .. } => return None,
        })
    }

    /// A bar went so far under its outer strings: every saddle goes by its share of both.
    fn bar_moved(&self, treble: f64, bass: f64) -> Change {
        let mut change = Change::default();
        let mut along = [Vec::new(), Vec::new()];
        for (saddle, on) in self.saddles.iter().enumerate() {
            let at = self.at.setback(saddle);
            let shares = on.iter().map(|&index| self.share(index));
            let y = shares.sum::<f64>() / on.len().max(1) as f64;
            change.added.push((at, treble * (1.0 - y) + bass * y));
            along[0].push((at, 1.0 - y));
            along[1].push((at, y));
        }
        for (along, by) in along.into_iter().zip([treble, bass]) {
            // The end that stays is held, as far as a hand can.
            let doubt = if by == 0.0 { BAR_HELD } else { BY_RULE };
            change.doubts.push((along, doubt));
        }
        change
    }

    fn claw_turned(&self, x: &DVector<f64>, turns: f64) -> Change {
        let pitch = self
            .sheet
            .as_ref()
            .map_or(1.0, |sheet| sheet.record.claw_pitch.middle().mm());
        let factor = self.at.part(Part::ClawTurn);
        Change {
            claw: (
                pitch * turns * (1.0 + x[factor]),
                vec![(factor, pitch * turns)],
                play(CLAW_PLAY, turns),
            ),
            ..Change::default()
        }
    }

    /// Something under the heel: seen from the board everything on the body sinks, crowns and pickups, by as much as it was lifted; with a
    /// wedge the more the further it lies behind the mouth of the pocket.
    fn shimmed(&self, shim: Shim, thickness: Length, pocket: Length) -> Change {
        let mut change = Change::default();
        let mut along_all = Vec::new();
        let mut sinks = |at: usize, along: Length, joint: Length| {
            let share = match shim {
                Shim::Full => 1.0,
                Shim::Wedge => (along - joint).ratio(pocket),
            };
            change.added.push((at, -share * thickness.mm()));
            along_all.push((at, share));
        };
        for (index, tops) in self.tops.iter().enumerate() {
            sinks(self.at.crown(index), self.lengths[index], tops.joint());
        }
        for (pickup, (before, _)) in self.pickups.iter().enumerate() {
            for side in Side::ALL {
                let tops = &self.tops[self.index(self.string_of(side))];
                let along = tops.scale() - *before;
                sinks(self.at.face(pickup, side), along, tops.joint());
            }
        }
        // One shim: what it is off by, all of them are.
        change.doubts.push((along_all, thickness.mm() * SHIM_SHARE));
        change
    }
}
