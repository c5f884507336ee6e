//! Triage against posteriors worked out by hand from the table, and what makes it change.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use common::guitar;
use common::prelude::*;
use gradimen_bench::model::{CheckLine, Complaint, Condition, Rocking, RodFeel, Round, Symptom};
use gradimen_bench::triage::{Evidence, Outcome, Triage, Trial, evidence};

fn share(triage: &Triage, of: Outcome) -> f64 {
    let mut chances = triage.chances.iter();
    chances.find(|chance| chance.outcome == of).unwrap().share
}

fn told(symptoms: &[Symptom]) -> Vec<Evidence> {
    symptoms
        .iter()
        .map(|symptom| Evidence::Told(*symptom))
        .collect()
}

/// By hand, from the table: the product of prior and likelihoods of each kind of work, over their sum.
#[test]
fn posteriors_are_those_of_a_sheet_of_paper() {
    // Open strings buzz, and slots are too low: .60 .10 .03 = .0018; .15 .10 .05 = .00075; .07 .45 .60 = .0189;
    // .13 .05 .05 = .000325; .05 .08 .05 = .0002; together .021975.
    let mut found = told(&[Symptom::BuzzOpen]);
    found.push(Evidence::Tried(Trial::Slots, false));
    let nut = Triage::of(&found);
    for (outcome, by_hand) in [
        (Outcome::Nut, 0.860_068),
        (Outcome::Setup, 0.081_911),
        (Outcome::SmallRepairs, 0.034_130),
        (Outcome::Fretwork, 0.014_790),
        (Outcome::Specialist, 0.009_101),
    ] {
        assert!((share(&nut, outcome) - by_hand).abs() < 1e-5, "{outcome:?}");
    }
    // Sharp low frets alone are slots too high, which a setup files.
    let sharp = Triage::of(&told(&[Symptom::SharpLow]));
    assert_eq!(sharp.most_likely().outcome, Outcome::Setup);
    // Buzz above the twelfth, bends choke, a fret rocks: .60 .10 .10 .08 = .00048; .15 .08 .03 .12 = .0000432;
    // .07 .02 .02 .10 = .0000028; .13 .35 .40 .88 = .016016; .05 .25 .10 .25 = .0003125; together .0168545.
    let mut found = told(&[Symptom::BuzzHigh, Symptom::ChokingBends]);
    found.push(Evidence::Tried(Trial::Rocker, false));
    let frets = Triage::of(&found);
    assert!((share(&frets, Outcome::Fretwork) - 0.950_250).abs() < 1e-5);
    assert!((share(&frets, Outcome::Setup) - 0.028_479).abs() < 1e-5);
    assert!((share(&frets, Outcome::Specialist) - 0.018_541).abs() < 1e-5);
}

#[test]
fn nothing_above_a_twentieth_is_left_out_and_the_order_of_telling_is_all_one() {
    let symptoms: Vec<Symptom> = Symptom::all().collect();
    for one in &symptoms {
        for other in &symptoms {
            let triage = Triage::of(&told(&[*one, *other]));
            let sum: f64 = triage.chances.iter().map(|chance| chance.share).sum();
            assert!((sum - 1.0).abs() < 1e-9);
            let shown: Vec<Outcome> = triage.shown().map(|chance| chance.outcome).collect();
            for chance in &triage.chances {
                assert!(
                    chance.share <= 0.05 || shown.contains(&chance.outcome),
                    "{one:?} {other:?}"
                );
            }
            let turned = Triage::of(&told(&[*other, *one]));
            assert!(
                (share(&turned, Outcome::Setup) - share(&triage, Outcome::Setup)).abs() < 1e-12
            );
        }
    }
}

#[test]
fn the_check_that_tells_most_is_the_one_a_technician_would_make() {
    let next = |symptoms: &[Symptom]| Triage::of(&told(symptoms)).next.unwrap().0;
    // Common practice: one note that buzzes alone is tried with a rocker, crackle is plugged in, open strings that buzz are the nut.
    assert_eq!(next(&[Symptom::BuzzOne]), Trial::Rocker);
    assert_eq!(next(&[Symptom::Crackle]), Trial::Electrics);
    assert_eq!(next(&[Symptom::BuzzOpen]), Trial::Slots);
    // Once made it is not asked for again, and what it found moves the odds the way it must.
    let mut found = told(&[Symptom::BuzzOne]);
    let before = share(&Triage::of(&found), Outcome::Fretwork);
    found.push(Evidence::Tried(Trial::Rocker, true));
    let clear = Triage::of(&found);
    assert!(share(&clear, Outcome::Fretwork) < before / 2.0);
    assert_ne!(clear.next.map(|(trial, _)| trial), Some(Trial::Rocker));
}

#[test]
fn a_job_is_evidence_of_itself() {
    let of = |events: Vec<Event>| {
        let known = Estimate::of(std::sync::Arc::new(guitar(events))).unwrap();
        let plan = Plan::of(&known);
        evidence(&known, &plan)
    };
    assert_eq!(of(Vec::new()), []);
    let observed = |what| Event::Observed { what };
    let complaint = observed(Observation::Complaint {
        complaint: Complaint {
            symptoms: vec![Symptom::Crackle, Symptom::Crackle],
            words: "cuts out".into(),
            ..Complaint::default()
        },
    });
    let checked = |line, condition| {
        observed(Observation::Checked {
            round: Round::Before,
            line,
            condition,
        })
    };
    let rock = |seen| {
        Event::read(
            Place::Rock {
                string: 2,
                fret: 14,
            },
            Reading::Rock { seen },
        )
    };
    let rod = Event::read(
        Place::RodCheck,
        Reading::RodNut {
            turns_left: 1.0,
            how: RodFeel::Free,
        },
    );
    // Told twice is told once; a fault outweighs what was fine; screws and straps are no electrics.
    let found = of(vec![
        complaint,
        checked(CheckLine::StrapButtons, Condition::Fault),
        checked(CheckLine::Jack, Condition::Fine),
        checked(CheckLine::Controls, Condition::Fault),
        rock(Rocking::None),
        rock(Rocking::Slight),
        rod,
    ]);
    assert_eq!(
        found,
        [
            Evidence::Told(Symptom::Crackle),
            Evidence::Tried(Trial::Rocker, false),
            Evidence::Tried(Trial::Rod, true),
            Evidence::Tried(Trial::Electrics, false),
        ]
    );
    // Looked at again and mended, it is fine.
    let mended = of(vec![
        checked(CheckLine::Controls, Condition::Fault),
        checked(CheckLine::Controls, Condition::Fine),
    ]);
    assert_eq!(mended, [Evidence::Tried(Trial::Electrics, true)]);
    // One rock that stands still clears its own fret, not the board; one under every string does.
    let still = |string: u8| {
        let seen = Rocking::None;
        Event::read(Place::Rock { string, fret: 9 }, Reading::Rock { seen })
    };
    assert_eq!(of(vec![still(2)]), []);
    assert_eq!(
        of((1..=6).map(still).collect()),
        [Evidence::Tried(Trial::Rocker, true)]
    );
}
