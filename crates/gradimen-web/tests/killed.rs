//! The program killed at any moment: what it had acknowledged is there, and nothing is half there. A few times here; as many as are
//! wanted by `KILLS=1000 cargo test --release -p gradimen-web --test killed -- --nocapture`.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use std::sync::atomic::{AtomicU64, Ordering};
use std::time::Duration;

use gradimen_store::backup::file_of;
use gradimen_store::verify::verify;
use server::program::Program;
use server::{borrowed, inputs, set};

fn agent() -> ureq::Agent {
    ureq::Agent::config_builder()
        .http_status_as_error(false)
        .max_redirects(0)
        .timeout_global(Some(Duration::from_secs(10)))
        .build()
        .new_agent()
}

fn post(agent: &ureq::Agent, at: &str, path: &str, form: &[(&str, &str)]) -> Option<(u16, String)> {
    let request = agent.post(format!("{at}{path}")).header("origin", at);
    let answer = request.send_form(form.iter().copied()).ok()?;
    let place = answer.headers().get("location");
    let place = place.map_or("", |place| place.to_str().unwrap()).to_owned();
    Some((answer.status().as_u16(), place))
}

/// Reads one cent after another until the program is gone; how many it acknowledged.
fn told(at: &str, from: u64, acknowledged: &AtomicU64) {
    let agent = agent();
    for seen in from.. {
        let (seen, cents) = (seen.to_string(), format!("{}.5", seen % 9));
        let form = [
            ("what", "read"),
            ("station", "intonation"),
            ("seen", seen.as_str()),
            ("string", "1"),
            ("fret", "12"),
            ("against", "harmonic"),
            ("cents", cents.as_str()),
            ("sure", "yes"),
        ];
        match post(&agent, at, "/jobs/1/tell", &form) {
            Some((303, _)) => {
                acknowledged.store(seen.parse::<u64>().unwrap() + 1, Ordering::SeqCst)
            }
            Some((status, _)) => panic!("entry after {seen}: answered {status}"),
            None => return,
        }
    }
}

#[test]
fn what_was_acknowledged_outlives_a_kill_at_any_moment() {
    let kills: u32 = std::env::var("KILLS").map_or(8, |kills| kills.parse().unwrap());
    let folder = tempfile::tempdir().unwrap();
    let program = Program::here(folder.path());
    let get = |at: &str, path: &str| {
        let answer = agent().get(format!("{at}{path}")).call();
        answer.unwrap().body_mut().read_to_string().unwrap()
    };
    let mut fields = inputs(&get(&program.address, "/instruments/new"));
    set(&mut fields, "name", "Heron");
    let at = program.address.clone();
    assert_eq!(
        post(&agent(), &at, "/instruments", &borrowed(&fields))
            .unwrap()
            .0,
        303
    );
    let mut fields = inputs(&get(&at, "/instruments/1/open"));
    set(&mut fields, "purpose", "before loan");
    assert_eq!(
        post(&agent(), &at, "/instruments/1/open", &borrowed(&fields))
            .unwrap()
            .0,
        303
    );
    let mut program = program;
    let system = actix_web::rt::System::new();
    let mut chance = 0x9e37_79b9_u64;
    let mut recorded = 0;
    for round in 1..=kills {
        // Where the journal stands, by the page itself.
        let document: serde_json::Value =
            serde_json::from_str(&get(&program.address, "/jobs/1/export.json")).unwrap();
        let stands = document["events"].as_array().unwrap().len() as u64;
        assert!(
            stands >= recorded,
            "kill {round}: {recorded} acknowledged, {stands} there"
        );
        let acknowledged = AtomicU64::new(stands);
        chance ^= chance << 13;
        chance ^= chance >> 7;
        chance ^= chance << 17;
        let at = program.address.clone();
        std::thread::scope(|scope| {
            scope.spawn(|| told(&at, stands, &acknowledged));
            std::thread::sleep(Duration::from_millis(5 + chance % 60));
            drop(program);
        });
        recorded = acknowledged.load(Ordering::SeqCst);
        let verdict = system.block_on(verify(&file_of(folder.path()))).unwrap();
        assert_eq!(verdict.problems, [], "kill {round}");
        program = Program::here(folder.path());
    }
    println!("{kills} kills, {recorded} entries acknowledged and there");
    assert!(recorded > 2, "nothing was recorded between kills");
    drop(program);
}
