//! Fret survey: how high every fret stands under every string, from a rocker laid on three frets at a time.
//!
//! Each top deviates from the board's line by what the whole fret does and by what it does under this one string; a rocker shows
//! how far the middle of three stands over the chord of its neighbours, in steps only: still, a little, clearly. A step is an interval:
//! the distribution is cut to it and its first two moments are kept (assumed-density filtering; the truncated normal's moments are
//! in any handbook of distributions, from memory).
//!
//! ```
//! use gradimen_core::quantity::Length;
//! use gradimen_core::survey::{Rock, Survey};
//!
//! let places: Vec<Length> = (0..6).map(|fret| Length::from_mm(f64::from(fret) * 20.0)).collect();
//! let mut survey = Survey::new(&[places])?;
//! survey.rocked(0, 3, Rock::Clear)?;
//! let high = survey.high(0, 3)?;
//! assert!(high.share > 0.9 && high.by.mm() > 0.03);
//! # Ok::<(), gradimen_core::survey::SurveyError>(())
//! ```

use nalgebra::{DMatrix, DVector};
use thiserror::Error;

use crate::probability::{density, share_below};
use crate::quantity::Length;

/// What a whole fret deviates by, and what it does besides under one string: together 0.015 mm (common practice).
const FRET_MM: f64 = 0.012;
const STRING_MM: f64 = 0.009;
/// A rocker is laid and looked at to this (from memory).
const HAND_MM: f64 = 0.006;
/// Under this it stands still; over that it is seen to rock clearly (from memory: a thousandth is felt, two are seen).
const FELT_MM: f64 = 0.018;
const SEEN_MM: f64 = 0.045;
/// A fret that stands this far over its neighbours is high: a light setup touches it.
pub const HIGH_MM: f64 = 0.025;

/// What a rocker does.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Rock {
    /// It stands still.
    None,
    /// It is felt to rock.
    Slight,
    /// It is seen to rock.
    Clear,
}

impl Rock {
    /// Every one.
    pub const ALL: [Self; 3] = [Self::None, Self::Slight, Self::Clear];

    /// Between which heights over its neighbours the middle fret stands, in millimetres.
    const fn between(self) -> (f64, f64) {
        match self {
            Self::None => (f64::NEG_INFINITY, FELT_MM),
            Self::Slight => (FELT_MM, SEEN_MM),
            Self::Clear => (SEEN_MM, f64::INFINITY),
        }
    }
}

/// Why there is no survey.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum SurveyError {
    /// A board with no strings, or strings of fewer than three frets or unlike numbers of them.
    #[error("a survey needs strings over three frets or more, all over as many")]
    Board,
    /// A fret without one on either side, or a string that is not there.
    #[error("no rocker stands there: it needs a fret on either side")]
    NoPlace,
}

/// How high a fret stands over its neighbours.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct High {
    /// By how much.
    pub by: Length,
    /// One standard deviation of that.
    pub sigma: Length,
    /// How probable it is that this is more than [`HIGH_MM`].
    pub share: f64,
}

/// What is known of the tops.
#[derive(Debug, Clone, PartialEq)]
pub struct Survey {
    places: Vec<Vec<f64>>,
    frets: usize,
    mean: DVector<f64>,
    spread: DMatrix<f64>,
}

impl Survey {
    /// Of a board: for every string, where its frets lie from the nut; the frets are counted from 0 here.
    ///
    /// # Errors
    /// [`SurveyError::Board`].
    pub fn new(places: &[Vec<Length>]) -> Result<Self, SurveyError> {
        let frets = places.first().map_or(0, Vec::len);
        let unlike = places.iter().any(|string| string.len() != frets);
        let rising = |string: &Vec<Length>| string.windows(2).all(|pair| pair[0] < pair[1]);
        if frets < 3 || unlike || !places.iter().all(rising) {
            return Err(SurveyError::Board);
        }
        let size = places.len() * frets;
        let spread = DMatrix::from_fn(size, size, |row, column| {
            let same_fret = row % frets == column % frets;
            let shared = if same_fret { FRET_MM * FRET_MM } else { 0.0 };
            shared
                + if row == column {
                    STRING_MM * STRING_MM
                } else {
                    0.0
                }
        });
        Ok(Self {
            places: places
                .iter()
                .map(|string| string.iter().map(|place| place.mm()).collect())
                .collect(),
            frets,
            mean: DVector::zeros(size),
            spread,
        })
    }

