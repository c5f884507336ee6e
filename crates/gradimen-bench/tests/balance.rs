//! Vibrato balance: claws, springs, and stand-in instruments brought from one set to another.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{first_length, fold, opened, opened_as, put_on, usual_set};
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::thread::Rotation;

fn vibrato(events: Vec<Event>) -> Job {
    fold(
        [
            vec![opened(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato)],
            lying(),
            events,
        ]
        .concat(),
    )
}

/// Every string read where it is wanted: on a float heights and gap are one.
fn lying() -> Vec<Event> {
    (1..=6)
        .map(|string| {
            let place = Place::Action {
                string,
                fret: 12,
                held: 0,
            };
            let sixty_fourths = 4.0 + f64::from(string - 1) / 5.0;
            let length = Measurement::mm(25.4 / 64.0 * sixty_fourths);
            Event::read(place, Reading::Length { length })
        })
        .collect()
}

fn read(mm: f64) -> Event {
    Event::read(
        Place::Gap,
        Reading::Length {
            length: Measurement::mm(mm).with_tool(Tool::RuleHalfMm),
        },
    )
}

fn per_turn(step: &Move) -> Length {
    match step.sum {
        Sum::Claw { per_turn } => per_turn,
        _ => panic!("{step:?}"),
    }
}

fn balance(job: &Job) -> BalancePlan {
    plan_of(job).balance.unwrap()
}

#[test]
fn a_gap_that_does_not_fit_is_questioned_before_it_is_believed() {
    // Nothing is expected yet of a plate nobody has read.
    assert!(ask(&vibrato(vec![]), &read(6.0)).is_none());
    let job = vibrato(vec![read(3.0), read(3.0)]);
    assert!(ask(&job, &read(3.2)).is_none());
    let asked = ask(&job, &read(6.0)).unwrap();
    let doubled = &asked.slips[0];
    assert!(
        text::questions::slip(doubled).contains("32nds"),
        "{:?}",
        asked.slips
    );
    assert_eq!(doubled.instead, Some(read(3.0)));
    assert!(text::questions::slip(asked.slips.last().unwrap()).contains("pitch"));
    // Pulled up, and read where the planned turn would bring it: turned, and not told.
    let high = vibrato(vec![read(4.6), read(4.6)]);
    let after = first_length(balance(&high).next_move().unwrap()).value;
    let untold = ask(&high, &read((after.mm() * 10.0).round() / 10.0)).unwrap();
    assert!(
        untold
            .slips
            .iter()
            .any(|slip| text::questions::slip(slip).contains("Done not pressed")),
        "{:?}",
        untold.slips
    );
    assert!(
        !asked
            .slips
            .iter()
            .any(|slip| text::questions::slip(slip).contains("Done"))
    );
    // Kept all the same, it weighs less than one that was believed.
    let kept = Event::read(
        Place::Gap,
        Reading::Length {
            length: Measurement::mm(6.0),
        },
    )
    .confirmed();
    assert!(ask(&job, &kept).is_none());
    let after = |event: Event| balance(&job.plus(event).unwrap()).now.value.mm();
    assert!(after(kept.clone()) > 3.0 && after(kept) < after(read(6.0)));
}

#[test]
fn a_plate_pulled_up_wants_the_claw_in() {
    let job = vibrato(vec![read(4.6)]);
    let plan = balance(&job);
    // A small float of 2 to 3 mm (common practice).
    assert!((plan.target.mm() - 2.5).abs() < 1e-9 && plan.verdict == Verdict::TooHigh);
    let step = plan.next_move().unwrap();
    assert!(step.turns().value() > 0.0 && step.rotation == Some(Rotation::Clockwise));
    assert!(step.turns().value() <= 4.0 && per_turn(step) < Length::ZERO);
    assert!(first_length(step).value < plan.now.value);
    let low = balance(&vibrato(vec![read(0.6)]));
    assert!(low.next_move().unwrap().turns().value() < 0.0);
    assert_eq!(balance(&vibrato(vec![read(2.5)])).action, Action::Leave);
    assert_eq!(
        balance(&vibrato(Vec::new())).action,
        Action::Measure(vec![Place::Gap])
    );
}

