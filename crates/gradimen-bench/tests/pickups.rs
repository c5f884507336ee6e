//! Pickups: gaps that follow the heights, turns, levels made equal.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{first_length, guitar};
use gradimen_core::quantity::Length;
use gradimen_core::thread::Rotation;
use gradimen_core::units::{LengthUnit, parse_length};
use gradimen_sim::{Condition, Rng, SimulatedInstrument};

fn gap(pickup: u8, side: Side, text: &str) -> Event {
    Event::read(
        Place::Pickup { pickup, side },
        Reading::Length {
            length: Measurement::from(&parse_length(text, LengthUnit::Millimetre).unwrap()),
        },
    )
}

fn level(pickup: u8, string: u8, decibels: f64) -> Event {
    level_within(pickup, string, decibels, None)
}

fn level_within(pickup: u8, string: u8, decibels: f64, doubt_decibels: Option<f64>) -> Event {
    let reading = Reading::Level {
        decibels,
        doubt_decibels,
    };
    Event::read(Place::Level { pickup, string }, reading)
}

fn turn(plan: &Plan, pickup: usize, side: usize) -> Move {
    match &plan.pickups.pickups[pickup].sides[side].action {
        Action::Adjust(step) => step.as_ref().clone(),
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
    let wanting = plan_of(&guitar(vec![gap(1, Side::Treble, "3.0 mm")]));
    // Two screws on one part: both sides are read before either is turned.
    assert_eq!(
        wanting.pickups.pickups[1].sides[1].action,
        Action::Measure(vec![Place::Pickup {
            pickup: 1,
            side: Side::Bass
        }])
    );
    assert!(
        matches!(&wanting.pickups.pickups[1].sides[0].action, Action::Measure(places) if places[0].side() == Some(Side::Bass))
    );
    let plan = plan_of(&guitar(vec![
        gap(1, Side::Treble, "3.0 mm"),
        gap(1, Side::Bass, "2.4 mm"),
    ]));
    // 3.0 wanted 1.59, on a thread 6-32 of which five sixths reach this side: two turns and an eighth, and the bass side
    // goes back by what that brings it nearer.
    let step = turn(&plan, 1, 0);
    assert!((2.0..=2.25).contains(&step.turns().value()), "{step:?}");
    assert_eq!(step.rotation, Some(Rotation::Clockwise));
    assert!((first_length(&step).value.mm() - 1.6).abs() < 0.08);
    let back = turn(&plan, 1, 1);
    assert!((-0.75..=-0.25).contains(&back.turns().value()), "{back:?}");
    let near = plan_of(&guitar(vec![
        gap(1, Side::Treble, "1.0 mm"),
        gap(1, Side::Bass, "2.4 mm"),
    ]));
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
    let before = plan_of(&guitar(events.clone()));
    assert_eq!(before.pickups.pickups[2].sides[0].action, Action::Leave);
    // The first string's saddle sinks by a little: the gap at the bridge pickup shrinks by nearly as
    // much and is carried.
    let lower = |turns| Event::Adjusted {
        adjuster: Adjuster::SaddleHeight { string: 1 },
        amount: Amount::Turns { turns },
    };
    events.push(lower(-0.25));
    let carried = plan_of(&guitar(events.clone()));
    let side = &carried.pickups.pickups[2].sides[0].quantity;
    let fell = before.pickups.pickups[2].sides[0].quantity.now.value - side.now.value;
    // Similar triangles from the last fret: 44 mm before the scale line of some 182 mm to the crown.
    assert!(
        (fell.mm() - 0.125 * (182.0 - 47.0) / 185.0).abs() < 0.01,
        "{fell:?}"
    );
    assert!(side.is_carried() && side.verdict == Verdict::InSpec);
    // By much, and it has to be read again; the other side stays.
    events.push(lower(-2.0));
    let far = plan_of(&guitar(events));
    assert_eq!(far.pickups.pickups[2].sides[0].quantity.fresh(), 0);
    assert_ne!(
        far.pickups.pickups[2].sides[0].quantity.verdict,
        Verdict::InSpec
    );
    assert_eq!(
        far.pickups.pickups[2].sides[1].quantity.verdict,
        Verdict::InSpec
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
    let plan = plan_of(&guitar(events.clone()));
    let louder = |plan: &Plan, pickup: usize| plan.pickups.pickups[pickup].louder;
    let neck = louder(&plan, 0).unwrap();
    assert!((neck.by.decibels() - 4.0).abs() < 1e-9 && !neck.equal && !neck.fitted);
    assert!(neck.further > Length::from_mm(0.3));
    assert!(louder(&plan, 2).unwrap().equal && louder(&plan, 1).is_none());
    // Turned off and read again: its own fall-off takes the place of the usual one.
    for side in Side::ALL {
        events.push(Event::Adjusted {
            adjuster: Adjuster::PickupScrew { pickup: 0, side },
            amount: Amount::Turns { turns: -1.5 },
        });
    }
    events.push(level(0, 3, -17.0));
    let fitted = louder(&plan_of(&guitar(events)), 0).unwrap();
    assert!(fitted.fitted);
}

#[test]
fn pickups_are_compared_by_strings_that_were_read_on_all_of_them_and_as_well_as_those_are_known() {
    let read = |pickup: u8, string: u8, level: f64, doubt: f64| {
        level_within(pickup, string, level, Some(doubt))
    };
    // Alike on strings 1 and 2; a loud sixth that was read on one pickup only makes that one no louder.
    let mut events = vec![
        read(0, 1, -16.0, 0.3),
        read(0, 2, -17.0, 0.4),
        read(0, 6, -4.0, 0.3),
        read(2, 1, -17.2, 0.3),
        read(2, 2, -18.2, 0.4),
    ];
    let louder = |events: &[Event], pickup: usize| {
        plan_of(&guitar(events.to_vec())).pickups.pickups[pickup].louder
    };
    let neck = louder(&events, 0).unwrap();
    assert!((neck.by.decibels() - 1.2).abs() < 1e-9);
    // Worked by hand: 0.25 dB for the mean of each, 0.25 sqrt 2 for the difference; 1.2 is more than a decibel by less than that.
    assert!((neck.doubt.decibels() - 0.25 * 2f64.sqrt()).abs() < 1e-9);
    assert!(!neck.equal && neck.unsure());
    events.push(read(2, 2, -20.0, 0.4));
    let neck = louder(&events, 0).unwrap();
    assert!((neck.by.decibels() - 2.1).abs() < 1e-9 && !neck.unsure());
    // No string in common: nothing is compared.
    let apart = [read(0, 1, -16.0, 0.3), read(2, 6, -19.0, 0.3)];
    assert!(louder(&apart, 0).is_none() && louder(&apart, 2).is_none());
}

#[test]
fn a_string_that_is_known_badly_bends_the_line_little() {
    let line = |doubt: f64| {
        let events = (1..=6_u8).map(|string| {
            let (level, doubt) = match string {
                6 => (-24.0, doubt),
                _ => (-18.0, 0.3),
            };
            level_within(2, string, level, Some(doubt))
        });
        let plan = plan_of(&guitar(events.collect()));
        plan.pickups.pickups[2].across.clone().unwrap()
    };
    let (well, badly) = (line(0.3), line(4.0));
    assert!(well.treble_louder.decibels() > 4.0 && !well.equal);
    assert!(badly.treble_louder.decibels() < 0.5 && badly.equal);
    // What may be the strokes orders no turn; what is known does.
    let says = |level: f64, doubt: f64| {
        let events = [(1, -18.0), (3, -18.0), (6, level)];
        let events = events.map(|(string, level)| level_within(2, string, level, Some(doubt)));
        let plan = plan_of(&guitar([even(), events.to_vec()].concat()));
        gradimen_bench::text::next::pickups::across(&plan.pickups.pickups[2]).unwrap()
    };
    let doubtful = says(-19.5, 0.6);
    assert!(
        doubtful.contains("may be the strokes") && !doubtful.contains("nearer"),
        "{doubtful}"
    );
    let known = says(-23.0, 0.3);
    assert!(
        known.contains("nearer") && !known.contains("may be the strokes"),
        "{known}"
    );
    // And it stands out of the line by no more than it is known.
    assert!(badly.odd.is_empty());
    // Worked by hand: shares 0, 0.2 ... 1 known to 0.3 each: 0.3 / sqrt 0.7.
    assert!((well.doubt.decibels() - 0.3 / 0.7f64.sqrt()).abs() < 1e-9);
}

#[test]
fn slips_and_nonsense_are_answered() {
    let job = guitar(vec![gap(0, Side::Bass, "6/64")]);
    let asked = ask(&job, &gap(0, Side::Bass, "6/32")).unwrap();
    assert!(text::questions::slip(&asked.slips[0]).contains("32nds written for 64ths"));
    assert!(
        job.accepts(&gap(7, Side::Bass, "2 mm"))
            .unwrap_err()
            .to_string()
            .contains("this instrument has 3")
    );
    assert!(job.accepts(&level(0, 9, -10.0)).is_err());
    assert!(job.accepts(&level(0, 1, f64::NAN)).is_err());
}

fn pole(pickup: u8, string: u8, mm: f64) -> Event {
    Event::read(
        Place::PolePiece { pickup, string },
        Reading::Length {
            length: Measurement::mm(mm),
        },
    )
}

/// A guitar whose strings all lie 1.8 mm over fret 12, its bridge pickup read on both sides.
fn even() -> Vec<Event> {
    let mut events: Vec<Event> = (1..=6)
        .map(|string| {
            Event::read(
                Place::Action {
                    string,
                    fret: 12,
                    held: 0,
                },
                Reading::Length {
                    length: Measurement::mm(1.8),
                },
            )
        })
        .collect();
    events.push(gap(2, Side::Treble, "2.0 mm"));
    events.push(gap(2, Side::Bass, "2.0 mm"));
    events
}

#[test]
fn the_board_asks_of_the_poles_what_its_circle_says() {
    let mut events = even();
    for string in 1..=6 {
        events.push(pole(2, string, 2.0));
    }
    let job = guitar(events);
    let plan = plan_of(&job);
    let poles = &plan.pickups.pickups[2].poles;
    assert_eq!(poles.len(), 6);
    // An exact circle: 9.5 in, the outer strings some 50 mm apart over the bridge pickup.
    let radius = job.instrument().radius_last_fret.middle().mm();
    let apart = job.instrument().spread_bridge.middle().mm() * 0.95;
    let rise = |y: f64| (radius * radius - y * y).sqrt() - radius;
    for pole in poles {
        let y = apart * (f64::from(pole.string - 1) / 5.0 - 0.5);
        let asked = rise(y) - rise(apart / 2.0);
        assert!(
            (pole.follows.mm() - asked).abs() < 0.12,
            "string {}: {:?} {asked}",
            pole.string,
            pole.follows
        );
        // Read all alike they follow it; fixed poles have no turns.
        assert!((pole.protrudes - pole.follows).abs() < Length::from_mm(0.1));
        assert!(!pole.screw && pole.action.is_leave() && !pole.stale);
        assert!(pole.louder.decibels().abs() < 0.3);
    }
}

#[test]
fn a_pole_that_is_too_low_is_brought_nearer_and_carried() {
    let screws = |events: Vec<Event>| {
        let opened = common::opened_with(|instrument| {
            for pickup in &mut instrument.pickups {
                pickup.pole_pitch = Some(Measurement::mm(0.5));
            }
        });
        common::fold([vec![opened], events].concat())
    };
    let mut events = even();
    events.push(pole(2, 3, 3.0));
    let plan = plan_of(&screws(events.clone()));
    let low = plan.pickups.pickups[2].poles[0].clone();
    // A millimetre too far on a thread of half a millimetre: two turns nearer.
    assert_eq!(low.action.next_move().unwrap().turns().value(), 2.0);
    assert!(low.louder.decibels() < -1.0);
    let whole = JobPlan::of(&known(&screws(events.clone())), &plan);
    let line = whole
        .moves
        .iter()
        .find(|step| {
            step.step.adjuster
                == Adjuster::PolePiece {
                    pickup: 2,
                    string: 3,
                }
        })
        .unwrap();
    assert_eq!(
        (
            line.strings.as_slice(),
            text::moves::whole(&known(&screws(events.clone())), &line.step).as_str()
        ),
        (&[3][..], "raise, 2 turns counter-clockwise")
    );
    events.push(Event::Adjusted {
        adjuster: Adjuster::PolePiece {
            pickup: 2,
            string: 3,
        },
        amount: Amount::Turns { turns: 2.0 },
    });
    let turned = plan_of(&screws(events.clone()));
    let now = &turned.pickups.pickups[2].poles[0];
    assert!((now.gap.mm() - 2.0).abs() < 1e-9 && now.stale);
    events.push(pole(2, 3, 2.05));
    let read = plan_of(&screws(events));
    let now = &read.pickups.pickups[2].poles[0];
    assert!(now.action.is_leave());
    // Without both sides there is nothing to compare a pole with.
    let alone = plan_of(&screws(vec![pole(0, 2, 2.0)]));
    assert!(alone.pickups.pickups[0].poles.is_empty());
    assert!(
        guitar(Vec::new())
            .accepts(&Event::Adjusted {
                adjuster: Adjuster::PolePiece {
                    pickup: 2,
                    string: 3
                },
                amount: Amount::Turns { turns: 1.0 }
            })
            .is_err()
    );
}

#[test]
fn a_screw_at_its_end_is_not_forced() {
    let squeezed = Event::Ended {
        adjuster: Adjuster::PickupScrew {
            pickup: 1,
            side: Side::Treble,
        },
        how: End::Bottom,
    };
    // Too near, and lower it does not go: no turn, and a finding that says so. Hung from its guard it is out of thread there.
    let plan = plan_of(&guitar(vec![
        gap(1, Side::Treble, "1.0 mm"),
        gap(1, Side::Bass, "2.4 mm"),
        squeezed.clone(),
    ]));
    let action = &plan.pickups.pickups[1].sides[0].action;
    assert!(
        matches!(action, Action::Stop(Stop::AtEnd { end: End::Bottom, short_by, .. }) if (short_by.mm() - 0.72).abs() < 0.12),
        "{action:?}"
    );
    let finding = plan
        .findings
        .iter()
        .find(|finding| finding.kind() == "pickup_spent")
        .unwrap();
    assert!(text::findings::sentence(finding).contains("out of thread, no further down"));
    // Nearer it may still come, and a turn says that it moves again.
    let nearer = plan_of(&guitar(vec![
        gap(1, Side::Treble, "3.0 mm"),
        gap(1, Side::Bass, "2.4 mm"),
        squeezed.clone(),
    ]));
    assert!(turn(&nearer, 1, 0).distance > Length::ZERO);
    let moved = Event::Adjusted {
        adjuster: Adjuster::PickupScrew {
            pickup: 1,
            side: Side::Treble,
        },
        amount: Amount::Turns { turns: -0.5 },
    };
    let freed = plan_of(&guitar(vec![
        gap(1, Side::Treble, "1.0 mm"),
        gap(1, Side::Bass, "2.4 mm"),
        squeezed,
        moved,
        gap(1, Side::Treble, "1.0 mm"),
        gap(1, Side::Treble, "1.0 mm"),
    ]));
    assert!(turn(&freed, 1, 0).distance < Length::ZERO);
}

#[test]
fn more_than_the_whole_travel_is_no_move() {
    let short = |mm: f64| {
        let opened = common::opened_with(|instrument| {
            for pickup in &mut instrument.pickups {
                pickup.travel = Some(Measurement::mm(mm));
            }
        });
        let job = common::fold(vec![
            opened,
            gap(1, Side::Treble, "4.5 mm"),
            gap(1, Side::Bass, "2.4 mm"),
        ]);
        plan_of(&job).pickups.pickups[1].sides[0].action.clone()
    };
    assert!(matches!(
        short(2.0),
        Action::Stop(Stop::AtEnd { end: End::Top, .. })
    ));
    assert!(matches!(short(8.0), Action::Adjust(_)));
}

#[test]
fn wanted_gaps_are_told_for_each_pickup() {
    let wanted = Event::Targeted {
        wanted: Wanted::Pickup {
            pickup: 1,
            treble: Measurement::mm(2.5),
            bass: Measurement::mm(3.0),
        },
    };
    let plan = plan_of(&guitar(vec![wanted, gap(1, Side::Treble, "2.5 mm")]));
    let [treble, bass] = &plan.pickups.pickups[1].sides;
    assert_eq!(treble.action, Action::Leave);
    assert_eq!(bass.quantity.target, Length::from_mm(3.0));
    // The others keep what is usual for their family.
    let usual = pickup_target(PickupFamily::SingleCoil);
    assert_eq!(plan.pickups.pickups[0].sides[0].quantity.target, usual[0]);
    let absurd = Event::Targeted {
        wanted: Wanted::Pickup {
            pickup: 1,
            treble: Measurement::mm(25.0),
            bass: Measurement::mm(3.0),
        },
    };
    assert!(guitar(Vec::new()).accepts(&absurd).is_err());
}

#[test]
fn a_line_through_the_levels_says_which_side_goes_off() {
    let mut events = even();
    // Made from a line: -12 dB on string 1 falling by a decibel a string, string 4 two louder.
    for string in 1..=6_u8 {
        let odd = if string == 4 { 2.0 } else { 0.0 };
        events.push(level(2, string, -11.0 - f64::from(string) + odd));
    }
    let plan = plan_of(&guitar(events.clone()));
    let across = plan.pickups.pickups[2].across.clone().unwrap();
    // Least squares by hand: slope of the six points without the odd one is -5 dB from side to side,
    // with it (2 dB at share 0.6 of a spread of 0.7): -5 + 2 * 0.1 / 0.7.
    assert!(
        (across.treble_louder.decibels() - (5.0 - 2.0 * 0.1 / 0.7)).abs() < 1e-9,
        "{across:?}"
    );
    assert!(!across.equal);
    assert!(across.further[0] > Length::ZERO && across.further[1] < Length::ZERO);
    assert_eq!(across.odd.len(), 1);
    assert_eq!(across.odd[0].0, 4);
    // As far as it says, and the tilt is gone by the same fall-off.
    let fall = gradimen_core::pickup::FallOff::default();
    let now = Length::from_mm(2.0);
    let quieter = fall.louder(now, now + across.further[0]).decibels();
    assert!((quieter - across.treble_louder.decibels() / 2.0).abs() < 0.05);
    // Two strings are no line.
    let two = plan_of(&guitar(vec![level(2, 1, -12.0), level(2, 6, -18.0)]));
    assert!(two.pickups.pickups[2].across.is_none());
}

#[test]
fn poles_of_a_simulated_come_even_in_one_round() {
    let opened = || {
        common::opened_with(|instrument| {
            for pickup in &mut instrument.pickups {
                pickup.pole_pitch = Some(Measurement::mm(0.5));
            }
        })
    };
    let mut turned = 0;
    for seed in 0..8 {
        let mut events = vec![opened()];
        let comes = Condition::usual(&mut Rng::new(seed + 40), false);
        let job = common::fold(events.clone());
        let made = SimulatedInstrument::hidden(job.instrument(), &job.strung(), &comes, seed + 700);
        // What its saddles cannot reach is another instrument.
        let Some(mut simulated) = made else { continue };
        for side in Side::ALL {
            events.push(simulated.read(Place::Pickup { pickup: 2, side }).unwrap());
        }
        for string in 2..=5 {
            let place = Place::PolePiece { pickup: 2, string };
            events.push(simulated.read(place).unwrap());
        }
        let plan = plan_of(&common::fold(events.clone()));
        for pole in &plan.pickups.pickups[2].poles {
            if let Some(step) = pole.action.next_move() {
                turned += 1;
                let told = simulated.adjust(step.adjuster, &step.amount);
                events.extend(told);
            }
        }
        let [treble, bass] = Side::ALL.map(|side| simulated.pickup(2, side).unwrap());
        for string in 2..=5_u8 {
            let share = f64::from(string - 1) / 5.0;
            let even = treble * (1.0 - share) + bass * share;
            let off = Length::from_mm(simulated.pole(2, string).unwrap() - even);
            // Left where it cannot be heard, and read with a rule.
            assert!(
                off.abs() < Length::from_mm(0.55),
                "{seed} {string}: {off:?}"
            );
        }
    }
    assert!(turned > 4, "{turned}");
}

#[test]
fn a_side_that_is_far_off_is_never_let_be_for_the_other_one() {
    // One side read and a hand's width off, the other not: what is to be done is read the other, not "leave".
    let place = |side| Place::Pickup { pickup: 0, side };
    let length = Measurement::mm(6.0).with_tool(Tool::RuleHalfMm);
    let far = Event::read(place(Side::Bass), Reading::Length { length });
    let job = common::fold(vec![
        common::opened(Kind::Guitar, 6, BridgeFamily::FixedPlate),
        far.clone(),
        far,
    ]);
    let plan = plan_of(&job);
    let pickup = &plan.pickups.pickups[0];
    assert_eq!(
        pickup.side(Side::Bass).action,
        Action::Measure(vec![place(Side::Treble)])
    );
    assert_eq!(
        text::next::pickups::in_short(pickup.side(Side::Bass)),
        "wait for the treble side"
    );
    assert_eq!(
        text::next::pickups::in_short(pickup.side(Side::Treble)),
        "measure"
    );
}
