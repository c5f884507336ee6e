//! The practice bench as whoever practises meets it: an exercise that is solved as the plan says is at par, one that is solved badly is
//! judged so, and what is heard of the instrument is what is hidden in it.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::finding::Finding;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Document, Entry, Event};
use gradimen_bench::model::{
    Adjuster, Amount, Fretwork, Hints, Measurement, Note, Observation, Place, Reading, StringSet,
    Tool,
};
use gradimen_bench::plan::Plan;
use gradimen_bench::plan::frets::{Advice, Frets};
use gradimen_ear::{Ear, Interval, Kind, Listener, Report, Said, Sound};
use gradimen_practice::judgement::{Judgement, sentences};
use gradimen_practice::{Bench, Played, Refused, exercises, make, wav};
use gradimen_trial::technician::{Asked, asked};

/// Somebody at a practice bench, who keeps nothing but the journal.
struct Hand {
    entries: Vec<Entry>,
}

impl Hand {
    fn at(exercise: &str, again: usize) -> Self {
        let exercise = exercises::of(exercise).unwrap();
        let (_, events) = make::opening(&exercise.again(again, Hints::Full)).unwrap();
        let mut hand = Self {
            entries: Vec::new(),
        };
        hand.tell(events);
        hand
    }

    fn tell(&mut self, events: Vec<Event>) {
        let next = self.entries.len() as u64 + 1;
        let at = jiff::Timestamp::UNIX_EPOCH;
        self.entries.extend(Entry::group(next, at, events));
    }

    /// As the program finds it again after a restart: from the document alone.
    fn bench(&self) -> Bench {
        let text = Document::text_of(&self.entries).unwrap();
        let kept = Document::parse(&text).unwrap().events;
        let kept: Vec<Arc<Entry>> = kept.into_iter().map(Arc::new).collect();
        Bench::of(&kept).unwrap()
    }

    fn known(&self) -> Estimate {
        Estimate::of(Arc::new(Job::fold(&self.entries).unwrap())).unwrap()
    }

    fn read(&mut self, place: Place) -> Option<Event> {
        let event = self.bench().shows(place)?;
        self.tell(vec![event.clone()]);
        Some(event)
    }

    fn turn(&mut self, adjuster: Adjuster, amount: Amount) {
        let told = Event::Adjusted { adjuster, amount };
        let happened = self.bench().meets(&[told]).unwrap();
        self.tell(happened);
    }

    fn judged(&self) -> Judgement {
        let known = self.known();
        Judgement::of(&self.bench(), &known, &Plan::of(&known))
    }

    /// What the plan asks for, until nothing is left; the frets first.
    fn follow(&mut self) {
        if self.known().play_test().next().is_some() {
            self.survey();
        }
        let mut passed: Vec<Place> = Vec::new();
        for _ in 0..300 {
            let known = self.known();
            match asked(&known, &Plan::of(&known), &passed) {
                Some(Asked::Read(places)) => {
                    let none = places.iter().filter_map(|place| self.read(*place)).count() == 0;
                    if none {
                        passed.extend(places);
                    }
                }
                Some(Asked::Do(adjuster, amount)) => self.turn(adjuster, amount),
                None => return,
            }
        }
    }

    /// Rocks where it is asked for, presses what is called high, and does what is advised, until the note is clean.
    fn survey(&mut self) {
        let (buzzed, _) = self.known().play_test().next().unwrap();
        for _ in 0..60 {
            let known = self.known();
            let survey = Frets::of(&known).for_play(&known, &Plan::of(&known));
            let high = survey.high.first().map(|top| top.note);
            match (survey.advice, high, survey.next) {
                (Advice::Seat, ..) => self.work(Fretwork::Seated, survey.loose[0]),
                (Advice::Spot | Advice::Level | Advice::Play, Some(note), _) => {
                    let moves = self.bench().gives(note.fret);
                    let what = Observation::Pressed { note, moves };
                    self.tell(vec![Event::Observed { what }]);
                    if !moves {
                        self.work(Fretwork::Spot, note.fret);
                    }
                }
                (_, _, Some(Note { string, fret })) => {
                    self.read(Place::Rock { string, fret }).unwrap();
                    continue;
                }
                _ => return,
            }
            if self.bench().clears(buzzed).unwrap() >= 0.0 {
                let what = Observation::Played {
                    note: buzzed,
                    heard: None,
                    sure: None,
                };
                self.tell(vec![Event::Observed { what }]);
                return;
            }
        }
    }

