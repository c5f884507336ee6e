//! Nut and heights: moved once, for the neck to come.

use crate::common::prelude::*;
use crate::common::{fold, guitar, opened};
use gradimen_core::quantity::Length;
use gradimen_core::thread::Rotation;

use super::*;

#[test]
fn heights_are_turned_for_the_neck_to_come() {
    // A neck with far too much relief at the right height now: when the rod has been turned the
    // strings will lie too low, and the plan raises them in the same go.
    let mut events = right();
    events.splice(0..2, both("18 thou"));
    let plan = plan_of(&guitar(events.clone()));
    assert!(matches!(plan.relief.action, Action::Adjust(_)));
    let string = &plan.action.strings[3];
    assert!(string.quantity.off().abs() < string.quantity.tolerance);
    let Action::Adjust(step) = &plan.action.adjusters[3].action else {
        panic!("{:?}", plan.action.adjusters[3])
    };
    // The action falls by about 1.7 times the change of relief by hold 1 and last (common practice),
    // and the saddle goes up twice that.
    let change = plan.relief.twelfth_change(&known(&guitar(events)));
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
    let plan = plan_of(&guitar(events.clone()));
    let Action::Adjust(step) = &plan.action.adjusters[0].action else {
        panic!("{:?}", plan.action.adjusters[0])
    };
    assert!(
        (step.distance.mm() + 1.22).abs() < 0.12,
        "{:?}",
        step.distance
    );
    assert_eq!(step.rotation, Some(Rotation::Counterclockwise));
    events.push(raised(1, step.turns().value()));
    let moved = plan_of(&guitar(events.clone()));
    assert_eq!(
        moved.action.adjusters[0].action,
        Action::Measure(vec![Place::Action {
            string: 1,
            fret: 12,
            held: 0
        }])
    );
    assert_eq!(
        moved.action.strings[0].quantity.verdict,
        Verdict::MeasureAgain
    );
    // The other strings are not touched by it but for what the neck gives.
    let other = |plan: &Plan| plan.action.strings[3].quantity.now.value;
    assert!((other(&moved) - other(&plan)).abs().mm() < 0.02);
    events.push(action(1, "1.70 mm"));
    let learned = guitar(events);
    assert!(learned.state().screw_response(0).value < 1.0);
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
    let plan = plan_of(&fold(events.clone()));
    assert_eq!(plan.action.adjusters.len(), 2);
    for (at, adjuster) in plan.action.adjusters.iter().enumerate() {
        assert_eq!(
            adjuster.adjuster,
            Adjuster::Post {
                side: Side::ALL[at]
            }
        );
        assert!(matches!(adjuster.action, Action::Adjust(_)));
    }
    let strings = &plan.action.strings;
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
    let post = Event::Adjusted {
        adjuster: Adjuster::Post { side: Side::Bass },
        amount: Amount::Turns { turns: 1.0 },
    };
    assert!(fixed.accepts(&post).is_err());
}

#[test]
fn an_adjuster_at_its_end_asks_for_a_wedge() {
    let mut events = right();
    events.push(action(3, "3.0 mm"));
    events.push(action(3, "3.0 mm"));
    events.push(Event::Ended {
        adjuster: Adjuster::SaddleHeight { string: 3 },
        how: End::Bottom,
    });
    let plan = plan_of(&guitar(events.clone()));
    let spent = plan.findings.iter().find_map(|finding| match finding {
        Finding::HeightSpent {
            short_by,
            wedge,
            shim,
            ..
        } => Some((*short_by, wedge.unwrap(), shim.unwrap())),
        _ => None,
    });
    let (short_by, wedge, shim) = spent.unwrap();
    // About a millimetre free, in half millimetres (common practice).
    let spare = shim.mm() - short_by.mm();
    assert!(
        (1.0..1.5).contains(&spare) && (shim.mm() * 2.0).fract() == 0.0,
        "{shim:?} {short_by:?}"
    );
    // Similar triangles: the saddle stands some 260 mm behind the mouth of a 76 mm pocket.
    assert!((wedge.ratio(shim) - 76.0 / 260.0).abs() < 0.02, "{wedge:?}");
    assert!(
        plan.findings
            .iter()
            .any(|finding| finding.kind() == "height_spent"
                && text::findings::options(finding)[0].contains("wedge"))
    );
    // With the wedge in, all strings lie lower and the saddles come up.
    events.push(Event::Adjusted {
        adjuster: Adjuster::Pocket { shim: Shim::Wedge },
        amount: Amount::Distance {
            distance: Measurement::mm(0.5),
        },
    });
    let after = plan_of(&guitar(events));
    let first = |plan: &Plan| plan.action.strings[0].quantity.now.value;
    let fell = (first(&plan) - first(&after)).mm();
    // Half of it shows over the twelfth.
    assert!((fell - 0.5 * 260.0 / 76.0 / 2.0).abs() < 0.1, "{fell}");
    assert_eq!(after.action.strings[0].quantity.fresh(), 0);
    assert_ne!(after.action.strings[0].quantity.verdict, Verdict::InSpec);
}

