//! What most instruments do not have: computed, or refused with a reason (common practice, said beside each).
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened_as, read, straight};
use gradimen_bench::model::instrument::NutKind;
use gradimen_core::quantity::Length;

fn guitar(change: impl FnOnce(&mut Instrument)) -> Event {
    opened_as(Kind::Guitar, 6, BridgeFamily::FixedPlate, |of| {
        change(of);
    })
}

fn dial(place: Place, mm: f64) -> Event {
    let length = Measurement::mm(mm).with_tool(Tool::Dial);
    Event::read(place, Reading::Length { length })
}

/// Every string so high over fret 1, and where it is to be over fret 12; read twice.
fn over_first(opening: &Event, mm: f64) -> Job {
    let mut events = vec![opening.clone()];
    let targets = plan_of(&fold(events.clone())).targets;
    for _ in 0..2 {
        events.extend(straight());
        for string in 1..=6 {
            let share = f64::from(string - 1) / 5.0;
            let action = targets.action(string, share);
            events.push(dial(action.place, action.value.mm()));
            events.push(dial(Place::Nut { string, held: 0 }, mm));
        }
    }
    fold(events)
}

#[test]
fn behind_a_zero_fret_no_slot_is_ever_filed() {
    // The fret carries the strings, the nut only guides them: too high is fretwork or a slot that carries the string.
    let zero = guitar(|of| of.construction.nut = NutKind::ZeroFret);
    for (mm, way) in [(0.60, "high"), (0.05, "low")] {
        let job = over_first(&zero, mm);
        let plan = plan_of(&job);
        for slot in &plan.nut.strings {
            assert!(slot.action.next_move().is_none(), "{:?}", slot.action);
            let Action::Stop(Stop::ZeroFret { by }) = slot.action else {
                panic!("{mm}: {:?}", slot.action);
            };
            assert_eq!(by > Length::ZERO, way == "high");
        }
        let says = text::next::nut::headline(&known(&job), &plan, 3);
        assert!(says.big[0].contains(way), "{:?}", says.big);
        let all = says.expect.join(" ");
        assert!(all.contains("zero fret") && !all.contains("File "), "{all}");
    }
    // Level frets at the usual action and relief leave about this much: worked out by hand, 1.6 mm at half of the scale
    // is 0.18 mm at the first fret, and a little for relief.
    let plan = plan_of(&over_first(&zero, 0.21));
    for slot in &plan.nut.strings {
        assert_eq!(slot.action, Action::Leave, "{:?}", slot.quantity);
    }
}

#[test]
fn a_compensated_nut_brings_the_saddle_forward_by_as_much() {
    // A nut edge `n` nearer to the bridge makes the open string shorter by n; for the twelfth to stay its octave half of what
    // lies before the fret and half of what lies behind it decide: c = c0 - n, to first order.
    let place = |n: f64| {
        let job = fold(vec![guitar(|of| {
            of.construction.nut = NutKind::Compensated;
            of.construction.nut_offsets = (0..6).map(|_| Measurement::mm(n)).collect();
        })]);
        let plan = plan_of(&job);
        let places = plan.intonation.saddles.iter();
        places
            .map(|saddle| saddle.target.value.mm())
            .collect::<Vec<_>>()
    };
    for (forward, usual) in place(0.6).into_iter().zip(place(0.0)) {
        assert!((usual - forward - 0.6).abs() < 0.05, "{usual} {forward}");
    }
    // Measured from the edge the neck is no foreign one: half the scale less what the nut stands forward.
    let compensated = guitar(|of| {
        of.construction.nut = NutKind::Compensated;
        of.construction.nut_offsets = (0..6).map(|_| Measurement::mm(2.0)).collect();
    });
    let half = |mm: f64| {
        Event::read(
            Place::Scale { string: 1 },
            Reading::Length {
                length: Measurement::mm(mm),
            },
        )
    };
    let measured = fold(vec![compensated, half(323.85 - 2.0)]);
    let plain = fold(vec![guitar(|_| ()), half(323.85 - 2.0)]);
    let foreign = |job: &Job| {
        let plan = plan_of(job);
        plan.findings
            .iter()
            .any(|found| matches!(found, Finding::Scale(check) if !check.agrees))
    };
    assert!(foreign(&plain), "{:?}", plan_of(&plain).findings);
    assert!(!foreign(&measured), "{:?}", plan_of(&measured).findings);
}

#[test]
fn without_a_head_nothing_stretches_behind_the_nut() {
    let anchors = |headless| {
        let job = fold(vec![guitar(|of| of.construction.headless = headless)]);
        known(&job).anchors().behind_nut
    };
    assert_eq!(anchors(true), Length::ZERO);
    assert!(anchors(false).mm() > 20.0);
}

