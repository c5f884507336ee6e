//! The geometry stations over the real server: what is told is kept, asked about or answered.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::Answer;
use server::bench::Job;

impl Job {
    fn relief(&mut self, side: &str, gap: &str) -> Answer {
        self.tell(
            "relief",
            &[("what", "relief"), ("side", side), ("gap", gap)],
        )
    }

    fn action(&mut self, string: &str, gap: &str) -> Answer {
        self.tell(
            "action",
            &[
                ("what", "action"),
                ("string", string),
                ("fret", "12"),
                ("gap", gap),
            ],
        )
    }
}

#[test]
fn everything_of_these_stations_is_kept_and_says_so() {
    let mut job = Job::open();
    for (fields, says) in [
        (
            &[("what", "relief"), ("side", "bass"), ("gap", "6-8 thou")][..],
            "Relief, bass side, hold 1 and 12, read 6: 6-8 thou",
        ),
        (
            &[
                ("what", "relief"),
                ("side", "treble"),
                ("school", "last_8"),
                ("gap", ".3 mm"),
            ],
            "Relief, treble side, hold 1 and 22, read 8: .3 mm",
        ),
        (
            &[("what", "relief"), ("side", "treble"), ("gap", "none")],
            "none, it touches",
        ),
        (
            &[
                ("what", "relief"),
                ("side", "bass"),
                ("school", "last_8"),
                ("gap", "card"),
            ],
            "business card, 0.25-0.3 mm",
        ),
        (
            &[("what", "rod"), ("turns", "1/8"), ("way", "loosen")],
            "Truss rod 1/8 turn looser",
        ),
        (
            &[("what", "rod_stopped"), ("how", "rubbery")],
            "Truss rod: springs back",
        ),
        (
            &[
                ("what", "relief_target"),
                ("relief", "8 thou"),
                ("target_school", "17_8"),
            ],
            "Targets: relief 8 thou (hold 1 and 17, read 8)",
        ),
        (
            &[
                ("what", "nut"),
                ("string", "4"),
                ("held", "3"),
                ("gap", "2 thou"),
            ],
            "String 4, held at 3, fret 1: 2 thou",
        ),
        (
            &[
                ("what", "nut_moved"),
                ("strings", "all"),
                ("nut_move", "-3 thou"),
            ],
            "Nut filed by 3 thou under string 1, 2, 3, 4, 5, 6",
        ),
        (
            &[
                ("what", "nut_target"),
                ("nut_treble", "18"),
                ("nut_bass", "22"),
                ("held", "0"),
            ],
            "nut 18 and 22",
        ),
        (
            &[
                ("what", "action"),
                ("string", "1"),
                ("fret", "17"),
                ("gap", "4.5/64"),
            ],
            "String 1, action at fret 17: 4.5/64",
        ),
        (
            &[
                ("what", "height"),
                ("adjuster", "2"),
                ("turns", "1/2"),
                ("way", "down"),
            ],
            "Action, saddle height, string 2: 1/2 turn down",
        ),
        (
            &[("what", "height_end"), ("adjuster", "2"), ("end", "bottom")],
            "Action, saddle height, string 2: all the way down",
        ),
        (
            &[("what", "shim"), ("shim", "wedge"), ("thickness", "0.4 mm")],
            "Neck on a wedge of 0.4 mm",
        ),
        (
            &[
                ("what", "height_target"),
                ("action_treble", "3/64"),
                ("action_bass", "4/64"),
                ("action_fret", "17"),
                ("inner", "gauge"),
            ],
            "action 3/64 and 4/64 at fret 17",
        ),
        (
            &[
                ("what", "buzz"),
                ("string", "3"),
                ("held", "5"),
                ("attack", "0.75"),
            ],
            "String 3 buzzes at fret 5 from 75 %",
        ),
        (
            &[
                ("what", "pickup"),
                ("pickup", "2"),
                ("side", "bass"),
                ("gap", "6.5/64"),
            ],
            "Pickup 2, bass side: gap 6.5/64",
        ),
        (
            &[
                ("what", "pickup_turned"),
                ("pickup", "3"),
                ("side", "treble"),
                ("turns", "1 1/4"),
                ("way", "away"),
            ],
            "Pickup 3, treble side: 1 1/4 turns down",
        ),
        (
            &[
                ("what", "level"),
                ("pickup", "1"),
                ("string", "2"),
                ("level", "-18,5 dB"),
            ],
            "Pickup 1, string 2: -18.5 dB",
        ),
    ] {
        // Some of it contradicts the rest: said to be right, it is kept.
        let answer = job.tell("record", &[fields, &[("sure", "yes")]].concat());
        assert_eq!(answer.status, 303, "{fields:?}: {}", answer.text);
        assert!(job.page("record").contains(says), "{says}");
    }
    for station in [
        "relief",
        "nut",
        "action",
        "clearance",
        "plan",
        "intonation",
        "pickups",
    ] {
        assert!(
            job.page(station).contains("aria-current=\"page\""),
            "{station}"
        );
    }
    let csv = job.page("readings.csv");
    assert!(
        csv.contains("relief") && csv.contains("action, held at 0"),
        "{csv}"
    );
}