    fn work(&mut self, work: Fretwork, fret: u8) {
        let what = Observation::Fretwork {
            work,
            fret: Some(fret),
            taken: None,
        };
        self.tell(vec![Event::Observed { what }]);
    }
}

const fn turns(turns: f64) -> Amount {
    Amount::Turns { turns }
}

#[test]
fn every_exercise_solved_as_the_plan_says_is_at_par() {
    for exercise in exercises::ALL {
        let mut hand = Hand::at(exercise.key, 1);
        hand.follow();
        let judged = hand.judged();
        assert!(
            judged.is_par(),
            "{}: {:?} against {:?}: {:?}",
            exercise.key,
            judged.toll,
            judged.plan,
            sentences(&judged, &hand.known())
        );
        // What no screw puts right stays out, and all else is truly within.
        assert!(judged.toll.out == 0 || judged.trap.is_some(), "{judged:?}");
    }
}

#[test]
fn every_exercise_handed_in_untouched_is_not() {
    for exercise in exercises::ALL {
        let judged = Hand::at(exercise.key, 1).judged();
        assert!(!judged.is_par(), "{}: {judged:?}", exercise.key);
    }
}

#[test]
fn saddles_before_the_rod_are_set_twice_and_that_is_said() {
    let mut hand = Hand::at("whole_setup", 2);
    let saddle = |string| Adjuster::SaddleDrive { string };
    for string in 1..=6 {
        hand.read(Place::Intonation { string, fret: 12 });
        hand.turn(saddle(string), turns(0.5));
    }
    hand.turn(Adjuster::TrussRod, turns(0.25));
    hand.read(Place::Intonation {
        string: 3,
        fret: 12,
    });
    hand.turn(saddle(3), turns(-0.25));
    let judged = hand.judged();
    assert!(!judged.is_par());
    let early: Vec<Adjuster> = judged.out_of_order.iter().map(|early| early.set).collect();
    assert_eq!(early, [saddle(3)]);
    let said = sentences(&judged, &hand.known()).join(" ");
    assert!(said.contains("before its turn"), "{said}");
    // Six drives, the rod, and one drive again.
    assert_eq!(judged.toll.moves, 8);
}

#[test]
fn a_slot_that_is_filed_too_deep_stays_so_and_is_counted() {
    let mut hand = Hand::at("nut_slots", 1);
    hand.follow();
    assert!(hand.judged().is_par());
    let strings = StringSet::one(2);
    let amount = Amount::Distance {
        distance: Measurement::mm(-0.3),
    };
    hand.turn(Adjuster::NutSlots { strings }, amount);
    let told = hand.entries.last().unwrap().seq;
    let deep = hand.judged();
    assert_eq!(deep.too_deep.len(), 1, "{:?}", deep.rows);
    assert!(deep.too_deep[0].0 == 2 && deep.too_deep[0].1 > 0.2 && !deep.is_par());
    // Undone in the journal, the metal does not come back.
    hand.tell(vec![Event::Undone { target: told }]);
    let place = Place::Nut { string: 2, held: 0 };
    let Some(Event::Read { value, .. }) = hand.bench().shows(place) else {
        panic!()
    };
    let reads = value.length().map_or(0.0, |length| length.middle().mm());
    assert!(reads < 0.35, "{reads}");
}

#[test]
fn a_turn_that_is_undone_is_turned_back_and_is_a_move() {
    let mut hand = Hand::at("first_intonation", 1);
    let cents = |hand: &Hand| hand.bench().instrument().cents(1);
    let before = cents(&hand);
    hand.turn(Adjuster::SaddleDrive { string: 1 }, turns(1.0));
    let turned = cents(&hand);
    assert!((turned - before).abs() > 1.0);
    let target = hand.entries.last().unwrap().seq;
    hand.tell(vec![Event::Undone { target }]);
    // What its screw has of play stays away.
    assert!((cents(&hand) - before).abs() < 0.25 * (turned - before).abs());
    assert_eq!(hand.judged().toll.moves, 2);
}

