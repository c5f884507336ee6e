//! Two posts lift the whole bridge.

use super::{AdjusterPlan, Laid, by_one, expect, turned};
use gradimen_core::quantity::Length;
use gradimen_core::solve::least_squares;
use nalgebra::DVector;

use crate::decision::Finish;
use crate::decision::{Action, Decision, Judged, Rule};
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
    // The arc is what it is: the lifts that leave least of all strings together.
    let rows: Vec<Vec<f64>> = laid
        .iter()
        .map(|string| {
            Side::ALL
                .map(|side| state.post_share(side, string.string) * string.lever)
                .to_vec()
        })
        .collect();
    let fitted = |right: &[f64]| {
        let fit = least_squares(&rows, right);
        fit.map_or([0.0; 2], |fit| [fit.values[0], fit.values[1]])
    };
    let offs: Vec<f64> = laid.iter().map(|on| on.off(state, end).mm()).collect();
    let lifts = fitted(&offs.iter().map(|off| -off).collect::<Vec<f64>>());
    // ... and what they are for is how far that line is off at its two ends, which all strings tell together.
    let line = |at: usize, lifts: [f64; 2]| {
        let shares = if at == 0 { rows.first() } else { rows.last() };
        let shares = shares.map_or(&[][..], Vec::as_slice);
        shares
            .iter()
            .zip(lifts)
            .map(|(share, lift)| share * lift)
            .sum::<f64>()
    };
    let sights: Vec<DVector<f64>> = laid
        .iter()
        .filter_map(|on| Some(state.sight(on.target.place).ok()?.slope))
        .collect();
    let judged = [0, 1].map(|at| {
        let mut along = DVector::zeros(state.mean().len());
        for (index, slope) in sights.iter().enumerate() {
            let mut one = vec![0.0; laid.len()];
            one[index] = 1.0;
            along.axpy(line(at, fitted(&one)), slope, 1.0);
        }
        let off = -line(at, lifts);
        Judged {
            off,
            sigma: state.filter.variance_along(&along).sqrt(),
            ..outer[at].quantity.judged(Length::from_mm(off))
        }
    });
    let unread = laid.iter().filter(|on| on.quantity.last.is_none());
    let mut needy: Vec<Place> = unread.map(|on| on.quantity.place).collect();
    let assumed = rule.assumed || state.is_assumed();
    if assumed {
        needy.clear();
    }
    let post = |at: usize| Adjuster::Post {
        side: Side::ALL[at],
    };
    let decisions = [0, 1].map(|at| outer[at].decide(&judged[at], rule, by_one(known, post(at))));
    if needy.is_empty() {
        let again = [0, 1]
            .into_iter()
            .filter(|at| decisions[*at] == Decision::Measure);
        needy.extend(again.map(|at| outer[at].quantity.place));
    }
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
