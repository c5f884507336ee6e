//! The geometry stations: one estimate, moves solved together, readings that are questioned.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::{fold, guitar, opened, read};
use gradimen_bench::clearance::{ClearancePlan, Cure};
use gradimen_bench::doubt::question;
use gradimen_bench::event::{
    Event, Gap, HeightAdjuster, HeightEnd, Inner, ReliefSpan, RodStop, Shim, Side,
};
use gradimen_bench::findings::{Finding, Severity};
use gradimen_bench::hardware::BridgeFamily;
use gradimen_bench::instrument::{Kind, Rod};
use gradimen_bench::job::Job;
use gradimen_bench::plan::{Plan, Verdict};
use gradimen_bench::record::Measured;
use gradimen_bench::setup::{HeightAction, NutAction, ReliefAction};
use gradimen_bench::whole::{Station, WholePlan, next_station};
use gradimen_core::quantity::Length;
use gradimen_core::thread::Rotation;
use gradimen_core::units::{LengthUnit, parse_length};

const TWELVE_SIX: ReliefSpan = ReliefSpan {
    low: 1,
    high: 12,
    at: 6,
};
const LAST_EIGHT: ReliefSpan = ReliefSpan {
    low: 1,
    high: 22,
    at: 8,
};

fn gap(text: &str) -> Measured {
    Measured::from(&parse_length(text, LengthUnit::Millimetre).unwrap())
}

fn relief(side: Side, text: &str) -> Event {
    relief_by(side, TWELVE_SIX, text)
}

fn relief_by(side: Side, span: ReliefSpan, text: &str) -> Event {
    let seen = match text {
        "none" => Gap::Touches,
        "rocks" => Gap::Rocks,
        _ => Gap::Open { gap: gap(text) },
    };
    Event::ReliefRead {
        side,
        span,
        seen,
        kept: false,
    }
}

fn both(text: &str) -> Vec<Event> {
    vec![relief(Side::Treble, text), relief(Side::Bass, text)]
}

fn nut(string: u8, text: &str) -> Event {
    Event::NutRead {
        string,
        held: 0,
        gap: gap(text),
        kept: false,
    }
}

fn action(string: u8, text: &str) -> Event {
    Event::ActionRead {
        string,
        fret: 12,
        held: 0,
        gap: gap(text),
        kept: false,
    }
}

fn raised(string: u8, turns: f64) -> Event {
    Event::HeightMoved {
        adjuster: HeightAdjuster::String(string),
        turns,
    }
}

/// A neck, nut and heights that are right already.
fn right() -> Vec<Event> {
    let mut events = both("6 thou");
    for string in 1..=6 {
        events.push(nut(string, "20 thou"));
        let share = f64::from(string - 1) / 5.0;
        let height = 25.4 / 64.0 * (4.0 + share);
        events.push(action(string, &format!("{height:.2} mm")));
    }
    events
}

fn rod_of(job: &Job) -> gradimen_bench::setup::RodMove {
    match Plan::of(job).setup.relief.action {
        ReliefAction::Turn(step) => step,
        other => panic!("{other:?}"),
    }
}

#[test]
fn too_much_relief_tightens_and_never_more_than_a_quarter_at_once() {
    // Common practice: clockwise, seen at the nut, tightens and takes relief away; a quarter turn at
    // a time, an eighth when near.
    let far = rod_of(&guitar(both("24 thou")));
    assert_eq!(
        (far.turns.value(), far.rotation),
        (0.25, Rotation::Clockwise)
    );
    assert!(far.rounds >= 2 && far.total.value() > 0.5);
    let near = rod_of(&guitar(both("10 thou")));
    assert!(near.turns.value() <= 0.25 && near.turns.value() > 0.0);
    assert!(near.total < far.total);
    let flat = rod_of(&guitar(both("none")));
    assert!(flat.turns.value() < 0.0 && flat.rotation == Rotation::Counterclockwise);
    // What is expected lies between now and wanted.
    assert!(far.expected[1].value < Length::from_thou(24.0));
    assert!(far.expected[1].value > Length::from_thou(6.0));
    assert_eq!(
        Plan::of(&guitar(both("6 thou"))).setup.relief.action,
        ReliefAction::Leave
    );
}

