//! Uneven frets in everything that hangs on them, and what is done about them, checked as a technician would.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, guitar, opened};
use gradimen_bench::model::{Fretwork, Heard, Note, Rocking};
use gradimen_bench::plan::frets::{Advice, Frets};
use gradimen_bench::stations::clearance::{StringMap, map_now};
use gradimen_core::quantity::Length;

fn rock(string: u8, fret: u8, seen: Rocking) -> Event {
    Event::read(Place::Rock { string, fret }, Reading::Rock { seen })
}

const fn observed(what: Observation) -> Event {
    Event::Observed { what }
}

const fn note(string: u8, fret: u8) -> Note {
    Note { string, fret }
}

fn worked(work: Fretwork, fret: Option<u8>, taken: Option<f64>) -> Event {
    observed(Observation::Fretwork {
        work,
        fret,
        taken: taken.map(Measurement::mm),
    })
}

fn margin(maps: &[StringMap], string: u8, held: u8) -> f64 {
    let map = &maps[usize::from(string) - 1];
    let mut places = map.places.iter();
    places.find(|place| place.held == held).unwrap().margin.mm()
}

#[test]
fn a_fret_that_rocks_is_in_the_way_of_the_string_and_only_there() {
    let even = map_now(&known(&guitar(Vec::new())));
    let high = map_now(&known(&guitar(vec![rock(3, 9, Rocking::Clear)])));
    // Held just behind it there is less room under string 3, by about what stands up there ...
    let lost = margin(&even, 3, 8) - margin(&high, 3, 8);
    assert!(lost > 0.02 && lost < 0.08, "{lost}");
    // ... held at it there is no less, and far from it nothing changed.
    assert!(margin(&high, 3, 9) > margin(&even, 3, 9) - 0.01);
    assert!((margin(&high, 3, 15) - margin(&even, 3, 15)).abs() < 0.01);
    assert!((margin(&high, 1, 2) - margin(&even, 1, 2)).abs() < 0.01);
}

#[test]
fn the_same_saddle_reads_a_lower_action_over_a_high_fret() {
    let place = Place::Action {
        string: 3,
        fret: 12,
        held: 0,
    };
    let look = |events| guitar(events).state().predict(place).unwrap().value.mm();
    let even = look(Vec::new());
    let over = look(vec![rock(3, 12, Rocking::Clear)]);
    assert!(
        even - over > 0.02 && even - over < 0.08,
        "{even} and {over}"
    );
}

#[test]
fn a_buzz_over_a_high_fret_is_cured_at_the_fret_and_not_at_the_saddle() {
    let buzz = observed(Observation::Buzz {
        buzz: Buzz {
            string: 3,
            held: 8,
            attack: 0.6,
            doubt: None,
        },
    });
    let frets = |seen| {
        let known = known(&guitar(vec![
            rock(3, 9, seen),
            rock(2, 9, seen),
            rock(4, 9, seen),
            buzz.clone(),
        ]));
        ClearancePlan::of(&known, |string| known.state().line(string)).heard[0].cure
    };
    assert_eq!(frets(Rocking::Clear), BuzzRemedy::Fret(9));
}

#[test]
fn what_gives_under_the_stick_is_seated_and_never_filed() {
    let high = vec![rock(3, 14, Rocking::Clear)];
    assert_eq!(
        Frets::of(&known(&guitar(high.clone()))).advice,
        Advice::Spot
    );
    let pressed = |moves| {
        let mut events = high.clone();
        events.push(observed(Observation::Pressed {
            note: note(3, 14),
            moves,
        }));
        Frets::of(&known(&guitar(events)))
    };
    assert_eq!(pressed(false).advice, Advice::Spot);
    let loose = pressed(true);
    assert_eq!((loose.advice, &loose.loose[..]), (Advice::Seat, &[14][..]));
    // Seated, what the rocker said there before says nothing any more.
    let mut events = high;
    events.push(observed(Observation::Pressed {
        note: note(3, 14),
        moves: true,
    }));
    events.push(worked(Fretwork::Seated, Some(14), None));
    let seated = Frets::of(&known(&guitar(events.clone())));
    assert!(seated.high.is_empty() && seated.loose.is_empty());
    assert_eq!(seated.tops[2 * 22 + 13].rocked, None);
    events.push(rock(3, 14, Rocking::None));
    assert!(Frets::of(&known(&guitar(events))).high.is_empty());
}

