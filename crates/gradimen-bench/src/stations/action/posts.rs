//! Two posts lift the whole bridge.

use super::{AdjusterPlan, Laid, expect, turned};
use gradimen_core::quantity::Length;
use gradimen_core::solve::least_squares;

use crate::decision::Finish;
use crate::decision::{Action, Decision, Rule};
use crate::estimate::Estimate as Known;
use crate::model::{Adjuster, Place, Side};

pub(super) fn plan(
    known: &Known,
    laid: &[Laid],
    rule: Rule,
    end: &mut Finish,
) -> Vec<AdjusterPlan> {
    let state = known.state();
    let (Some(first), Some(last)) = (laid.first(), laid.last()) else {
        return Vec::new();
    };
    let outer = [first, last];
    let offs: Vec<Length> = laid.iter().map(|string| string.off(state, end)).collect();
    let decisions: Vec<Decision> = laid
        .iter()
        .zip(&offs)
        .map(|(string, off)| string.decide(*off, rule))
        .collect();
    let needy: Vec<Place> = laid
        .iter()
        .zip(&decisions)
        .filter(|(_, decision)| **decision == Decision::Measure)
        .map(|(string, _)| string.quantity.place)
        .collect();
    // The arc is what it is: the lifts that leave least of all strings together.
    let rows: Vec<Vec<f64>> = laid
        .iter()
        .map(|string| {
            Side::ALL
                .map(|side| state.post_share(side, string.string) * string.lever)
                .to_vec()
        })
        .collect();
    let right: Vec<f64> = offs.iter().map(|off| -off.mm()).collect();
    let lifts = least_squares(&rows, &right).map_or(vec![0.0; 2], |fit| fit.values);
    let moves = decisions.contains(&Decision::Move);
    let mut plans: Vec<AdjusterPlan> = Side::ALL
        .into_iter()
        .enumerate()
        .map(|(at, side)| {
            let adjuster = Adjuster::Post { side };
            let action = if !needy.is_empty() {
                Action::Measure(needy.clone())
            } else if !moves || !outer[at].is_worth(lifts[at]) {
                Action::Leave
            } else {
                let lift = Length::from_mm(lifts[at]);
                turned(known, adjuster, outer[at].string, lift, end)
            };
            AdjusterPlan {
                adjuster,
                strings: vec![outer[at].string],
                action,
            }
        })
        .collect();
    let mut both: Vec<&mut AdjusterPlan> = plans.iter_mut().collect();
    // Both posts work on both strings: what is expected stands when both are turned.
    expect(state, &mut both, &outer);
    plans
}
