//! What is truly out at the end of many jobs, against what the plan says of it: `cargo run -p gradimen-trial --example misses 8`.
#![allow(clippy::print_stdout, clippy::unwrap_used)] // that is what it is for
use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::model::Place;
use gradimen_bench::plan::Plan;
use gradimen_trial::sorts::SORTS;
use std::sync::Arc;

fn quantities(plan: &Plan) -> Vec<&gradimen_bench::decision::Quantity> {
    let slots = plan.nut.strings.iter().map(|slot| &slot.quantity);
    let heights = plan.action.strings.iter().map(|string| &string.quantity);
    let faces = plan
        .pickups
        .pickups
        .iter()
        .flat_map(|pickup| pickup.sides.iter().map(|side| &side.quantity));
    plan.relief
        .sides
        .iter()
        .chain(slots)
        .chain(heights)
        .chain(faces)
        .collect()
}

fn main() {
    let seeds: u64 = std::env::args()
        .nth(1)
        .and_then(|word| word.parse().ok())
        .unwrap_or(4);
    let only = std::env::args().nth(2);
    let mut whole = gradimen_trial::table::Tally::default();
    for sort in SORTS
        .iter()
        .filter(|sort| only.as_ref().is_none_or(|only| sort.name == only))
    {
        let mut tally = gradimen_trial::table::Tally::default();
        for seed in 1..=seeds {
            let Some((instrument, opening)) = sort.hidden(seed) else {
                continue;
            };
            let job = match gradimen_trial::run(instrument, opening) {
                Ok(job) => job,
                Err(error) => {
                    println!("{} {seed}: {error:?}", sort.name);
                    continue;
                }
            };
            tally.add(&job, sort);
            let known = Estimate::of(Arc::new(Job::fold(&job.journal).unwrap())).unwrap();
            let plan = Plan::of(&known);
            println!(
                "{} {seed}: done {} visits {} of {} readings {} out {}",
                sort.name,
                job.done,
                job.visits(),
                sort.screws(),
                job.readings,
                job.out.len()
            );
            for row in &job.out {
                let place = row.places[0];
                let said = match place {
                    Place::Intonation { string, .. } => known
                        .known_saddles()
                        .iter()
                        .flatten()
                        .flat_map(|s| &s.strings)
                        .find(|on| on.string == string)
                        .map(|on| {
                            format!(
                                "{:+.2} ± {:.2} c",
                                on.error.value.value(),
                                on.error.sigma.value()
                            )
                        })
                        .unwrap_or_default(),
                    _ => quantities(&plan)
                        .into_iter()
                        .find(|q| q.place == place)
                        .map(|q| {
                            format!(
                                "{:+.3} ± {:.3}, odds {:.2} reads {:?} {:?}",
                                q.off().mm(),
                                q.now.sigma.mm(),
                                q.odds.within,
                                q.fresh(),
                                q.verdict
                            )
                        })
                        .unwrap_or_default(),
                };
                println!(
                    "   {:?} truly {:+.3} allowed {:.3}/{:.3}; said {said}",
                    place, row.off, row.allowed.0, row.allowed.1
                );
            }
        }
        println!("{}\n{}", sort.name, tally.visits_table());
        whole = whole.with(&tally);
    }
    println!(
        "{}\n{}\n{}",
        whole.line("all"),
        whole.visits_table(),
        whole.widths_table()
    );
}