#[test]
fn nuts_are_filed_short_and_never_back() {
    let mut events = both("6 thou");
    for string in 1..=6 {
        events.push(nut(string, if string == 2 { "3 thou" } else { "27 thou" }));
        events.push(action(string, "1.75 mm"));
    }
    let plan = plan_of(&guitar(events.clone()));
    let slot = |string: usize| plan.nut.strings[string - 1].clone();
    let first = slot(3).action.next_move().unwrap().distance.abs();
    let total = slot(3).total;
    assert!(first < total && (total - first).mm() >= 0.029);
    assert!((total.thou() - 7.0).abs() < 2.0, "{}", total.thou());
    // Too high a nut makes the first fret sharp (common practice), and filing flattens it.
    let (now, after) = slot(3).first_fret(&known(&guitar(events.clone()))).unwrap();
    assert!(now > after);
    assert!(matches!(slot(2).action, Action::Stop(Stop::TooLow { .. })));
    assert!(
        plan.findings
            .iter()
            .any(|finding| finding.kind() == "nut_too_low"
                && text::findings::options(finding).len() == 3)
    );
    events.push(Event::Adjusted {
        adjuster: Adjuster::NutSlots {
            strings: [3].into_iter().collect(),
        },
        amount: Amount::Distance {
            distance: Measurement::mm(-first.mm()),
        },
    });
    let filed = plan_of(&guitar(events));
    assert!(matches!(filed.nut.strings[2].action, Action::Measure(_)));
}

#[test]
fn a_filed_slot_is_not_filed_again_for_the_last_thou() {
    // A hair more than the tolerance too high, read until there is no doubt: filed when no file has
    // been there yet, let alone when it has.
    let with = |thou: f64, filed: bool| {
        let mut events = right();
        if filed {
            events.push(nut(3, "26 thou"));
            events.push(Event::Adjusted {
                adjuster: Adjuster::NutSlots {
                    strings: [3].into_iter().collect(),
                },
                amount: Amount::Distance {
                    distance: Measurement::mm(-0.1),
                },
            });
        }
        events.extend((0..4).map(|_| nut(3, &format!("{thou} thou"))));
        events.push(action(3, "1.75 mm"));
        let slot = plan_of(&guitar(events)).nut.strings[2].clone();
        (slot.action, slot.quantity.verdict)
    };
    let (untouched, off) = with(23.0, false);
    assert!(matches!(untouched, Action::Adjust(_)), "{untouched:?}");
    assert_eq!(off, Verdict::TooHigh);
    assert_eq!(with(23.0, true), (Action::Leave, Verdict::InSpec));
    assert!(matches!(with(26.0, true).0, Action::Adjust(_)));
    assert!(matches!(
        with(3.0, true).0,
        Action::Stop(Stop::TooLow { .. })
    ));
}

#[test]
fn two_schools_for_the_inner_strings() {
    let job = guitar(right());
    let plan = plan_of(&job);
    let middle = &plan.action.strings[2];
    // An equal-action arc is a little flatter than the board (derivation), so the gauge of the
    // board's radius lays the inner strings higher than stepping across does.
    assert!(middle.schools.1 > middle.schools.0);
    assert!((middle.schools.1 - middle.schools.0).mm() < 0.3);
    assert!((plan.action.gauge.inches() - 9.5).abs() < 1e-6);
    let arc = plan.action.arc.1.unwrap();
    assert!(arc > plan.action.gauge && arc.inches() < 11.0, "{arc:?}");
    let mut targets = job.targets();
    targets.inner = Inner::Gauge;
    let other = plan_of(
        &job.plus(Event::Targeted {
            wanted: Wanted::Setup { targets },
        })
        .unwrap(),
    );
    assert_eq!(other.action.strings[2].quantity.target, middle.schools.1);
    let outer = |plan: &Plan| plan.action.strings[0].quantity.target;
    assert!((outer(&other) - outer(&plan)).abs().mm() < 1e-9);
}