#[test]
fn this_neck_is_learned_from_its_own_last_move() {
    let started = guitar(both("16 thou"));
    let before = rod_of(&started);
    // It moved twice as far as was expected.
    let moved = (Length::from_thou(16.0) - before.expected[1].value) * 2.0;
    let after = Length::from_thou(16.0) - moved;
    let mut events = both("16 thou");
    events.push(Event::RodTurned {
        turns: before.turns.value(),
    });
    events.extend(both(&format!("{:.3} mm", after.mm())));
    let job = guitar(events);
    let relief = job
        .geometry()
        .relief(Side::Bass, TWELVE_SIX.span())
        .unwrap();
    let (now, doubt) = job.geometry().rod_response(relief);
    assert!(now > before.per_turn * 1.4, "{now:?} {:?}", before.per_turn);
    assert!(doubt < before.doubt);
}

#[test]
fn both_sides_go_together_and_a_carried_reading_is_not_asked_for_again() {
    let mut events = right();
    let before = Plan::of(&guitar(events.clone()));
    assert_eq!(
        next_station(&before),
        Some(Station::Intonation),
        "{:?}",
        before.setup
    );
    // A sixteenth of a turn: the heights move by hundredths and are carried with it.
    events.push(Event::RodTurned { turns: 0.03 });
    let carried = Plan::of(&guitar(events.clone()));
    let height = &carried.setup.height.strings[2].quantity;
    assert_eq!(height.verdict, Verdict::Within);
    assert!(
        height.is_carried() && height.now.value < before.setup.height.strings[2].quantity.now.value
    );
    // A quarter turn: relief has to be read again, and so have the heights that it moved too far.
    events.push(Event::RodTurned { turns: -0.25 });
    let far = Plan::of(&guitar(events));
    assert!(matches!(far.setup.relief.action, ReliefAction::Read(_)));
    assert_eq!(far.setup.relief.sides[0].verdict, Verdict::Recheck);
    assert_eq!(
        far.setup.height.strings[2].quantity.verdict,
        Verdict::Recheck
    );
}

#[test]
fn one_neck_in_two_schools() {
    // Common practice: 1.0 by (1,12)@6 is about 2.1 by (1,22)@8 on this neck.
    let job = guitar(vec![
        relief_by(Side::Bass, LAST_EIGHT, "0.31 mm"),
        relief_by(Side::Treble, LAST_EIGHT, "0.31 mm"),
    ]);
    let plan = Plan::of(&job);
    // The target is named in the other school, and the same neck meets it.
    let now = plan.setup.relief.sides[1].now.value;
    assert!((now.thou() - 6.0).abs() < 1.2, "{:.2}", now.thou());
    assert_eq!(plan.setup.relief.action, ReliefAction::Leave);
    let row = |key: &str| {
        plan.setup
            .relief
            .schools
            .iter()
            .find(|row| row.key == key)
            .unwrap()
            .clone()
    };
    assert!((row("last_8").now[1].value.mm() - 0.31).abs() < 0.03);
    // A converted number is less certain than one that was read in the target's own school.
    let converted = row("12_6");
    let mut targets = job.targets();
    (targets.relief_span, targets.relief) = (LAST_EIGHT, gap("0.31 mm"));
    let own = guitar(vec![
        Event::TargetsSet { targets },
        relief_by(Side::Bass, LAST_EIGHT, "0.31 mm"),
        relief_by(Side::Treble, LAST_EIGHT, "0.31 mm"),
    ]);
    assert!(job.geometry().plain_relief()[1].sigma > own.geometry().plain_relief()[1].sigma);
    assert!((converted.target[1].thou() - 6.0).abs() < 1e-6);
}

