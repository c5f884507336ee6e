//! The board to play through: every note can be tapped, what is heard stands where it is heard.

use crate::svg::views::{board, finished};
use crate::vocabulary::*;

/// Every string over every fret, as links to its note; marks where something is heard.
pub(super) fn draw(job: &Known, id: i64, in_hand: Note) -> String {
    let instrument = job.instrument();
    let (mut drawing, lanes) = board(job, Some(in_hand.string));
    // The open string is its label, left of the nut.
    let before = |string: u8, fret: u8| match fret {
        0 => 8.0,
        1 => lanes.nut_x(string),
        _ => lanes.fret_x(job, string, fret - 1),
    };
    for string in 1..=instrument.strings {
        for fret in 0..=instrument.frets {
            let end = match fret {
                0 => lanes.nut_x(string) - 6.0,
                _ => lanes.fret_x(job, string, fret),
            };
            let start = before(string, fret);
            let (y, note) = (lanes.y(string), Note { string, fret });
            let corner = (start, y - lanes.pitch * 0.5);
            let label = text::events::note_of(note);
            drawing.link(
                &format!("/jobs/{id}/proof?string={string}&fret={fret}"),
                &label,
                corner,
                (end - start, lanes.pitch),
                note == in_hand,
            );
        }
    }
    for (note, _) in job.play_test() {
        let x = match note.fret {
            // Between note and gauge.
            0 => 82.0,
            fret => f64::midpoint(
                before(note.string, fret),
                lanes.fret_x(job, note.string, fret),
            ),
        };
        drawing.mark(Verdict::Blocked, x, lanes.y(note.string));
    }
    let label = format!(
        "Play test of {}: every note of every string.",
        instrument.title()
    );
    let key = "tap a note, then say what is heard there";
    finished(drawing, &lanes, key, &label)
}
