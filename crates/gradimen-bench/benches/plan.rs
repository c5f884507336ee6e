//! A six-string job with two hundred events: fold, tension table, plan, whole plan, clearance map;
//! once with intonation only, once with the whole bench in turn, once with a floating vibrato too.
#![allow(missing_docs, clippy::unwrap_used)]

use std::hint::black_box;
use std::sync::Arc;

use common::prelude::*;
use criterion::{Criterion, criterion_group, criterion_main};
use gradimen_core::quantity::Length;
use gradimen_core::units::LengthUnit;

#[path = "../tests/common/mod.rs"]
mod common;

/// Readings and moves in turn, string after string.
fn long_job() -> Vec<Entry> {
    let mut events = vec![common::opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)];
    for index in 0..199_u32 {
        let string = (index % 6 + 1) as u8;
        let swing = f64::from(index % 7) - 3.0;
        events.push(if index % 4 == 3 {
            Event::Adjusted {
                adjuster: Adjuster::SaddleDrive { string },
                amount: Amount::Turns { turns: swing / 4.0 },
            }
        } else {
            common::read(string, swing)
        });
    }
    common::journal(events)
}

/// The whole bench in turn: relief, rod, nut, heights, intonation, over and over.
fn bench_job(family: BridgeFamily) -> Vec<Entry> {
    let mut events = vec![common::opened(Kind::Guitar, 6, family)];
    let thou = |value: f64| Measurement::exact(Length::from_thou(value), LengthUnit::Thou);
    for index in 0..199_u32 {
        let string = (index % 6 + 1) as u8;
        events.push(match index % 7 {
            0 => Event::read(
                Place::Relief {
                    side: Side::ALL[usize::from(string % 2)],
                    span: ReliefSpan {
                        low: 1,
                        high: 12,
                        at: 6,
                    },
                },
                Reading::Length { length: thou(6.0) },
            ),
            1 => Event::Adjusted {
                adjuster: Adjuster::TrussRod,
                amount: Amount::Turns {
                    turns: 0.0625 * (f64::from(index % 3) - 1.0) + 0.01,
                },
            },
            2 => Event::read(
                Place::Nut { string, held: 0 },
                Reading::Length { length: thou(20.0) },
            ),
            3 => Event::read(
                Place::Action {
                    string,
                    fret: 12,
                    held: 0,
                },
                Reading::Length { length: thou(70.0) },
            ),
            4 => Event::Adjusted {
                adjuster: Adjuster::SaddleHeight { string },
                amount: Amount::Turns {
                    turns: 0.25 * (f64::from(index % 3) - 1.0) + 0.01,
                },
            },
            5 if family == BridgeFamily::KnifeEdgeVibrato => {
                if index % 2 == 0 {
                    Event::read(
                        Place::Gap,
                        Reading::Length {
                            length: Measurement::mm(3.0),
                        },
                    )
                } else {
                    Event::Adjusted {
                        adjuster: Adjuster::Claw,
                        amount: Amount::Turns {
                            turns: 0.25 * (f64::from(index % 3) - 1.0) + 0.01,
                        },
                    }
                }
            }
            _ => common::read(string, f64::from(index % 7) - 3.0),
        });
    }
    common::journal(events)
}

/// Fold, estimate and plan of a journal: what a page costs when nothing of it is kept.
fn whole(criterion: &mut Criterion, name: &str, entries: &[Entry]) -> Estimate {
    let job = Job::fold(entries).unwrap();
    let known = common::known(&job);
    let job = Arc::new(job);
    criterion.bench_function(&format!("{name}: fold"), |bench| {
        bench.iter(|| Job::fold(black_box(entries)));
    });
    criterion.bench_function(&format!("{name}: estimate"), |bench| {
        bench.iter(|| Estimate::of(black_box(Arc::clone(&job))));
    });
    criterion.bench_function(&format!("{name}: walk"), |bench| {
        bench.iter(|| Estimate::before_each(black_box(&job), |_| false, |_, _| ()));
    });
    criterion.bench_function(&format!("{name}: plan"), |bench| {
        bench.iter(|| Plan::of(black_box(&known)));
    });
    criterion.bench_function(&format!("{name}: all of it"), |bench| {
        bench.iter(|| {
            let job = Arc::new(Job::fold(black_box(entries)).unwrap());
            let known = Estimate::of(job).unwrap();
            Plan::of(&known)
        });
    });
    known
}

fn benches(criterion: &mut Criterion) {
    let intonation = whole(criterion, "intonation only, 200 events", &long_job());
    let known = whole(
        criterion,
        "the whole bench, 200 events",
        &bench_job(BridgeFamily::FixedPlate),
    );
    let afloat = whole(
        criterion,
        "with a vibrato, 200 events",
        &bench_job(BridgeFamily::KnifeEdgeVibrato),
    );
    let plan = Plan::of(&known);
    criterion.bench_function("job plan from a plan", |bench| {
        bench.iter(|| JobPlan::of(black_box(&known), black_box(&plan)));
    });
    criterion.bench_function("clearance map", |bench| {
        bench.iter(|| ClearancePlan::of(black_box(&known), |string| known.state().line(string)));
    });
    criterion.bench_function("what-if with a vibrato", |bench| {
        let mut change = Change::none(&afloat);
        change.strung.tuning.a4_hz = 430.0;
        let now = Plan::of(&afloat);
        bench.iter(|| WhatIf::of(black_box(&afloat), &now, &change));
    });
    criterion.bench_function("tension table", |bench| {
        bench.iter(|| pulls::pull(black_box(&intonation)));
    });
    // A journal that grew for years: what opening it costs, and what one more entry costs.
    let mut events: Vec<Event> = long_job().into_iter().map(|entry| entry.event).collect();
    while events.len() < 20_000 {
        events.extend(long_job().into_iter().skip(1).map(|entry| entry.event));
    }
    events.truncate(20_000);
    let long = common::journal(events);
    let job = Job::fold(&long).unwrap();
    criterion.bench_function("20 000 events: fold, estimate and plan", |bench| {
        bench.iter(|| {
            let job = Arc::new(Job::fold(black_box(&long)).unwrap());
            let known = Estimate::of(job).unwrap();
            Plan::of(&known)
        });
    });
    criterion.bench_function("20 000 events: one more", |bench| {
        bench.iter(|| black_box(&job).plus(common::read(1, 1.0)));
    });
}

criterion_group!(plan, benches);
criterion_main!(plan);