#[test]
fn a_reading_that_is_taken_back_is_no_move() {
    let mut hand = Hand::at("first_intonation", 1);
    hand.read(Place::Intonation {
        string: 2,
        fret: 12,
    });
    let target = hand.entries.last().unwrap().seq;
    let before = hand.judged().toll;
    hand.tell(vec![Event::Undone { target }]);
    assert_eq!(hand.judged().toll, before);
}

#[test]
fn strings_that_are_taken_back_are_those_from_before() {
    let mut hand = Hand::at("float_after_gauge", 0);
    let gap = |hand: &Hand| hand.bench().instrument().gap().unwrap();
    let came = gap(&hand);
    let Event::Opened(opened) = &hand.entries[0].event else {
        panic!()
    };
    // The lighter set that it was set up for.
    let strung = opened.arrived.clone().unwrap();
    hand.tell(vec![Event::Restrung { strung }]);
    let lighter = gap(&hand);
    assert!(lighter < came - 1.0, "{lighter} {came}");
    let target = hand.entries.last().unwrap().seq;
    hand.tell(vec![Event::Undone { target }]);
    assert!((gap(&hand) - came).abs() < 0.7, "{} {came}", gap(&hand));
}

#[test]
fn an_instrument_that_is_followed_is_the_one_that_is_found_again() {
    let mut hand = Hand::at("barrels", 0);
    let mut followed = hand.bench();
    for string in [1, 4] {
        hand.read(Place::Intonation { string, fret: 12 });
        hand.turn(Adjuster::SaddleHeight { string }, turns(-0.5));
        hand.turn(Adjuster::TrussRod, turns(0.125));
    }
    for entry in &hand.entries[usize::try_from(followed_at(&hand)).unwrap()..] {
        followed.then(entry);
    }
    for string in 1..=6 {
        let place = Place::Action {
            string,
            fret: 12,
            held: 0,
        };
        assert_eq!(followed.shows(place), hand.bench().shows(place));
        let cents = |bench: &Bench| bench.instrument().cents(string);
        assert!((cents(&followed) - cents(&hand.bench())).abs() < 1e-9);
    }
}

/// Where the opening of a hand's journal ends.
fn followed_at(hand: &Hand) -> u64 {
    let read = |entry: &&Entry| matches!(entry.event, Event::Read { .. });
    hand.entries.iter().find(read).unwrap().seq - 1
}

#[test]
fn what_a_tool_shows_is_typed_and_read_as_it_was_meant() {
    use gradimen_bench::model::limits;
    use gradimen_practice::tools;
    let mut typed: Vec<String> = Vec::new();
    // Hands have rules in 64ths and in millimetres, blades in both, and write bare numbers or not: every exercise is another hand.
    for exercise in exercises::ALL {
        for again in 0..4 {
            let hand = Hand::at(exercise.key, again);
            let (bench, known) = (hand.bench(), hand.known());
            let plan = Plan::of(&known);
            // A shop may have said which tool lies there: a bare number is of its unit then.
            let named = [
                None,
                Some(Tool::Rule64),
                Some(Tool::RuleHalfMm),
                Some(Tool::Feeler),
            ][again];
            for station in ["relief", "nut", "action", "balance", "intonation"] {
                for (_, place) in tools::of(station, &known, &plan)
                    .into_iter()
                    .flat_map(|tool| tool.at)
                {
                    let limits = match place {
                        Place::Relief { .. } => limits::RELIEF,
                        Place::Nut { .. } => limits::NUT,
                        Place::Action { .. } => limits::ACTION,
                        Place::Gap => limits::VIBRATO_GAP,
                        Place::Spring => limits::SPRING_LENGTH,
                        Place::Scale { .. } => limits::NUT_TO_TWELFTH,
                        Place::Saddle { .. } => limits::TWELFTH_TO_SADDLE,
                        Place::Room { .. } => limits::ROOM,
                        _ => continue,
                    };
                    let limits = match named.and_then(Tool::unit) {
                        Some(unit) => limits.in_unit(unit),
                        None => limits,
                    };
                    let (Some(shown), Some(Event::Read { value, .. })) =
                        (tools::lay(&bench, &known, place, named), bench.shows(place))
                    else {
                        continue;
                    };
                    let Some(meant) = value.length() else {
                        continue;
                    };
                    let read = limits.parse(&shown.typed).unwrap_or_else(|error| {
                        panic!("{place:?}: {} is typed: {error}", shown.typed)
                    });
                    let read = Measurement::from(&read);
                    let off = (read.middle().mm() - meant.middle().mm()).abs();
                    assert!(
                        off < 1e-6,
                        "{place:?}: {} is read as {read:?}, meant {meant:?}",
                        shown.typed
                    );
                    typed.push(shown.typed);
                }
            }
        }
    }
    // Of all ways of writing there were some.
    let some = |of: fn(&String) -> bool| typed.iter().filter(|typed| of(typed)).count() > 20;
    assert!(some(|typed| typed.contains("/64")) && some(|typed| typed.contains("mm")));
    assert!(some(|typed| typed.contains('-')) && some(|typed| typed.parse::<f64>().is_ok()));
}

