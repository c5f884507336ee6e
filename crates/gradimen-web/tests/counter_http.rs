//! From the counter to the handover, over the real server: what the player says, check lists, the play test, the sheets.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use icalendar::{Calendar, CalendarComponent, Component};
use server::bench::Job;

fn says(job: &mut Job, symptoms: &[&str]) {
    let mut fields = vec![
        ("what", "complaint"),
        ("words", "it growls <b>"),
        ("liked", ""),
        ("picks", "middle"),
    ];
    fields.extend(symptoms.iter().map(|symptom| (*symptom, "on")));
    assert_eq!(job.tell("intake", &fields).status, 303);
}

#[test]
fn what_the_player_says_moves_the_odds_and_stays_ticked() {
    let mut job = Job::open();
    let before = job.page("intake");
    assert!(before.contains("a setup is enough") && before.contains("60\u{a0}%"));
    says(&mut job, &["says_buzz_one", "says_dead_notes"]);
    let page = job.page("intake");
    let fretwork = page.find("fretwork first").unwrap();
    assert!(
        fretwork < page.find("a setup is enough").unwrap(),
        "the most likely comes first"
    );
    assert!(
        page.contains("name=\"says_buzz_one\" checked")
            && !page.contains("name=\"says_crackle\" checked")
    );
    assert!(page.contains("one note buzzes alone: 9.8 times as likely"));
    assert!(page.contains("Tells most now: a rocker"));
    // Nothing written by hand becomes markup, and what was told last counts.
    assert!(page.contains("it growls &#60;b&#62;") && !page.contains("growls <b>"));
    says(&mut job, &[]);
    assert!(!job.page("intake").contains("checked> one note"));
    // Where the hand plays is one of a list.
    let wrong = job.tell("intake", &[("what", "complaint"), ("picks", "on the moon")]);
    assert_eq!(wrong.status, 422);
}

#[test]
fn what_is_heard_leads_somewhere_and_the_job_is_not_ready_before_it_is_cured() {
    let mut job = Job::open();
    let played = |job: &mut Job, string: &str, fret: &str, heard: &str| {
        job.tell(
            "proof",
            &[
                ("what", "played"),
                ("string", string),
                ("fret", fret),
                ("heard", heard),
            ],
        )
    };
    assert_eq!(played(&mut job, "3", "14", "buzz").status, 303);
    let page = job.page("proof?string=3&fret=14");
    assert!(
        page.contains("1 note to be cured")
            && page.contains("a rocker with its middle on fret 15, under string 3")
    );
    // The rocker decides: still, it is no fret; it rocks, and it may only be loose.
    let rock = [
        ("what", "rock"),
        ("string", "3"),
        ("fret", "15"),
        ("seen_rock", "clear"),
    ];
    assert_eq!(job.tell("proof", &rock).status, 303);
    assert!(
        job.page("proof")
            .contains("Fret 15 rocks under string 3. Press it with a stick")
    );
    // Ready asks while a note is open.
    let ready = job.tell("plan", &[("what", "stage"), ("stage", "ready")]);
    assert_eq!(ready.status, 422);
    assert!(
        ready.text.contains("1 note still heard in the play test"),
        "{}",
        ready.text
    );
    assert_eq!(played(&mut job, "3", "14", "clean").status, 303);
    assert!(job.page("proof").contains("Play every note"));
    assert_eq!(job.tell("proof", &[("what", "played_through")]).status, 303);
    assert!(job.page("proof").contains("Plays clean"));
    // What was played through was played on the instrument as it was.
    let rod = [("what", "rod"), ("turns", "1/8"), ("way", "tighten")];
    assert_eq!(job.tell("relief", &rod).status, 303);
    assert!(job.page("proof").contains("Play every note"));
    // Sharp next to the nut is a slot too high.
    assert_eq!(played(&mut job, "1", "2", "out_of_tune").status, 303);
    assert!(job.page("proof").contains("the slot is too high"));
    for (string, fret, heard) in [
        ("9", "1", "buzz"),
        ("1", "99", "buzz"),
        ("1", "1", "a song"),
        ("x", "", ""),
    ] {
        assert_eq!(
            played(&mut job, string, fret, heard).status,
            422,
            "{string} {fret} {heard}"
        );
    }
    // An address that names no note shows the first.
    assert!(
        job.page("proof?string=77&fret=-3")
            .contains("string 1 open")
    );
}

