//! The state's own laws: every slope is what a finite difference says, the covariance stays one, and the order of
//! independent readings does not matter.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::sync::Arc;

use gradimen_core::quantity::Length;
use nalgebra::{DMatrix, DVector};
use proptest::prelude::*;

use super::State;
use crate::estimate::Estimate;
use crate::job::Job;
use crate::journal::{Entry, Event, Opened};
use crate::model::defaults;
use crate::model::hardware::{Bridge, BridgeFamily};
use crate::model::instrument::{Instrument, Kind};
use crate::model::{
    Adjuster, Amount, Measurement, Place, Player, Reading, Reference, ReliefSpan, Side, Strung,
    Tool, Touch, Tuning,
};

const FAMILIES: [(Kind, u8, BridgeFamily); 6] = [
    (Kind::Guitar, 6, BridgeFamily::FixedPlate),
    (Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato),
    (Kind::Guitar, 6, BridgeFamily::TwoPost),
    (Kind::Guitar, 6, BridgeFamily::ThreeBarrel),
    (Kind::Guitar, 6, BridgeFamily::RockingTail),
    (Kind::Bass, 5, BridgeFamily::SingleStringBass),
];

fn job(of: usize, events: Vec<Event>) -> Job {
    let (kind, strings, family) = FAMILIES[of];
    let preset = defaults::tunings(kind, strings).into_iter().next().unwrap();
    let opened = Event::Opened(Box::new(Opened {
        instrument: Instrument {
            name: "Heron".into(),
            bridge: Bridge::profile(family, strings),
            ..defaults::usual_instrument(kind, strings)
        },
        instrument_version: 1,
        purpose: String::new(),
        player: Player {
            touch: Touch::Medium,
            style: String::new(),
        },
        strung: Strung {
            set: defaults::sets(kind, strings).remove(0).strings,
            tuning: Tuning::of(preset.name, 440.0, &preset.pitches),
        },
        arrived: None,
        heights: defaults::usual_heights(&defaults::usual_instrument(kind, strings)),
        old_strings: false,
        taught: Vec::new(),
        last_time: None,
        practice: None,
    }));
    let at = jiff::Timestamp::from_second(1_790_000_000).unwrap();
    let entries: Vec<Entry> = std::iter::once(opened)
        .chain(events)
        .zip(1..)
        .map(|(event, seq)| Entry::new(seq, at, event))
        .collect();
    Job::fold(&entries).unwrap()
}

fn state(of: usize, events: Vec<Event>) -> State {
    let known = Estimate::of(Arc::new(job(of, events))).unwrap();
    known.state().clone()
}

fn span() -> ReliefSpan {
    ReliefSpan {
        low: 1,
        high: 12,
        at: 6,
    }
}

/// Everything that a state shows.
fn places(state: &State) -> Vec<Place> {
    let last = state.string_of(Side::Bass);
    let mut found: Vec<Place> = Side::ALL
        .map(|side| Place::Relief { side, span: span() })
        .to_vec();
    for string in [1, 2, last] {
        found.extend([
            Place::Nut { string, held: 0 },
            Place::Nut { string, held: 3 },
            Place::Action {
                string,
                fret: 12,
                held: 0,
            },
            Place::Action {
                string,
                fret: 17,
                held: 1,
            },
            Place::Saddle { string },
            Place::Room { string },
            Place::Intonation { string, fret: 12 },
        ]);
    }
    for pickup in 0..u8::try_from(state.at.pickups).unwrap() {
        found.extend(Side::ALL.map(|side| Place::Pickup { pickup, side }));
        found.push(Place::PolePiece { pickup, string: 2 });
    }
    if state.sheet.is_some() {
        found.extend([Place::Gap, Place::Spring]);
    }
    found
}

/// Everything that is turned.
fn adjusters(state: &State, of: usize) -> Vec<(Adjuster, Amount)> {
    let turns = |turns: f64| Amount::Turns { turns };
    let mut found = vec![
        (Adjuster::TrussRod, turns(0.2)),
        (Adjuster::TrussRod, turns(-0.3)),
        (Adjuster::SaddleDrive { string: 2 }, turns(1.7)),
    ];
    if state.is_fixed() {
        found.extend(Side::ALL.map(|side| (Adjuster::Post { side }, turns(0.6))));
    } else {
        found.push((Adjuster::SaddleHeight { string: 3 }, turns(-0.8)));
    }
    if state.at.pickups > 0 {
        let screw = Adjuster::PickupScrew {
            pickup: 0,
            side: Side::Bass,
        };
        found.push((screw, turns(1.3)));
    }
    match FAMILIES[of].2 {
        BridgeFamily::KnifeEdgeVibrato => found.push((Adjuster::Claw, turns(0.4))),
        BridgeFamily::RockingTail => found.push((
            Adjuster::Seat,
            Amount::Distance {
                distance: Measurement::mm(0.4),
            },
        )),
        _ => {}
    }
    found
}