#[test]
fn a_loose_fret_that_is_filed_is_judged_so() {
    let mut hand = Hand::at("loose_fret", 1);
    let (buzzed, _) = hand.known().play_test().next().unwrap();
    assert!(
        hand.bench().clears(buzzed).unwrap() < 0.0,
        "it buzzes where it was heard"
    );
    let fret = buzzed.fret + 1;
    assert!(hand.bench().gives(fret) && !hand.bench().gives(fret + 1));
    hand.work(Fretwork::Spot, fret);
    hand.work(Fretwork::Seated, fret);
    let judged = hand.judged();
    assert!(judged.filed_loose && !judged.is_par());
    // It is a dip now.
    let note = Note { string: 3, fret };
    assert!(hand.bench().instrument().stands(note).unwrap() < -0.05);
}

#[test]
fn a_trap_that_is_tried_out_costs_and_one_that_is_not_read_is_not_found() {
    let mut hand = Hand::at("foreign_neck", 1);
    assert_eq!(hand.judged().trap.map(|(_, named)| named), Some(false));
    for string in 1..=6 {
        hand.turn(Adjuster::SaddleDrive { string }, turns(3.0));
    }
    let judged = hand.judged();
    assert!(judged.toll.moves >= 6 && !judged.is_par());
    let (moves, minutes) = judged.trap_costs().unwrap();
    assert!(moves > 2 && minutes > 5.0, "{moves} {minutes}");
}

#[test]
fn a_spent_rod_does_not_go_whatever_is_told() {
    let hand = Hand::at("spent_rod", 1);
    let told = Event::Adjusted {
        adjuster: Adjuster::TrussRod,
        amount: turns(0.25),
    };
    let happened = hand.bench().meets(&[told]).unwrap();
    assert!(
        matches!(happened[..], [Event::Ended { .. }]),
        "{happened:?}"
    );
    // What it does not have cannot be moved either.
    let claw = Event::Adjusted {
        adjuster: Adjuster::Claw,
        amount: turns(0.25),
    };
    assert_eq!(hand.bench().meets(&[claw]), Err(Refused::NoSuchPart));
}

#[test]
fn a_tool_shows_the_same_until_something_is_told_and_differs_then() {
    let mut hand = Hand::at("first_intonation", 1);
    let place = Place::Intonation {
        string: 4,
        fret: 12,
    };
    assert_eq!(hand.bench().shows(place), hand.bench().shows(place));
    let cents: Vec<Event> = (0..8).map(|_| hand.read(place).unwrap()).collect();
    assert!(cents.iter().any(|other| *other != cents[0]), "{cents:?}");
}

