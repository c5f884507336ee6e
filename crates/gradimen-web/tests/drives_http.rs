//! Saddles by their drive, over the real server: slid by millimetres where they are clamped, and said so.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;

fn sharp(family: &str) -> Job {
    let mut job = Job::on(family, &[]);
    for _ in 0..4 {
        let read = [
            ("what", "read"),
            ("string", "1"),
            ("fret", "12"),
            ("against", "harmonic"),
            ("cents", "7"),
        ];
        let told = job.tell("intonation", &read);
        assert_eq!(told.status, 303, "{}", told.text);
    }
    job
}

#[test]
fn a_clamped_saddle_is_told_in_millimetres_as_hands_type_them() {
    let mut job = sharp("double_locking");
    let page = job.page("intonation?string=1");
    assert!(
        page.contains("slide the saddle") && page.contains("Never touch the screw at the tail")
    );
    assert!(page.contains("name=\"slide\"") && !page.contains("Turns: 1/4"));
    let slid = |by: &'static str| {
        [
            ("what", "move"),
            ("string", "1"),
            ("slide", by),
            ("way", "away"),
        ]
    };
    // Nonsense, and turns where there is no screw, are answered at the field.
    for wrong in ["a bit", "2 turns", "40 mm"] {
        let refused = job.tell("intonation", &slid(wrong));
        assert_eq!(refused.status, 422, "{wrong}");
        assert!(
            refused.text.contains(&format!("value=\"{wrong}\"")),
            "{wrong}"
        );
    }
    // A bare number is millimetres; the button sends what was planned.
    assert_eq!(job.tell("intonation", &slid("2.5")).status, 303);
    let record = job.page("record");
    assert!(record.contains("saddle slid 2.5"), "{record}");
    let back = [
        ("what", "move"),
        ("string", "1"),
        ("slide", "0.4 mm"),
        ("way", "toward"),
    ];
    assert_eq!(job.tell("intonation", &back).status, 303);
    assert!(
        job.page("record")
            .contains("saddle slid 0.4 mm toward the neck")
    );
}

#[test]
fn a_screw_is_still_told_in_turns() {
    let mut job = sharp("fixed_plate");
    let page = job.page("intonation?string=1");
    assert!(page.contains("Turns: 1/4") && !page.contains("name=\"slide\""));
    let turned = [
        ("what", "move"),
        ("string", "1"),
        ("turns", "2 1/2"),
        ("way", "away"),
    ];
    assert_eq!(job.tell("intonation", &turned).status, 303);
    assert!(
        job.page("record")
            .contains("2 1/2 turns away from the neck")
    );
}
