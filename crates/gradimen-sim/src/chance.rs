//! Repeatable chance.

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

    /// A factor about one, of which two in three lie within a share.
    pub fn factor(&mut self, share: f64) -> f64 {
        self.normal(share).clamp(-2.5 * share, 2.5 * share).exp()
    }
}

#[cfg(test)]
mod tests {
    use super::*;

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
}
