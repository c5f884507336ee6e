//! The clearance map.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! use gradimen_bench::stations::clearance::ClearancePlan;
//!
//! let map = ClearancePlan::of(&known, |string| plan.lines[usize::from(string - 1)]);
//! let says = gradimen_bench::text::next::clearance::headline(&known, &map);
//! assert!(says.kicker.starts_with("Clearance"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone};
use crate::estimate::Estimate;
use crate::model::Keyed;
use crate::stations::clearance::{Bend, BuzzDiagnosis, BuzzRemedy, ClearancePlan, Suspect};
use crate::text::numbers::{self, small};

fn cure_words(cure: BuzzRemedy) -> String {
    match cure {
        BuzzRemedy::Rod { by } => format!("more relief: {} by hold 1 and last", small(by)),
        BuzzRemedy::Nut { by } => format!("a slot {} higher", small(by)),
        BuzzRemedy::Saddle { by } => format!("a height {} more", small(by)),
        BuzzRemedy::Fret(fret) => format!("fret {fret}: it stands high, or is not seated"),
        BuzzRemedy::None => "nothing: it clears".to_owned(),
    }
}

/// A suspect in words.
fn suspect(of: Suspect) -> String {
    match of {
        Suspect::Slot => "its nut slot: too low, too wide, or level".to_owned(),
        Suspect::BackAngle => "too little angle behind the nut".to_owned(),
        Suspect::LoosePart => "a loose part that rattles along".to_owned(),
        Suspect::String => "the string itself".to_owned(),
        Suspect::HighFret(fret) => format!("fret {fret} high, or not seated"),
        Suspect::WornFret(fret) => format!("fret {fret} worn under this string"),
        Suspect::Relief => "relief".to_owned(),
        Suspect::LowAction => "the action, for this touch".to_owned(),
        Suspect::RisingTongue => "the board rising toward its end".to_owned(),
    }
}

/// The test that decides whether it is that one.
fn test(of: Suspect) -> String {
    match of {
        Suspect::Slot => "hold at fret 3: no light over fret 1, or a strip of paper in the slot stops it",
        Suspect::BackAngle => "press the string down behind the nut while it rings: it stops",
        Suspect::LoosePart => "touch tuners, springs, screws, saddles and covers one by one while it rings",
        Suspect::String => "fit another string of that gauge",
        Suspect::HighFret(1) => "a short straightedge over frets 1 to 3: it does not lie on all; press the fret with a stick and see whether it moves",
        Suspect::HighFret(fret) => {
            return format!(
                "rocker over frets {}, {fret} and {}: it rocks on {fret}; press it with a stick and see whether it moves",
                fret - 1,
                fret + 1
            );
        }
        Suspect::WornFret(_) => "look for a groove or a flat under the string; bend it aside: it stops",
        Suspect::Relief => "measure relief on both sides, tuned to pitch",
        Suspect::LowAction => "raise the string a quarter turn: it stops; then look for a high fret first",
        Suspect::RisingTongue => "a straightedge over the last frets: they rise",
    }
    .to_owned()
}

/// A buzz that was heard: what, and what it may come from with the test that decides, likeliest first.
pub fn heard(heard: &BuzzDiagnosis) -> (String, Vec<[String; 3]>) {
    let lines = heard.suspects.iter().map(|one| {
        [
            format!("{:.0} %", one.share * 100.0),
            match (one.suspect, heard.cure) {
                (Suspect::Relief, BuzzRemedy::Rod { .. })
                | (Suspect::Slot, BuzzRemedy::Nut { .. })
                | (Suspect::LowAction, BuzzRemedy::Saddle { .. }) => {
                    format!("{}: {}", suspect(one.suspect), cure_words(heard.cure))
                }
                _ => suspect(one.suspect),
            },
            test(one.suspect),
        ]
    });
    (was_heard(heard), lines.collect())
}

fn was_heard(heard: &BuzzDiagnosis) -> String {
    format!(
        "string {} {}, at {:.0} % of the hardest stroke",
        heard.buzz.string,
        if heard.buzz.held == 0 {
            "open".to_owned()
        } else {
            format!("held at {}", heard.buzz.held)
        },
        heard.buzz.attack * 100.0
    )
}

