//! A screw as it really is: not quite its thread, and with play where it turns back.

use crate::Rng;

/// A screw.
#[derive(Debug, Clone)]
pub(crate) struct Screw {
    /// What a turn moves, in millimetres.
    pitch: f64,
    play: f64,
    slack: f64,
}

impl Screw {
    /// A screw of a nominal pitch: its real one within a share, its play up to so much.
    pub(crate) fn hidden(nominal: f64, share: f64, play: f64, chance: &mut Rng) -> Self {
        let play = chance.between(0.0, play);
        Self {
            pitch: nominal * chance.factor(share),
            play,
            slack: chance.between(0.0, play),
        }
    }

    /// How far its end goes by so many turns.
    pub(crate) fn turn(&mut self, turns: f64) -> f64 {
        let wanted = self.pitch * turns;
        let before = self.slack;
        self.slack = (self.slack + wanted).clamp(0.0, self.play);
        wanted - (self.slack - before)
    }
}
