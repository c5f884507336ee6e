//! Mains hum: steady lines at multiples of 50 or 60 Hz.
//!
//! They go on while the string dies, so they are drawn through what is left of the sound once the note is taken out, and taken
//! out in turn; twice over, both are clean.

use std::f64::consts::PI;

use crate::spectrum::window;
use crate::turning::{dots, take_off, turning};

/// What a wall gives.
const MAINS: [f64; 2] = [50.0, 60.0];
/// Multiples that are looked at.
const MULTIPLES: u32 = 16;
/// None of them lies above this, Hz.
pub(crate) const HIGHEST: f64 = 1000.0;
/// How far a line of a note must stand from one of the mains to be told from it, Hz.
pub(crate) const APART: f64 = 0.6;

/// One steady line: frequency and the two parts of its amplitude.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Steady {
    pub(crate) hz: f64,
    re: f64,
    im: f64,
}

impl Steady {
    /// The same line, told from so many seconds later on.
    pub(crate) fn later(&self, seconds: f64) -> Self {
        let turn = 2.0 * PI * self.hz * seconds;
        let (sin, cos) = turn.sin_cos();
        Self {
            hz: self.hz,
            re: self.re * cos - self.im * sin,
            im: self.re * sin + self.im * cos,
        }
    }

    /// Its power: half the square of its amplitude.
    pub(crate) fn power(&self) -> f64 {
        (self.re * self.re + self.im * self.im) / 2.0
    }
}

/// The hum in what stood before a pluck: the last whole periods of the mains, over which its multiples are told apart exactly.
/// Nothing where that is short, or mostly something else.
pub(crate) fn before(lead: &[f64], rate: f64) -> Vec<Steady> {
    let mut best: (f64, Vec<Steady>) = (0.5, Vec::new());
    for mains in MAINS {
        let period = rate / mains;
        let periods = (lead.len() as f64 / period).floor().min(12.0);
        if periods < 1.0 {
            continue;
        }
        let length = (periods * period).round() as usize;
        let from = lead.len() - length.min(lead.len());
        let part = &lead[from..];
        let power: f64 = part.iter().map(|s| s * s).sum::<f64>() / part.len() as f64;
        let lines = (1..=MULTIPLES)
            .map(|h| mains * f64::from(h))
            .take_while(|hz| *hz < 0.4 * rate);
        let lines: Vec<Steady> = lines
            .map(|hz| {
                let step = 2.0 * PI * hz / rate;
                let start = -step * from as f64;
                let (re, im) = turning(
                    part.len(),
                    (start.cos(), start.sin()),
                    (step.cos(), -step.sin()),
                );
                let sums = dots(part, &re, &im);
                let two = 2.0 / part.len() as f64;
                Steady {
                    hz,
                    re: two * sums.0,
                    im: two * sums.1,
                }
            })
            .collect();
        let own: f64 = lines
            .iter()
            .map(|line| (line.re * line.re + line.im * line.im) / 2.0)
            .sum();
        if power > 0.0 && own / power > best.0 {
            best = (own / power, lines);
        }
    }
    best.1
}

/// The hum in what is left of a sound from sample `from` on; `noise` is the variance of the rest, a sample.
pub(crate) fn after(sound: &[f64], from: usize, rate: f64, noise: f64) -> Vec<Steady> {
    let left = &sound[from..];
    let half = left.len() / 2;
    let shape = window(half);
    let gain: f64 = shape.iter().sum();
    let grain = 2.0 * (noise * shape.iter().map(|w| w * w).sum::<f64>()).sqrt() / gain;
    let weighted = |part: &[f64]| -> Vec<f64> {
        part.iter()
            .zip(&shape)
            .map(|(sample, weight)| sample * weight)
            .collect()
    };
    let (first, second) = (weighted(&left[..half]), weighted(&left[half..2 * half]));
    // Both halves, by one and the same turning.
    let at = |hz: f64| -> [(f64, f64); 2] {
        let step = 2.0 * PI * hz / rate;
        let start = -step * from as f64;
        let (re, im) = turning(half, (start.cos(), start.sin()), (step.cos(), -step.sin()));
        let two = 2.0 / gain;
        let [a, b] = [&first, &second]
            .map(|part| dots(part, &re, &im))
            .map(|(re, im)| (two * re, two * im));
        let on = step * half as f64;
        let (cos, sin) = (on.cos(), -on.sin());
        [a, (b.0 * cos - b.1 * sin, b.0 * sin + b.1 * cos)]
    };
    // Which mains, and how far they are off, from the turn between the two halves.
    let mut best: Option<(f64, f64)> = None;
    for mains in MAINS {
        let (mut weight, mut sum, mut power) = (0.0, 0.0, 0.0);
        for h in 1..=5 {
            let hz = mains * f64::from(h);
            let [a, b] = at(hz);
            let size = (a.0 * b.0 + a.1 * b.1).hypot(a.0 * b.1 - a.1 * b.0);
            if a.0.hypot(a.1).min(b.0.hypot(b.1)) < 5.0 * grain {
                continue;
            }
            let turn = (a.0 * b.1 - a.1 * b.0).atan2(a.0 * b.0 + a.1 * b.1);
            let off = turn / (2.0 * PI * half as f64 / rate) / f64::from(h);
            power += size;
            let share = size * f64::from(h * h);
            weight += share;
            sum += share * off;
        }
        if power > 0.0 && best.is_none_or(|(most, _)| power > most) {
            best = Some((power, mains + (sum / weight).clamp(-0.2, 0.2)));
        }
    }
    let Some((_, mains)) = best else {
        return Vec::new();
    };
    (1..=MULTIPLES)
        .map(|h| mains * f64::from(h))
        .take_while(|hz| *hz < 0.4 * rate)
        .filter_map(|hz| {
            let [a, b] = at(hz);
            let (re, im) = ((a.0 + b.0) / 2.0, (a.1 + b.1) / 2.0);
            // The halves agree on a line that is one.
            let same = (a.0 - b.0).hypot(a.1 - b.1) < re.hypot(im) + 3.0 * grain;
            (same && re.hypot(im) > 2.0 * grain).then_some(Steady { hz, re, im })
        })
        .collect()
}

/// Takes steady lines out of a sound.
pub(crate) fn take_out(samples: &mut [f64], rate: f64, lines: &[Steady]) {
    for line in lines {
        let step = 2.0 * PI * line.hz / rate;
        take_off(samples, (line.re, line.im), step);
    }
}