/// What is done about a buzz that was heard, where the map itself shows nothing wrong.
fn about(heard: &BuzzDiagnosis, next: &mut Headline) {
    let string = heard.buzz.string;
    let played = if heard.buzz.held == 0 {
        "open".to_owned()
    } else {
        format!("held at {}", heard.buzz.held)
    };
    if heard.play_again {
        next.big = vec![
            format!("Play string {string} again,"),
            format!("{played}: it should clear"),
        ];
        next.expect = vec![
            "It was moved since it buzzed. If it still does, say so below once more.".to_owned(),
        ];
        return;
    }
    next.tone = Tone::Out;
    next.big = vec![format!("String {string} buzzes"), played];
    if let Some(first) = heard.suspects.first() {
        next.expect = vec![format!(
            "Likeliest, {:.0} %: {}. Test: {}.",
            first.share * 100.0,
            suspect(first.suspect),
            test(first.suspect)
        )];
    }
}

/// The buzz that is still to be settled: one that was not moved since, or else one to be played again.
fn open_buzz(map: &ClearancePlan) -> Option<&BuzzDiagnosis> {
    let open = map.heard.iter().rev().find(|heard| !heard.play_again);
    open.or_else(|| map.heard.last())
}

/// Where it touches first, what buzzes, or that it plays clean.
pub fn headline(known: &Estimate, map: &ClearancePlan) -> Headline {
    let worst = map
        .now
        .iter()
        .filter_map(|on| on.worst().map(|worst| (on.string, worst)))
        .min_by(|a, b| a.1.margin.mm().total_cmp(&b.1.margin.mm()));
    let targets = known.targets();
    let mut next = Headline {
        kicker: format!("Clearance \u{b7} {} touch, {}", known.player().touch.key(), known.player().style),
        caution: "A setup is right for one touch: it plays clean at a light touch and begins to grind at about three quarters of the hardest stroke. Raising the strings until the buzz stops hides a high fret and does not cure it.".to_owned(),
        ..Headline::default()
    };
    if known.instrument().construction.fretless {
        next.big = vec!["No frets:".to_owned(), "nothing to clear".to_owned()];
        next.expect = vec!["Over a board without frets a string is meant to touch as it swings. How much of that is wanted is heard, not computed: set relief and action, and play.".to_owned()];
        return next;
    }
    if let Some((string, worst)) = worst {
        if worst.margin < Length::ZERO {
            next.tone = Tone::Out;
            next.big = vec![
                format!("String {string} touches fret {}", worst.fret),
                format!(
                    "held at {}, by {} {UNIT}",
                    numbers::held(worst.held),
                    numbers::in_unit(worst.margin.abs(), 2)
                ),
            ];
            next.expect = vec![format!(
                "The least that cures it is {}.",
                cure_words(map.cure)
            )];
        } else if let Some(heard) = open_buzz(map) {
            about(heard, &mut next);
        } else {
            next.big = vec!["Plays clean at this touch".to_owned()];
            next.expect = vec![format!(
                "Smallest clearance {} {UNIT}: string {string} held at {}, at fret {}.",
                numbers::in_unit(worst.margin, 2),
                numbers::held(worst.held),
                worst.fret
            )];
        }
    }
    if let Some((treble, bass)) = map.lowest.first().zip(map.lowest.last()) {
        next.expect.push(format!(
            "For this touch and set: lowest {} {UNIT} treble and {} {UNIT} bass at fret {}, with {} of relief ({}).",
            numbers::in_unit(*treble, 2),
            numbers::in_unit(*bass, 2),
            targets.action_fret,
            small(map.lowest_relief),
            targets.relief_span.words()
        ));
    }
    next
}

/// A bend in words, and whether it chokes.
pub fn bend(bend: &Bend) -> (String, bool) {
    let out = bend.tightest.margin < Length::ZERO;
    let left = if out {
        format!(
            "chokes, {} {UNIT} too low",
            numbers::in_unit(bend.tightest.margin.abs(), 2)
        )
    } else {
        format!("{} {UNIT} left", numbers::in_unit(bend.tightest.margin, 2))
    };
    let says = format!(
        "string {} bent a whole step at fret {}, {} {UNIT} aside: {left} at fret {}",
        bend.string,
        bend.tightest.held,
        numbers::in_unit(bend.shift, 0),
        bend.tightest.fret
    );
    (says, out)
}

/// The hand that the map is drawn for.
pub fn hand(known: &Estimate, map: &ClearancePlan) -> String {
    let heard = match map.attack.heard {
        0 => ", a usual value until a buzz is heard".to_owned(),
        count => format!(", learned from {count} heard"),
    };
    format!(
        "{} touch: hardest stroke {:.2} N at a right angle to the board, {} from the saddle{heard}. The first swing is the worst case.",
        known.player().touch.key(),
        map.attack.pluck.force.newtons(),
        print::with_unit(map.attack.pluck.from_saddle),
    )
}
