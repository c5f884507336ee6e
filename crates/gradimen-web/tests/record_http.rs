//! The record of an instrument, over the real server: corrections and what they reach.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;
use server::{Server, borrowed, inputs, set};

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

#[test]
fn a_stock_number_that_is_on_record_already_is_asked_about_once() {
    let server = Server::start();
    let add = |fields: &[(String, String)]| server.post("/instruments", &borrowed(fields));
    let mut fields = inputs(&server.get("/instruments/new").text);
    set(&mut fields, "stock_number", "A12");
    set(&mut fields, "name", "Heron");
    assert_eq!(add(&fields).status, 303);
    set(&mut fields, "stock_number", "a12");
    set(&mut fields, "name", "Wren");
    let asked = add(&fields);
    assert_eq!(asked.status, 422);
    assert!(
        asked.text.contains("on record already: Heron"),
        "{}",
        asked.text
    );
    // What was typed is still there; another number is saved, and so is the same one once more.
    let again = inputs(&asked.text);
    assert!(
        again
            .iter()
            .any(|(name, value)| name == "name" && value == "Wren")
    );
    let mut other = again.clone();
    set(&mut other, "stock_number", "13");
    assert_eq!(add(&other).status, 303);
    assert_eq!(add(&again).status, 303);
    // Another change of that record asks nothing.
    let edited = inputs(&server.get("/instruments/3/edit").text);
    assert_eq!(
        server.post("/instruments/3", &borrowed(&edited)).status,
        303
    );
    // One without a number needs none.
    for _ in 0..2 {
        set(&mut fields, "stock_number", "");
        assert_eq!(add(&fields).status, 303);
    }
}

#[test]
fn the_less_usual_fields_are_written_as_hands_write_them() {
    let server = Server::start();
    let mut fields = inputs(&server.get("/instruments/new").text);
    for (name, typed) in [
        ("name", "Siskin"),
        ("nut", "compensated"),
        ("saddles", "1-2 3-4 5-6"),
        ("courses", "1-2, 3-4"),
        ("nut_offsets", "0.5 0.8 0.3 0.5 0.6 0.7 mm"),
    ] {
        set(&mut fields, name, typed);
    }
    let added = server.post("/instruments", &borrowed(&fields));
    assert_eq!(added.status, 303, "{}", added.text);
    let form = inputs(&server.get(&format!("{}/edit", added.place)).text);
    let shown = |name: &str| {
        form.iter()
            .find(|(other, _)| other == name)
            .unwrap()
            .1
            .as_str()
    };
    assert_eq!(shown("saddles"), "1-2 3-4 5-6");
    assert_eq!(shown("courses"), "1-2 3-4");
    let page = server.get(&added.place).text;
    assert!(
        page.contains("1+2, 3+4, 5+6") && page.contains("nut forward by"),
        "{page}"
    );
}

#[test]
fn visits_stand_beside_each_other() {
    let mut job = Job::open();
    assert!(
        !job.server
            .get("/instruments/1")
            .text
            .contains("Over its visits")
    );
    for side in ["treble", "bass"] {
        let read = [("what", "relief"), ("side", side), ("gap", "14")];
        assert_eq!(job.tell("relief", &read).status, 303);
    }
    let mut fields = inputs(&job.server.get("/instruments/1/open").text);
    set(&mut fields, "purpose", "next season");
    assert_eq!(
        job.server
            .post("/instruments/1/open", &borrowed(&fields))
            .status,
        303
    );
    assert!(
        job.server
            .get("/instruments/1")
            .text
            .contains("Over its visits")
    );
    let page = job.server.get("/instruments/1/visits");
    assert_eq!(page.status, 200);
    // What was read on the first visit, and a dash for what was not on the second.
    assert!(
        page.text.contains("0.3")
            && page.text.contains("next season")
            && page.text.contains("\u{2013}")
    );
    assert!(!page.text.contains("NaN"));
    assert_eq!(job.server.get("/instruments/99/visits").status, 404);
}