    const fn at(&self, string: usize, fret: usize) -> usize {
        string * self.frets + fret
    }

    /// The three tops a rocker stands on, with their weights in how far the middle one stands over the others' chord.
    fn chord(&self, string: usize, fret: usize) -> Result<[(usize, f64); 3], SurveyError> {
        let places = self.places.get(string).ok_or(SurveyError::NoPlace)?;
        if fret == 0 || fret + 1 >= self.frets {
            return Err(SurveyError::NoPlace);
        }
        let (before, here, after) = (places[fret - 1], places[fret], places[fret + 1]);
        let nearer = (after - here) / (after - before);
        Ok([
            (self.at(string, fret - 1), -nearer),
            (self.at(string, fret), 1.0),
            (self.at(string, fret + 1), nearer - 1.0),
        ])
    }

    /// Mean and variance of that height.
    fn over(&self, chord: &[(usize, f64); 3]) -> (f64, f64) {
        let mean = chord
            .iter()
            .map(|(at, weight)| self.mean[*at] * weight)
            .sum();
        let variance = chord
            .iter()
            .flat_map(|(row, one)| {
                chord
                    .iter()
                    .map(move |(column, other)| self.spread[(*row, *column)] * one * other)
            })
            .sum();
        (mean, variance)
    }

    /// Takes in what a rocker did with its middle on a fret.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn rocked(&mut self, string: usize, fret: usize, seen: Rock) -> Result<(), SurveyError> {
        self.cut(string, fret, seen.between(), HAND_MM)
    }

    /// Takes in a buzz that a fret causes to a note held just behind it: it stands higher than it should, by a looser word than a
    /// rocker's.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn buzzed(&mut self, string: usize, fret: usize) -> Result<(), SurveyError> {
        /// A buzz may have other causes: relief, action, the hand.
        const OTHER_CAUSES_MM: f64 = 0.02;
        self.cut(string, fret, (FELT_MM, f64::INFINITY), OTHER_CAUSES_MM)
    }

    /// Takes in a length that hangs on some tops, each with its weight (string, fret, weight), read with one standard deviation.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn measured(
        &mut self,
        tops: &[(usize, usize, f64)],
        value: Length,
        sigma: Length,
    ) -> Result<(), SurveyError> {
        let mut weights = DVector::zeros(self.mean.len());
        for &(string, fret, weight) in tops {
            if string >= self.places.len() || fret >= self.frets {
                return Err(SurveyError::NoPlace);
            }
            weights[self.at(string, fret)] += weight;
        }
        let along = &self.spread * &weights;
        // The doubt of a reading is never nothing.
        let total = weights.dot(&along) + sigma.mm().max(1e-3).powi(2);
        let gain = along / total;
        self.mean += &gain * (value.mm() - weights.dot(&self.mean));
        self.spread -= &gain * gain.transpose() * total;
        Ok(())
    }

    /// Something happened to one top by itself that no prior speaks of, such as wear: by so much, one standard deviation.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn doubted(&mut self, string: usize, fret: usize, by: Length) -> Result<(), SurveyError> {
        if string >= self.places.len() || fret >= self.frets {
            return Err(SurveyError::NoPlace);
        }
        let at = self.at(string, fret);
        self.spread[(at, at)] += by.mm().powi(2);
        Ok(())
    }

    /// Takes in the gap under a straight edge, or a straight string, that rests on two tops, over a third between them, less what the
    /// bend of the neck shows there.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn edged(
        &mut self,
        string: usize,
        (low, at, high): (usize, usize, usize),
        gap: Length,
        sigma: Length,
    ) -> Result<(), SurveyError> {
        let places = self.places.get(string).ok_or(SurveyError::NoPlace)?;
        if low >= at || at >= high || high >= self.frets {
            return Err(SurveyError::NoPlace);
        }
        let share = (places[at] - places[low]) / (places[high] - places[low]);
        let tops = [
            (string, low, 1.0 - share),
            (string, high, share),
            (string, at, -1.0),
        ];
        self.measured(&tops, gap, sigma)
    }

    /// Cuts the height over the neighbours, as a hand reads it, to an interval.
    fn cut(
        &mut self,
        string: usize,
        fret: usize,
        (low, high): (f64, f64),
        hand: f64,
    ) -> Result<(), SurveyError> {
        let chord = self.chord(string, fret)?;
        let (mean, variance) = self.over(&chord);
        let total = hand.mul_add(hand, variance);
        let (moved, shrunk) = truncated(mean, total.sqrt(), low, high);
        let mut along = DVector::zeros(self.mean.len());
        for (at, weight) in chord {
            along += self.spread.column(at) * weight;
        }
        let gain = &along / total;
        self.mean += &gain * (moved - mean);
        self.spread -= &gain * gain.transpose() * (total - shrunk);
        Ok(())
    }

    /// How far a top deviates from the line of the board, and one standard deviation of that.
    pub fn top(&self, string: usize, fret: usize) -> Option<(Length, Length)> {
        let at =
            (string < self.places.len() && fret < self.frets).then(|| self.at(string, fret))?;
        let sigma = self.spread[(at, at)].max(0.0).sqrt();
        Some((Length::from_mm(self.mean[at]), Length::from_mm(sigma)))
    }

    /// How high a fret stands over its neighbours.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn high(&self, string: usize, fret: usize) -> Result<High, SurveyError> {
        let (mean, variance) = self.over(&self.chord(string, fret)?);
        let sigma = variance.max(1e-12).sqrt();
        Ok(High {
            by: Length::from_mm(mean),
            sigma: Length::from_mm(sigma),
            share: 1.0 - share_below((HIGH_MM - mean) / sigma),
        })
    }

    /// How much one more rock there would tell, in nats: the doubt of what it will do, without what the hand scatters by.
    ///
    /// # Errors
    /// [`SurveyError::NoPlace`].
    pub fn would_tell(&self, string: usize, fret: usize) -> Result<f64, SurveyError> {
        let (mean, variance) = self.over(&self.chord(string, fret)?);
        let doubt = |sigma: f64| -> f64 {
            let share = |seen: Rock| {
                let (low, high) = seen.between();
                (share_below((high - mean) / sigma) - share_below((low - mean) / sigma)).max(0.0)
            };
            let terms = Rock::ALL.map(share);
            -terms
                .iter()
                .filter(|share| **share > 0.0)
                .map(|share| share * share.ln())
                .sum::<f64>()
        };
        Ok((doubt(HAND_MM.mul_add(HAND_MM, variance.max(0.0)).sqrt()) - doubt(HAND_MM)).max(0.0))
    }
}