#[test]
fn without_frets_what_is_heard_is_not_computed() {
    let job = fold(vec![
        guitar(|of| of.construction.fretless = true),
        read(1, 3.0),
        read(1, 3.0),
    ]);
    let (known, plan) = (known(&job), plan_of(&job));
    let map = ClearancePlan::of(&known, |string| job.state().line(string));
    assert!(map.now.is_empty() && map.heard.is_empty());
    let says = text::next::clearance::headline(&known, &map);
    assert!(says.big[0].contains("No frets"), "{:?}", says.big);
    assert!(!says.big.concat().contains("clean"));
    let says = text::next::intonation::headline(&known, &plan, 1);
    assert!(says.caution.contains("edge of a card"), "{}", says.caution);
    assert!(plan.targets.nut_treble.middle() < Length::from_thou(15.0));
}

#[test]
fn strings_of_a_course_lie_side_by_side_and_each_has_its_own_place() {
    let twelve = opened_as(Kind::Guitar, 12, BridgeFamily::FixedPlate, |of| {
        of.construction.courses = (0..6)
            .map(|course| vec![2 * course + 1, 2 * course + 2])
            .collect();
        of.spread_bridge = Measurement::mm(54.0);
    });
    let job = fold(vec![twelve]);
    let state = job.state();
    let y = |string: u8| state.tops(string).offset_at_bridge().mm();
    for string in [1, 3, 5, 7, 9, 11] {
        assert!((y(string) - y(string + 1) - 2.2).abs() < 0.01, "{string}");
        if string < 11 {
            assert!(
                (y(string) - y(string + 2) - (54.0 - 2.2) / 5.0).abs() < 0.01,
                "{string}"
            );
        }
    }
    assert!((y(1) - 27.0).abs() < 1e-9 && (y(12) + 27.0).abs() < 1e-9);
    let plan = plan_of(&job);
    assert_eq!(
        (plan.intonation.saddles.len(), plan.action.strings.len()),
        (12, 12)
    );
    // Courses that leave strings out say nothing of where they lie: evenly then.
    let some = opened_as(Kind::Guitar, 6, BridgeFamily::FixedPlate, |of| {
        of.construction.courses = vec![vec![1, 2]];
    });
    let state = fold(vec![some]).state();
    let gap = |a, b| (state.tops(a).offset_at_bridge() - state.tops(b).offset_at_bridge()).mm();
    assert!((gap(1, 2) - gap(2, 3)).abs() < 1e-9);
}

#[test]
fn a_board_that_falls_away_shows_less_relief_to_its_last_fret_and_the_same_to_the_twelfth() {
    let shown = |fall: Option<f64>, high: u8| {
        let job = fold(vec![guitar(|of| {
            of.construction.fall_away = fall.map(Measurement::mm)
        })]);
        let place = Place::Relief {
            side: Side::Bass,
            span: ReliefSpan {
                low: 1,
                high,
                at: 6,
            },
        };
        job.state().predict(place).unwrap().value.mm()
    };
    assert!((shown(None, 12) - shown(Some(0.3), 12)).abs() < 1e-9);
    // Held at the last fret, 0.3 mm lower, the string passes fret 6 lower by its share: 36.4 to 466.2 mm, fret 6 at 189.9.
    let share = (189.87 - 36.37) / (466.17 - 36.37);
    let less = shown(None, 22) - shown(Some(0.3), 22);
    assert!((less - 0.3 * share).abs() < 0.002, "{less} {share}");
}

fn buzz(string: u8, held: u8, attack: f64) -> Event {
    Event::Observed {
        what: Observation::Buzz {
            buzz: Buzz {
                string,
                held,
                attack,
                doubt: None,
            },
        },
    }
}

fn map(job: &Job) -> ClearancePlan {
    ClearancePlan::of(&known(job), |string| job.state().line(string))
}

