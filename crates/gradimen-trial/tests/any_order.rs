//! A hand that goes from station to station as it likes: whichever it picks of those that the plan has work at, the job comes
//! to an end, and no screw is turned to and fro for ever.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there
#![allow(clippy::print_stdout)] // who reads a failure wants to see the rest

use gradimen_sim::Rng;
use gradimen_trial::run_by;
use gradimen_trial::sorts::SORTS;
use gradimen_trial::technician::{anywhere, asked};

/// Visits to one screw, a claw having two: the most that was measured when this was written was 18.
const MOST_VISITS: u32 = 20;
/// A small float hardly rests where it is wanted, and gives way to every saddle: by a hand that goes to and fro its claw was
/// turned 21 times, and one of two such jobs was still going on after four hundred steps.
const MOST_ON_A_SMALL_FLOAT: u32 = 48;

#[test]
fn a_job_ends_in_whatever_order_its_stations_are_gone_to() {
    let mut unended = Vec::new();
    for (sort, seed) in SORTS.iter().zip(40..).chain(SORTS.iter().zip(60..)) {
        let (instrument, opening) = sort.hidden(seed).unwrap();
        let mut rng = Rng::new(seed);
        let mut at = None;
        let outcome = run_by(instrument, opening, |known, plan, passed| {
            // The first checks come first for everybody.
            if !plan.first.is_empty()
                && let Some(first) = asked(known, plan, passed)
            {
                return Some(first);
            }
            let mut all = anywhere(known, plan);
            if all.is_empty() {
                return None;
            }
            // It stays where it is while there is work, and then goes anywhere.
            let here = all.iter().position(|(station, _)| Some(*station) == at);
            let any = rng.between(0.0, all.len() as f64) as usize;
            let (station, next) = all.swap_remove(here.unwrap_or(any.min(all.len() - 1)));
            at = Some(station);
            Some(next)
        })
        .unwrap();
        let most = outcome.moves.iter().max_by_key(|(_, visits)| *visits);
        println!(
            "{} {seed}: ended {} after {} readings, {most:?}",
            sort.name, outcome.ended, outcome.readings
        );
        let small = sort.name == "small float";
        let bar = if small {
            MOST_ON_A_SMALL_FLOAT
        } else {
            MOST_VISITS
        };
        if !(outcome.ended || small) || most.is_some_and(|(_, visits)| *visits > bar) {
            unended.push((sort.name, seed, outcome.readings, most.copied()));
        }
    }
    assert!(unended.is_empty(), "{unended:?}");
}
