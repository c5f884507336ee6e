//! The plan view at the intonation station: readings where they are read, and the bridge
//! magnified lengthwise with the travel of every saddle, where it stands and where it belongs.

use crate::vocabulary::*;
use gradimen_core::fretboard::fret_position;
use gradimen_core::quantity::Length;
use gradimen_core::units::print::UNIT;

use crate::svg::bridge::{BREAK, Zone, cut};
use crate::svg::lanes::{Lanes, wire_width};
use crate::svg::views::BESIDE;
use crate::svg::{Anchor, Drawing};
use crate::words;

const NUT: f64 = 152.0;
const TOP: f64 = 34.0;
/// The last fret stands here.
const LAST_FRET: f64 = 770.0;
const MOVES: f64 = 1268.0;
/// Size of a reading's field.
pub(crate) const FIELD: (f64, f64) = (172.0, 42.0);

/// Draws the station. `field` gives the HTML of a string's reading field at the fret in hand.
pub(crate) fn draw(
    job: &Known,
    plan: &Plan,
    in_hand: u8,
    fret: u8,
    field: impl Fn(u8) -> String,
) -> String {
    let instrument = job.instrument();
    let longest = (1..=instrument.strings)
        .map(|string| job.speaking_scale(string))
        .fold(Length::ZERO, Length::max);
    let reach = fret_position(longest, instrument.frets);
    let lanes = Lanes::new(instrument, NUT, TOP, LAST_FRET - NUT, reach);
    let zone = Zone::of(plan, lanes.per_mm);
    let mut drawing = Drawing::new(instrument.left_handed);

    lanes.in_hand(&mut drawing, in_hand);
    lanes.board(&mut drawing, job);
    frame(&mut drawing, &lanes, &zone, longest);
    for (string, state) in (1..).zip(job.strings()) {
        let y = lanes.y(string);
        let width = wire_width(state.spec.gauge());
        drawing.wire(width, lanes.nut_x(string), BREAK - 9.0, y);
        let end = plan
            .intonation
            .saddle_of(string)
            .map_or(Length::ZERO, SaddlePlan::shown_place);
        drawing.wire(width, BREAK + 9.0, zone.x(end), y);
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
    staircase(&mut drawing, &lanes, &zone, plan);
    for saddle in &plan.intonation.saddles {
        draw_saddle(&mut drawing, &lanes, &zone, saddle);
        let mut ends = saddle.strings();
        if let Some(first) = ends.next() {
            let last = ends.last().unwrap_or(first);
            let middle = f64::midpoint(lanes.y(first), lanes.y(last));
            caption(&mut drawing, middle + 6.0, saddle);
        }
    }
    for string in 1..=instrument.strings {
        let x = lanes.fret_x(job, string, fret) + BESIDE;
        let corner = (x, lanes.y(string) - FIELD.1 / 2.0);
        drawing.html(corner, FIELD, &field(string));
    }
    let label = format!(
        "Plan view of {}: lanes of strings with readings at fret {fret}, saddles at the bridge. The table beside it has the same numbers.",
        instrument.title()
    );
    drawing.finish(lanes.bottom() + 34.0, &label)
}

/// Cut, scale line, axis and captions.
fn frame(drawing: &mut Drawing, lanes: &Lanes, zone: &Zone, scale: Length) {
    let (top, bottom) = (lanes.top - 8.0, lanes.bottom() + 4.0);
    cut(drawing, top, bottom);
    // What the cut leaves out, so that the drawing does not lie.
    let drawn_to = Length::from_mm((BREAK - lanes.nut) / lanes.per_mm);
    let left_out = (scale + zone.from - drawn_to).max(Length::ZERO);
    drawing.text(
        "small",
        (BREAK - 12.0, bottom + 16.0),
        Anchor::End,
        &format!("{} {UNIT} not drawn", words::in_unit(left_out, 0)),
    );
    drawing.text(
        "small",
        (crate::svg::WIDTH - 12.0, lanes.top - 14.0),
        Anchor::End,
        &format!(
            "setback in {UNIT}, {:.0} times enlarged; dashed: the scale line; teal: the target",
            zone.magnified
        ),
    );
    drawing.line(
        "dash",
        (zone.x(Length::ZERO), top),
        (zone.x(Length::ZERO), bottom),
    );
    // Numbers two millimetres apart need some room.
    let step = if zone.per_mm < 13.0 { 4 } else { 2 };
    let mut tick = -20;
    while f64::from(tick) <= zone.end().mm() {
        let at = Length::from_mm(f64::from(tick));
        if at >= zone.from {
            let x = zone.x(at);
            drawing.line("thin", (x, bottom), (x, bottom + 4.0));
            drawing.text(
                "small",
                (x, bottom + 18.0),
                Anchor::Middle,
                &words::in_unit(at, 0),
            );
        }
        tick += step;
    }
}

/// The places wanted, string by string, as the stairs a technician knows.
fn staircase(drawing: &mut Drawing, lanes: &Lanes, zone: &Zone, plan: &Plan) {
    let mut stairs = Vec::new();
    for saddle in &plan.intonation.saddles {
        let x = zone.x(saddle.target.value);
        let (Some(first), Some(last)) = (saddle.strings().next(), saddle.strings().last()) else {
            continue;
        };
        stairs.push((x, lanes.y(first) - lanes.pitch / 2.0));
        stairs.push((x, lanes.y(last) + lanes.pitch / 2.0));
    }
    drawing.polyline("stair", &stairs);
}

fn draw_saddle(drawing: &mut Drawing, lanes: &Lanes, zone: &Zone, saddle: &SaddlePlan) {
    let known = &saddle.estimate;
    let (Some(first), Some(last)) = (saddle.strings().next(), saddle.strings().last()) else {
        return;
    };
    let (y1, y2) = (lanes.y(first), lanes.y(last));
    let middle = f64::midpoint(y1, y2);
    let (near, far) = (zone.x(known.nearest), zone.x(known.furthest.value));
    drawing.rect("slot", (near, middle - 7.0), (far - near, 14.0), 7.0);
    let out = saddle.short_by.is_some() && saddle.action != Action::Leave;
    let aim = zone.x(saddle.target.value);
    let half = (y2 - y1) / 2.0 + 13.0;
    let leave = saddle.action == Action::Leave;
    if !leave {
        drawing.rect(
            if out { "aim-out" } else { "aim" },
            (aim - 4.5, middle - half),
            (9.0, half * 2.0),
            2.0,
        );
    }
    if !known.placed {
        // Nothing read: the place wanted with its doubt; where the saddle stands nobody knows.
        let doubt = saddle.target.sigma.mm() * zone.per_mm;
        drawing.line("spread", (aim - doubt, middle), (aim + doubt, middle));
    } else {
        let now = zone.x(known.setback.value);
        if !leave && (aim - now).abs() > 16.0 {
            let lead = 7.0_f64.copysign(aim - now);
            drawing.arrow(now + lead, aim - lead, middle);
        }
        drawing.rect(
            "saddle",
            (now - 4.5, middle - half + 2.0),
            (9.0, half * 2.0 - 4.0),
            2.0,
        );
    }
}

/// What to do with the saddle, in the margin.
fn caption(drawing: &mut Drawing, y: f64, saddle: &SaddlePlan) {
    let (class, text) = match &saddle.action {
        Action::Adjust(step) => {
            if let Some(rotation) = step.rotation {
                drawing.turn_arrow(rotation, MOVES - 8.0, y - 6.0);
            }
            let text = words::by(step);
            drawing.text("move", (MOVES - 24.0, y), Anchor::End, &text);
            return;
        }
        Action::Measure(_) => ("", "measure again".to_owned()),
        Action::Leave => ("small", "leave".to_owned()),
        Action::Stop(Stop::Stuck) => ("out", "stuck".to_owned()),
        Action::Stop(_) => {
            let short = saddle
                .short_by
                .map_or(String::new(), |by| words::in_unit(by.abs(), 1));
            ("out", format!("{short} {UNIT} short"))
        }
    };
    drawing.text(class, (MOVES, y), Anchor::End, &text);
}
