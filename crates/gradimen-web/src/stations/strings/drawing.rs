//! The plan view at the strings station: the whole string at true scale, its weight as line
//! width, its pull as a bar.

use crate::vocabulary::*;
use gradimen_core::quantity::{Force, Length};
use gradimen_core::tension::Load;

use crate::svg::lanes::{Lanes, wire_width};
use crate::svg::{Anchor, Drawing};
use crate::words;

const TOP: f64 = 30.0;
const NUT: f64 = 232.0;
/// The saddles stand here.
const BRIDGE: f64 = 770.0;
const BARS: (f64, f64) = (806.0, 1096.0);
/// Size of the fields for note and gauge.
const NOTE: (f64, f64) = (74.0, 40.0);
const GAUGE: (f64, f64) = (92.0, 40.0);

/// Draws the station. `note` and `gauge` give the HTML of a string's two fields.
pub(crate) fn draw(
    job: &Known,
    pull: &Pull,
    note: impl Fn(u8) -> String,
    gauge: impl Fn(u8) -> String,
) -> String {
    let instrument = job.instrument();
    let longest = (1..=instrument.strings)
        .map(|string| job.speaking_scale(string))
        .fold(Length::ZERO, Length::max);
    let lanes = Lanes::new(instrument, NUT, TOP, BRIDGE - NUT, longest);
    let mut drawing = Drawing::new(instrument.left_handed);
    drawing.text("small", (44.0, TOP - 10.0), Anchor::Start, "note");
    drawing.text("small", (126.0, TOP - 10.0), Anchor::Start, "gauge");
    drawing.text("small", (BARS.0, TOP - 10.0), Anchor::Start, "tension, N");
    lanes.board(&mut drawing, job);
    let most = pull
        .rows
        .iter()
        .map(|row| row.pull.max(row.pull - row.change.unwrap_or(Force::ZERO)))
        .fold(Force::ZERO, Force::max);
    let length = |force: Force| force.ratio(most) * (BARS.1 - BARS.0);
    for (row, state) in pull.rows.iter().zip(job.strings()) {
        let y = lanes.y(row.string);
        let own = lanes.of(row.string);
        let end = own.x(job.speaking_scale(row.string));
        drawing.wire(wire_width(state.spec.gauge()), own.nut, end, y);
        drawing.rect("saddle", (end - 2.0, y - 11.0), (9.0, 22.0), 2.0);
        drawing.text(
            "strong",
            (20.0, y + 6.0),
            Anchor::Start,
            &row.string.to_string(),
        );
        drawing.html((38.0, y - NOTE.1 / 2.0), NOTE, &note(row.string));
        drawing.html((118.0, y - GAUGE.1 / 2.0), GAUGE, &gauge(row.string));
        if let Some(change) = row.change {
            drawing.rect(
                "bar-before",
                (BARS.0, y - 12.0),
                (length(row.pull - change), 24.0),
                0.0,
            );
        }
        let class = if row.load == Load::Fine {
            "bar"
        } else {
            "bar-high"
        };
        drawing.rect(class, (BARS.0, y - 8.0), (length(row.pull), 16.0), 0.0);
        if row.load != Load::Fine {
            drawing.mark(Verdict::TooHigh, BARS.1 + 18.0, y);
        }
        drawing.text(
            "strong",
            (BARS.1 + 74.0, y + 6.0),
            Anchor::End,
            &words::newtons(row.pull),
        );
        let share = format!("{:.0} % of all", row.share * 100.0);
        drawing.text("small", (1268.0, y + 6.0), Anchor::End, &share);
    }
    let label = format!(
        "Plan view of {}: strings with their pull as bars. The table below has the same numbers.",
        instrument.title()
    );
    drawing.finish(lanes.bottom() + 30.0, &label)
}
