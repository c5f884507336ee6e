//! Buzzes by ear: one string, struck at fret after fret.

use gradimen_bench::text::events::note_of;
use gradimen_ear::{Onset, Rattled};

use super::answer::{Answer, plain};
use crate::vocabulary::*;

/// What the strokes are for.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(super) enum Strokes {
    /// At how hard a stroke a buzz begins.
    Onset,
    /// Which notes buzz at all.
    PlayTest,
}

/// A buzz that begins at a known stroke, to be told.
fn begins(string: u8, fret: u8, onset: Onset) -> Vec<(&'static str, String)> {
    vec![
        ("what", "buzz".to_owned()),
        ("station", "clearance".to_owned()),
        ("string", string.to_string()),
        ("held", fret.to_string()),
        ("attack", format!("{:.2}", onset.share)),
        ("doubt", format!("{:.2}", onset.doubt)),
    ]
}

/// What a note of the play test does, to be told.
fn played(string: u8, fret: u8, heard: &str, sure: f64) -> Vec<(&'static str, String)> {
    vec![
        ("what", "played".to_owned()),
        ("station", "proof".to_owned()),
        ("string", string.to_string()),
        ("fret", fret.to_string()),
        ("heard", heard.to_owned()),
        ("sure", format!("{sure:.2}")),
    ]
}

/// What a stroke on a string says.
pub(super) fn rattled(job: &Known, string: u8, strokes: Strokes, rattled: Rattled) -> Answer {
    let named = |fret: u8| note_of(Note { string, fret }).replacen('s', "S", 1);
    let say = |big: String, small: &str| plain(&big, small, String::new());
    let decibels = |softer: f64| format!("{softer:.0}");
    match (rattled, strokes) {
        (Rattled::Unplaced, _) => say(
            "Not placed".to_owned(),
            &format!(
                "no fret of string {string} in tune sounds there: choose the string that is played, or tune it"
            ),
        ),
        (Rattled::Short(fret), _) => say(named(fret), "too short: let it ring for a second"),
        (Rattled::Unsure(fret), _) => {
            say(named(fret), "it may be a buzz or not: strike it once more")
        }
        // It takes nothing back.
        (Rattled::Soft { fret, softer }, _) => say(
            format!("{}: clean", named(fret)),
            &format!(
                "{} dB softer than you struck before: strike it as hard",
                decibels(softer)
            ),
        ),
        (Rattled::Noisy(fret), _) => say(
            named(fret),
            "what hisses and hums would hide a buzz: turn the instrument up or the noise down",
        ),
        (Rattled::Clean { fret, softer, .. }, Strokes::Onset) if softer < ALIKE => say(
            format!("{}: clean", named(fret)),
            "at that stroke; if you ever strike harder, do; else the next note",
        ),
        (Rattled::Clean { fret, softer, .. }, Strokes::Onset) => say(
            format!("{}: clean", named(fret)),
            &format!(
                "{} dB under the hardest; now a stroke between the two",
                decibels(softer)
            ),
        ),
        (
            Rattled::Buzzes {
                fret,
                softer,
                begins: None,
                ..
            },
            Strokes::Onset,
        ) if softer < ALIKE => say(
            format!("{}: buzzes", named(fret)),
            "taken for your hardest stroke; now softer, step by step, until it is clean",
        ),
        (
            Rattled::Buzzes {
                fret,
                softer,
                begins: None,
                ..
            },
            Strokes::Onset,
        ) => say(
            format!("{}: buzzes", named(fret)),
            &format!(
                "still, {} dB under the hardest: softer yet",
                decibels(softer)
            ),
        ),
        (
            Rattled::Buzzes {
                fret,
                begins: Some(onset),
                ..
            },
            Strokes::Onset,
        ) => {
            let [share, doubt] = [onset.share, onset.doubt].map(|share| 100.0 * share);
            let big = format!(
                "{}: buzzes from {share:.0} \u{b1} {doubt:.0} %",
                named(fret)
            );
            say(big, "of your hardest stroke; the next note").telling(begins(string, fret, onset))
        }
        (Rattled::Clean { fret, sure, .. }, Strokes::PlayTest) => {
            let said = say(format!("{}: clean", named(fret)), "the next note");
            // Only what was heard to be wrong before is worth a line.
            let note = Note { string, fret };
            if job
                .play_test()
                .any(|(at, heard)| at == note && heard == Heard::Buzz)
            {
                return said.telling(played(string, fret, "clean", sure));
            }
            said
        }
        (Rattled::Buzzes { fret, sure, .. }, Strokes::PlayTest) => say(
            format!("{}: buzzes", named(fret)),
            "kept; the next note",
        )
        .telling(played(string, fret, Heard::Buzz.key(), sure)),
    }
}

/// Strokes nearer than this are as hard as one another, decibels.
const ALIKE: f64 = 1.0;
