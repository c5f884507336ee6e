//! Sums over many samples, in lanes that the machine may take side by side.

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

/// A scalar product.
pub(crate) fn dot(a: &[f64], b: &[f64]) -> f64 {
    let (a_lanes, b_lanes) = (a.chunks_exact(LANES), b.chunks_exact(LANES));
    let rest = a_lanes.remainder().iter().zip(b_lanes.remainder());
    let rest: f64 = rest.map(|(a, b)| a * b).sum();
    let mut sums = [0.0; LANES];
    for (a, b) in a_lanes.zip(b_lanes) {
        for lane in 0..LANES {
            sums[lane] += a[lane] * b[lane];
        }
    }
    sums.iter().sum::<f64>() + rest
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
    fn a_scalar_product_takes_in_the_rest() {
        let a: Vec<f64> = (1..=11).map(f64::from).collect();
        assert_eq!(dot(&a, &a), 506.0);
    }
}
