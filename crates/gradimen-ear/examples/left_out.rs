//! What becomes of a note out of which a piece was cut without a mark, as a busy machine does:
//! `cargo run --release -p gradimen-ear --example left_out FOLDER`, with a folder written by `tests/reference/synth.py`.
#![allow(missing_docs, clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::fs::File;
use std::io::BufReader;

use gradimen_ear::{Ear, Refusal, Sound, measure};

/// Samples that may be left out at once: from a block of an audio worklet on.
const LEAST: usize = 128;
const MOST: usize = 4096;
/// Where a piece may be missing, seconds from the pluck.
const FIRST: f64 = 0.15;
const LAST: f64 = 1.3;

/// Evenly between nought and one, the same in every run.
struct Even(u64);

impl Even {
    fn next(&mut self) -> f64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        (self.0 >> 11) as f64 / (1_u64 << 53) as f64
    }
}

/// What became of the notes of a set, whole and cut.
#[derive(Default)]
struct Set {
    whole: BTreeMap<String, usize>,
    cut: BTreeMap<String, usize>,
    /// Of those that were read although cut: errors in cents, and those beyond two of their own widths and what the whole note is off.
    off: Vec<f64>,
    wrong: usize,
}

fn main() {
    let folder = std::env::args().nth(1).unwrap();
    let mut even = Even(7);
    let mut sets: BTreeMap<String, Set> = BTreeMap::new();
    let mut reader = csv::Reader::from_path(format!("{folder}/truth.csv")).unwrap();
    for row in reader.records() {
        let row = row.unwrap();
        let file = BufReader::new(File::open(format!("{folder}/{}.wav", &row[0])).unwrap());
        let sound = Sound::from_wav(file).unwrap();
        let open: &[f64] = match &row[2] {
            "six" => &[329.628, 246.942, 195.998, 146.832, 110.0, 82.407],
            _ => &[97.999, 73.416, 55.0, 41.203, 30.868],
        };
        let pitches = Ear::new(open, &[5, 7, 12, 17]).pitches();
        let set = sets.entry(row[1].to_owned()).or_default();
        let whole = measure(&sound.samples, sound.rate, &pitches);
        let said = |heard: &Result<_, Refusal>| {
            heard
                .as_ref()
                .map_or_else(|refusal| format!("{refusal:?}"), |_| "read".to_owned())
        };
        *set.whole.entry(said(&whole)).or_default() += 1;
        let Ok(whole) = whole else { continue };
        let at = whole.at + FIRST + (LAST - FIRST) * even.next();
        let long = LEAST + ((MOST - LEAST) as f64 * even.next()) as usize;
        let from = (at * sound.rate) as usize;
        let mut samples = sound.samples;
        samples.drain(from..(from + long).min(samples.len()));
        let cut = measure(&samples, sound.rate, &pitches);
        *set.cut.entry(said(&cut)).or_default() += 1;
        if let Ok(note) = cut {
            let moved = 1200.0 * (note.hz / whole.hz).log2();
            set.off.push(moved.abs());
            set.wrong += usize::from(moved.abs() > 2.0 * note.width.hypot(whole.width));
        }
    }
    for (name, mut set) in sets {
        set.off.sort_by(f64::total_cmp);
        let worst = set.off.last().copied().unwrap_or(0.0);
        println!(
            "{name:10} whole {:?}; cut {:?}, moved by at most {worst:.2} cents, {} beyond their widths",
            set.whole, set.cut, set.wrong
        );
    }
}
