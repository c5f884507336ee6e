//! On every lane, over every held fret, what is left where it comes nearest.

use gradimen_core::quantity::Length;

use crate::svg::views::{board, finished};
use crate::vocabulary::*;

/// The clearance map: on every lane, over every held fret, what is left where it comes nearest.
pub(crate) fn draw(job: &Known, plan: &ClearancePlan) -> String {
    /// Drawing units per millimetre left.
    const PER_MM: f64 = 110.0;
    let (mut drawing, lanes) = board(job, None);
    let most = lanes.pitch * 0.42;
    for map in &plan.now {
        let y = lanes.y(map.string);
        for place in &map.places {
            let x = if place.held == 0 {
                lanes.nut_x(map.string) + 9.0
            } else {
                lanes.fret_x(job, map.string, place.held)
            };
            let size = (place.margin.mm().abs() * PER_MM).clamp(2.5, most);
            let (class, corner) = if place.margin >= Length::ZERO {
                ("margin", (x - 4.0, y - size))
            } else {
                ("margin-out", (x - 4.0, y))
            };
            drawing.rect(class, corner, (8.0, size), 1.0);
        }
    }
    let label = format!(
        "Clearance map of {}: what is left over the frets for every string held at every fret. The table below has the smallest.",
        job.instrument().title()
    );
    let key = "up: left over the frets, held there; down: it touches";
    finished(drawing, &lanes, key, &label)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::svg::tests::example;

    #[test]
    fn the_map_has_a_bar_for_every_held_fret() {
        let (job, plan) = example();
        let map = ClearancePlan::of(&job, |string| plan.lines[usize::from(string - 1)]);
        let drawing = draw(&job, &map);
        let bars = drawing.matches("class=\"margin\"").count()
            + drawing.matches("class=\"margin-out\"").count();
        assert_eq!(bars, 7 * usize::from(job.instrument().frets));
    }
}
