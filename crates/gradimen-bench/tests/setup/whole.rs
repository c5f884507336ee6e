//! Slips, pitch, the whole list, clearance and nonsense.

use crate::common::prelude::*;
use crate::common::{first_length, fold, guitar, opened, read};
use gradimen_core::quantity::Length;

use super::*;

#[test]
fn slips_are_questioned_with_what_was_likely_meant() {
    let job = guitar(right());
    let asked =
        |event: Event| ask(&job, &event).unwrap_or_else(|| panic!("{event:?} not questioned"));
    let says = |event: Event| -> String {
        asked(event)
            .slips
            .iter()
            .map(text::questions::slip)
            .collect::<Vec<_>>()
            .join(" | ")
    };
    assert!(says(action(1, "4/32")).contains("32nds written for 64ths"));
    assert!(says(action(1, "2/64")).contains("64ths written for 32nds"));
    assert!(says(nut(4, "0.020 mm")).contains("inches meant"));
    assert!(says(action(6, "1.05 mm")).is_empty());
    let corrected = asked(action(1, "4/32")).slips[0].instead.clone().unwrap();
    let Event::Read {
        value: Reading::Length { length: meant },
        ..
    } = &corrected
    else {
        panic!("{corrected:?}")
    };
    assert!((meant.middle().mm() - 25.4 / 16.0).abs() < 0.001);
    assert!(ask(&job, &corrected).is_none());
    // Honest readings are not asked about, and what is kept all the same is not asked about again.
    assert!(ask(&job, &action(1, "1.7 mm")).is_none());
    assert!(ask(&job, &relief(Side::Bass, "7 thou")).is_none());
    let kept = Event::read(
        Place::Action {
            string: 1,
            fret: 12,
            held: 0,
        },
        Reading::Length {
            length: gap("4/32"),
        },
    )
    .confirmed();
    assert!(ask(&job, &kept).is_none());
    // It is taken in, and weighs less than an unquestioned one.
    let before = job.state().heights(1).1.value;
    let after = job.plus(kept).unwrap().state().heights(1).1.value;
    assert!(after > before && (after - before).mm() < 0.4);
}

#[test]
fn a_slip_is_found_however_much_was_read_after_it() {
    // Another program writes a document without being asked: 4/32 at the first string, then a whole day of work.
    let mut events = right();
    events.push(action(1, "4/32"));
    for _ in 0..30 {
        events.extend((2..=6).map(|string| action(string, "1.9 mm")));
    }
    let asked = report_of(&guitar(events)).questions;
    let found = asked
        .iter()
        .find(|asked| asked.slips.iter().any(|slip| slip.contains("32nds")));
    assert!(
        found.is_some_and(|asked| asked.place.string() == Some(1)),
        "{asked:?}"
    );
}

#[test]
fn a_slip_that_was_put_right_is_asked_about_no_more() {
    // 4/32 written for 4/64, then the right one in its place, then others by it.
    let mut events = right();
    events.push(action(1, "4/32"));
    let slip = report_of(&guitar(events.clone())).questions;
    assert_eq!(slip.len(), 1, "{slip:?}");
    events.push(action(1, "4/64").replacing());
    events.push(action(1, "4/64"));
    let asked = report_of(&guitar(events)).questions;
    assert!(asked.is_empty(), "{asked:?}");
}

#[test]
fn a_move_that_was_made_and_not_told_is_seen() {
    // Twice 2.2 mm, then what the planned turn is to leave, read without a word of the turn.
    let mut events = right();
    events.extend((0..2).map(|_| action(1, "2.20 mm")));
    let job = guitar(events);
    let Action::Adjust(step) = &plan_of(&job).action.adjusters[0].action else {
        panic!("nothing to turn");
    };
    let untold = action(1, &format!("{:.2} mm", first_length(step).value.mm()));
    let asked = ask(&job, &untold).unwrap();
    assert!(
        asked
            .slips
            .iter()
            .any(|slip| text::questions::slip(slip).contains("Done not pressed")),
        "{:?}",
        asked.slips
    );
    let turned = job.plus(raised(1, step.turns().value())).unwrap();
    assert!(ask(&turned, &untold).is_none());
}

