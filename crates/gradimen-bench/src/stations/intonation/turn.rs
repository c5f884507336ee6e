//! The move of a saddle in the terms of its drive, with the sum behind it: turns of its screw, or so far by hand.

use gradimen_core::intonation::first_order_move;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::{self, rounded_turns};

use crate::decision::{Expectation, Expected, Move, SaddleSum, Sum};
use crate::estimate::Estimate as Known;
use crate::estimate::saddle::{SaddleEstimate, StringEstimate};
use crate::model::hardware::SaddleDrive;
use crate::model::{Adjuster, Amount, Measurement, Place};

/// A saddle that is slid by hand goes to a tenth of a millimetre along a rule.
const BY_HAND: f64 = 0.1;
/// Less than this no hand slides a saddle on purpose, and nobody unclamps it for half a cent (common practice).
pub(super) const LEAST_SLIDE: Length = Length::from_mm(0.2);

/// How far a saddle goes, which way its screw turns, how far that is by the thread, and what it is in turns.
struct Driven {
    amount: Amount,
    rotation: Option<Rotation>,
    travelled: Length,
    turns_exact: Turns,
}

/// The move for a distance by the drive of the bridge; none where it rounds to nothing.
fn driven(bench: &Known, known: &SaddleEstimate, distance: Length) -> Option<Driven> {
    let bridge = &bench.instrument().bridge;
    if bridge.details.drive == SaddleDrive::Clamped {
        let by = Length::from_mm((distance.mm() / BY_HAND).round() * BY_HAND);
        let worth = by.abs() >= LEAST_SLIDE - Length::from_mm(1e-6);
        return worth.then(|| Driven {
            amount: Amount::Distance {
                distance: Measurement::new(print::tenths(by), by, by),
            },
            rotation: None,
            travelled: by,
            turns_exact: Turns::ZERO,
        });
    }
    let screw = bridge.intonation.screw().ok()?;
    let turns_exact = screw.turns_for(distance / known.response.value);
    let turns = rounded_turns(turns_exact);
    (turns != Turns::ZERO).then(|| Driven {
        amount: Amount::turns(turns),
        rotation: Some(screw.rotation(turns)),
        travelled: screw.travel(turns) * known.response.value,
        turns_exact,
    })
}

/// What the notes of some strings will read, each against what it is to be, after some moves.
pub(super) fn expected<'a>(
    bench: &Known,
    moved: &[(Adjuster, Amount)],
    strings: impl Iterator<Item = &'a StringEstimate>,
) -> Vec<Expected> {
    let of = |string: &StringEstimate| {
        let place = Place::Intonation {
            string: string.string,
            fret: 12,
        };
        let (note, sigma) = bench.state().expect(moved, place)?;
        let off = Cents::new(note) - string.aim;
        Some(Expected {
            place,
            value: Expectation::Cents(Estimate::new(off, Cents::new(sigma))),
        })
    };
    strings.filter_map(of).collect()
}

/// The move for a distance; none where it rounds to nothing.
pub(super) fn of(
    bench: &Known,
    known: &SaddleEstimate,
    distance: Length,
    off: &[Cents],
    threshold: Cents,
) -> Option<Move> {
    let pitch = bench.instrument().bridge.intonation.pitch.middle();
    let Driven {
        amount,
        rotation,
        travelled,
        turns_exact,
    } = driven(bench, known, distance)?;
    let lead = known.strings.first()?.string;
    let adjuster = Adjuster::SaddleDrive { string: lead };
    let moved = [(adjuster, amount.clone())];
    let expected = expected(bench, &moved, known.strings.iter());
    // The string that is furthest off leads the sum.
    let lead =
        (0..off.len()).max_by(|&a, &b| off[a].abs().value().total_cmp(&off[b].abs().value()))?;
    let string = &known.strings[lead];
    let state = bench.string_state(string.string)?;
    let scale = bench.speaking_scale(string.string);
    Some(Move {
        adjuster,
        total: amount.as_turns().unwrap_or(Turns::ZERO),
        amount,
        rotation,
        distance: travelled,
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
