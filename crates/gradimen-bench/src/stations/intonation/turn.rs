//! The turn of a saddle's screw, with the sum behind it.

use gradimen_core::intonation::first_order_move;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::units::print::rounded_turns;

use crate::decision::{Expectation, Expected, Move, SaddleSum, Sum};
use crate::estimate::Estimate as Known;
use crate::estimate::saddle::SaddleEstimate;
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
    let state = bench.state();
    let lead = known.strings.first()?.string;
    let adjuster = Adjuster::SaddleDrive { string: lead };
    let moved = [(adjuster, Amount::turns(turns))];
    let travelled = screw.travel(turns) * known.response.value;
    let expected = known
        .strings
        .iter()
        .filter_map(|string| {
            let place = Place::Intonation {
                string: string.string,
                fret: 12,
            };
            let (note, sigma) = state.expect(&moved, place)?;
            let off = Cents::new(note) - string.aim;
            Some(Expected {
                place,
                value: Expectation::Cents(Estimate::new(off, Cents::new(sigma))),
            })
        })
        .collect();
    // The string that is furthest off leads the sum.
    let lead =
        (0..off.len()).max_by(|&a, &b| off[a].abs().value().total_cmp(&off[b].abs().value()))?;
    let string = &known.strings[lead];
    let state = bench.string_state(string.string)?;
    let scale = bench.speaking_scale(string.string);
    Some(Move {
        adjuster,
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
