//! Whatever is sent, every answer is one that was meant: no failure of the program, and no number that is none. Four thousand
//! requests here; as many as are wanted by `REQUESTS=1000000 cargo test --release -p gradimen-web --test nonsense_http -- --nocapture`.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use std::sync::atomic::{AtomicU64, Ordering};

use server::Server;
use server::nonsense::{Chance, looked, told};

const REQUESTS: u64 = 4000;
const HANDS: u64 = 4;
/// A job that grows longer than this is left for a new one.
const LONG: u64 = 120;

/// Whether an answer is none that was meant. What was typed stays on the page: the words for no number are typed in other letters.
fn wrong(status: u16, text: &str) -> bool {
    let signs = ["NaN", ">inf", "\"inf", "-inf", "panicked"];
    status >= 500 || signs.iter().any(|sign| text.contains(sign))
}

/// A practice instrument answers whatever it is told, or it is refused: of those that a practice bench has, one with posts, one with a claw and one
/// whose fret is loose.
#[test]
fn no_nonsense_breaks_a_practice_instrument() {
    let wanted =
        std::env::var("REQUESTS").map_or(REQUESTS, |count| count.parse::<u64>().unwrap()) / 8;
    let server = Server::start();
    let mut recorded = 0;
    for (number, exercise) in ["two_posts", "float_after_gauge", "loose_fret"]
        .iter()
        .enumerate()
    {
        let form = [("exercise", *exercise), ("hints", "full")];
        let opened = server.post("/practice", &form).place;
        let job = opened.trim_end_matches("/plan");
        let mut chance = Chance(0xA076_1D64_78BD_642F ^ (number as u64 + 1));
        for round in 0..wanted {
            let page = server.get(&format!("{job}/record")).text;
            let seen = page
                .split("name=\"seen\" value=\"")
                .nth(1)
                .and_then(|rest| rest.split('"').next());
            let form = told(&mut chance, seen.unwrap_or("1"));
            let answer = server.post(&format!("{job}/tell"), &server::borrowed(&form));
            assert!(
                !wrong(answer.status, &answer.text),
                "{} {form:?}",
                answer.status
            );
            recorded += u64::from(answer.status == 303);
            // What is left of it still answers to every tool.
            if round % 16 == 0 {
                for place in [
                    "relief",
                    "nut",
                    "action",
                    "intonation",
                    "balance",
                    "frets",
                    "plan",
                ] {
                    let place = format!("{job}/{place}?take={}", chance.next() % 8);
                    let answer = server.get(&place);
                    assert!(
                        !wrong(answer.status, &answer.text),
                        "{} {place}",
                        answer.status
                    );
                }
            }
        }
        let judged = server.get(&format!("{job}/practice"));
        assert!(!wrong(judged.status, &judged.text), "{}", judged.text);
    }
    assert!(recorded > wanted / 100, "{recorded}");
}

#[test]
fn no_request_gets_a_failure_or_a_number_that_is_none() {
    let wanted = std::env::var("REQUESTS").map_or(REQUESTS, |count| count.parse().unwrap());
    let server = Server::start();
    server.job();
    let (jobs, recorded) = (AtomicU64::new(1), AtomicU64::new(0));
    let refused = AtomicU64::new(0);
    std::thread::scope(|scope| {
        for hand in 0..HANDS {
            let (server, jobs, recorded, refused) = (&server, &jobs, &recorded, &refused);
            scope.spawn(move || {
                let mut chance = Chance(0x9E37_79B9_7F4A_7C15 ^ ((hand + 1) * 7919));
                for _ in 0..wanted / HANDS {
                    let there = jobs.load(Ordering::Relaxed);
                    if chance.next().is_multiple_of(2) {
                        let path = looked(&mut chance, there);
                        let answer = server.get(&path);
                        assert!(
                            !wrong(answer.status, &answer.text),
                            "{} {path}\n{}",
                            answer.status,
                            answer.text
                        );
                        continue;
                    }
                    // What the job stands at, as its page says it, most of the time.
                    let job = format!("/jobs/{there}");
                    let page = server.get(&format!("{job}/record")).text;
                    let seen = page
                        .split("name=\"seen\" value=\"")
                        .nth(1)
                        .and_then(|rest| rest.split('"').next());
                    let seen = seen.unwrap_or("1").to_owned();
                    let form = told(&mut chance, &seen);
                    let answer = server.post(&format!("{job}/tell"), &server::borrowed(&form));
                    assert!(
                        !wrong(answer.status, &answer.text),
                        "{} {form:?}\n{}",
                        answer.status,
                        answer.text
                    );
                    match answer.status {
                        303 => recorded.fetch_add(1, Ordering::Relaxed),
                        _ => refused.fetch_add(1, Ordering::Relaxed),
                    };
                    if hand == 0 && seen.parse::<u64>().is_ok_and(|seen| seen > LONG) {
                        let opened = server.job_on(&format!("N{there}"));
                        jobs.store(
                            opened.rsplit('/').next().unwrap().parse().unwrap(),
                            Ordering::Relaxed,
                        );
                    }
                }
            });
        }
    });
    let (recorded, refused) = (recorded.into_inner(), refused.into_inner());
    println!(
        "{wanted} rounds: {recorded} recorded, {refused} refused, {} jobs",
        jobs.into_inner()
    );
    // Some of it was something: not all was turned away at the door.
    assert!(recorded > wanted / 100, "{recorded}");
    // And every job can be exported and planned.
    assert_eq!(server.get("/data/verify").status, 200);
    assert!(
        !server
            .get("/data/verify")
            .text
            .contains("cannot be worked out")
    );
}