#[test]
fn nonsense_is_answered_where_it_stands() {
    let mut job = Job::open();
    for (station, fields, says) in [
        (
            "relief",
            &[("what", "relief"), ("side", "bass"), ("gap", "a hair")][..],
            "a hair",
        ),
        (
            "relief",
            &[("what", "relief"), ("side", "left"), ("gap", "6")],
            "treble or the bass side",
        ),
        (
            "relief",
            &[("what", "relief"), ("side", "bass"), ("gap", "4 in")],
            "lies between",
        ),
        (
            "relief",
            &[("what", "rod"), ("turns", "5"), ("way", "tighten")],
            "-2 to 2 turns",
        ),
        (
            "relief",
            &[("what", "rod_stopped"), ("how", "sad")],
            "how the rod felt",
        ),
        (
            "nut",
            &[("what", "nut"), ("string", "9"), ("gap", "20")],
            "from 1 to 6",
        ),
        (
            "nut",
            &[
                ("what", "nut_moved"),
                ("strings", "1"),
                ("nut_move", "5 mm"),
            ],
            "lies between",
        ),
        (
            "action",
            &[
                ("what", "action"),
                ("string", "1"),
                ("fret", "12"),
                ("gap", "4/63"),
            ],
            "rules are divided",
        ),
        (
            "action",
            &[
                ("what", "height"),
                ("adjuster", "treble"),
                ("turns", "1"),
                ("way", "up"),
            ],
            "screws of its own",
        ),
        (
            "action",
            &[
                ("what", "height"),
                ("adjuster", "x"),
                ("turns", "1"),
                ("way", "up"),
            ],
            "which screw or post",
        ),
        (
            "action",
            &[("what", "shim"), ("shim", "full"), ("thickness", "9 mm")],
            "lies between",
        ),
        (
            "pickups",
            &[
                ("what", "pickup"),
                ("pickup", "4"),
                ("side", "bass"),
                ("gap", "2"),
            ],
            "from 1 to 3",
        ),
        (
            "pickups",
            &[
                ("what", "level"),
                ("pickup", "1"),
                ("string", "1"),
                ("level", "loud"),
            ],
            "decibels",
        ),
        (
            "clearance",
            &[
                ("what", "buzz"),
                ("string", "1"),
                ("held", "40"),
                ("attack", "0.5"),
            ],
            "from 0 to 21",
        ),
    ] {
        let answer = job.tell(station, fields);
        assert_eq!(answer.status, 422, "{fields:?}");
        assert!(answer.text.contains(says), "{fields:?}: no '{says}'");
    }
}

