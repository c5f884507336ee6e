//! The plan with brackets over the span that is read, and the neck from the side.

use crate::svg::views::{LARGE, WIDE_FIELD, elevation, lanes_of, strings};
use crate::svg::{Anchor, Drawing};
use crate::vocabulary::*;

/// The relief station: brackets over the span that is read, on both sides of the board.
pub(crate) fn draw(
    job: &Known,
    plan: &Plan,
    side: Side,
    span: ReliefSpan,
    field: impl Fn(Side) -> String,
) -> String {
    const BRACKET: f64 = 52.0;
    let instrument = job.instrument();
    let mut drawing = Drawing::new(instrument.left_handed);
    let lanes = lanes_of(job, BRACKET + 6.0).with_pitch(22.0);
    lanes.board_without_numbers(&mut drawing, job);
    strings(&mut drawing, job, &lanes);
    crate::svg::bridge::small(&mut drawing, &lanes, job, plan);
    let bottom = lanes.bottom();
    for (at, edge) in [(Side::Treble, lanes.top), (Side::Bass, bottom)] {
        let string = job.state().string_of(at);
        let x = |fret: u8| lanes.fret_x(job, string, fret);
        let out = if at == Side::Treble { -1.0 } else { 1.0 };
        let class = if at == side {
            "bracket bracket-on"
        } else {
            "bracket"
        };
        let (near, far) = (edge + 2.0 * out, edge + 26.0 * out);
        drawing.polyline(
            class,
            &[
                (x(span.low), near),
                (x(span.low), far),
                (x(span.high), far),
                (x(span.high), near),
            ],
        );
        drawing.line(class, (x(span.at), far), (x(span.at), near));
        let corner = (x(span.at) - WIDE_FIELD.0 / 2.0, far - WIDE_FIELD.1 / 2.0);
        drawing.html(corner, WIDE_FIELD, &field(at));
        let says = format!(
            "{} side, held at {} and {}, read at {}",
            at.key(),
            span.low,
            span.high,
            span.at
        );
        drawing.text(
            "small",
            (x(span.high) + 14.0, far + 5.0),
            Anchor::Start,
            &says,
        );
    }
    let top = bottom + 56.0;
    let string = job.state().string_of(side);
    elevation(
        &mut drawing,
        job,
        plan,
        &lanes,
        string,
        (top, top + LARGE),
        Some(span),
    );
    let label = format!(
        "Plan and side view of {}: relief along the {} side. The table below has the same numbers.",
        instrument.title(),
        side.key()
    );
    drawing.finish(top + LARGE, &label)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::svg::tests::example;

    #[test]
    fn relief_stands_in_brackets_on_both_sides() {
        let (job, plan) = example();
        let span = plan.targets.relief_span;
        let drawing = draw(&job, &plan, Side::Bass, span, |side| side.key().to_owned());
        assert_eq!(drawing.matches("class=\"bracket bracket-on\"").count(), 2);
        assert_eq!(drawing.matches("class=\"bracket\"").count(), 2);
        assert!(
            drawing.contains("held at 1 and 12, read at 6") && drawing.contains("class=\"gap\"")
        );
    }
}
