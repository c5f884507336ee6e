//! How damp a room is over the year, from a few days on which somebody looked, and what a neck does with it.
//!
//! Humidity is taken as a level and one wave a year, `h(t) = m + a cos(2 pi t) + b sin(2 pi t)`, with wide beliefs before
//! anything is noted: Bayesian linear regression with known noise (any textbook on statistics). How much a neck bends per cent is
//! one number, learned from what it did between visits.
//!
//! ```
//! use gradimen_core::season::{Noted, Year};
//!
//! let year = Year::of(&[Noted { day: 0.0, percent: 35.0 }, Noted { day: 182.0, percent: 62.0 }]);
//! // Dry when the year begins, damp in its middle, and dry again.
//! assert!(year.at(0.0).0 < year.at(180.0).0 && year.at(365.0).0 < year.at(180.0).0);
//! ```

use nalgebra::{Matrix3, Vector3};

use crate::probability::share_below;

/// A day on which somebody looked, counted from any day, and what the meter showed, in per cent.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Noted {
    /// Days since any fixed one.
    pub day: f64,
    /// Relative humidity.
    pub percent: f64,
}

/// The level a room usually has, and how far rooms differ; how far a wave goes either way (from memory: 30 % in a heated
/// winter, 60 % in summer; which way round nobody says).
const LEVEL: (f64, f64) = (48.0, 10.0);
const WAVE: f64 = 12.0;
/// Weather from day to day, and the meter (from memory).
const DAY: f64 = 6.0;
const DAYS: f64 = 365.25;

/// What is believed of a room's year.
#[derive(Debug, Clone, PartialEq)]
pub struct Year {
    mean: Vector3<f64>,
    spread: Matrix3<f64>,
}

fn waves(day: f64) -> Vector3<f64> {
    let turn = day / DAYS * std::f64::consts::TAU;
    Vector3::new(1.0, turn.cos(), turn.sin())
}

impl Year {
    /// From what was noted, in any order.
    pub fn of(noted: &[Noted]) -> Self {
        let mut year = Self {
            mean: Vector3::new(LEVEL.0, 0.0, 0.0),
            spread: Matrix3::from_diagonal(&Vector3::new(
                LEVEL.1 * LEVEL.1,
                WAVE * WAVE,
                WAVE * WAVE,
            )),
        };
        for noted in noted {
            let along = waves(noted.day);
            let with = year.spread * along;
            let total = DAY.mul_add(DAY, along.dot(&with));
            year.mean += with * ((noted.percent - along.dot(&year.mean)) / total);
            year.spread -= with * with.transpose() / total;
        }
        year
    }

    /// What the room will show in the mean on a day, and one standard deviation of that, weather left out.
    pub fn at(&self, day: f64) -> (f64, f64) {
        let along = waves(day);
        let variance = along.dot(&(self.spread * along)).max(0.0);
        (along.dot(&self.mean), variance.sqrt())
    }

    /// How much damper it will be on one day than on another, and one standard deviation of that, weather left out.
    pub fn change(&self, from: f64, to: f64) -> (f64, f64) {
        let along = waves(to) - waves(from);
        let variance = along.dot(&(self.spread * along)).max(0.0);
        (along.dot(&self.mean), variance.sqrt())
    }
}

/// How a number hangs on humidity: by how much it grows per cent, and one standard deviation of that.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct PerCent {
    /// Mean.
    pub slope: f64,
    /// One standard deviation.
    pub sigma: f64,
}

impl PerCent {
    /// Takes in what happened between two looks: it grew by so much, known to one standard deviation, while the room became damper by
    /// so many per cent.
    #[must_use]
    pub fn seen(self, grew: f64, sigma: f64, damper: f64) -> Self {
        let prior = self.sigma * self.sigma;
        let total = prior.mul_add(damper * damper, sigma * sigma);
        if total <= 0.0 {
            return self;
        }
        let gain = prior * damper / total;
        Self {
            slope: self.slope + gain * (grew - self.slope * damper),
            sigma: (prior * (1.0 - gain * damper)).max(0.0).sqrt(),
        }
    }
}