fn read(place: Place, mm: f64) -> Event {
    let length = Measurement::mm(mm).with_tool(place.usual_tool());
    Event::read(place, Reading::Length { length })
}

/// A state some way from where it is believed to be, by so many standard deviations of each unknown.
fn elsewhere(state: &State, seed: u64) -> DVector<f64> {
    let mut x = state.mean().clone();
    let mut chance = seed.wrapping_mul(0x9E37_79B9_7F4A_7C15) | 1;
    for at in 0..x.len() {
        chance ^= chance << 13;
        chance ^= chance >> 7;
        chance ^= chance << 17;
        let even = (chance >> 11) as f64 / (1_u64 << 53) as f64 - 0.5;
        x[at] += 0.5 * even * state.filter.p[(at, at)].sqrt();
    }
    x
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn what_a_place_shows_hangs_on_the_state_as_finite_differences_say(of in 0_usize..6, seed in any::<u64>()) {
        let state = state(of, vec![read(Place::Gap, 2.4)].into_iter().filter(|_| of == 1).collect());
        let x = elsewhere(&state, seed);
        let lie = state.lie_in(&x);
        for place in places(&state) {
            let sight = state.sight_in(place, &x, &lie).unwrap();
            for at in 0..x.len() {
                let step = 1e-3 * state.filter.p[(at, at)].sqrt().clamp(1e-3, 1.0);
                let there = |by: f64| {
                    let mut x = x.clone();
                    x[at] += by;
                    let lie = state.lie_in(&x);
                    state.sight_in(place, &x, &lie).unwrap().value
                };
                let slope = (there(step) - there(-step)) / (2.0 * step);
                // The slope of a note on its place is one to first order.
                let near = if matches!(place, Place::Intonation { .. }) { 4e-2 } else { 2e-2 };
                let near = near * slope.abs() + 5e-3;
                prop_assert!(
                    (sight.slope[at] - slope).abs() < near,
                    "{place:?} on {at}: {} for {slope}", sight.slope[at]
                );
            }
        }
    }

    #[test]
    fn what_a_move_does_hangs_on_the_state_as_finite_differences_say(of in 0_usize..6, seed in any::<u64>()) {
        let state = state(of, vec![read(Place::Gap, 2.4)].into_iter().filter(|_| of == 1).collect());
        let x = elsewhere(&state, seed);
        for (adjuster, amount) in adjusters(&state, of) {
            let turned = |x: &DVector<f64>| state.change(adjuster, &amount, Length::from_mm(76.0), x).unwrap().unwrap();
            let moved = |x: &DVector<f64>| state.rebalanced(&state, x, turned(x));
            let change = moved(&x);
            // A plate on the verge of running away is taken to be just steady, whatever its parts: that has no slopes; and
            // where a hair more makes it jump to its end, a difference over that hair is none.
            let rests = |before: &DVector<f64>| {
                // As it is turned: once the plate has come to rest, nothing is left of the claw's turn.
                let change = turned(before);
                let mut after = before.clone();
                change.shift(&mut after);
                let rest = state.rebalance(&state, before, &after, change.claw.0);
                rest.map_or((0.0, false), |rest| (rest.gap, rest.stiffer > 0.0))
            };
            let (gap, stiffer) = rests(&x);
            if stiffer {
                continue;
            }
            for at in 0..x.len() {
                let step = 1e-3 * state.filter.p[(at, at)].sqrt().clamp(1e-3, 1.0);
                let after = |by: f64| {
                    let mut x = x.clone();
                    x[at] += by;
                    let change = moved(&x);
                    change.shift(&mut x);
                    x
                };
                let jumps = [step, -step].into_iter().any(|by| {
                    let mut x = x.clone();
                    x[at] += by;
                    let there = rests(&x);
                    there.1 || (there.0 - gap).abs() > 0.2
                });
                if jumps {
                    continue;
                }
                let slopes = (after(step) - after(-step)) / (2.0 * step);
                for to in 0..x.len() {
                    // What a slope of one unknown after the move is before it.
                    let mut h = DVector::zeros(x.len());
                    h[to] = 1.0;
                    change.before(&mut h);
                    let near = 3e-2 * slopes[to].abs() + 5e-3;
                    prop_assert!(
                        (h[at] - slopes[to]).abs() < near,
                        "{adjuster:?}: {to} on {at}: {} for {}", h[at], slopes[to]
                    );
                }
            }
        }
    }

    #[test]
    fn the_order_of_independent_readings_does_not_matter(order in Just((0..9_usize).collect::<Vec<_>>()).prop_shuffle()) {
        let events: Vec<Event> = order
            .iter()
            .map(|&at| match at {
                0 => read(Place::Relief { side: Side::Treble, span: span() }, 0.14),
                1 => read(Place::Relief { side: Side::Bass, span: span() }, 0.17),
                2 => read(Place::Nut { string: 2, held: 0 }, 0.50),
                at => read(Place::Action { string: u8::try_from(at - 2).unwrap(), fret: 12, held: 0 }, 1.6 + 0.05 * at as f64),
            })
            .collect();
        let sorted = {
            let mut all: Vec<(usize, Event)> = order.iter().copied().zip(events.clone()).collect();
            all.sort_by_key(|(at, _)| *at);
            all.into_iter().map(|(_, event)| event).collect()
        };
        let (one, other) = (state(0, events), state(0, sorted));
        prop_assert!((one.mean() - other.mean()).amax() < 1e-8);
        prop_assert!((&one.filter.p - &other.filter.p).amax() < 1e-8);
    }
}

