//! What an instrument taught of its own ways: numbers that hold for its next visit too.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, estimate::learned, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let found = learned::of(&known);
//! // A rod is never known beyond doubt, and what was not its own is not kept.
//! assert!(found.iter().all(|learned| learned.sigma > 0.0));
//! let kept = learned::kept(&known, known.instrument());
//! assert_eq!(kept.len(), found.iter().filter(|learned| learned.is_own()).count());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use super::Estimate;
use super::priors;
use super::season;
use super::state::layout::{DRIVES, LIFTS, PULL, Part, ROD, SHARE};
use crate::model::hardware::{Bridge, Lifts, VibratoKind};
use crate::model::instrument::Instrument;
use crate::model::{Behaviour, Keyed, Taught};

/// Learned to less than this share of the width that is believed of any instrument, it is this one's own (from memory).
const OWN: f64 = 0.8;
/// Digits that a number is kept with.
const DIGITS: i32 = 4;

/// A number that was learned.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Learned {
    /// About what.
    pub of: Behaviour,
    /// How much, in the unit of its behaviour.
    pub value: f64,
    /// One standard deviation of that.
    pub sigma: f64,
    /// What is believed of any instrument of the kind, as its record stands.
    pub usual: f64,
    /// One standard deviation of that.
    pub usual_sigma: f64,
    /// Whether an earlier visit had said something about it.
    pub before: bool,
}

impl Learned {
    /// Whether this instrument said anything about it, now or on an earlier visit.
    pub fn is_own(&self) -> bool {
        self.sigma < OWN * self.usual_sigma
    }
}

/// How a number stands in the state: as its logarithm or as what it is off its thread.
#[derive(Debug, Clone, Copy)]
struct Scale {
    /// What nought or one stands for.
    unit: f64,
    logarithm: bool,
}

impl Scale {
    fn value(self, x: f64) -> f64 {
        self.unit * if self.logarithm { x.exp() } else { 1.0 + x }
    }

    fn x(self, value: f64) -> f64 {
        let share = value / self.unit;
        if self.logarithm {
            share.ln()
        } else {
            share - 1.0
        }
    }

    fn slope(self, x: f64) -> f64 {
        self.unit * if self.logarithm { x.exp() } else { 1.0 }
    }
}

/// The scale of a behaviour on this instrument, and what is believed of it on that scale by the table; nothing where
/// the instrument has no such part.
fn table(of: Behaviour, instrument: &Instrument) -> Option<(Scale, f64, f64)> {
    let bridge = &instrument.bridge;
    let usual = Bridge::profile(bridge.family, instrument.strings);
    let logarithm = |unit, x, sigma| {
        let scale = Scale {
            unit,
            logarithm: true,
        };
        Some((scale, x, sigma))
    };
    let factor = |unit, sigma| {
        let scale = Scale {
            unit,
            logarithm: false,
        };
        Some((scale, 0.0, sigma))
    };
    match of {
        Behaviour::Rod => logarithm(1.0, priors::ROD.0.ln(), priors::ROD.1),
        Behaviour::Pull => logarithm(1.0, priors::pull(instrument.kind).ln(), priors::PULL_LOG),
        Behaviour::HeightScrews => {
            let pitch = &bridge.height.pitch;
            let worth = priors::of_sheet(pitch, &usual.height.pitch, priors::THREAD);
            factor(pitch.middle().mm(), worth)
        }
        Behaviour::Drives => {
            let pitch = &bridge.intonation.pitch;
            let worth = priors::of_sheet(pitch, &usual.intonation.pitch, priors::THREAD);
            factor(pitch.middle().mm(), worth)
        }
        Behaviour::OwnEnd => {
            let shared = matches!(bridge.lifts(), Lifts::TwoPosts | Lifts::Both)
                || bridge.saddles.len() < usize::from(instrument.strings);
            shared.then_some(())?;
            factor(1.0, priors::SHARE)
        }
        Behaviour::SpringRate => {
            let record = bridge.vibrato.as_ref()?;
            let rate = record.rate_newtons_per_metre;
            let typical = record.typical().rate_newtons_per_metre;
            let worth = if rate.to_bits() == typical.to_bits() {
                priors::RATE_LOG.1
            } else {
                priors::RATE_LOG.0
            };
            logarithm(rate, 0.0, worth)
        }
        // No thread, no wood of the state: [`season`] knows it.
        Behaviour::Season => None,
        Behaviour::Claw => {
            let record = bridge.vibrato.as_ref()?;
            let pitch = &record.claw_pitch;
            let worth = priors::of_sheet(pitch, &record.typical().claw_pitch, priors::CLAW_TURN);
            factor(pitch.middle().mm(), worth).filter(|_| record.kind == VibratoKind::BodySprings)
        }
    }
}