#[test]
fn an_open_string_that_buzzes_is_looked_for_at_nut_angle_and_loose_parts_before_the_first_fret() {
    // E12: it said "fret 1 stands high", and the headline stayed "clean under this hand".
    use gradimen_bench::stations::clearance::Suspect;
    let job = over_first(&guitar(|_| ()), 0.52)
        .plus(buzz(3, 0, 0.25))
        .unwrap();
    let found = map(&job);
    let order: Vec<Suspect> = found.heard[0]
        .suspects
        .iter()
        .map(|one| one.suspect)
        .collect();
    let at = |suspect| order.iter().position(|one| *one == suspect).unwrap_or(99);
    let fret = at(Suspect::HighFret(1));
    assert!(
        at(Suspect::LoosePart) < fret && at(Suspect::BackAngle) < fret,
        "{order:?}"
    );
    let all: f64 = found.heard[0].suspects.iter().map(|one| one.share).sum();
    assert!(all > 0.8 && all <= 1.0 + 1e-9, "{all}");
    let says = text::next::clearance::headline(&known(&job), &found);
    let big = says.big.join(" ");
    assert!(
        big.contains("String 3 buzzes") && !big.contains("clean"),
        "{big}"
    );
    assert!(says.expect[0].contains("Test:"), "{:?}", says.expect);
    // A slot that was read low leads; a rocker that rocks leads higher up, and one that does not clears its fret.
    let low = over_first(&guitar(|_| ()), 0.30)
        .plus(buzz(3, 0, 0.25))
        .unwrap();
    assert_eq!(map(&low).heard[0].suspects[0].suspect, Suspect::Slot);
    let rock = |seen| Event::read(Place::Rock { string: 3, fret: 6 }, Reading::Rock { seen });
    use gradimen_bench::model::Rocking;
    let first = |seen: Rocking| {
        let job = over_first(&guitar(|_| ()), 0.52)
            .plus(buzz(3, 5, 0.25))
            .unwrap()
            .plus(rock(seen))
            .unwrap();
        map(&job).heard[0].suspects[0].suspect
    };
    assert_eq!(first(Rocking::Clear), Suspect::HighFret(6));
    assert_ne!(first(Rocking::None), Suspect::HighFret(6));
}

#[test]
fn a_string_that_was_raised_since_it_buzzed_is_played_again() {
    let job = over_first(&guitar(|_| ()), 0.52)
        .plus(buzz(3, 7, 0.5))
        .unwrap();
    assert!(!map(&job).heard[0].play_again);
    let raised = Event::Adjusted {
        adjuster: Adjuster::SaddleHeight { string: 3 },
        amount: Amount::Turns { turns: 3.0 },
    };
    let after = job.plus(raised).unwrap();
    let found = map(&after);
    assert!(found.heard[0].play_again);
    let says = text::next::clearance::headline(&known(&after), &found)
        .big
        .join(" ");
    assert!(says.contains("again") || says.contains("touches"), "{says}");
}

#[test]
fn a_nut_is_condemned_only_by_a_reading_of_its_slot() {
    // Low frets that play flat, and everything else right: the slot was never read.
    let mut events = vec![guitar(|_| ())];
    events.extend(straight());
    for string in 1..=6 {
        for fret in [1, 2, 3] {
            let note = Reading::Note {
                cents: -6.0,
                against: Reference::Open,
                resolution_cents: None,
                by_ear: false,
            };
            events.push(Event::read(
                Place::Intonation { string, fret },
                note.clone(),
            ));
            events.push(Event::read(Place::Intonation { string, fret }, note));
        }
    }
    let job = fold(events);
    let plan = plan_of(&job);
    for slot in &plan.nut.strings {
        assert!(
            matches!(slot.action, Action::Measure(_) | Action::Leave),
            "{:?}",
            slot.action
        );
    }
    assert!(
        plan.findings
            .iter()
            .all(|found| found.kind() != "nut_too_low")
    );
    // Read far too low, it is; and what that costs is said.
    let low = plan_of(&over_first(&guitar(|_| ()), 0.10));
    assert!(
        low.findings
            .iter()
            .any(|found| found.kind() == "nut_too_low")
    );
}

#[test]
fn every_count_of_strings_opens_with_its_usual_set() {
    for kind in [Kind::Guitar, Kind::Baritone, Kind::Bass] {
        for strings in 3..=12 {
            let job = fold(vec![common::opened(
                kind,
                strings,
                BridgeFamily::FixedPlate,
            )]);
            let known = Estimate::of(std::sync::Arc::new(job));
            let known = known.unwrap_or_else(|error| panic!("{kind:?} {strings}: {error}"));
            let plan = Plan::of(&known);
            assert_eq!(
                plan.intonation.saddles.len(),
                usize::from(strings),
                "{kind:?} {strings}"
            );
        }
    }
}

#[test]
fn setbacks_of_a_stock_bass_are_those_of_practice() {
    // E11 had 15.0 mm for the B and a stop before the first reading. Common practice on a 34 in bass: E 5-7 mm behind the
    // scale line, B 7-10 mm.
    let job = fold(vec![common::opened(
        Kind::Bass,
        5,
        BridgeFamily::BentPlateBass,
    )]);
    let plan = plan_of(&job);
    let at = |string: u8| {
        let saddle = plan.intonation.saddle_of(string).unwrap();
        saddle.target.value.mm()
    };
    assert!((5.0..=7.0).contains(&at(4)), "E at {:.1} mm", at(4));
    assert!((7.0..=10.0).contains(&at(5)), "B at {:.1} mm", at(5));
    assert!((1..5).all(|string| at(string) < at(string + 1)));
    assert!(
        plan.findings
            .iter()
            .all(|found| found.severity() < Severity::Stop),
        "{:?}",
        plan.findings
    );
}
