//! The record of an instrument, over the real server: corrections and what they reach.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;
use server::{borrowed, inputs, set};

#[test]
fn a_correction_of_the_record_reaches_the_open_job_and_says_so() {
    let mut job = Job::open();
    let correct = |name: &str, value: &str| {
        let mut fields = inputs(&job.server.get("/instruments/1/edit").text);
        set(&mut fields, name, value);
        let saved = job.server.post("/instruments/1", &borrowed(&fields));
        assert_eq!(saved.status, 303, "{}", saved.text);
        job.server.get("/instruments/1").text
    };
    assert!(correct("scales", "24 3/4").contains("with this record"));
    let record = job.page("record");
    assert!(record.contains("Record put right: version 2"), "{record}");
    assert!(job.page("intonation").contains("629 mm"));
    // What the job holds is not thrown away for a correction: one string less cannot be, and the page says why.
    let kept = correct("strings", "5");
    assert!(kept.contains("keeps version 2"), "{kept}");
    assert!(job.page("intonation").contains("629 mm"));
    // In the job it is an entry like any other.
    job.seen += 1;
    assert_eq!(job.tell("record", &[("what", "undo")]).status, 303);
    assert!(job.page("intonation").contains("648 mm"));
}
