//! What the fret survey says.
//!
//! ```
//! use gradimen_bench::model::Note;
//! use gradimen_bench::plan::frets::Advice;
//! use gradimen_bench::text::frets;
//!
//! assert_eq!(frets::headline(Advice::Spot, 2), ["2 frets stand high:", "seat or spot-level them"]);
//! assert_eq!(frets::ask(Note { string: 3, fret: 9 }), "Rocker with its middle on fret 9, under string 3");
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::print::UNIT;

use super::numbers;
use crate::model::shop::Work;
use crate::model::{Note, Rocking, Side};
use crate::plan::frets::{Advice, AfterLevel, FretCut, Frets, TopKnown};

/// In large letters.
pub fn headline(advice: Advice, frets: usize) -> Vec<String> {
    let counted = if frets == 1 {
        "1 fret stands high:".to_owned()
    } else {
        format!("{frets} frets stand high:")
    };
    match advice {
        Advice::Survey => vec!["Lay the rocker,".to_owned(), "fret by fret".to_owned()],
        Advice::GoOn => vec![
            "None stands high so far:".to_owned(),
            "go on with the rocker".to_owned(),
        ],
        Advice::Leave => vec!["No fret stands high".to_owned()],
        Advice::Play => vec![counted, "it plays clean, file nothing".to_owned()],
        Advice::Seat => vec![
            if frets == 1 {
                "1 fret is loose:".to_owned()
            } else {
                format!("{frets} frets are loose:")
            },
            if frets == 1 {
                "seat it, then rock again"
            } else {
                "seat them, then rock again"
            }
            .to_owned(),
        ],
        Advice::Spot => vec![
            counted,
            if frets == 1 {
                "seat or spot-level it"
            } else {
                "seat or spot-level them"
            }
            .to_owned(),
        ],
        Advice::Level => vec![counted, "level, crown, polish".to_owned()],
        Advice::Refret => vec![counted, "more than a level can cure".to_owned()],
    }
}

/// Why, and what it would take.
pub fn why(frets: &Frets) -> Vec<String> {
    let most = format!("{} {UNIT}", numbers::in_unit(frets.most, 2));
    match frets.advice {
        Advice::Survey => vec!["It rocks on the middle one of three. Every rock says something of the frets beside it, and of the same fret under the next string.".to_owned()],
        Advice::GoOn | Advice::Leave => vec!["What was rocked stands still, within what a rocker shows.".to_owned()],
        Advice::Play => vec!["By what is known so far, this hand's hardest stroke clears it, with the strings as the plan will lay them. Lower strings or a harder hand may touch it: look here again then, or when it is heard.".to_owned(), "Bends are not in this: bend the strings over it and beside it, and say at the proof what chokes.".to_owned()],
        Advice::Seat => {
            let which: Vec<String> = frets.loose.iter().map(u8::to_string).collect();
            vec![
                format!("Fret {} gives under the stick. A loose fret is pressed home and glued, never filed: filed, it is low for good once it sits.", which.join(", ")),
                "When it holds, say so here; then rock it and its neighbours again.".to_owned(),
            ]
        }
        Advice::Spot => {
            let press = "Press each with a stick first: one that moves is only loose, and is seated and glued, not levelled.";
            let file = "Then tape, mark, a few light strokes, test again; crown, and polish through the grits.";
            [Some(press.to_owned()), in_the_way(frets), Some(file.to_owned())].into_iter().flatten().collect()
        }
        Advice::Level => vec![
            format!("By what is known so far about {most} must go where most must, or more: a rocker does not tell how much more. Feelers under a straightedge do, before any metal goes."),
            remains(frets),
            "Where the neck moves much under the strings, it is levelled under their load, by a jig or strung.".to_owned(),
            "Seat what is loose first.".to_owned(),
            "Measure relief, nut and action again after it: all of them hang on the tops.".to_owned(),
        ],
        Advice::Refret => vec![
            format!("Levelling would take {most} in one place."),
            remains(frets),
            "New frets, or a specialist's word, before any metal goes.".to_owned(),
        ],
    }
}

