//! Levels by ear: the open strings of one pickup, several strokes of each.

use gradimen_core::units::print;
use gradimen_ear::{Heard, Level, Leveled};

use super::answer::{Answer, plain};
use crate::vocabulary::*;
use crate::words::note;

fn decibels(level: &Level) -> String {
    format!(
        "{} \u{b1} {:.1} dB",
        print::signed(level.decibels, 1),
        level.width
    )
}

/// What a note says of the levels of a pickup, counted from 1 at the neck; a level that is known is told.
pub(super) fn leveled(job: &Known, pickup: u8, leveled: Leveled, heard: &Heard) -> Answer {
    let named = |string: u8| format!("String {string} {}", note(job, string));
    match leveled {
        Leveled::Unplaced => {
            let small = format!(
                "{:.1} Hz is no open string in tune: levels are read open, the others damped",
                heard.note.hz
            );
            plain("Not placed", &small, String::new())
        }
        Leveled::More { string, level } => {
            let strokes = match level.strokes {
                1 => "one stroke".to_owned(),
                strokes => format!("{strokes} strokes"),
            };
            let big = format!("{}: {}", named(string), decibels(&level));
            plain(
                &big,
                &format!("{strokes}, strike it again alike"),
                String::new(),
            )
        }
        Leveled::Read {
            string,
            level,
            next,
        } => {
            let big = format!("{}: {}", named(string), decibels(&level));
            let small = match next {
                Some(next) => format!("read; now {}", named(next).replacen('S', "s", 1)),
                None => "read, and that was the last: switch to the next pickup, press its button, and leave every knob as it is".to_owned(),
            };
            plain(&big, &small, String::new()).telling(vec![
                ("what", "level".to_owned()),
                ("station", "pickups".to_owned()),
                ("pickup", pickup.to_string()),
                ("string", string.to_string()),
                ("level", format!("{:.1}", level.decibels)),
                ("doubt", format!("{:.1}", level.width)),
            ])
        }
    }
}