/// Something that may happen at a bench.
fn anything(of: usize, strings: u8) -> impl Strategy<Value = Event> {
    let gap = (0_u8..4, 1..=strings, 0.0..4.0_f64).prop_map(move |(what, string, mm)| match what {
        0 => read(
            Place::Relief {
                side: if string > 2 { Side::Bass } else { Side::Treble },
                span: span(),
            },
            mm / 10.0,
        ),
        1 => read(Place::Nut { string, held: 0 }, mm / 5.0),
        2 if of == 1 => read(Place::Gap, mm),
        _ => read(
            Place::Action {
                string,
                fret: 12,
                held: 0,
            },
            0.5 + mm,
        ),
    });
    let note = (1..=strings, -20.0..20.0_f64).prop_map(|(string, cents)| {
        Event::read(
            Place::Intonation { string, fret: 12 },
            Reading::Note {
                cents,
                against: Reference::Harmonic,
                resolution_cents: Some(0.1),
                by_ear: false,
            },
        )
    });
    let (_, _, family) = FAMILIES[of];
    let fixed = matches!(family, BridgeFamily::TwoPost | BridgeFamily::RockingTail);
    let turn = (0_u8..4, 1..=strings, -2.0..2.0_f64).prop_map(move |(what, string, turns)| {
        let adjuster = match what {
            0 => Adjuster::TrussRod,
            1 if fixed => Adjuster::Post { side: Side::Bass },
            1 => Adjuster::SaddleHeight { string },
            2 if of == 1 => Adjuster::Claw,
            _ => Adjuster::SaddleDrive { string },
        };
        let turns = if adjuster == Adjuster::TrussRod {
            turns / 8.0
        } else {
            turns
        };
        Event::Adjusted {
            adjuster,
            amount: Amount::Turns { turns },
        }
    });
    let flat = Just(Event::read(
        Place::Relief {
            side: Side::Bass,
            span: span(),
        },
        Reading::Touches,
    ));
    prop_oneof![4 => gap, 3 => note, 3 => turn, 1 => flat]
}

fn journals() -> impl Strategy<Value = (usize, Vec<Event>)> {
    (0_usize..6).prop_flat_map(|of| {
        let strings = FAMILIES[of].1;
        (
            Just(of),
            prop::collection::vec(anything(of, strings), 0..16),
        )
    })
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(10_000))]

    #[test]
    fn the_covariance_stays_one_whatever_happens((of, events) in journals()) {
        let state = state(of, events);
        let p = &state.filter.p;
        prop_assert!(state.mean().iter().all(|value| value.is_finite()));
        let size = p.nrows();
        // On the scale of each unknown, so that one in kilometres does not hide one in micrometres.
        let scale: Vec<f64> = (0..size).map(|at| p[(at, at)].max(1e-12).sqrt()).collect();
        let even = DMatrix::from_fn(size, size, |a, b| p[(a, b)] / scale[a] / scale[b]);
        prop_assert!((&even - even.transpose()).amax() < 1e-6);
        let lifted = even + DMatrix::identity(size, size) * 1e-6;
        prop_assert!(lifted.cholesky().is_some(), "not positive");
    }
}