#[test]
fn the_first_turn_teaches_this_plate() {
    let before = balance(&vibrato(vec![read(4.5)]));
    let step = before.next_move().unwrap().clone();
    // Nobody measured this sheet: half a turn first (common practice), in, for the plate hangs up.
    assert_eq!(step.turns().value(), 0.5);
    // It moved by much less than was thought.
    let half = 4.0;
    assert!(first_length(&step).value.mm() < 3.5);
    let turned = vec![
        read(4.5),
        Event::Adjusted {
            adjuster: Adjuster::Claw,
            amount: Amount::Turns {
                turns: step.turns().value(),
            },
        },
        read(half),
    ];
    let after = balance(&vibrato(turned));
    assert!(
        (after.now.value.mm() - half).abs() < 0.15,
        "{:?}",
        after.now
    );
    let learned = after.next_move().unwrap();
    assert!(
        per_turn(learned).abs() < per_turn(&step).abs(),
        "{learned:?} {step:?}"
    );
}

#[test]
fn nines_to_tens_pull_the_plate_up_and_it_is_known_beforehand() {
    // Common practice: nines to tens pull the plate up and need the claw in; heights follow.
    let mut came = opened(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato);
    if let (Event::Opened(opened), Event::Restrung { strung }) = (&mut came, put_on(1)) {
        opened.strung = strung;
    }
    let nines = fold([vec![came], lying(), vec![read(2.5)]].concat());
    let tens = nines.plus(put_on(0)).unwrap();
    let (before, after) = (balance(&nines), balance(&tens));
    assert!(after.pull > before.pull * 1.1);
    assert!(
        after.now.value > before.now.value + Length::from_mm(0.5),
        "{:?}",
        after.now
    );
    assert_eq!(
        (after.action.clone(), after.verdict),
        (Action::Measure(vec![Place::Gap]), Verdict::MeasureAgain)
    );
    let height = |job: &Job| job.state().heights(3).1.value;
    assert!(height(&tens) > height(&nines));
    // Read as it is predicted, it is turned in.
    let read = tens.plus(read(after.now.value.mm())).unwrap();
    let step = balance(&read);
    assert!(
        step.next_move()
            .is_some_and(|step| step.turns().value() > 0.0),
        "{:?} {:?} {:?} pull {:?} rate {:?} hooks {:?} angle {:?}",
        step.action,
        step.now,
        step.claw,
        step.pull,
        step.rate,
        step.hooks[0],
        step.angle
    );
}

#[test]
fn a_decked_plate_has_to_hold_through_a_bend() {
    let decked = Event::Targeted {
        wanted: Wanted::Balance {
            school: BalanceSchool::Decked,
        },
    };
    let flat = Event::read(Place::Gap, Reading::Flat);
    let plan = balance(&vibrato(vec![decked.clone(), flat.clone()]));
    assert_eq!(plan.target, Length::ZERO);
    // A whole step on the hardest string: its pull grows by 2^(1/3) - 1.
    let hardest = plan.pull * (1.0 / 6.0);
    assert!(plan.spare_wanted > hardest * 0.2 && plan.spare_wanted < hardest * 0.45);
    // Held by enough, it can be left; by too little, the claw goes in.
    let spare = |turns: f64| {
        let turned = vec![
            decked.clone(),
            flat.clone(),
            Event::Adjusted {
                adjuster: Adjuster::Claw,
                amount: Amount::Turns { turns },
            },
            flat.clone(),
        ];
        balance(&vibrato(turned))
    };
    assert!(spare(6.0).spare > spare(2.0).spare);
    assert_eq!(spare(6.0).action, Action::Leave);
}

#[test]
fn too_few_springs_are_counted() {
    let heavy = vibrato(vec![
        put_on(3),
        Event::Adjusted {
            adjuster: Adjuster::Springs,
            amount: Amount::Springs {
                count: 2,
                converging: false,
            },
        },
        Event::read(
            Place::Gap,
            Reading::Length {
                length: Measurement::mm(8.0),
            },
        ),
    ]);
    let plan = plan_of(&heavy);
    let Action::Stop(Stop::Springs {
        enough: Some(count),
    }) = plan.balance.as_ref().unwrap().action
    else {
        let balance = plan.balance.as_ref().unwrap();
        panic!(
            "{:?} {:?} {:?} {:?}",
            balance.action, balance.claw, balance.now, balance.rate
        )
    };
    assert!(count > 2, "{count}");
    assert!(
        plan.findings
            .iter()
            .any(|finding| finding.kind() == "springs")
    );
    assert!(
        plan.findings
            .iter()
            .any(|finding| finding.kind() == "pulled_up")
    );
}

