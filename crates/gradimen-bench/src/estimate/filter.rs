//! A mean and a covariance: what every reading corrects and every move widens.
//!
//! An observation `y = h . x + noise` of variance `r` corrects by the gain `P h / (h . P h + r)` (Kalman 1960; any
//! textbook on estimation). Where `y` hangs on `x` by a curve, the observation is made anew at the place that it leads
//! to, a few times (iterated extended Kalman filter; Bell and Cathey 1993: the Gauss-Newton step of the same problem).
//! A finding that says no more than "not above" cuts the tail off a normal distribution; mean and variance of what is
//! left are put back (moments of the truncated normal distribution, any handbook of statistics).

use gradimen_core::probability::{density, share_below};
use nalgebra::{DMatrix, DVector};

/// A curve is followed until a round leads on by no more than this share of a standard deviation.
const SETTLED: f64 = 0.01;

/// ... and a round that led astray is halved so often.
const HALVED: usize = 6;

/// Unknowns with how well they are known together.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Filter {
    /// Their best values.
    pub(crate) x: DVector<f64>,
    /// Their covariance.
    pub(crate) p: DMatrix<f64>,
}

/// What a move does to the unknowns.
#[derive(Debug, Clone, PartialEq, Default)]
pub(crate) struct Change {
    /// By how much each goes.
    pub(crate) added: Vec<(usize, f64)>,
    /// How that hangs on others: which, on which, by how much.
    pub(crate) slopes: Vec<(usize, usize, f64)>,
    /// What nobody can know of it: directions, and one standard deviation along each.
    pub(crate) doubts: Vec<(Vec<(usize, f64)>, f64)>,
    /// One unknown that is worked out anew from all: which, its value, and its slopes.
    pub(crate) anew: Option<(usize, f64, DVector<f64>)>,
    /// How much further the claw goes, how that hangs on the unknowns, and what nobody can know of it.
    pub(crate) claw: (f64, Vec<(usize, f64)>, f64),
}

impl Change {
    /// Carries out the move on the best values alone.
    pub(crate) fn shift(&self, x: &mut DVector<f64>) {
        for &(at, by) in &self.added {
            x[at] += by;
        }
        if let Some((at, value, _)) = &self.anew {
            x[*at] = *value;
        }
    }

    /// What a slope after the move is before it: `F' h`; and the variance that the move itself adds along it.
    pub(crate) fn before(&self, h: &mut DVector<f64>) -> f64 {
        let mut variance = 0.0;
        for (along, sigma) in &self.doubts {
            let shown: f64 = along.iter().map(|&(at, by)| h[at] * by).sum();
            variance += (shown * sigma).powi(2);
        }
        let mut old = h.clone();
        for &(to, by, slope) in &self.slopes {
            old[by] += h[to] * slope;
        }
        if let Some((at, _, slopes)) = &self.anew {
            let shown = h[*at];
            old[*at] -= shown;
            old.axpy(shown, slopes, 1.0);
        }
        h.copy_from(&old);
        variance
    }
}

impl Filter {
    /// So many unknowns, all nought and perfectly known.
    pub(crate) fn new(size: usize) -> Self {
        Self {
            x: DVector::zeros(size),
            p: DMatrix::zeros(size, size),
        }
    }

    /// One scalar observation of slope `h`, off by `innovation`, with variance `r`.
    pub(crate) fn observe(&mut self, h: &DVector<f64>, innovation: f64, r: f64) {
        let ph = self.times(h);
        let spread = h.dot(&ph) + r;
        self.x.axpy(innovation / spread, &ph, 1.0);
        // One vector on both sides: what is symmetric stays so.
        self.p.ger(-1.0 / spread, &ph, &ph, 1.0);
    }

