//! Heights of the strings, given by hand.

use super::Fields;
use crate::vocabulary::*;

/// Shows heights in their fields.
pub(crate) fn fill(fields: &mut Fields, heights: &HeightsGiven) {
    for (name, value) in [
        ("first_treble", &heights.first_fret_treble),
        ("first_bass", &heights.first_fret_bass),
        ("twelfth_treble", &heights.twelfth_treble),
        ("twelfth_bass", &heights.twelfth_bass),
    ] {
        fields.set(name, value.written.clone());
    }
    if heights.measured {
        fields.set("heights_measured", "on");
    }
}

/// Reads them back.
pub(crate) fn read(fields: &mut Fields) -> Option<HeightsGiven> {
    let first_fret_treble = fields.length("first_treble", &limits::FIRST_FRET);
    let first_fret_bass = fields.length("first_bass", &limits::FIRST_FRET);
    let twelfth_treble = fields.length("twelfth_treble", &limits::TWELFTH);
    let twelfth_bass = fields.length("twelfth_bass", &limits::TWELFTH);
    Some(HeightsGiven {
        first_fret_treble: first_fret_treble?,
        first_fret_bass: first_fret_bass?,
        twelfth_treble: twelfth_treble?,
        twelfth_bass: twelfth_bass?,
        measured: fields.ticked("heights_measured"),
    })
}
