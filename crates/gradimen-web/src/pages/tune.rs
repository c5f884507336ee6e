//! Tuning by ear: up to pitch, a float in its landing order, and how far fresh strings fell.

use gradimen_ear::{Heard, Stretched, Tuned};
use gradimen_store::Worked;

use super::answer::{Answer, lane, plain, signed};
use crate::vocabulary::*;
use crate::words::note;

/// Where the strings of a float are tuned to for now.
#[derive(Debug, Clone, PartialEq)]
pub(super) struct Landing {
    /// Cents off its own pitch, string 1 first.
    pub(super) cents: Vec<f64>,
    /// In which order.
    pub(super) order: Vec<u8>,
}

/// Where they land; nothing where each goes to its pitch.
pub(super) fn lands(worked: &Worked) -> Option<Landing> {
    let order = worked.plan.balance.as_ref()?.lands_now();
    if order.is_empty() {
        return None;
    }
    let off = |string: u8| {
        let found = order.iter().find(|(of, _)| *of == string);
        found.map_or(0.0, |(_, off)| off.value())
    };
    Some(Landing {
        cents: (1..=worked.known.instrument().strings).map(off).collect(),
        order: order.iter().map(|(string, _)| *string).collect(),
    })
}

/// Whether the claw is to be turned before any string is tuned.
pub(super) fn claw_first(worked: &Worked) -> bool {
    let plan = worked.plan.balance.as_ref();
    plan.is_some_and(|plan| plan.next_move().is_some())
}

/// The claw comes before the strings.
pub(super) fn not_yet() -> Answer {
    let small = "turn it as the page says and press Done; then pluck the thickest string";
    plain("First the claw", small, String::new())
}

fn named(job: &Known, string: u8) -> String {
    format!("String {string} {}", note(job, string))
}

fn unplaced(heard: &Heard) -> Answer {
    let small = format!(
        "{:.1} Hz is no open string near its pitch: turn the peg towards it, then pluck again",
        heard.note.hz
    );
    plain("Not placed", &small, String::new())
}

/// What a note says of the tuning.
pub(super) fn tuned(job: &Known, tuned: Tuned, heard: &Heard) -> Answer {
    let width = heard.note.width;
    match tuned {
        Tuned::Unplaced => unplaced(heard),
        Tuned::Early { string, first } => {
            let big = format!("First string {first} {}", note(job, first));
            let small = format!("string {string} comes after it: it moves the plate less");
            plain(&big, &small, String::new())
        }
        Tuned::Off { string, cents } => {
            let way = if cents < 0.0 { "up" } else { "down" };
            let big = format!("{}: {}", named(job, string), signed(cents));
            let small = format!("tune it {way}, then pluck it again");
            plain(&big, &small, lane(Some(cents), width, false))
        }
        Tuned::Right {
            string,
            cents,
            next,
        } => {
            let big = format!("{}: there", named(job, string));
            let small = match next {
                Some(next) => format!("now string {next} {}", note(job, next)),
                None => "all strings are there: read on".to_owned(),
            };
            plain(&big, &small, lane(Some(cents), width, true))
        }
    }
}

/// What a note says of a stretch; the last of them is told.
pub(super) fn stretched(job: &Known, stretched: Stretched, heard: &Heard) -> Answer {
    let width = heard.note.width;
    match stretched {
        Stretched::Unplaced => unplaced(heard),
        Stretched::Fell {
            string,
            cents,
            left,
        } => {
            let big = format!("{}: {}", named(job, string), signed(-cents));
            let small = format!("{left} more to pluck");
            plain(&big, &small, lane(Some(-cents), width, false))
        }
        Stretched::All { string, cents } => {
            let big = format!("The worst: string {string}, {}", signed(-cents));
            let told = vec![
                ("what", "stretched".to_owned()),
                ("station", "strings".to_owned()),
                ("drift", format!("{cents:.1}")),
            ];
            plain(
                &big,
                "all of them plucked",
                lane(Some(-cents), width, false),
            )
            .telling(told)
        }
    }
}
