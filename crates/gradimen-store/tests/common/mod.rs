//! Files to try things on.
#![allow(dead_code, unreachable_pub, clippy::unwrap_used, missing_docs)] // no test needs all of it

use std::io::{BufRead, BufReader, Write};
use std::path::Path;
use std::process::{Child, Command, Stdio};

use gradimen_bench::journal::{Event, Opened};
use gradimen_bench::model::defaults;
use gradimen_bench::model::instrument::{Instrument, Kind};
use gradimen_bench::model::{Place, Player, Reading, Reference, Strung, Touch, Tuning};
use gradimen_store::Store;
use gradimen_store::backup::file_of;
use gradimen_store::verify::verify;
use jiff::Timestamp;

pub fn at(second: i64) -> Timestamp {
    Timestamp::from_second(1_790_000_000 + second).unwrap()
}

pub fn instrument(number: &str, name: &str) -> Instrument {
    Instrument {
        stock_number: number.into(),
        name: name.into(),
        ..defaults::usual_instrument(Kind::Guitar, 6)
    }
}

pub fn opened(instrument: Instrument, purpose: &str) -> Opened {
    let kind = instrument.kind;
    Opened {
        strung: Strung {
            set: defaults::sets(kind, instrument.strings)[0].strings.clone(),
            tuning: Tuning::of(
                "standard",
                440.0,
                &defaults::tunings(kind, instrument.strings)[0].pitches,
            ),
        },
        heights: defaults::usual_heights(&instrument),
        instrument,
        instrument_version: 1,
        purpose: purpose.into(),
        player: Player {
            touch: Touch::Light,
            style: "folk trio".into(),
        },
        arrived: None,
        old_strings: false,
        taught: Vec::new(),
        last_time: None,
        practice: None,
    }
}

pub fn reading(cents: f64) -> Event {
    Event::read(
        Place::Intonation {
            string: 1,
            fret: 12,
        },
        Reading::Note {
            cents,
            against: Reference::Harmonic,
            resolution_cents: None,
            by_ear: false,
        },
    )
}

/// So many instruments with a job of five entries each.
pub async fn filled(folder: &Path, jobs: usize) -> Store {
    let store = Store::open(folder).await.unwrap();
    for number in 1..=jobs {
        let heron = instrument(&number.to_string(), "Heron");
        let id = store.add_instrument(&heron, at(0)).await.unwrap();
        let job = store
            .open_job(id, opened(heron, "before loan"), at(1))
            .await
            .unwrap();
        let read = [6.0, 6.2, 5.8, 6.1].map(reading).to_vec();
        store.append(job, 1, read, at(2)).await.unwrap();
    }
    store
}

/// Writes to the file beside the store, as a damaged disk or another program would.
pub fn beside(folder: &Path, sql: &str) {
    let done = python(
        "import sqlite3,sys; c=sqlite3.connect(sys.argv[1]); c.executescript(sys.argv[2]); c.commit()",
        &[file_of(folder).to_str().unwrap(), sql],
    )
    .wait()
    .unwrap();
    assert!(done.success());
}

fn python(code: &str, arguments: &[&str]) -> Child {
    Command::new("python3")
        .args(["-c", code])
        .args(arguments)
        .stdin(Stdio::piped())
        .stdout(Stdio::piped())
        .spawn()
        .unwrap()
}

/// Another program that holds the file's lock.
pub struct Held(Child);

pub fn held(folder: &Path) -> Held {
    let mut child = python(
        "import sqlite3,sys; c=sqlite3.connect(sys.argv[1]); c.execute('BEGIN IMMEDIATE'); print('held', flush=True); sys.stdin.readline()",
        &[file_of(folder).to_str().unwrap()],
    );
    let mut line = String::new();
    BufReader::new(child.stdout.as_mut().unwrap())
        .read_line(&mut line)
        .unwrap();
    assert_eq!(line.trim(), "held");
    Held(child)
}

impl Held {
    pub fn let_go(mut self) {
        self.0.stdin.as_mut().unwrap().write_all(b"\n").unwrap();
        self.0.wait().unwrap();
    }
}

/// Every journal and record of a file, as they are stored; why it cannot be read, where it cannot.
async fn documents(folder: &Path, jobs: i64) -> Result<Vec<String>, String> {
    let store = Store::open(folder)
        .await
        .map_err(|error| error.to_string())?;
    let mut all = Vec::new();
    for id in 1..=jobs {
        all.push(
            store
                .as_stored(id)
                .await
                .map_err(|error| error.to_string())?,
        );
        let versions = store.instrument_versions(id).await;
        all.push(format!(
            "{:?}",
            versions.map_err(|error| error.to_string())?
        ));
    }
    store.close().await.map_err(|error| error.to_string())?;
    Ok(all)
}

/// Flips one bit of a file, so many times anew, each time in another place; those that changed what was recorded and that nothing
/// named.
pub async fn flips(count: usize, seed: u64) -> Vec<String> {
    const JOBS: i64 = 3;
    let folder = tempfile::tempdir().unwrap();
    filled(folder.path(), 3).await.close().await.unwrap();
    let sound = std::fs::read(file_of(folder.path())).unwrap();
    let recorded = documents(folder.path(), JOBS).await.unwrap();
    let mut silent = Vec::new();
    let mut chance = seed | 1;
    for _ in 0..count {
        chance ^= chance << 13;
        chance ^= chance >> 7;
        chance ^= chance << 17;
        let bit = usize::try_from(chance % (sound.len() as u64 * 8)).unwrap();
        let hurt = tempfile::tempdir().unwrap();
        let mut bytes = sound.clone();
        bytes[bit / 8] ^= 1 << (bit % 8);
        std::fs::write(file_of(hurt.path()), bytes).unwrap();
        let named = match verify(&file_of(hurt.path())).await {
            Ok(verdict) => !verdict.problems.is_empty(),
            Err(_) => true,
        };
        if named {
            continue;
        }
        match documents(hurt.path(), JOBS).await {
            Ok(found) if found == recorded => {}
            Ok(_) => silent.push(format!("bit {bit} changed what was recorded")),
            // Refused at the start, with the reason: that is named too.
            Err(_) => {}
        }
    }
    silent
}
