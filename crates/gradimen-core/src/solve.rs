//! The one root finder and the one least-squares helper of the project.
//!
//! ```
//! use gradimen_core::solve::root;
//!
//! let found = root(0.0, 2.0, 1e-12, |x| x * x - 2.0)?;
//! assert!((found - 2f64.sqrt()).abs() < 1e-9);
//! # Ok::<(), gradimen_core::solve::SolveError>(())
//! ```

use nalgebra::{DMatrix, DVector};
use thiserror::Error;

/// Why a numerical search gave no answer.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum SolveError {
    /// The function has the same sign at both ends of the bracket.
    #[error("no solution between the limits of what can be built")]
    NotBracketed,
    /// The function gave something that is not a number.
    #[error("the model gave no number there")]
    NotFinite,
    /// The equations do not determine the unknowns.
    #[error("these readings do not determine the answer")]
    Singular,
}

/// Brent's method has converged or been bracketed to nothing well before this.
const MOST_STEPS: usize = 100;

/// Root of `f` between `low` and `high` by Brent's method, to within `tolerance`.
///
/// Source: R. P. Brent, *Algorithms for Minimization without Derivatives* (1973), chapter 4:
/// inverse quadratic interpolation guarded by bisection, so it never leaves the bracket.
///
/// # Errors
/// [`SolveError::NotBracketed`] when `f(low)` and `f(high)` share a sign,
/// [`SolveError::NotFinite`] when `f` is not a number on the way.
pub fn root(
    low: f64,
    high: f64,
    tolerance: f64,
    mut f: impl FnMut(f64) -> f64,
) -> Result<f64, SolveError> {
    let (mut a, mut b) = (low, high);
    let (mut fa, mut fb) = (f(a), f(b));
    if !fa.is_finite() || !fb.is_finite() {
        return Err(SolveError::NotFinite);
    }
    if fa == 0.0 {
        return Ok(a);
    }
    if fa * fb > 0.0 {
        return Err(SolveError::NotBracketed);
    }
    let (mut c, mut fc) = (a, fa);
    let mut step = b - a;
    let mut previous = step;
    for _ in 0..MOST_STEPS {
        if fc.abs() < fb.abs() {
            (a, b, c) = (b, c, b);
            (fa, fb, fc) = (fb, fc, fb);
        }
        let limit = 2.0 * f64::EPSILON * b.abs() + 0.5 * tolerance;
        let half = 0.5 * (c - b);
        if half.abs() <= limit || fb == 0.0 {
            return Ok(b);
        }
        if previous.abs() >= limit && fa.abs() > fb.abs() {
            let s = fb / fa;
            let (mut p, mut q) = if a == c {
                (2.0 * half * s, 1.0 - s)
            } else {
                let (q, r) = (fa / fc, fb / fc);
                (
                    s * (2.0 * half * q * (q - r) - (b - a) * (r - 1.0)),
                    (q - 1.0) * (r - 1.0) * (s - 1.0),
                )
            };
            if p > 0.0 {
                q = -q;
            }
            p = p.abs();
            let accepted = 2.0 * p < (3.0 * half * q - (limit * q).abs()).min((previous * q).abs());
            previous = if accepted { step } else { half };
            step = if accepted { p / q } else { half };
        } else {
            step = half;
            previous = half;
        }
        (a, fa) = (b, fb);
        b += if step.abs() > limit {
            step
        } else {
            limit.copysign(half)
        };
        fb = f(b);
        if !fb.is_finite() {
            return Err(SolveError::NotFinite);
        }
        if (fb > 0.0) == (fc > 0.0) {
            (c, fc) = (a, fa);
            step = b - a;
            previous = step;
        }
    }
    Ok(b)
}

/// A solved least-squares problem.
#[derive(Debug, Clone, PartialEq)]
pub struct Fit {
    /// The unknowns, in the order of the columns.
    pub values: Vec<f64>,
    /// One standard deviation of each, when each row was divided by its own.
    pub sigmas: Vec<f64>,
}

/// Linear least squares: minimises the squared length of `rows * x - right`.
///
/// Each row is one equation already divided by its standard deviation; a prior on an unknown
/// is one more row. Solved by the normal equations' Cholesky factor, fit for the handful of
/// well-scaled unknowns met here.
///
/// # Errors
/// [`SolveError::Singular`] when the rows leave an unknown undetermined.
pub fn least_squares(rows: &[Vec<f64>], right: &[f64]) -> Result<Fit, SolveError> {
    let unknowns = rows.first().map_or(0, Vec::len);
    if unknowns == 0 || rows.len() != right.len() || rows.iter().any(|row| row.len() != unknowns) {
        return Err(SolveError::Singular);
    }
    let matrix = DMatrix::from_fn(rows.len(), unknowns, |row, column| rows[row][column]);
    let right = DVector::from_column_slice(right);
    let normal = matrix.transpose() * &matrix;
    let factor = normal.cholesky().ok_or(SolveError::Singular)?;
    let values = factor.solve(&(matrix.transpose() * right));
    let covariance = factor.inverse();
    if values.iter().any(|value| !value.is_finite()) {
        return Err(SolveError::NotFinite);
    }
    Ok(Fit {
        values: values.iter().copied().collect(),
        sigmas: covariance
            .diagonal()
            .iter()
            .map(|variance| variance.sqrt())
            .collect(),
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn finds_the_root_that_dottie_found() {
        // The fixed point of the cosine, 0.739 085 133 215 160 6 (OEIS A003957).
        let found = root(0.0, 1.0, 1e-14, |x| x.cos() - x).unwrap();
        assert!((found - 0.739_085_133_215_160_6).abs() < 1e-13);
    }

    #[test]
    fn finds_a_root_where_interpolation_is_of_no_help() {
        let found = root(-1.0, 3.0, 1e-12, |x: f64| {
            (x - 0.3).signum() * (x - 0.3).abs().powf(0.2)
        });
        assert!((found.unwrap() - 0.3).abs() < 1e-11);
    }

    #[test]
    fn refuses_a_bracket_without_a_root() {
        assert_eq!(
            root(0.0, 1.0, 1e-9, |x| x + 1.0),
            Err(SolveError::NotBracketed)
        );
        assert_eq!(
            root(0.0, 1.0, 1e-9, |_| f64::NAN),
            Err(SolveError::NotFinite)
        );
    }

    #[test]
    fn fits_the_textbook_line() {
        // Points (0,1), (1,3), (2,4), (3,4): slope 1, intercept 1.5 by hand; variances of slope
        // and intercept 1/5 and 14/20 for unit noise.
        let rows: Vec<_> = (0..4).map(|x| vec![1.0, f64::from(x)]).collect();
        let fit = least_squares(&rows, &[1.0, 3.0, 4.0, 4.0]).unwrap();
        assert!((fit.values[0] - 1.5).abs() < 1e-12);
        assert!((fit.values[1] - 1.0).abs() < 1e-12);
        assert!((fit.sigmas[0] - 0.7_f64.sqrt()).abs() < 1e-12);
        assert!((fit.sigmas[1] - 0.2_f64.sqrt()).abs() < 1e-12);
    }

    #[test]
    fn refuses_what_the_rows_leave_open() {
        let rows = vec![vec![1.0, 1.0], vec![2.0, 2.0]];
        assert_eq!(least_squares(&rows, &[1.0, 2.0]), Err(SolveError::Singular));
        assert_eq!(least_squares(&[], &[]), Err(SolveError::Singular));
    }
}
