//! A note on its lane: a line that closes on the target.

use std::fmt::Write;

/// Width and height of the drawing, and its middle, where the target stands.
const WIDTH: f64 = 640.0;
const HEIGHT: f64 = 40.0;
const MIDDLE: f64 = WIDTH / 2.0;
/// Cents at the edge; nearer to the target a cent takes more room.
const EDGE: f64 = 60.0;

/// How far from the middle so many cents are drawn.
fn off(cents: f64) -> f64 {
    let share = cents.abs().min(EDGE).asinh() / EDGE.asinh();
    cents.signum() * share * (MIDDLE - 12.0)
}

/// The lane of a note so many cents off its target, as wide as it is known.
pub(crate) fn lane(cents: f64, width: f64, closes: bool) -> String {
    let (at, low, high) = (
        MIDDLE + off(cents),
        MIDDLE + off(cents - width),
        MIDDLE + off(cents + width),
    );
    let line = if closes { "heard-closes" } else { "heard-line" };
    let mut out = String::new();
    // Writing to a string cannot fail.
    let _ = write!(
        out,
        r#"<svg class="heard" viewBox="0 0 {WIDTH} {HEIGHT}" aria-hidden="true"><path class="heard-string" d="M0 20H{WIDTH}"/><path class="heard-target" d="M{MIDDLE} 2V38"/><path class="heard-width" d="M{low:.1} 20H{high:.1}"/><path class="{line}" d="M{MIDDLE} 20H{at:.1}M{at:.1} 8V32"/></svg>"#
    );
    out
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn sharp_stands_right_flat_left_and_nothing_leaves_the_lane() {
        assert!(off(5.0) > off(1.0) && off(-5.0) < off(-1.0) && off(0.0) == 0.0);
        assert!(off(1e9) < MIDDLE && off(f64::MIN) > -MIDDLE);
        // A tenth of a cent is still seen.
        assert!(off(0.1) > 5.0);
    }
}