#[test]
fn a_buzz_is_led_back_to_a_fret_and_cured_there() {
    let mut events = vec![
        observed(Observation::Buzz {
            buzz: Buzz {
                string: 3,
                held: 8,
                attack: 0.5,
                doubt: None,
            },
        }),
        observed(Observation::Played {
            note: note(3, 8),
            heard: Some(Heard::Buzz),
            sure: None,
        }),
        rock(3, 9, Rocking::Clear),
    ];
    let before = known(&guitar(events.clone()));
    assert!(
        Frets::of(&before)
            .high
            .iter()
            .any(|top| top.note == note(3, 9))
    );
    events.push(worked(Fretwork::Spot, Some(9), None));
    let after = guitar(events.clone());
    // The note is open until it is played again, but it says nothing of the fret as it is now.
    assert_eq!(after.play_test().count(), 1);
    assert_eq!(after.heard_since_fretwork().count(), 0);
    assert!(after.buzzes().is_empty() && known(&after).heard().is_empty());
    assert!(Frets::of(&known(&after)).high.is_empty());
    events.push(observed(Observation::Played {
        note: note(3, 8),
        heard: None,
        sure: None,
    }));
    assert_eq!(guitar(events).play_test().count(), 0);
}

#[test]
fn levelled_frets_leave_every_gap_larger_and_to_be_measured() {
    let read = |place, mm: f64| {
        let length = Measurement::mm(mm).with_tool(Tool::Feeler);
        Event::read(place, Reading::Length { length })
    };
    let nut = Place::Nut { string: 3, held: 0 };
    let action = Place::Action {
        string: 3,
        fret: 12,
        held: 0,
    };
    let mut events = vec![
        read(nut, 0.50),
        read(nut, 0.50),
        read(action, 1.60),
        read(action, 1.60),
    ];
    let before = guitar(events.clone()).state();
    events.push(worked(Fretwork::Levelled, None, Some(0.10)));
    let after = guitar(events.clone()).state();
    for place in [nut, action] {
        let (was, is) = (
            before.predict(place).unwrap(),
            after.predict(place).unwrap(),
        );
        // Half of what went where most went, in the mean: nut and saddle stand as they stood, the tops lie lower.
        let rose = (is.value - was.value).mm();
        assert!((rose - 0.05).abs() < 0.02, "{place:?}: {rose}");
        assert!(is.sigma > was.sigma * 1.5);
    }
    // A reading after it says how it is.
    events.push(read(action, 1.72));
    let measured = guitar(events).state().predict(action).unwrap();
    assert!((measured.value.mm() - 1.72).abs() < 0.03, "{measured:?}");
}

#[test]
fn how_much_crown_there_is_decides_between_levelling_and_new_frets() {
    let mut events: Vec<Event> = [4, 7, 10, 14, 17]
        .into_iter()
        .flat_map(|fret| (1..=6).map(move |string| rock(string, fret, Rocking::Clear)))
        .collect();
    let advice = |events: &[Event]| Frets::of(&known(&guitar(events.to_vec()))).advice;
    assert_eq!(advice(&events), Advice::Level);
    events.push(observed(Observation::Crown {
        height: Measurement::mm(0.78),
    }));
    assert_eq!(advice(&events), Advice::Refret);
    events.push(observed(Observation::Crown {
        height: Measurement::mm(1.2),
    }));
    assert_eq!(advice(&events), Advice::Level);
    // A groove that is felt is levelled out, even where nothing stands high.
    let worn = vec![observed(Observation::Worn {
        note: note(1, 2),
        depth: Measurement::mm(0.2),
    })];
    let frets = Frets::of(&known(&guitar(worn)));
    assert_eq!(
        frets.advice,
        Advice::Refret,
        "a fifth of a millimetre of a usual crown"
    );
    assert!(frets.tops[1].height.0.mm() < -0.05);
    // After a levelling, strings lie higher over what is left.
    let known = known(&guitar(events));
    let plan = Plan::of(&known);
    for after in Frets::of(&known).after_level(&known, &plan).0 {
        assert!(
            after.action.1 >= after.action.0 && after.nut.1 >= after.nut.0,
            "{after:?}"
        );
        assert!((after.action.1 - after.action.0).mm() < 0.2);
    }
}

