//! Which of saddle, nut and finger is to blame when several frets were read.
//!
//! Unknown are the place of the nut edge, the place of the saddle and the force of the finger; the
//! model of [`crate::intonation`] gives the error at each fret, linearised by differences and fitted by
//! least squares. A few readings cannot tell a heavy finger from a nut that stands back: both
//! make every fretted note sharp. Priors (a nut is cut to a few tenths, a finger presses with a
//! few newtons) keep the answer sober, and the widths say how much is known.
//!
//! ```
//! use gradimen_core::frets::{Blame, FretError, fit};
//! use gradimen_core::intonation::{Fingering, Heights, Speaking};
//! use gradimen_core::quantity::{Cents, Frequency, Length};
//! use gradimen_core::string::StringSpec;
//!
//! let string = Speaking::new(
//!     &StringSpec::plain(Length::from_thou(17.0))?,
//!     Frequency::from_hertz(196.0),
//!     Length::from_mm(648.0),
//!     Heights::new(Length::from_mm(0.5), Length::from_mm(1.75))?,
//!     Fingering::default(),
//! );
//! let right = string.setback_for(12, Cents::ZERO)?;
//! // Sharp everywhere, more and more up the neck: the saddle stands too far forward.
//! let read = |(fret, cents): (u8, f64)| FretError {
//!     fret,
//!     error: Cents::new(cents),
//!     sigma: Cents::new(0.3),
//! };
//! let readings = [(5, 4.5), (9, 6.5), (12, 9.0), (15, 12.0)].map(read);
//! let fit = fit(&string, right - Length::from_mm(2.0), &readings)?;
//! assert!(fit.blame == Blame::Saddle && fit.setback.value < right);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::intonation::{Fingering, IntonationError, Speaking};
use crate::quantity::{Cents, Estimate, Force, Length};
use crate::solve::least_squares;

/// True error at one fret (harmonic already corrected) and its one standard deviation.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct FretError {
    /// The fret.
    pub fret: u8,
    /// How sharp it is.
    pub error: Cents,
    /// How well that is known.
    pub sigma: Cents,
}

/// Who is to blame for what a saddle cannot cure.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Blame {
    /// The saddle alone: when it is right, so are the others.
    Saddle,
    /// The nut: low frets stay sharp or flat when the twelfth is right.
    Nut,
    /// The finger presses harder or lighter than it should.
    Finger,
    /// One fret stands alone: worn, high or misplaced.
    Fret(u8),
}

/// What the readings of several frets say together.
#[derive(Debug, Clone, PartialEq)]
pub struct FretFit {
    /// How far the nut edge stands toward the bridge (negative: away, all notes sharp).
    pub nut: Estimate<Length>,
    /// Where the saddle stands.
    pub setback: Estimate<Length>,
    /// How hard the finger presses.
    pub force: Estimate<Force>,
    /// Where the saddle belongs for a true twelfth.
    pub right_setback: Length,
    /// What remains at each fret read when the saddle is right.
    pub remaining: Vec<(u8, Cents)>,
    /// Who is to blame.
    pub blame: Blame,
}

/// A nut edge stands within this of its place, counting a slot too high as one standing away
/// (common practice: low frets off by several cents are met on every second instrument).
const NUT_SIGMA: Length = Length::from_mm(0.6);
/// A saddle may stand anywhere its screw reaches.
const SADDLE_SIGMA: Length = Length::from_mm(6.0);
/// A technician's own light finger varies by this about its usual force.
const FORCE_SIGMA: Force = Force::from_newtons(0.8);
/// An error smaller than this is nobody's fault (common practice: the ear forgives it in play).
const FORGIVEN: Cents = Cents::new(2.5);
/// A single fret off by so many of its standard deviations stands alone.
const ALONE: f64 = 3.0;
/// Gauss-Newton steps; the model is nearly linear, the second step changes hundredths.
const STEPS: usize = 4;
/// Least number of frets that says anything about three causes.
pub const FEWEST_FRETS: usize = 3;

/// Unknowns in the order of the fit: nut offset (mm), setback (mm), force (N).
type Unknowns = [f64; 3];

