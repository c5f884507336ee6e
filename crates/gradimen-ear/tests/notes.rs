//! Notes of a synthesiser that shares nothing with the ear (`tests/reference/synth.py`, SciPy): what is heard of them, what is refused,
//! and the same as a stream. The long table is in DESIGN.md.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::fs::File;
use std::io::BufReader;
use std::path::Path;

use gradimen_ear::{Ear, Kind, Listener, Note, Refusal, Said, Sound, measure};

struct Truth {
    set: String,
    string: u8,
    kind: String,
    fret: u8,
    hz: f64,
    stiffness: f64,
    level: f64,
    sound: Sound,
    ear: Ear,
}

fn truths() -> Vec<Truth> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/notes");
    let mut reader = csv::Reader::from_path(folder.join("truth.csv")).unwrap();
    let rows = reader.records().map(|row| {
        let row = row.unwrap();
        let file = File::open(folder.join(format!("{}.wav", &row[0]))).unwrap();
        let open: &[f64] = match &row[2] {
            "six" => &[329.628, 246.942, 195.998, 146.832, 110.0, 82.407],
            _ => &[97.999, 73.416, 55.0, 41.203, 30.868],
        };
        Truth {
            set: row[1].to_owned(),
            string: row[3].parse().unwrap(),
            kind: row[4].to_owned(),
            fret: row[5].parse().unwrap(),
            hz: row[6].parse().unwrap(),
            stiffness: row[7].parse().unwrap(),
            level: row[9].parse().unwrap(),
            sound: Sound::from_wav(BufReader::new(file)).unwrap(),
            ear: Ear::new(open, &[12]),
        }
    });
    rows.collect()
}

fn good() -> impl Iterator<Item = Truth> {
    truths()
        .into_iter()
        .filter(|truth| !truth.set.starts_with("bad"))
}

fn cents(heard: f64, truth: f64) -> f64 {
    1200.0 * (heard / truth).log2()
}

/// What is allowed of a set, cents: the bars at 95 % that the ear is held to.
fn bar(set: &str) -> f64 {
    match set {
        "clean" | "hum" => 0.02,
        "noise20" => 0.05,
        "glide" | "beat" => 0.15,
        _ => 0.45,
    }
}

#[test]
fn the_lowest_partial_is_heard_within_the_bars_and_within_what_is_claimed() {
    for truth in good() {
        let note = measure(&truth.sound.samples, truth.sound.rate, &truth.ear.pitches()).unwrap();
        let off = cents(note.hz, truth.hz);
        assert!(off.abs() < bar(&truth.set), "{}: {off} {note:?}", truth.set);
        assert!(
            off.abs() < 4.0 * note.width,
            "{}: {off} {note:?}",
            truth.set
        );
        let louder = note.level - truth.level;
        assert!(louder.abs() < 0.3, "{}: {louder} dB", truth.set);
        let stiff = (note.stiffness - truth.stiffness).abs();
        assert!(
            stiff < 4.0 * note.stiffness_width + 0.02 * truth.stiffness,
            "{}: {note:?}",
            truth.set
        );
    }
}

#[test]
fn the_string_and_how_it_was_played_are_heard() {
    for truth in good() {
        let note = measure(&truth.sound.samples, truth.sound.rate, &[]).unwrap();
        let place = truth.ear.heard(note, None).place.unwrap();
        let kind = match truth.kind.as_str() {
            "open" => Kind::Open,
            "harmonic" => Kind::Harmonic,
            _ => Kind::Fretted,
        };
        assert_eq!(
            (place.string, place.kind, place.fret),
            (truth.string, kind, truth.fret),
            "{}",
            truth.set
        );
    }
}

#[test]
fn what_is_no_note_is_refused_and_named() {
    for truth in truths()
        .into_iter()
        .filter(|truth| truth.set.starts_with("bad"))
    {
        let refused =
            measure(&truth.sound.samples, truth.sound.rate, &truth.ear.pitches()).unwrap_err();
        let named: &[Refusal] = match truth.set.as_str() {
            "bad_hum" => &[Refusal::Hum],
            "bad_noise" => &[Refusal::Noise, Refusal::Hum, Refusal::Quiet],
            "bad_two" => &[Refusal::TwoNotes],
            "bad_bend" | "bad_drift" => &[Refusal::Bends, Refusal::Drifts],
            _ => &[Refusal::Clipped],
        };
        assert!(named.contains(&refused), "{}: {refused:?}", truth.set);
    }
}

