//! A six-string job with two hundred events: fold, tension table, whole plan.
#![allow(missing_docs, clippy::unwrap_used)]

use std::hint::black_box;

use criterion::{Criterion, criterion_group, criterion_main};
use gradimen_bench::event::Event;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::strings;

#[path = "../tests/common/mod.rs"]
mod common;

/// Readings and moves in turn, string after string.
fn long_job() -> Vec<gradimen_bench::event::Entry> {
    let mut events = vec![common::opened(
        gradimen_bench::instrument::Kind::Guitar,
        6,
        gradimen_bench::hardware::BridgeFamily::FixedPlate,
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
    criterion.bench_function("tension table", |bench| {
        bench.iter(|| strings::pull(black_box(&job)));
    });
}

criterion_group!(plan, benches);
criterion_main!(plan);