fn predicted(speaking: &Speaking, unknowns: &Unknowns, fret: u8) -> Result<f64, IntonationError> {
    let fingering = Fingering {
        force: Force::from_newtons(unknowns[2].max(0.0)),
        ..speaking.fingering()
    };
    speaking
        .with_nut_offset(Length::from_mm(unknowns[0]))
        .with_fingering(fingering)
        .error(fret, Length::from_mm(unknowns[1]))
        .map(Cents::value)
}

/// Fits nut, saddle and finger to the errors at several frets, starting from a saddle at `setback`.
///
/// # Errors
/// [`IntonationError::Solve`] with fewer than three frets, or when nothing fits.
pub fn fit(
    speaking: &Speaking,
    setback: Length,
    readings: &[FretError],
) -> Result<FretFit, IntonationError> {
    if readings.len() < FEWEST_FRETS {
        return Err(crate::solve::SolveError::Singular.into());
    }
    let prior: Unknowns = [0.0, setback.mm(), speaking.fingering().force.newtons()];
    let prior_sigma: Unknowns = [NUT_SIGMA.mm(), SADDLE_SIGMA.mm(), FORCE_SIGMA.newtons()];
    let nudge: Unknowns = [0.05, 0.05, 0.1];
    let mut unknowns = prior;
    let mut sigmas = prior_sigma;
    for _ in 0..STEPS {
        let mut rows = Vec::with_capacity(readings.len() + 3);
        let mut right = Vec::with_capacity(readings.len() + 3);
        for reading in readings {
            let sigma = reading.sigma.value();
            let here = predicted(speaking, &unknowns, reading.fret)?;
            let mut row = Vec::with_capacity(3);
            for (index, step) in nudge.iter().enumerate() {
                let mut moved = unknowns;
                moved[index] += step;
                row.push((predicted(speaking, &moved, reading.fret)? - here) / step / sigma);
            }
            rows.push(row);
            right.push((reading.error.value() - here) / sigma);
        }
        for index in 0..3 {
            let mut row = vec![0.0; 3];
            row[index] = 1.0 / prior_sigma[index];
            rows.push(row);
            right.push((prior[index] - unknowns[index]) / prior_sigma[index]);
        }
        let step = least_squares(&rows, &right)?;
        for (index, value) in step.values.iter().enumerate() {
            unknowns[index] += value;
            sigmas[index] = step.sigmas[index];
        }
        unknowns[2] = unknowns[2].max(0.0);
    }
    conclude(speaking, readings, unknowns, sigmas)
}

