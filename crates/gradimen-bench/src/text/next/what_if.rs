//! The what-if sheet.
//!
//! ```
//! use gradimen_bench::text::next::what_if;
//! use gradimen_core::quantity::Length;
//!
//! assert_eq!(what_if::slot(Length::from_thou(4.0)), "binds, slot 4 thou too narrow");
//! assert_eq!(what_if::slot(Length::ZERO), "fits");
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use crate::estimate::Estimate;
use crate::model::Adjuster;
use crate::model::hardware::VibratoKind;
use crate::plan::what_if::{Cost, PINCHES, Pair, WhatIf};
use crate::text::{list, moves, numbers};

/// What it comes to: the change of pull, and how many adjustments.
pub fn headline(found: &WhatIf) -> String {
    let change = numbers::change(found.total.1 - found.total.0);
    match found.costs.len() {
        _ if found.events.is_empty() => "What if? Choose a change".to_owned(),
        0 => format!("{change} N, and nothing to adjust"),
        count => format!("{change} N, {count} adjustments"),
    }
}

/// A quantity now, then, and its target.
pub fn then(pair: &Pair) -> String {
    format!(
        "{} {UNIT}, then {} \u{b1} {}, target {}",
        numbers::in_unit(pair.before, 2),
        numbers::in_unit(pair.after.value, 2),
        numbers::in_unit(pair.after.sigma, 2),
        numbers::in_unit(pair.target, 2)
    )
}

/// How a thicker or thinner string lies in its slot.
pub fn slot(thicker: Length) -> String {
    if thicker > PINCHES {
        format!("binds, slot {} too narrow", print::thou(thicker))
    } else if thicker < -PINCHES {
        format!("loose, {}", print::thou(thicker.abs()))
    } else {
        "fits".to_owned()
    }
}

/// Why the springs cannot: how many are on, and how many could.
pub fn cannot(springs: (u8, Option<u8>)) -> String {
    match springs {
        (on, Some(count)) => {
            format!("{on} springs cannot hold this at its target: {count} could.")
        }
        (1, None) => {
            "This spring cannot hold it at its target: a stiffer or a softer one.".to_owned()
        }
        (on, None) => format!(
            "{on} springs cannot hold this at its target, and no number of the same can: stiffer springs, or lighter strings."
        ),
    }
}

/// What a change costs on one adjuster: what, which way and how many turns, how far.
pub fn cost(known: &Estimate, cost: &Cost) -> [String; 3] {
    let record = known.instrument().bridge.vibrato.as_ref();
    let vibrato = record
        .map(|record| record.kind)
        .filter(|_| matches!(cost.adjuster, Adjuster::Claw | Adjuster::Seat));
    let more = cost.distance > Length::ZERO;
    let way = match (cost.adjuster, more) {
        (Adjuster::Claw | Adjuster::Seat, more) => {
            let (stronger, weaker) = vibrato.unwrap_or_default().ways();
            if more { stronger } else { weaker }
        }
        (Adjuster::TrussRod, true) => "looser",
        (Adjuster::TrussRod, false) => "tighter",
        (Adjuster::SaddleDrive { .. }, true) => "back",
        (Adjuster::SaddleDrive { .. }, false) => "forward",
        (Adjuster::NutSlots { .. }, _) => "filed",
        (_, true) => "up",
        (_, false) => "down",
    };
    let name = match cost.adjuster {
        Adjuster::SaddleDrive { .. } => {
            format!("saddle of string {}", list(&cost.strings, " and "))
        }
        adjuster => moves::adjuster_of(known, adjuster),
    };
    let by = match cost.turns {
        Some(washers) if vibrato == Some(VibratoKind::ArmSpring) => {
            format!("{:.0} {way}", washers.abs().value())
        }
        Some(turns) => format!("{way}, {}", numbers::turns(print::rounded_turns(turns))),
        None => way.to_owned(),
    };
    let distance = format!(
        "{} \u{b1} {} {UNIT}",
        numbers::in_unit(cost.distance.abs(), 2),
        numbers::in_unit(cost.sigma, 2)
    );
    [name, by, distance]
}
