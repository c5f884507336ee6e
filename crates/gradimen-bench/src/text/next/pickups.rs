//! The pickups: gaps, pole pieces and levels.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/pickups-and-poles.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let says = gradimen_bench::text::next::pickups::headline(&known, &plan, 0, gradimen_bench::model::Side::Bass);
//! assert!(says.kicker.contains("pickup, bass side"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone, line};
use crate::decision::{Action, Move, Stop};
use crate::estimate::Estimate;
use crate::model::{Keyed, Place, Side};
use crate::plan::Plan;
use crate::stations::pickups::{LevelDifference, PickupPlan, PickupSide, PolePiece};
use crate::text::cautions;
use crate::text::numbers::{self, spread};

/// The one next move of a side of a pickup.
pub fn headline(known: &Estimate, plan: &Plan, pickup: usize, side: Side) -> Headline {
    let mut next = Headline {
        caution: cautions::PICKUPS.to_owned(),
        ..Headline::default()
    };
    let Some(of) = plan.pickups.pickups.get(pickup) else {
        next.big = vec!["No pickups on record".to_owned()];
        return next;
    };
    let at = of.side(side);
    next.kicker = format!(
        "The {} pickup, {} side \u{b7} target {} {UNIT} ({})",
        of.name,
        side.key(),
        numbers::in_unit(at.quantity.target, 2),
        numbers::sixty_fourths(at.quantity.target)
    );
    match &at.action {
        Action::Measure(places) if waits_for(places, side).is_some() => {
            next.big = vec![format!(
                "Measure the {} side first:",
                waits_for(places, side).unwrap_or(side).key()
            )];
            next.big.push("one screw moves both".to_owned());
            next.expect = vec![format!(
                "{} {UNIT} here now; what the other side reads decides this turn too.",
                spread(at.quantity.now)
            )];
        }
        Action::Measure(_) => {
            next.asks = true;
            next.big = vec![
                format!("Hold fret {}, measure the gap:", known.instrument().frets),
                format!("{}, {} side", of.name, side.key()),
            ];
            if at.quantity.last.is_some() {
                next.expect = vec![format!("Expect {} {UNIT}.", spread(at.quantity.now))];
            }
        }
        Action::Adjust(step) => {
            next.tone = Tone::Move;
            let mut way = way(step);
            if let Some(first) = way.get_mut(..1) {
                first.make_ascii_uppercase();
            }
            next.big = vec![format!("{way}:"), numbers::turning(step)];
            next.expect = vec![format!(
                "Expect {} {UNIT} once the action is set.",
                numbers::expected(step)
            )];
            next.why = vec![
                line(
                    "gap now, from all readings",
                    format!("{} {UNIT}", spread(at.quantity.now)),
                ),
                line(
                    "target",
                    format!("{} {UNIT}", numbers::in_unit(at.quantity.target, 2)),
                ),
                line(
                    "once the action is set, untouched",
                    format!(
                        "{} {UNIT}",
                        numbers::in_unit(at.quantity.after + step.distance, 2)
                    ),
                ),
                line(
                    "turns",
                    format!("{}, set to an eighth", numbers::turns(step.turns())),
                ),
            ];
        }
        Action::Stop(Stop::AtEnd { short_by, .. }) => {
            next.tone = Tone::Out;
            next.big = vec![
                if at.squeezed {
                    "Squeezed: leave it,"
                } else {
                    "Out of thread:"
                }
                .to_owned(),
                format!("{} {UNIT} short", numbers::in_unit(*short_by, 1)),
            ];
        }
        Action::Stop(_) => next.tone = Tone::Out,
        Action::Leave => {
            next.big = vec!["Leave this side".to_owned()];
            next.expect = vec![format!(
                "{} {UNIT} now, {} once the action is set: {}.",
                spread(at.quantity.now),
                numbers::in_unit(at.quantity.after, 2),
                numbers::stands(&at.quantity)
            )];
        }
    }
    next
}

