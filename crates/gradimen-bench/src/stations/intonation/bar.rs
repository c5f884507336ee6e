//! One bar for all strings, moved at its two ends: its place and its angle are solved for all of them together.
//!
//! `d_i = t (1 - y_i) + b y_i`: a saddle goes by `d_i` where the bar goes by `t` under the treble outer string and by `b`
//! under the bass one, `y_i` across from 0 to 1. The two that leave least, in cents squared, of all strings.

use gradimen_core::quantity::{Estimate, Length, Turns};
use gradimen_core::solve::least_squares;
use gradimen_core::units::print;

use super::SaddlePlan;
use super::turn::expected;
use crate::decision::{Action, Move, Stop, Sum};
use crate::estimate::Estimate as Known;
use crate::estimate::saddle::SaddleEstimate;
use crate::model::{Adjuster, Amount, Measurement, Place};

/// It is shifted by hand along a rule, to this (common practice).
const BY_HAND: f64 = 0.1;
/// An end that belongs nearer than this is held where it is: a hand that shifts it would miss by as much (from memory).
const LEAST_END: Length = Length::from_mm(0.25);

/// Where across the bridge a saddle lies: 0 at the treble outer string, 1 at the bass one.
fn across(known: &Known, saddle: &SaddleEstimate) -> f64 {
    let state = known.state();
    let strings = saddle.strings.iter();
    let sum: f64 = strings
        .map(|string| state.share(state.index(string.string)))
        .sum();
    sum / saddle.strings.len().max(1) as f64
}

/// How far its two ends are to go, treble and bass: for everything that is known now, read or not. An end that stays is held, and the other one
/// takes its share.
fn ends(known: &Known, saddles: &[&SaddleEstimate], stays: [bool; 2]) -> Option<[Length; 2]> {
    let state = known.state();
    let mut rows = Vec::new();
    let mut wanted = Vec::new();
    for saddle in saddles {
        let y = across(known, saddle);
        for string in &saddle.strings {
            let slope = state.cents_per_mm(state.index(string.string));
            let both = [slope * (1.0 - y), slope * y];
            let moved = both.iter().zip(stays).filter(|(_, stays)| !stays);
            rows.push(moved.map(|(by, _)| *by).collect());
            wanted.push(-string.error.value.value());
        }
    }
    if stays == [true, true] {
        return Some([Length::ZERO; 2]);
    }
    let mut moved = least_squares(&rows, &wanted).ok()?.values.into_iter();
    let mut next = |stays| {
        let by = if stays { None } else { moved.next() };
        by.map_or(Length::ZERO, Length::from_mm)
    };
    Some([next(stays[0]), next(stays[1])])
}

/// Which ends are shifted at all, and how far.
fn shifts(known: &Known, saddles: &[&SaddleEstimate]) -> Option<[Length; 2]> {
    let both = ends(known, saddles, [false; 2])?;
    let stays = both.map(|by| by.abs() < LEAST_END);
    let one = ends(known, saddles, stays)?;
    // Alone, it may be nearer than both were.
    ends(known, saddles, one.map(|by| by.abs() < LEAST_END))
}

/// Where each saddle belongs as far as one bar can have it, in the order of the saddles.
pub(super) fn places(known: &Known, saddles: &[&SaddleEstimate]) -> Option<Vec<Estimate<Length>>> {
    let [treble, bass] = ends(known, saddles, [false; 2])?;
    let place = |saddle: &&SaddleEstimate| {
        let y = across(known, saddle);
        let ideals = saddle.strings.iter().map(|on| on.ideal.sigma);
        Estimate::new(
            saddle.setback.value + treble * (1.0 - y) + bass * y,
            ideals.fold(Length::ZERO, Length::max),
        )
    };
    Some(saddles.iter().map(place).collect())
}

fn to_a_tenth(by: Length) -> Length {
    Length::from_mm((by.mm() / BY_HAND).round() * BY_HAND)
}

fn measured(by: Length) -> Measurement {
    Measurement::new(print::tenths(by), by, by)
}

/// One order for all saddles: what is still to be read is read first, and then the bar goes at once.
pub(super) fn order(known: &Known, saddles: &mut [SaddlePlan]) {
    let unread: Vec<Place> = saddles
        .iter()
        .flat_map(|saddle| saddle.action.places().iter().copied())
        .collect();
    let moves = |saddle: &SaddlePlan| matches!(saddle.action, Action::Stop(Stop::NoDrive { .. }));
    if !saddles.iter().any(moves) {
        return;
    }
    let step = if unread.is_empty() {
        whole(known, saddles)
    } else {
        None
    };
    for saddle in saddles {
        saddle.action = match (&step, moves(saddle)) {
            (Some(step), _) => Action::Adjust(Box::new(step.clone())),
            // One bar moves them all: what the others read decides this one too.
            (None, true) if !unread.is_empty() => Action::Measure(unread.clone()),
            (None, true) => Action::Leave,
            (None, false) => continue,
        };
    }
}

/// The move of the bar; none where both its ends round to nothing.
fn whole(known: &Known, saddles: &[SaddlePlan]) -> Option<Move> {
    let estimates: Vec<&SaddleEstimate> = saddles.iter().map(|saddle| &saddle.estimate).collect();
    let exact = shifts(known, &estimates)?;
    if exact == [Length::ZERO; 2] {
        return None;
    }
    let by = exact.map(to_a_tenth);
    let amount = Amount::Ends {
        treble: measured(by[0]),
        bass: measured(by[1]),
    };
    let moved = [(Adjuster::Bar, amount.clone())];
    let strings = saddles.iter().flat_map(|saddle| &saddle.estimate.strings);
    let expected = expected(known, &moved, strings);
    Some(Move {
        adjuster: Adjuster::Bar,
        amount,
        rotation: None,
        distance: (by[0] + by[1]) * 0.5,
        total: Turns::ZERO,
        rounds: 1,
        expected,
        sum: Sum::Bar {
            treble: exact[0],
            bass: exact[1],
        },
    })
}
