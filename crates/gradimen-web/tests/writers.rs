//! Twenty hands at once, on one job and each on its own: every word that was acknowledged is there, once.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod server;

use std::collections::BTreeSet;

use server::{Server, inputs};

const WRITERS: usize = 20;
const WORDS: usize = 6;

/// Says something of a job as it stands, and again where somebody was quicker.
fn says(server: &Server, job: &str, text: &str) {
    loop {
        let page = server.get(&format!("{job}/record")).text;
        let sent: Vec<(String, String)> = inputs(&page)
            .into_iter()
            .filter(|(name, _)| name == "seen" || name == "press")
            .take(2)
            .collect();
        let mut form: Vec<(&str, &str)> = server::borrowed(&sent);
        form.extend([("what", "note"), ("station", "record"), ("text", text)]);
        match server.post(&format!("{job}/tell"), &form).status {
            303 => return,
            409 => {}
            other => panic!("{other}"),
        }
    }
}

#[test]
fn twenty_writers_lose_nothing_and_write_nothing_twice() {
    let server = Server::start();
    let shared = server.job();
    let own: Vec<String> = (0..WRITERS)
        .map(|writer| server.job_on(&format!("own {writer}")))
        .collect();
    std::thread::scope(|scope| {
        for (writer, own) in own.iter().enumerate() {
            let (server, shared) = (&server, &shared);
            scope.spawn(move || {
                for word in 0..WORDS {
                    says(server, shared, &format!("shared {writer}.{word}"));
                    says(server, own, &format!("own {writer}.{word}"));
                }
            });
        }
    });
    let notes = |job: &str| -> Vec<String> {
        let document = server.get(&format!("{job}/export.json")).text;
        let document: serde_json::Value = serde_json::from_str(&document).unwrap();
        let events = document["events"].as_array().unwrap();
        let texts = events
            .iter()
            .filter_map(|entry| entry["event"]["text"].as_str());
        texts.map(str::to_owned).collect()
    };
    let found = notes(&shared);
    assert_eq!(found.len(), WRITERS * WORDS);
    assert_eq!(found.iter().collect::<BTreeSet<_>>().len(), WRITERS * WORDS);
    for (writer, job) in own.iter().enumerate() {
        let expected: Vec<String> = (0..WORDS)
            .map(|word| format!("own {writer}.{word}"))
            .collect();
        assert_eq!(notes(job), expected);
    }
}