#[test]
fn check_lists_are_told_line_by_line() {
    let mut job = Job::open();
    let tell = |job: &mut Job, line: &str, condition: &str| {
        job.tell(
            "proof",
            &[
                ("what", "checked"),
                ("round", "before"),
                ("line", line),
                ("condition", condition),
            ],
        )
    };
    assert_eq!(tell(&mut job, "jack", "fault").status, 303);
    assert!(job.page("intake").contains("a fault in the electrics"));
    assert!(
        job.page("record")
            .contains("Check list, before: jack holds the plug: fault")
    );
    assert_eq!(tell(&mut job, "jack", "not_looked").status, 303);
    assert!(!job.page("intake").contains("a fault in the electrics"));
    for (line, condition) in [("door", "fine"), ("jack", "so so")] {
        assert_eq!(
            tell(&mut job, line, condition).status,
            422,
            "{line} {condition}"
        );
    }
}

#[test]
fn sheets_say_what_came_what_is_and_when_to_come_back() {
    let mut job = Job::open();
    says(&mut job, &["says_hard_to_play"]);
    for side in ["treble", "bass"] {
        let read = [("what", "relief"), ("side", side), ("gap", "14")];
        assert_eq!(job.tell("relief", &read).status, 303);
    }
    let rod = [("what", "rod"), ("turns", "1/8"), ("way", "tighten")];
    assert_eq!(job.tell("relief", &rod).status, 303);
    let handover = job.page("handover");
    for said in [
        "relief, treble side",
        "0.36 mm",
        "<li>truss rod</li>",
        "The truss rod was turned",
        "It holds for .010",
    ] {
        assert!(handover.contains(said), "{said}: {handover}");
    }
    // What nobody read is not on it.
    assert!(!handover.contains("gap of the neck pickup"));
    let estimate = job.page("estimate");
    assert!(
        estimate.contains("hard to play")
            && estimate.contains("setup: 1 h")
            && estimate.contains("cannot be put back")
    );
    assert_eq!(job.server.get("/jobs/99/handover").status, 404);
    // Read back by the crate's own parser: a whole day, three months after a rod was turned.
    let file = job.page("recheck.ics");
    let calendar: Calendar = file.parse().unwrap();
    let [CalendarComponent::Event(event)] = &calendar.components[..] else {
        panic!("{file}")
    };
    assert!(event.get_summary().unwrap().starts_with("Recheck: "));
    let day = |name: &str| event.property_value(name).unwrap().parse::<u32>().unwrap();
    let stamp = event.property_value("DTSTAMP").unwrap()[..8]
        .parse::<u32>()
        .unwrap();
    let months = |day: u32| (day / 10_000) * 12 + day / 100 % 100;
    assert_eq!(months(day("DTSTART")) - months(stamp), 3);
    assert!(day("DTEND") > day("DTSTART"));
    // The same job gives the same file.
    assert_eq!(job.page("recheck.ics"), file);
}

