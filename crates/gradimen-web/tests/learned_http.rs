//! What one visit taught, over the real server: shown, and handed on to the next visit of the same instrument.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;
use server::{borrowed, inputs, set};

fn read(job: &mut Job, thou: &str) {
    for side in ["treble", "bass"] {
        let told = job.tell(
            "relief",
            &[("what", "relief"), ("side", side), ("gap", thou)],
        );
        assert_eq!(told.status, 303, "{}", told.text);
    }
}

#[test]
fn the_next_visit_begins_with_what_the_last_one_taught() {
    let mut job = Job::open();
    assert!(job.page("plan").contains("nothing learned yet"));
    // Bare numbers in thousandths, as they come off the blades.
    read(&mut job, "16");
    for after in ["12", "8"] {
        let turned = [("what", "rod"), ("turns", "1/4"), ("way", "tighten")];
        assert_eq!(job.tell("relief", &turned).status, 303);
        read(&mut job, after);
    }
    assert!(!job.page("plan").contains("with earlier visits"));
    let form = job.server.get("/instruments/1/open").text;
    let mut fields = inputs(&form);
    set(&mut fields, "purpose", "back again");
    let again = job.server.post("/instruments/1/open", &borrowed(&fields));
    assert_eq!(again.status, 303, "{}", again.text);
    let place = again.place.replace("/strings", "");
    let plan = job.server.get(&format!("{place}/plan")).text;
    assert!(plan.contains("with earlier visits"), "{plan}");
    // In the document it stands with the opening, so that it goes wherever the job goes.
    let document = job.server.get(&format!("{place}/export.json")).text;
    let document: String = document.split_whitespace().collect();
    assert!(
        document.contains("\"taught\":[{\"of\":\"rod\""),
        "{document}"
    );
    // The first visit was opened with nothing.
    let first = job.server.get(&format!("{}/export.json", job.place)).text;
    assert!(!first.contains("\"taught\""));
}
