//! The play test: where each thing that is heard leads, and the test that decides (common practice).
//!
//! ```
//! use gradimen_bench::model::{Heard, Note, StationId};
//! use gradimen_bench::plan::proof::{Test, lead};
//!
//! // A string that buzzes open says so of its slot; high up it is the next frets.
//! assert_eq!(lead(Note { string: 2, fret: 0 }, Heard::Buzz, &[]).test, Test::Slot);
//! assert_eq!(lead(Note { string: 1, fret: 15 }, Heard::Choke, &[]).test, Test::RockAhead);
//! ```

use crate::estimate::Estimate;
use crate::journal::Event;
use crate::model::{Heard, Note, Place, Reading, Rocking, StationId};

/// As many strings that buzz in one stretch of the board say that it is the neck, not a fret.
const SEVERAL: usize = 3;
/// The frets that relief lifts the strings over.
const LOW: std::ops::RangeInclusive<u8> = 1..=5;
/// From here on a buzz is the frets', or a tongue that rises.
const HIGH: u8 = 13;

/// The test that decides.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Test {
    /// The gap at fret 1, held down at the third fret: none, and the slot is too low.
    Slot,
    /// The gap at fret 1 against its target: more, and the slot is too high.
    HighSlot,
    /// Relief, on both sides.
    Relief,
    /// The action over the twelfth.
    Action,
    /// A rocker over the frets ahead of the finger.
    RockAhead,
    /// The saddle, against the octave.
    Octave,
    /// The pickup's gap, the string held down at the last fret.
    Magnets,
    /// Touch each part while it sounds.
    Touch,
    /// Tune past it and back.
    TuneBack,
    /// Plugged in, covers and coil tapped.
    Tap,
}

/// Where a note that was heard leads.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Lead {
    /// To which station; nothing where no station cures it.
    pub station: Option<StationId>,
    /// By which test.
    pub test: Test,
}

/// Where a note leads, and which test decides; `all` is everything heard, for several strings together say another thing than one.
pub fn lead(note: Note, heard: Heard, all: &[(Note, Heard)]) -> Lead {
    let to = |station, test| Lead {
        station: Some(station),
        test,
    };
    let nowhere = |test| Lead {
        station: None,
        test,
    };
    match heard {
        Heard::Buzz => buzz(note, all),
        // What a bend runs into is the next frets.
        Heard::Choke | Heard::Dead => to(StationId::First, Test::RockAhead),
        Heard::Double => to(StationId::Pickups, Test::Magnets),
        Heard::OutOfTune if LOW.contains(&note.fret) => to(StationId::Nut, Test::HighSlot),
        Heard::OutOfTune => to(StationId::Intonation, Test::Octave),
        Heard::Jumps => to(StationId::Nut, Test::TuneBack),
        Heard::Rattle => nowhere(Test::Touch),
        Heard::Squeal => nowhere(Test::Tap),
    }
}

/// The fret ahead of a note, which it runs into: where the middle of a rocker stands. The last fret has none behind it.
pub fn ahead(note: Note, frets: u8) -> Note {
    Note {
        string: note.string,
        fret: (note.fret + 1).clamp(2, frets.saturating_sub(1).max(2)),
    }
}

/// What a rocker showed there last.
pub fn rocked(known: &Estimate, at: Note) -> Option<Rocking> {
    let place = Place::Rock {
        string: at.string,
        fret: at.fret,
    };
    let mut facts = known.facts().iter().rev();
    facts.find_map(|entry| match &entry.event {
        Event::Read {
            place: read,
            value: Reading::Rock { seen },
            ..
        } if *read == place => Some(*seen),
        _ => None,
    })
}

fn buzz(note: Note, all: &[(Note, Heard)]) -> Lead {
    let to = |station, test| Lead {
        station: Some(station),
        test,
    };
    let stretch = |fret: u8| match fret {
        0 => 0,
        fret if LOW.contains(&fret) => 1,
        fret if fret < HIGH => 2,
        _ => 3,
    };
    let mut strings: Vec<u8> = all
        .iter()
        .filter(|(other, heard)| *heard == Heard::Buzz && stretch(other.fret) == stretch(note.fret))
        .map(|(other, _)| other.string)
        .collect();
    strings.sort_unstable();
    strings.dedup();
    let several = strings.len() >= SEVERAL;
    match stretch(note.fret) {
        0 if several => to(StationId::Relief, Test::Relief),
        0 => to(StationId::Nut, Test::Slot),
        1 if several => to(StationId::Relief, Test::Relief),
        2 if several => to(StationId::Action, Test::Action),
        _ => to(StationId::First, Test::RockAhead),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const fn at(string: u8, fret: u8) -> Note {
        Note { string, fret }
    }

    #[test]
    fn one_string_is_a_fret_and_several_are_the_neck() {
        let one = [(at(3, 4), Heard::Buzz)];
        assert_eq!(lead(at(3, 4), Heard::Buzz, &one).test, Test::RockAhead);
        let several = [1, 2, 3].map(|string| (at(string, 3), Heard::Buzz));
        let low = lead(at(2, 3), Heard::Buzz, &several);
        assert_eq!(
            (low.station, low.test),
            (Some(StationId::Relief), Test::Relief)
        );
        // Twice on one string is one string, and other stretches are another matter.
        let twice = [
            (at(3, 2), Heard::Buzz),
            (at(3, 4), Heard::Buzz),
            (at(1, 9), Heard::Buzz),
        ];
        assert_eq!(lead(at(3, 4), Heard::Buzz, &twice).test, Test::RockAhead);
        let middle = [1, 2, 4].map(|string| (at(string, 8), Heard::Buzz));
        assert_eq!(
            lead(at(1, 8), Heard::Buzz, &middle).station,
            Some(StationId::Action)
        );
    }

    #[test]
    fn what_no_setup_cures_leads_to_no_station() {
        assert_eq!(lead(at(1, 7), Heard::Rattle, &[]).station, None);
        assert_eq!(lead(at(1, 0), Heard::Squeal, &[]).station, None);
        // Sharp next to the nut is a slot too high, never one to be raised.
        let low = lead(at(1, 2), Heard::OutOfTune, &[]);
        assert_eq!(
            (low.station, low.test),
            (Some(StationId::Nut), Test::HighSlot)
        );
        assert_eq!(
            lead(at(1, 12), Heard::OutOfTune, &[]).station,
            Some(StationId::Intonation)
        );
    }
}