#[test]
fn ranges_answer_to_the_gap() {
    let small = balance(&vibrato(vec![read(1.5)]));
    let wide = balance(&vibrato(vec![read(3.5)]));
    for (small, wide) in small.ranges.iter().zip(&wide.ranges) {
        assert!(wide.up > small.up && small.up.value() > 0.0);
        // A bend on one string of a float flattens the others.
        assert!(small.bent.value() < 0.0);
    }
    assert!(wide.broken.unwrap().value() > 0.0);
}

#[test]
fn nonsense_is_refused() {
    let job = vibrato(Vec::new());
    for (event, says) in [
        (
            Event::Adjusted {
                adjuster: Adjuster::Claw,
                amount: Amount::Turns { turns: 40.0 },
            },
            "-10 to 10 turns",
        ),
        (
            Event::Adjusted {
                adjuster: Adjuster::Springs,
                amount: Amount::Springs {
                    count: 7,
                    converging: false,
                },
            },
            "1 to 5",
        ),
        (read(25.0), "0 mm to 15 mm"),
    ] {
        let error = job.accepts(&event).unwrap_err().to_string();
        assert!(error.contains(says), "{error}");
    }
    let fixed = common::guitar(Vec::new());
    assert!(
        fixed
            .accepts(&read(2.0))
            .unwrap_err()
            .to_string()
            .contains("has none on its record")
    );
    assert!(plan_of(&fixed).balance.is_none());
}

fn tailed(family: BridgeFamily, events: Vec<Event>) -> Job {
    fold([vec![opened(Kind::Guitar, 6, family)], events].concat())
}

#[test]
fn a_tail_is_balanced_by_its_seat() {
    for family in [BridgeFamily::RockingTail, BridgeFamily::ArmTail] {
        let plan = balance(&tailed(family, Vec::new()));
        let level = plan.record.level_gap.middle();
        assert_eq!(
            (plan.target, &plan.action),
            (level, &Action::Measure(vec![Place::Gap]))
        );
        // Pressed too low by its strings, it wants its seat up; then it goes as it was told.
        let low = level.mm() - 1.5;
        let plan = balance(&tailed(family, vec![read(low)]));
        let step = plan.next_move().unwrap().clone();
        assert!(
            step.turns().value() > 0.0 && per_turn(&step) > Length::ZERO,
            "{step:?}"
        );
        let words = plan.record.kind.in_words(step.turns());
        let expects = if family == BridgeFamily::ArmTail {
            "put in"
        } else {
            "tighter"
        };
        assert!(words.contains(expects), "{words}");
        let pitch = plan.record.claw_pitch.middle();
        let by = Measurement::mm(pitch.mm() * step.turns().value());
        let moved = tailed(
            family,
            vec![
                read(low),
                Event::Adjusted {
                    adjuster: Adjuster::Seat,
                    amount: Amount::Distance { distance: by },
                },
            ],
        );
        let now = balance(&moved);
        assert!((now.now.value - first_length(&step).value).abs() < Length::from_mm(0.05));
        assert!(now.now.sigma > Length::from_mm(0.05), "{:?}", now.now);
        // The bridge before it stays where it is.
        let before = tailed(family, vec![read(low)]);
        assert_eq!(before.state().heights(3).1, moved.state().heights(3).1);
        // Pulled up it goes until its spring is loose, dived until the bar is down.
        for range in &now.ranges {
            assert!(range.up.value() > 5.0, "{range:?}");
            assert!(
                range.dive.is_none_or(|dive| dive.value() < -5.0),
                "{range:?}"
            );
        }
        assert!((now.hooks[0].share - 1.0).abs() < 1e-9);
    }
}

