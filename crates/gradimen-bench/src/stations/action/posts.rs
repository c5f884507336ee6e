//! Two posts lift the whole bridge.

use super::{AdjusterPlan, Laid, by_one, expect, turned};
use gradimen_core::quantity::Length;
use gradimen_core::solve::least_squares;
use nalgebra::DVector;

use crate::decision::Finish;
use crate::decision::{Action, Decision, Judged, Rule};
use crate::estimate::Estimate as Known;
use crate::estimate::state::State;
use crate::model::{Adjuster, Place, Side};

/// Beside screws in the saddles posts are turned for what all strings are off together, by more than this (from memory) ...
const WHOLE: Length = Length::from_mm(0.4);

/// ... or where a screw in a saddle is at its end and would have to go on (common practice: posts for the whole, screws for
/// the arc).
pub(super) fn needed(known: &Known, laid: &[Laid], end: &Finish) -> bool {
    let state = known.state();
    let read = laid.iter().all(|on| on.quantity.last.is_some()) || state.is_assumed();
    let spent = laid.iter().any(|on| {
        let lift = -on.off(state, end) / on.lever;
        on.off(state, end).abs() > on.target.tolerance
            && super::at_end(known, on.screw(), lift).is_some()
    });
    let outer: Vec<&Laid> = laid.iter().step_by(laid.len().max(2) - 1).collect();
    let lifts = lifts(state, &outer, end).1;
    read && (spent || lifts.iter().any(|lift| lift.abs() > WHOLE.mm()))
}

/// What each string's height says of the lifts of both posts, and those lifts.
fn lifts(state: &State, laid: &[&Laid], end: &Finish) -> (Vec<[f64; 2]>, [f64; 2]) {
    let rows = rows(state, laid);
    let says: Vec<[f64; 2]> = (0..laid.len())
        .map(|index| {
            let mut one = vec![0.0; laid.len()];
            one[index] = 1.0;
            let fit = least_squares(&rows, &one);
            fit.map_or([0.0; 2], |fit| [fit.values[0], fit.values[1]])
        })
        .collect();
    let each = says.iter().zip(laid);
    let sum = |post: usize| {
        each.clone()
            .map(|(by, on)| by[post] * on.off(state, end).mm())
            .sum::<f64>()
    };
    let lifts = [-sum(0), -sum(1)];
    (says, lifts)
}

/// How much of each post's lift shows in the height of each string.
fn rows(state: &State, laid: &[&Laid]) -> Vec<Vec<f64>> {
    laid.iter()
        .map(|string| {
            Side::ALL
                .map(|side| state.post_share(side, string.string) * string.lever)
                .to_vec()
        })
        .collect()
}

pub(super) fn plan(
    known: &Known,
    laid: &[&Laid],
    rule: Rule,
    end: &mut Finish,
) -> Vec<AdjusterPlan> {
    let state = known.state();
    let (Some(&first), Some(&last)) = (laid.first(), laid.last()) else {
        return Vec::new();
    };
    let outer = [first, last];
    // The arc is what it is: the lifts that leave least of all strings together. What one string's height says of the two
    // lifts: all of them together are what the posts are for, and at the two ends of the line through them all strings tell
    // how far that is off.
    let rows = rows(state, laid);
    let (says, lifts) = lifts(state, laid, end);
    let offs: Vec<f64> = laid.iter().map(|on| on.off(state, end).mm()).collect();
    let judged = [rows.first(), rows.last()].map(|shares| {
        let shares = shares.map_or(&[][..], Vec::as_slice);
        let mut along = DVector::zeros(state.mean().len());
        let mut off = 0.0;
        for ((string, by), own) in laid.iter().zip(&says).zip(&offs) {
            let weight: f64 = shares.iter().zip(by).map(|(share, by)| share * by).sum();
            off += weight * own;
            if let Ok(sight) = state.sight(string.target.place) {
                along.axpy(weight, &sight.slope, 1.0);
            }
        }
        (off, state.filter.variance_along(&along).sqrt())
    });
    let judged = [0, 1].map(|at| {
        let (off, sigma) = judged[at];
        Judged {
            off,
            sigma,
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
