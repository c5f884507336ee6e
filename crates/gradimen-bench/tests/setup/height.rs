//! Nut and heights: moved once, for the neck to come.

use crate::common::{fold, guitar, opened};
use gradimen_bench::event::{Event, HeightAdjuster, HeightEnd, Inner, Shim, Side};
use gradimen_bench::hardware::BridgeFamily;
use gradimen_bench::instrument::Kind;
use gradimen_bench::plan::{Plan, Verdict};
use gradimen_bench::record::Measured;
use gradimen_bench::setup::{HeightAction, NutAction, ReliefAction};
use gradimen_core::quantity::Length;
use gradimen_core::thread::Rotation;

use super::*;

#[test]
fn heights_are_turned_for_the_neck_to_come() {
    // A neck with far too much relief at the right height now: when the rod has been turned the
    // strings will lie too low, and the plan raises them in the same go.
    let mut events = right();
    events.splice(0..2, both("18 thou"));
    let plan = Plan::of(&guitar(events.clone()));
    assert!(matches!(plan.setup.relief.action, ReliefAction::Turn(_)));
    let string = &plan.setup.height.strings[3];
    assert!(string.quantity.off().abs() < string.quantity.tolerance);
    let HeightAction::Turn(step) = &plan.setup.height.adjusters[3].action else {
        panic!("{:?}", plan.setup.height.adjusters[3])
    };
    // The action falls by about 1.7 times the change of relief by hold 1 and last (common practice),
    // and the saddle goes up twice that.
    let change = plan.setup.relief.twelfth_change(guitar(events).geometry());
    assert!(change.mm() < -0.3);
    assert!(
        (step.distance.mm() + 2.0 * change.mm()).abs() < 0.15,
        "{:?} {change:?}",
        step.distance
    );
    assert!((string.quantity.after - string.quantity.target).abs() <= string.quantity.tolerance);
}

#[test]
fn a_screw_is_turned_once_and_learned_from() {
    // 2.2 mm wanted 1.59 over fret 12 at 648 mm: the saddle sinks twice the difference.
    let mut events = both("6 thou");
    events.push(action(1, "2.20 mm"));
    let plan = Plan::of(&guitar(events.clone()));
    let HeightAction::Turn(step) = &plan.setup.height.adjusters[0].action else {
        panic!("{:?}", plan.setup.height.adjusters[0])
    };
    assert!(
        (step.distance.mm() + 1.22).abs() < 0.12,
        "{:?}",
        step.distance
    );
    assert_eq!(step.rotation, Rotation::Counterclockwise);
    events.push(raised(1, step.turns.value()));
    let moved = Plan::of(&guitar(events.clone()));
    assert_eq!(
        moved.setup.height.adjusters[0].action,
        HeightAction::Read(vec![1])
    );
    assert_eq!(
        moved.setup.height.strings[0].quantity.verdict,
        Verdict::Recheck
    );
    // The other strings are not touched by it.
    let other = |plan: &Plan| plan.setup.height.strings[3].quantity.now.value;
    assert!((other(&moved) - other(&plan)).abs().mm() < 1e-9);
    events.push(action(1, "1.70 mm"));
    let learned = guitar(events);
    assert!(learned.geometry().screw_response(0).value < 1.0);
}

#[test]
fn two_posts_bring_both_outer_strings_right_and_say_what_stays() {
    let mut events = vec![opened(Kind::Guitar, 6, BridgeFamily::TwoPost)];
    events.extend(both("6 thou"));
    for (string, height) in [
        (1, "2.1 mm"),
        (2, "2.0 mm"),
        (3, "2.5 mm"),
        (4, "2.2 mm"),
        (5, "2.3 mm"),
        (6, "2.6 mm"),
    ] {
        events.push(nut(string, "20 thou"));
        events.push(action(string, height));
    }
    let plan = Plan::of(&fold(events.clone()));
    assert_eq!(plan.setup.height.adjusters.len(), 2);
    for (at, adjuster) in plan.setup.height.adjusters.iter().enumerate() {
        assert_eq!(adjuster.adjuster, HeightAdjuster::Post(Side::ALL[at]));
        assert!(matches!(adjuster.action, HeightAction::Turn(_)));
    }
    let strings = &plan.setup.height.strings;
    for outer in [&strings[0], &strings[5]] {
        assert!((outer.quantity.after - outer.quantity.target).abs() < outer.quantity.tolerance);
    }
    // The third lies higher than its place on the arc: cut its slot.
    assert!(
        strings[2].remains < Length::from_mm(-0.1),
        "{:?}",
        strings[2].remains
    );
    // A single string cannot be lifted here.
    let job = fold(events);
    let error = job.accepts(&raised(3, 1.0)).unwrap_err().to_string();
    assert!(error.contains("two posts"), "{error}");
    let fixed = guitar(Vec::new());
    let post = Event::HeightMoved {
        adjuster: HeightAdjuster::Post(Side::Bass),
        turns: 1.0,
    };
    assert!(fixed.accepts(&post).is_err());
}