/// What is believed of a behaviour before this visit, as the state has it: by the table, or by what earlier visits taught,
/// a little wider for the time that went by.
pub(crate) fn belief(of: Behaviour, instrument: &Instrument, taught: &[Taught]) -> (f64, f64) {
    let Some((scale, x, sigma)) = table(of, instrument) else {
        return (0.0, priors::SHARE);
    };
    taught
        .iter()
        .find(|taught| taught.of == of)
        .map(|taught| {
            let own = scale.x(taught.value);
            let width = taught.sigma / scale.slope(own);
            (own, width.hypot(priors::SINCE).min(sigma))
        })
        .filter(|(own, _)| own.is_finite())
        .unwrap_or((x, sigma))
}

/// Everything that an instrument can teach, whether it did or not.
pub fn of(known: &Estimate) -> Vec<Learned> {
    let state = known.state();
    let filter = &state.filter;
    let at = |of: Behaviour| {
        Some(match of {
            Behaviour::Rod => ROD,
            Behaviour::Pull => PULL,
            Behaviour::HeightScrews => LIFTS,
            Behaviour::Drives => DRIVES,
            Behaviour::OwnEnd => SHARE,
            Behaviour::SpringRate => state.at.part(Part::Rate),
            Behaviour::Claw => state.at.part(Part::ClawTurn),
            Behaviour::Season => return None,
        })
    };
    let before = |of: Behaviour| known.taught().iter().any(|taught| taught.of == of);
    let neck = season::per_cent(known);
    let season = Learned {
        of: Behaviour::Season,
        value: neck.slope,
        sigma: neck.sigma,
        usual: season::USUAL.slope,
        usual_sigma: season::USUAL.sigma,
        before: before(Behaviour::Season),
    };
    let states = Behaviour::all().filter_map(|of| {
        let (scale, x, sigma) = table(of, known.instrument())?;
        let at = at(of)?;
        let here = filter.x[at];
        let width = filter.p[(at, at)].max(0.0).sqrt();
        Some(Learned {
            of,
            value: scale.value(here),
            sigma: scale.slope(here) * width,
            usual: scale.value(x),
            usual_sigma: scale.slope(x) * sigma,
            before: before(of),
        })
    });
    states.chain([season]).collect()
}

/// What is kept of a visit for the next one, on the instrument as it is recorded then: what has become another part since
/// is left out.
pub fn kept(known: &Estimate, then: &Instrument) -> Vec<Taught> {
    let now = known.instrument();
    let same_bridge = now.bridge.family == then.bridge.family
        && now.bridge.saddles == then.bridge.saddles
        && now.strings == then.strings;
    let springs = |instrument: &Instrument| {
        let record = instrument.bridge.vibrato.as_ref();
        record.map(|record| record.rate_newtons_per_metre.to_bits())
    };
    let holds = |of: Behaviour| match of {
        Behaviour::Rod => now.neck.rod == then.neck.rod && now.kind == then.kind,
        Behaviour::Pull => now.strings == then.strings && now.kind == then.kind,
        Behaviour::HeightScrews | Behaviour::Drives | Behaviour::OwnEnd | Behaviour::Claw => {
            same_bridge
        }
        Behaviour::SpringRate => same_bridge && springs(now) == springs(then),
        Behaviour::Season => now.neck == then.neck && now.kind == then.kind,
    };
    of(known)
        .into_iter()
        .filter(|learned| learned.is_own() && holds(learned.of))
        .map(|learned| Taught {
            of: learned.of,
            value: rounded(learned.value),
            sigma: rounded(learned.sigma),
        })
        .filter(|taught| taught.check().is_ok())
        .collect()
}

/// To as many digits as are kept.
fn rounded(value: f64) -> f64 {
    if value == 0.0 || !value.is_finite() {
        return value;
    }
    let digits = DIGITS - 1 - value.abs().log10().floor() as i32;
    let power = 10f64.powi(digits);
    (value * power).round() / power
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn numbers_are_kept_with_four_digits() {
        assert_eq!(rounded(0.412_345), 0.4123);
        assert_eq!(rounded(1523.77), 1524.0);
        assert_eq!(rounded(0.0), 0.0);
    }

    #[test]
    fn a_number_goes_into_the_state_and_comes_back() {
        for logarithm in [true, false] {
            let scale = Scale {
                unit: 0.45,
                logarithm,
            };
            assert!((scale.value(scale.x(0.52)) - 0.52).abs() < 1e-12);
            // The slope against a finite difference.
            let (x, step) = (scale.x(0.52), 1e-6);
            let rise = (scale.value(x + step) - scale.value(x - step)) / (2.0 * step);
            assert!((rise - scale.slope(x)).abs() < 1e-8);
        }
    }
}