#[test]
fn a_reading_of_the_neighbour_or_with_the_wrong_sign_is_seen() {
    let mut events = right();
    // One string was raised far above its neighbours.
    events.push(raised(3, 3.4));
    events.push(action(3, "2.6 mm"));
    let job = guitar(events);
    let slips = ask(&job, &action(2, "2.6 mm")).unwrap().slips;
    assert!(
        slips
            .iter()
            .any(|slip| text::questions::slip(slip).contains("string 3")),
        "{slips:?}"
    );
    let sharp = guitar(vec![read(3, 9.0), read(3, 9.2), read(3, 8.9)]);
    let asked = ask(&sharp, &read(3, -9.1)).unwrap();
    assert!(text::questions::slip(&asked.slips[0]).contains("sharp and flat exchanged"));
    let unsure = ask(&sharp, &read(3, 30.0)).unwrap();
    assert!(text::questions::slip(unsure.slips.last().unwrap()).contains("not retuned"));
    assert!(ask(&sharp, &read(3, 8.5)).is_none());
}

#[test]
fn raising_a_string_sharpens_it_and_learning_of_its_height_does_not() {
    let readings = vec![read(3, 0.0), read(3, 0.2), read(3, -0.1)];
    let events = [right(), readings].concat();
    let at = |events: &[Event]| {
        let plan = plan_of(&guitar(events.to_vec()));
        plan.intonation.saddle_of(3).unwrap().estimate.strings[0]
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
        events.push(read(string, 12.0));
        events.push(read(string, 12.2));
    }
    let job = guitar(events);
    let whole = JobPlan::of(&known(&job), &plan_of(&job));
    let stations: Vec<StationId> = whole.moves.iter().map(|step| step.station).collect();
    assert!(stations.is_sorted(), "{stations:?}");
    assert_eq!(
        stations
            .iter()
            .filter(|station| **station == StationId::Relief)
            .count(),
        1
    );
    for station in [StationId::Nut, StationId::Action, StationId::Intonation] {
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
    let plan = plan_of(&job);
    let today = plan
        .intonation
        .saddle_of(3)
        .unwrap()
        .next_move()
        .unwrap()
        .distance;
    let later = whole
        .moves
        .iter()
        .find(|step| step.station == StationId::Intonation && step.strings == [3])
        .unwrap();
    assert!(
        later.step.distance < today - Length::from_mm(0.2),
        "{later:?} {today:?}"
    );
}

#[test]
fn a_heard_buzz_teaches_the_hand_or_points_at_a_fret() {
    let job = guitar(right());
    let line = |job: &Job| ClearancePlan::of(&known(job), |string| job.state().line(string));
    let usual = line(&job).attack;
    assert_eq!(usual.heard, 0);
    // The map says from which force on a place touches: heard at that force with half a stroke, the
    // hand is twice as strong.
    let place = line(&job).now[3].places[5];
    let tension = job.strings()[3].tension(Length::from_mm(647.7));
    let onset = (place.held + 1..=22)
        .map(|fret| {
            gradimen_core::clearance::onset(
                job.state().tops(4),
                &job.state().line(4),
                tension,
                &usual.pluck,
                place.held,
                fret,
            )
            .unwrap()
        })
        .fold(f64::INFINITY, |least, force| least.min(force.newtons()));
    let buzz = |attack| Event::Observed {
        what: Observation::Buzz {
            buzz: Buzz {
                string: 4,
                held: place.held,
                attack,
                doubt: None,
            },
        },
    };
    let stronger = onset / (usual.pluck.force.newtons() * 1.5);
    if stronger <= 1.0 {
        let learned = line(&job.plus(buzz(stronger)).unwrap()).attack;
        assert!(learned.pluck.force > usual.pluck.force && learned.heard == 1);
    }
    // At a whisper nothing of even frets can touch: the next fret stands high.
    let whisper = line(&job.plus(buzz(0.05)).unwrap());
    assert_eq!(whisper.heard[0].cure, BuzzRemedy::Fret(place.held + 1));
    assert_eq!(whisper.attack.heard, 0);
}

#[test]
fn a_buzz_is_judged_by_how_the_string_lay_when_it_was_heard() {
    let buzz = Event::Observed {
        what: Observation::Buzz {
            buzz: Buzz {
                string: 4,
                held: 5,
                attack: 0.9,
                doubt: None,
            },
        },
    };
    let force = |events: Vec<Event>| {
        let job = guitar(events);
        let map = ClearancePlan::of(&known(&job), |string| job.state().line(string));
        (map.attack.pluck.force.newtons(), map.heard[0].fret)
    };
    let then = force([right(), vec![buzz.clone()]].concat());
    // Raised by a millimetre it would take another hand to touch; the hand that was heard is the same.
    let raised_since = force([right(), vec![buzz.clone(), raised(4, 2.0)]].concat());
    let raised_before = force([right(), vec![raised(4, 0.25), buzz]].concat());
    assert_eq!(then, raised_since);
    assert!(raised_before.0 > then.0, "{raised_before:?} {then:?}");
}

#[test]
fn a_flat_neck_under_a_hard_hand_is_cured_by_the_rod() {
    let mut events = right();
    events.splice(0..2, both("none"));
    let Event::Opened(mut hard) = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate) else {
        unreachable!()
    };
    hard.player.touch = Touch::Hard;
    let job = fold([vec![Event::Opened(hard)], events].concat());
    let map = ClearancePlan::of(&known(&job), |string| job.state().line(string));
    let worst = map
        .now
        .iter()
        .filter_map(|on| on.worst())
        .min_by(|a, b| a.margin.mm().total_cmp(&b.margin.mm()))
        .unwrap();
    assert!(worst.margin < Length::ZERO);
    assert!(
        matches!(map.cure, BuzzRemedy::Rod { by } if by > Length::ZERO),
        "{:?} {worst:?}",
        map.cure
    );
    // The lowest heights for a hard hand are higher than those for a light one, and want more relief.
    let light = guitar(right());
    let easy = ClearancePlan::of(&known(&light), |string| light.state().line(string));
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
        (relief(Side::Bass, "25 mm"), "25 mm"),
        (
            Event::Adjusted {
                adjuster: Adjuster::TrussRod,
                amount: Amount::Turns { turns: 9.0 },
            },
            "-2 to 2 turns",
        ),
        (nut(9, "20 thou"), "string: read 9"),
        (
            Event::read(
                Place::Action {
                    string: 1,
                    fret: 3,
                    held: 3,
                },
                Reading::Length {
                    length: gap("1 mm"),
                },
            ),
            "lies on the frets",
        ),
        (raised(1, f64::NAN), "-30 to 30 turns"),
        (
            Event::Observed {
                what: Observation::Buzz {
                    buzz: Buzz {
                        string: 1,
                        held: 22,
                        attack: 0.5,
                        doubt: None,
                    },
                },
            },
            "fret",
        ),
        (
            Event::Observed {
                what: Observation::Buzz {
                    buzz: Buzz {
                        string: 1,
                        held: 2,
                        attack: 4.0,
                        doubt: None,
                    },
                },
            },
            "0.05 to 1",
        ),
        (
            Event::Adjusted {
                adjuster: Adjuster::NutSlots {
                    strings: Vec::new().into_iter().collect(),
                },
                amount: Amount::Distance {
                    distance: Measurement::mm(0.1),
                },
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
    let shim = Event::Adjusted {
        adjuster: Adjuster::Pocket { shim: Shim::Full },
        amount: Amount::Distance {
            distance: Measurement::mm(0.5),
        },
    };
    assert!(
        glued
            .accepts(&shim)
            .unwrap_err()
            .to_string()
            .contains("glued in")
    );
}

/// A guitar on a fixed plate that is right, read often enough to close it; its sides so far apart in relief.
fn closed(treble: f64, bass: f64) -> Job {
    let dial = |place: Place, mm: f64| {
        let length = Measurement::mm(mm).with_tool(Tool::Dial);
        Event::read(place, Reading::Length { length })
    };
    let targets = plan_of(&guitar(Vec::new())).targets;
    let mut events = Vec::new();
    for _ in 0..4 {
        for (side, mm) in [(Side::Treble, treble), (Side::Bass, bass)] {
            events.push(dial(targets.relief(side).place, mm));
        }
        for string in 1..=6 {
            let share = f64::from(string - 1) / 5.0;
            for target in [targets.nut(string, share), targets.action(string, share)] {
                events.push(dial(target.place, target.value.mm()));
            }
            events.push(read(string, 0.0));
        }
    }
    let mut opening = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let Event::Opened(opened) = &mut opening {
        opened.instrument.pickups.clear();
    }
    events.insert(0, opening);
    fold(events)
}

#[test]
fn a_job_is_done_only_when_every_target_has_its_probability() {
    let left = |report: &Report| {
        let wanted = report.wanted.iter().filter(|one| one.station != "first");
        report.moves.len() + wanted.count()
    };
    let right = report_of(&closed(0.15, 0.15));
    assert!(
        right.done && right.in_doubt.is_empty(),
        "{:?}",
        right.in_doubt
    );
    assert_eq!(left(&right), 0);
    // Sides a tenth apart: one rod serves both, and each stays at its edge. Nothing is left to do, and it is not called
    // done; what is in doubt is said, with its odds.
    let apart = report_of(&closed(0.11, 0.205));
    assert_eq!(left(&apart), 0, "{:?}", apart.wanted);
    assert!(!apart.done && !apart.in_doubt.is_empty());
    for doubt in &apart.in_doubt {
        assert!(matches!(doubt.place, Place::Relief { .. }), "{doubt:?}");
        assert!(doubt.within < 0.9 && doubt.text.contains('%'), "{doubt:?}");
    }
}
