//! Parts that no screw of their own moves answer as hands know them: bar, bridge, pocket, saddle, claw, springs and two sorts of height screws.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::simulated;
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::{Adjuster, Amount, Measurement, Place, Reading, Shim, Side};
use gradimen_core::quantity::Length;
use gradimen_sim::{Condition, SimulatedInstrument};

fn mm(mm: f64) -> Amount {
    Amount::Distance {
        distance: Measurement::mm(mm),
    }
}

/// Heights over the twelfth, string 1 first.
fn heights(of: &SimulatedInstrument) -> Vec<f64> {
    (0..6).map(|index| of.height(index, 0, 12)).collect()
}

fn cents(of: &SimulatedInstrument) -> Vec<f64> {
    (1..=6).map(|string| of.cents(string)).collect()
}

fn changed(before: &[f64], after: &[f64]) -> Vec<f64> {
    before.iter().zip(after).map(|(b, a)| a - b).collect()
}

#[test]
fn a_shim_lowers_the_strings_and_the_pickups_under_them() {
    for seed in 0..4 {
        let fixed = || simulated(BridgeFamily::FixedPlate, seed, |_, _| ());
        let gaps = |of: &SimulatedInstrument| Side::ALL.map(|side| of.pickup(0, side).unwrap());
        let mut full = fixed();
        let before = (heights(&full), gaps(&full));
        full.adjust(Adjuster::Pocket { shim: Shim::Full }, &mm(0.5));
        // Half of what everything on the body sinks by shows at the twelfth; the pickups sink by all of it, the strings over them by less.
        for by in changed(&before.0, &heights(&full)) {
            assert!((-0.29..-0.21).contains(&by), "{seed} {by}");
        }
        for (before, after) in before.1.iter().zip(gaps(&full)) {
            assert!(
                after > before + 0.1 && after < before + 0.5,
                "{before} {after}"
            );
        }
        let mut wedge = fixed();
        let before = (heights(&wedge), gaps(&wedge));
        wedge.adjust(Adjuster::Pocket { shim: Shim::Wedge }, &mm(0.5));
        // By hand: half a millimetre in 76 tips the saddles, 210 to 260 mm behind the joint, down by 1.4 to 1.7: half of it shows.
        for by in changed(&before.0, &heights(&wedge)) {
            assert!((-1.0..-0.6).contains(&by), "{seed} {by}");
        }
        for (before, after) in before.1.iter().zip(gaps(&wedge)) {
            assert!(after < before + 0.5, "{before} {after}");
        }
    }
}

#[test]
fn a_bar_goes_by_its_ends_and_a_bridge_as_a_whole() {
    for seed in 0..4 {
        let mut wooden = simulated(BridgeFamily::FloatingWooden, seed, |_, _| ());
        let before = cents(&wooden);
        let ends = Amount::Ends {
            treble: Measurement::mm(2.0),
            bass: Measurement::mm(0.0),
        };
        wooden.adjust(Adjuster::Bar, &ends);
        let by = changed(&before, &cents(&wooden));
        // Two millimetres of 648 are 5.3 cents: flatter at the treble, all but as it was at the bass.
        assert!((-6.5..-4.0).contains(&by[0]), "{seed} {by:?}");
        assert!(by[5].abs() < 0.6 && by[2] < by[4], "{seed} {by:?}");
        wooden.adjust(Adjuster::Bar, &ends.back());
        for (index, by) in changed(&before, &cents(&wooden)).iter().enumerate() {
            assert!(by.abs() < 1.2, "{seed} {index} {by}");
        }
        let mut moved = simulated(BridgeFamily::FixedPlate, seed, |_, _| ());
        let before = cents(&moved);
        moved.adjust(Adjuster::Bridge, &mm(2.0));
        for by in changed(&before, &cents(&moved)) {
            assert!((-7.0..-3.8).contains(&by), "{seed} {by}");
        }
    }
}

