//! Small plots over the visits of an instrument, side by side on one axis of days.

use super::{Anchor, Drawing, WIDTH};

/// One plot: its name, and by day a value with how it is written.
pub(crate) struct Plot {
    pub(crate) name: &'static str,
    pub(crate) points: Vec<(f64, f64, String)>,
}

const TOP: f64 = 52.0;
const HEIGHT: f64 = 96.0;
const EDGE: f64 = 34.0;

/// Plots beside each other, every one to its own scale from its least to its most.
pub(crate) fn plots(all: &[Plot], label: &str) -> String {
    let mut drawing = Drawing::new(false);
    let width = WIDTH / all.len().max(1) as f64;
    let range = |values: &mut dyn Iterator<Item = f64>| {
        let (low, high) = values.fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), value| {
            (low.min(value), high.max(value))
        });
        (low, if high > low { high - low } else { 1.0 })
    };
    let days = range(
        &mut all
            .iter()
            .flat_map(|plot| plot.points.iter().map(|point| point.0)),
    );
    for (index, plot) in all.iter().enumerate() {
        let left = index as f64 * width + EDGE;
        let across = width - 2.0 * EDGE;
        let values = range(&mut plot.points.iter().map(|point| point.1));
        drawing.text("small", (left - 12.0, 20.0), Anchor::Start, plot.name);
        let places: Vec<(f64, f64)> = plot
            .points
            .iter()
            .map(|(day, value, _)| {
                let x = left + (day - days.0) / days.1 * across;
                let y = TOP + HEIGHT - (value - values.0) / values.1 * HEIGHT;
                (x, y)
            })
            .collect();
        drawing.polyline("visit-line", &places);
        for (at, ((x, y), (_, _, written))) in places.iter().zip(&plot.points).enumerate() {
            drawing.circle("rocked", (*x, *y), 3.5);
            // Where the line comes down to a point, what is written stands under it.
            let beside = [at.checked_sub(1), Some(at + 1)];
            let beside = beside.into_iter().flatten().filter_map(|at| places.get(at));
            let falls = beside.clone().count() > 0 && beside.clone().all(|(_, other)| other < y);
            let written_at = if falls { y + 19.0 } else { y - 9.0 };
            drawing.text("small", (*x, written_at), Anchor::Middle, written);
        }
    }
    drawing.finish(TOP + HEIGHT + 28.0, label)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_visit_and_a_line_that_never_moves_stay_on_the_sheet() {
        let point = |day: f64, value: f64| (day, value, format!("{value}"));
        for points in [
            vec![point(0.0, 1.0)],
            vec![point(0.0, 1.0), point(300.0, 1.0)],
            Vec::new(),
        ] {
            let drawn = plots(
                &[Plot {
                    name: "relief",
                    points,
                }],
                "visits",
            );
            assert!(!drawn.contains("NaN") && !drawn.contains("inf"), "{drawn}");
        }
        let climbs = plots(
            &[Plot {
                name: "action",
                points: vec![point(0.0, 1.0), point(300.0, 2.0)],
            }],
            "visits",
        );
        // The higher value is drawn higher.
        let ys: Vec<f64> = climbs
            .split("cy=\"")
            .skip(1)
            .map(|rest| {
                rest.split('"')
                    .next()
                    .unwrap_or_default()
                    .parse()
                    .unwrap_or(f64::NAN)
            })
            .collect();
        assert!(ys[1] < ys[0]);
    }
}
