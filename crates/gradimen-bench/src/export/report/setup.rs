//! The geometry stations and the whole job for other programs.

use gradimen_core::quantity::Length;

use super::{Expected, Quantity, mm, rounded, verdict_key};
use crate::decision::{self, Expectation, Expected as Expectable};
use crate::estimate::Estimate as Known;
use crate::model::hardware::VibratoKind;
use crate::model::{Place, Side};
use crate::plan::Plan;
use crate::stations::balance::BalancePlan;
use crate::stations::clearance::ClearancePlan;

/// The vibrato's gap.
pub(super) fn balance(known: &Known, plan: &BalancePlan) -> Quantity {
    Quantity {
        quantity: "vibrato_gap",
        string: known.instrument().strings,
        fret: None,
        method: Some(if plan.record.kind == VibratoKind::BodySprings {
            plan.school.name().to_owned()
        } else {
            "bar level".to_owned()
        }),
        unit: "mm",
        last_reading: plan.last_gap.map(mm),
        predicted: mm(plan.now.value),
        uncertainty: Some(mm(plan.now.sigma)),
        target: Some(mm(plan.target)),
        verdict: verdict_key(plan.verdict),
    }
}

/// Relief by side, nut and height by string, and the tightest margin of every string.
pub(super) fn quantities(known: &Known, plan: &Plan) -> Vec<Quantity> {
    let targets = &plan.targets;
    let mut found = Vec::new();
    for (side, quantity) in Side::ALL.into_iter().zip(&plan.relief.sides) {
        found.push(of(
            "relief",
            known.state().string_of(side),
            targets.relief_span.at,
            targets.relief_span.words(),
            quantity,
        ));
    }
    let held = if targets.nut_held == 0 {
        "open".to_owned()
    } else {
        format!("held at {}", targets.nut_held)
    };
    for slot in &plan.nut.strings {
        found.push(of("nut", slot.string, 1, held.clone(), &slot.quantity));
    }
    for string in &plan.action.strings {
        found.push(of(
            "action",
            string.string,
            plan.action.fret,
            "open".to_owned(),
            &string.quantity,
        ));
    }
    for pickup in &plan.pickups.pickups {
        for side in &pickup.sides {
            found.push(of(
                "pickup_gap",
                known.state().string_of(side.side),
                known.instrument().frets,
                format!(
                    "{} pickup, {} side",
                    pickup.name,
                    crate::text::side(side.side)
                ),
                &side.quantity,
            ));
        }
        for pole in &pickup.poles {
            found.push(Quantity {
                quantity: "pole_gap",
                string: pole.string,
                fret: Some(known.instrument().frets),
                method: Some(format!("{} pickup, pole by pole", pickup.name)),
                unit: "mm",
                last_reading: Some(mm(pole.read.middle())),
                predicted: mm(pole.gap),
                uncertainty: None,
                target: Some(mm(pole.even)),
                verdict: verdict_key(pole.verdict()),
            });
        }
    }
    let map = ClearancePlan::of(known, |string| {
        let index = usize::from(string.max(1) - 1);
        plan.lines
            .get(index)
            .copied()
            .unwrap_or_else(|| known.state().line(string))
    });
    for (now, after) in map.now.iter().zip(&map.after) {
        let (Some(tight), Some(later)) = (now.worst(), after.worst()) else {
            continue;
        };
        found.push(Quantity {
            quantity: "margin",
            string: now.string,
            fret: Some(tight.fret),
            method: Some(if tight.held == 0 {
                "open".to_owned()
            } else {
                format!("held at {}", tight.held)
            }),
            unit: "mm",
            last_reading: None,
            predicted: mm(tight.margin),
            uncertainty: None,
            target: Some(mm(later.margin)),
            verdict: if tight.margin < Length::ZERO {
                "below"
            } else {
                "within"
            },
        });
    }
    found
}

fn of(
    quantity: &'static str,
    string: u8,
    fret: u8,
    method: String,
    of: &decision::Quantity,
) -> Quantity {
    Quantity {
        quantity,
        string,
        fret: Some(fret),
        method: Some(method),
        unit: "mm",
        last_reading: of
            .last
            .as_ref()
            .and_then(|last| last.value.as_ref())
            .map(|value| mm(value.middle())),
        predicted: mm(of.now.value),
        uncertainty: Some(mm(of.now.sigma)),
        target: Some(mm(of.target)),
        verdict: verdict_key(of.verdict),
    }
}

/// A reading to expect.
pub(super) fn expected(known: &Known, expected: &Expectable) -> Expected {
    let instrument = known.instrument();
    let (string, fret) = match expected.place {
        Place::Relief { side, span } => (known.state().string_of(side), span.at),
        Place::Nut { string, .. } => (string, 1),
        Place::Action { string, fret, .. } | Place::Intonation { string, fret } => (string, fret),
        Place::Pickup { side, .. } => (known.state().string_of(side), instrument.frets),
        Place::PolePiece { string, .. } | Place::Level { string, .. } => (string, instrument.frets),
        other => (other.string().unwrap_or(instrument.strings), 0),
    };
    let (unit, value, sigma) = match expected.value {
        Expectation::Length(length) => ("mm", length.value.mm(), length.sigma.mm()),
        Expectation::Cents(cents) => ("cents", cents.value.value(), cents.sigma.value()),
    };
    Expected {
        string,
        fret,
        unit,
        value: rounded(value),
        uncertainty: rounded(sigma),
    }
}
