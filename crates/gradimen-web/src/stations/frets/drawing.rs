//! Every fret top over the line of its board, as bars on the lanes; any note can be tapped for the rocker.

use gradimen_bench::plan::frets::Frets;
use gradimen_core::quantity::Length;

use crate::svg::views::{board, finished};
use crate::vocabulary::*;

/// Drawing units for a hundredth of a millimetre.
const PER_HUNDREDTH: f64 = 4.0;
/// A top that deviates by less is not drawn.
const SHOWN: Length = Length::from_mm(0.003);

pub(super) fn draw(job: &Known, frets: &Frets, id: i64, in_hand: Note) -> String {
    let instrument = job.instrument();
    let (mut drawing, lanes) = board(job, Some(in_hand.string));
    let most = lanes.pitch * 0.42;
    for top in &frets.tops {
        let (x, y) = (
            lanes.fret_x(job, top.note.string, top.note.fret),
            lanes.y(top.note.string),
        );
        if top.height.0.abs() > SHOWN {
            let size = (top.height.0.mm() * 100.0 * PER_HUNDREDTH).clamp(-most, most);
            let class = if top.is_high() {
                "margin-out"
            } else {
                "margin"
            };
            let corner = (x - 3.5, if size > 0.0 { y - size } else { y });
            drawing.rect(class, corner, (7.0, size.abs()), 1.0);
        }
        // A dot where a rocker stood still.
        if top.rocked == Some(Rocking::None) {
            drawing.circle("rocked", (x, y + lanes.pitch * 0.36), 2.2);
        }
    }
    for string in 1..=instrument.strings {
        for fret in 2..instrument.frets {
            let (before, x, after) = (
                lanes.fret_x(job, string, fret - 1),
                lanes.fret_x(job, string, fret),
                lanes.fret_x(job, string, fret + 1),
            );
            let (start, end) = (f64::midpoint(before, x), f64::midpoint(x, after));
            let note = Note { string, fret };
            drawing.link(
                &format!("/jobs/{id}/frets?string={string}&fret={fret}"),
                &text::events::note_of(note),
                (start, lanes.y(string) - lanes.pitch * 0.5),
                (end - start, lanes.pitch),
                note == in_hand,
            );
        }
    }
    let label = format!("Fret tops of {} under every string.", instrument.title());
    let key = "up: over its line, a step is a hundredth; dot: stood still";
    finished(drawing, &lanes, key, &label)
}
