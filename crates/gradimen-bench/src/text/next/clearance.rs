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

use super::{Headline, Tone};
use crate::estimate::Estimate;
use crate::model::Keyed;
use crate::stations::clearance::{Bend, BuzzDiagnosis, BuzzRemedy, ClearancePlan};
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

/// A buzz that was heard: what, where it touches, what cures it.
pub fn heard(heard: &BuzzDiagnosis) -> [String; 3] {
    [
        format!(
            "string {} {}, at {:.0} %",
            heard.buzz.string,
            if heard.buzz.held == 0 {
                "open".to_owned()
            } else {
                format!("held at {}", heard.buzz.held)
            },
            heard.buzz.attack * 100.0
        ),
        match heard.cure {
            BuzzRemedy::Fret(fret) => format!("fret {fret}"),
            _ => format!("fret {}", heard.fret),
        },
        cure_words(heard.cure),
    ]
}

/// Where it touches first, or that it plays clean.
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
    if let Some((string, worst)) = worst {
        if worst.margin < Length::ZERO {
            next.tone = Tone::Out;
            next.big = vec![
                format!("String {string} touches fret {}", worst.fret),
                format!(
                    "held at {}, by {} mm",
                    numbers::held(worst.held),
                    numbers::mm(worst.margin.abs(), 2)
                ),
            ];
            next.expect = vec![format!(
                "The least that cures it is {}.",
                cure_words(map.cure)
            )];
        } else {
            next.big = vec!["Plays clean at this touch".to_owned()];
            next.expect = vec![format!(
                "Smallest clearance {} mm: string {string} held at {}, at fret {}.",
                numbers::mm(worst.margin, 2),
                numbers::held(worst.held),
                worst.fret
            )];
        }
    }
    if let Some((treble, bass)) = map.lowest.first().zip(map.lowest.last()) {
        next.expect.push(format!(
            "For this touch and set: lowest {} mm treble and {} mm bass at fret {}, with {} of relief ({}).",
            numbers::mm(*treble, 2),
            numbers::mm(*bass, 2),
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
            "chokes, {} mm too low",
            numbers::mm(bend.tightest.margin.abs(), 2)
        )
    } else {
        format!("{} mm left", numbers::mm(bend.tightest.margin, 2))
    };
    let says = format!(
        "string {} bent a whole step at fret {}, {} mm aside: {left} at fret {}",
        bend.string,
        bend.tightest.held,
        numbers::mm(bend.shift, 0),
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
        print::mm(map.attack.pluck.from_saddle),
    )
}
