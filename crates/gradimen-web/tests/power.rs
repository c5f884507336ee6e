//! The power goes at any moment: of what was not yet on the disk nothing came there, or some of it, in any order, torn at any
//! sector. What had been acknowledged is there afterwards, and every journal is whole.
//!
//! A library that is preloaded into the program (`power/log.c`) writes down every change of its files and every moment at which it
//! asked for them to be on the disk; each cut then plays that back. Names of files are taken to last from the moment they are made.
//! Sixty cuts here; as many as are wanted by `CUTS=2000 cargo test --release -p gradimen-web --test power -- --nocapture`.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there
#![cfg(target_os = "linux")]

mod server;

use std::collections::HashMap;
use std::fs::OpenOptions;
use std::io::Write;
use std::path::Path;
use std::process::Command;

use gradimen_store::backup::file_of;
use gradimen_store::verify::verify;
use gradimen_store::{Store, StoreError};
use server::nonsense::Chance;
use server::program::Program;
use server::{borrowed, inputs, set};

const CUTS: u64 = 60;
/// So many readings, so that the log is folded into the file on the way more than once.
const READINGS: u64 = 160;
const SECTOR: usize = 512;
const FILES: [&str; 2] = ["gradimen.db", "gradimen.db-wal"];

/// What was written down.
enum Change {
    Wrote {
        at: usize,
        bytes: Vec<u8>,
    },
    Cut {
        length: usize,
    },
    Synced,
    /// The client had the answer: so many entries of the job.
    Acknowledged(u64),
}

fn preloaded(folder: &Path) -> std::path::PathBuf {
    let library = folder.join("log.so");
    let source = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/power/log.c");
    let made = Command::new("cc")
        .args(["-shared", "-fPIC", "-O1", "-o"])
        .args([&library, &source])
        .arg("-ldl")
        .status();
    assert!(made.unwrap().success());
    library
}

/// Reads one note after the other into a job, and notes beside the program's own log what was acknowledged.
fn recorded(data: &Path, library: &Path, log: &Path) {
    let environment = [
        ("LD_PRELOAD", library),
        ("GRADIMEN_LOG", log),
        ("GRADIMEN_WATCH", data),
    ];
    let program = Program::start(data, &["--listen", "127.0.0.1:0"], &environment);
    let at = program.address.clone();
    let agent = ureq::Agent::config_builder()
        .http_status_as_error(false)
        .max_redirects(0)
        .build()
        .new_agent();
    let get = |path: &str| {
        let answer = agent.get(format!("{at}{path}")).call().unwrap();
        answer.into_body().read_to_string().unwrap()
    };
    let post = |path: &str, form: &[(&str, &str)]| {
        let request = agent.post(format!("{at}{path}")).header("origin", &at);
        let answer = request.send_form(form.iter().copied()).unwrap();
        let place = answer.headers().get("location").unwrap();
        place.to_str().unwrap().to_owned()
    };
    let acknowledged = |entries: u64| {
        let mut log = OpenOptions::new().append(true).open(log).unwrap();
        log.write_all(format!("a - {entries} 0\n").as_bytes())
            .unwrap();
    };
    let mut fields = inputs(&get("/instruments/new"));
    set(&mut fields, "name", "Heron");
    let instrument = post("/instruments", &borrowed(&fields));
    let open = format!("{instrument}/open");
    let mut fields = inputs(&get(&open));
    set(&mut fields, "purpose", "before loan");
    post(&open, &borrowed(&fields));
    let seen = || {
        let page = get("/jobs/1/record");
        let found = inputs(&page).into_iter().find(|(name, _)| name == "seen");
        found.unwrap().1.parse::<u64>().unwrap()
    };
    acknowledged(seen());
    for reading in 0..READINGS {
        let (before, text) = (
            seen(),
            format!("note {reading} {}", "of some length ".repeat(60)),
        );
        let form = [
            ("what", "note"),
            ("station", "record"),
            ("seen", &before.to_string()),
            ("text", &text),
        ];
        post("/jobs/1/tell", &form);
        acknowledged(before + 1);
    }
    // The last of it goes with the power, too.
    drop(program);
}

fn changes(log: &Path) -> Vec<(String, Change)> {
    let bytes = std::fs::read(log).unwrap();
    let mut rest = &bytes[..];
    let mut all = Vec::new();
    while let Some(end) = rest.iter().position(|byte| *byte == b'\n') {
        let head = String::from_utf8(rest[..end].to_vec()).unwrap();
        let mut words = head.rsplitn(3, ' ');
        let length: usize = words.next().unwrap().parse().unwrap();
        let at: usize = words.next().unwrap().parse().unwrap();
        let (kind, name) = words.next().unwrap().split_once(' ').unwrap();
        rest = &rest[end + 1..];
        let change = match kind {
            "w" => Change::Wrote {
                at,
                bytes: rest[..length].to_vec(),
            },
            "t" => Change::Cut { length: at },
            "s" => Change::Synced,
            "a" => Change::Acknowledged(at as u64),
            other => panic!("{other}"),
        };
        rest = &rest[length..];
        if name == "-" || FILES.contains(&name) {
            all.push((name.to_owned(), change));
        }
    }
    all
}