#[test]
fn the_rocker_goes_where_it_tells_most_and_says_what_stands_high() {
    let mut job = Job::open();
    let page = job.page("frets");
    assert!(page.contains("Lay the rocker") && page.contains("Tells most now"));
    let rock = |job: &mut Job, string: &str, fret: &str, seen: &str| {
        job.tell(
            "frets",
            &[
                ("what", "rock"),
                ("string", string),
                ("fret", fret),
                ("seen_rock", seen),
            ],
        )
    };
    for (string, fret) in [("1", "5"), ("6", "5"), ("3", "9")] {
        assert_eq!(rock(&mut job, string, fret, "none").status, 303);
    }
    assert!(job.page("frets").contains("None stands high so far:"));
    // Told, the page goes on to where the rocker tells most: beside the one that rocked.
    let told = rock(&mut job, "3", "14", "clear");
    assert!(!told.place.contains("fret="), "{}", told.place);
    let page = job.page("frets");
    assert!(page.contains("1 fret stands high:") && page.contains("fret 14, string 3:"));
    assert!(page.contains("middle on fret 14, under string"));
    // At these heights this hand clears it: nothing is filed, until it is heard.
    assert!(page.contains("it plays clean, file nothing") && !page.contains("spot level: 1 h"));
    assert!(page.contains("fret by fret"));
    assert!(job.page("intake").contains("a fret rocks"));
    let note = [
        ("what", "played"),
        ("string", "3"),
        ("fret", "13"),
        ("heard", "buzz"),
    ];
    assert_eq!(job.tell("proof", &note).status, 303);
    let page = job.page("frets");
    assert!(
        page.contains("seat or spot-level it") && page.contains("frets reseated, spot level: 1 h")
    );
    // Five of them are no spot work any more.
    for fret in ["4", "7", "11", "17"] {
        assert_eq!(rock(&mut job, "3", fret, "clear").status, 303);
    }
    let page = job.page("frets");
    assert!(
        page.contains("5 frets stand high:") && page.contains("level, crown, polish"),
        "{page}"
    );
    // Laid down again where it stands still now, it takes the word back.
    assert_eq!(rock(&mut job, "3", "14", "none").status, 303);
    assert!(!job.page("frets").contains("fret 14, string 3:"));
    // A rocker needs a fret on either side; an address that has none shows where it tells most.
    for (string, fret, seen) in [
        ("1", "1", "none"),
        ("1", "22", "none"),
        ("9", "5", "none"),
        ("1", "5", "a lot"),
    ] {
        assert_eq!(
            rock(&mut job, string, fret, seen).status,
            422,
            "{string} {fret} {seen}"
        );
    }
    assert!(
        job.page("frets?string=1&fret=99")
            .contains("Tells most now")
    );
}

#[test]
fn a_set_is_put_on_step_by_step_and_stays_when_it_falls_no_more() {
    let mut job = Job::open();
    let page = job.page("strings");
    assert!(page.contains("Restringing, step by step") && page.contains("Not stretched yet."));
    let stretch = |job: &mut Job, drift: &str| {
        job.tell("strings", &[("what", "stretched"), ("drift", drift)])
    };
    for drift in ["-140 cents", "6"] {
        assert_eq!(stretch(&mut job, drift).status, 303);
    }
    assert!(
        job.page("strings")
            .contains("stretch and tune up once more")
    );
    assert_eq!(stretch(&mut job, "1.5").status, 303);
    assert!(
        job.page("strings")
            .contains("Fell by \u{2212}140, 6, 1.5 cents: it stays.")
    );
    for nonsense in ["", "a lot", "5000", "3 4"] {
        let wrong = stretch(&mut job, nonsense);
        assert_eq!(wrong.status, 422, "{nonsense}");
        assert!(wrong.text.contains("aria-invalid"), "{nonsense}");
    }
}

#[test]
fn what_came_by_another_method_is_not_compared_in_silence() {
    let mut job = Job::open();
    // The same neck reads less over a shorter span.
    for (school, gap) in [("last_8", "14"), ("12_6", "6")] {
        let page = job.page("relief");
        assert!(page.contains(&format!("school={school}")), "{school}");
        let read = [
            ("what", "relief"),
            ("side", "bass"),
            ("school", school),
            ("gap", gap),
        ];
        assert_eq!(job.tell("relief", &read).status, 303);
    }
    // It is set by another method than it was first read by: both numbers stand there, and the first says how it came.
    let handover = job.page("handover");
    assert!(handover.contains("0.36 mm (hold 1 and "), "{handover}");
}