/// Everything that is said of a sound that comes in blocks.
fn streamed(sound: &Sound, block: usize) -> Vec<(f64, Said)> {
    let mut listener = Listener::new(sound.rate, &[]);
    let mut said = Vec::new();
    let mut heard = 0;
    // A room before it, as there is one.
    let quiet = vec![0.0; (0.2 * sound.rate) as usize];
    for part in [quiet.as_slice(), &sound.samples] {
        for block in part.chunks(block) {
            heard += block.len();
            let now = heard as f64 / sound.rate;
            said.extend(listener.hear(block).into_iter().map(|said| (now, said)));
        }
    }
    let now = heard as f64 / sound.rate;
    said.extend(listener.finish().into_iter().map(|said| (now, said)));
    said
}

#[test]
fn a_stream_says_something_soon_and_in_the_end_the_same_as_the_whole_whatever_its_blocks() {
    for truth in good().filter(|truth| truth.set == "clean" || truth.set == "glide") {
        for block in [128, 1000, 4096] {
            let said = streamed(&truth.sound, block);
            let (soon, first) = said
                .iter()
                .find_map(|(at, said)| match said {
                    Said::First(note) => Some((*at, note.clone())),
                    _ => None,
                })
                .unwrap();
            let last: Vec<&Note> = said
                .iter()
                .filter_map(|(_, said)| match said {
                    Said::Note(note) => Some(note),
                    _ => None,
                })
                .collect();
            assert_eq!(
                last.len(),
                1,
                "{} in blocks of {block}: {said:?}",
                truth.set
            );
            assert!(soon - first.at < 0.4 + 0.1, "{soon} {}", first.at);
            assert!(cents(first.hz, truth.hz).abs() < 4.0 * first.width.max(0.1));
            assert!(
                cents(last[0].hz, truth.hz).abs() < bar(&truth.set),
                "{:?}",
                last[0]
            );
        }
    }
}

#[test]
fn notes_that_follow_one_another_are_told_apart() {
    // Noise that begins with its file begins like a pluck; in a room it is there before.
    let notes: Vec<Truth> = good()
        .filter(|truth| truth.sound.rate == 44_100.0 && truth.set != "noise20")
        .collect();
    assert!(notes.len() >= 2);
    let mut all = vec![0.0; 10_000];
    notes
        .iter()
        .for_each(|truth| all.extend(&truth.sound.samples));
    let said = streamed(
        &Sound {
            rate: 44_100.0,
            samples: all,
        },
        512,
    );
    let heard: Vec<f64> = said
        .into_iter()
        .filter_map(|(_, said)| match said {
            Said::Note(note) => Some(note.hz),
            _ => None,
        })
        .collect();
    assert_eq!(heard.len(), notes.len(), "{heard:?}");
    for (hz, truth) in heard.iter().zip(&notes) {
        assert!(
            cents(*hz, truth.hz).abs() < 1.0,
            "{}: {hz} {}",
            truth.set,
            truth.hz
        );
    }
}

#[test]
fn nothing_at_all_and_nonsense_are_refused_without_a_word() {
    assert_eq!(measure(&[], 48_000.0, &[]), Err(Refusal::Quiet));
    assert_eq!(measure(&[0.0; 48_000], 48_000.0, &[]), Err(Refusal::Quiet));
    let mut listener = Listener::new(48_000.0, &[]);
    assert!(listener.hear(&[f64::NAN; 5000]).is_empty());
    assert!(listener.hear(&[f64::INFINITY; 5000]).is_empty());
    assert!(
        listener
            .hear(&[1e300; 100_000])
            .iter()
            .all(|said| matches!(said, Said::Refused(..)))
    );
}