#[test]
fn a_tool_that_leans_is_not_averaged_away() {
    let place = Place::Action {
        string: 3,
        fret: 12,
        held: 0,
    };
    let known = |count: usize| {
        let length = Measurement::mm(1.8).with_tool(Tool::RuleHalfMm);
        let once = Event::read(place, Reading::Length { length });
        state(0, vec![once; count])
            .predict(place)
            .unwrap()
            .sigma
            .mm()
    };
    // Sixteen readings by one rule are not four times as good as one: it leans the same way each time.
    assert!(known(16) > known(1) / 3.9 && known(16) < known(4));
    assert!(known(400) > 0.015);
}

#[test]
fn a_first_reading_that_was_confirmed_is_believed_against_its_neighbours() {
    let at = |string: u8, mm: f64| {
        let place = Place::Action {
            string,
            fret: 12,
            held: 0,
        };
        let length = Measurement::mm(mm).with_tool(Tool::Rule64);
        Event::read(place, Reading::Length { length })
    };
    let others = (2..=6).map(|string| at(string, 1.7));
    let state = state(0, others.chain([at(1, 2.6).confirmed()]).collect());
    let known = |string| {
        let place = Place::Action {
            string,
            fret: 12,
            held: 0,
        };
        state.predict(place).unwrap().value.mm()
    };
    assert!((known(1) - 2.6).abs() < 0.06, "{}", known(1));
    // And says nothing of them.
    assert!((known(2) - 1.7).abs() < 0.06, "{}", known(2));
}

#[test]
fn plates_rest_and_lean_on_what_is_not_known_as_scipy_says() {
    // `tests/reference/plate_slopes.py`: roots by brentq on vectors, slopes by central differences.
    use super::layout::Part;
    let mut state = state(1, Vec::new());
    let pulls = [72.0, 68.0, 75.0, 83.0, 86.0, 76.0];
    for (string, pull) in state.strings.iter_mut().zip(pulls) {
        string.tension = pull;
    }
    if let Some(sheet) = &mut state.sheet {
        sheet.record.tail_back = Measurement::mm(30.0);
        sheet.record.hook_down = Measurement::mm(42.0);
        sheet.record.spring_length = Measurement::mm(80.0);
        sheet.record.spring_free = Measurement::mm(55.0);
        sheet.record.preload_newtons = 8.0;
        sheet.record.rate_newtons_per_metre = 1500.0;
        sheet.record.springs = 3;
    }
    let mut usual = state.filter.x.clone();
    let unknowns = [
        (state.at.part(Part::Level), 1.0),
        (state.at.part(Part::Rate), 0.05),
        (state.at.part(Part::HookDown), 41.0),
        (state.at.part(Part::HookBack), 3.0),
        (state.at.part(Part::Tension), 0.01),
        (state.at.crown(0), 10.6),
        (state.at.setback(state.saddle(0)), 10.5),
    ];
    for index in 1..6 {
        usual[state.at.crown(index)] = 10.0 + 0.2 * index as f64;
        usual[state.at.setback(state.saddle(index))] = 10.0 + 0.3 * index as f64;
    }
    for (at, value) in unknowns {
        usual[at] = value;
    }
    usual[state.at.part(Part::EdgeUp)] = 0.0;
    usual[state.at.part(Part::EdgeBack)] = 0.0;
    let gap = 64;
    let mut compared = 0;
    let table = include_str!("../../../tests/reference/plate_slopes.csv");
    for line in table.lines().skip(1) {
        let row: Vec<f64> = line.split(',').map(|cell| cell.parse().unwrap()).collect();
        let mut before = usual.clone();
        before[gap] = row[0];
        let mut after = before.clone();
        for index in 0..6 {
            after[state.at.crown(index)] += row[2 + index];
        }
        let found = state.gap_slopes(&state, &before, &after, row[1]).unwrap();
        let (rests, on_before, on_after, on_claw) = found;
        assert!((rests - row[8]).abs() < 1e-6, "{line}: {rests}");
        let slope = |at: usize| on_before[at] + on_after[at];
        let own = [slope(gap), on_claw];
        let all = own.into_iter().chain(unknowns.map(|(at, _)| slope(at)));
        for (own, scipy) in all.zip(&row[9..]) {
            // Torques are differenced one way, over a ten thousandth of a radian and two hundredths of a millimetre.
            assert!(
                (own - scipy).abs() < 0.004 + 0.004 * scipy.abs(),
                "{line}: {own} {scipy}"
            );
            compared += 1;
        }
    }
    assert_eq!(compared, 4 * 9);
}
