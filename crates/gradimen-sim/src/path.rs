//! How a string lies: pulled tight over whatever stands in its way, by way of a finger.

/// A point: along the string and up.
pub(crate) type Point = (f64, f64);

/// The line a tight string takes from the first point to the last over everything between: their upper hull.
pub(crate) fn taut(points: &[Point]) -> Vec<Point> {
    let mut hull: Vec<Point> = Vec::with_capacity(points.len());
    for &next in points {
        while let [.., a, b] = hull[..] {
            let below = (b.1 - a.1) * (next.0 - a.0) <= (next.1 - a.1) * (b.0 - a.0);
            if !below {
                break;
            }
            hull.pop();
        }
        hull.push(next);
    }
    hull
}

/// Its length.
pub(crate) fn length(line: &[Point]) -> f64 {
    line.windows(2)
        .map(|pair| (pair[1].0 - pair[0].0).hypot(pair[1].1 - pair[0].1))
        .sum()
}

/// How high it runs somewhere along it.
pub(crate) fn height_at(line: &[Point], x: f64) -> f64 {
    let piece = line
        .windows(2)
        .find(|pair| x <= pair[1].0)
        .or(line.windows(2).last());
    piece.map_or(0.0, |pair| {
        let (a, b) = (pair[0], pair[1]);
        a.1 + (b.1 - a.1) * (x - a.0) / (b.0 - a.0)
    })
}

/// The slope with which it arrives at its end.
pub(crate) fn slope_at_end(line: &[Point]) -> f64 {
    line.windows(2).last().map_or(0.0, |pair| {
        (pair[1].1 - pair[0].1) / (pair[1].0 - pair[0].0)
    })
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_tight_string_clears_what_is_low_and_rests_on_what_is_high() {
        let free = taut(&[(0.0, 1.0), (5.0, 0.2), (10.0, 2.0)]);
        assert_eq!(free, [(0.0, 1.0), (10.0, 2.0)]);
        let rests = taut(&[(0.0, 1.0), (5.0, 2.0), (10.0, 2.0)]);
        assert_eq!(rests.len(), 3);
        assert!((length(&rests) - (26.0f64.sqrt() + 5.0)).abs() < 1e-12);
        assert!((height_at(&rests, 2.5) - 1.5).abs() < 1e-12);
        assert!((height_at(&rests, 7.5) - 2.0).abs() < 1e-12);
    }
}
