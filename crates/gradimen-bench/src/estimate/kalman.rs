//! The Kalman filter that both estimates run on: a mean, a covariance, scalar observations.
//!
//! An observation `y = h . x + noise` of variance `r` corrects by the gain `P h / (h . P h + r)`
//! (Kalman 1960; any textbook on estimation). Moves add to the mean and widen the covariance.

use nalgebra::{DMatrix, DVector};

/// Unknowns with how well they are known together.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Filter {
    /// Their best values.
    pub(crate) x: DVector<f64>,
    /// Their covariance.
    pub(crate) p: DMatrix<f64>,
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
        let ph = &self.p * h;
        let spread = h.dot(&ph) + r;
        self.x.axpy(innovation / spread, &ph, 1.0);
        // One vector on both sides: what is symmetric stays so.
        self.p.ger(-1.0 / spread, &ph, &ph, 1.0);
    }

    /// Variance of `h . x`.
    pub(crate) fn variance_along(&self, h: &DVector<f64>) -> f64 {
        h.dot(&(&self.p * h)).max(0.0)
    }

    /// Forgets what is known of one unknown.
    pub(crate) fn reset(&mut self, index: usize, value: f64, sigma: f64) {
        self.x[index] = value;
        self.p.row_mut(index).fill(0.0);
        self.p.column_mut(index).fill(0.0);
        self.p[(index, index)] = sigma * sigma;
    }

    /// Adds to one unknown what another one scales: `x[to] += factor(x[by]) * amount`, whose slope
    /// on `by` is `slope`.
    pub(crate) fn carry(&mut self, to: usize, by: usize, added: f64, slope: f64) {
        self.x[to] += added;
        let row = self.p.row(by) * slope;
        for column in 0..self.x.len() {
            self.p[(to, column)] += row[column];
        }
        let column = self.p.column(by) * slope;
        for row in 0..self.x.len() {
            self.p[(row, to)] += column[row];
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
    fn carrying_is_the_textbook_step() {
        // x0 += x1 * 3 by F P F'.
        let mut filter = Filter::new(2);
        filter.p = DMatrix::from_row_slice(2, 2, &[4.0, 1.0, 1.0, 2.0]);
        filter.x = DVector::from_column_slice(&[1.0, 0.5]);
        let f = DMatrix::from_row_slice(2, 2, &[1.0, 3.0, 0.0, 1.0]);
        let expected = &f * &filter.p * f.transpose();
        filter.carry(0, 1, 1.5, 3.0);
        assert!((&filter.p - expected).norm() < 1e-12);
        assert_eq!(filter.x[0], 2.5);
    }
}
