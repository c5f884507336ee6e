//! What a job allows, over the real server: every tolerance, what notes are to be true to, and nonsense.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::Answer;
use server::bench::Job;

fn allow(job: &mut Job, typed: &[(&str, &str)]) -> Answer {
    let mut fields = vec![("what", "allowed"), ("true_to", "harmonic")];
    fields.retain(|(name, _)| typed.iter().all(|(other, _)| other != name));
    fields.extend(typed);
    job.tell("plan", &fields)
}

#[test]
fn every_tolerance_can_be_said_for_a_job_as_hands_type() {
    let mut job = Job::open();
    // Common practice: two thou of relief and nut, a quarter of a 64th of action.
    let house =
        "Allowed: relief \u{b1}0.05 mm \u{b7} nut \u{b1}0.05 mm \u{b7} action \u{b1}0.10 mm";
    assert!(job.page("plan").contains(house));
    // A bare number is of the unit that its target is typed in; a decimal no blade shows is millimetres.
    let told = allow(
        &mut job,
        &[
            ("within_relief", "3"),
            ("within_nut", "0.1"),
            ("within_action", "0.5"),
            ("within_cents", "1.5"),
            ("true_to", "octave"),
            ("aim", "-1"),
        ],
    );
    assert_eq!(told.status, 303, "{}", told.text);
    let page = job.page("plan");
    assert!(
        page.contains("relief \u{b1}0.08 mm \u{b7} nut \u{b1}0.10 mm \u{b7} action \u{b1}0.20 mm"),
        "{page}"
    );
    assert!(page.contains("12th within 1.5 cents of \u{2212}1.0 of the octave of the open string"));
    // What was told stands in its fields, to be changed.
    assert!(page.contains("value=\"3\"") && page.contains("value=\"1.5\""));
    // A fretted note is now read against the open string unless somebody says otherwise.
    let station = job.page("intonation");
    let open = station.find("open string in tune").unwrap();
    assert!(station[..open].rfind("aria-current").unwrap() > open - 60);
    // Emptied it is the house's again.
    assert_eq!(allow(&mut job, &[]).status, 303);
    assert!(job.page("plan").contains(house));
}

#[test]
fn nonsense_is_answered_at_its_field_and_stays() {
    let mut job = Job::open();
    for (name, nonsense) in [
        ("within_relief", "a bit"),
        ("within_nut", "-2"),
        ("within_action", "3 ft"),
        ("within_cents", "1 2"),
        ("within_cents", "500"),
        ("aim", "90"),
        ("true_to", "the moon"),
    ] {
        let wrong = allow(&mut job, &[(name, nonsense)]);
        assert_eq!(wrong.status, 422, "{name} {nonsense}");
        if name != "true_to" {
            let kept = format!("name=\"{name}\" value=\"{nonsense}\"");
            assert!(wrong.text.contains(&kept), "{name} {nonsense}");
            assert!(wrong.text.contains("aria-invalid"));
        }
    }
    assert!(job.page("plan").contains("relief \u{b1}0.05 mm"));
}

#[test]
fn a_saddle_that_goes_no_further_is_told_with_one_press() {
    let mut job = Job::open();
    let read = |cents| {
        [
            ("what", "read"),
            ("string", "6"),
            ("fret", "12"),
            ("cents", cents),
        ]
    };
    assert_eq!(job.tell("intonation", &read("9 9.2")).status, 303);
    job.seen += 1;
    assert!(job.page("intonation?string=6").contains("Goes no further"));
    let end = |way| [("what", "saddle_end"), ("string", "6"), ("way", way)];
    assert_eq!(job.tell("intonation", &end("sideways")).status, 422);
    assert_eq!(job.tell("intonation", &end("away")).status, 303);
    assert!(
        job.page("record")
            .contains("String 6: the saddle goes no further from the neck")
    );
    // Where it stopped it is read again; still sharp, it is not sent on.
    let again = job.tell("intonation", &read("5 5.2"));
    assert_eq!(again.status, 303, "{}", again.text);
    let page = job.page("intonation?string=6");
    assert!(
        page.contains("out of travel") && !page.contains("Goes no further"),
        "{page}"
    );
}
