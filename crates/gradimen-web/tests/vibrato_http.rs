//! Vibrato, pickups and what-if over the real server.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;

#[test]
fn a_what_if_is_looked_at_and_made_so() {
    let mut job = Job::open();
    let nothing = job.page("whatif");
    assert!(nothing.contains("Choose a change") && !nothing.contains("Fit this set"));
    let place = "whatif?preset=half+a+step+down&usual_set=keep_feel&a4=440&touch=hard";
    let sheet = job.page(place);
    assert!(sheet.contains("Fit this set") && sheet.contains("Adjustments needed"));
    assert!(sheet.contains("Eb4"), "the notes are those to come");
    // Nothing was written by looking.
    assert!(!job.page("record").contains("Strung"));
    let form: Vec<(String, String)> =
        server::inputs(&sheet[sheet.find("value=\"adopt\"").unwrap() - 40..]);
    let send: Vec<(&str, &str)> = form
        .iter()
        .filter(|(name, _)| name != "seen" && name != "station")
        .map(|(name, value)| (name.as_str(), value.as_str()))
        .collect();
    let answer = job.tell("plan", &send);
    assert_eq!(answer.status, 303, "{}", answer.text);
    let record = job.page("record");
    assert!(record.contains("Strung") && record.contains("Player: hard touch"));
    job.seen += 1;
    let again = job.tell("plan", &send);
    assert_eq!(again.status, 422);
    assert!(again.text.contains("nothing to change"));
    let like = job.page("whatif?feel_scale=30+in&a4=440");
    assert!(like.contains("N, ") && !like.contains("It cannot be"));
    let wrong = job.page("whatif?feel_scale=3+in&a4=440");
    assert!(wrong.contains("It cannot be") && wrong.contains("value=\"3 in\""));
    let refused = job.page("whatif?a4=9000");
    assert!(refused.contains("It cannot be"));
}

#[test]
fn a_vibrato_is_balanced_and_a_fixed_bridge_has_nothing_to_balance() {
    let mut fixed = Job::open();
    assert!(!fixed.page("relief").contains("/balance"));
    assert!(fixed.page("balance").contains("Nothing to balance"));
    let seat = [("what", "seat"), ("turns", "1"), ("way", "tighter")];
    let refused = fixed.tell("balance", &seat);
    assert!(refused.status == 422 && refused.text.contains("no vibrato on its record"));
    let refused = fixed.tell("balance", &[("what", "balance"), ("gap", "2 mm")]);
    assert_eq!(refused.status, 422);
    assert!(refused.text.contains("has none on its record"));

    let mut job = Job::on("knife_edge_vibrato", &[]);
    assert!(
        job.page("strings").contains("/balance"),
        "the station is there"
    );
    for (fields, says) in [
        (
            &[("what", "balance"), ("gap", "4.6 mm")][..],
            "Vibrato: gap 4.6 mm",
        ),
        (
            &[("what", "claw"), ("turns", "1 1/2"), ("way", "in")],
            "Claw 1 1/2 turns in",
        ),
        (&[("what", "balance"), ("gap", "flat")], "flat on the body"),
        (
            &[("what", "springs"), ("count", "4"), ("converging", "yes")],
            "4 springs, converging",
        ),
        (
            &[("what", "balance_wanted"), ("school_wanted", "decked")],
            "Vibrato target: decked",
        ),
    ] {
        let answer = job.tell("balance", fields);
        assert_eq!(answer.status, 303, "{fields:?}: {}", answer.text);
        assert!(job.page("record").contains(says), "{says}");
    }
    assert!(job.page("balance").contains("beyond the strings"));
    let bad = job.tell(
        "balance",
        &[("what", "claw"), ("turns", "12"), ("way", "in")],
    );
    assert!(bad.status == 422 && bad.text.contains("-10 to 10 turns"));
}