fn put(file: &mut Vec<u8>, at: usize, bytes: &[u8]) {
    if file.len() < at + bytes.len() {
        file.resize(at + bytes.len(), 0);
    }
    file[at..at + bytes.len()].copy_from_slice(bytes);
}

/// What of a change that nobody waited for came to the disk: nothing, all of it, or some of its sectors.
fn came(file: &mut Vec<u8>, change: &Change, chance: &mut Chance, some: u64) {
    match change {
        Change::Wrote { at, bytes } => {
            for (number, part) in bytes.chunks(SECTOR).enumerate() {
                if chance.next() % 4 < some {
                    put(file, at + number * SECTOR, part);
                }
            }
        }
        Change::Cut { length } if chance.next() % 4 < some => file.resize(*length, 0),
        _ => {}
    }
}

/// The files as a cut before change `cut` leaves them, and what had been acknowledged.
fn left(
    all: &[(String, Change)],
    cut: usize,
    chance: &mut Chance,
) -> (HashMap<&'static str, Vec<u8>>, u64) {
    let mut files = HashMap::new();
    let mut acknowledged = 0;
    // None, a quarter, half, three quarters or all of what was under way.
    let some = chance.next() % 5;
    for name in FILES {
        let mut on_disk: Vec<u8> = Vec::new();
        let mut under_way: Vec<&Change> = Vec::new();
        for (_, change) in all[..cut].iter().filter(|(file, _)| file == name) {
            if matches!(change, Change::Synced) {
                for done in under_way.drain(..) {
                    came(&mut on_disk, done, chance, 4);
                }
            } else {
                under_way.push(change);
            }
        }
        for change in under_way {
            came(&mut on_disk, change, chance, some);
        }
        files.insert(name, on_disk);
    }
    for (_, change) in &all[..cut] {
        if let Change::Acknowledged(entries) = change {
            acknowledged = *entries;
        }
    }
    (files, acknowledged)
}

#[test]
fn what_was_acknowledged_is_there_after_the_power_went() {
    let cuts = std::env::var("CUTS").map_or(CUTS, |cuts| cuts.parse().unwrap());
    let beside = tempfile::tempdir().unwrap();
    let data = beside.path().join("data");
    let log = beside.path().join("log");
    recorded(&data, &preloaded(beside.path()), &log);
    let all = changes(&log);
    let syncs = all
        .iter()
        .filter(|(_, change)| matches!(change, Change::Synced))
        .count();
    assert!(syncs as u64 > READINGS, "{syncs}");
    let first = all
        .iter()
        .position(|(_, change)| matches!(change, Change::Acknowledged(_)));
    let first = first.unwrap();
    let mut chance = Chance(0x9E37_79B9_7F4A_7C15);
    let mut lost_under_way = 0;
    for _ in 0..cuts {
        let span = (all.len() - first) as u64;
        let cut = first + 1 + usize::try_from(chance.next() % span).unwrap();
        let (files, acknowledged) = left(&all, cut, &mut chance);
        let folder = tempfile::tempdir().unwrap();
        for (name, bytes) in &files {
            if !bytes.is_empty() {
                std::fs::write(folder.path().join(name), bytes).unwrap();
            }
        }
        let found = actix_web::rt::System::new().block_on(async {
            let store = Store::open(folder.path()).await?;
            let found = store.worked(1).await?.job.seq();
            store.close().await?;
            let verdict = verify(&file_of(folder.path())).await?;
            assert_eq!(verdict.problems, [], "cut before change {cut}");
            Ok::<u64, StoreError>(found)
        });
        let found = found.unwrap_or_else(|error| panic!("cut before change {cut}: {error}"));
        assert!(
            found >= acknowledged,
            "cut before change {cut}: {found} of {acknowledged}"
        );
        assert!(found <= acknowledged + 1);
        let written: usize = files.values().map(Vec::len).sum();
        lost_under_way += u64::from(written > 0 && found == acknowledged);
    }
    println!(
        "{cuts} cuts over {} changes and {syncs} syncs: nothing acknowledged was lost",
        all.len()
    );
    assert!(lost_under_way > 0);
}

/// The test can tell: were the program to answer before it is on the disk, cuts would find it.
#[test]
fn a_program_that_does_not_wait_for_the_disk_would_be_found_out() {
    let note = |entries| ("-".to_owned(), Change::Acknowledged(entries));
    let wrote = |at, byte| {
        let bytes = vec![byte; SECTOR];
        (FILES[1].to_owned(), Change::Wrote { at, bytes })
    };
    let all = [
        wrote(0, 1),
        note(1),
        (FILES[1].to_owned(), Change::Synced),
        wrote(SECTOR, 2),
        note(2),
    ];
    let mut chance = Chance(7);
    let mut gone = 0;
    for _ in 0..100 {
        let (files, acknowledged) = left(&all, 5, &mut chance);
        assert_eq!(acknowledged, 2);
        assert_eq!(
            files[FILES[1]][..SECTOR],
            [1; SECTOR],
            "what was waited for is there"
        );
        gone += u64::from(files[FILES[1]].len() == SECTOR);
    }
    assert!(gone > 10 && gone < 90, "{gone}");
}