#[test]
fn a_twisted_neck_is_stopped_and_a_little_more_on_the_bass_side_is_not() {
    let twisted = Plan::of(&guitar(vec![
        relief(Side::Treble, "rocks"),
        relief(Side::Bass, "8 thou"),
    ]));
    assert_eq!(twisted.setup.relief.action, ReliefAction::Blocked);
    assert_eq!(twisted.findings[0].severity(), Severity::Stop);
    assert!(twisted.findings[0].sentence().contains("fretwork first"));
    let normal = Plan::of(&guitar(vec![
        relief(Side::Treble, "5 thou"),
        relief(Side::Bass, "7 thou"),
    ]));
    assert_eq!(normal.setup.relief.action, ReliefAction::Leave);
    assert!(
        !normal
            .findings
            .iter()
            .any(|finding| matches!(finding, Finding::Setup(_)))
    );
    let treble = Plan::of(&guitar(vec![
        relief(Side::Treble, "12 thou"),
        relief(Side::Bass, "4 thou"),
    ]));
    assert!(
        treble
            .findings
            .iter()
            .any(|finding| finding.kind() == "treble_side")
    );
    let bowed = Plan::of(&guitar(vec![
        relief(Side::Treble, "rocks"),
        relief(Side::Bass, "rocks"),
    ]));
    assert!(
        bowed
            .findings
            .iter()
            .any(|finding| finding.kind() == "back_bow")
    );
    assert!(
        rod_of(&guitar(vec![
            relief(Side::Treble, "rocks"),
            relief(Side::Bass, "rocks")
        ]))
        .turns
        .value()
            < 0.0
    );
}

#[test]
fn a_rod_that_refuses_stops_the_direction_it_refuses() {
    let stop = |how| Event::RodStopped { how };
    let hard = Plan::of(&guitar(
        [both("16 thou"), vec![stop(RodStop::Hard)]].concat(),
    ));
    assert_eq!(hard.setup.relief.action, ReliefAction::Blocked);
    assert!(hard.findings[0].sentence().contains("specialist"));
    // Slack and without effect: a rod that pushes too can still loosen, a one-way rod cannot.
    let loosen = [both("none"), vec![stop(RodStop::NoEffect)]].concat();
    assert_eq!(
        Plan::of(&guitar(loosen.clone())).setup.relief.action,
        ReliefAction::Blocked
    );
    let Event::Opened(mut two_way) = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate) else {
        unreachable!()
    };
    two_way.instrument.neck.rod = Rod::TwoWay;
    let job = fold([vec![Event::Opened(two_way)], loosen].concat());
    assert!(matches!(
        Plan::of(&job).setup.relief.action,
        ReliefAction::Turn(_)
    ));
    // Turned after all: the stop is gone.
    let again = guitar(
        [
            both("16 thou"),
            vec![stop(RodStop::Hard), Event::RodTurned { turns: 0.1 }],
        ]
        .concat(),
    );
    assert_eq!(again.rod_stop(), None);
}

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

#[test]
fn slips_are_questioned_with_what_was_likely_meant() {
    let job = guitar(right());
    let asked =
        |event: Event| question(&job, &event).unwrap_or_else(|| panic!("{event:?} not questioned"));
    let says = |event: Event| -> String {
        asked(event)
            .slips
            .iter()
            .map(|slip| slip.says.clone())
            .collect::<Vec<_>>()
            .join(" | ")
    };
    assert!(says(action(1, "4/32")).contains("32nds written for 64ths"));
    assert!(says(action(1, "2/64")).contains("64ths written for 32nds"));
    assert!(says(nut(4, "0.020 mm")).contains("inches meant"));
    assert!(says(action(6, "1.05 mm")).is_empty());
    let corrected = asked(action(1, "4/32")).slips[0].instead.clone().unwrap();
    let Event::ActionRead { gap: meant, .. } = &corrected else {
        panic!("{corrected:?}")
    };
    assert!((meant.middle().mm() - 25.4 / 16.0).abs() < 0.001);
    assert!(question(&job, &corrected).is_none());
    // Honest readings are not asked about, and what is kept all the same is not asked about again.
    assert!(question(&job, &action(1, "1.7 mm")).is_none());
    assert!(question(&job, &relief(Side::Bass, "7 thou")).is_none());
    let kept = Event::ActionRead {
        string: 1,
        fret: 12,
        held: 0,
        gap: gap("4/32"),
        kept: true,
    };
    assert!(question(&job, &kept).is_none());
    // It is taken in, and weighs less than an unquestioned one.
    let before = job.geometry().heights(1).1.value;
    let after = job.with(kept).unwrap().geometry().heights(1).1.value;
    assert!(after > before && (after - before).mm() < 0.4);
}