#[test]
fn a_gap_that_does_not_fit_is_asked_about() {
    let mut job = Job::on("knife_edge_vibrato", &[]);
    for _ in 0..2 {
        let answer = job.tell("balance", &[("what", "balance"), ("gap", "7.5/64")]);
        assert_eq!(answer.status, 303, "{}", answer.text);
    }
    let twice = [("what", "balance"), ("gap", "7.5/32")];
    let asked = job.tell("balance", &twice);
    assert_eq!(asked.status, 422);
    assert!(asked.text.contains("32nds written for 64ths?"));
    assert!(asked.text.contains("not at pitch?"));
    // The offered answer tells the gap without the slip.
    let start = asked.text.find("32nds written").unwrap();
    let form = asked.text[..start].rfind("<form").unwrap();
    let offered = server::inputs(&asked.text[form..start]);
    assert!(
        offered.contains(&("gap".to_owned(), "2.977 mm".to_owned())),
        "{offered:?}"
    );
    assert!(
        !job.page("record").contains("7.5/32"),
        "nothing was kept yet"
    );
    let kept = job.tell("balance", &[twice[0], twice[1], ("sure", "yes")]);
    assert_eq!(kept.status, 303, "{}", kept.text);
    assert!(job.page("record").contains("7.5/32"));
}

#[test]
fn claw_and_springs_are_told_side_by_side_and_one_by_one() {
    let mut job = Job::on("knife_edge_vibrato", &[("rate", "500 g 4.1 mm")]);
    for (fields, says) in [
        (&[("what", "balance"), ("gap", "2.5 mm")][..], "gap 2.5 mm"),
        (
            &[("what", "spring_length"), ("spring_length", "78 mm")],
            "A spring of the vibrato is 78 mm long",
        ),
        (
            &[
                ("what", "claw_ends"),
                ("claw_treble", "8 mm"),
                ("claw_bass", "10 mm"),
            ],
            "8 mm at the treble side, 10 mm at the bass side",
        ),
    ] {
        let answer = job.tell("balance", fields);
        assert_eq!(answer.status, 303, "{fields:?}: {}", answer.text);
        assert!(job.page("record").contains(says), "{says}");
    }
    let page = job.page("balance");
    assert!(page.contains("Claw, treble side:") && page.contains("Claw, bass side:"));
    let apart = server::inputs(&page)
        .into_iter()
        .find(|(name, _)| name == "apart")
        .unwrap();
    assert_eq!(apart.1, "0.5");
    let nonsense = [
        ("what", "claw"),
        ("turns", "0"),
        ("way", "in"),
        ("apart", "much"),
    ];
    let refused = job.tell("balance", &nonsense);
    assert!(refused.status == 422 && refused.text.contains("one side is to go further"));
    let turned = job.tell(
        "balance",
        &[
            ("what", "claw"),
            ("turns", "0"),
            ("way", "in"),
            ("apart", "1"),
        ],
    );
    assert_eq!(turned.status, 303, "{}", turned.text);
    assert!(
        job.page("record")
            .contains("treble side 1 turn out, bass side 1 turn in")
    );
    for (fields, says) in [
        (
            &[("what", "spring_length"), ("spring_length", "long")][..],
            "long",
        ),
        (
            &[
                ("what", "claw_ends"),
                ("claw_treble", "8"),
                ("claw_bass", "8 in"),
            ],
            "lies between",
        ),
        (
            &[("what", "seat"), ("turns", "1"), ("way", "tighter")],
            "its springs on a claw",
        ),
    ] {
        let answer = job.tell("balance", fields);
        assert_eq!(answer.status, 422, "{fields:?}");
        assert!(answer.text.contains(says), "{says}");
    }
}

