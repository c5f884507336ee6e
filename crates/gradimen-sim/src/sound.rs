//! What it sounds like: the partials of a stiff wire between its edges, each at the frequency that its own equation gives it, dying away
//! by itself; longer while it swings, in two planes that do not quite agree, over a little noise.

use std::f64::consts::TAU;

use gradimen_bench::model::Note;

use crate::{Rng, SimulatedInstrument};

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

/// A click: how loud at a millimetre beyond the fret, and at most, of full scale; how long in samples; and what it takes of the swing at a
/// millimetre (choices: a string that rattles loses most of it in some tenths of a second).
const CLICK: f64 = 0.5;
const MOST_CLICK: f64 = 0.1;
const CLICKS: usize = 60;
const TAKES: f64 = 0.06;

/// How a string is played.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Played {
    /// Open.
    Open,
    /// Touched over the twelfth fret.
    Harmonic,
    /// Held down behind the twelfth.
    Fretted,
    /// Held down behind a fret, or open at nought, and struck as hard as a medium stroke: where it touches a fret it rattles.
    Struck(u8),
}

/// What a string does that touches a fret in its swing.
#[derive(Debug, Clone, Copy)]
struct Rattle {
    /// How far it lies over the fret, as a share of its first swing down to it.
    clear: f64,
    /// How far that swing is, in millimetres.
    swings: f64,
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
        let mut rattle = None;
        if let Played::Struck(fret) = played {
            let tops = self.tops(index);
            if fret > 0 {
                let at = usize::from(fret);
                let x = *self.courses[index].frets.get(at)?;
                let top = tops[at];
                let crown = self.crown(index);
                length = (crown.0 - x).hypot(crown.1 - top);
            }
            let (clear, swings) = self.nearest(Note { string, fret })?;
            rattle = (clear < swings).then(|| Rattle {
                clear: (clear / swings).max(0.0),
                swings,
            });
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
        if let Some(rattle) = rattle {
            let hertz = wire.frequency(length, pull, 1);
            rattles(&mut samples, rattle, hertz, 1.0 / rings, chance);
        }
        Some(samples.into_iter().map(|sample| sample as f32).collect())
    }
}

/// Once in a period, as long as it swings so far: a click of the wire on the fret, the louder the faster it comes. Each takes some of the swing.
fn rattles(samples: &mut [f64], rattle: Rattle, hertz: f64, dies: f64, chance: &mut Rng) {
    let at = |t: f64| ((BEFORE + t) * f64::from(RATE)) as usize;
    let (mut t, mut swing) = (0.25 / hertz, 1.0);
    while swing > rattle.clear && t < LASTS {
        // Stopped at the fret it would have gone on by this, in millimetres: so fast it comes.
        let beyond = (swing * swing - rattle.clear * rattle.clear).sqrt() * rattle.swings;
        let loud = (CLICK * beyond).min(MOST_CLICK) * chance.between(0.6, 1.4);
        let from = at(t);
        let mut before = 0.0;
        for (n, sample) in samples.iter_mut().skip(from).take(CLICKS).enumerate() {
            let noise = chance.normal(1.0) * (-(n as f64) / (CLICKS as f64 / 6.0)).exp();
            // Wire on wire has little below a kilohertz or two.
            *sample += loud * (noise - before);
            before = noise;
        }
        swing *= (-dies / hertz).exp() * (1.0 - TAKES * beyond);
        t += (1.0 + chance.normal(0.01)) / hertz;
    }
}

/// One partial of a note.
struct Partial {
    hertz: f64,
    loud: f64,
    /// Nepers a second.
    dies: f64,
}