#[test]
fn a_tail_has_neither_claw_nor_deck() {
    let tail = tailed(BridgeFamily::RockingTail, Vec::new());
    for event in [
        Event::Adjusted {
            adjuster: Adjuster::Claw,
            amount: Amount::Turns { turns: 1.0 },
        },
        Event::read(Place::Gap, Reading::Flat),
        Event::Targeted {
            wanted: Wanted::Balance {
                school: BalanceSchool::Decked,
            },
        },
        Event::read(
            Place::ClawEnds,
            Reading::Ends {
                treble: Measurement::mm(5.0),
                bass: Measurement::mm(5.0),
            },
        ),
    ] {
        let says = tail.accepts(&event).unwrap_err().to_string();
        assert!(says.contains("tail"), "{says}");
    }
    let claw = vibrato(Vec::new());
    let seat = Event::Adjusted {
        adjuster: Adjuster::Seat,
        amount: Amount::Distance {
            distance: Measurement::mm(1.0),
        },
    };
    assert!(claw.accepts(&seat).is_err());
    let far = Event::Adjusted {
        adjuster: Adjuster::Seat,
        amount: Amount::Distance {
            distance: Measurement::mm(9.0),
        },
    };
    assert!(
        tail.accepts(&far)
            .unwrap_err()
            .to_string()
            .contains("-8 mm to 8 mm")
    );
    let long = Event::read(
        Place::Spring,
        Reading::Length {
            length: Measurement::mm(300.0),
        },
    );
    assert!(tail.accepts(&long).is_err());
}

#[test]
fn a_spring_measured_at_pitch_tells_its_rate() {
    let before = balance(&vibrato(vec![read(2.5)]));
    // A longer spring at the same balance is a softer one: less of its rate for the same pull.
    let hooks = before.hooks[0].length;
    let with = |more: f64| {
        let length = Measurement::mm(hooks.mm() + more);
        balance(&vibrato(vec![
            read(2.5),
            Event::read(Place::Spring, Reading::Length { length }),
        ]))
    };
    let (longer, shorter) = (with(3.0), with(-3.0));
    assert!(longer.rate.value < before.rate.value && before.rate.value < shorter.rate.value);
    for after in [&longer, &shorter] {
        assert!(
            after.rate.sigma < before.rate.sigma * 0.95,
            "{:?}",
            after.rate
        );
        assert!((after.now.value.mm() - 2.5).abs() < 0.2, "{:?}", after.now);
    }
    // Statics by hand: the pull times the crown's height, tilted by 2.5 mm in 30, is what the springs answer with.
    let arms = longer.pull.newtons() * (10.5 + 11.0 * 2.5 / 30.0) / (3.0 * 42.0);
    assert!(
        (longer.hooks[0].pull.newtons() / arms - 1.0).abs() < 0.06,
        "{:?} {arms}",
        longer.hooks[0]
    );
}

#[test]
fn a_claw_that_is_askew_is_turned_side_by_side() {
    let ends = |treble: f64, bass: f64| {
        Event::read(
            Place::ClawEnds,
            Reading::Ends {
                treble: Measurement::mm(treble),
                bass: Measurement::mm(bass),
            },
        )
    };
    // Balanced, but the bass side stands 2 mm further out: half a turn of 1.8 mm in there, half out at the treble.
    let plan = balance(&vibrato(vec![read(2.5), ends(8.0, 10.0)]));
    let step = plan.next_move().unwrap();
    assert_eq!(
        step.amount,
        Amount::Apart {
            turns: 0.0,
            apart: 0.5
        }
    );
    assert_eq!(turns_of_side(step, Side::Bass).value(), 0.5);
    assert_eq!(turns_of_side(step, Side::Treble).value(), -0.5);
    let turned = Event::Adjusted {
        adjuster: Adjuster::Claw,
        amount: Amount::Apart {
            turns: 0.0,
            apart: 0.5,
        },
    };
    let after = balance(&vibrato(vec![
        read(2.5),
        ends(8.0, 10.0),
        turned,
        read(2.5),
    ]));
    assert_eq!(after.action, Action::Leave);
    let [treble, bass] = after.ends.unwrap();
    assert!((treble - bass).abs() < Length::from_mm(0.25));
    // Half a millimetre is parallel.
    let plan = balance(&vibrato(vec![read(2.5), ends(8.0, 8.4)]));
    assert_eq!(plan.action, Action::Leave);
}

#[test]
fn a_claw_at_its_wall_is_known_before_it_is_turned() {
    let wall = Event::read(
        Place::ClawEnds,
        Reading::Ends {
            treble: Measurement::mm(1.5),
            bass: Measurement::mm(1.5),
        },
    );
    let plan = plan_of(&vibrato(vec![read(5.5), wall]));
    let kinds: Vec<&str> = plan.findings.iter().map(|finding| finding.kind()).collect();
    assert!(kinds.contains(&"claw_spent"), "{kinds:?}");
    assert!(matches!(
        plan.balance.unwrap().action,
        Action::Stop(Stop::Springs { .. })
    ));
}

