//! A simulated instrument with hidden state: it answers readings with the noise and resolution of
//! real tools, and reacts to its screws with play. It seeds the demo, so that demo data hang
//! together, and closes the loop in tests.
//!
//! Its hidden numbers are drawn away from what the estimate believes, or closing the loop would
//! prove nothing.

mod follow;
mod instrument;

pub use instrument::{Defects, SimulatedInstrument, TUNER};

use gradimen_core::intonation::{Fingering, Heights, IntonationError, Reference, Speaking};
use gradimen_core::quantity::{Cents, Force, Length, Turns};
use gradimen_core::string::StringSpec;
use rand::rngs::StdRng;
use rand::{Rng as _, SeedableRng};
use rand_distr::StandardNormal;

/// Repeatable chance.
#[derive(Debug, Clone)]
pub struct Rng(StdRng);

impl Rng {
    /// From a seed.
    pub fn new(seed: u64) -> Self {
        Self(StdRng::seed_from_u64(seed))
    }

    /// Evenly between two values.
    pub fn between(&mut self, low: f64, high: f64) -> f64 {
        low + (high - low) * self.0.random::<f64>()
    }

    /// Normal with mean nought and the given standard deviation.
    pub fn normal(&mut self, sigma: f64) -> f64 {
        self.0.sample::<f64, _>(StandardNormal) * sigma
    }
}

/// A tuner and the hand that plays into it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tuner {
    /// Smallest step shown.
    pub step: Cents,
    /// Scatter of one reading by hand.
    pub scatter: Cents,
}

/// One string on its saddle, as it really is.
#[derive(Debug, Clone)]
pub struct Saddle {
    truth: Speaking,
    setback: Length,
    pitch: Length,
    response: f64,
    play: Length,
    last_way: f64,
}

impl Saddle {
    /// A string believed to be `believed`, whose real core, finger, heights and screw differ by
    /// chance, with its saddle `off` from its right place.
    ///
    /// # Errors
    /// [`IntonationError`] when no saddle place brings such a string true.
    pub fn hidden(
        believed: &Speaking,
        string: &StringSpec,
        pitch: Length,
        off: Length,
        chance: &mut Rng,
    ) -> Result<Self, IntonationError> {
        let finger = Fingering {
            force: Force::from_newtons(chance.between(1.2, 3.4)),
            behind: Length::from_mm(chance.between(6.0, 10.0)),
        };
        let core = string.core() * chance.between(0.92, 1.09);
        let real = string.with_core(core).unwrap_or(*string);
        let truth = believed
            .with_string(&real)
            .with_fingering(finger)
            .with_nut_offset(Length::from_mm(chance.normal(0.15)));
        Ok(Self {
            setback: truth.setback_for(12, Cents::ZERO)? + off,
            truth,
            pitch,
            response: chance.between(0.9, 1.08),
            play: Length::from_mm(chance.between(0.0, 0.06)),
            last_way: 1.0,
        })
    }

    /// The string lies otherwise from here on.
    pub fn lay(&mut self, heights: Heights) {
        self.truth = self.truth.with_heights(heights);
    }

    /// Stands elsewhere: two strings on one saddle stand in one place.
    pub fn place(&mut self, setback: Length) {
        self.setback = setback;
    }

    /// Where it stands.
    pub const fn setback(&self) -> Length {
        self.setback
    }

    /// Its true error at a fret.
    ///
    /// # Errors
    /// [`IntonationError`] for a fret no board has.
    pub fn error(&self, fret: u8) -> Result<Cents, IntonationError> {
        self.truth.error(fret, self.setback)
    }

    /// Turns the screw; positive drives away from the neck. Reversing takes up the play first.
    pub fn turn(&mut self, turns: Turns) {
        let way = turns.value().signum();
        let lost = if way == self.last_way {
            Length::ZERO
        } else {
            self.play * way
        };
        self.setback += self.pitch * (turns.value() * self.response) - lost;
        self.last_way = way;
    }

    /// What a tuner shows for a fretted note.
    ///
    /// # Errors
    /// [`IntonationError`] for a fret no board has.
    pub fn read(
        &self,
        fret: u8,
        reference: Reference,
        tuner: Tuner,
        chance: &mut Rng,
    ) -> Result<Cents, IntonationError> {
        let mut shown = self.error(fret)?;
        if reference == Reference::Harmonic {
            shown -= self.truth.harmonic_excess(self.setback);
        }
        let noisy = shown.value() + chance.normal(tuner.scatter.value());
        let step = tuner.step.value();
        // Tenths print as they were read.
        Ok(Cents::new(
            ((noisy / step).round() * step * 100.0).round() / 100.0,
        ))
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_core::intonation::Heights;
    use gradimen_core::quantity::Frequency;

    fn believed() -> (Speaking, StringSpec) {
        let string = StringSpec::plain(Length::from_thou(11.0)).unwrap();
        let heights = Heights::new(Length::from_mm(0.5), Length::from_mm(1.7)).unwrap();
        let speaking = Speaking::new(
            &string,
            Frequency::from_hertz(329.6),
            Length::from_mm(648.0),
            heights,
            Fingering::default(),
        );
        (speaking, string)
    }

    #[test]
    fn chance_repeats_and_spreads() {
        let draw = |seed| {
            let mut chance = Rng::new(seed);
            (0..2000).map(|_| chance.normal(2.0)).collect::<Vec<_>>()
        };
        assert_eq!(draw(7), draw(7));
        let values = draw(7);
        let mean = values.iter().sum::<f64>() / 2000.0;
        let variance = values.iter().map(|v| (v - mean).powi(2)).sum::<f64>() / 1999.0;
        assert!(mean.abs() < 0.15 && (variance.sqrt() - 2.0).abs() < 0.15);
    }

    #[test]
    fn a_hidden_saddle_reacts_like_a_real_one() {
        let (speaking, string) = believed();
        let mut chance = Rng::new(3);
        let pitch = Length::from_mm(0.5);
        let mut saddle = Saddle::hidden(
            &speaking,
            &string,
            pitch,
            Length::from_mm(-2.0),
            &mut chance,
        )
        .unwrap();
        let sharp = saddle.error(12).unwrap();
        assert!(sharp.value() > 4.0);
        saddle.turn(Turns::new(4.0));
        let after = saddle.error(12).unwrap();
        assert!(after < sharp && after.value().abs() < 1.5);
        // Back again by the same turns does not quite come back: play.
        saddle.turn(Turns::new(-4.0));
        assert!((saddle.error(12).unwrap() - sharp).abs().value() < 0.3);
        let tuner = Tuner {
            step: Cents::new(0.1),
            scatter: Cents::ZERO,
        };
        let shown = saddle
            .read(12, Reference::Open, tuner, &mut chance)
            .unwrap();
        assert!((shown - saddle.error(12).unwrap()).abs().value() <= 0.0501);
    }
}