/// Held at 3 the string lies on fret 2, which comes down too: over fret 1 only what stands between nut and fret 2 is left to grow.
#[test]
fn after_a_levelling_the_nut_reads_by_its_own_method() {
    let rocks: Vec<Event> = [1_u8, 2, 3, 4]
        .into_iter()
        .map(|fret| rock(3, 2 * fret + 4, Rocking::Clear))
        .collect();
    let by = |held: u8| {
        let mut events = rocks.clone();
        let mut targets = guitar(Vec::new()).targets();
        targets.nut_held = held;
        events.push(Event::Targeted {
            wanted: Wanted::Setup { targets },
        });
        let known = known(&guitar(events));
        let (after, _) = Frets::of(&known).after_level(&known, &Plan::of(&known));
        (after[2].nut.1 - after[2].nut.0).mm()
    };
    let (open, held) = (by(0), by(3));
    assert!(open > 0.005, "{open}");
    assert!(held > 0.0 && held < 0.75 * open, "{held} of {open}");
}

/// A fret that stands high where relief is read hides as much of it; levelled, the same neck reads that much more.
#[test]
fn after_a_levelling_relief_reads_what_a_high_fret_hid() {
    let events: Vec<Event> = [1, 6]
        .map(|string| rock(string, 6, Rocking::Clear))
        .to_vec();
    let known = known(&guitar(events));
    let frets = Frets::of(&known);
    let (_, relief) = frets.after_level(&known, &Plan::of(&known));
    assert_eq!(relief.len(), 2);
    for (side, now, then) in relief {
        let grown = (then - now).mm();
        assert!(grown > 0.02 && grown < 0.09, "{side:?} {grown}");
    }
}

#[test]
fn relief_by_three_spans_shows_a_fret_that_no_bend_explains() {
    // A neck bent evenly by 0.0106 per metre, and fret 6 standing 0.08 mm high under string 6: what each span would read, by
    // the circle's sagitta worked out here and not by the program.
    let scale = 648.0;
    let place = |fret: u8| scale * (1.0 - 0.5f64.powf(f64::from(fret) / 12.0));
    let height = |fret: u8| {
        let bow = 0.5 * 0.02e-3 * (place(fret) - 300.0).powi(2);
        bow + if fret == 6 { 0.08 } else { 0.0 }
    };
    let gap = |low: u8, high: u8, at: u8| {
        let share = (place(at) - place(low)) / (place(high) - place(low));
        height(low) + (height(high) - height(low)) * share - height(at)
    };
    let spans = [(1, 12, 6), (1, 15, 7), (1, 15, 8), (1, 12, 5), (2, 14, 7)];
    let read = |(low, high, at)| {
        let place = Place::Relief {
            side: Side::Bass,
            span: ReliefSpan { low, high, at },
        };
        let length = Measurement::mm(gap(low, high, at).max(0.0)).with_tool(Tool::Feeler);
        Event::read(place, Reading::Length { length })
    };
    let frets = Frets::of(&known(&guitar(spans.map(read).to_vec())));
    let tops = &frets.tops[5 * 22..];
    let highest = tops
        .iter()
        .max_by(|a, b| a.height.0.mm().total_cmp(&b.height.0.mm()));
    assert_eq!(highest.unwrap().note, note(6, 6));
    // One span alone is all bend, and says nothing of a fret.
    assert_eq!(
        Frets::of(&known(&guitar(vec![read((1, 12, 6))]))).advice,
        Advice::Survey
    );
}

#[test]
fn a_straightedge_finds_a_low_fret_that_no_rocker_names() {
    // A straight neck is read so: nothing under the edge anywhere but over fret 7.
    let edge = |fret, mm| {
        observed(Observation::Edged {
            note: note(3, fret),
            low: 1,
            high: 12,
            gap: Measurement::mm(mm),
        })
    };
    let straight = Side::ALL.map(|side| {
        let span = ReliefSpan {
            low: 1,
            high: 12,
            at: 6,
        };
        let length = Measurement::mm(0.0).with_tool(Tool::Feeler);
        Event::read(Place::Relief { side, span }, Reading::Length { length })
    });
    let mut events = straight.to_vec();
    events.extend([edge(5, 0.0), edge(6, 0.0), edge(7, 0.12), edge(8, 0.0)]);
    let frets = Frets::of(&known(&guitar(events.clone())));
    let tops = &frets.tops[2 * 22..3 * 22];
    let lowest = tops
        .iter()
        .min_by(|a, b| a.height.0.mm().total_cmp(&b.height.0.mm()));
    assert_eq!(lowest.unwrap().note, note(3, 7));
    assert!(lowest.unwrap().height.0.mm() < -0.01);
    // Once the rod was turned the neck lies otherwise, and the edge says nothing.
    events.push(Event::Adjusted {
        adjuster: Adjuster::TrussRod,
        amount: Amount::Turns { turns: 0.25 },
    });
    assert_eq!(Frets::of(&known(&guitar(events))).advice, Advice::Survey);
}

