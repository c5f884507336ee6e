//! What one visit taught is kept for the next: as numbers that can be looked at, with their widths.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{fold, opened, opened_with};
use gradimen_bench::estimate::learned::{self, Learned};
use gradimen_bench::model::{Behaviour, Taught};

const TWELVE_SIX: ReliefSpan = ReliefSpan {
    low: 1,
    high: 12,
    at: 6,
};

/// Both sides read, with a 12 in hand.
fn both(mm: f64) -> [Event; 2] {
    Side::ALL.map(|side| {
        let place = Place::Relief {
            side,
            span: TWELVE_SIX,
        };
        let length = Measurement::mm(mm).with_tool(Tool::Feeler);
        Event::read(place, Reading::Length { length })
    })
}

fn rod(turns: f64) -> Event {
    Event::Adjusted {
        adjuster: Adjuster::TrussRod,
        amount: Amount::Turns { turns },
    }
}

/// A rod that does a good deal more than is usual: three quarter turns, each read.
fn visit() -> Vec<Event> {
    let mut events = vec![opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)];
    events.extend(both(0.60));
    for read in [0.45, 0.30, 0.15] {
        events.push(rod(0.25));
        events.extend(both(read));
    }
    events
}

fn about(found: &[Learned], of: Behaviour) -> Learned {
    *found.iter().find(|learned| learned.of == of).unwrap()
}

/// The next visit of the same instrument, its strings pulled the neck up again.
fn next_visit(taught: Vec<Taught>, then: Event) -> Job {
    let Event::Opened(mut first) = then else {
        panic!("a visit begins with its opening");
    };
    first.taught = taught;
    let mut events = vec![Event::Opened(first)];
    events.extend(both(0.45));
    fold(events)
}

#[test]
fn a_rod_that_was_turned_is_known_and_what_was_not_touched_is_not() {
    let found = learned::of(&known(&fold(visit())));
    let rod = about(&found, Behaviour::Rod);
    // Worked out by hand: 0.15 by hold 1 and 12 for a quarter turn is 0.6 a turn, which by hold 1 and last, read 8, is
    // near twice that (common practice: 1.0 is about 2.1).
    assert!(rod.is_own() && !rod.before, "{rod:?}");
    assert!((1.0..1.4).contains(&rod.value), "{rod:?}");
    assert!(rod.sigma < 0.15 * rod.value && rod.usual_sigma > 0.5 * rod.usual);
    for of in [Behaviour::HeightScrews, Behaviour::Drives] {
        assert!(!about(&found, of).is_own(), "{of:?}");
    }
    // No vibrato, no springs; each string its own screws, no shares.
    assert!(found.iter().all(|learned| !matches!(
        learned.of,
        Behaviour::SpringRate | Behaviour::Claw | Behaviour::OwnEnd
    )));
    // The same numbers for other programs.
    let report = report_of(&fold(visit()));
    let told = report.learned.iter().find(|one| one.of == Behaviour::Rod);
    assert!((told.unwrap().value - rod.value).abs() < 1e-3);
    assert_eq!(report.learned.len(), 1);
}

#[test]
fn the_next_visit_turns_the_rod_by_what_the_last_one_taught() {
    let last = known(&fold(visit()));
    let opening = || opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    let taught = learned::kept(&last, last.instrument());
    assert_eq!(taught.len(), 1);
    let turns = |taught: Vec<Taught>| {
        let plan = plan_of(&next_visit(taught, opening()));
        plan.relief.next_move().unwrap().total.value()
    };
    // 0.30 too much: half a turn of this rod, and a whole turn and more of any.
    let (own, any) = (turns(taught.clone()), turns(Vec::new()));
    assert!((own - 0.5).abs() < 0.07, "{own}");
    assert!(any > 1.2, "{any}");
    // Looked at there, it stands with the visit before; and a little wider than it was left.
    let there = learned::of(&known(&next_visit(taught.clone(), opening())));
    let rod = about(&there, Behaviour::Rod);
    assert!(rod.before && rod.is_own() && rod.sigma > taught[0].sigma);
    // A visit that teaches nothing new hands on what it was given.
    let again = learned::kept(
        &known(&next_visit(taught.clone(), opening())),
        last.instrument(),
    );
    assert!((again[0].value / taught[0].value - 1.0).abs() < 0.02);
}

#[test]
fn what_became_another_part_is_not_handed_on() {
    let last = known(&fold(visit()));
    let kept = |change: fn(&mut Instrument)| {
        let mut then = last.instrument().clone();
        change(&mut then);
        learned::kept(&last, &then)
    };
    assert!(
        kept(|then| then.neck.rod = Rod::OneWay).len()
            + kept(|then| then.neck.rod = Rod::TwoWay).len()
            == 1
    );
    assert_eq!(kept(|then| then.name = "Wren".into()).len(), 1);
}

#[test]
fn springs_are_learned_from_gap_and_claw() {
    let gap = |mm: f64| {
        let length = Measurement::mm(mm).with_tool(Tool::Caliper);
        Event::read(Place::Gap, Reading::Length { length })
    };
    let claw = |turns: f64| Event::Adjusted {
        adjuster: Adjuster::Claw,
        amount: Amount::Turns { turns },
    };
    let events = vec![
        opened(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato),
        gap(4.5),
        claw(0.5),
        gap(3.9),
        claw(0.5),
        gap(3.3),
    ];
    let last = known(&fold(events));
    let found = learned::of(&last);
    let of = [Behaviour::SpringRate, Behaviour::Claw].map(|of| about(&found, of));
    assert!(of.iter().any(Learned::is_own), "{of:?}");
    // Other springs on record are not these.
    let mut then = last.instrument().clone();
    then.bridge.vibrato.as_mut().unwrap().rate_newtons_per_metre *= 1.3;
    let kept = learned::kept(&last, &then);
    assert!(kept.iter().all(|taught| taught.of != Behaviour::SpringRate));
}

#[test]
fn a_number_that_cannot_be_is_refused_by_name() {
    let refused = |taught: Vec<Taught>| {
        let mut event = opened_with(|_| ());
        if let Event::Opened(opened) = &mut event {
            opened.taught = taught;
        }
        let entries = vec![Entry::new(1, jiff::Timestamp::UNIX_EPOCH, event)];
        Job::fold(&entries).err().map(|error| error.to_string())
    };
    let rod = |value, sigma| Taught {
        of: Behaviour::Rod,
        value,
        sigma,
    };
    assert_eq!(refused(vec![rod(0.4, 0.05)]), None);
    for wrong in [
        vec![rod(f64::NAN, 0.05)],
        vec![rod(-1.0, 0.05)],
        vec![rod(0.4, 0.0)],
        vec![rod(0.4, f64::INFINITY)],
        vec![rod(0.4, 0.05), rod(0.5, 0.05)],
    ] {
        let says = refused(wrong).unwrap();
        assert!(says.contains("rod") || says.contains("taught"), "{says}");
    }
}