    /// An observation on a curve: `look` says the value and the slope at a place, `read` is off by `r`; in no more than
    /// so many rounds, and no fewer than it takes.
    pub(crate) fn observe_curve<E>(
        &mut self,
        rounds: usize,
        read: f64,
        r: f64,
        mut look: impl FnMut(&DVector<f64>) -> Result<(f64, DVector<f64>), E>,
    ) -> Result<(), E> {
        let before = self.x.clone();
        let mut last = (self.x.clone(), f64::INFINITY);
        for round in 1..=rounds {
            let (mut value, mut h) = look(&self.x)?;
            // A round that led further away from what was read is gone back on, by halves.
            for _ in 0..HALVED {
                if (read - value).abs() <= last.1 {
                    break;
                }
                self.x += &last.0;
                self.x *= 0.5;
                (value, h) = look(&self.x)?;
            }
            last = (self.x.clone(), (read - value).abs());
            let innovation = read - value + h.dot(&(&self.x - &before));
            let ph = self.times(&h);
            let spread = h.dot(&ph) + r;
            let gain = innovation / spread;
            // How far this round leads from the last, as the reading sees it.
            let led = h.dot(&(&before - &self.x)) + gain * h.dot(&ph);
            self.x.copy_from(&before);
            self.x.axpy(gain, &ph, 1.0);
            if round == rounds || led.abs() < SETTLED * spread.sqrt() {
                self.p.ger(-1.0 / spread, &ph, &ph, 1.0);
                return Ok(());
            }
        }
        Ok(())
    }

    /// A finding that `value`, of slope `h`, is not above `limit`, told within `blur`.
    pub(crate) fn observe_below(&mut self, h: &DVector<f64>, value: f64, limit: f64, blur: f64) {
        let ph = self.times(h);
        let own = h.dot(&ph);
        let spread = own + blur * blur;
        let sigma = spread.sqrt();
        if sigma <= 0.0 {
            return;
        }
        let alpha = (limit - value) / sigma;
        // Deep in the tail the ratio of density to share is the distance itself.
        let hazard = if alpha < -8.0 {
            -alpha
        } else {
            density(alpha) / share_below(alpha)
        };
        let shift = -sigma * hazard;
        let kept = (1.0 - hazard * (hazard + alpha)).clamp(0.0, 1.0);
        self.x.axpy(shift / spread, &ph, 1.0);
        self.p.ger(-(1.0 - kept) / spread, &ph, &ph, 1.0);
    }

    /// `P h`: a reading hangs on a dozen unknowns of sixty, and what is nought is left out.
    fn times(&self, h: &DVector<f64>) -> DVector<f64> {
        let mut found = DVector::zeros(h.len());
        for (index, by) in h.iter().enumerate().filter(|(_, by)| **by != 0.0) {
            found.axpy(*by, &self.p.column(index), 1.0);
        }
        found
    }

    /// Variance of `h . x`.
    pub(crate) fn variance_along(&self, h: &DVector<f64>) -> f64 {
        h.dot(&self.times(h)).max(0.0)
    }

    /// Forgets what is known of one unknown.
    pub(crate) fn reset(&mut self, index: usize, value: f64, sigma: f64) {
        self.x[index] = value;
        self.p.row_mut(index).fill(0.0);
        self.p.column_mut(index).fill(0.0);
        self.p[(index, index)] = sigma * sigma;
    }

    /// Something that nobody can know works along a direction.
    pub(crate) fn doubt(&mut self, along: &[(usize, f64)], sigma: f64) {
        for &(a, by) in along {
            for &(b, with) in along {
                self.p[(a, b)] += sigma * sigma * by * with;
            }
        }
    }

    /// Adds to one unknown what another one scales: the row of `to` takes `slope` times that of `by`.
    fn carry(&mut self, to: usize, by: usize, slope: f64) {
        let row = self.p.row(by) * slope;
        for column in 0..self.x.len() {
            self.p[(to, column)] += row[column];
        }
        let column = self.p.column(by) * slope;
        for row in 0..self.x.len() {
            self.p[(row, to)] += column[row];
        }
    }

