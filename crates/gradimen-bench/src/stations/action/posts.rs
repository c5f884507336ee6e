//! Two posts lift the whole bridge.

use super::{AdjusterPlan, Laid, at_end, decide, expected, off_at, quantity, screw};
use gradimen_core::quantity::Length;
use nalgebra::DVector;

use crate::decision::{Action, Decision};
use crate::estimate::Estimate as Known;
use crate::model::{Adjuster, Place, Side};

pub(super) fn plan(known: &Known, laid: &[Laid], end: &mut DVector<f64>) -> Vec<AdjusterPlan> {
    let geometry = known.geometry();
    let (Some(first), Some(last)) = (laid.first(), laid.last()) else {
        return Vec::new();
    };
    let outer = [first, last];
    let offs = outer.map(|string| off_at(geometry, string, end));
    let quantities = outer.map(|string| quantity(geometry, string));
    let decisions = [
        decide(&quantities[0], offs[0]),
        decide(&quantities[1], offs[1]),
    ];
    let needy: Vec<Place> = quantities
        .iter()
        .zip(&decisions)
        .filter(|(_, decision)| matches!(decision, Decision::Unread | Decision::Again))
        .map(|(quantity, _)| quantity.place)
        .collect();
    // Lifts of both posts that bring both outer strings right at once.
    let wanted = [0, 1].map(|at| -offs[at].mm() / outer[at].sight.slope[outer[at].saddle]);
    let share = |side, at: usize| geometry.post_share(side, outer[at].string);
    let (a, b) = (share(Side::Treble, 0), share(Side::Bass, 0));
    let (c, d) = (share(Side::Treble, 1), share(Side::Bass, 1));
    let determinant = a * d - b * c;
    let lifts = [
        (wanted[0] * d - b * wanted[1]) / determinant,
        (a * wanted[1] - c * wanted[0]) / determinant,
    ];
    let mut plans = Vec::new();
    for (at, side) in Side::ALL.into_iter().enumerate() {
        let adjuster = Adjuster::Post { side };
        let lift = Length::from_mm(lifts[at]);
        let all_leave = decisions
            .iter()
            .all(|decision| *decision == Decision::Leave);
        let action = if !needy.is_empty() {
            Action::Measure(needy.clone())
        } else if all_leave {
            Action::Leave
        } else {
            at_end(known, adjuster, lift).unwrap_or_else(|| {
                let Some(step) = screw(known, adjuster, at, lift) else {
                    return Action::Leave;
                };
                for index in 0..geometry.count() {
                    let string = u8::try_from(index + 1).unwrap_or(1);
                    end[geometry.saddle(index)] +=
                        step.distance.mm() * geometry.post_share(side, string);
                }
                Action::Adjust(Box::new(step))
            })
        };
        plans.push(AdjusterPlan {
            adjuster,
            strings: vec![outer[at].string],
            action,
        });
    }
    // Both posts work on both strings: what is expected stands when both are turned.
    for plan in &mut plans {
        if let Action::Adjust(step) = &mut plan.action {
            step.expected = outer
                .iter()
                .zip(&quantities)
                .map(|(string, quantity)| {
                    expected(quantity, geometry.look(&string.sight, end), step)
                })
                .collect();
        }
    }
    plans
}
