//! Instruments made to order: of every bridge there is, with every fault, and as other jobs have them; what cannot be made says so.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Entry, Event};
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::instrument::{Instrument, Kind};
use gradimen_bench::model::{
    Difficulty, Hints, Keyed, Place, Player, PracticeFault, Strung, Touch, Tuning, defaults,
};
use gradimen_practice::Bench;
use gradimen_practice::make::opening;
use gradimen_practice::order::{Like, LikeJob, Order, OrderError, kinds};

fn order(like: Like, faults: &[PracticeFault]) -> Order {
    Order {
        exercise: None,
        like,
        faults: faults.to_vec(),
        difficulty: Difficulty::Usual,
        hints: Hints::Off,
        seed: 5,
    }
}

/// What comes of an order folds, and has an instrument behind it.
fn holds(made: Result<(Instrument, Vec<Event>), OrderError>) -> Option<OrderError> {
    let events = match made {
        Ok((_, events)) => events,
        Err(error) => return Some(error),
    };
    let Event::Opened(opened) = &events[0] else {
        panic!()
    };
    Bench::open(opened).unwrap();
    None
}

#[test]
fn every_kind_can_be_had_with_a_fault() {
    for kind in kinds() {
        let wanted = order(Like::Kind(kind.to_owned()), &[PracticeFault::Saddles]);
        assert_eq!(holds(opening(&wanted)), None, "{kind}");
    }
}

#[test]
fn every_fault_can_be_had_on_some_instrument() {
    for fault in PracticeFault::all() {
        let kind = match fault {
            PracticeFault::Gap => "decked",
            PracticeFault::RodSpent => "bass of four",
            _ => "fixed plate",
        };
        let wanted = order(Like::Kind(kind.to_owned()), &[fault]);
        assert_eq!(holds(opening(&wanted)), None, "{fault:?}");
    }
}

#[test]
fn a_short_board_has_its_high_fret_where_a_rocker_reaches() {
    let (_, mut events) = opening(&order(Like::Kind("fixed plate".to_owned()), &[])).unwrap();
    if let Event::Opened(opened) = &mut events[0] {
        opened.instrument.frets = 13;
        opened.instrument.neck.joint_fret = 12;
    }
    let known = known_of(events);
    for seed in 0..6 {
        let like = Like::Job(Box::new(LikeJob::of(&known)));
        let wanted = Order {
            seed,
            ..order(like, &[PracticeFault::HighFret])
        };
        let (_, events) = opening(&wanted).unwrap();
        let Event::Opened(opened) = &events[0] else {
            panic!()
        };
        // It stands high under some string, and the player hears it.
        assert!(
            Bench::open(opened).unwrap().stands().unwrap() > 0.05,
            "{seed}"
        );
    }
}

#[test]
fn pickups_that_stand_anywhere_are_set_by_the_plan_and_by_a_careful_hand() {
    let wanted = order(
        Like::Kind("fixed plate".to_owned()),
        &[PracticeFault::Pickups],
    );
    let (instrument, events) = opening(&wanted).unwrap();
    assert!(!instrument.pickups.is_empty());
    let Event::Opened(opened) = &events[0] else {
        panic!()
    };
    let practice = opened.practice.as_ref().unwrap();
    // Two sides of each are targets beside what every instrument has.
    let (_, plain) = opening(&order(Like::Kind("fixed plate".to_owned()), &[])).unwrap();
    let Event::Opened(bare) = &plain[0] else {
        panic!()
    };
    let more = practice.plan.of - bare.practice.as_ref().unwrap().plan.of;
    assert_eq!(more as usize, 2 * instrument.pickups.len());
    assert_eq!(practice.plan.out, 0);
    assert!(practice.trial.out <= 1, "{practice:?}");
    // An instrument that has none on record cannot have them wrong.
    let bare = Like::Job(Box::new(LikeJob {
        instrument: Instrument {
            pickups: Vec::new(),
            ..instrument
        },
        ..LikeJob::of(&known_of(events))
    }));
    let none = order(bare, &[PracticeFault::Pickups]);
    assert!(matches!(opening(&none), Err(OrderError::Fault(_))));
}

fn known_of(events: Vec<Event>) -> Estimate {
    let entries = Entry::group(1, jiff::Timestamp::UNIX_EPOCH, events);
    Estimate::of(Arc::new(Job::fold(&entries).unwrap())).unwrap()
}

#[test]
fn what_cannot_be_made_says_why() {
    let plate = || Like::Kind("fixed plate".to_owned());
    let unknown = order(Like::Kind("a harp".to_owned()), &[]);
    assert_eq!(
        opening(&unknown).unwrap_err(),
        OrderError::Kind("a harp".to_owned())
    );
    let no_vibrato = order(plate(), &[PracticeFault::Gap]);
    assert!(matches!(opening(&no_vibrato), Err(OrderError::Fault(_))));
    let two_traps = [PracticeFault::Wound, PracticeFault::RodSpent];
    assert!(matches!(
        opening(&order(plate(), &two_traps)),
        Err(OrderError::Both(..))
    ));
    let one_fret = [PracticeFault::HighFret, PracticeFault::LooseFret];
    assert!(matches!(
        opening(&order(plate(), &one_fret)),
        Err(OrderError::Both(..))
    ));
}

