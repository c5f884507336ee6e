//! What some work took: visits to screws, readings, and minutes as a technician's would be.
//!
//! The minutes are common practice, from memory, and one table for everybody: the plan, trial and error, and whoever practises.

use std::collections::BTreeSet;

use gradimen_bench::journal::{Entry, Event};
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{Adjuster, Fretwork, Observation, Place, Practised, Toll};
use gradimen_trial::sorts::screws_of;

/// What a journal took; what is out at the end is not looked at here. What was undone was made all the same, and undoing it is a move where
/// something was moved; a reading that was written wrong is only written again.
pub fn of<'a>(entries: impl IntoIterator<Item = &'a Entry>, instrument: &Instrument) -> Toll {
    let mut toll = Toll::default();
    let mut last: Option<Adjuster> = None;
    let mut moved: BTreeSet<u64> = BTreeSet::new();
    for entry in entries {
        match &entry.event {
            Event::Adjusted { adjuster, .. } => {
                moved.insert(entry.group);
                if last != Some(*adjuster) {
                    toll.moves += visits(*adjuster, instrument);
                    toll.minutes += minutes(*adjuster);
                }
                last = Some(*adjuster);
            }
            Event::Read { place, .. } => {
                toll.readings += readings(*place);
                toll.minutes += reading(*place);
                last = None;
            }
            Event::Undone { target } | Event::Redone { target } if moved.contains(target) => {
                toll.moves += 1;
                toll.minutes += BACK;
                last = None;
            }
            Event::Restrung { .. } => {
                moved.insert(entry.group);
                toll.minutes += RESTRING;
            }
            Event::Observed { what } => match what {
                Observation::Practised {
                    what: Practised::Waited { minutes },
                } => toll.minutes += minutes,
                Observation::Fretwork { work, .. } => {
                    toll.moves += 1;
                    toll.minutes += fretwork(*work);
                }
                Observation::Pressed { .. } | Observation::Played { .. } => toll.minutes += LISTEN,
                _ => {}
            },
            _ => {}
        }
    }
    toll
}

/// Undoing or doing again.
const BACK: f64 = 1.0;
/// New strings, stretched.
const RESTRING: f64 = 15.0;
/// A fret pressed, a note played.
const LISTEN: f64 = 0.1;

/// Screws, or passes of a file, in one visit.
fn visits(adjuster: Adjuster, instrument: &Instrument) -> u32 {
    match adjuster {
        Adjuster::NutSlots { strings } => strings.iter().count() as u32,
        _ => screws_of(adjuster, instrument),
    }
}

/// A note against its harmonic is two readings.
const fn readings(place: Place) -> u32 {
    match place {
        Place::Intonation { .. } => 2,
        _ => 1,
    }
}

const fn reading(place: Place) -> f64 {
    match place {
        Place::Relief { .. }
        | Place::ClawEnds
        | Place::Scale { .. }
        | Place::Saddle { .. }
        | Place::RodCheck => 0.5,
        Place::Nut { .. } | Place::Gap | Place::Spring => 0.4,
        Place::Intonation { .. } => 0.7,
        Place::Rock { .. } => 0.15,
        _ => 0.3,
    }
}

/// With everything brought to pitch again afterwards.
fn minutes(adjuster: Adjuster) -> f64 {
    match adjuster {
        Adjuster::TrussRod => 2.5,
        Adjuster::NutSlots { strings } => 2.5 * strings.iter().count() as f64,
        Adjuster::Claw | Adjuster::Seat => 4.0,
        Adjuster::Springs => 5.0,
        Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } => 1.0,
        Adjuster::SaddleDrive { .. } => 1.3,
        // Slackened until it slides, marked, shifted, tuned up.
        Adjuster::Bar => 3.0,
        // Strings off, neck or bridge off and on again.
        Adjuster::Pocket { .. } => 15.0,
        Adjuster::Bridge => 10.0,
        _ => 0.5,
    }
}

const fn fretwork(work: Fretwork) -> f64 {
    match work {
        Fretwork::Seated => 20.0,
        Fretwork::Spot => 25.0,
        Fretwork::Levelled => 120.0,
        Fretwork::Refretted => 240.0,
    }
}