#[test]
fn what_cannot_be_told_of_frets_is_refused() {
    let job = guitar(Vec::new());
    for wrong in [
        observed(Observation::Pressed {
            note: note(7, 1),
            moves: true,
        }),
        observed(Observation::Pressed {
            note: note(1, 0),
            moves: true,
        }),
        observed(Observation::Edged {
            note: note(1, 12),
            low: 1,
            high: 12,
            gap: Measurement::mm(0.1),
        }),
        observed(Observation::Worn {
            note: note(1, 99),
            depth: Measurement::mm(0.1),
        }),
        observed(Observation::Worn {
            note: note(1, 1),
            depth: Measurement::mm(9.0),
        }),
        observed(Observation::Crown {
            height: Measurement::mm(9.0),
        }),
        worked(Fretwork::Spot, None, None),
        worked(Fretwork::Levelled, Some(3), None),
        worked(Fretwork::Levelled, None, Some(5.0)),
        observed(Observation::Humidity { percent: 140.0 }),
        observed(Observation::Humidity { percent: f64::NAN }),
    ] {
        assert!(job.accepts(&wrong).is_err(), "{wrong:?}");
    }
    let fretless = Job::fold(&common::journal(vec![common::opened_with(|instrument| {
        instrument.construction.fretless = true;
    })]))
    .unwrap();
    let press = observed(Observation::Pressed {
        note: note(1, 5),
        moves: true,
    });
    assert!(fretless.accepts(&press).is_err());
}

/// A guitar of its usual heights in these hands, whose strings are wanted so high over fret 12.
fn in_hands(touch: Touch, action: f64, mut events: Vec<Event>) -> (Estimate, Plan) {
    let mut opening = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let Event::Opened(opened) = &mut opening {
        opened.player.touch = touch;
    }
    let targets = Targets {
        action_treble: Measurement::mm(action),
        action_bass: Measurement::mm(action + 0.3),
        ..guitar(Vec::new()).targets()
    };
    events.push(Event::Targeted {
        wanted: Wanted::Setup { targets },
    });
    events.insert(0, opening);
    let known = known(&fold(events));
    let plan = Plan::of(&known);
    (known, plan)
}

#[test]
fn no_more_metal_goes_than_this_hand_at_these_targets_asks_for() {
    let high = || vec![rock(3, 9, Rocking::Clear), rock(3, 10, Rocking::None)];
    let look = |touch, action| {
        let (known, plan) = in_hands(touch, action, high());
        Frets::of(&known).for_play(&known, &plan)
    };
    // High strings and a light hand clear a fret that stands half a tenth up: nothing is filed.
    let easy = look(Touch::Light, 2.2);
    assert_eq!(easy.advice, Advice::Play, "{:?}", easy.to_play);
    assert!(!easy.high.is_empty());
    // Low strings and a hard hand do not: that fret and under that string, and less of it than all frets level would take.
    let hard = look(Touch::Hard, 1.0);
    assert_eq!(hard.advice, Advice::Spot);
    let ninth = hard.to_play.iter().find(|cut| cut.fret == 9).unwrap();
    assert!(ninth.strings.contains(&3), "{ninth:?}");
    assert!(ninth.to_play.mm() > 0.01, "{ninth:?}");
    for cut in &hard.to_play {
        let total = |length: Length| (cut.stays.0 + length).mm();
        assert!((total(cut.to_play) - 1.1).abs() < 1e-9, "{cut:?}");
        assert!(cut.stays.1 == Length::from_mm(1.1) - cut.to_level);
    }
}

#[test]
fn a_fret_that_was_heard_is_not_let_be_because_it_should_be_clear() {
    let heard = observed(Observation::Played {
        note: note(3, 8),
        heard: Some(Heard::Buzz),
        sure: None,
    });
    let (known, plan) = in_hands(
        Touch::Light,
        2.2,
        vec![
            rock(3, 9, Rocking::Clear),
            rock(3, 10, Rocking::None),
            heard,
        ],
    );
    let frets = Frets::of(&known).for_play(&known, &plan);
    assert_eq!(frets.advice, Advice::Spot);
}
