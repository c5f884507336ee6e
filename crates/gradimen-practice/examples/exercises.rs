//! What the plan and careful trial and error take on the graded exercises: the table of docs/practice.md.
#![allow(clippy::unwrap_used)] // a table that cannot be made should stop there

use gradimen_bench::journal::Event;
use gradimen_bench::model::{Hints, Toll};
use gradimen_practice::{exercises, make};

fn main() {
    let seeds: u64 = std::env::args()
        .nth(1)
        .map_or(3, |seeds| seeds.parse().unwrap());
    println!("| exercise | by | moves | readings | minutes | out |\n|---|---|---|---|---|---|");
    for exercise in exercises::ALL {
        let mut sums = [Toll::default(); 2];
        let began = std::time::Instant::now();
        for seed in 0..seeds {
            let made = make::opening(&exercise.again(seed as usize, Hints::Off));
            let (_, events) = match made {
                Ok(made) => made,
                Err(error) => {
                    println!("| {} | {error} |", exercise.key);
                    continue;
                }
            };
            let Event::Opened(opened) = &events[0] else {
                unreachable!()
            };
            let practice = opened.practice.as_ref().unwrap();
            for (sum, toll) in sums.iter_mut().zip([practice.plan, practice.trial]) {
                sum.moves += toll.moves;
                sum.readings += toll.readings;
                sum.minutes += toll.minutes;
                sum.out += toll.out;
                sum.of += toll.of;
            }
        }
        let took = began.elapsed().as_secs_f64() / seeds as f64;
        for (by, sum) in ["the plan", "trial and error"].into_iter().zip(sums) {
            let mean = |count: u32| f64::from(count) / seeds as f64;
            println!(
                "| {} | {by} | {:.1} | {:.1} | {:.0} | {:.1} of {:.1} |",
                exercise.key,
                mean(sum.moves),
                mean(sum.readings),
                sum.minutes / seeds as f64,
                mean(sum.out),
                mean(sum.of)
            );
        }
        eprintln!("{} {took:.2} s", exercise.key);
    }
}
