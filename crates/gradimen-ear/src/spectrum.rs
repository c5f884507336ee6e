//! The lines that stand in a spectrum.

use std::cell::RefCell;
use std::f64::consts::PI;

use realfft::RealFftPlanner;

use crate::turning::turning;

/// A four-term Blackman-Harris window: side lobes 92 dB down, main lobe four bins to either side (Harris 1978).
pub(crate) fn window(length: usize) -> Vec<f64> {
    const A: [f64; 4] = [0.358_75, 0.488_29, 0.141_28, 0.011_68];
    let step = 2.0 * PI / length as f64;
    let half = step / 2.0;
    let (turned, _) = turning(length, (half.cos(), half.sin()), (step.cos(), step.sin()));
    // The cosines of twice and three times an angle by its own.
    let weight = |c: f64| {
        let (twice, thrice) = (2.0 * c * c - 1.0, (4.0 * c * c - 3.0) * c);
        A[0] - A[1] * c + A[2] * twice - A[3] * thrice
    };
    turned.into_iter().map(weight).collect()
}

thread_local! {
    /// What a transform of each length needs is worked out once.
    static PLANNER: RefCell<RealFftPlanner<f64>> = RefCell::new(RealFftPlanner::new());
}

/// One line of a spectrum.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Line {
    /// Where it stands, Hz.
    pub(crate) hz: f64,
    /// Its amplitude.
    pub(crate) size: f64,
}

/// A spectrum with its lines and its floor.
#[derive(Debug, Clone)]
pub(crate) struct Spectrum {
    /// The lines that stand out, strongest first.
    pub(crate) lines: Vec<Line>,
    /// Variance of white noise that would give this floor, a sample.
    pub(crate) noise: f64,
    /// How far apart two lines must stand to be two, Hz.
    pub(crate) apart: f64,
}

/// The lines above `lowest` Hz in `samples`.
pub(crate) fn spectrum(samples: &[f64], rate: f64, lowest: f64) -> Spectrum {
    let shape = window(samples.len());
    // The window's main lobe is eight bins wide: a line's place is seen without filling up.
    let length = samples.len().max(1).next_multiple_of(1024);
    let mut buffer = vec![0.0; length];
    for ((to, sample), weight) in buffer.iter_mut().zip(samples).zip(&shape) {
        *to = sample * weight;
    }
    let transform = PLANNER.with_borrow_mut(|planner| planner.plan_fft_forward(length));
    let mut out = transform.make_output_vec();
    if transform.process(&mut buffer, &mut out).is_err() {
        // Only a wrong length can be at fault, and both come from the plan itself.
        out.iter_mut().for_each(|value| *value = Default::default());
    }
    let gain: f64 = shape.iter().sum::<f64>() / 2.0;
    let energy: f64 = shape.iter().map(|weight| weight * weight).sum();
    let power: Vec<f64> = out.iter().map(|value| value.norm_sqr()).collect();
    let bin = rate / length as f64;
    let from = ((lowest / bin) as usize).max(2);
    // The upper fifth of the band lies in the slope of the low-pass.
    let upto = power.len() * 3 / 4;
    let mut sorted: Vec<f64> = power[from.min(upto)..upto].to_vec();
    let middle = sorted.len() / 2;
    let floor = if sorted.is_empty() {
        0.0
    } else {
        *sorted.select_nth_unstable_by(middle, f64::total_cmp).1
    };
    let mut lines: Vec<Line> = (from.max(1)..upto.saturating_sub(1))
        .filter(|&n| power[n] > power[n - 1] && power[n] >= power[n + 1] && power[n] > 30.0 * floor)
        .map(|n| {
            let [before, at, after] =
                [n - 1, n, n + 1].map(|n| power[n].max(f64::MIN_POSITIVE).ln());
            let offset = 0.5 * (before - after) / (before - 2.0 * at + after);
            let offset = if offset.is_finite() {
                offset.clamp(-0.5, 0.5)
            } else {
                0.0
            };
            let size = (0.5 * (at - 0.25 * (before - after) * offset)).exp() / gain;
            Line {
                hz: (n as f64 + offset) * bin,
                size,
            }
        })
        .collect();
    lines.sort_by(|a, b| b.size.total_cmp(&a.size));
    lines.truncate(60);
    let strongest = lines.first().map_or(0.0, |line| line.size);
    // Side lobes and the skirts of strong lines are no lines.
    lines.retain(|line| line.size > strongest * 3e-4);
    Spectrum {
        lines,
        // The median of a squared modulus is ln 2 of its mean.
        noise: floor / std::f64::consts::LN_2 / energy.max(f64::MIN_POSITIVE),
        apart: 4.0 * rate / samples.len() as f64,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_window_is_harris_s() {
        // Sums of cosines as they are printed (Harris 1978); its ends are 6e-5 of its middle.
        let window = window(1001);
        for n in [0, 1, 250, 500, 777, 1000] {
            let x = 2.0 * PI * (n as f64 + 0.5) / 1001.0;
            let printed = 0.358_75 - 0.488_29 * x.cos() + 0.141_28 * (2.0 * x).cos()
                - 0.011_68 * (3.0 * x).cos();
            assert!((window[n] - printed).abs() < 1e-12, "{n}");
        }
        assert!((window[500] - 1.0).abs() < 1e-12 && window[0] < 1e-4);
    }

    #[test]
    fn a_line_stands_where_it_was_put_with_its_size() {
        let rate = 12_000.0;
        let tone = |n: usize| {
            let t = n as f64 / rate;
            0.3 * (2.0 * PI * 440.3 * t).sin() + 0.01 * (2.0 * PI * 1203.7 * t).cos()
        };
        let samples: Vec<f64> = (0..6000).map(tone).collect();
        let found = spectrum(&samples, rate, 20.0);
        let near = |hz: f64| {
            found
                .lines
                .iter()
                .find(|line| (line.hz - hz).abs() < 0.3)
                .copied()
                .unwrap()
        };
        assert!((near(440.3).size - 0.3).abs() < 0.005, "{:?}", near(440.3));
        assert!((near(1203.7).size - 0.01).abs() < 0.0003);
    }

    #[test]
    fn the_floor_is_the_noise_that_was_added() {
        // A linear congruential generator's twelve-fold sums: unit variance, no more is asked of it.
        let mut state = 1_u64;
        let mut even = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1_442_695_040_888_963_407);
            (state >> 11) as f64 / (1_u64 << 53) as f64
        };
        let samples: Vec<f64> = (0..8000)
            .map(|_| 0.1 * ((0..12).map(|_| even()).sum::<f64>() - 6.0))
            .collect();
        let found = spectrum(&samples, 12_000.0, 20.0);
        assert!((found.noise / 0.01 - 1.0).abs() < 0.15, "{}", found.noise);
    }
}
