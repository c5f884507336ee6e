//! The slots of the nut.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let says = gradimen_bench::text::next::nut::headline(&known, &plan, 1);
//! assert!(says.kicker.contains("String") && !says.caution.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone, line};
use crate::decision::{Action, Stop, Verdict};
use crate::estimate::Estimate;
use crate::plan::Plan;
use crate::stations::nut::{NutString, awaits_action};
use crate::text::cautions;
use crate::text::numbers::{self, note, small, spread};

/// The one next move of a slot.
pub fn headline(known: &Estimate, plan: &Plan, string: u8) -> Headline {
    let mut next = Headline {
        caution: cautions::NUT.to_owned(),
        ..Headline::default()
    };
    let Some(slot) = plan.nut.slot_of(string) else {
        next.big = vec!["No such string".to_owned()];
        return next;
    };
    next.kicker = format!(
        "String {string} \u{b7} {} \u{b7} gap at fret 1, target {}",
        note(known, string),
        small(slot.quantity.target)
    );
    match &slot.action {
        Action::Measure(places) if awaits_action(places) => {
            next.big = vec![
                "Measure the action first:".to_owned(),
                format!("string {string} at fret {}", plan.action.fret),
            ];
            next.expect = vec![
                "Open, the gap at fret 1 hangs on the action. What is filed for a string that only lies too high cannot be put back.".to_owned(),
            ];
        }
        Action::Measure(_) => {
            next.asks = true;
            next.big = vec![
                if slot.quantity.last.is_some() {
                    "Measure again at fret 1,"
                } else {
                    "Measure the gap at fret 1,"
                }
                .to_owned(),
                format!("string {string}"),
            ];
            next.expect = vec![format!("Expect {} {UNIT}.", spread(slot.quantity.now))];
        }
        Action::Adjust(step) if plan.nut.as_one => {
            let lower = step.distance < Length::ZERO;
            next.tone = Tone::Move;
            next.big = vec![
                format!(
                    "{} the nut by {} {UNIT},",
                    if lower { "Lower" } else { "Raise" },
                    numbers::in_unit(step.distance.abs(), 2)
                ),
                "all strings as one".to_owned(),
            ];
            next.expect = vec![
                format!(
                    "Slacken the strings, loosen its bolts, and {}. The slots of a locking nut are not filed.",
                    if lower {
                        "take that much of its shims out, or plane its seat"
                    } else {
                        "put a shim of that thickness under it"
                    }
                ),
                format!(
                    "Expect {} {UNIT} at fret 1 of string {string} once neck and action are set.",
                    numbers::in_unit(slot.quantity.after, 2)
                ),
            ];
        }
        Action::Adjust(step) => {
            let (first, total) = (step.distance.abs(), slot.total);
            next.tone = Tone::Move;
            next.big = vec![
                format!(
                    "File {} {UNIT} off slot {string},",
                    numbers::in_unit(first, 2)
                ),
                "then measure again".to_owned(),
            ];
            next.expect = vec![
                format!(
                    "That is {}. {} in all; the last {} only after measuring again.",
                    print::thou(first),
                    small(total),
                    print::thou(total - first)
                ),
                format!(
                    "Expect {} {UNIT} at fret 1 once neck and action are set.",
                    numbers::in_unit(slot.quantity.after + (total - first) * slot.lever(known), 2)
                ),
            ];
            next.why = vec![
                line(
                    "at fret 1 now, from all readings",
                    format!("{} {UNIT}", spread(slot.quantity.now)),
                ),
                line(
                    "target",
                    format!("{} {UNIT}", numbers::in_unit(slot.quantity.target, 2)),
                ),
                line(
                    "once neck and action are set, unfiled",
                    format!(
                        "{} {UNIT}",
                        numbers::in_unit(slot.quantity.after + total * slot.lever(known), 2)
                    ),
                ),
                line(
                    "of a slot's depth shows at fret 1",
                    format!("{:.0} %", slot.lever(known) * 100.0),
                ),
                line(
                    "depth in all",
                    format!("{} {UNIT}", numbers::in_unit(total, 3)),
                ),
                line(
                    "left standing in the first pass",
                    format!("{} {UNIT}", numbers::in_unit(total - first, 2)),
                ),
            ];
        }
        Action::Stop(Stop::TooLow { by }) => {
            next.tone = Tone::Out;
            next.big = vec![
                format!("{} {UNIT} too low", numbers::in_unit(*by, 2)),
                "and cannot be filed back".to_owned(),
            ];
        }
        Action::Stop(Stop::ZeroFret { by }) => {
            let high = *by > Length::ZERO;
            next.tone = Tone::Out;
            next.big = vec![
                format!(
                    "{} {UNIT} too {}",
                    numbers::in_unit(by.abs(), 2),
                    if high { "high" } else { "low" }
                ),
                "on the zero fret".to_owned(),
            ];
            next.expect = vec![if high {
                "First see that the string lies on the zero fret and not in its slot, which only guides it: a slot that carries it is cut lower. If it does, the zero fret stands high: fretwork, not a file in the slot."
            } else {
                "The zero fret is worn or sits low: a new one, or level the others to it. A slot cannot cure it."
            }
            .to_owned()];
        }
        Action::Stop(_) => next.tone = Tone::Out,
        Action::Leave => {
            let all = |stands: fn(&NutString) -> bool| plan.nut.strings.iter().all(stands);
            let headline = if all(|slot| slot.quantity.verdict == Verdict::InSpec) {
                "Every slot is right"
            } else if all(|slot| slot.action == Action::Leave) {
                "Leave every slot"
            } else {
                "Leave this slot"
            };
            next.big = vec![headline.to_owned()];
            next.expect = vec![format!(
                "{} {UNIT} now, {} after all adjustments: {}.",
                spread(slot.quantity.now),
                numbers::in_unit(slot.quantity.after, 2),
                numbers::stands(&slot.quantity)
            )];
        }
    }
    next
}

/// What is to be done to a slot, in a row of the table.
pub fn in_short(slot: &NutString) -> String {
    match &slot.action {
        Action::Measure(places) if awaits_action(places) => "measure action first".to_owned(),
        Action::Measure(_) if slot.quantity.last.is_some() => "measure again".to_owned(),
        Action::Measure(_) => "measure".to_owned(),
        Action::Adjust(step) if slot.is_shim() => format!(
            "nut {} {} {UNIT}",
            if step.distance < Length::ZERO {
                "down"
            } else {
                "up"
            },
            numbers::in_unit(step.distance.abs(), 2)
        ),
        Action::Adjust(_) => format!("file {} {UNIT}", numbers::in_unit(slot.total, 2)),
        Action::Stop(Stop::TooLow { by }) => format!("{} {UNIT} too low", numbers::in_unit(*by, 2)),
        Action::Stop(Stop::ZeroFret { by }) => format!(
            "zero fret {} {UNIT} too {}",
            numbers::in_unit(by.abs(), 2),
            if *by > Length::ZERO { "high" } else { "low" }
        ),
        Action::Stop(_) => "stopped".to_owned(),
        Action::Leave => "leave".to_owned(),
    }
}

/// How sharp the first fret is: now, and after all adjustments where that differs.
pub fn first_fret(known: &Estimate, slot: &NutString) -> String {
    let Some((now, after)) = slot.first_fret(known) else {
        return String::new();
    };
    if (now - after).abs().value() < 0.05 {
        format!("{} c", print::cents(now))
    } else {
        format!("{} c, then {}", print::cents(now), print::cents(after))
    }
}