/// How probable it is, day by day, that what lies `off` its target today lies outside a tolerance on a later day.
pub fn outside(
    year: &Year,
    per: PerCent,
    (today, later): (f64, f64),
    (off, sigma): (f64, f64),
    tolerance: f64,
) -> f64 {
    let (damper, unsure) = year.change(today, later);
    let mean = per.slope.mul_add(damper, off);
    // A product of two doubtful numbers.
    let moved = per.sigma.powi(2) * (damper * damper + unsure * unsure)
        + per.slope.powi(2) * unsure * unsure;
    let wide = sigma.mul_add(sigma, moved).sqrt().max(1e-12);
    1.0 - (share_below((tolerance - mean) / wide) - share_below((-tolerance - mean) / wide))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_note_moves_the_belief_as_the_textbook_says() {
        // Worked by hand: on day 0 the waves are (1, 1, 0); variance of what is expected 100 + 144 = 244, with the day's 36:
        // 280. 62 % is 14 more than 48: level + 100/280 * 14 = 53, wave + 144/280 * 14 = 7.2.
        let year = Year::of(&[Noted {
            day: 0.0,
            percent: 62.0,
        }]);
        assert!((year.mean[0] - 53.0).abs() < 1e-9 && (year.mean[1] - 7.2).abs() < 1e-9);
        assert!(year.mean[2].abs() < 1e-12);
        let (mean, sigma) = year.at(0.0);
        assert!((mean - 60.2).abs() < 1e-9);
        // 244 - 244^2 / 280.
        assert!((sigma * sigma - (244.0 - 244.0 * 244.0 / 280.0)).abs() < 1e-9);
    }

    #[test]
    fn many_notes_of_one_year_give_it_back() {
        // A year of its own: 45 + 14 cos - 3 sin, looked at every ten days for three years, exact.
        let truth = |day: f64| {
            let turn = day / 365.25 * std::f64::consts::TAU;
            45.0 + 14.0 * turn.cos() - 3.0 * turn.sin()
        };
        let noted: Vec<Noted> = (0..110)
            .map(|at| f64::from(at) * 10.0)
            .map(|day| Noted {
                day,
                percent: truth(day),
            })
            .collect();
        let year = Year::of(&noted);
        for day in [0.0, 90.0, 200.0, 300.0, 1200.0] {
            assert!((year.at(day).0 - truth(day)).abs() < 0.4, "{day}");
        }
    }

    #[test]
    fn a_neck_that_moved_says_by_how_much_per_cent() {
        let before = PerCent {
            slope: 0.0,
            sigma: 0.006,
        };
        // Worked by hand: 0.12 mm over 20 %, read to 0.03: prior 3.6e-5, total 3.6e-5 * 400 + 9e-4 = 0.0153,
        // gain 7.2e-4 / 0.0153 = 0.047059, slope 0.005647, variance 3.6e-5 * (1 - 0.941176).
        let after = before.seen(0.12, 0.03, 20.0);
        assert!((after.slope - 0.005_647).abs() < 1e-6, "{after:?}");
        assert!((after.sigma.powi(2) - 3.6e-5 * (1.0 - 0.941_176)).abs() < 1e-10);
        // In a room that stayed as it was it tells nothing of humidity.
        assert_eq!(before.seen(0.12, 0.03, 0.0), before);
    }

    #[test]
    fn a_neck_that_does_not_move_stays_inside() {
        let noted: Vec<Noted> = (0..12)
            .map(|at| Noted {
                day: f64::from(at) * 91.0,
                percent: if at % 4 < 2 { 35.0 } else { 60.0 },
            })
            .collect();
        let year = Year::of(&noted);
        let moves = PerCent {
            slope: 0.008,
            sigma: 0.001,
        };
        let still = PerCent {
            slope: 0.0,
            sigma: 0.000_1,
        };
        let out = |per, later| outside(&year, per, (0.0, later), (0.0, 0.01), 0.05);
        assert!(out(still, 180.0) < 0.01);
        assert!(out(moves, 180.0) > 0.8);
        // A year later it is back where it was.
        assert!(out(moves, 365.25) < 0.01);
    }
}
