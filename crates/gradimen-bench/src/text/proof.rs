//! What is heard in the play test, and where it leads.
//!
//! ```
//! use gradimen_bench::model::{Heard, Note};
//! use gradimen_bench::plan::proof::lead;
//! use gradimen_bench::text::proof;
//!
//! let note = Note { string: 1, fret: 15 };
//! let says = proof::leads(note, lead(note, Heard::Choke, &[]), 22);
//! assert!(says.contains("rocker") && says.contains("fret 16"));
//! ```

use crate::model::{Note, Rocking};
use crate::plan::proof::{Lead, Test, ahead};

/// Where it leads, and what to do there.
pub fn leads(note: Note, lead: Lead, frets: u8) -> String {
    match lead.test {
        Test::Slot => "To the nut: hold it down at fret 3 and measure the gap at fret 1. No gap there, and the slot is too low or worn.".to_owned(),
        Test::HighSlot => "To the nut: measure the gap at fret 1. More than its target, and the slot is too high: these frets play sharp. At its target, press more lightly, and read fret by fret at the intonation.".to_owned(),
        Test::Relief => "To the relief: several strings buzz in one stretch. Measure both sides, at pitch.".to_owned(),
        Test::Action => "To the action: several strings buzz in the middle. Measure it at fret 12; with relief in spec they lie too low for this touch.".to_owned(),
        Test::RockAhead => format!(
            "To the frets: a rocker with its middle on fret {}, under string {}.",
            ahead(note, frets).fret,
            note.string
        ),
        Test::Octave => "To the intonation: fretted 12 against its reference.".to_owned(),
        Test::Magnets => "To the pickups: lower the nearest one on that side and play it again. The double note goes with the magnet.".to_owned(),
        Test::TuneBack => "To the nut: tune past the note and back. If it jumps, the slot binds: widen it to the string, or lubricate.".to_owned(),
        Test::Touch => "No fret: touch tuner, tree, saddle screw, spring and cover while it sounds. The part under the finger when it stops is the one.".to_owned(),
        Test::Tap => "No setup cures it: a coil or a cover. Tap both with the amplifier on; a specialist waxes it. The amplifier itself stays closed.".to_owned(),
    }
}

/// How the proof stands.
pub fn headline(open: usize, played_through: bool) -> String {
    match (open, played_through) {
        (0, true) => "Plays clean".to_owned(),
        (0, false) => "Play every note".to_owned(),
        (1, _) => "1 note to be cured".to_owned(),
        (count, _) => format!("{count} notes to be cured"),
    }
}

/// What a rocker over the fret ahead decides.
pub fn rocks(at: Note, seen: Rocking) -> String {
    match seen {
        Rocking::None => format!(
            "Fret {} does not rock: it is not high under this string. Measure the action, and listen for a part that is no fret.",
            at.fret
        ),
        Rocking::Slight | Rocking::Clear => format!(
            "Fret {} rocks under string {}. Press it with a stick: if it moves it is only loose, and is seated and glued. If it does not, it is high: mark it, a few light strokes, test again, crown and polish. Glasses on, the pickups taped.",
            at.fret, at.string
        ),
    }
}
