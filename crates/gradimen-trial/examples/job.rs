//! One job of the trial, line by line, and what is truly out at its end: `cargo run -p gradimen-trial --example job "two posts" 2`.
#![allow(clippy::print_stdout)] // that is what it is for

use gradimen_bench::text::events::sentence;
use gradimen_trial::sorts::{SORTS, TRAPS};

fn main() {
    let mut words = std::env::args().skip(1);
    let name = words.next().unwrap_or_else(|| "fixed plate".to_owned());
    let seed = words.next().and_then(|word| word.parse().ok()).unwrap_or(1);
    let Some(sort) = SORTS.iter().chain(&TRAPS).find(|sort| sort.name == name) else {
        println!("no such sort");
        return;
    };
    let Some((instrument, opening)) = sort.hidden(seed) else {
        println!("no such instrument");
        return;
    };
    match gradimen_trial::run(instrument, opening) {
        Ok(job) => {
            for entry in &job.journal {
                println!("{}", sentence(&entry.event));
            }
            println!("done: {}, truly out: {:?}", job.done, job.out);
        }
        Err(error) => println!("{error:?}"),
    }
}
