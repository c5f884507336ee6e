//! Every station of a job as it is read: the words of its page without their marks. A page that changes is to be looked
//! at before it is taken over.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use server::Server;

/// The words of a page, a line for every piece of text.
fn words(page: &str) -> String {
    let main = page.find("<header").unwrap_or(0);
    let now = jiff::Zoned::now();
    let [today, yesterday] = [0, 1].map(|days| {
        let day = now.saturating_sub(jiff::Span::new().days(days));
        day.strftime("%-d %B %Y").to_string()
    });
    let mut lines = Vec::new();
    for piece in page[main..].split('<').skip(1) {
        let Some((tag, text)) = piece.split_once('>') else {
            continue;
        };
        // Fractions are set of three pieces, and belong to the line before them.
        let part = tag.starts_with("span class=\"frac") || tag == "/span";
        // The sheet says the day it is read on, and that is another one at midnight.
        let text = match text.trim() {
            text if text == today || text == yesterday => "(today)",
            text => text,
        };
        match lines.last_mut() {
            _ if text.is_empty() => {}
            Some(line) if part => {
                let line: &mut String = line;
                line.push_str(text);
            }
            _ => lines.push(text.to_owned()),
        }
    }
    lines.join("\n")
}

#[test]
fn every_station_as_it_is_read() {
    let server = Server::start();
    for (example, stations) in [
        (
            "six-string-mid-work",
            &[
                "intake",
                "strings",
                "intonation",
                "clearance",
                "plan",
                "whatif",
            ][..],
        ),
        ("seven-string-heights", &["relief", "nut", "action"]),
        ("floating-vibrato", &["balance"]),
        ("pickups-and-poles", &["pickups"]),
    ] {
        let path = format!(
            "{}/../../docs/formats/examples/{example}.json",
            env!("CARGO_MANIFEST_DIR")
        );
        let text = std::fs::read_to_string(path).unwrap();
        let came = server.upload("job.json", &text);
        assert_eq!(came.status, 303, "{}", came.text);
        let job = came.place.trim_end_matches("/record").to_owned();
        for station in stations {
            let page = server.get(&format!("{job}/{station}"));
            assert_eq!(page.status, 200, "{station}");
            insta::assert_snapshot!(*station, words(&page.text));
        }
    }
}

/// Whatever is turned is told in turns, a tail's seat too, and none by a turn of nothing.
#[test]
fn no_headline_orders_a_turn_of_nothing() {
    let server = Server::start();
    let folder = format!("{}/../../docs/formats/examples", env!("CARGO_MANIFEST_DIR"));
    let mut tail = String::new();
    for entry in std::fs::read_dir(folder).unwrap() {
        let path = entry.unwrap().path();
        let name = path.file_name().unwrap().to_str().unwrap().to_owned();
        if name.ends_with(".plan.json") {
            continue;
        }
        let text = std::fs::read_to_string(&path).unwrap();
        let came = server.upload("job.json", &text);
        let job = came.place.trim_end_matches("/record").to_owned();
        for station in [
            "balance",
            "relief",
            "nut",
            "action",
            "intonation",
            "pickups",
            "plan",
        ] {
            let page = server.get(&format!("{job}/{station}"));
            if page.status != 200 {
                continue;
            }
            let text = words(&page.text);
            let nothing = text.match_indices("0 turn").find(|(at, _)| {
                !text[..*at].ends_with(|before: char| before.is_ascii_digit() || before == '.')
            });
            assert_eq!(nothing, None, "{name} at {station}");
            if name == "rocking-tail.json" && station == "balance" {
                tail = text;
            }
        }
    }
    assert!(
        tail.contains("Spring looser:3/8turn counter-clockwise"),
        "{tail}"
    );
}
