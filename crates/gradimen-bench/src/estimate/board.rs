//! How even the fret tops are, from what says so by itself: the rocker, and grooves that were measured. What heights and
//! relief say of single tops beside that hangs on the rest of the estimate and is asked by [`crate::plan::frets`].

use std::sync::Arc;

use gradimen_core::fretboard::fret_position;
use gradimen_core::quantity::Length;
use gradimen_core::survey::{Rock, Survey};

use crate::job::Job;
use crate::journal::{Entry, Event};
use crate::model::{Note, Observation, Place, Reading, Rocking};

/// A groove is measured against the rest of its fret, by the eye of a hand.
const GROOVE: Length = Length::from_mm(0.02);

/// Where a top stands in a survey.
pub(crate) fn index(note: Note) -> (usize, usize) {
    (
        usize::from(note.string.max(1) - 1),
        usize::from(note.fret.max(1) - 1),
    )
}

/// Where a rocker can stand with its middle.
pub(crate) fn can_rock(note: Note, frets: u8) -> bool {
    note.fret >= 2 && note.fret < frets
}

const fn rock_of(seen: Rocking) -> Rock {
    match seen {
        Rocking::None => Rock::None,
        Rocking::Slight => Rock::Slight,
        Rocking::Clear => Rock::Clear,
    }
}

/// What the rocker showed last, place by place, since frets were worked on within its reach.
pub(crate) fn rocked(facts: &[Arc<Entry>]) -> Vec<(Note, Rocking)> {
    let mut rocked: Vec<(Note, Rocking)> = Vec::new();
    for entry in facts {
        match &entry.event {
            Event::Read {
                place: Place::Rock { string, fret },
                value: Reading::Rock { seen },
                ..
            } => {
                let note = Note {
                    string: *string,
                    fret: *fret,
                };
                rocked.retain(|(at, _)| *at != note);
                rocked.push((note, *seen));
            }
            Event::Observed {
                what: Observation::Fretwork { fret, .. },
            } => {
                // It stands on three.
                let stood = |at: &Note| fret.is_none_or(|fret| at.fret.abs_diff(fret) <= 1);
                rocked.retain(|(at, _)| !stood(at));
            }
            _ => {}
        }
    }
    rocked
}

/// Nothing known yet; none where no rocker can stand.
pub(crate) fn fresh(job: &Job) -> Option<Survey> {
    let instrument = job.instrument();
    let places: Vec<Vec<Length>> = (1..=instrument.strings)
        .map(|string| {
            let scale = job.speaking_scale(string);
            (1..=instrument.frets)
                .map(|fret| fret_position(scale, fret))
                .collect()
        })
        .collect();
    Survey::new(&places).ok()
}

/// Takes in what the rocker showed.
pub(crate) fn take_rocks(survey: &mut Survey, rocked: &[(Note, Rocking)], frets: u8) {
    for (note, seen) in rocked.iter().filter(|(note, _)| can_rock(*note, frets)) {
        let (string, fret) = index(*note);
        survey.rocked(string, fret, rock_of(*seen)).ok();
    }
}

/// Takes in the grooves: a worn top lies under the rest of its fret.
pub(crate) fn take_wear(survey: &mut Survey, job: &Job) {
    let strings = usize::from(job.instrument().strings);
    for (note, depth) in job.worn() {
        let (string, fret) = index(note);
        let share = -1.0 / (strings.max(2) - 1) as f64;
        let others = (0..strings).filter(|other| *other != string);
        let mut tops: Vec<(usize, usize, f64)> = others.map(|other| (other, fret, share)).collect();
        tops.push((string, fret, 1.0));
        survey.doubted(string, fret, depth.middle()).ok();
        survey.measured(&tops, -depth.middle(), GROOVE).ok();
    }
}

/// How far every top is believed to deviate from the line of the board, string by string; nothing where nothing says so.
pub(crate) fn uneven(job: &Job, facts: &[Arc<Entry>], worn: bool) -> Option<Vec<Vec<Length>>> {
    let rocked = rocked(facts);
    let worn = worn && job.worn().next().is_some();
    if (rocked.is_empty() && !worn) || job.instrument().construction.fretless {
        return None;
    }
    let mut survey = fresh(job)?;
    let instrument = job.instrument();
    take_rocks(&mut survey, &rocked, instrument.frets);
    if worn {
        take_wear(&mut survey, job);
    }
    let top = |string, fret| {
        survey
            .top(string, fret)
            .map_or(Length::ZERO, |(top, _)| top)
    };
    let frets = usize::from(instrument.frets);
    Some(
        (0..usize::from(instrument.strings))
            .map(|string| (0..frets).map(|fret| top(string, fret)).collect())
            .collect(),
    )
}
