//! The stand-in instrument is coupled like a real one, and its tools read it honestly.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Entry, Event, Opened};
use gradimen_bench::model::defaults;
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::instrument::{Instrument, Kind};
use gradimen_bench::model::{
    Adjuster, Measurement, Player, Reading, ReliefSpan, Side, Strung, Touch, Tuning,
};
use gradimen_core::quantity::Length;
use gradimen_sim::{Defects, Rng, SimulatedInstrument};
use jiff::Timestamp;

const SPAN: ReliefSpan = ReliefSpan {
    low: 1,
    high: 22,
    at: 8,
};

fn job(family: BridgeFamily) -> Estimate {
    let kind = Kind::Guitar;
    let opened = Event::Opened(Box::new(Opened {
        instrument: Instrument {
            name: "Heron".into(),
            bridge: Bridge::profile(family, 6),
            ..defaults::usual_instrument(kind, 6)
        },
        instrument_version: 1,
        purpose: "test".into(),
        player: Player {
            touch: Touch::Medium,
            style: "any".into(),
        },
        strung: Strung {
            set: defaults::sets(kind, 6)[0].strings.clone(),
            tuning: Tuning::of("standard", 440.0, &defaults::tunings(kind, 6)[0].pitches),
        },
        arrived: None,
        heights: defaults::usual_heights(kind),
        old_strings: false,
    }));
    let entry = Entry::new(1, Timestamp::from_second(1_790_000_000).unwrap(), opened);
    Estimate::of(Arc::new(Job::fold(&[entry]).unwrap())).unwrap()
}

fn simulated(family: BridgeFamily, seed: u64) -> SimulatedInstrument {
    let odd = Defects {
        relief_mm: [0.3, 0.3],
        nut_mm: 0.6,
        action_mm: [1.8, 2.2],
        saddles_mm: [0.0; 8],
    };
    SimulatedInstrument::hidden(&job(family), odd, seed).unwrap()
}

/// The length that was read.
fn length(event: Event) -> Measurement {
    match event {
        Event::Read {
            value: Reading::Length { length },
            ..
        } => length,
        other => panic!("{other:?}"),
    }
}

#[test]
fn it_comes_as_odd_as_it_was_told_to() {
    for seed in 0..8 {
        let heron = simulated(BridgeFamily::TwoPost, seed);
        // Necks are no parabolas: the relief is about what was asked for.
        for side in Side::ALL {
            let relief = heron.relief(side, SPAN).mm();
            assert!((relief - 0.3).abs() < 0.08, "{relief}");
        }
        assert!((heron.first_fret(3, 0).mm() - 0.6).abs() < 0.02);
        assert!((heron.action(1, 12).mm() - 1.8).abs() < 0.02);
        assert!((heron.action(6, 12).mm() - 2.2).abs() < 0.02);
        for string in 1..=6 {
            assert!(heron.cents(string).unwrap().value().abs() < 0.05);
        }
    }
}

#[test]
fn the_rod_lifts_the_nut_and_with_it_every_string() {
    for seed in 0..8 {
        let mut heron = simulated(BridgeFamily::FixedPlate, seed);
        let before = (heron.relief(Side::Bass, SPAN), heron.action(6, 12));
        heron.turn_rod(-0.25);
        let (relief, action) = (
            heron.relief(Side::Bass, SPAN) - before.0,
            heron.action(6, 12) - before.1,
        );
        assert!(relief > Length::ZERO);
        // Common practice: about 1.7 times the change of relief; this neck is no parabola.
        let share = action.ratio(relief);
        assert!((1.3..2.2).contains(&share), "{share}");
        // It goes on settling, and never by more than a tenth of the move.
        let now = heron.relief(Side::Bass, SPAN);
        let _ = heron.read_nut(1, 0);
        let settled = heron.relief(Side::Bass, SPAN) - now;
        assert!(settled >= Length::ZERO && settled < relief * 0.1);
    }
}

