//! Intonation by ear: harmonic or open string and fretted note, paired, and what is to be told of them.

use gradimen_bench::stations::intonation::heard::step_of;
use gradimen_core::quantity::Cents;
use gradimen_ear::{Heard, Interval, Kind, Pairs, Step};
use gradimen_store::Worked;

use super::answer::{Answer, FINEST, lane, plain, signed};
use crate::vocabulary::*;
use crate::words::note;

/// The fret at which intonation is set.
pub(super) const TWELFTH: u8 = 12;

/// What a note says of the intonation.
pub(super) fn paired(worked: &Worked, pairs: &mut Pairs, heard: &Heard) -> Answer {
    let (job, plan) = (&worked.known, &worked.plan);
    let string = heard.place.map(|place| place.string);
    let by_ear = string.and_then(|string| plan.intonation.by_ear(job, string));
    let aim = by_ear.map_or(0.0, |by_ear| by_ear.aim.value());
    let step = pairs.take(heard, aim, plan.intonation.threshold.value());
    let big = named(job, heard);
    match step {
        Step::Unplaced => {
            let small = format!(
                "{:.1} Hz is no note of this instrument in tune, or might be two: tune the string, then play again",
                heard.note.hz
            );
            plain("Not placed", &small, String::new())
        }
        Step::Reference { .. } => {
            let small = match heard.cents {
                Some(cents) if cents.abs() > 3.0 => {
                    format!("{} of pitch. Now fretted at 12", signed(cents))
                }
                _ => "now fretted at 12".to_owned(),
            };
            plain(&big, &small, lane(heard.cents, heard.note.width, false))
        }
        Step::Untuned { .. } => {
            let off = heard.cents.map_or(String::new(), signed);
            let small = format!("{off} of pitch: tune it first, then play it again");
            plain(&big, &small, lane(heard.cents, heard.note.width, false))
        }
        Step::Changed { string } => {
            let small = format!(
                "string {string} is not where it was: play the harmonic or the open string once more"
            );
            plain(&big, &small, lane(heard.cents, heard.note.width, false))
        }
        Step::Alone { string, again } => {
            let small = if again {
                format!(
                    "if that was the harmonic, nothing in it tells it from a fretted note: play string {string} open instead"
                )
            } else {
                format!("first the harmonic of string {string}, or the open string")
            };
            // Of which kind it was is not known.
            plain(
                &format!("String {string} {}, at 12", note(job, string)),
                &small,
                String::new(),
            )
        }
        Step::Again { interval, .. } => {
            let small = format!("{}: play both once more", told(&interval));
            plain(
                &big,
                &small,
                lane(Some(interval.cents - aim), interval.width, true),
            )
        }
        Step::Read { string, interval } => read(worked, string, &interval, aim),
    }
}

/// A reading that is to be kept, and before it the move that it shows was made.
fn read(worked: &Worked, string: u8, interval: &Interval, aim: f64) -> Answer {
    let (job, plan) = (&worked.known, &worked.plan);
    let (read, width) = (Cents::new(interval.cents), Cents::new(interval.width));
    let step = step_of(width);
    let mut tell = Vec::new();
    let by_ear = plan.intonation.by_ear(job, string);
    let moved = plan
        .intonation
        .saddle_of(string)
        .zip(by_ear)
        .filter(|(saddle, by_ear)| saddle.seems_moved(string, by_ear.now, read, width));
    if let Some((saddle, _)) = moved {
        tell.extend(crate::stations::intonation::done(saddle, string));
    }
    tell.push(vec![
        ("what", "read".to_owned()),
        ("station", "intonation".to_owned()),
        ("string", string.to_string()),
        ("fret", TWELFTH.to_string()),
        ("against", Reference::Harmonic.key().to_owned()),
        ("cents", format!("{:+.2}", interval.cents)),
        ("resolution", format!("{:.2}", step.value())),
    ]);
    let big = format!("String {string} {}: {}", note(job, string), told(interval));
    let small = if tell.len() > 1 {
        "turned as it was said, and read"
    } else {
        "read"
    };
    Answer {
        tell,
        ..plain(
            &big,
            small,
            lane(Some(interval.cents - aim), interval.width, true),
        )
    }
}

/// Which note, in words.
pub(super) fn named(job: &Known, heard: &Heard) -> String {
    let Some(place) = heard.place else {
        return format!("{:.1} Hz", heard.note.hz);
    };
    let how = match place.kind {
        Kind::Open => "open",
        Kind::Harmonic => "harmonic",
        Kind::Fretted => "fretted at 12",
    };
    format!("String {} {}, {how}", place.string, note(job, place.string))
}

fn told(interval: &Interval) -> String {
    format!(
        "{} \u{b1} {:.1}",
        signed(interval.cents),
        interval.width.max(FINEST)
    )
}