#[test]
fn a_reading_of_the_neighbour_or_with_the_wrong_sign_is_seen() {
    let mut events = right();
    // One string was raised far above its neighbours.
    events.push(raised(3, 3.4));
    events.push(action(3, "2.6 mm"));
    let job = guitar(events);
    let slips = question(&job, &action(2, "2.6 mm")).unwrap().slips;
    assert!(
        slips.iter().any(|slip| slip.says.contains("string 3")),
        "{slips:?}"
    );
    let sharp = guitar(vec![read(3, 9.0), read(3, 9.2), read(3, 8.9)]);
    let asked = question(&sharp, &read(3, -9.1)).unwrap();
    assert!(asked.slips[0].says.contains("sharp and flat exchanged"));
    let unsure = question(&sharp, &read(3, 30.0)).unwrap();
    assert!(unsure.slips.last().unwrap().says.contains("not retuned"));
    assert!(question(&sharp, &read(3, 8.5)).is_none());
}

#[test]
fn raising_a_string_sharpens_it_and_learning_of_its_height_does_not() {
    let readings = vec![read(3, 0.0), read(3, 0.2), read(3, -0.1)];
    let events = [right(), readings].concat();
    let at = |events: &[Event]| {
        let plan = Plan::of(&guitar(events.to_vec()));
        plan.saddle_of(3).unwrap().estimate.strings[0]
            .error
            .value
            .value()
    };
    let before = at(&events);
    // The saddle goes up by 1 mm: the fretted note stretches further and is sharp.
    let raised = [events.clone(), vec![raised(3, 2.0)]].concat();
    assert!(at(&raised) > before + 1.0, "{before} {}", at(&raised));
    // It is read higher than was believed: the note that was read stays where it was read.
    let learned = [events, vec![action(3, "2.05 mm")]].concat();
    assert!(
        (at(&learned) - before).abs() < 0.05,
        "{before} {}",
        at(&learned)
    );
}

#[test]
fn the_whole_plan_goes_in_the_order_of_the_bench_and_touches_each_adjuster_once() {
    let mut events = both("14 thou");
    for string in 1..=6 {
        events.push(nut(string, "34 thou"));
        events.push(action(string, "2.9 mm"));
    }
    for string in 1..=6 {
        events.push(read(string, 8.0));
        events.push(read(string, 8.2));
    }
    let job = guitar(events);
    let whole = WholePlan::of(&job, &Plan::of(&job));
    let stations: Vec<Station> = whole.moves.iter().map(|step| step.station).collect();
    assert!(stations.is_sorted(), "{stations:?}");
    assert_eq!(
        stations
            .iter()
            .filter(|station| **station == Station::Relief)
            .count(),
        1
    );
    for station in [Station::Nut, Station::Height, Station::Intonation] {
        let mut strings: Vec<u8> = whole
            .moves
            .iter()
            .filter(|step| step.station == station)
            .flat_map(|step| step.strings.clone())
            .collect();
        let count = strings.len();
        strings.sort_unstable();
        strings.dedup();
        assert_eq!((strings.len(), count), (6, 6), "{station:?}");
    }
    // The saddles are placed for lower strings, which stretch less: less far back than today's error
    // alone would ask for.
    let plan = Plan::of(&job);
    let today = plan.saddle_of(3).unwrap().next_move().unwrap().distance;
    let later = whole
        .moves
        .iter()
        .find(|step| step.station == Station::Intonation && step.strings == [3])
        .unwrap();
    assert!(
        later.distance.unwrap() < today - Length::from_mm(0.2),
        "{later:?} {today:?}"
    );
}

