//! Bars, bridges, pockets and cut saddles at the practice bench: what is told meets them, what the plan says of them holds, and what can be taken
//! back is.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Entry, Event};
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::instrument::{Instrument, Kind};
use gradimen_bench::model::{
    Adjuster, Amount, Difficulty, Hints, Measurement, Place, Player, PracticeFault, Shim, Side,
    Strung, Touch, Tuning, defaults,
};
use gradimen_practice::Bench;
use gradimen_practice::make::opening;
use gradimen_practice::order::{Like, LikeJob, Order};
use gradimen_practice::par::{Way, worked};

fn order(like: Like, faults: &[PracticeFault], seed: u64) -> Order {
    Order {
        exercise: None,
        like,
        faults: faults.to_vec(),
        difficulty: Difficulty::Usual,
        hints: Hints::Off,
        seed,
    }
}

/// A job of an instrument with a bridge of this sort, to practise on.
fn like(family: BridgeFamily, alter: impl Fn(&mut Bridge)) -> Like {
    let mut instrument = Instrument {
        name: "Heron".into(),
        bridge: Bridge::profile(family, 6),
        ..defaults::usual_instrument(Kind::Guitar, 6)
    };
    alter(&mut instrument.bridge);
    let strung = Strung {
        set: defaults::sets(Kind::Guitar, 6)[0].strings.clone(),
        tuning: Tuning::of(
            "standard",
            440.0,
            &defaults::tunings(Kind::Guitar, 6)[0].pitches,
        ),
    };
    Like::Job(Box::new(LikeJob {
        targets: defaults::targets(&instrument, Touch::Medium),
        instrument,
        strung,
        player: Player {
            touch: Touch::Medium,
            style: "any".into(),
        },
        school: None,
        came: None,
    }))
}

struct Hand {
    entries: Vec<Entry>,
}

impl Hand {
    fn at(order: &Order) -> Self {
        let (_, events) = opening(order).unwrap();
        let entries = Entry::group(1, jiff::Timestamp::UNIX_EPOCH, events);
        Self { entries }
    }

    fn bench(&self) -> Bench {
        let kept: Vec<Arc<Entry>> = self.entries.iter().cloned().map(Arc::new).collect();
        Bench::of(&kept).unwrap()
    }

    fn tell(&mut self, events: Vec<Event>) -> u64 {
        let next = self.entries.len() as u64 + 1;
        let at = jiff::Timestamp::UNIX_EPOCH;
        self.entries.extend(Entry::group(next, at, events));
        next
    }

    /// Does something and tells it; the stroke it was told in.
    fn moves(&mut self, adjuster: Adjuster, amount: Amount) -> u64 {
        let told = Event::Adjusted { adjuster, amount };
        let happened = self.bench().meets(&[told]).unwrap();
        let stroke = self.tell(happened);
        // The job takes it, or this fails.
        self.known();
        stroke
    }

    fn known(&self) -> Estimate {
        Estimate::of(Arc::new(Job::fold(&self.entries).unwrap())).unwrap()
    }

    fn height(&self, string: usize) -> f64 {
        self.bench().instrument().height(string - 1, 0, 12)
    }
}

const fn mm(distance: Measurement) -> Amount {
    Amount::Distance { distance }
}

#[test]
fn the_plan_sets_a_bar_as_well_as_trial_and_error_and_in_fewer_moves() {
    let (mut moves, mut out, mut of) = ([0, 0], [0, 0], 0);
    for seed in 1..=5 {
        let faults = [
            PracticeFault::Relief,
            PracticeFault::Action,
            PracticeFault::Saddles,
        ];
        let wanted = order(Like::Kind("wooden bridge".to_owned()), &faults, seed);
        let (_, events) = opening(&wanted).unwrap();
        for (which, way) in [Way::Plan, Way::Trial].into_iter().enumerate() {
            let work = worked(&events, way).unwrap();
            moves[which] += work.toll.moves;
            out[which] += work.toll.out;
            of += work.toll.of;
            let bar = |event: &&Event| {
                matches!(
                    event,
                    Event::Adjusted {
                        adjuster: Adjuster::Bar,
                        ..
                    }
                )
            };
            let shifts = work.events.iter().filter(bar).count();
            assert!(shifts > 0, "{seed} {way:?}");
        }
    }
    assert!(moves[0] < moves[1], "{moves:?}");
    assert!(out[0] <= out[1], "{out:?} of {of}");
}

