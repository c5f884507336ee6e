//! What hands type at the bench, in the field where they type it, and what of it stands in the table afterwards: the
//! number, its unit and the tool that it was read with. The lengths expected are worked out here by hand.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::bench::Job;

/// Types into a field of a station and answers with the last line of the table: value in millimetres, and tool.
fn typed(station: &str, fields: &[(&str, &str)]) -> Result<(f64, String), String> {
    let mut job = Job::open();
    let answer = job.tell(station, &[fields, &[("sure", "yes")]].concat());
    if answer.status != 303 {
        return Err(answer.text);
    }
    let table = job.server.get(&format!("{}/readings.csv", job.place)).text;
    let last = table.trim_end().lines().last().unwrap().to_owned();
    let cells: Vec<&str> = last.rsplitn(5, ',').collect();
    Ok((cells[3].parse().unwrap(), cells[1].to_owned()))
}

const RELIEF: [(&str, &str); 2] = [("what", "relief"), ("side", "bass")];
const NUT: [(&str, &str); 3] = [("what", "nut"), ("string", "3"), ("held", "3")];
const ACTION: [(&str, &str); 3] = [("what", "action"), ("string", "1"), ("fret", "12")];
const PICKUP: [(&str, &str); 3] = [("what", "pickup"), ("pickup", "1"), ("side", "bass")];

#[test]
fn bare_numbers_are_what_the_tool_of_the_field_shows() {
    let inch = 25.4;
    for (station, field, text, mm, tool) in [
        // Feelers are named by their thousandths.
        ("relief", &RELIEF[..], "6", 0.006 * inch, "feeler"),
        ("relief", &RELIEF[..], "6.5", 0.0065 * inch, "feeler"),
        ("relief", &RELIEF[..], "6-8", 0.007 * inch, "feeler"),
        ("nut", &NUT[..], "3", 0.003 * inch, "feeler"),
        // A rule in 64ths is read in divisions and halves of them.
        ("action", &ACTION[..], "4", 4.0 / 64.0 * inch, "rule_64"),
        ("action", &ACTION[..], "4.5", 4.5 / 64.0 * inch, "rule_64"),
        ("pickups", &PICKUP[..], "6", 6.0 / 64.0 * inch, "rule_64"),
        // What cannot be meant so is read as what can.
        ("relief", &RELIEF[..], ".3", 0.3, ""),
        ("relief", &RELIEF[..], ".010", 0.010 * inch, ""),
        ("relief", &RELIEF[..], "0.010", 0.010 * inch, ""),
        ("action", &ACTION[..], "1.6", 1.6, ""),
        ("action", &ACTION[..], ".062", 0.062 * inch, ""),
        ("action", &ACTION[..], "75", 0.075 * inch, ""),
        // A decimal comma is a decimal point, a unit is what it says, and a little more or less is up to half a division.
        ("action", &ACTION[..], "1,8 mm", 1.8, ""),
        ("relief", &RELIEF[..], "0,2 mm", 0.2, ""),
        ("relief", &RELIEF[..], "0.15mm", 0.15, ""),
        ("action", &ACTION[..], "5/64", 5.0 / 64.0 * inch, ""),
        ("action", &ACTION[..], "3/64+", 3.25 / 64.0 * inch, ""),
        ("action", &ACTION[..], "2/32-", 1.75 / 32.0 * inch, ""),
        ("pickups", &PICKUP[..], "3/32\"", 3.0 / 32.0 * inch, ""),
    ] {
        let all = [field, &[("gap", text)]].concat();
        let (read, with) =
            typed(station, &all).unwrap_or_else(|page| panic!("{station} {text}: {page}"));
        assert!(
            (read - mm).abs() < 6e-5,
            "{station}: {text} was read as {read} mm, not {mm}"
        );
        if !tool.is_empty() {
            assert_eq!(with, tool, "{station}: {text}");
        }
    }
}

#[test]
fn a_chosen_tool_says_what_a_bare_number_counts() {
    for (tool, text, mm) in [
        ("rule_32", "2.5", 2.5 / 32.0 * 25.4),
        ("rule_half_mm", "2", 2.0),
        ("rule_64", "5", 5.0 / 64.0 * 25.4),
    ] {
        let all = [&ACTION[..], &[("gap", text), ("tool", tool)]].concat();
        assert_eq!(
            typed("action", &all).map(|(_, with)| with),
            Ok(tool.to_owned())
        );
        let (read, _) = typed("action", &all).unwrap();
        assert!((read - mm).abs() < 6e-5, "{tool} {text}: {read}");
    }
}

#[test]
fn what_cannot_be_meant_is_answered_in_words_and_stays() {
    for (station, field, text) in [
        ("relief", &RELIEF[..], "six"),
        ("relief", &RELIEF[..], "6 furlongs"),
        ("action", &ACTION[..], "1.2.3"),
        ("action", &ACTION[..], "40 mm"),
        ("pickups", &PICKUP[..], ""),
        ("nut", &NUT[..], "8-6-4"),
    ] {
        let all = [field, &[("gap", text)]].concat();
        let page = typed(station, &all).expect_err(text);
        assert!(
            page.contains("is not understood; write")
                || page.contains("lies between")
                || page.contains("write"),
            "{station} {text}"
        );
    }
}

#[test]
fn a_further_reading_is_averaged_or_takes_the_place_of_those_before_it() {
    // Two feelers on one neck: 8 and 10 thou, with a word for the record between them.
    let bass = |replace: &[(&str, &str)]| {
        let mut job = Job::open();
        let read = |job: &mut Job, gap, other: &[(&str, &str)]| {
            let all = [&RELIEF[..], &[("gap", gap)], other].concat();
            assert_eq!(job.tell("relief", &all).status, 303);
        };
        read(&mut job, "8", &[]);
        let note = [("what", "note"), ("text", "another feeler")];
        assert_eq!(job.tell("record", &note).status, 303);
        read(&mut job, "10", replace);
        let page = job.page("relief?side=bass");
        let field = page.split("id=\"relief-2\"").next().unwrap().to_owned();
        let shown = field.rsplit("aria-hidden=\"true\">").next().unwrap();
        shown.split(" mm").next().unwrap().parse::<f64>().unwrap()
    };
    let (averaged, replaced) = (bass(&[]), bass(&[("replace", "yes")]));
    assert!((averaged - 9.0 * 0.0254).abs() < 0.015, "{averaged}");
    assert!((replaced - 10.0 * 0.0254).abs() < 0.015, "{replaced}");
    // The choice stays with the station until it is taken back.
    let mut job = Job::open();
    let all = [&RELIEF[..], &[("gap", "8"), ("replace", "yes")]].concat();
    let on = job.tell("relief", &all).place;
    assert!(on.contains("replace=yes"), "{on}");
    let page = job.server.get(&on).text;
    assert!(page.contains("name=\"replace\" value=\"yes\""));
}
