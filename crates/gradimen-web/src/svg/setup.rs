//! The three views at the geometry stations: plan, elevation under it, end view beside that.

use crate::vocabulary::*;
use gradimen_core::fretboard::fret_position;
use gradimen_core::quantity::Length;

use super::lanes::{Lanes, wire_width};
use super::side::{Side as Elevation, end_view};
use super::{Anchor, Drawing};

const NUT: f64 = 152.0;
const LAST_FRET: f64 = 770.0;
/// The strings are cut here.
const CUT: f64 = 921.0;
/// Height of a small elevation, and of the one at the relief station.
const SMALL: f64 = 112.0;
const LARGE: f64 = 146.0;
/// Size of the fields.
const FIELD: (f64, f64) = (172.0, 44.0);
const WIDE_FIELD: (f64, f64) = (236.0, 44.0);

fn lanes_of(job: &Known, top: f64) -> Lanes {
    let longest = (1..=job.instrument().strings)
        .map(|string| job.speaking_scale(string))
        .fold(Length::ZERO, Length::max);
    let reach = fret_position(longest, job.instrument().frets);
    Lanes::new(job.instrument(), NUT, top, LAST_FRET - NUT, reach)
}

fn strings(drawing: &mut Drawing, job: &Known, lanes: &Lanes) {
    for (string, state) in (1..).zip(job.strings()) {
        let y = lanes.y(string);
        drawing.wire(wire_width(state.spec.gauge()), NUT, CUT, y);
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

/// The elevation of a string with the end view beside it, from `top` to `bottom`.
fn elevation(
    drawing: &mut Drawing,
    job: &Known,
    plan: &Plan,
    lanes: &Lanes,
    string: u8,
    (top, bottom): (f64, f64),
    span: Option<ReliefSpan>,
) {
    let geometry = job.geometry();
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
    };
    view.draw(drawing, lanes, span.map(ReliefSpan::span));
    end_view(drawing, job, plan, top, bottom, Some(string));
}

/// The relief station: brackets over the span that is read, on both sides of the board.
pub(crate) fn relief(
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
    super::intonation::bridge(&mut drawing, &lanes, job, plan);
    let bottom = lanes.bottom();
    for (at, edge) in [(Side::Treble, lanes.top), (Side::Bass, bottom)] {
        let string = job.geometry().string_of(at);
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
    let string = job.geometry().string_of(side);
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
    super::intonation::bridge(&mut drawing, &lanes, job, plan);
    for string in 1..=instrument.strings {
        // A field at fret 1 stands clear of the nut.
        let x = lanes
            .fret_x(job, string, fret)
            .max(NUT + FIELD.0 / 2.0 + 8.0);
        let corner = (x - FIELD.0 / 2.0, lanes.y(string) - FIELD.1 / 2.0);
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

/// The pickups station: from the last fret to the bridge from the side, an outer string held down
/// over every pickup, and a field where each gap is read.
pub(crate) fn pickups(
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
    let geometry = job.geometry();
    let mut drawing = Drawing::new(instrument.left_handed);
    for (row, at) in [Side::Treble, Side::Bass].into_iter().enumerate() {
        let string = geometry.string_of(at);
        let (tops, line) = (geometry.tops(string), geometry.line(string));
        let from = tops.place(tops.frets());
        let per_mm = (RIGHT - LEFT) / (line.length - from).mm();
        let x = |along: Length| LEFT + (along - from).mm() * per_mm;
        let floor = 8.0 + (row as f64 + 1.0) * HALF - 22.0;
        let low = tops.top(tops.frets(), line.curvature);
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
            let over = low + (line.saddle - low) * (along - from).ratio(line.length - from);
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

/// The clearance map: on every lane, over every held fret, what is left where it comes nearest.
pub(crate) fn clearance(job: &Known, plan: &ClearancePlan) -> String {
    /// Drawing units per millimetre left.
    const PER_MM: f64 = 110.0;
    let instrument = job.instrument();
    let mut drawing = Drawing::new(instrument.left_handed);
    let lanes = lanes_of(job, 22.0);
    lanes.board(&mut drawing, job);
    strings(&mut drawing, job, &lanes);
    let most = lanes.pitch * 0.42;
    for map in &plan.now {
        let y = lanes.y(map.string);
        for place in &map.places {
            let x = if place.held == 0 {
                NUT + 9.0
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
    drawing.text(
        "small",
        (LAST_FRET + 24.0, 14.0),
        Anchor::Start,
        "up: left over the frets, held there; down: it touches",
    );
    let label = format!(
        "Clearance map of {}: what is left over the frets for every string held at every fret. The table below has the tightest places.",
        instrument.title()
    );
    drawing.finish(lanes.bottom() + 30.0, &label)
}

#[cfg(test)]
mod tests {
    use super::*;

    /// A job with relief, nut and heights read, from the published examples.
    fn example() -> (Known, Plan) {
        let text = include_str!("../../../../docs/formats/examples/seven-string-heights.json");
        let job = Job::fold(&Document::parse(text).unwrap().events).unwrap();
        let known = Known::of(std::sync::Arc::new(job)).unwrap();
        let plan = Plan::of(&known);
        (known, plan)
    }

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

    #[test]
    fn relief_stands_in_brackets_on_both_sides() {
        let (job, plan) = example();
        let span = plan.targets.relief_span;
        let drawing = relief(&job, &plan, Side::Bass, span, |side| side.key().to_owned());
        assert_eq!(drawing.matches("class=\"bracket bracket-on\"").count(), 2);
        assert_eq!(drawing.matches("class=\"bracket\"").count(), 2);
        assert!(
            drawing.contains("held at 1 and 12, read at 6") && drawing.contains("class=\"gap\"")
        );
    }

    #[test]
    fn the_map_has_a_bar_for_every_held_fret() {
        let (job, plan) = example();
        let map = ClearancePlan::of(&job, |string| plan.lines[usize::from(string - 1)]);
        let drawing = clearance(&job, &map);
        let bars = drawing.matches("class=\"margin\"").count()
            + drawing.matches("class=\"margin-out\"").count();
        assert_eq!(bars, 7 * usize::from(job.instrument().frets));
    }

    #[test]
    fn pickups_lie_in_the_order_of_the_board() {
        let (job, plan) = example();
        assert!(
            !plan.pickups.pickups.is_empty(),
            "the example has pickups on record"
        );
        let drawing = pickups(&job, &plan, 0, Side::Treble, |index, side| {
            format!("<i>{index} {}</i>", side.key())
        });
        let at = |text: &str| drawing.find(text).unwrap();
        assert!(at("<i>0 treble") < at("<i>1 treble") && at("<i>1 treble") < at("<i>1 bass"));
        assert!(drawing.contains("heights 3 times life"));
    }
}
