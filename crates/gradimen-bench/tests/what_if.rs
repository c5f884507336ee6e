//! What another set, tuning or hand would change.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{guitar, read};
use gradimen_bench::estimate::EstimateError;
use gradimen_core::quantity::Length;

/// A guitar that is right, and was read.
fn right() -> Job {
    let mut events = Vec::new();
    for side in Side::ALL {
        events.push(Event::read(
            Place::Relief {
                side,
                span: ReliefSpan {
                    low: 1,
                    high: 12,
                    at: 6,
                },
            },
            Reading::Length {
                length: Measurement::mm(0.15),
            },
        ));
    }
    for string in 1..=6 {
        let height = 25.4 / 64.0 * (4.0 + f64::from(string - 1) / 5.0);
        events.push(Event::read(
            Place::Nut { string, held: 0 },
            Reading::Length {
                length: Measurement::mm(0.51),
            },
        ));
        events.push(Event::read(
            Place::Action {
                string,
                fret: 12,
                held: 0,
            },
            Reading::Length {
                length: Measurement::mm(height),
            },
        ));
        events.extend([read(string, 0.0), read(string, 0.2), read(string, -0.2)]);
    }
    guitar(events)
}

fn set(index: usize) -> Vec<StringEntry> {
    defaults::sets(Kind::Guitar, 6)[index].strings.clone()
}

fn with_set(job: &Job, index: usize) -> Strung {
    Strung {
        set: set(index),
        ..job.strung()
    }
}

fn strung(job: &Job, strung: Strung) -> Result<WhatIf, EstimateError> {
    try_it(
        job,
        &Change {
            strung,
            ..Change::none(job)
        },
    )
}

fn try_it(job: &Job, change: &Change) -> Result<WhatIf, EstimateError> {
    WhatIf::of(&known(job), &plan_of(job), change)
}

fn lowered(job: &Job) -> Tuning {
    let preset = &defaults::tunings(Kind::Guitar, 6)[1];
    Tuning::of(preset.name, job.tuning().a4_hz, &preset.pitches)
}

#[test]
fn nothing_changed_costs_nothing() {
    let job = right();
    let same = try_it(&job, &Change::none(&job)).unwrap();
    assert!(same.events.is_empty());
    assert!(same.costs.is_empty(), "{:?}", same.costs);
    for string in &same.strings {
        assert_eq!(string.pull.0, string.pull.1);
        assert!((string.nut.after.value - string.nut.before).abs().mm() < 1e-9);
        assert_eq!(string.margin.0, string.margin.1);
    }
}

#[test]
fn one_gauge_up_pulls_harder_bends_the_neck_and_pinches() {
    // Common practice: going up one gauge changes pull, relief, height, intonation and nut slot fit.
    let job = right();
    let heavy = strung(&job, with_set(&job, 3)).unwrap();
    assert!(heavy.total.1 > heavy.total.0 * 1.15);
    assert!(heavy.relief[1].after.value > heavy.relief[1].before + Length::from_mm(0.02));
    assert!(heavy.relief[1].after.sigma.mm() > 0.02);
    assert!(heavy.strings.iter().any(|string| string.thicker > PINCHES));
    assert!(
        heavy
            .costs
            .iter()
            .any(|cost| cost.adjuster == Adjuster::TrussRod && cost.turns.unwrap().value() > 0.0)
    );
    // A wound third in place of a plain one wants its saddle further forward.
    let third = heavy
        .costs
        .iter()
        .find(|cost| cost.adjuster == Adjuster::SaddleDrive { string: 3 })
        .unwrap();
    assert!(third.distance < Length::ZERO && third.sigma > Length::ZERO);
    // Told to the job, it is so.
    let mut there = job.clone();
    for event in &heavy.events {
        there = there.plus(event.clone()).unwrap();
    }
    let now = plan_of(&there).relief.sides[1].now;
    assert_eq!(now, heavy.relief[1].after);
}

#[test]
fn tuned_lower_it_pulls_less_and_other_gauges_keep_the_feel() {
    let job = right();
    let tuning = lowered(&job);
    let slack = strung(
        &job,
        Strung {
            tuning: tuning.clone(),
            ..job.strung()
        },
    )
    .unwrap();
    // A half step is a sixth less of frequency squared: 2^(-1/6).
    let share = slack.total.1.ratio(slack.total.0);
    assert!((share - 2f64.powf(-1.0 / 6.0)).abs() < 1e-9, "{share}");
    assert!(slack.relief[0].after.value < slack.relief[0].before);
    // Slack strings swing wider: less is left over the frets.
    assert!(slack.strings[3].margin.1 < slack.strings[3].margin.0);
    let kept = pulls::set_for(&job, &tuning, TensionGoal::KeepFeel).unwrap();
    let kept = strung(&job, kept).unwrap();
    assert!((kept.total.1.ratio(kept.total.0) - 1.0).abs() < 0.06);
}

#[test]
fn a_set_that_feels_like_another_scale() {
    // Mersenne: 25.5 in against 30 in, the same strings and notes pull (30 / 25.5)^2 = 1.384 as much.
    let job = right();
    let longer = Length::from_inches(30.0);
    let set = pulls::set_for(&job, &job.strung().tuning, TensionGoal::FeelOf(longer)).unwrap();
    assert_eq!(set.tuning, job.strung().tuning);
    let found = strung(&job, set).unwrap();
    let share = found.total.1.ratio(found.total.0);
    assert!((share / 1.384 - 1.0).abs() < 0.06, "{share}");
    // The scale it has asks for the strings it has.
    let same = TensionGoal::FeelOf(job.instrument().scale(1));
    assert_eq!(
        pulls::set_for(&job, &job.strung().tuning, same),
        pulls::set_for(&job, &job.strung().tuning, TensionGoal::KeepFeel)
    );
}

