//! Chances of the graded exercises that make an instrument at the first try, on which the plan leaves nothing undone: the variants of
//! `exercises.rs`.
#![allow(clippy::unwrap_used)] // a list that cannot be made should stop there

use gradimen_bench::journal::Event;
use gradimen_bench::model::Hints;
use gradimen_practice::{exercises, make};

fn main() {
    for exercise in exercises::ALL {
        let good = (0..).filter(|seed| {
            let Ok((_, events)) = make::first(&exercise.order(*seed, Hints::Off)) else {
                return false;
            };
            let Event::Opened(opened) = &events[0] else {
                return false;
            };
            let practice = opened.practice.as_ref().unwrap();
            practice.plan.out == 0 || practice.faults.iter().any(|fault| fault.is_trap())
        });
        let good: Vec<u64> = good.take(exercises::VARIANTS).collect();
        println!("{}: {good:?}", exercise.key);
    }
}