/// Mean and variance of a normal distribution cut to an interval. Where next to nothing of it lies inside, it goes to the nearest end.
fn truncated(mean: f64, sigma: f64, low: f64, high: f64) -> (f64, f64) {
    let (a, b) = ((low - mean) / sigma, (high - mean) / sigma);
    let inside = share_below(b) - share_below(a);
    if inside < 1e-9 {
        let end = if mean < low { low } else { high };
        return (end, 1e-2 * sigma * sigma);
    }
    let at = |x: f64| if x.is_finite() { density(x) } else { 0.0 };
    let times = |x: f64| if x.is_finite() { x * density(x) } else { 0.0 };
    let shift = (at(a) - at(b)) / inside;
    let shrink = 1.0 + (times(a) - times(b)) / inside - shift * shift;
    (
        sigma.mul_add(shift, mean),
        sigma * sigma * shrink.clamp(1e-3, 1.0),
    )
}

#[cfg(test)]
mod tests {
    use super::*;

    fn board(strings: usize, frets: u8) -> Survey {
        let string: Vec<Length> = (1..=frets)
            .map(|fret| crate::fretboard::fret_position(Length::from_mm(648.0), fret))
            .collect();
        Survey::new(&vec![string; strings]).unwrap()
    }

    #[test]
    fn a_truncated_normal_has_the_handbooks_moments() {
        // Half a standard normal: mean sqrt(2/pi), variance 1 - 2/pi.
        let (mean, variance) = truncated(0.0, 1.0, 0.0, f64::INFINITY);
        assert!((mean - (2.0 / std::f64::consts::PI).sqrt()).abs() < 1e-12);
        assert!((variance - (1.0 - 2.0 / std::f64::consts::PI)).abs() < 1e-12);
        // Far outside it goes to the nearest end and stays a number.
        let (mean, variance) = truncated(0.0, 0.01, 1.0, f64::INFINITY);
        assert!((mean - 1.0).abs() < 1e-12 && variance > 0.0);
    }

