//! What is truly out at the end of many jobs, against what the plan says of it, and how many misses the plan itself
//! expected: `cargo run --release -p gradimen-trial --example misses 8`, with `gauge` behind it in hands that have one.
#![allow(clippy::print_stdout)] // that is what it is for

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::model::Place;
use gradimen_bench::plan::Plan;
use gradimen_trial::Outcome;
use gradimen_trial::judge::Row;
use gradimen_trial::sorts::SORTS;
use gradimen_trial::table::{HEAD, Tally};

/// What the plan says of a row that is truly out.
fn said(job: &Outcome, row: &Row) -> Option<String> {
    let known = Estimate::of(Arc::new(Job::fold(&job.journal).ok()?)).ok()?;
    let plan = Plan::of(&known);
    let place = *row.places.first()?;
    if let Place::Intonation { string, .. } = place {
        let saddle = plan.intonation.saddle_of(string)?;
        let odds = saddle.odds.first()?;
        let error = saddle.estimate.strings.first()?.error;
        return Some(format!(
            "{:+.2} \u{b1} {:.2} cents, {:.0} %",
            error.value.value(),
            error.sigma.value(),
            odds.within * 100.0
        ));
    }
    let of = plan.quantities().find(|quantity| quantity.place == place)?;
    Some(format!(
        "{:+.3} \u{b1} {:.3} mm, {:.0} %",
        of.off().mm(),
        of.now.sigma.mm(),
        of.odds.within * 100.0
    ))
}

fn main() {
    let words: Vec<String> = std::env::args().skip(1).collect();
    let seeds = words
        .iter()
        .find_map(|word| word.parse().ok())
        .unwrap_or(4_u64);
    let gauge = words.iter().any(|word| word == "gauge");
    let mut whole = Tally::default();
    println!("{HEAD}");
    for sort in SORTS {
        let mut tally = Tally::default();
        let mut out = Vec::new();
        for seed in 1..=seeds {
            let Some((instrument, opening)) = sort.hidden(seed) else {
                continue;
            };
            let instrument = if gauge {
                instrument.with_gauge()
            } else {
                instrument
            };
            let Ok(job) = gradimen_trial::run(instrument, opening) else {
                println!("{} {seed}: its document was refused", sort.name);
                continue;
            };
            tally.add(&job, &sort);
            for row in &job.out {
                let said = said(&job, row).unwrap_or_default();
                out.push(format!(
                    "    {seed}: {:?} truly {:+.3}, allowed {:.3}/{:.3}; said {said}",
                    row.places, row.off, row.allowed.0, row.allowed.1
                ));
            }
        }
        println!("{}", tally.line(sort.name));
        out.iter().for_each(|line| println!("{line}"));
        whole = whole.with(&tally);
    }
    println!(
        "{}\n{}\n{}",
        whole.line("all"),
        whole.visits_table(),
        whole.widths_table()
    );
    println!(
        "rows out {}; the plans expected {:.1}; called done {} of {}",
        whole.out, whole.doubted, whole.done, whole.jobs
    );
}
