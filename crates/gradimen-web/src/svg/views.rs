//! The three views that geometry stations share: plan, elevation under it, end view beside that.

use crate::vocabulary::*;
use gradimen_core::fretboard::fret_position;
use gradimen_core::quantity::Length;

use super::lanes::{Lanes, wire_width};
use super::side::{Side as Elevation, end_view};
use super::{Anchor, Drawing};

pub(crate) const NUT: f64 = 152.0;
pub(crate) const LAST_FRET: f64 = 770.0;
/// The strings are cut here.
pub(crate) const CUT: f64 = 921.0;
/// Height of a small elevation, and of the one at the relief station.
const SMALL: f64 = 112.0;
pub(crate) const LARGE: f64 = 146.0;
/// Size of the fields.
pub(crate) const FIELD: (f64, f64) = (172.0, 44.0);
/// A field stands so far beside what is measured.
pub(crate) const BESIDE: f64 = 12.0;
pub(crate) const WIDE_FIELD: (f64, f64) = (236.0, 44.0);

pub(crate) fn lanes_of(job: &Known, top: f64) -> Lanes {
    let longest = (1..=job.instrument().strings)
        .map(|string| job.speaking_scale(string))
        .fold(Length::ZERO, Length::max);
    let reach = fret_position(longest, job.instrument().frets);
    Lanes::new(job.instrument(), NUT, top, LAST_FRET - NUT, reach)
}

pub(crate) fn strings(drawing: &mut Drawing, job: &Known, lanes: &Lanes) {
    for (string, state) in (1..).zip(job.strings()) {
        let y = lanes.y(string);
        drawing.wire(wire_width(state.spec.gauge()), lanes.nut_x(string), CUT, y);
        drawing.text(
            "strong",
            (20.0, y + 6.0),
            Anchor::Start,
            &string.to_string(),
        );
        drawing.text(
            "",
            (42.0, y + 6.0),
            Anchor::Start,
            &state.pitch.note().to_string(),
        );
        drawing.text(
            "small",
            (138.0, y + 6.0),
            Anchor::End,
            &state.record.label(),
        );
    }
}

/// A drawing that is nothing but the board with its strings, and the lanes it lies on.
pub(crate) fn board(job: &Known, in_hand: Option<u8>) -> (Drawing, Lanes) {
    let mut drawing = Drawing::new(job.instrument().left_handed);
    let lanes = lanes_of(job, 22.0);
    if let Some(string) = in_hand {
        lanes.in_hand(&mut drawing, string);
    }
    lanes.board(&mut drawing, job);
    strings(&mut drawing, job, &lanes);
    (drawing, lanes)
}

/// What such a drawing says at its head, and its end.
pub(crate) fn finished(mut drawing: Drawing, lanes: &Lanes, key: &str, label: &str) -> String {
    drawing.text("small", (LAST_FRET + 24.0, 14.0), Anchor::Start, key);
    drawing.finish(lanes.bottom() + 30.0, label)
}

/// How high a string stands at the cut by its target and as it came, whichever is more: neither changes while a job is worked on.
fn usual(job: &Known, plan: &Plan) -> Length {
    /// Over fret 12 it stands half as high as at the bridge, and the cut lies before that.
    const AT_CUT: f64 = 1.9;
    let (came, targets) = (job.heights(), &plan.targets);
    let heights = [
        &came.twelfth_treble,
        &came.twelfth_bass,
        &targets.action_treble,
        &targets.action_bass,
    ];
    let over_12 = heights.map(|height| height.middle());
    over_12.into_iter().fold(Length::ZERO, Length::max) * AT_CUT
}

/// The elevation of a string with the end view beside it, from `top` to `bottom`.
pub(crate) fn elevation(
    drawing: &mut Drawing,
    job: &Known,
    plan: &Plan,
    lanes: &Lanes,
    string: u8,
    (top, bottom): (f64, f64),
    span: Option<ReliefSpan>,
) {
    let geometry = job.state();
    drawing.line("rule", (0.0, top), (super::WIDTH, top));
    let now = geometry.line(string);
    let later = plan.lines.get(usize::from(string.max(1) - 1));
    let view = Elevation {
        tops: geometry.tops(string),
        after: later.copied().unwrap_or(now),
        now,
        to: CUT,
        top,
        bottom,
        usual: usual(job, plan),
    };
    view.draw(drawing, &lanes.of(string), span.map(ReliefSpan::span));
    end_view(drawing, job, plan, top, bottom, Some(string));
}

/// The nut and the height station: a field on every lane at the fret that is read.
pub(crate) fn lanes(
    job: &Known,
    plan: &Plan,
    in_hand: u8,
    fret: u8,
    field: impl Fn(u8) -> String,
) -> String {
    let instrument = job.instrument();
    let mut drawing = Drawing::new(instrument.left_handed);
    let lanes = lanes_of(job, 8.0);
    lanes.in_hand(&mut drawing, in_hand);
    lanes.board(&mut drawing, job);
    strings(&mut drawing, job, &lanes);
    crate::svg::bridge::small(&mut drawing, &lanes, job, plan);
    for string in 1..=instrument.strings {
        // Beside its fret, so that what is measured stays in sight.
        let x = lanes.fret_x(job, string, fret) + BESIDE;
        let corner = (x, lanes.y(string) - FIELD.1 / 2.0);
        drawing.html(corner, FIELD, &field(string));
    }
    let top = lanes.bottom() + 30.0;
    elevation(
        &mut drawing,
        job,
        plan,
        &lanes,
        in_hand,
        (top, top + SMALL),
        None,
    );
    let label = format!(
        "Plan, side and end view of {}: readings at fret {fret}. The table below has the same numbers.",
        instrument.title()
    );
    drawing.finish(top + SMALL, &label)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::svg::tests::example;

    #[test]
    fn every_string_has_its_field_where_it_is_read() {
        let (job, plan) = example();
        let drawing = lanes(&job, &plan, 3, 12, |string| {
            format!("<b>field {string}</b>")
        });
        for string in 1..=7 {
            assert_eq!(drawing.matches(&format!("field {string}<")).count(), 1);
        }
        assert!(drawing.contains("times life") && drawing.contains("bridge from the tail"));
        // A fan of scales: the twelfth fret of the long string lies further along.
        let left = |string: u8| -> f64 {
            let at = drawing.find(&format!("<b>field {string}")).unwrap();
            let before = &drawing[..at];
            let x = before.rfind("foreignObject x=\"").unwrap() + "foreignObject x=\"".len();
            before[x..].split('"').next().unwrap().parse().unwrap()
        };
        assert!(left(7) > left(1));
    }
}
