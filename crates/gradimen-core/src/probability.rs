//! The normal distribution: its density, and the share of it that lies below or between.
//!
//! The share is half the complementary error function of `libm`.
//!
//! ```
//! use gradimen_core::probability::{share_below, share_between};
//!
//! // Two thirds lie within one standard deviation.
//! assert!((share_between(-1.0, 1.0, 0.0, 1.0) - 0.682_689_492).abs() < 1e-9);
//! assert!((share_below(0.0) - 0.5).abs() < 1e-15);
//! ```

/// The standard normal density.
pub fn density(x: f64) -> f64 {
    (-0.5 * x * x).exp() / (2.0 * std::f64::consts::PI).sqrt()
}

/// The share of the standard normal distribution below a value.
pub fn share_below(x: f64) -> f64 {
    0.5 * libm::erfc(-x / std::f64::consts::SQRT_2)
}

/// The share of a normal distribution between two values; of one that is known for certain, all or nothing.
pub fn share_between(low: f64, high: f64, mean: f64, sigma: f64) -> f64 {
    if sigma <= 0.0 {
        return if (low..=high).contains(&mean) {
            1.0
        } else {
            0.0
        };
    }
    (share_below((high - mean) / sigma) - share_below((low - mean) / sigma)).max(0.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn shares_are_those_of_the_tables() {
        // Abramowitz and Stegun, table 26.1.
        for (x, p) in [
            (0.0, 0.5),
            (0.5, 0.691_462_461_274),
            (1.0, 0.841_344_746_069),
            (2.0, 0.977_249_868_052),
            (3.0, 0.998_650_101_968),
        ] {
            assert!((share_below(x) - p).abs() < 1e-12, "{x}");
            assert!((share_below(-x) - (1.0 - p)).abs() < 1e-12, "{x}");
        }
        assert!((density(0.0) - 0.398_942_280_401).abs() < 1e-12);
    }

    #[test]
    fn what_is_certain_is_inside_or_not() {
        assert_eq!(share_between(-1.0, 1.0, 0.3, 0.0), 1.0);
        assert_eq!(share_between(-1.0, 1.0, 1.3, 0.0), 0.0);
        assert!(share_between(-1.0, 1.0, 9.0, 0.1) < 1e-12);
    }
}