    #[test]
    fn the_middle_is_high_and_not_its_neighbours() {
        let mut survey = board(6, 22);
        survey.rocked(2, 9, Rock::Clear).unwrap();
        let here = survey.high(2, 9).unwrap();
        assert!(here.share > 0.9);
        for other in [7, 8, 10, 11] {
            assert!(survey.high(2, other).unwrap().share < 0.2, "{other}");
        }
        // A high fret is likely to be high under the next string too, and one that stands still there says it is not.
        let beside = survey.high(3, 9).unwrap().share;
        assert!(beside > 0.3 && beside < here.share);
        survey.rocked(3, 9, Rock::None).unwrap();
        assert!(survey.high(3, 9).unwrap().share < 0.1);
        assert!(survey.high(2, 9).unwrap().share > 0.7);
    }

    #[test]
    fn a_rock_tells_most_where_least_is_known() {
        let mut survey = board(6, 22);
        let fresh = survey.would_tell(0, 4).unwrap();
        survey.rocked(0, 4, Rock::None).unwrap();
        assert!(survey.would_tell(0, 4).unwrap() < fresh);
        assert!(survey.would_tell(5, 15).unwrap() > survey.would_tell(0, 4).unwrap());
        // Beside a fret that rocks clearly nobody knows: the whole fret may be high, or only what is under that string.
        survey.rocked(1, 12, Rock::Clear).unwrap();
        assert!(survey.would_tell(2, 12).unwrap() > survey.would_tell(2, 5).unwrap());
    }

    #[test]
    fn a_gap_under_an_edge_is_taken_as_least_squares_take_it() {
        // One top under one string, three frets: mean and variance by the textbook formula, worked by hand.
        // Prior variance of each top 0.012^2 + 0.009^2 = 2.25e-4; the edge's weights at even thirds 1/2, 1/2, -1:
        // w P w = 2.25e-4 * 1.5 = 3.375e-4; read 0.03 under, with 0.01: total 4.375e-4; the middle moves by
        // -2.25e-4 / 4.375e-4 * 0.03 = -0.015429 mm and keeps 2.25e-4 - (2.25e-4)^2 / 4.375e-4 = 1.0929e-4.
        let places = [[10.0, 20.0, 30.0].map(Length::from_mm).to_vec()];
        let mut survey = Survey::new(&places).unwrap();
        survey
            .edged(0, (0, 1, 2), Length::from_mm(0.03), Length::from_mm(0.01))
            .unwrap();
        let (middle, sigma) = survey.top(0, 1).unwrap();
        assert!((middle.mm() + 0.015_429).abs() < 1e-6, "{middle:?}");
        assert!((sigma.mm().powi(2) - 1.092_9e-4).abs() < 1e-8);
        let (end, _) = survey.top(0, 0).unwrap();
        assert!((end.mm() - 0.007_714).abs() < 1e-6);
        assert_eq!(
            survey.edged(0, (1, 1, 2), Length::ZERO, Length::ZERO),
            Err(SurveyError::NoPlace)
        );
        assert!(
            survey
                .measured(&[(0, 9, 1.0)], Length::ZERO, Length::ZERO)
                .is_err()
        );
    }

    #[test]
    fn there_is_no_rocker_at_the_ends_nor_on_half_a_board() {
        let mut survey = board(4, 20);
        for (string, fret) in [(0, 0), (0, 19), (4, 5), (0, 99)] {
            assert_eq!(
                survey.rocked(string, fret, Rock::None),
                Err(SurveyError::NoPlace)
            );
            assert!(survey.high(string, fret).is_err());
        }
        assert!(survey.top(0, 20).is_none());
        assert_eq!(Survey::new(&[]), Err(SurveyError::Board));
        let backwards = [3.0, 2.0, 1.0].map(Length::from_mm).to_vec();
        assert_eq!(Survey::new(&[backwards]), Err(SurveyError::Board));
    }

    #[test]
    fn contradictions_stay_numbers() {
        let mut survey = board(1, 12);
        for _ in 0..50 {
            survey.rocked(0, 5, Rock::Clear).unwrap();
            survey.rocked(0, 5, Rock::None).unwrap();
            survey.buzzed(0, 6).unwrap();
        }
        for fret in 0..12 {
            let (top, sigma) = survey.top(0, fret).unwrap();
            assert!(top.mm().is_finite() && sigma.mm().is_finite());
        }
    }
}
