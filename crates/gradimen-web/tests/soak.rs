//! The program in use by several hands for a long time: nothing fails, and it needs no more memory at the end than before. A few
//! seconds here; an hour by `SOAK_SECONDS=3600 cargo test --release -p gradimen-web --test soak -- --nocapture`.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there
#![cfg(target_os = "linux")]

mod server;

use std::sync::atomic::{AtomicBool, AtomicU64, Ordering};
use std::time::{Duration, Instant};

use server::nonsense::{Chance, looked};
use server::program::Program;
use server::{borrowed, inputs, set};

const SECONDS: u64 = 6;
const HANDS: u64 = 4;
/// Readings of one job, before the next one is opened.
const READINGS: u64 = 100;
const PAUSE: Duration = Duration::from_millis(20);

/// Memory of a process in use, in kilobytes.
fn resident(process: u32) -> u64 {
    let status = std::fs::read_to_string(format!("/proc/{process}/status")).unwrap();
    let mut lines = status.lines();
    let line = lines.find(|line| line.starts_with("VmRSS:")).unwrap();
    line.split_whitespace().nth(1).unwrap().parse().unwrap()
}

struct Hand {
    agent: ureq::Agent,
    address: String,
}

impl Hand {
    fn get(&self, path: &str) -> (u16, String) {
        let answer = self
            .agent
            .get(format!("{}{path}", self.address))
            .call()
            .unwrap();
        (
            answer.status().as_u16(),
            answer.into_body().read_to_string().unwrap_or_default(),
        )
    }

    fn post(&self, path: &str, form: &[(&str, &str)]) -> (u16, String) {
        let request = self
            .agent
            .post(format!("{}{path}", self.address))
            .header("origin", &self.address);
        let answer = request.send_form(form.iter().copied()).unwrap();
        let place = answer
            .headers()
            .get("location")
            .map(|place| place.to_str().unwrap().to_owned());
        (answer.status().as_u16(), place.unwrap_or_default())
    }

    /// A job on the first instrument, which is recorded where there is none.
    fn opens(&self, instrument: &str) -> String {
        let open = format!("{instrument}/open");
        let mut fields = inputs(&self.get(&open).1);
        set(&mut fields, "purpose", "soak");
        let (status, place) = self.post(&open, &borrowed(&fields));
        assert_eq!(status, 303);
        place.split('/').take(3).collect::<Vec<_>>().join("/")
    }

    fn reads(&self, job: &str, cents: u64) {
        let page = self.get(&format!("{job}/intonation")).1;
        let seen = inputs(&page)
            .into_iter()
            .find(|(name, _)| name == "seen")
            .unwrap()
            .1;
        let (string, cents) = ((cents % 6 + 1).to_string(), format!("{}", cents % 9));
        let form = [
            ("what", "read"),
            ("station", "intonation"),
            ("seen", seen.as_str()),
            ("string", string.as_str()),
            ("fret", "12"),
            ("against", "harmonic"),
            ("cents", cents.as_str()),
            ("sure", "yes"),
        ];
        assert_eq!(self.post(&format!("{job}/tell"), &form).0, 303);
    }
}

#[test]
fn hours_of_use_take_no_more_memory() {
    let seconds = std::env::var("SOAK_SECONDS").map_or(SECONDS, |seconds| seconds.parse().unwrap());
    let data = tempfile::tempdir().unwrap();
    let program = Program::here(data.path());
    let address = program.address.clone();
    let hand = || Hand {
        agent: ureq::Agent::config_builder()
            .http_status_as_error(false)
            .max_redirects(0)
            // Well before the server lets an idle line go: one that is let go while it is taken again is nobody's failure.
            .max_idle_age(Duration::from_secs(1))
            .build()
            .new_agent(),
        address: address.clone(),
    };
    let first = hand();
    let mut fields = inputs(&first.get("/instruments/new").1);
    set(&mut fields, "name", "Heron");
    let (_, instrument) = first.post("/instruments", &borrowed(&fields));
    let (over, requests, readings) = (AtomicBool::new(false), AtomicU64::new(0), AtomicU64::new(0));
    let mut used = Vec::new();
    std::thread::scope(|scope| {
        for number in 0..HANDS {
            let (hand, instrument) = (hand(), instrument.clone());
            let (over, requests, readings) = (&over, &requests, &readings);
            scope.spawn(move || {
                let mut chance = Chance(0x2545_F491_4F6C_DD1D ^ ((number + 1) * 104_729));
                while !over.load(Ordering::Relaxed) {
                    let job = hand.opens(&instrument);
                    for reading in 0..READINGS {
                        if over.load(Ordering::Relaxed) {
                            return;
                        }
                        hand.reads(&job, reading + chance.next() % 3);
                        readings.fetch_add(1, Ordering::Relaxed);
                        for _ in 0..3 {
                            let path = looked(&mut chance, 20);
                            // All of the data is another matter than a page.
                            let (status, _) = hand.get(&path);
                            assert!(status < 500, "{status} {path}");
                            requests.fetch_add(1, Ordering::Relaxed);
                        }
                        std::thread::sleep(PAUSE);
                    }
                }
            });
        }
        let began = Instant::now();
        while began.elapsed() < Duration::from_secs(seconds) {
            std::thread::sleep(Duration::from_secs(1));
            used.push(resident(program.child.id()));
        }
        over.store(true, Ordering::Relaxed);
    });
    let mean = |part: &[u64]| part.iter().sum::<u64>() / part.len().max(1) as u64;
    let quarter = used.len() / 4;
    let (early, late) = (
        mean(&used[quarter..2 * quarter]),
        mean(&used[3 * quarter..]),
    );
    println!(
        "{seconds} s: {} pages, {} readings; {early} kB in the second quarter, {late} kB in the last, {} kB at most",
        requests.into_inner(),
        readings.into_inner(),
        used.iter().max().unwrap()
    );
    assert!(late < 300_000, "{late} kB");
    // In seconds the kept jobs are still coming in; over an hour there is no excuse.
    if seconds >= 600 {
        assert!(
            late as f64 <= early as f64 * 1.15,
            "{early} kB, then {late} kB"
        );
    }
}