#[test]
fn a_float_without_a_steady_rest_is_known_from_its_sheet() {
    let with = |back: f64, school: BalanceSchool| {
        let mut event = opened(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato);
        if let Event::Opened(opened) = &mut event
            && let Some(sheet) = &mut opened.instrument.bridge.vibrato
        {
            sheet.crown_back = Measurement::mm(back);
        }
        let plan = plan_of(&fold(vec![
            event,
            Event::Targeted {
                wanted: Wanted::Balance { school },
            },
        ]));
        let kinds: Vec<&str> = plan.findings.iter().map(|finding| finding.kind()).collect();
        kinds.contains(&"runs_away")
    };
    assert!(!with(5.0, BalanceSchool::SmallFloat));
    assert!(with(25.0, BalanceSchool::SmallFloat));
    assert!(!with(25.0, BalanceSchool::Decked));
}

#[test]
fn heights_are_turned_for_the_plate_to_come() {
    // The plate far up, the strings where they are wanted all the same: with the claw turned in they
    // will lie too low, so the plan raises them now by what it would raise them then.
    let mut events = vec![read(9.0), read(9.0)];
    events.extend(common::straight());
    events.extend((1..=6).map(|string| {
        Event::read(
            Place::Action {
                string,
                fret: 12,
                held: 0,
            },
            Reading::Length {
                length: Measurement::mm(25.4 / 64.0 * (4.0 + f64::from(string - 1) / 5.0)),
            },
        )
    }));
    let job = vibrato(events);
    let now = plan_of(&job);
    let claw = now.balance.as_ref().unwrap();
    let lift = |plan: &Plan| match &plan.action.adjusters[2].action {
        Action::Adjust(step) => step.distance.mm(),
        other => panic!("{other:?}"),
    };
    assert!(lift(&now) > 0.2, "{}", lift(&now));
    // Said again when its turn has come: the claw turned by all of it, the gap read where it was wanted.
    let step = claw.next_move().unwrap();
    let turned = Event::Adjusted {
        adjuster: Adjuster::Claw,
        amount: Amount::Turns {
            turns: step.total.value(),
        },
    };
    let after = job.plus(turned).unwrap().plus(read(2.5)).unwrap();
    let then = Plan::of(&known(&after).as_if_read());
    assert!((lift(&then) - lift(&now)).abs() < 0.1);
    // The list for the bench has claw and heights, each once, the claw first.
    let whole = JobPlan::of(&known(&job), &now);
    assert_eq!(whole.moves[0].station, StationId::Balance);
    assert_eq!(
        whole
            .moves
            .iter()
            .filter(|step| step.station == StationId::Action)
            .count(),
        6
    );
}

#[test]
fn seats_go_by_turns_or_by_whole_washers() {
    // Half a millimetre a washer, a millimetre a turn: the sheets' own steps.
    let tail = VibratoRecord::tail();
    let turned = tail.seat_moved(Turns::new(-0.375)).unwrap();
    assert_eq!(turned.written, "3/8 turn looser");
    assert!((turned.middle().mm() + 0.375).abs() < 1e-9);
    let arm = VibratoRecord::arm();
    let lifted = arm.seat_moved(Turns::new(2.0)).unwrap();
    assert_eq!(lifted.written, "2 washers put in");
    assert!((lifted.middle().mm() - 1.0).abs() < 1e-9);
    assert!(
        arm.seat_moved(Turns::new(1.5))
            .unwrap_err()
            .contains("whole")
    );
}

#[test]
fn the_bench_list_tells_how_the_vibrato_stands() {
    let mark = |events: Vec<Event>| summary_of(&vibrato(events)).balance;
    assert_eq!(mark(vec![]), Some(Mark::Unread));
    assert_eq!(mark(vec![read(4.6)]), Some(Mark::Working));
    assert_eq!(mark(vec![read(2.5), read(2.5)]), Some(Mark::Within));
    let fixed = summary_of(&fold(vec![opened(
        Kind::Guitar,
        6,
        BridgeFamily::FixedPlate,
    )]));
    assert_eq!((fixed.balance, fixed.pickups), (None, Some(Mark::Unread)));
    // A line that was written before these stations were there is still read.
    let mut line = serde_json::to_value(&fixed).unwrap();
    line.as_object_mut()
        .unwrap()
        .retain(|name, _| name != "balance" && name != "pickups");
    let old: Summary = serde_json::from_value(line).unwrap();
    assert_eq!((old.balance, old.pickups), (None, None));
}