#[test]
fn the_next_reading_after_a_wedge_or_a_shim_is_what_was_foretold() {
    for (shim, thickness, seed) in [
        (Shim::Full, 0.8, 1),
        (Shim::Wedge, 0.4, 2),
        (Shim::Wedge, 0.4, 3),
    ] {
        let faults = [PracticeFault::Pickups];
        let wanted = order(Like::Kind("fixed plate".to_owned()), &faults, seed);
        let mut hand = Hand::at(&wanted);
        let side = Side::Bass;
        let places = [
            Place::Pickup { pickup: 0, side },
            Place::Action {
                string: 6,
                fret: 12,
                held: 0,
            },
        ];
        for place in places {
            let event = hand.bench().shows(place).unwrap();
            hand.tell(vec![event]);
        }
        hand.moves(Adjuster::Pocket { shim }, mm(Measurement::mm(thickness)));
        let bench = hand.bench();
        let truly = bench.instrument();
        let truths = [truly.pickup(0, side).unwrap(), truly.height(5, 0, 12)];
        for (place, truth) in places.into_iter().zip(truths) {
            let foretold = hand.known().state().predict(place).unwrap();
            let (off, width) = (truth - foretold.value.mm(), foretold.sigma.mm());
            assert!(
                width < 0.2 && off.abs() < 2.5 * width,
                "{shim:?} {place:?} {off} {width}"
            );
        }
    }
}

#[test]
fn what_was_slid_or_laid_in_is_taken_back_and_what_was_cut_is_not() {
    let bar = Amount::Ends {
        treble: Measurement::mm(2.0),
        bass: Measurement::mm(-1.0),
    };
    let wooden = like(BridgeFamily::FloatingWooden, |_| ());
    let mut hand = Hand::at(&order(wooden, &[], 4));
    let before = hand.bench().instrument().cents(1);
    let stroke = hand.moves(Adjuster::Bar, bar);
    assert!(hand.bench().instrument().cents(1) < before - 3.5);
    hand.tell(vec![Event::Undone { target: stroke }]);
    assert!((hand.bench().instrument().cents(1) - before).abs() < 1.2);

    let plate = || like(BridgeFamily::FixedPlate, |_| ());
    for (adjuster, amount) in [
        (Adjuster::Pocket { shim: Shim::Full }, 0.5),
        (Adjuster::Bridge, 2.0),
    ] {
        let mut hand = Hand::at(&order(plate(), &[], 4));
        let at = |hand: &Hand| (hand.height(3), hand.bench().instrument().cents(3));
        let before = at(&hand);
        let stroke = hand.moves(adjuster, mm(Measurement::mm(amount)));
        let moved = at(&hand);
        assert!((moved.0 - before.0).abs() + (moved.1 - before.1).abs() > 0.2);
        hand.tell(vec![Event::Undone { target: stroke }]);
        let back = at(&hand);
        assert!((back.0 - before.0).abs() < 0.02, "{before:?} {back:?}");
        assert!((back.1 - before.1).abs() < 1.2, "{before:?} {back:?}");
    }

    let stiff = like(BridgeFamily::FixedPlate, |of| {
        of.details.no_height_screws = true;
    });
    let mut hand = Hand::at(&order(stiff, &[], 4));
    let saddle = Adjuster::SaddleHeight { string: 2 };
    let before = hand.height(2);
    let raised = hand.moves(saddle, mm(Measurement::mm(0.5)));
    assert!(hand.height(2) > before + 0.15);
    hand.tell(vec![Event::Undone { target: raised }]);
    assert!((hand.height(2) - before).abs() < 0.05);
    let cut = hand.moves(saddle, mm(Measurement::mm(-0.5)));
    let low = hand.height(2);
    assert!(low < before - 0.15);
    hand.tell(vec![Event::Undone { target: cut }]);
    assert!((hand.height(2) - low).abs() < 1e-9);
}