    /// Takes a move in: `F P F' + Q`.
    pub(crate) fn change(&mut self, change: &Change) {
        if let Some((at, _, slopes)) = &change.anew {
            let with = self.times(slopes);
            let own = slopes.dot(&with);
            for index in 0..self.x.len() {
                self.p[(*at, index)] = with[index];
                self.p[(index, *at)] = with[index];
            }
            self.p[(*at, *at)] = own;
        }
        change.shift(&mut self.x);
        for &(to, by, slope) in &change.slopes {
            self.carry(to, by, slope);
        }
        for (along, sigma) in &change.doubts {
            self.doubt(along, *sigma);
        }
    }

    /// A slope with these parts.
    pub(crate) fn unit(&self, parts: &[(usize, f64)]) -> DVector<f64> {
        let mut h = DVector::zeros(self.x.len());
        for &(index, value) in parts {
            h[index] += value;
        }
        h
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn two_readings_of_one_thing_average() {
        let mut filter = Filter::new(1);
        filter.reset(0, 0.0, 1e3);
        for reading in [1.0, 2.0] {
            let h = filter.unit(&[(0, 1.0)]);
            filter.observe(&h, reading - filter.x[0], 1.0);
        }
        assert!((filter.x[0] - 1.5).abs() < 1e-5);
        assert!((filter.p[(0, 0)] - 0.5).abs() < 1e-5);
    }

    #[test]
    fn a_move_is_the_textbook_step() {
        // x0 += 3 x1 by F P F' + Q.
        let mut filter = Filter::new(2);
        filter.p = DMatrix::from_row_slice(2, 2, &[4.0, 1.0, 1.0, 2.0]);
        filter.x = DVector::from_column_slice(&[1.0, 0.5]);
        let f = DMatrix::from_row_slice(2, 2, &[1.0, 3.0, 0.0, 1.0]);
        let q = DMatrix::from_row_slice(2, 2, &[0.25, 0.0, 0.0, 0.0]);
        let expected = &f * &filter.p * f.transpose() + q;
        filter.change(&Change {
            added: vec![(0, 1.5)],
            slopes: vec![(0, 1, 3.0)],
            doubts: vec![(vec![(0, 1.0)], 0.5)],
            ..Change::default()
        });
        assert!((&filter.p - expected).norm() < 1e-12);
        assert_eq!(filter.x[0], 2.5);
    }

    #[test]
    fn a_curve_is_solved_as_gauss_newton_does() {
        // x about 1 within 1; x^3 reads 8 within 0.1. SciPy: least_squares(lambda x: [x - 1, (x**3 - 8) / 0.1], 1)
        // gives 1.9999306.
        let mut filter = Filter::new(1);
        filter.reset(0, 1.0, 1.0);
        filter
            .observe_curve(12, 8.0, 0.01, |x| {
                Ok::<_, ()>((x[0].powi(3), DVector::from_element(1, 3.0 * x[0].powi(2))))
            })
            .unwrap();
        assert!((filter.x[0] - 1.999_930_6).abs() < 1e-6, "{}", filter.x[0]);
    }

    #[test]
    fn what_is_not_above_is_cut_off() {
        // The standard normal below nought: mean -sqrt(2/pi), variance 1 - 2/pi (half-normal distribution).
        let mut filter = Filter::new(1);
        filter.reset(0, 0.0, 1.0);
        let h = filter.unit(&[(0, 1.0)]);
        filter.observe_below(&h, 0.0, 0.0, 0.0);
        assert!((filter.x[0] + (2.0 / std::f64::consts::PI).sqrt()).abs() < 1e-9);
        assert!((filter.p[(0, 0)] - 1.0 + 2.0 / std::f64::consts::PI).abs() < 1e-9);
        // Far away from its limit it says nothing, and far beyond it nothing breaks.
        let mut far = Filter::new(1);
        far.reset(0, -30.0, 1.0);
        far.observe_below(&h, -30.0, 0.0, 0.1);
        assert!((far.x[0] + 30.0).abs() < 1e-9);
        let mut beyond = Filter::new(1);
        beyond.reset(0, 40.0, 1.0);
        beyond.observe_below(&h, 40.0, 0.0, 0.1);
        assert!(beyond.x[0].abs() < 1.0 && beyond.p[(0, 0)] >= 0.0);
    }
}