#[test]
fn a_harder_hand_has_other_targets_and_a_wider_swing() {
    let job = right();
    let hard = Player {
        touch: Touch::Hard,
        ..job.player().clone()
    };
    let found = try_it(
        &job,
        &Change {
            player: hard,
            ..Change::none(&job)
        },
    )
    .unwrap();
    assert_eq!(found.events.len(), 1);
    assert!(found.strings[0].action.target > found.strings[0].action.before);
    assert!(
        found
            .costs
            .iter()
            .filter(|cost| matches!(cost.adjuster, Adjuster::SaddleHeight { .. }))
            .count()
            == 6
    );
    assert!(found.strings[0].margin.1 < found.strings[0].margin.0);
}

#[test]
fn what_would_break_is_refused() {
    let job = right();
    let mut notes = job.tuning().clone();
    notes.notes[0] = "C5".to_owned();
    let error = strung(
        &job,
        Strung {
            tuning: notes,
            ..job.strung()
        },
    )
    .unwrap_err();
    assert!(error.to_string().contains("90 %"), "{error}");
}

#[test]
fn other_targets_cost_only_what_they_move() {
    let job = right();
    let targets = Targets {
        action_treble: Measurement::mm(1.2),
        action_bass: Measurement::mm(1.4),
        ..job.targets()
    };
    let found = try_it(
        &job,
        &Change {
            targets: Some(targets.clone()),
            ..Change::none(&job)
        },
    )
    .unwrap();
    assert_eq!(
        found.events,
        [Event::Targeted {
            wanted: Wanted::Setup { targets }
        }]
    );
    assert_eq!(found.total.0, found.total.1);
    let costs: Vec<Adjuster> = found.costs.iter().map(|cost| cost.adjuster).collect();
    assert!(
        costs.contains(&Adjuster::SaddleHeight { string: 1 }),
        "{costs:?}"
    );
    assert!(
        costs.iter().all(|cost| *cost != Adjuster::TrussRod),
        "{costs:?}"
    );
    for string in &found.strings {
        assert!(string.action.target < string.action.before);
    }
}

#[test]
fn springs_and_schools_are_tried_before_they_are_hooked_on() {
    let events = vec![
        common::opened(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato),
        Event::read(
            Place::Gap,
            Reading::Length {
                length: Measurement::mm(2.5),
            },
        ),
    ];
    let job = common::fold(events);
    let with = |springs: Option<(u8, bool)>, school: Option<BalanceSchool>| {
        let change = Change {
            springs,
            school,
            ..Change::none(&job)
        };
        try_it(&job, &change).unwrap()
    };
    // As it is: nothing to tell.
    assert!(
        with(Some((3, false)), Some(BalanceSchool::SmallFloat))
            .events
            .is_empty()
    );
    let four = with(Some((4, false)), None);
    assert_eq!(four.events.len(), 1);
    // More springs pull it down; the claw has to come out.
    assert!(four.vibrato.unwrap().after.value < Length::from_mm(0.5));
    let claw = &four.costs[0];
    assert!(
        claw.adjuster == Adjuster::Claw && claw.distance < Length::ZERO,
        "{claw:?} {:?} {:?}",
        four.springs,
        four.vibrato
    );
    let one = with(Some((1, false)), None);
    assert!(
        matches!(one.springs, Some((1, Some(count))) if count > 1),
        "{:?}",
        one.springs
    );
    let decked = with(Some((5, false)), Some(BalanceSchool::Decked));
    assert_eq!(decked.events.len(), 2);
    assert_eq!(decked.vibrato.unwrap().target, Length::ZERO);
}

#[test]
fn a_plate_that_comes_back_costs_no_heights() {
    // Nines to tens on a float: untouched the plate is pulled up and the strings with it; with the claw
    // turned in they come down again, so the heights are not to be turned for that.
    let mut events = vec![common::opened(
        Kind::Guitar,
        6,
        BridgeFamily::KnifeEdgeVibrato,
    )];
    let nines = Event::Restrung {
        strung: Strung {
            set: defaults::sets(Kind::Guitar, 6)[1].strings.clone(),
            ..common::strung(Kind::Guitar, 6)
        },
    };
    events.push(nines);
    events.extend(common::straight());
    events.extend((0..2).map(|_| {
        Event::read(
            Place::Gap,
            Reading::Length {
                length: Measurement::mm(2.5),
            },
        )
    }));
    for string in 1..=6 {
        let share = f64::from(string - 1) / 5.0;
        events.push(Event::read(
            Place::Action {
                string,
                fret: 12,
                held: 0,
            },
            Reading::Length {
                length: Measurement::mm(25.4 / 64.0 * (4.0 + share)),
            },
        ));
    }
    let job = common::fold(events);
    let tens = Strung {
        set: defaults::sets(Kind::Guitar, 6)[0].strings.clone(),
        ..job.strung()
    };
    let found = strung(&job, tens).unwrap();
    assert!(found.costs[0].adjuster == Adjuster::Claw);
    let rise = found.strings[2].action.after.value - found.strings[2].action.before;
    assert!(rise.mm() > 0.2, "{rise:?}");
    for cost in &found.costs {
        if matches!(cost.adjuster, Adjuster::SaddleHeight { .. }) {
            assert!(cost.distance.abs() < rise * 0.5, "{cost:?} {rise:?}");
        }
    }
}