#[test]
fn a_heard_buzz_teaches_the_hand_or_points_at_a_fret() {
    let job = guitar(right());
    let line = |job: &Job| ClearancePlan::of(job, |string| job.geometry().line(string));
    let usual = line(&job).attack;
    assert_eq!(usual.heard, 0);
    // The map says from which force on a place touches: heard at that force with half a stroke, the
    // hand is twice as strong.
    let place = line(&job).now[3].places[5];
    let tension = job.string_state(4).unwrap().tension(Length::from_mm(647.7));
    let onset = (place.held + 1..=22)
        .map(|fret| {
            gradimen_core::clearance::onset(
                job.geometry().tops(4),
                &job.geometry().line(4),
                tension,
                &usual.pluck,
                place.held,
                fret,
            )
            .unwrap()
        })
        .fold(f64::INFINITY, |least, force| least.min(force.newtons()));
    let buzz = |attack| Event::BuzzHeard {
        string: 4,
        held: place.held,
        attack,
    };
    let stronger = onset / (usual.pluck.force.newtons() * 1.5);
    if stronger <= 1.0 {
        let learned = line(&job.with(buzz(stronger)).unwrap()).attack;
        assert!(learned.pluck.force > usual.pluck.force && learned.heard == 1);
    }
    // At a whisper nothing of even frets can touch: the next fret stands high.
    let whisper = line(&job.with(buzz(0.05)).unwrap());
    assert_eq!(whisper.heard[0].cure, Cure::Fret(place.held + 1));
    assert_eq!(whisper.attack.heard, 0);
}

#[test]
fn a_flat_neck_under_a_hard_hand_is_cured_by_the_rod() {
    let mut events = right();
    events.splice(0..2, both("none"));
    let Event::Opened(mut hard) = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate) else {
        unreachable!()
    };
    hard.player.hand = gradimen_bench::event::Hand::Hard;
    let job = fold([vec![Event::Opened(hard)], events].concat());
    let map = ClearancePlan::of(&job, |string| job.geometry().line(string));
    let worst = map
        .now
        .iter()
        .filter_map(|on| on.worst())
        .min_by(|a, b| a.margin.mm().total_cmp(&b.margin.mm()))
        .unwrap();
    assert!(worst.margin < Length::ZERO);
    assert!(
        matches!(map.cure, Cure::Rod { by } if by > Length::ZERO),
        "{:?} {worst:?}",
        map.cure
    );
    // The lowest heights for a hard hand are higher than those for a light one, and want more relief.
    let light = guitar(right());
    let easy = ClearancePlan::of(&light, |string| light.geometry().line(string));
    assert!(map.lowest[0] > easy.lowest[0] && map.lowest_relief >= easy.lowest_relief);
}

#[test]
fn nonsense_is_refused_in_words() {
    let job = guitar(Vec::new());
    for (event, says) in [
        (
            relief_by(
                Side::Bass,
                ReliefSpan {
                    low: 8,
                    high: 12,
                    at: 3,
                },
                "0.2 mm",
            ),
            "between the two held frets",
        ),
        (
            relief_by(
                Side::Bass,
                ReliefSpan {
                    low: 17,
                    high: 22,
                    at: 19,
                },
                "0.2 mm",
            ),
            "straight by its build",
        ),
        (relief(Side::Bass, "25 mm"), "expected 0 to 10 mm"),
        (Event::RodTurned { turns: 9.0 }, "quarter"),
        (nut(9, "20 thou"), "string 9"),
        (
            Event::ActionRead {
                string: 1,
                fret: 3,
                held: 3,
                gap: gap("1 mm"),
                kept: false,
            },
            "lies on the frets",
        ),
        (raised(1, f64::NAN), "expected at most 30"),
        (
            Event::BuzzHeard {
                string: 1,
                held: 22,
                attack: 0.5,
            },
            "fret",
        ),
        (
            Event::BuzzHeard {
                string: 1,
                held: 2,
                attack: 4.0,
            },
            "5 to 100 %",
        ),
        (
            Event::NutMoved {
                strings: Vec::new(),
                by: Measured::mm(0.1),
            },
            "at least one string",
        ),
    ] {
        let error = job.accepts(&event).unwrap_err().to_string();
        assert!(error.contains(says), "{event:?}: {error}");
    }
    let Event::Opened(mut glued) = opened(Kind::Guitar, 6, BridgeFamily::TwoPost) else {
        unreachable!()
    };
    glued.instrument.neck.bolted = false;
    let glued = fold(vec![Event::Opened(glued)]);
    let shim = Event::NeckShimmed {
        shim: Shim::Full,
        thickness: Measured::mm(0.5),
    };
    assert!(
        glued
            .accepts(&shim)
            .unwrap_err()
            .to_string()
            .contains("glued in")
    );
}