#[test]
fn a_locked_string_answers_more_for_it_stretches_less_of_itself() {
    // Hooke: the same way back stretches the string the more the less of it there is. The rise of its
    // pull goes with one over its free length; pitch follows, not quite in proportion.
    let up = |locked: bool| {
        let mut event = opened(Kind::Guitar, 6, BridgeFamily::DoubleLocking);
        if let Event::Opened(opened) = &mut event {
            opened.instrument.locking_nut = locked;
        }
        let plan = balance(&fold(vec![event, read(2.0)]));
        2f64.powf(plan.ranges[0].up.value() / 600.0) - 1.0
    };
    let record = &opened(Kind::Guitar, 6, BridgeFamily::DoubleLocking);
    let Event::Opened(record) = record else {
        panic!()
    };
    let held = (record.instrument.scale(1) + record.instrument.bridge.behind_saddle.middle()).mm();
    let expected = (held + 100.0) / held;
    assert!((up(true) / up(false) / expected - 1.0).abs() < 0.01);
}

#[test]
fn converging_springs_are_told_one_by_one() {
    let converging = Event::Adjusted {
        adjuster: Adjuster::Springs,
        amount: Amount::Springs {
            count: 5,
            converging: true,
        },
    };
    let plan = balance(&vibrato(vec![converging, read(2.5)]));
    assert_eq!(plan.hooks.len(), 5);
    // The outer ones are longer and do more of the work; both sides alike.
    assert!(plan.hooks[0].length > plan.hooks[2].length);
    assert!(plan.hooks[0].share > plan.hooks[2].share);
    assert!((plan.hooks[0].share - plan.hooks[4].share).abs() < 1e-9);
    let all: f64 = plan.hooks.iter().map(|hook| hook.share).sum();
    assert!((all - 1.0).abs() < 1e-9);
}

#[test]
fn heavy_strings_half_a_step_down_decked() {
    // Common practice: five springs for heavy sets even a half step down.
    let heavy = defaults::sets(Kind::Guitar, 6)
        .into_iter()
        .position(|usual| usual.strings[0].gauge.middle().thou() > 11.5)
        .unwrap();
    let lower = &defaults::tunings(Kind::Guitar, 6)[1];
    let strung = Event::Restrung {
        strung: Strung {
            set: usual_set(heavy),
            tuning: Tuning::of(lower.name, 440.0, &lower.pitches),
        },
    };
    let decked = Event::Targeted {
        wanted: Wanted::Balance {
            school: BalanceSchool::Decked,
        },
    };
    let springs = |count: u8| {
        let hooked = Event::Adjusted {
            adjuster: Adjuster::Springs,
            amount: Amount::Springs {
                count,
                converging: false,
            },
        };
        balance(&vibrato(vec![
            strung.clone(),
            decked.clone(),
            hooked,
            read(6.0),
        ]))
    };
    let two = springs(1);
    assert!(
        matches!(two.action, Action::Stop(Stop::Springs { .. })),
        "{:?} {:?} {:?} {:?}",
        two.action,
        two.claw,
        two.now,
        two.rate
    );
    let five = springs(5);
    assert!(five.next_move().is_some(), "{:?}", five.action);
}

