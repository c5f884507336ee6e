//! A six-string job with two hundred events: fold, tension table, plan, whole plan, clearance map;
//! once with intonation only, once with the whole bench in turn, once with a floating vibrato too.
#![allow(missing_docs, clippy::unwrap_used)]

use std::hint::black_box;

use criterion::{Criterion, criterion_group, criterion_main};
use gradimen_bench::clearance::ClearancePlan;
use gradimen_bench::event::{Event, Gap, HeightAdjuster, ReliefSpan, Side};
use gradimen_bench::hardware::BridgeFamily;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::record::Measured;
use gradimen_bench::strings;
use gradimen_bench::what_if::{Change, WhatIf};
use gradimen_bench::whole::WholePlan;
use gradimen_core::quantity::Length;
use gradimen_core::units::LengthUnit;

#[path = "../tests/common/mod.rs"]
mod common;

/// Readings and moves in turn, string after string.
fn long_job() -> Vec<gradimen_bench::event::Entry> {
    let mut events = vec![common::opened(
        gradimen_bench::instrument::Kind::Guitar,
        6,
        BridgeFamily::FixedPlate,
    )];
    for index in 0..199_u32 {
        let string = (index % 6 + 1) as u8;
        let swing = f64::from(index % 7) - 3.0;
        events.push(if index % 4 == 3 {
            Event::SaddleMoved {
                string,
                turns: swing / 4.0,
            }
        } else {
            common::read(string, swing)
        });
    }
    common::journal(events)
}

/// The whole bench in turn: relief, rod, nut, heights, intonation, over and over.
fn bench_job(family: BridgeFamily) -> Vec<gradimen_bench::event::Entry> {
    let mut events = vec![common::opened(
        gradimen_bench::instrument::Kind::Guitar,
        6,
        family,
    )];
    let thou = |value: f64| Measured::exact(Length::from_thou(value), LengthUnit::Thou);
    for index in 0..199_u32 {
        let string = (index % 6 + 1) as u8;
        events.push(match index % 7 {
            0 => Event::ReliefRead {
                side: Side::ALL[usize::from(string % 2)],
                span: ReliefSpan {
                    low: 1,
                    high: 12,
                    at: 6,
                },
                seen: Gap::Open { gap: thou(6.0) },
                kept: false,
            },
            1 => Event::RodTurned {
                turns: 0.0625 * (f64::from(index % 3) - 1.0) + 0.01,
            },
            2 => Event::NutRead {
                string,
                held: 0,
                gap: thou(20.0),
                kept: false,
            },
            3 => Event::ActionRead {
                string,
                fret: 12,
                held: 0,
                gap: thou(70.0),
                kept: false,
            },
            4 => Event::HeightMoved {
                adjuster: HeightAdjuster::String(string),
                turns: 0.25 * (f64::from(index % 3) - 1.0) + 0.01,
            },
            5 if family == BridgeFamily::KnifeEdgeVibrato => {
                if index % 2 == 0 {
                    Event::BalanceRead {
                        gap: Some(Measured::mm(3.0)),
                        kept: false,
                    }
                } else {
                    Event::ClawTurned {
                        turns: 0.25 * (f64::from(index % 3) - 1.0) + 0.01,
                        apart: 0.0,
                    }
                }
            }
            _ => common::read(string, f64::from(index % 7) - 3.0),
        });
    }
    common::journal(events)
}

fn benches(criterion: &mut Criterion) {
    let entries = long_job();
    let job = Job::fold(&entries).unwrap();
    assert_eq!(entries.len(), 200);
    criterion.bench_function("fold of 200 events", |bench| {
        bench.iter(|| Job::fold(black_box(&entries)));
    });
    criterion.bench_function("plan of a job with 200 events", |bench| {
        bench.iter(|| Plan::of(black_box(&job)));
    });
    let whole_bench = Job::fold(&bench_job(BridgeFamily::FixedPlate)).unwrap();
    criterion.bench_function("fold of 200 events of the whole bench", |bench| {
        let entries = bench_job(BridgeFamily::FixedPlate);
        bench.iter(|| Job::fold(black_box(&entries)));
    });
    criterion.bench_function("plan of the whole bench, 200 events", |bench| {
        bench.iter(|| Plan::of(black_box(&whole_bench)));
    });
    let plan = Plan::of(&whole_bench);
    criterion.bench_function("whole-job list from a plan", |bench| {
        bench.iter(|| WholePlan::of(black_box(&whole_bench), black_box(&plan)));
    });
    criterion.bench_function("clearance map", |bench| {
        bench.iter(|| {
            ClearancePlan::of(black_box(&whole_bench), |string| {
                whole_bench.geometry().line(string)
            })
        });
    });
    criterion.bench_function("one relief reading into the estimate", |bench| {
        let reading = bench_job(BridgeFamily::FixedPlate)[1].event.clone();
        bench.iter(|| black_box(&whole_bench).with(reading.clone()));
    });
    let floating = bench_job(BridgeFamily::KnifeEdgeVibrato);
    let afloat = Job::fold(&floating).unwrap();
    criterion.bench_function("fold of 200 events with a vibrato", |bench| {
        bench.iter(|| Job::fold(black_box(&floating)));
    });
    criterion.bench_function("plan with a vibrato, 200 events", |bench| {
        bench.iter(|| Plan::of(black_box(&afloat)));
    });
    criterion.bench_function("what-if with a vibrato", |bench| {
        let mut change = Change::none(&afloat);
        change.strung.tuning.a4_hz = 430.0;
        bench.iter(|| WhatIf::of(black_box(&afloat), &change));
    });
    criterion.bench_function("tension table", |bench| {
        bench.iter(|| strings::pull(black_box(&job)));
    });
}

criterion_group!(plan, benches);
criterion_main!(plan);