#[test]
fn an_instrument_as_in_a_job_comes_as_that_one_came() {
    // A job of which the heights were read before anything was turned.
    let high = order(
        Like::Kind("fixed plate".to_owned()),
        &[PracticeFault::Action],
    );
    let (_, mut events) = opening(&high).unwrap();
    let Event::Opened(opened) = &events[0] else {
        panic!()
    };
    let there = Bench::open(opened).unwrap();
    for string in [1, 6] {
        let (fret, held) = (12, 0);
        events.extend(there.shows(Place::Action { string, fret, held }));
    }
    let entries = Entry::group(1, jiff::Timestamp::UNIX_EPOCH, events);
    let known = Estimate::of(Arc::new(Job::fold(&entries).unwrap())).unwrap();
    let like = LikeJob::of(&known);
    let came = like.came.clone().unwrap();
    let (instrument, events) = opening(&order(Like::Job(Box::new(like)), &[])).unwrap();
    assert_eq!(instrument.scales, known.instrument().scales);
    let Event::Opened(opened) = &events[0] else {
        panic!()
    };
    let here = Bench::open(opened).unwrap();
    for (index, read) in [(0, &came.action_treble), (5, &came.action_bass)] {
        let height = here.instrument().height(index, 0, 12);
        assert!(height > 1.9, "too high it was, and is: {height}");
        assert!(
            (height - read.middle().mm()).abs() < 0.15,
            "{height} {read:?}"
        );
    }
}

/// Whatever a shop has on record: an instrument is made, or it is said that none can be.
#[test]
fn no_record_of_a_shop_breaks_the_bench() {
    for (kind, strings) in [(Kind::Guitar, 6), (Kind::Guitar, 8), (Kind::Bass, 5)] {
        for family in BridgeFamily::all() {
            let usual = defaults::usual_instrument(kind, strings);
            let instrument = Instrument {
                name: "Heron".into(),
                bridge: Bridge::profile(family, strings),
                ..usual
            };
            let tuning = &defaults::tunings(kind, strings)[0];
            let like = LikeJob {
                strung: Strung {
                    set: defaults::sets(kind, strings)[0].strings.clone(),
                    tuning: Tuning::of(tuning.name, 440.0, &tuning.pitches),
                },
                player: Player {
                    touch: Touch::Hard,
                    style: String::new(),
                },
                targets: defaults::targets(&instrument, Touch::Hard),
                school: None,
                came: None,
                instrument,
            };
            let wanted = order(Like::Job(Box::new(like)), &[PracticeFault::Action]);
            let why = holds(opening(&wanted));
            println!("{kind:?} {strings} {family:?}: {why:?}");
            assert!(why.is_none() || why == Some(OrderError::Impossible));
        }
    }
}

/// Records at the ends of what a record may say.
#[test]
fn no_odd_record_breaks_the_bench() {
    let mm = gradimen_bench::model::Measurement::mm;
    let usual = || Instrument {
        name: "Ruff".into(),
        ..defaults::usual_instrument(Kind::Guitar, 6)
    };
    let mut short = Instrument {
        scales: vec![mm(400.0)],
        frets: 12,
        ..usual()
    };
    short.neck.joint_fret = 10;
    let long = Instrument {
        scales: vec![mm(1000.0)],
        frets: 36,
        ..usual()
    };
    let round = Instrument {
        radius_nut: mm(100.0),
        radius_last_fret: mm(100.0),
        ..usual()
    };
    let mut fretless = usual();
    fretless.construction.fretless = true;
    let mut stiff = usual();
    stiff.bridge.intonation.pitch = mm(2.0);
    stiff.bridge.height.pitch = mm(0.2);
    for (what, mut instrument) in [
        ("short", short),
        ("long", long),
        ("round", round),
        ("fretless", fretless),
        ("stiff", stiff),
    ] {
        instrument.pickups.clear();
        instrument
            .validate()
            .unwrap_or_else(|error| panic!("{what}: {error}"));
        let tuning = &defaults::tunings(Kind::Guitar, 6)[0];
        let like = LikeJob {
            strung: Strung {
                set: defaults::sets(Kind::Guitar, 6)[0].strings.clone(),
                tuning: Tuning::of(tuning.name, 440.0, &tuning.pitches),
            },
            player: Player {
                touch: Touch::Light,
                style: String::new(),
            },
            targets: defaults::targets(&instrument, Touch::Light),
            school: None,
            came: None,
            instrument,
        };
        for fault in [
            PracticeFault::Saddles,
            PracticeFault::Wound,
            PracticeFault::HighFret,
        ] {
            let why = holds(opening(&order(Like::Job(Box::new(like.clone())), &[fault])));
            println!("{what} {fault:?}: {why:?}");
        }
    }
}
