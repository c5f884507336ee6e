//! What holds for every journal of the bench, whatever was read and turned.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::prelude::*;
use common::{guitar, journal, opened, read};
use gradimen_core::quantity::Length;
use proptest::prelude::*;

fn side() -> impl Strategy<Value = Side> {
    prop_oneof![Just(Side::Treble), Just(Side::Bass)]
}

/// Anything that can be told at the bench, as a person might.
fn told() -> impl Strategy<Value = Event> {
    let span = ReliefSpan {
        low: 1,
        high: 12,
        at: 6,
    };
    let string = 1_u8..=6;
    prop_oneof![
        (side(), 0.04..0.5f64).prop_map(move |(side, mm)| Event::read(
            Place::Relief { side, span },
            Reading::Length {
                length: Measurement::mm((mm * 1000.0).round() / 1000.0)
            }
        )),
        (-2_i8..=2).prop_map(|eighths| Event::Adjusted {
            adjuster: Adjuster::TrussRod,
            amount: Amount::Turns {
                turns: f64::from(eighths) / 8.0
            }
        }),
        (string.clone(), 0.3..0.9f64).prop_map(|(string, mm)| Event::read(
            Place::Nut { string, held: 0 },
            Reading::Length {
                length: Measurement::mm((mm * 1000.0).round() / 1000.0)
            }
        )),
        (string.clone(), 1.0..3.0f64).prop_map(|(string, mm)| Event::read(
            Place::Action {
                string,
                fret: 12,
                held: 0
            },
            Reading::Length {
                length: Measurement::mm((mm * 100.0).round() / 100.0)
            }
        )),
        (string.clone(), -8_i8..=8).prop_map(|(string, quarters)| Event::Adjusted {
            adjuster: Adjuster::SaddleHeight { string },
            amount: Amount::Turns {
                turns: f64::from(quarters) / 4.0
            }
        }),
        (string, -8.0..8.0f64)
            .prop_map(|(string, cents)| read(string, (cents * 10.0).round() / 10.0)),
        (0_u8..3, side(), 1.0..4.0f64).prop_map(|(pickup, side, mm)| Event::read(
            Place::Pickup { pickup, side },
            Reading::Length {
                length: Measurement::mm((mm * 10.0).round() / 10.0)
            }
        )),
    ]
}

fn heights(job: &Job) -> Vec<(Length, Length)> {
    (1..=6)
        .map(|string| {
            let (first, twelfth) = job.state().heights(string);
            (first.value, twelfth.value)
        })
        .collect()
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(48))]

    #[test]
    fn every_journal_has_a_plan_and_numbers_in_it(events in prop::collection::vec(told(), 0..40)) {
        let job = guitar(events);
        let plan = plan_of(&job);
        for side in &plan.relief.sides {
            prop_assert!(side.now.value.is_finite() && side.now.sigma > Length::ZERO);
        }
        for string in &plan.action.strings {
            prop_assert!(string.quantity.now.value.is_finite() && string.quantity.after.is_finite());
        }
        // Each adjuster once, whatever was told.
        let whole = JobPlan::of(&known(&job), &plan);
        let mut names: Vec<String> = whole
            .moves
            .iter()
            .map(|step| format!("{} {:?} {:?}", step.station.key(), step.strings, step.step.adjuster))
            .collect();
        let count = names.len();
        names.sort();
        names.dedup();
        prop_assert_eq!(names.len(), count);
        // The rod never more than a quarter at once (common practice).
        if let Action::Adjust(step) = &plan.relief.action {
            prop_assert!(step.turns().abs().value() <= 0.25);
        }
    }

    #[test]
    fn one_more_reading_never_widens_what_is_known(events in prop::collection::vec(told(), 0..20), string in 1_u8..=6, mm in 1.2..2.6f64) {
        let job = guitar(events);
        let gap = Measurement::mm((mm * 100.0).round() / 100.0);
        let after = job.plus(Event::read(Place::Action { string, fret: 12, held: 0 }, Reading::Length { length: gap })).unwrap();
        for on in 1..=6 {
            let (before, now) = (job.state().heights(on).1.sigma, after.state().heights(on).1.sigma);
            prop_assert!(now <= before + Length::from_mm(1e-9), "string {}: {:?} {:?}", on, before, now);
        }
    }

    #[test]
    fn undo_restores_the_estimate(events in prop::collection::vec(told(), 0..20), last in told()) {
        let mut all = vec![opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)];
        all.extend(events);
        let before = Job::fold(&journal(all.clone())).unwrap();
        all.push(last);
        let target = all.len() as u64;
        all.push(Event::Undone { target });
        let after = Job::fold(&journal(all)).unwrap();
        prop_assert_eq!(heights(&before), heights(&after));
        prop_assert_eq!(plan_of(&before), plan_of(&after));
    }

    #[test]
    fn a_document_gives_the_same_estimate(events in prop::collection::vec(told(), 0..20)) {
        let mut all = vec![opened(Kind::Guitar, 6, BridgeFamily::KnifeEdgeVibrato)];
        all.extend(events);
        all.push(Event::read(Place::Gap, Reading::Length { length: Measurement::mm(3.1) }));
        all.push(Event::Adjusted { adjuster: Adjuster::Claw, amount: Amount::Turns { turns: 0.5 } });
        let entries = journal(all);
        let text = Document::of(entries.clone()).to_json().unwrap();
        let back = Document::parse(&text).unwrap();
        let (job, again) = (Job::fold(&entries).unwrap(), Job::fold(&back.events).unwrap());
        prop_assert_eq!(plan_of(&job), plan_of(&again));
    }

    #[test]
    fn tightening_always_takes_relief_away(events in prop::collection::vec(told(), 0..20), eighths in 1_u8..=2) {
        let job = guitar(events);
        let turned = job.plus(Event::Adjusted { adjuster: Adjuster::TrussRod, amount: Amount::Turns { turns: f64::from(eighths) / 8.0 } }).unwrap();
        for (before, after) in job.state().plain_relief().iter().zip(turned.state().plain_relief()) {
            prop_assert!(after.value < before.value);
        }
        // And lowers every string at the twelfth.
        for (before, after) in heights(&job).iter().zip(heights(&turned)) {
            prop_assert!(after.1 < before.1);
        }
    }
}