#[test]
fn blades_and_rules_tell_the_truth_within_their_divisions() {
    let mut heron = simulated(BridgeFamily::FixedPlate, 5);
    let truth = heron.relief(Side::Treble, SPAN);
    let (mut within, mut all) = (0, 0);
    for _ in 0..200 {
        let gap = length(heron.read_relief(Side::Treble, SPAN));
        assert!(gap.low < gap.high && gap.written.ends_with("thou"));
        all += 1;
        let hair = Length::from_mm(0.012);
        within += i32::from(truth >= gap.low - hair && truth <= gap.high + hair);
    }
    assert!(within * 10 > all * 8, "{within} of {all}");
    let height = heron.action(4, 12);
    for _ in 0..50 {
        let gap = length(heron.read_action(4, 12));
        assert!((gap.middle() - height).abs() < Length::from_mm(0.4));
        assert!(gap.written.ends_with("/64"));
    }
}

#[test]
fn a_neck_bent_backward_touches_or_rocks() {
    let odd = |relief: f64| Defects {
        relief_mm: [relief; 2],
        ..Defects::usual(&mut Rng::new(1), false)
    };
    let seen = |relief: f64| {
        let mut knot =
            SimulatedInstrument::hidden(&job(BridgeFamily::FixedPlate), odd(relief), 3).unwrap();
        match knot.read_relief(Side::Bass, SPAN) {
            Event::Read { value, .. } => value,
            other => panic!("{other:?}"),
        }
    };
    assert_eq!(seen(-0.2), Reading::Rocks);
    assert_eq!(seen(0.0), Reading::Touches);
    assert!(matches!(seen(0.3), Reading::Length { .. }));
}

#[test]
fn height_screws_lift_their_own_string_and_posts_all_of_them() {
    let mut plate = simulated(BridgeFamily::FixedPlate, 2);
    let before: Vec<Length> = (1..=6).map(|string| plate.action(string, 12)).collect();
    plate.turn_height(Adjuster::SaddleHeight { string: 3 }, 1.0);
    for string in 1..=6_u8 {
        let rise = plate.action(string, 12) - before[usize::from(string - 1)];
        if string == 3 {
            // Half of a turn of 0.5 mm, give or take this screw.
            assert!((rise.mm() - 0.25).abs() < 0.03, "{rise:?}");
        } else {
            assert!(rise.abs().mm() < 1e-9);
        }
    }
    let mut posts = simulated(BridgeFamily::TwoPost, 2);
    let before: Vec<Length> = (1..=6).map(|string| posts.action(string, 12)).collect();
    posts.turn_height(Adjuster::Post { side: Side::Treble }, 1.0);
    let rise = |string: u8| (posts.action(string, 12) - before[usize::from(string - 1)]).mm();
    assert!(rise(1) > rise(3) && rise(3) > rise(6) && rise(6) > 0.0);
}

#[test]
fn raising_a_string_sharpens_its_fretted_note() {
    let mut heron = simulated(BridgeFamily::FixedPlate, 9);
    let before = heron.cents(3).unwrap();
    heron.turn_height(Adjuster::SaddleHeight { string: 3 }, 2.0);
    assert!(heron.cents(3).unwrap().value() > before.value() + 1.0);
    heron.turn_saddle(3, 4.0);
    assert!(heron.cents(3).unwrap() < before + gradimen_core::quantity::Cents::new(1.0));
}

#[test]
fn a_claw_turned_in_lowers_the_plate_and_its_crowns() {
    let mut lapwing = simulated(BridgeFamily::KnifeEdgeVibrato, 4);
    let before = (lapwing.vibrato_gap(), lapwing.action(3, 12));
    lapwing.turn_claw(0.5);
    assert!(lapwing.vibrato_gap() < before.0);
    assert!(lapwing.action(3, 12) < before.1);
    lapwing.hook_springs(2);
    assert!(lapwing.vibrato_gap() > before.0);
    assert_eq!(
        simulated(BridgeFamily::FixedPlate, 4).vibrato_gap(),
        Length::ZERO
    );
}

#[test]
fn a_pickup_comes_nearer_by_its_screw() {
    let mut avocet = simulated(BridgeFamily::FixedPlate, 6);
    let before = avocet.pickup_gap(1, Side::Bass);
    avocet.turn_pickup(1, Side::Bass, 1.0);
    let nearer = before - avocet.pickup_gap(1, Side::Bass);
    assert!((nearer.mm() - 0.7).abs() < 0.12, "{nearer:?}");
    let gap = length(avocet.read_pickup(1, Side::Bass));
    assert!((gap.middle() - avocet.pickup_gap(1, Side::Bass)).abs() < Length::from_mm(0.4));
}
