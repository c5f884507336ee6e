//! Tuning by ear: up to pitch, a float in its landing order, and how far fresh strings fell.

use gradimen_ear::{Heard, Stretched, Tuned, Tuning};
use gradimen_store::Worked;

use super::answer::{Answer, lane, plain, signed};
use crate::vocabulary::*;
use crate::words::note;

/// In tune is what a hand reaches, in cents; on a float the next string moves it again.
const IN_TUNE: f64 = 1.0;
const LANDED: f64 = 3.0;

/// All strings at their pitch, in any order.
pub(super) fn up(worked: &Worked) -> Tuning {
    Tuning::in_tune(worked.known.instrument().strings, IN_TUNE)
}

/// In the landing order where the plan has one, else up to pitch.
pub(super) fn landing(worked: &Worked) -> Tuning {
    let plan = worked.plan.balance.as_ref();
    let order = plan.map_or(&[][..], |plan| &plan.landing);
    if order.is_empty() {
        return up(worked);
    }
    Tuning::in_order(order.iter().map(|(string, _)| *string).collect(), LANDED)
}

/// Where each string is tuned to for now, in cents off its own pitch, string 1 first.
pub(super) fn lands_at(worked: &Worked) -> Vec<f64> {
    let plan = worked.plan.balance.as_ref();
    let order = plan.map_or(&[][..], |plan| &plan.landing);
    let off = |string: u8| {
        let found = order.iter().find(|(of, _)| *of == string);
        found.map_or(0.0, |(_, off)| off.value())
    };
    (1..=worked.known.instrument().strings).map(off).collect()
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
            let big = format!("First {}", named(job, first).to_lowercase_first());
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
                Some(next) => format!("now {}", named(job, next).to_lowercase_first()),
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
            plain(&big, "saved", lane(Some(-cents), width, false)).telling(told)
        }
    }
}

/// A sentence's first letter in the middle of another.
trait Inside {
    fn to_lowercase_first(&self) -> String;
}

impl Inside for String {
    fn to_lowercase_first(&self) -> String {
        let mut letters = self.chars();
        let first = letters.next().map(|letter| letter.to_ascii_lowercase());
        first.into_iter().chain(letters).collect()
    }
}