#[test]
fn heavier_strings_pull_a_plate_up_and_that_is_no_misplaced_bridge() {
    let hand = Hand::at("float_after_gauge", 0);
    let mut reads = hand;
    // The first checks, the gap and a note: as much as once made it say that the bridge stands wrong.
    for string in [1, 6] {
        for place in [
            Place::Scale { string },
            Place::Saddle { string },
            Place::Room { string },
        ] {
            reads.read(place);
        }
        reads.read(Place::Intonation { string, fret: 12 });
    }
    let gap = reads.read(Place::Gap).unwrap();
    let Event::Read {
        value: Reading::Length { length },
        ..
    } = gap
    else {
        panic!()
    };
    assert!(length.middle().mm() > 2.0, "{length:?}");
    let known = reads.known();
    let found = Plan::of(&known).findings;
    let misplaced = |found: &Finding| matches!(found, Finding::BridgePlace { .. });
    assert!(!found.iter().any(misplaced), "{found:?}");
}

/// What the ear makes of plucks, the interval of their two kinds.
fn heard(bench: &Bench, string: u8, open: &[f64]) -> Interval {
    let notes = |played: Played| {
        (0..5).map(move |pluck| {
            let samples = bench.sound_of(string, played, pluck).unwrap();
            let file = wav(&samples).unwrap();
            let sound = Sound::from_wav(file.as_slice()).unwrap();
            let report = Report::of(&sound, &Ear::new(open, &[12]));
            assert_eq!(
                report.notes.len(),
                1,
                "{string} {played:?} {pluck} {:?}",
                report.refused
            );
            report.notes[0].clone()
        })
    };
    let harmonic: Vec<_> = notes(Played::Harmonic).collect();
    let fretted: Vec<_> = notes(Played::Fretted).collect();
    for (heard, kind) in [(&harmonic[0], Kind::Harmonic), (&fretted[0], Kind::Fretted)] {
        let place = heard.place.as_ref().unwrap();
        assert_eq!((place.string, place.kind), (string, kind));
    }
    let plain = |heard: Vec<gradimen_ear::Heard>| {
        heard
            .into_iter()
            .map(|heard| heard.note)
            .collect::<Vec<_>>()
    };
    Interval::of(&plain(harmonic), Kind::Harmonic, &plain(fretted)).unwrap()
}

#[test]
fn the_ear_hears_the_cents_that_are_hidden_in_the_sound() {
    let hand = Hand::at("first_intonation", 3);
    let bench = hand.bench();
    let open = [329.628, 246.942, 195.998, 146.832, 110.0, 82.407];
    let mut wide: f64 = 0.0;
    for string in 1..=6 {
        let hidden = bench.instrument().cents(string);
        let heard = heard(&bench, string, &open).cents;
        // Another finger every time: it presses a sixth harder or softer.
        assert!(
            (heard - hidden).abs() < 1.0,
            "string {string}: {heard} for {hidden}"
        );
        wide = wide.max(hidden.abs());
    }
    assert!(wide > 3.0, "the saddles were off: {wide}");
}

#[test]
fn the_ear_hears_what_rattles_on_a_fret() {
    let (mut heard, mut wrong) = ([0, 0], [0, 0]);
    let bench = Hand::at("high_fret", 2).bench();
    for string in [1, 3, 4, 6] {
        for fret in 0..=12 {
            let note = Note { string, fret };
            // What all but touches may be heard so or so.
            let clears = bench.clears(note).unwrap();
            if clears.abs() < 0.03 {
                continue;
            }
            let samples = bench.sound_of(string, Played::Struck(fret), 0).unwrap();
            let samples: Vec<f64> = samples.into_iter().map(f64::from).collect();
            let mut listener = Listener::for_bursts(48_000.0, &[]);
            let mut said = listener.hear(&samples);
            said.extend(listener.finish());
            let [Said::Struck(struck)] = said.as_slice() else {
                panic!("{note:?} {said:?}");
            };
            let buzzes = struck.burst.unwrap().sure > 0.5;
            heard[usize::from(clears < 0.0)] += 1;
            wrong[usize::from(clears < 0.0)] += usize::from(buzzes != (clears < 0.0));
        }
    }
    assert!(heard[0] > 30 && heard[1] > 3, "{heard:?}");
    assert_eq!(wrong, [0, 0], "of {heard:?}");
}
