//! Sums over many samples, in lanes that the machine may take side by side.

use std::iter::Sum;
use std::ops::{AddAssign, Mul};

const LANES: usize = 8;

/// `start step^n` for `n` from nought on, in its two parts: a sine that may grow or die.
///
/// A recursion, eight steps at a time; exact to rounding over the length of a note.
pub(crate) fn turning(length: usize, start: (f64, f64), step: (f64, f64)) -> (Vec<f64>, Vec<f64>) {
    let times = |a: (f64, f64), b: (f64, f64)| (a.0 * b.0 - a.1 * b.1, a.0 * b.1 + a.1 * b.0);
    let (mut re, mut im) = ([0.0; LANES], [0.0; LANES]);
    let mut at = start;
    let mut stride = (1.0, 0.0);
    for lane in 0..LANES {
        (re[lane], im[lane]) = at;
        at = times(at, step);
        stride = times(stride, step);
    }
    let whole = length.div_ceil(LANES) * LANES;
    let (mut all_re, mut all_im) = (vec![0.0; whole], vec![0.0; whole]);
    for (to_re, to_im) in all_re
        .chunks_exact_mut(LANES)
        .zip(all_im.chunks_exact_mut(LANES))
    {
        to_re.copy_from_slice(&re);
        to_im.copy_from_slice(&im);
        for lane in 0..LANES {
            let (r, i) = (re[lane], im[lane]);
            re[lane] = r * stride.0 - i * stride.1;
            im[lane] = r * stride.1 + i * stride.0;
        }
    }
    all_re.truncate(length);
    all_im.truncate(length);
    (all_re, all_im)
}

/// Takes the real part of `start exp(i step n)` off every sample.
///
/// Each lane by `x[n + s] = 2 cos(s step) x[n] - x[n - s]`, `s` lanes apart.
pub(crate) fn take_off(samples: &mut [f64], start: (f64, f64), step: f64) {
    let at = |n: f64| start.0 * (step * n).cos() - start.1 * (step * n).sin();
    let stride = LANES as f64;
    let twice = 2.0 * (step * stride).cos();
    let (mut now, mut last) = ([0.0; LANES], [0.0; LANES]);
    for lane in 0..LANES {
        now[lane] = at(lane as f64);
        last[lane] = at(lane as f64 - stride);
    }
    let (whole, rest) = samples.as_chunks_mut::<LANES>();
    for part in whole {
        for lane in 0..LANES {
            part[lane] -= now[lane];
            let next = twice * now[lane] - last[lane];
            last[lane] = now[lane];
            now[lane] = next;
        }
    }
    for (sample, sound) in rest.iter_mut().zip(now) {
        *sample -= sound;
    }
}

/// Two scalar products with the same samples: one after the other, for in one loop the compiler does not take them side by side.
pub(crate) fn dots(a: &[f64], b: &[f64], c: &[f64]) -> (f64, f64) {
    (dot(a, b), dot(a, c))
}

/// A scalar product.
pub(crate) fn dot(a: &[f64], b: &[f64]) -> f64 {
    product::<f64, LANES>(a, b)
}

/// A scalar product in single precision.
pub(crate) fn coarse_dot(a: &[f32], b: &[f32]) -> f32 {
    product::<f32, { 2 * LANES }>(a, b)
}

fn product<T, const N: usize>(a: &[T], b: &[T]) -> T
where
    T: Copy + Default + AddAssign + Mul<Output = T> + Sum,
{
    let ((a, a_rest), (b, b_rest)) = (a.as_chunks::<N>(), b.as_chunks::<N>());
    let mut sums = [T::default(); N];
    for (a, b) in a.iter().zip(b) {
        for lane in 0..N {
            sums[lane] += a[lane] * b[lane];
        }
    }
    let mut all: T = a_rest.iter().zip(b_rest).map(|(a, b)| *a * *b).sum();
    all += sums.into_iter().sum();
    all
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn turns_and_dies_as_a_power_does() {
        let step = (0.999 * 0.1_f64.cos(), 0.999 * 0.1_f64.sin());
        let (re, im) = turning(1003, (0.5, 0.0), step);
        assert_eq!((re.len(), im.len()), (1003, 1003));
        for n in [0, 7, 8, 500, 1002] {
            let size = 0.5 * 0.999_f64.powi(n);
            let angle = 0.1 * f64::from(n);
            assert!((re[n as usize] - size * angle.cos()).abs() < 1e-12);
            assert!((im[n as usize] - size * angle.sin()).abs() < 1e-12);
        }
    }

    #[test]
    fn what_turns_is_taken_off_to_the_last_sample() {
        let mut samples: Vec<f64> = (0..40_003)
            .map(|n| 0.3 * (0.02 * f64::from(n)).cos() - 0.4 * (0.02 * f64::from(n)).sin())
            .collect();
        take_off(&mut samples, (0.3, 0.4), 0.02);
        let most = samples.iter().map(|s| s.abs()).fold(0.0, f64::max);
        assert!(most < 1e-9, "{most}");
    }

    #[test]
    fn a_scalar_product_takes_in_the_rest() {
        let a: Vec<f64> = (1..=11).map(f64::from).collect();
        assert_eq!(dot(&a, &a), 506.0);
        let twice: Vec<f64> = a.iter().map(|x| 2.0 * x).collect();
        assert_eq!(dots(&a, &a, &twice), (506.0, 1012.0));
        let coarse: Vec<f32> = (1..=18_u8).map(f32::from).collect();
        assert_eq!(coarse_dot(&coarse, &coarse), 2109.0);
    }
}