#[test]
fn a_slip_is_asked_about_before_it_is_kept() {
    let mut job = Job::open();
    assert_eq!(job.action("1", "4/64").status, 303);
    let asked = job.action("1", "4/32");
    assert_eq!(asked.status, 422);
    assert!(asked.text.contains("32nds written for 64ths?") && asked.text.contains("keep-read"));
    assert!(!job.page("record").contains("4/32"));
    // Said to be right, it is kept.
    let sure = job.tell(
        "action",
        &[
            ("what", "action"),
            ("string", "1"),
            ("fret", "12"),
            ("gap", "4/32"),
            ("sure", "yes"),
        ],
    );
    assert_eq!(sure.status, 303);
    assert!(job.page("record").contains("4/32"));
}

#[test]
fn relief_becomes_a_turn_and_a_twist_stops_it() {
    let mut job = Job::open();
    assert!(job.page("relief").contains("measure relief"));
    // The cursor goes across to the side that is still to be read; with both read a turn is ordered, and the keys are for that.
    let first = job.relief("treble", "14 thou");
    let across = job.server.get(&first.place).text;
    assert!(
        across.contains("data-focus=\"relief-2\""),
        "{}",
        first.place
    );
    let next = job.relief("bass", "15 thou");
    assert!(next.place.contains("side=bass"), "{}", next.place);
    let turn = job.server.get(&next.place).text;
    assert!(turn.contains("data-focus=\"\"") && turn.contains("id=\"done\""));
    let page = job.page("relief");
    assert!(page.contains("Tighten") && page.contains("id=\"done\"") && page.contains("rounds"));
    assert!(job.page("plan").contains("tighten, clockwise"));
    assert!(job.page("action").contains("Truss rod first"));
    let mut twisted = Job::open();
    twisted.relief("treble", "rocks");
    twisted.relief("bass", "8 thou");
    let page = twisted.page("relief");
    assert!(page.contains("fretwork first") && !page.contains("id=\"done\""));
    // The job opens where the work stands.
    assert!(
        twisted
            .server
            .get(&twisted.place)
            .place
            .ends_with("/relief?focus=asked")
    );
}

/// One rod turns both sides: where it is left with one of them off, the page does not call both within.
#[test]
fn a_rod_left_between_two_sides_says_so() {
    let mut job = Job::open();
    let target = [
        ("what", "relief_target"),
        ("relief", "0.20 mm"),
        ("target_school", "12_6"),
    ];
    assert_eq!(job.tell("relief", &target).status, 303);
    for (side, gap) in [("treble", "0.14 mm"), ("bass", "0.26 mm")] {
        for _ in 0..4 {
            let read = [
                ("what", "relief"),
                ("side", side),
                ("school", "12_6"),
                ("tool", "dial"),
                ("gap", gap),
                ("sure", "yes"),
            ];
            assert_eq!(job.tell("relief", &read).status, 303);
        }
    }
    let page = job.server.get(&format!("{}/relief", job.place)).text;
    assert!(page.contains("Leave the truss rod"), "{page}");
    assert!(page.contains("One rod turns both: their mean is aimed at."));
}

/// Slots that lie low under strings that are to come up are not filed for a saddle that has yet to move, nor called right.
#[test]
fn slots_that_wait_for_the_action_are_not_called_right() {
    let mut job = Job::open();
    for string in ["1", "2", "3", "4", "5", "6"] {
        let dial = ("tool", "dial");
        let over = [
            ("what", "action"),
            ("string", string),
            ("fret", "12"),
            ("gap", "0.7 mm"),
            ("sure", "yes"),
            dial,
        ];
        assert_eq!(job.tell("action", &over).status, 303);
        let slot = [
            ("what", "nut"),
            ("string", string),
            ("held", "0"),
            ("gap", "0.41 mm"),
            ("sure", "yes"),
            dial,
        ];
        for _ in 0..3 {
            assert_eq!(job.tell("nut", &slot).status, 303);
        }
    }
    let page = job.server.get(&format!("{}/nut", job.place)).text;
    assert!(!page.contains("File 0"), "{page}");
}