/// Which of them the file is for, where that is not all that stands high.
fn in_the_way(frets: &Frets) -> Option<String> {
    let asked = frets.to_play.iter().filter(|cut| !cut.strings.is_empty());
    let asked: Vec<String> = asked.map(|cut| cut.fret.to_string()).collect();
    (!asked.is_empty()).then(|| {
        format!(
            "In the way of this hand, by what is known: fret {}. What is not in its way and was not heard is left.",
            asked.join(", ")
        )
    })
}

/// What stays of the lowest crown.
fn remains(frets: &Frets) -> String {
    let left = format!("{} {UNIT}", numbers::in_unit(frets.remains, 2));
    format!(
        "The lowest crown, or one of usual height where none was measured, would keep {left}; under 0.75 mm it is not levelled once more."
    )
}

/// The heads of the table of what goes and what stays, with the unit they are in.
pub fn cut_heads() -> [String; 4] {
    [
        "Fret".to_owned(),
        format!("goes, to play ({UNIT})"),
        format!("goes, all level ({UNIT})"),
        format!("crown that stays ({UNIT})"),
    ]
}

/// A row of it: `9`, `0.04 under 2, 3`, `0.06`, `1.06, 1.04`.
pub fn cut(cut: &FretCut) -> [String; 4] {
    let printed = |length| numbers::in_unit(length, 2);
    let under: Vec<String> = cut.strings.iter().map(u8::to_string).collect();
    let play = if under.is_empty() {
        "nothing".to_owned()
    } else {
        format!("{} under {}", printed(cut.to_play), under.join(", "))
    };
    let (played, levelled) = cut.stays;
    [
        cut.fret.to_string(),
        play,
        printed(cut.to_level),
        format!("{}, {}", printed(played), printed(levelled)),
    ]
}

/// How a string lies before all frets are levelled and after it: `string 1: fret 1 0.45 to 0.49, action 1.60 to 1.66`.
pub fn after_level(after: &AfterLevel) -> String {
    let gap = |(now, then)| {
        format!(
            "{} to {}",
            numbers::in_unit(now, 2),
            numbers::in_unit(then, 2)
        )
    };
    format!(
        "string {}: over fret 1 {}, action {}",
        after.string,
        gap(after.nut),
        gap(after.action)
    )
}

/// How relief reads before it and after it: `relief on the bass side 0.20 to 0.23`.
pub fn relief_after_level((side, now, then): &(Side, Length, Length)) -> String {
    let side = match side {
        Side::Treble => "treble",
        Side::Bass => "bass",
    };
    format!(
        "relief on the {side} side {} to {}",
        numbers::in_unit(*now, 2),
        numbers::in_unit(*then, 2)
    )
}

/// Which work of the shop it is.
pub const fn work(advice: Advice) -> Option<Work> {
    match advice {
        Advice::Survey | Advice::GoOn | Advice::Leave | Advice::Play => None,
        Advice::Seat | Advice::Spot => Some(Work::SpotLevel),
        Advice::Level => Some(Work::Level),
        Advice::Refret => Some(Work::Refret),
    }
}

/// Where to lay it next.
pub fn ask(next: Note) -> String {
    format!(
        "Rocker with its middle on fret {}, under string {}",
        next.fret, next.string
    )
}

/// One that is called high.
pub fn high(top: &TopKnown) -> String {
    let (height, sigma) = top.height;
    format!(
        "fret {}, string {}: {} \u{b1} {} {UNIT} over its line, high with {}",
        top.note.fret,
        top.note.string,
        numbers::in_unit(height, 2),
        numbers::in_unit(sigma, 2),
        super::triage::share(top.high.unwrap_or(0.0))
    )
}

/// What a press with a stick told.
pub const fn pressed(gives: bool) -> &'static str {
    if gives { "it gives" } else { "it sits" }
}

/// What a rocker did: `did not rock`.
pub const fn rocked(seen: Rocking) -> &'static str {
    match seen {
        Rocking::None => "did not rock",
        Rocking::Slight => "rocked a little",
        Rocking::Clear => "rocked",
    }
}