#[test]
fn frets_are_pressed_measured_and_worked_on() {
    let mut job = Job::open();
    let at = [("string", "3"), ("fret", "14")];
    let tell = |job: &mut Job, fields: &[(&'static str, &'static str)]| {
        let all: Vec<(&str, &str)> = fields.iter().chain(&at).copied().collect();
        job.tell("frets", &all)
    };
    assert_eq!(
        tell(&mut job, &[("what", "rock"), ("seen_rock", "clear")]).status,
        303
    );
    assert_eq!(
        tell(&mut job, &[("what", "pressed"), ("gives", "yes")]).status,
        303
    );
    let page = job.page("frets");
    assert!(
        page.contains("1 fret is loose:") && page.contains("never filed"),
        "{page}"
    );
    let seated = [
        ("what", "fretwork"),
        ("fretwork", "seated"),
        ("worked_fret", "14"),
    ];
    assert_eq!(tell(&mut job, &seated).status, 303);
    assert!(!job.page("frets").contains("is loose"));
    assert!(job.page("record").contains("Fret 14: seated and glued"));
    // Bare numbers in the unit of the place: thou for a groove, millimetres for a crown.
    assert_eq!(
        tell(&mut job, &[("what", "worn"), ("wear", "6")]).status,
        303
    );
    assert_eq!(
        tell(&mut job, &[("what", "crown"), ("crown", "1.1")]).status,
        303
    );
    let record = job.page("record");
    assert!(
        record.contains("Fret 14 worn under string 3: 0.15 mm deep"),
        "{record}"
    );
    assert!(record.contains("Lowest crown: 1.10 mm"));
    for wrong in [
        &[("what", "pressed"), ("gives", "perhaps")][..],
        &[("what", "worn"), ("wear", "deep")],
        &[("what", "crown"), ("crown", "11 mm")],
        &[("what", "fretwork"), ("fretwork", "polished")],
        &[
            ("what", "fretwork"),
            ("fretwork", "spot"),
            ("worked_fret", "99"),
        ],
        &[
            ("what", "fretwork"),
            ("fretwork", "levelled"),
            ("taken", "lots"),
        ],
    ] {
        assert_eq!(tell(&mut job, wrong).status, 422, "{wrong:?}");
    }
}

#[test]
fn a_second_visit_is_shown_the_first_and_the_handover_goes_out_in_three_forms() {
    let mut job = Job::open();
    for percent in ["140", "damp", "-3", "NaN", ""] {
        let told = job.tell("intake", &[("what", "humidity"), ("humidity", percent)]);
        assert_eq!(told.status, 422, "{percent}");
        assert!(told.text.contains("write what the meter shows"));
    }
    let damp = [("what", "humidity"), ("humidity", "42 %")];
    assert_eq!(job.tell("intake", &damp).status, 303);
    assert!(job.page("intake").contains("not known yet"));
    for side in ["treble", "bass"] {
        let read = [("what", "relief"), ("side", side), ("gap", "8")];
        assert_eq!(job.tell("relief", &read).status, 303);
    }
    let csv = job.server.get("/jobs/1/handover.csv");
    assert!(
        csv.text
            .starts_with("place,last time,as it came,as it is,target,verdict")
    );
    assert_eq!(csv.text.lines().count(), 3);
    let json: serde_json::Value =
        serde_json::from_str(&job.server.get("/jobs/1/handover.json").text).unwrap();
    assert_eq!(json["readings"].as_array().unwrap().len(), 2);
    let mut returned = vec![("what", "stage"), ("stage", "returned")];
    job.tell("intake", &returned);
    returned.push(("all_the_same", "returned"));
    assert_eq!(job.tell("intake", &returned).status, 303);
    // The next visit.
    let mut fields = server::inputs(&job.server.get("/instruments/1/open").text);
    server::set(&mut fields, "purpose", "recheck");
    let opened = job
        .server
        .post("/instruments/1/open", &server::borrowed(&fields));
    assert_eq!(opened.status, 303, "{}", opened.text);
    let relief = job.server.get("/jobs/2/relief").text;
    assert!(
        relief.contains("Last time, ") && relief.contains("bass 0.20 mm"),
        "{relief}"
    );
    assert!(job.server.get("/jobs/2/intake").text.contains("42 % on "));
    let figures = job.server.get("/shop/figures").text;
    assert!(
        figures.contains("Of the last 2 jobs") && figures.contains("1 of 1"),
        "{figures}"
    );
    assert_eq!(job.server.get("/due").status, 200);
}