/// From the fitted unknowns to what remains and who is to blame.
fn conclude(
    speaking: &Speaking,
    readings: &[FretError],
    unknowns: Unknowns,
    sigmas: Unknowns,
) -> Result<FretFit, IntonationError> {
    let fitted = speaking
        .with_nut_offset(Length::from_mm(unknowns[0]))
        .with_fingering(Fingering {
            force: Force::from_newtons(unknowns[2]),
            ..speaking.fingering()
        });
    let right = fitted.setback_for(12, Cents::ZERO)?;
    // Even a faultless string is a little sharp low down and flat high up with its twelfth right;
    // only what goes beyond that is anybody's fault.
    let usual = speaking.setback_for(12, Cents::ZERO)?;
    let now = Length::from_mm(unknowns[1]);
    let mut remaining = Vec::with_capacity(readings.len());
    let mut alone: Option<(f64, u8)> = None;
    let mut worst = (Cents::ZERO, 12);
    for reading in readings {
        let (at_now, at_right) = (
            fitted.error(reading.fret, now)?,
            fitted.error(reading.fret, right)?,
        );
        let left = reading.error - at_now + at_right;
        remaining.push((reading.fret, left));
        let unusual = (at_right - speaking.error(reading.fret, usual)?).abs();
        if unusual > worst.0 {
            worst = (unusual, reading.fret);
        }
        let off = (reading.error - at_now).abs();
        let deviations = off.ratio(reading.sigma);
        if deviations > ALONE && off > FORGIVEN && alone.is_none_or(|(most, _)| deviations > most) {
            alone = Some((deviations, reading.fret));
        }
    }
    let blame = if let Some((_, fret)) = alone {
        Blame::Fret(fret)
    } else if worst.0 < FORGIVEN {
        Blame::Saddle
    } else {
        // Which of the two alone, with the saddle brought right for it, explains more there?
        let alone_at_worst = |one: Speaking| -> Result<Cents, IntonationError> {
            let place = one.setback_for(12, Cents::ZERO)?;
            one.error(worst.1, place)
        };
        let neither = alone_at_worst(*speaking)?;
        let nut = alone_at_worst(speaking.with_nut_offset(Length::from_mm(unknowns[0])))?;
        let finger = alone_at_worst(fitted.with_nut_offset(Length::ZERO))?;
        if (nut - neither).abs() >= (finger - neither).abs() {
            Blame::Nut
        } else {
            Blame::Finger
        }
    };
    Ok(FretFit {
        nut: Estimate::new(Length::from_mm(unknowns[0]), Length::from_mm(sigmas[0])),
        setback: Estimate::new(now, Length::from_mm(sigmas[1])),
        force: Estimate::new(
            Force::from_newtons(unknowns[2]),
            Force::from_newtons(sigmas[2]),
        ),
        right_setback: right,
        remaining,
        blame,
    })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::intonation::Heights;
    use crate::quantity::Frequency;
    use crate::string::StringSpec;

    const FRETS: [u8; 8] = [3, 5, 7, 9, 12, 15, 17, 19];

    fn plain_third() -> Speaking {
        Speaking::new(
            &StringSpec::plain(Length::from_thou(17.0)).unwrap(),
            Frequency::from_hertz(195.998),
            Length::from_mm(648.0),
            Heights::new(Length::from_mm(0.5), Length::from_mm(1.75)).unwrap(),
            Fingering::default(),
        )
    }

    /// Readings of an instrument whose nut and saddle stand elsewhere, pressed otherwise.
    fn readings(nut: f64, off: f64, force: f64) -> (Vec<FretError>, Length) {
        let string = plain_third();
        let right = string.setback_for(12, Cents::ZERO).unwrap();
        let unknowns = [nut, right.mm() + off, force];
        let errors = FRETS
            .iter()
            .map(|&fret| FretError {
                fret,
                error: Cents::new(predicted(&string, &unknowns, fret).unwrap()),
                sigma: Cents::new(0.3),
            })
            .collect();
        (errors, right)
    }

    #[test]
    fn a_saddle_out_of_place_is_the_saddles_fault() {
        let (errors, right) = readings(0.0, -2.0, 2.0);
        let fit = fit(&plain_third(), right, &errors).unwrap();
        assert_eq!(fit.blame, Blame::Saddle);
        assert!(
            (fit.setback.value - right + Length::from_mm(2.0))
                .abs()
                .mm()
                < 0.1
        );
        assert!(
            fit.remaining
                .iter()
                .all(|(_, cents)| cents.value().abs() < 3.0)
        );
    }

    #[test]
    fn a_nut_that_stands_back_is_the_nuts_fault() {
        let (errors, right) = readings(-1.5, 0.0, 2.0);
        let fit = fit(&plain_third(), right, &errors).unwrap();
        assert_eq!(fit.blame, Blame::Nut);
        assert!(fit.nut.value.mm() < -0.8, "{:?}", fit.nut);
        // With the twelfth right the low frets stay sharp.
        assert!(fit.remaining[0].1.value() > 1.5, "{:?}", fit.remaining);
    }

    #[test]
    fn one_fret_out_of_line_is_named() {
        let (mut errors, right) = readings(0.0, 0.5, 2.0);
        errors[2].error += Cents::new(9.0);
        let fit = fit(&plain_third(), right, &errors).unwrap();
        assert_eq!(fit.blame, Blame::Fret(7));
    }

    #[test]
    fn two_frets_cannot_tell_three_causes_apart() {
        let (errors, right) = readings(0.0, 0.5, 2.0);
        assert!(fit(&plain_third(), right, &errors[..2]).is_err());
    }

    #[test]
    fn the_fit_reproduces_what_it_was_given() {
        let (errors, right) = readings(-0.2, 1.0, 3.2);
        let fit = fit(&plain_third(), right, &errors).unwrap();
        let found = [
            fit.nut.value.mm(),
            fit.setback.value.mm(),
            fit.force.value.newtons(),
        ];
        for reading in &errors {
            let back = predicted(&plain_third(), &found, reading.fret).unwrap();
            assert!(
                (back - reading.error.value()).abs() < 0.1,
                "fret {}",
                reading.fret
            );
        }
    }
}
