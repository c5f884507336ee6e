//! The checks before the first screw, over the real server: shown, answered, skipped.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;

fn plan(job: &Job) -> String {
    job.server.get(&format!("{}/plan", job.place)).text
}

#[test]
fn checks_are_answered_one_by_one_and_gone_once_something_was_turned() {
    let mut job = Job::open();
    let page = plan(&job);
    assert!(page.contains("Before the first screw") && page.contains("anything left to give"));
    let rod = |job: &mut Job, left: &str, how: &str| {
        let fields = [("what", "rod_check"), ("turns_left", left), ("how", how)];
        job.tell("plan", &fields)
    };
    // Nonsense is answered where it was typed, and stays.
    let wrong = rod(&mut job, "lots", "free");
    assert_eq!(wrong.status, 422);
    assert!(wrong.text.contains("value=\"lots\"") && wrong.text.contains("aria-invalid"));
    assert_eq!(rod(&mut job, "1 1/4", "sideways").status, 422);
    assert_eq!(rod(&mut job, "1 1/4", "free").status, 303);
    let page = plan(&job);
    assert!(page.contains("Room behind the outer saddles"));
    assert!(!page.contains("anything left to give"));
    // Every station says that they are there; whoever goes on has skipped them.
    let relief = format!("{}/relief", job.place);
    assert!(job.server.get(&relief).text.contains("quick checks"));
    let turned = [("what", "rod"), ("turns", "1/8"), ("way", "tighten")];
    assert_eq!(job.tell("relief", &turned).status, 303);
    assert!(!plan(&job).contains("Before the first screw"));
    assert!(!job.server.get(&relief).text.contains("quick checks"));
}

#[test]
fn a_rocker_is_asked_for_where_something_buzzed() {
    let mut job = Job::open();
    assert!(!plan(&job).contains("A rocker"));
    let buzz = [
        ("what", "buzz"),
        ("string", "4"),
        ("held", "5"),
        ("attack", "0.5"),
    ];
    assert_eq!(job.tell("clearance", &buzz).status, 303);
    assert!(plan(&job).contains("Fret 6 under string 4"));
    let rock = |seen| {
        [
            ("what", "rock"),
            ("string", "4"),
            ("fret", "6"),
            ("seen_rock", seen),
        ]
    };
    assert_eq!(job.tell("plan", &rock("wildly")).status, 422);
    assert_eq!(job.tell("plan", &rock("clear")).status, 303);
    assert!(!plan(&job).contains("Fret 6 under string 4"));
}