#[test]
fn an_adjuster_at_its_end_asks_for_a_wedge() {
    let mut events = right();
    events.push(action(3, "3.0 mm"));
    events.push(action(3, "3.0 mm"));
    events.push(Event::HeightAtEnd {
        adjuster: HeightAdjuster::String(3),
        end: HeightEnd::Bottom,
    });
    let plan = Plan::of(&guitar(events.clone()));
    let HeightAction::AtEnd {
        short_by,
        wedge: Some(wedge),
        shim: Some(shim),
        ..
    } = plan.setup.height.adjusters[2].action
    else {
        panic!("{:?}", plan.setup.height.adjusters[2])
    };
    // Down by what is missing, and up to the middle of 4 mm of travel.
    assert!((shim.mm() - short_by.mm() - 2.0).abs() < 1e-9);
    // Similar triangles: the saddle stands some 260 mm behind the mouth of a 76 mm pocket.
    assert!((wedge.ratio(shim) - 76.0 / 260.0).abs() < 0.02, "{wedge:?}");
    assert!(
        plan.findings
            .iter()
            .any(|finding| finding.kind() == "height_spent" && finding.ways()[0].contains("wedge"))
    );
    // With the wedge in, all strings lie lower and the saddles come up.
    events.push(Event::NeckShimmed {
        shim: Shim::Wedge,
        thickness: Measured::mm(0.5),
    });
    let after = Plan::of(&guitar(events));
    let first = |plan: &Plan| plan.setup.height.strings[0].quantity.now.value;
    let fell = (first(&plan) - first(&after)).mm();
    // Half of it shows over the twelfth.
    assert!((fell - 0.5 * 260.0 / 76.0 / 2.0).abs() < 0.1, "{fell}");
    assert_eq!(
        after.setup.height.strings[0].quantity.verdict,
        Verdict::Recheck
    );
}

#[test]
fn nuts_are_filed_short_and_never_back() {
    let mut events = both("6 thou");
    for string in 1..=6 {
        events.push(nut(string, if string == 2 { "13 thou" } else { "27 thou" }));
        events.push(action(string, "1.75 mm"));
    }
    let plan = Plan::of(&guitar(events.clone()));
    let slot = |string: usize| plan.setup.nut.strings[string - 1].clone();
    let NutAction::File { first, total } = slot(3).action else {
        panic!("{:?}", slot(3))
    };
    assert!(first < total && (total - first).mm() >= 0.029);
    assert!((total.thou() - 7.0).abs() < 2.0, "{}", total.thou());
    // Too high a nut makes the first fret sharp (common practice), and filing flattens it.
    let (now, after) = slot(3).first_fret(&guitar(events.clone())).unwrap();
    assert!(now > after);
    assert!(matches!(slot(2).action, NutAction::TooLow { .. }));
    assert!(
        plan.findings
            .iter()
            .any(|finding| finding.kind() == "nut_too_low" && finding.ways().len() == 3)
    );
    events.push(Event::NutMoved {
        strings: vec![3],
        by: Measured::mm(-first.mm()),
    });
    let filed = Plan::of(&guitar(events));
    assert_eq!(filed.setup.nut.strings[2].action, NutAction::Read);
}

#[test]
fn a_filed_slot_is_not_filed_again_for_the_last_thou() {
    // A hair more than the tolerance too high, read until there is no doubt: filed when no file has
    // been there yet, let alone when it has.
    let with = |thou: f64, filed: bool| {
        let mut events = right();
        if filed {
            events.push(nut(3, "26 thou"));
            events.push(Event::NutMoved {
                strings: vec![3],
                by: Measured::mm(-0.1),
            });
        }
        events.extend((0..4).map(|_| nut(3, &format!("{thou} thou"))));
        let slot = Plan::of(&guitar(events)).setup.nut.strings[2].clone();
        (slot.action, slot.quantity.verdict)
    };
    let (untouched, off) = with(23.0, false);
    assert!(matches!(untouched, NutAction::File { .. }), "{untouched:?}");
    assert_eq!(off, Verdict::Above);
    assert_eq!(with(23.0, true), (NutAction::Leave, Verdict::Within));
    assert!(matches!(with(26.0, true).0, NutAction::File { .. }));
    assert!(matches!(with(13.0, true).0, NutAction::TooLow { .. }));
}

#[test]
fn two_schools_for_the_inner_strings() {
    let job = guitar(right());
    let plan = Plan::of(&job);
    let middle = &plan.setup.height.strings[2];
    // An equal-action arc is a little flatter than the board (derivation), so the gauge of the
    // board's radius lays the inner strings higher than stepping across does.
    assert!(middle.schools.1 > middle.schools.0);
    assert!((middle.schools.1 - middle.schools.0).mm() < 0.3);
    assert!((plan.setup.height.gauge.inches() - 9.5).abs() < 1e-6);
    let arc = plan.setup.height.arc.1.unwrap();
    assert!(
        arc > plan.setup.height.gauge && arc.inches() < 11.0,
        "{arc:?}"
    );
    let mut targets = job.targets();
    targets.inner = Inner::Gauge;
    let other = Plan::of(&job.with(Event::TargetsSet { targets }).unwrap());
    assert_eq!(
        other.setup.height.strings[2].quantity.target,
        middle.schools.1
    );
    let outer = |plan: &Plan| plan.setup.height.strings[0].quantity.target;
    assert!((outer(&other) - outer(&plan)).abs().mm() < 1e-9);
}
