//! A string from its wire: what it weighs, how it stretches and bends, and at which frequencies a piece of it sounds.
//!
//! A piece between two edges is an Euler-Bernoulli beam under tension, `EI y'''' - T y'' = mu w^2 y`, so that
//! `mu w^2 = T k^2 + EI k^4`. Beyond each edge the wire goes on: it turns there with what the tail answers,
//! a moment of `EI q` a radian, where `q^2 = k^2 + T/EI`. Its modes are symmetric or not about the middle; each
//! wave number comes from its own frequency equation, by iteration and not from an expansion in the stiffness.

use std::f64::consts::PI;

use gradimen_bench::model::{StringConstruction, StringEntry};

use crate::Rng;

/// Young's modulus of music wire, in newtons per square millimetre (handbook value for A228, from memory).
const YOUNG: f64 = 207_000.0;
/// Densities in kilograms per cubic millimetre.
const STEEL: f64 = 7.85e-6;
const NICKEL: f64 = 8.9e-6;
const BRONZE: f64 = 8.8e-6;

/// One string, as it really is. Millimetres, newtons, kilograms, seconds.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Wire {
    /// Mass of a millimetre.
    mass: f64,
    /// What stretches it to twice its length.
    pub(crate) stretch: f64,
    /// What bends it.
    bend: f64,
}

impl Wire {
    /// A string of a packet: its core is nobody's secret but the maker's.
    pub(crate) fn hidden(entry: &StringEntry, chance: &mut Rng) -> Self {
        let gauge = entry.gauge.middle().mm() * chance.factor(0.004);
        if entry.make == StringConstruction::Plain {
            let area = PI * gauge * gauge / 4.0;
            let young = YOUNG * chance.factor(0.01);
            return Self {
                mass: area * STEEL,
                stretch: young * area,
                bend: young * area * gauge * gauge / 16.0,
            };
        }
        let thou = gauge / 0.0254;
        let usual = 8.0 + 0.23 * thou;
        let core = usual * 0.0254 * chance.factor(0.05);
        let wrap = (gauge - core) / 2.0;
        let metal = match entry.make {
            StringConstruction::RoundNickel | StringConstruction::FlatNickel => NICKEL,
            StringConstruction::RoundBronze => BRONZE,
            _ => STEEL,
        };
        // A close helix of round wire: so much of a tube as a circle fills of its square.
        let tube = PI * (gauge * gauge - core * core) / 4.0;
        let filled = match entry.make {
            StringConstruction::FlatStainless | StringConstruction::FlatNickel => 0.95,
            _ => PI / 4.0,
        };
        let young = YOUNG * chance.factor(0.01);
        let area = PI * core * core / 4.0;
        // A wrap is a spring: it stretches with next to nothing and bends a little.
        Self {
            mass: area * STEEL + tube * filled * metal * chance.factor(0.01),
            stretch: young * area * chance.between(1.0, 1.04),
            bend: young * area * core * core / 16.0
                * (1.0 + chance.between(0.02, 0.25) * (wrap / core).min(1.0)),
        }
    }

    /// The frequency of a mode of a piece under a pull: 1 for the note, 2 for the harmonic over its middle.
    pub(crate) fn frequency(&self, length: f64, pull: f64, mode: u8) -> f64 {
        let bare = f64::from(mode) * PI / length;
        let mut k = bare;
        for _ in 0..12 {
            let q = (k * k + pull / self.bend).sqrt();
            let end = self.bend * q;
            // The tail gives way by as much as an own piece of the string: half of what a clamp would do.
            let held = self.bend * (k * k + q * q);
            let lag = (end * k / (held + end * q)).atan();
            k = (f64::from(mode) * PI / 2.0 + lag) * 2.0 / length;
        }
        // Newtons a kilogram millimetre are a thousand over square millimetres... of a second.
        let square = (pull * k * k + self.bend * k.powi(4)) / self.mass * 1e3;
        square.sqrt() / (2.0 * PI)
    }

    /// The pull at which a piece sounds a note.
    pub(crate) fn pull_for(&self, length: f64, hertz: f64) -> f64 {
        let mut pull = self.mass * (2.0 * length * hertz).powi(2) / 1e3;
        for _ in 0..8 {
            pull *= (hertz / self.frequency(length, pull, 1)).powi(2);
        }
        pull
    }

    /// How many cents sharp a piece sounds that swings by so much at its middle, in the mean: the wire is longer
    /// while it swings. Between swinging in one plane and going round.
    pub(crate) fn swung(&self, length: f64, pull: f64, swing: f64, round: f64) -> f64 {
        let longer = self.stretch / pull * (PI * swing / (2.0 * length)).powi(2);
        let share = longer * (0.375 + (0.5 - 0.375) * round);
        1200.0 * (1.0 + share).log2()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn plain(thou: f64) -> Wire {
        let diameter = thou * 0.0254;
        let area = PI * diameter * diameter / 4.0;
        Wire {
            mass: area * STEEL,
            stretch: YOUNG * area,
            bend: YOUNG * area * diameter * diameter / 16.0,
        }
    }

    #[test]
    fn a_thin_string_sounds_as_the_law_of_the_string_has_it() {
        // f = sqrt(T / mu) / 2L; a .010 in at 25.5 in and E4 pulls about 72 N (published charts of string makers).
        let wire = plain(10.0);
        let pull = wire.pull_for(647.7, 329.63);
        assert!((pull - 72.0).abs() < 1.0, "{pull}");
        let limit = (pull / wire.mass * 1e3).sqrt() / (2.0 * 647.7);
        // Its ends hold it: the ideal string is a thousandth lower.
        let higher = wire.frequency(647.7, pull, 1) / limit - 1.0;
        assert!((0.0..2e-3).contains(&higher), "{higher}");
    }

    #[test]
    fn stiffness_stretches_the_second_mode_by_what_pinned_and_clamped_ends_enclose() {
        // Fletcher 1964: pinned f_n = n f0 sqrt(1 + B n^2); clamped more by 1 + 2 sqrt(EI/T)/L, alike for all modes.
        let wire = plain(17.0);
        let (length, pull) = (648.0, 75.0);
        let b = PI * PI * wire.bend / (pull * length * length);
        let octave = wire.frequency(length, pull, 2) / wire.frequency(length, pull, 1) / 2.0;
        let pinned = ((1.0 + 4.0 * b) / (1.0 + b)).sqrt();
        assert!(
            (octave - pinned).abs() < 0.2 * (pinned - 1.0),
            "{octave} {pinned}"
        );
        let first =
            wire.frequency(length, pull, 1) * 2.0 * length / (pull / wire.mass * 1e3).sqrt();
        let clamped = 1.0 + 2.0 * (wire.bend / pull).sqrt() / length;
        assert!(first > (1.0 + b).sqrt() && first < clamped * (1.0 + b).sqrt());
    }
}
