//! An instrument as three choices draw it: board, strings, pickups and bridge from above, and its scale.

use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::bridge::{self, BREAK};
use super::views::{CUT, NUT, lanes_of, strings};
use super::{Anchor, Drawing};
use crate::vocabulary::*;

/// Draws it with what is usual on it.
pub(crate) fn draw(job: &Known) -> String {
    let instrument = job.instrument();
    let plan = Plan::of(job);
    let mut drawing = Drawing::new(instrument.left_handed);
    let lanes = lanes_of(job, 8.0);
    lanes.board(&mut drawing, job);
    let (top, bottom) = (lanes.y(1) - 12.0, lanes.y(lanes.count) + 12.0);
    for pickup in &instrument.pickups {
        // Those behind the cut are not drawn.
        let along = instrument.scale(1) - pickup.before_saddle.middle();
        let x = lanes.x(along);
        if x + 12.0 < CUT {
            drawing.rect("pickup", (x - 12.0, top), (24.0, bottom - top), 6.0);
        }
    }
    strings(&mut drawing, job, &lanes);
    bridge::small(&mut drawing, &lanes, job, &plan);
    let y = lanes.bottom() + 46.0;
    let end = BREAK - 8.0;
    let both = |length: Length| {
        format!(
            "{:.2} in \u{b7} {}",
            length.inches(),
            print::with_unit(length)
        )
    };
    let (first, last) = (instrument.scale(1), instrument.scale(instrument.strings));
    let says = if first == last {
        both(first)
    } else {
        format!("{} to {}", both(first), both(last))
    };
    drawing.line("arrow", (NUT, y), (end, y));
    for x in [NUT, end] {
        drawing.line("arrow", (x, y - 6.0), (x, y + 6.0));
    }
    drawing.text("move", ((NUT + end) / 2.0, y - 8.0), Anchor::Middle, &says);
    let bridge = instrument.bridge.family.name();
    drawing.text("small", (super::WIDTH - 12.0, y), Anchor::End, bridge);
    let label = format!(
        "{}-string {}, scale {says}, {bridge}",
        instrument.strings,
        instrument.kind.key()
    );
    drawing.finish(y + 14.0, &label)
}
