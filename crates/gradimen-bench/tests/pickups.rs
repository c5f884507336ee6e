//! Pickups: gaps that follow the heights, turns, levels made equal.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::guitar;
use gradimen_bench::doubt::question;
use gradimen_bench::event::{Event, HeightAdjuster, Side};
use gradimen_bench::hardware::PickupFamily;
use gradimen_bench::methods::pickup_target;
use gradimen_bench::plan::{Plan, Verdict};
use gradimen_bench::record::Measured;
use gradimen_bench::setup::{PickupAction, PickupMove};
use gradimen_core::quantity::Length;
use gradimen_core::thread::Rotation;
use gradimen_core::units::{LengthUnit, parse_length};

fn gap(pickup: u8, side: Side, text: &str) -> Event {
    Event::PickupRead {
        pickup,
        side,
        gap: Measured::from(&parse_length(text, LengthUnit::Millimetre).unwrap()),
        kept: false,
    }
}

fn level(pickup: u8, string: u8, decibels: f64) -> Event {
    Event::LevelRead {
        pickup,
        string,
        decibels,
    }
}

fn turn(plan: &Plan, pickup: usize, side: usize) -> PickupMove {
    match &plan.setup.pickups[pickup].sides[side].action {
        PickupAction::Turn(step) => step.clone(),
        other => panic!("{other:?}"),
    }
}

#[test]
fn targets_are_those_of_the_trade() {
    // Common practice: single coil 3/32 in bass, 1/16 in treble; older style 6/64 and 5/64; close-set
    // 2 to 2.5 mm; bass guitar 1/8 in bass side, 3/32 in treble side.
    for (family, parts) in [
        (PickupFamily::SingleCoil, [4.0, 6.0]),
        (PickupFamily::OlderSingleCoil, [5.0, 6.0]),
        (PickupFamily::Bass, [6.0, 8.0]),
    ] {
        for (target, sixty_fourths) in pickup_target(family).into_iter().zip(parts) {
            assert!(
                (target.inches() * 64.0 - sixty_fourths).abs() < 1e-9,
                "{family:?}"
            );
        }
    }
    assert_eq!(
        pickup_target(PickupFamily::CloseSet).map(Length::mm),
        [2.0, 2.5]
    );
}

#[test]
fn too_far_comes_nearer_by_turns_of_its_screw() {
    let plan = Plan::of(&guitar(vec![gap(1, Side::Treble, "3.0 mm")]));
    // 3.0 wanted 1.59, on a thread of 0.7 mm: two turns.
    let step = turn(&plan, 1, 0);
    assert_eq!(step.turns.value(), 2.0);
    assert_eq!(step.rotation, Rotation::Clockwise);
    assert!((step.expected.value.mm() - 1.6).abs() < 0.08);
    assert_eq!(plan.setup.pickups[1].sides[1].action, PickupAction::Read);
    let near = Plan::of(&guitar(vec![gap(1, Side::Treble, "1.0 mm")]));
    assert!(turn(&near, 1, 0).distance < Length::ZERO);
    assert!(
        near.findings
            .iter()
            .any(|finding| finding.kind() == "pickup_too_near")
    );
}

#[test]
fn gaps_follow_the_heights_without_a_new_reading() {
    let mut events = vec![gap(2, Side::Treble, "1.6 mm"), gap(2, Side::Bass, "2.4 mm")];
    let before = Plan::of(&guitar(events.clone()));
    assert_eq!(before.setup.pickups[2].sides[0].action, PickupAction::Leave);
    // The first string's saddle sinks by a little: the gap at the bridge pickup shrinks by nearly as
    // much and is carried.
    let lower = |turns| Event::HeightMoved {
        adjuster: HeightAdjuster::String(1),
        turns,
    };
    events.push(lower(-0.25));
    let carried = Plan::of(&guitar(events.clone()));
    let side = &carried.setup.pickups[2].sides[0].quantity;
    let fell = before.setup.pickups[2].sides[0].quantity.now.value - side.now.value;
    // Similar triangles from the last fret: 44 mm before the scale line of some 182 mm to the crown.
    assert!(
        (fell.mm() - 0.125 * (182.0 - 47.0) / 185.0).abs() < 0.01,
        "{fell:?}"
    );
    assert!(side.is_carried() && side.verdict == Verdict::Within);
    // By much, and it has to be read again; the other side stays.
    events.push(lower(-2.0));
    let far = Plan::of(&guitar(events));
    assert_eq!(
        far.setup.pickups[2].sides[0].quantity.verdict,
        Verdict::Recheck
    );
    assert_eq!(
        far.setup.pickups[2].sides[1].quantity.verdict,
        Verdict::Within
    );
}

#[test]
fn the_louder_pickup_goes_further_off() {
    let mut events = vec![];
    for pickup in 0..3 {
        events.push(gap(pickup, Side::Treble, "1.6 mm"));
        events.push(gap(pickup, Side::Bass, "2.4 mm"));
    }
    for string in 1..=6 {
        events.push(level(0, string, -14.0));
        events.push(level(2, string, -18.0));
    }
    let plan = Plan::of(&guitar(events.clone()));
    let louder = |plan: &Plan, pickup: usize| plan.setup.pickups[pickup].louder;
    let neck = louder(&plan, 0).unwrap();
    assert!((neck.by.decibels() - 4.0).abs() < 1e-9 && !neck.equal && !neck.fitted);
    assert!(neck.further > Length::from_mm(0.3));
    assert!(louder(&plan, 2).unwrap().equal && louder(&plan, 1).is_none());
    // Turned off and read again: its own fall-off takes the place of the usual one.
    for side in Side::ALL {
        events.push(Event::PickupTurned {
            pickup: 0,
            side,
            turns: -1.5,
        });
    }
    events.push(level(0, 3, -17.0));
    let fitted = louder(&Plan::of(&guitar(events)), 0).unwrap();
    assert!(fitted.fitted);
}

#[test]
fn slips_and_nonsense_are_answered() {
    let job = guitar(vec![gap(0, Side::Bass, "6/64")]);
    let asked = question(&job, &gap(0, Side::Bass, "6/32")).unwrap();
    assert!(asked.slips[0].says.contains("32nds written for 64ths"));
    assert!(
        job.accepts(&gap(7, Side::Bass, "2 mm"))
            .unwrap_err()
            .to_string()
            .contains("this instrument has 3")
    );
    assert!(job.accepts(&level(0, 9, -10.0)).is_err());
    assert!(job.accepts(&level(0, 1, f64::NAN)).is_err());
}