#[test]
fn after_the_claw_every_string_is_told_how_far_off_to_land() {
    let turned = |turns: f64| Event::Adjusted {
        adjuster: Adjuster::Claw,
        amount: Amount::Turns { turns },
    };
    // The first half turn taught this plate; the next one is known.
    let mut events = vec![read(4.5), turned(0.5), read(4.0)];
    let known = balance(&vibrato(events.clone()));
    let step = known.next_move().unwrap().clone();
    assert!(!known.teaches(&step));
    let order: Vec<u8> = known.landing.iter().map(|(string, _)| *string).collect();
    assert_eq!(order, [6, 5, 4, 3, 2, 1]);
    // Turned in, the plate is drawn down and the strings with it sharp. As they are let down they draw it further, and
    // it comes to rest lower: what is tuned first goes sharp again by all that follows, and is tuned flat for it.
    let offs: Vec<f64> = known.landing.iter().map(|(_, off)| off.value()).collect();
    assert!(step.turns().value() > 0.0);
    assert!(offs.windows(2).all(|pair| pair[0] < pair[1]), "{offs:?}");
    assert!(offs[0] < -5.0 && offs[5].abs() < 0.01, "{offs:?}");
    assert!(
        text::next::balance::headline(&known)
            .expect
            .iter()
            .any(|line| line.starts_with("Tune each once, in this order"))
    );
    // Told as done, the same is told until the gap was read.
    events.push(turned(step.turns().value()));
    let after = balance(&vibrato(events.clone()));
    for ((_, before), (_, after)) in known.landing.iter().zip(&after.landing) {
        let apart = (before.value() - after.value()).abs();
        assert!(apart < 3.0, "{before:?} {after:?}");
    }
    assert_eq!(after.landing.len(), 6);
    events.push(read(2.5));
    assert!(balance(&vibrato(events)).landing.is_empty());
    // Let out, the plate comes up and the strings fall flat: what is tuned first goes sharp of its pitch, and no string is
    // sent further than a bend takes it.
    let (mut told, mut kept) = (0, 0);
    for gap in [1.9, 1.85, 1.8, 1.5] {
        let low = balance(&vibrato(vec![read(2.0), turned(-0.125), read(gap)]));
        let Some(step) = low.next_move() else {
            continue;
        };
        assert!(step.turns().value() < 0.0, "{gap} {step:?}");
        match low.landing.first() {
            Some((string, off)) => {
                assert!(
                    *string == 6 && (0.0..=150.0).contains(&off.value()),
                    "{off:?}"
                );
                told += 1;
            }
            None => kept += 1,
        }
    }
    assert!(told > 0 && kept > 0, "{told} {kept}");
    // What nobody knows is not told: the first half turn.
    assert!(balance(&vibrato(vec![read(4.5)])).landing.is_empty());
}

/// A plate on soft springs, its break points far behind the edge: by its sheet it would not even rest.
fn soft(crown_back: f64, springs: u8) -> Event {
    opened_as(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato, |of| {
        let plate = of.bridge.vibrato.as_mut().unwrap();
        plate.crown_back = Measurement::mm(crown_back);
        plate.springs = springs;
        plate.rate_newtons_per_metre = 1500.0;
    })
}

#[test]
fn a_plate_under_its_target_is_never_sent_further_down_however_soft_it_is() {
    for (crown_back, springs) in [(9.0, 3), (11.5, 3), (13.0, 3), (11.5, 4), (13.0, 5)] {
        let known =
            |gap: f64| fold([vec![soft(crown_back, springs)], lying(), vec![read(gap)]].concat());
        let target = balance(&known(1.6)).target.mm();
        for (gap, wanted) in [
            (target - 2.0, Rotation::Counterclockwise),
            (target + 2.0, Rotation::Clockwise),
        ] {
            let plan = balance(&known(gap));
            let step = plan.next_move().unwrap();
            let after = first_length(step).value.mm();
            let case = format!(
                "{crown_back} {springs} {gap}: {:?} to {after}",
                step.rotation
            );
            assert_eq!(step.rotation, Some(wanted), "{case}");
            // What it is said to read then lies that way too; only down, by the half turn that teaches, it may lie on the body.
            let way = (after - gap) * (target - gap);
            assert!(way > 0.0, "{case}");
            assert!(gap > target || after < target + 1.5, "{case}");
        }
    }
}

#[test]
fn a_bridge_that_is_moved_takes_the_edge_of_its_plate_along() {
    // The strings' arms about the edge stay as they are, so the plate rests as it did; only the notes change.
    let job = vibrato(vec![read(2.5), read(2.5)]);
    let gap = |job: &Job| job.state().predict(Place::Gap).unwrap().value.mm();
    let moved = job
        .plus(Event::Adjusted {
            adjuster: Adjuster::Bridge,
            amount: Amount::Distance {
                distance: Measurement::mm(2.0),
            },
        })
        .unwrap();
    let (before, after) = (gap(&job), gap(&moved));
    assert!((after - before).abs() < 0.02, "{before} to {after}");
}