fn way(step: &Move) -> String {
    format!(
        "{} {} {UNIT}",
        if step.distance > Length::ZERO {
            "raise"
        } else {
            "lower"
        },
        numbers::in_unit(step.distance.abs(), 2)
    )
}

/// What is louder by less than it is known.
const STROKES: &str = "it may be the strokes: play them again before anything is turned";

/// How a pickup hears its strings against one another.
pub fn across(known: &PickupPlan) -> Option<String> {
    let across = known.across.as_ref()?;
    let louder = across.treble_louder.decibels();
    let side = if louder > 0.0 { "treble" } else { "bass" };
    let off = |further: Length| {
        let way = if further > Length::ZERO {
            "further off"
        } else {
            "nearer"
        };
        format!("{} {UNIT} {way}", numbers::in_unit(further.abs(), 1))
    };
    let by = format!(
        "{}: the {side} side {:.1} \u{b1} {:.1} dB louder",
        known.name,
        louder.abs(),
        across.doubt.decibels()
    );
    let mut line = if across.equal {
        format!("{}: as loud on both sides, to the ear", known.name)
    } else if across.unsure() {
        format!("{by}; {STROKES}")
    } else {
        let [treble, bass] = across.further.map(off);
        format!("{by}; even with the treble side {treble}, the bass side {bass}")
    };
    if !across.odd.is_empty() {
        let odd: Vec<String> = across
            .odd
            .iter()
            .map(|(string, off)| format!("{string} by {} dB", print::signed(off.decibels(), 1)))
            .collect();
        line += &format!(
            "; out of that line: string {}, a matter of its pole piece",
            odd.join(", ")
        );
    }
    Some(line + ".")
}

/// The other side, where that is to be read before this one is turned.
fn waits_for(places: &[Place], side: Side) -> Option<Side> {
    let asked = places.first()?.side()?;
    (asked != side).then_some(asked)
}

/// What is to be done to a side, in a row of the table.
pub fn in_short(at: &PickupSide) -> String {
    match &at.action {
        Action::Measure(places) => match waits_for(places, at.side) {
            Some(other) => format!("wait for the {} side", other.key()),
            None => "measure".to_owned(),
        },
        Action::Leave => "leave".to_owned(),
        Action::Stop(Stop::AtEnd { short_by, .. }) => {
            format!(
                "at its end, {} {UNIT} short",
                numbers::in_unit(*short_by, 1)
            )
        }
        Action::Adjust(step) => format!("{} \u{b7} {}", way(step), numbers::turns(step.turns())),
        Action::Stop(_) => "stopped".to_owned(),
    }
}

/// What is to be done to a pole piece, in a row of the table.
pub fn pole_in_short(pole: &PolePiece) -> String {
    match &pole.action {
        _ if pole.stale => "measure again".to_owned(),
        _ if !pole.screw => "fixed".to_owned(),
        Action::Adjust(step) => {
            let word = if step.turns() > Turns::ZERO {
                "raise"
            } else {
                "lower"
            };
            format!("{word} {}", numbers::turning(step))
        }
        _ => "leave".to_owned(),
    }
}

/// How much louder a pickup is than the quietest, and how much further off makes it even.
pub fn louder(level: &LevelDifference) -> [String; 2] {
    let by = level.by.decibels();
    [
        if by < 0.05 {
            "the quietest".to_owned()
        } else {
            format!("{by:.1} \u{b1} {:.1} dB louder", level.doubt.decibels())
        },
        if level.equal {
            "as loud, to the ear".to_owned()
        } else if level.unsure() {
            STROKES.to_owned()
        } else {
            format!(
                "{} {UNIT} further off on both sides, by {} fall-off",
                numbers::in_unit(level.further, 1),
                if level.fitted { "its own" } else { "the usual" }
            )
        },
    ]
}
