//! The geometry stations and the whole job for other programs.

use gradimen_core::quantity::{Estimate, Length};
use gradimen_core::units::print;

use super::{Expected, MoveReport, Quantity, mm, rounded, verdict_key};
use crate::balance::BalancePlan;
use crate::clearance::ClearancePlan;
use crate::event::Side;
use crate::hardware::VibratoKind;
use crate::job::Job;
use crate::setup::{self, HeightAction, NutAction, PickupAction, Pole, SetupPlan};
use crate::whole::{Reading, WholeMove};

/// The vibrato's gap.
pub(super) fn balance(job: &Job, plan: &BalancePlan) -> Quantity {
    Quantity {
        quantity: "vibrato_gap",
        string: job.instrument().strings,
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

/// The next turn of the claw.
pub(super) fn claw(job: &Job, plan: &BalancePlan) -> Option<MoveReport> {
    let step = plan.next_move()?;
    Some(MoveReport {
        station: "balance",
        adjuster: plan.record.kind.adjuster().to_owned(),
        strings: Vec::new(),
        distance_mm: Some(mm(step.distance)),
        turns: Some(rounded(step.turns.value())),
        direction: step.in_words(plan.record.kind, step.turns),
        rounds: step.rounds,
        expected: vec![gap(job.instrument().strings, 0, step.expected)],
        travel_behind_mm: None,
    })
}

/// Relief by side, nut and height by string, and the tightest margin of every string.
pub(super) fn quantities(job: &Job, plan: &SetupPlan) -> Vec<Quantity> {
    let targets = &plan.targets;
    let mut found = Vec::new();
    for (side, known) in Side::ALL.into_iter().zip(&plan.relief.sides) {
        found.push(of(
            "relief",
            job.geometry().string_of(side),
            targets.relief_span.at,
            targets.relief_span.words(),
            known,
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
    for string in &plan.height.strings {
        found.push(of(
            "action",
            string.string,
            plan.height.fret,
            "open".to_owned(),
            &string.quantity,
        ));
    }
    for pickup in &plan.pickups {
        for side in &pickup.sides {
            found.push(of(
                "pickup_gap",
                job.geometry().string_of(side.side),
                job.instrument().frets,
                format!("{} pickup, {} side", pickup.name, side.side.key()),
                &side.quantity,
            ));
        }
        for pole in &pickup.poles {
            found.push(Quantity {
                quantity: "pole_gap",
                string: pole.string,
                fret: Some(job.instrument().frets),
                method: Some(format!("{} pickup, pole by pole", pickup.name)),
                unit: "mm",
                last_reading: Some(mm(pole.read)),
                predicted: mm(pole.gap),
                uncertainty: None,
                target: Some(mm(pole.even)),
                verdict: verdict_key(pole.verdict()),
            });
        }
    }
    let map = ClearancePlan::of(job, |string| {
        let index = usize::from(string.max(1) - 1);
        plan.lines
            .get(index)
            .copied()
            .unwrap_or_else(|| job.geometry().line(string))
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
    known: &setup::Quantity,
) -> Quantity {
    Quantity {
        quantity,
        string,
        fret: Some(fret),
        method: Some(method),
        unit: "mm",
        last_reading: known.last.as_ref().and_then(|last| last.value).map(mm),
        predicted: mm(known.now.value),
        uncertainty: Some(mm(known.now.sigma)),
        target: Some(mm(known.target)),
        verdict: verdict_key(known.verdict),
    }
}

fn gap(string: u8, fret: u8, value: Estimate<Length>) -> Expected {
    Expected {
        string,
        fret,
        unit: "mm",
        value: mm(value.value),
        uncertainty: mm(value.sigma),
    }
}

/// The next move of rod, slots and height screws.
pub(super) fn moves(job: &Job, plan: &SetupPlan) -> Vec<MoveReport> {
    let mut found = Vec::new();
    if let Some(step) = plan.relief.next_move() {
        found.push(MoveReport {
            station: "relief",
            adjuster: "rod".to_owned(),
            strings: Vec::new(),
            distance_mm: None,
            turns: Some(rounded(step.turns.value())),
            direction: format!(
                "{}, {} {}, seen at its nut",
                if step.turns.value() > 0.0 {
                    "tighten"
                } else {
                    "loosen"
                },
                print::turns_with_word(step.turns),
                step.rotation
            ),
            rounds: step.rounds,
            expected: Side::ALL
                .into_iter()
                .zip(step.expected)
                .map(|(side, value)| {
                    gap(
                        job.geometry().string_of(side),
                        plan.targets.relief_span.at,
                        value,
                    )
                })
                .collect(),
            travel_behind_mm: None,
        });
    }
    for slot in &plan.nut.strings {
        if let NutAction::File { first, total } = slot.action {
            let after = Estimate::new(slot.quantity.after, slot.quantity.now.sigma);
            found.push(MoveReport {
                station: "nut",
                adjuster: "nut slot".to_owned(),
                strings: vec![slot.string],
                distance_mm: Some(mm(-first)),
                turns: None,
                direction: format!(
                    "file {} of {} off, then read",
                    print::mm(first),
                    print::mm(total)
                ),
                rounds: 1,
                expected: vec![gap(slot.string, 1, after)],
                travel_behind_mm: None,
            });
        }
    }
    for adjuster in &plan.height.adjusters {
        if let HeightAction::Turn(step) = &adjuster.action {
            found.push(MoveReport {
                station: "height",
                adjuster: format!("height, {}", adjuster.adjuster.name()),
                strings: adjuster.strings.clone(),
                distance_mm: Some(mm(step.distance)),
                turns: Some(rounded(step.turns.value())),
                direction: format!(
                    "{}, {} {}",
                    if step.distance > Length::ZERO {
                        "up"
                    } else {
                        "down"
                    },
                    print::turns_with_word(step.turns),
                    step.rotation
                ),
                rounds: 1,
                expected: step
                    .expected
                    .iter()
                    .map(|(string, value)| gap(*string, plan.height.fret, *value))
                    .collect(),
                travel_behind_mm: None,
            });
        }
    }
    for pickup in &plan.pickups {
        for side in &pickup.sides {
            if let PickupAction::Turn(step) = &side.action {
                found.push(MoveReport {
                    station: "pickups",
                    adjuster: format!("{} pickup, {} side", pickup.name, side.side.key()),
                    strings: Vec::new(),
                    distance_mm: Some(mm(step.distance)),
                    turns: Some(rounded(step.turns.value())),
                    direction: format!("{} {}", print::turns_with_word(step.turns), step.rotation),
                    rounds: 1,
                    expected: vec![gap(
                        job.geometry().string_of(side.side),
                        job.instrument().frets,
                        step.expected,
                    )],
                    travel_behind_mm: None,
                });
            }
        }
        for pole in &pickup.poles {
            if let Some(turns) = pole.next_turn() {
                found.push(MoveReport {
                    station: "pickups",
                    adjuster: format!("{} pickup, pole of string {}", pickup.name, pole.string),
                    strings: vec![pole.string],
                    distance_mm: Some(mm(pole.gap - pole.even)),
                    turns: Some(rounded(turns.value())),
                    direction: Pole::direction(turns),
                    rounds: 1,
                    expected: Vec::new(),
                    travel_behind_mm: None,
                });
            }
        }
    }
    found
}

/// A line of the whole job.
pub(super) fn whole_move(step: &WholeMove) -> MoveReport {
    MoveReport {
        station: step.station.key(),
        adjuster: step.adjuster.clone(),
        strings: step.strings.clone(),
        distance_mm: step.distance.map(mm),
        turns: step.turns.map(|turns| rounded(turns.value())),
        direction: step.direction.clone(),
        rounds: step.rounds,
        expected: step
            .expected
            .iter()
            .map(|expected| match expected.value {
                Reading::Gap(value) => gap(expected.string, expected.fret, value),
                Reading::Note(note) => Expected {
                    string: expected.string,
                    fret: expected.fret,
                    unit: "cents",
                    value: rounded(note.value.value()),
                    uncertainty: rounded(note.sigma.value()),
                },
            })
            .collect(),
        travel_behind_mm: None,
    }
}