#[test]
fn tails_and_arms_are_balanced_in_their_own_words() {
    let mut arm = Job::on("arm_tail", &[]);
    assert!(arm.page("balance").contains("target 10.0 mm under the arm"));
    assert_eq!(
        arm.tell(
            "balance",
            &[
                ("what", "balance"),
                ("gap", "8 mm"),
                ("tool", "rule_half_mm")
            ]
        )
        .status,
        303
    );
    let page = arm.page("balance");
    assert!(
        page.contains("washers under") && !page.contains("decked"),
        "{page}"
    );
    let washers = server::inputs(&page[page.find("value=\"seat\"").unwrap() - 40..]);
    let turns = washers.iter().find(|(name, _)| name == "turns").unwrap();
    let told = arm.tell(
        "balance",
        &[("what", "seat"), ("turns", &turns.1), ("way", "put in")],
    );
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(arm.page("record").contains("washers put in"));
    let refused = arm.tell(
        "balance",
        &[("what", "claw"), ("turns", "1"), ("way", "in")],
    );
    assert!(refused.status == 422 && refused.text.contains("one spring in its tail"));
    let mut tail = Job::on("rocking_tail", &[]);
    let told = tail.tell(
        "balance",
        &[("what", "seat"), ("turns", "1/2"), ("way", "looser")],
    );
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(tail.page("record").contains("1/2 turn looser"));
}

#[test]
fn poles_ends_and_levels_across_the_strings() {
    let mut job = Job::on("fixed_plate", &[("pickup3_poles", "M3")]);
    let pickup =
        |fields: &[(&'static str, &'static str)]| [&[("pickup", "3")][..], fields].concat();
    for (side, gap) in [("treble", "4/64"), ("bass", "6/64")] {
        let answer = job.tell(
            "pickups",
            &pickup(&[("what", "pickup"), ("side", side), ("gap", gap)]),
        );
        assert_eq!(answer.status, 303, "{}", answer.text);
    }
    // One pole stands far too low: it is brought nearer by its screw.
    let told = job.tell(
        "pickups",
        &pickup(&[("what", "pole"), ("string", "3"), ("pole_gap", "2.9 mm")]),
    );
    assert_eq!(told.status, 303, "{}", told.text);
    let page = job.page("pickups?pickup=3&side=treble");
    assert!(
        page.contains("value=\"pole_turned\""),
        "its screw is to be turned"
    );
    let told = job.tell(
        "pickups",
        &pickup(&[
            ("what", "pole_turned"),
            ("string", "3"),
            ("turns", "2"),
            ("way", "nearer"),
        ]),
    );
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(
        job.page("record")
            .contains("pole piece of string 3: 2 turns up")
    );
    // Other gaps are wanted, further off than its screw lets it hang: hung from a guard it runs out of thread there.
    let told = job.tell(
        "pickups",
        &pickup(&[
            ("what", "pickup_target"),
            ("pickup_treble", "2.6 mm"),
            ("pickup_bass", "3 mm"),
        ]),
    );
    assert_eq!(told.status, 303, "{}", told.text);
    let page = job.page("pickups?pickup=3&side=treble");
    assert!(
        page.contains("measure the gap"),
        "both sides are known well before a screw is turned"
    );
    let told = job.tell(
        "pickups",
        &pickup(&[("what", "pickup_end"), ("side", "treble"), ("end", "down")]),
    );
    assert_eq!(told.status, 303, "{}", told.text);
    let page = job.page("pickups?pickup=3&side=treble");
    assert!(page.contains("Out of thread:") && page.contains("longer screws"));
    assert!(!page.contains("foam or spring squeezed"));
    // Levels of three strings: the treble side is louder and goes further off.
    for (string, level) in [("1", "-12"), ("3", "-14"), ("6", "-17 dB")] {
        let told = job.tell(
            "pickups",
            &pickup(&[("what", "level"), ("string", string), ("level", level)]),
        );
        assert_eq!(told.status, 303, "{}", told.text);
    }
    assert!(
        job.page("pickups")
            .contains("the treble side 5.0 \u{b1} 0.7 dB louder")
    );
    // One that was heard over several strokes says how well it is known, and only a number says that.
    let heard = [
        ("what", "level"),
        ("string", "6"),
        ("level", "-12"),
        ("doubt", "0.2"),
    ];
    let told = job.tell("pickups", &pickup(&heard));
    assert_eq!(told.status, 303, "{}", told.text);
    assert!(job.page("record").contains("-12 \u{b1} 0.2 dB, by ear"));
    let heard = [
        ("what", "level"),
        ("string", "6"),
        ("level", "-12"),
        ("doubt", "much"),
    ];
    assert_eq!(job.tell("pickups", &pickup(&heard)).status, 422);
    let wild = [
        ("what", "level"),
        ("string", "6"),
        ("level", "-12"),
        ("doubt", "1e9"),
    ];
    assert_eq!(job.tell("pickups", &pickup(&wild)).status, 422);
    for (fields, says) in [
        (
            &[
                ("what", "level"),
                ("pickup", "3"),
                ("string", "1"),
                ("level", "loud"),
            ][..],
            "what the meter shows",
        ),
        (
            &[
                ("what", "level"),
                ("pickup", "9"),
                ("string", "1"),
                ("level", "-3"),
            ],
            "a pickup",
        ),
        (
            &[
                ("what", "pole"),
                ("pickup", "3"),
                ("string", "9"),
                ("pole_gap", "2"),
            ],
            "a string",
        ),
        (
            &[
                ("what", "pole"),
                ("pickup", "3"),
                ("string", "1"),
                ("pole_gap", "near"),
            ],
            "near",
        ),
    ] {
        let answer = job.tell("pickups", fields);
        assert_eq!(answer.status, 422, "{fields:?}");
        assert!(answer.text.contains(says), "{says}: {}", answer.text);
    }
    let mut fixed = Job::open();
    let turned = fixed.tell(
        "pickups",
        &pickup(&[
            ("what", "pole_turned"),
            ("string", "3"),
            ("turns", "1"),
            ("way", "nearer"),
        ]),
    );
    assert!(
        turned.status == 422
            && turned
                .text
                .contains("the pole pieces of this pickup are fixed")
    );
}

