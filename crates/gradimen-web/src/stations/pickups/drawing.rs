//! From the last fret to the bridge from the side.

use gradimen_core::quantity::Length;

use crate::svg::views::FIELD;
use crate::svg::{Anchor, Drawing};
use crate::vocabulary::*;

/// The pickups station: from the last fret to the bridge from the side, an outer string held down
/// over every pickup, and a field where each gap is read.
pub(crate) fn draw(
    job: &Known,
    plan: &Plan,
    in_hand: usize,
    side: Side,
    field: impl Fn(usize, Side) -> String,
) -> String {
    const LEFT: f64 = 170.0;
    const RIGHT: f64 = 1240.0;
    const HALF: f64 = 172.0;
    /// Heights are drawn so many times as large as lengths.
    const TIMES: f64 = 3.0;
    let instrument = job.instrument();
    let geometry = job.state();
    let mut drawing = Drawing::new(instrument.left_handed);
    for (row, at) in [Side::Treble, Side::Bass].into_iter().enumerate() {
        let string = geometry.string_of(at);
        let (tops, line) = (geometry.tops(string), geometry.line(string));
        let from = tops.place(tops.frets());
        let per_mm = (RIGHT - LEFT) / (line.length - from).mm();
        let x = |along: Length| LEFT + (along - from).mm() * per_mm;
        let floor = 8.0 + (row as f64 + 1.0) * HALF - 22.0;
        let low = tops.top(tops.frets(), line.bend);
        let y = |height: Length| floor - 84.0 - (height - low).mm() * per_mm * TIMES;
        let on = if at == side {
            "string string-on"
        } else {
            "string"
        };
        drawing.line("fret-end", (LEFT, y(low)), (LEFT, y(low) + 12.0));
        drawing.line(on, (LEFT, y(low)), (RIGHT, y(line.saddle)));
        drawing.rect("saddle", (RIGHT - 4.0, y(line.saddle)), (8.0, 22.0), 2.0);
        drawing.text("strong", (20.0, y(low) + 6.0), Anchor::Start, at.key());
        drawing.text(
            "small",
            (20.0, y(low) + 26.0),
            Anchor::Start,
            &format!("heights {TIMES:.0} times life"),
        );
        drawing.text(
            "small",
            (LEFT - 14.0, y(low) + 6.0),
            Anchor::End,
            &format!("fret {}", tops.frets()),
        );
        for (index, (known, record)) in plan
            .pickups
            .pickups
            .iter()
            .zip(&instrument.pickups)
            .enumerate()
        {
            let quantity = &known.sides[usize::from(at == Side::Bass)].quantity;
            let along = tops.scale() - record.before_saddle.middle();
            let over = line.height_at(tops, tops.frets(), along);
            let middle = x(along);
            // Not read yet, it is drawn where it is wanted.
            let gap = |gap: Length| y(over - gap);
            let (now, wanted) = (gap(quantity.now.value), gap(quantity.target));
            let class = if index == in_hand && at == side {
                "slot slot-on"
            } else {
                "slot"
            };
            if quantity.last.is_some() {
                drawing.rect(
                    class,
                    (middle - 26.0, now),
                    (52.0, (floor - 22.0 - now).max(6.0)),
                    3.0,
                );
            }
            drawing.line("aim-line", (middle - 32.0, wanted), (middle + 32.0, wanted));
            let corner = (
                (middle - FIELD.0 / 2.0).min(RIGHT - FIELD.0 + 20.0),
                floor - 24.0,
            );
            drawing.html(corner, FIELD, &field(index, at));
            if row == 0 {
                drawing.text(
                    "small",
                    (corner.0 + FIELD.0 / 2.0, 20.0),
                    Anchor::Middle,
                    &record.name,
                );
            }
        }
    }
    let label = format!(
        "Side view of {}: the outer strings held at the last fret over the pickups. The table below has the same numbers.",
        instrument.title()
    );
    drawing.finish(8.0 + 2.0 * HALF + 4.0, &label)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::svg::tests::example;

    #[test]
    fn pickups_lie_in_the_order_of_the_board() {
        let (job, plan) = example();
        assert!(
            !plan.pickups.pickups.is_empty(),
            "the example has pickups on record"
        );
        let drawing = draw(&job, &plan, 0, Side::Treble, |index, side| {
            format!("<i>{index} {}</i>", side.key())
        });
        let at = |text: &str| drawing.find(text).unwrap();
        assert!(at("<i>0 treble") < at("<i>1 treble") && at("<i>1 treble") < at("<i>1 bass"));
        assert!(drawing.contains("heights 3 times life"));
    }
}
