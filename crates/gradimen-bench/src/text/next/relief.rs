//! The truss rod.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let says = gradimen_bench::text::next::relief::headline(&known, &plan, gradimen_bench::model::Side::Bass);
//! assert!(says.kicker.starts_with("Neck"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone, line};
use crate::decision::{Action, Move, Sum, Verdict};
use crate::estimate::Estimate;
use crate::model::instrument::{Kind, RodAt};
use crate::model::{Keyed, Place, Side};
use crate::plan::Plan;
use crate::stations::relief::NeckFault;
use crate::text::cautions;
use crate::text::numbers::{self, small, spread};

/// The one next move of the truss rod, a side in hand.
pub fn headline(known: &Estimate, plan: &Plan, side: Side) -> Headline {
    let relief = &plan.relief;
    let quantity = &relief.sides[side.index()];
    let target = plan.targets.relief.middle();
    let mut next = Headline {
        kicker: format!(
            "Neck \u{b7} target {}, {}",
            small(target),
            plan.targets.relief_span.words()
        ),
        caution: cautions::ROD.to_owned(),
        ..Headline::default()
    };
    match &relief.action {
        Action::Measure(places) => {
            next.asks = true;
            let asked = || places.iter().filter_map(|place| place.side());
            let names: Vec<&str> = asked().map(Keyed::key).collect();
            let of = |side: Side| &relief.sides[side.index()];
            next.big = vec![
                if asked().any(|side| of(side).last.is_none()) {
                    "Tune up and measure relief,"
                } else if asked().all(|side| of(side).fresh() > 0) {
                    "Measure relief once more,"
                } else {
                    "Tune up and measure again,"
                }
                .to_owned(),
                format!("{} side", names.join(" and ")),
            ];
            next.expect = vec![format!(
                "Expect {} {UNIT} on the {} side.",
                spread(quantity.now),
                side.key()
            )];
        }
        Action::Adjust(step) => turn(known, plan, step, &mut next),
        Action::Leave => {
            next.big = vec!["Leave the truss rod".to_owned()];
            let [treble, bass] = &relief.sides;
            next.expect = vec![
                format!(
                    "Treble {} {UNIT}: {}.",
                    spread(treble.now),
                    numbers::stands(treble)
                ),
                format!(
                    "Bass {} {UNIT}: {}.",
                    spread(bass.now),
                    numbers::stands(bass)
                ),
            ];
            let both = relief
                .sides
                .iter()
                .all(|side| side.verdict == Verdict::InSpec);
            let straight = relief
                .faults
                .iter()
                .any(|fault| matches!(fault, NeckFault::NoSideBelow(_)));
            if !both && !straight {
                next.expect
                    .push("One rod turns both: their mean is aimed at.".to_owned());
            }
        }
        Action::Stop(_) => {
            next.tone = Tone::Out;
            next.big = vec![
                "Stop: a setup cannot".to_owned(),
                "put this neck right".to_owned(),
            ];
        }
    }
    next
}

fn turn(known: &Estimate, plan: &Plan, step: &Move, next: &mut Headline) {
    let tighten = step.turns().value() > 0.0;
    let at = known.instrument().neck.rod_at;
    next.tone = Tone::Move;
    next.big = vec![
        format!(
            "{} {} turn:",
            if tighten { "Tighten" } else { "Loosen" },
            print::turns(step.turns())
        ),
        step.rotation
            .map_or_else(String::new, |way| way.to_string()),
    ];
    next.expect = vec![
        format!(
            "Seen at its nut. Retune, then measure both sides again: expect treble {}, bass {} {UNIT}.",
            expected_on(step, Side::Treble),
            expected_on(step, Side::Bass)
        ),
        match step.rounds {
            1 => "One round.".to_owned(),
            _ if at == RodAt::Heel => {
                "One removal now; a second is sized from what this one did.".to_owned()
            }
            rounds => format!("About {rounds} rounds, never more than a quarter turn at once."),
        },
    ];
    if at == RodAt::Wheel {
        next.expect.push("Any bar that fits the holes of the wheel turns it, with the strings on: a rod of its size, never a blade that can slip onto the board.".to_owned());
    }
    if at == RodAt::Heel {
        next.expect.push("The key goes in at the heel: strings off, the neck out of its pocket and slack. Mark where it sat.".to_owned());
    }
    if known.instrument().kind == Kind::Bass && !tighten {
        next.expect
            .push("Loosening under load is harmless.".to_owned());
    }
    let relief = &plan.relief;
    let Sum::Rod {
        off,
        per_turn,
        doubt,
    } = step.sum
    else {
        return;
    };
    next.why = vec![
        line(
            "relief now, treble and bass",
            format!(
                "{} and {} {UNIT}",
                spread(relief.sides[0].now),
                spread(relief.sides[1].now)
            ),
        ),
        line(
            "target",
            format!("{} {UNIT}", numbers::in_unit(relief.sides[0].target, 2)),
        ),
        line(
            "off, as the mean of both sides, no side below straight",
            format!("{} {UNIT}", numbers::in_unit(off, 2)),
        ),
        line(
            "a whole turn of this truss rod takes away",
            format!(
                "{} {UNIT}, within {:.0} %",
                numbers::in_unit(per_turn, 2),
                doubt * 100.0
            ),
        ),
        line("turns in all", format!("{:.2}", step.total.value())),
        line(
            "at once, at most",
            "a quarter; an eighth when near".to_owned(),
        ),
        line(
            "raises the action at fret 12 by",
            format!(
                "{} {UNIT}",
                numbers::in_unit(plan.relief.twelfth_change(known), 2)
            ),
        ),
    ];
}

/// What a side will read after the round.
fn expected_on(step: &Move, side: Side) -> String {
    let on = |place: &Place| matches!(place, Place::Relief { side: at, .. } if *at == side);
    let expected = step.expected.iter().find(|expected| on(&expected.place));
    let value = expected.and_then(|expected| expected.value.length());
    value.map_or_else(String::new, spread)
}