#[test]
fn a_what_if_takes_gauges_targets_and_springs() {
    let mut job = Job::on("knife_edge_vibrato", &[]);
    let place =
        "whatif?gauges=12+16+20+32w+42w+54w&a4=440&want_treble=3/64&school=decked&springs=5";
    let sheet = job.page(place);
    assert!(sheet.contains(".054w") && sheet.contains("Fit this set"));
    let form = server::inputs(&sheet[sheet.find("value=\"adopt\"").unwrap() - 40..]);
    let send: Vec<(&str, &str)> = form
        .iter()
        .filter(|(name, _)| name != "seen" && name != "station")
        .map(|(name, value)| (name.as_str(), value.as_str()))
        .collect();
    let answer = job.tell("plan", &send);
    assert_eq!(answer.status, 303, "{}", answer.text);
    let record = job.page("record");
    for says in [
        "Strung",
        "Vibrato target: decked",
        "5 springs, parallel",
        "3/64",
    ] {
        assert!(record.contains(says), "{says}");
    }
    for (place, says) in [
        ("whatif?gauges=12+16&a4=440", "read 2 gauges, expected 6"),
        ("whatif?gauges=12+16+20+32w+42w+thick&a4=440", "thick"),
        ("whatif?a4=440&want_relief=a+lot", "a lot"),
        ("whatif?a4=440&springs=9", "It cannot be"),
    ] {
        let page = job.page(place);
        assert!(page.contains(says), "{says}");
        assert!(!page.contains("Fit this set"), "{says}");
    }
    // Two springs cannot, and the sheet says so before anything is off.
    let few = job.page("whatif?gauges=12+16+20+32w+42w+54w&a4=440&springs=1");
    assert!(few.contains("cannot hold this at its target"));
}

#[test]
fn a_rate_says_what_it_was_understood_as() {
    let job = Job::open();
    let understood = |typed: &str| {
        job.server
            .get(&format!("/understand?limits=spring_rate&rate={typed}"))
            .text
    };
    assert_eq!(understood("6.85+lbf/in"), "1200 N/m (6.8 lbf/in)");
    assert_eq!(understood("1+kg+8.2+mm"), "1196 N/m (6.8 lbf/in)");
    assert!(understood("soft").contains("is not understood"));
}
