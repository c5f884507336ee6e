//! A simulated instrument comes as it was told to, is coupled like a real one, and its tools read it honestly.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use gradimen_bench::journal::Event;
use gradimen_bench::model::hardware::BridgeFamily;
use gradimen_bench::model::{
    Adjuster, Amount, End, Measurement, Place, Reading, ReliefSpan, Side, StringSet,
};
use gradimen_sim::{Condition, Rng, SimulatedInstrument, Trap};

const SPAN: ReliefSpan = ReliefSpan {
    low: 1,
    high: 22,
    at: 8,
};

fn simulated(family: BridgeFamily, trap: Option<Trap>, seed: u64) -> SimulatedInstrument {
    common::simulated(family, seed, |_, odd| {
        (odd.fitted, odd.trap) = (false, trap)
    })
}

const fn turns(turns: f64) -> Amount {
    Amount::Turns { turns }
}

fn length(event: &Event) -> &Measurement {
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
    for seed in 0..6 {
        let heron = simulated(BridgeFamily::FixedPlate, None, seed);
        for side in Side::ALL {
            assert!(
                (heron.relief(side, SPAN) - 0.3).abs() < 0.01,
                "{seed} {side:?} {}",
                heron.relief(side, SPAN)
            );
        }
        assert!((heron.height(2, 0, 1) - 0.6).abs() < 0.12);
        assert!((heron.height(0, 0, 12) - 1.8).abs() < 0.5);
        for string in 1..=6 {
            assert!(
                heron.cents(string).abs() < 0.1,
                "{seed} {}",
                heron.cents(string)
            );
        }
        let lapwing = simulated(BridgeFamily::KnifeEdgeVibrato, None, seed);
        assert!(
            (lapwing.gap().unwrap() - 2.5).abs() < 0.3,
            "{:?}",
            lapwing.gap()
        );
    }
}

#[test]
fn every_screw_turns_the_way_it_says() {
    for seed in 0..6 {
        let mut heron = simulated(BridgeFamily::FixedPlate, None, seed);
        let before = (heron.relief(Side::Bass, SPAN), heron.height(5, 0, 12));
        heron.adjust(Adjuster::TrussRod, &turns(0.25));
        // A tighter rod straightens the neck, and that brings the strings nearer to it.
        assert!(heron.relief(Side::Bass, SPAN) < before.0 - 0.03);
        assert!(heron.height(5, 0, 12) < before.1);
        let before = heron.height(2, 0, 12);
        heron.adjust(Adjuster::SaddleHeight { string: 3 }, &turns(1.0));
        // Half of what a crown rises shows at the twelfth.
        let raised = heron.height(2, 0, 12) - before;
        assert!((0.18..0.30).contains(&raised), "{raised}");
        let before = heron.cents(3);
        heron.adjust(Adjuster::SaddleDrive { string: 3 }, &turns(1.0));
        // Half a millimetre of 648 is 1.3 cents.
        let flatter = before - heron.cents(3);
        assert!((0.9..1.8).contains(&flatter), "{flatter}");
        let before = heron.height(0, 0, 1);
        let file = Amount::Distance {
            distance: Measurement::mm(-0.1),
        };
        let strings = StringSet::one(1);
        heron.adjust(Adjuster::NutSlots { strings }, &file);
        assert!(heron.height(0, 0, 1) < before - 0.05);
        let before = heron.pickup(0, Side::Treble).unwrap();
        let screw = Adjuster::PickupScrew {
            pickup: 0,
            side: Side::Treble,
        };
        heron.adjust(screw, &turns(1.0));
        assert!(heron.pickup(0, Side::Treble).unwrap() < before - 0.3);
    }
}

#[test]
fn on_a_float_one_string_moves_all_the_others() {
    for seed in 0..6 {
        let mut lapwing = simulated(BridgeFamily::KnifeEdgeVibrato, None, seed);
        let before = (lapwing.gap().unwrap(), lapwing.height(0, 0, 12));
        lapwing.adjust(Adjuster::Claw, &turns(0.5));
        assert!(
            lapwing.gap().unwrap() < before.0 - 0.05,
            "{seed} {before:?} {:?}",
            lapwing.gap()
        );
        assert!(lapwing.height(0, 0, 12) < before.1);
        let gap = lapwing.gap().unwrap();
        lapwing.adjust(Adjuster::SaddleHeight { string: 6 }, &turns(2.0));
        // A higher crown has the longer arm: the tail comes up.
        assert!(lapwing.gap().unwrap() > gap);
    }
}

#[test]
fn posts_lift_their_side_and_a_barrel_both_its_strings() {
    let mut wren = simulated(BridgeFamily::TwoPost, None, 3);
    let heights = |of: &SimulatedInstrument| [0, 1, 5].map(|index| of.height(index, 0, 12));
    let before = heights(&wren);
    wren.adjust(Adjuster::Post { side: Side::Bass }, &turns(0.5));
    let after = heights(&wren);
    assert!(after[2] - before[2] > 3.0 * (after[0] - before[0]).abs());
    let mut dunlin = simulated(BridgeFamily::ThreeBarrel, None, 3);
    let before = heights(&dunlin);
    dunlin.adjust(Adjuster::SaddleHeight { string: 1 }, &turns(1.0));
    let after = heights(&dunlin);
    assert!(
        after[0] > before[0] + 0.1
            && after[1] > before[1] + 0.02
            && after[1] - before[1] < after[0] - before[0]
    );
}

#[test]
fn what_is_typed_lies_about_the_truth() {
    let (mut off, mut count) = (0.0, 0.0);
    for seed in 0..20 {
        let mut heron = simulated(BridgeFamily::FixedPlate, None, seed);
        let place = Place::Action {
            string: 3,
            fret: 12,
            held: 0,
        };
        let truth = heron.height(2, 0, 12);
        for _ in 0..5 {
            off += length(&heron.read(place).unwrap()).middle().mm() - truth;
            count += 1.0;
        }
        let relief = Place::Relief {
            side: Side::Bass,
            span: SPAN,
        };
        let typed = heron.read(relief).unwrap();
        let typed = length(&typed);
        assert!((typed.middle().mm() - 0.3).abs() < 0.06, "{typed:?}");
    }
    assert!(f64::abs(off / count) < 0.03, "{}", off / count);
}

#[test]
fn a_trap_is_one() {
    let mut spent = simulated(BridgeFamily::FixedPlate, Some(Trap::RodSpent), 1);
    let told = spent.adjust(Adjuster::TrussRod, &turns(0.25)).remove(0);
    assert!(matches!(told, Event::Ended { how: End::Hard, .. }));
    // The bridge stands where its saddles cannot reach.
    let misplaced = simulated(BridgeFamily::TwoPost, Some(Trap::Bridge(9.0)), 1);
    assert!(misplaced.cents(1) < -4.0, "{}", misplaced.cents(1));
    let foreign = simulated(BridgeFamily::FixedPlate, Some(Trap::ForeignNeck(628.65)), 1);
    assert!(foreign.cents(3).abs() > 4.0, "{}", foreign.cents(3));
}

#[test]
fn chance_makes_every_seed_another_instrument() {
    let mut chance = Rng::new(1);
    let one = Condition::usual(&mut chance, false);
    assert_ne!(one, Condition::usual(&mut chance, false));
    let [a, b] = [1, 2].map(|seed| {
        let mut heron = simulated(BridgeFamily::FixedPlate, None, seed);
        heron.adjust(Adjuster::TrussRod, &turns(0.25));
        heron.relief(Side::Bass, SPAN)
    });
    assert!((a - b).abs() > 1e-3);
}
