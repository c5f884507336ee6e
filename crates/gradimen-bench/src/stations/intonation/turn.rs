//! The turn of a saddle's screw, with the sum behind it.

use super::{PLAY_MM, errors_at};

use gradimen_core::intonation::first_order_move;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::units::print::rounded_turns;

use crate::decision::{Expectation, Expected, Move, SaddleSum, Sum};
use crate::estimate::Estimate as Known;
use crate::estimate::saddle::{HAND_SCATTER, SaddleEstimate};
use crate::model::{Adjuster, Amount, Place};

/// The turn for a distance; none where it rounds to nothing.
pub(super) fn of(
    bench: &Known,
    known: &SaddleEstimate,
    distance: Length,
    off: &[Cents],
    threshold: Cents,
) -> Option<Move> {
    let screws = &bench.instrument().bridge.intonation;
    let pitch = screws.pitch.middle();
    let screw = screws.screw().ok()?;
    let turns_exact = screw.turns_for(distance / known.response.value);
    let turns = rounded_turns(turns_exact);
    if turns == Turns::ZERO {
        return None;
    }
    let travelled = screw.travel(turns) * known.response.value;
    let after = known.setback.value + travelled;
    let expected = errors_at(bench, &known.strings, after)
        .into_iter()
        .zip(&known.strings)
        .map(|(error, string)| {
            let scale = bench.speaking_scale(string.string);
            // What the turn itself is uncertain by, as cents.
            let per_mm = 1.0 / first_order_move(Cents::new(1.0), scale).mm();
            let by_response = travelled.mm() / known.response.value * known.response.sigma;
            let variance = string.error.sigma.value().powi(2)
                + (by_response.powi(2) + PLAY_MM.powi(2)) * per_mm.powi(2)
                + HAND_SCATTER.value().powi(2);
            Expected {
                place: Place::Intonation {
                    string: string.string,
                    fret: 12,
                },
                value: Expectation::Cents(Estimate::new(error, Cents::new(variance.sqrt()))),
            }
        })
        .collect();
    // The string that is furthest off leads the sum.
    let lead =
        (0..off.len()).max_by(|&a, &b| off[a].abs().value().total_cmp(&off[b].abs().value()))?;
    let string = &known.strings[lead];
    let state = bench.string_state(string.string)?;
    let scale = bench.speaking_scale(string.string);
    Some(Move {
        adjuster: Adjuster::SaddleDrive {
            string: known.strings.first()?.string,
        },
        amount: Amount::turns(turns),
        rotation: Some(screw.rotation(turns)),
        distance: travelled,
        total: turns,
        rounds: 1,
        expected,
        sum: Sum::Saddle(Box::new(SaddleSum {
            readings: string.fresh.clone(),
            mean: string.mean(),
            harmonic_excess: state.speaking.harmonic_excess(known.setback.value),
            error: Estimate::new(off[lead], string.error.sigma),
            scale,
            first_order: first_order_move(off[lead], scale),
            exact: distance,
            pitch,
            response: known.response,
            turns_exact,
            resolution: bench.tuner().resolution(),
            threshold,
            behind_after: Estimate::new(known.behind.value - travelled, known.behind.sigma),
        })),
    })
}
