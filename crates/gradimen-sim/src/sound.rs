//! What it sounds like: the partials of a stiff wire between its edges, each at the frequency that its own equation gives it, dying away
//! by itself; longer while it swings, in two planes that do not quite agree, over a little noise.

use std::f64::consts::TAU;

use crate::SimulatedInstrument;

/// Samples a second.
pub const RATE: u32 = 48_000;
/// Of quiet before the pluck, and of the note.
const BEFORE: f64 = 0.2;
const LASTS: f64 = 2.2;
/// Partials above this are let be, in hertz, and so is what comes after so many.
const HIGHEST: f64 = 9_000.0;
const MOST: u8 = 40;
/// Noise under a note of about a third of full scale.
const NOISE: f64 = 4e-4;

/// How a string is played.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Played {
    /// Open.
    Open,
    /// Touched over the twelfth fret.
    Harmonic,
    /// Held down behind the twelfth.
    Fretted,
}

impl SimulatedInstrument {
    /// A string, plucked once: samples at [`RATE`], full scale is one. Another pluck every time, and another finger.
    pub fn sound(&mut self, string: u8, played: Played) -> Option<Vec<f32>> {
        let index = usize::from(string.checked_sub(1)?);
        let course = self.courses.get(index)?;
        let mut pull = course.pull * (1.0 + course.off_pitch);
        let mut length = self.crown(index).0;
        if played == Played::Fretted {
            let (force, behind) = course.finger;
            let chance = &mut self.hand.chance;
            let finger = (force * chance.factor(0.15), behind * chance.factor(0.1));
            let held = self.held(index, finger);
            (length, pull) = (held.0, held.1 * (1.0 + self.courses[index].off_pitch));
        }
        let chance = &mut self.hand.chance;
        // A finger is no point, and never quite over the middle: a little of what it should have stopped goes on.
        let left = chance.between(0.003, 0.02);
        let pluck = chance.between(0.16, 0.24);
        let pickup = chance.between(0.08, 0.14);
        let swing = chance.between(0.15, 0.6);
        let rings = chance.between(0.9, 1.8);
        let apart = chance.normal(1.2e-5);
        let other = chance.between(0.05, 0.3);
        let wire = &self.courses[index].wire;
        let sharper = wire.swung(length, pull, swing, 0.5) / 1200.0 * std::f64::consts::LN_2;
        let partials: Vec<Partial> = (1..=MOST)
            .map_while(|mode| {
                let hertz = wire.frequency(length, pull, mode);
                let n = f64::from(mode);
                (hertz < HIGHEST).then(|| Partial {
                    hertz,
                    loud: ((n * pluck * TAU / 2.0).sin() * (n * pickup * TAU / 2.0).sin() / n)
                        .abs()
                        * if played == Played::Harmonic && mode % 2 == 1 {
                            left
                        } else {
                            1.0
                        },
                    // Air and wire take more of what is high.
                    dies: 1.0 / rings + 6e-4 * hertz + 3e-8 * hertz * hertz,
                })
            })
            .take_while(|partial| partial.hertz > 0.0)
            .collect();
        let all: f64 = partials.iter().map(|partial| partial.loud).sum();
        let count = (f64::from(RATE) * (BEFORE + LASTS)) as usize;
        let mut samples: Vec<f64> = (0..count).map(|_| chance.normal(NOISE)).collect();
        let energy = 2.0 / rings;
        for partial in partials {
            let phases = [(); 2].map(|()| chance.between(0.0, TAU));
            for (at, sample) in samples.iter_mut().enumerate() {
                let t = at as f64 / f64::from(RATE) - BEFORE;
                if t <= 0.0 {
                    continue;
                }
                // The whole glide is in the phase: sharper while there is energy in it.
                let glided = t + sharper * (1.0 - (-energy * t).exp()) / energy;
                let way = TAU * partial.hertz * glided;
                let begins = 1.0 - (-t / 0.002).exp();
                let loud = 0.6 * begins * partial.loud / all * (-partial.dies * t).exp();
                *sample += loud * (way + phases[0]).sin()
                    + loud * other * (way * (1.0 + apart) + phases[1]).sin();
            }
        }
        Some(samples.into_iter().map(|sample| sample as f32).collect())
    }
}

/// One partial of a note.
struct Partial {
    hertz: f64,
    loud: f64,
    /// Nepers a second.
    dies: f64,
}