#[test]
fn a_saddle_that_is_turned_round_has_another_travel_and_comes_back() {
    let round =
        |of: &mut Bridge, _: &mut Condition| of.intonation.turn_round = Length::from_mm(2.0);
    let mut heron = simulated(BridgeFamily::FixedPlate, 2, round);
    let before = heron.cents(4);
    let saddle = Adjuster::SaddleDrive { string: 4 };
    heron.adjust(saddle, &Amount::Reversed);
    let by = heron.cents(4) - before;
    assert!((-7.0..-3.8).contains(&by), "{by}");
    // What is left behind it is what was left.
    let room = |of: &mut SimulatedInstrument| {
        let told = of.read(Place::Room { string: 4 }).unwrap();
        match told {
            gradimen_bench::journal::Event::Read {
                value: Reading::Length { length },
                ..
            } => length.middle().mm(),
            other => panic!("{other:?}"),
        }
    };
    let left = room(&mut heron);
    heron.adjust(saddle, &Amount::Reversed);
    assert!((heron.cents(4) - before).abs() < 0.3);
    assert!((room(&mut heron) - left).abs() < 0.6);
}

#[test]
fn a_saddle_without_screws_is_cut_and_posts_and_screws_both_lift() {
    let mut cut = simulated(BridgeFamily::FixedPlate, 3, |of, _| {
        of.details.no_height_screws = true;
    });
    let before = heights(&cut);
    cut.adjust(Adjuster::SaddleHeight { string: 2 }, &mm(-0.4));
    let by = changed(&before, &heights(&cut));
    assert!((-0.24..-0.14).contains(&by[1]), "{by:?}");
    assert!(by[3].abs() < 0.02, "{by:?}");
    let mut both = simulated(BridgeFamily::TwoPost, 3, |of, _| {
        of.details.posts_and_saddle_screws = true;
    });
    let before = heights(&both);
    let turn = Amount::Turns { turns: 1.0 };
    both.adjust(Adjuster::SaddleHeight { string: 2 }, &turn);
    let own = changed(&before, &heights(&both));
    // A screw of half a millimetre, half of it at the twelfth.
    assert!(
        (0.18..0.30).contains(&own[1]) && own[5].abs() < 0.02,
        "{own:?}"
    );
    both.adjust(Adjuster::Post { side: Side::Bass }, &turn);
    let whole = changed(&before, &heights(&both));
    assert!(
        whole[5] > 0.3 && whole[5] > 3.0 * whole[0].abs(),
        "{whole:?}"
    );
}

#[test]
fn a_claw_is_squared_by_its_two_screws_and_springs_converge() {
    let plate = || simulated(BridgeFamily::KnifeEdgeVibrato, 1, |_, _| ());
    let ends = |of: &mut SimulatedInstrument| match of.read(Place::ClawEnds).unwrap() {
        gradimen_bench::journal::Event::Read {
            value: Reading::Ends { treble, bass },
            ..
        } => (treble.middle().mm(), bass.middle().mm()),
        other => panic!("{other:?}"),
    };
    let mut lapwing = plate();
    let (treble, bass) = ends(&mut lapwing);
    let turns = Amount::Apart {
        turns: 0.0,
        apart: 2.0,
    };
    lapwing.adjust(Adjuster::Claw, &turns);
    let (treble_then, bass_then) = ends(&mut lapwing);
    // The bass side goes in, nearer to the wall that its screws stand in.
    assert!(bass_then < bass - 0.8, "{bass} {bass_then}");
    assert!(treble_then > treble + 0.8, "{treble} {treble_then}");
    // Springs that converge are longer, and pull the tail down.
    let mut lapwing = plate();
    let gap = lapwing.gap().unwrap();
    let springs = |converging| Amount::Springs {
        count: 3,
        converging,
    };
    lapwing.adjust(Adjuster::Springs, &springs(true));
    assert!(lapwing.gap().unwrap() < gap - 0.02);
    lapwing.adjust(Adjuster::Springs, &springs(false));
    assert!((lapwing.gap().unwrap() - gap).abs() < 0.05);
}
