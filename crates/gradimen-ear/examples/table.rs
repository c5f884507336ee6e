//! How far the ear is off on notes whose truth is known: `cargo run --release -p gradimen-ear --example table FOLDER`, with a folder
//! written by `tests/reference/synth.py`; a set's name after it prints its notes one by one.
#![allow(missing_docs, clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::fs::File;
use std::io::BufReader;

use gradimen_ear::{Ear, Interval, Kind, Note, Refusal, Sound, measure};

/// Times that a note is measured, for the time it takes.
const TIMES: usize = 5;

/// One line of the truth.
struct Truth {
    file: String,
    set: String,
    tuning: String,
    string: u8,
    kind: String,
    fret: u8,
    hz: f64,
    level: f64,
    group: String,
}

/// What became of a set.
#[derive(Default)]
struct Set {
    off: Vec<f64>,
    /// Errors of the level, dB.
    louder: Vec<f64>,
    /// Errors, each in its own width.
    widths: Vec<f64>,
    refused: BTreeMap<String, usize>,
    seconds: f64,
    /// Open strings and notes at the twelfth, and those that were placed.
    placeable: usize,
    placed: usize,
}

/// Plucks of the reference and of the fretted note.
#[derive(Default)]
struct Pair {
    truth: [f64; 2],
    notes: [Vec<Note>; 2],
    open: bool,
}

fn at(sorted: &[f64], share: f64) -> f64 {
    let index = ((sorted.len() as f64 - 1.0) * share).round() as usize;
    sorted.get(index).copied().unwrap_or(f64::NAN)
}

/// Seconds this process has been on a core, so that a busy machine does not count.
fn on_core() -> f64 {
    let text = std::fs::read_to_string("/proc/self/schedstat").unwrap();
    text.split(' ').next().unwrap().parse::<f64>().unwrap() * 1e-9
}

fn ear(tuning: &str, frets: &[u8]) -> Ear {
    match tuning {
        "six" => Ear::new(&[329.628, 246.942, 195.998, 146.832, 110.0, 82.407], frets),
        _ => Ear::new(&[97.999, 73.416, 55.0, 41.203, 30.868], frets),
    }
}

fn truths(folder: &str) -> Vec<Truth> {
    let mut reader = csv::Reader::from_path(format!("{folder}/truth.csv")).unwrap();
    let rows = reader.records().map(|row| {
        let row = row.unwrap();
        Truth {
            file: format!("{folder}/{}.wav", &row[0]),
            set: row[1].to_owned(),
            tuning: row[2].to_owned(),
            string: row[3].parse().unwrap(),
            kind: row[4].to_owned(),
            fret: row[5].parse().unwrap(),
            hz: row[6].parse().unwrap(),
            group: row[8].to_owned(),
            level: row[9].parse().unwrap(),
        }
    });
    rows.collect()
}

fn main() {
    let folder = std::env::args().nth(1).unwrap();
    let shown = std::env::args().nth(2);
    let mut sets: BTreeMap<String, Set> = BTreeMap::new();
    let mut pairs: BTreeMap<String, Pair> = BTreeMap::new();
    for truth in truths(&folder) {
        let file = BufReader::new(File::open(&truth.file).unwrap());
        let sound = Sound::from_wav(file).unwrap();
        let pitches = ear(&truth.tuning, &[5, 7, 12, 17]).pitches();
        // What else the machine does only slows it: the quickest of some.
        let mut took = f64::INFINITY;
        let mut heard = Err(Refusal::Quiet);
        for _ in 0..TIMES {
            let began = on_core();
            heard = measure(&sound.samples, sound.rate, &pitches);
            took = took.min(on_core() - began);
        }
        let name = truth
            .set
            .trim_end_matches(|c: char| c.is_ascii_digit() && truth.set.contains("interval"));
        let set = sets
            .entry(name.split('-').next().unwrap_or(name).to_owned())
            .or_default();
        set.seconds += took / (sound.samples.len() as f64 / sound.rate);
        let note = match heard {
            Ok(note) => note,
            Err(refusal) => {
                *set.refused.entry(format!("{refusal:?}")).or_default() += 1;
                continue;
            }
        };
        let off = 1200.0 * (note.hz / truth.hz).log2();
        set.off.push(off.abs());
        set.louder.push((note.level - truth.level).abs());
        set.widths.push((off / note.width).abs());
        // At other frets a neighbour's note is the very same; only the twelfth is played without being asked for.
        let place = ear(&truth.tuning, &[12]).heard(note.clone(), None).place;
        let kind = place.map_or(String::new(), |place| {
            format!("{:?}", place.kind).to_lowercase()
        });
        let right = place
            .is_some_and(|place| place.string == truth.string && place.fret == truth.fret)
            && kind == truth.kind;
        set.placeable += usize::from(truth.fret % 12 == 0);
        set.placed += usize::from(right);
        if shown.as_deref() == Some(truth.set.as_str()) {
            println!(
                "{} {:.2} Hz off {off:.4} width {:.4} B {:.1e} glide {:.2} partials {} below {:.5} noise {:.5} {} {} heard {:?}",
                truth.file,
                truth.hz,
                note.width,
                note.stiffness,
                note.glide,
                note.partials,
                note.below,
                note.below_noise,
                truth.string,
                truth.kind,
                place
            );
        }
        if !truth.group.is_empty() {
            let pair = pairs.entry(truth.group).or_default();
            let which = usize::from(truth.kind == "fretted");
            pair.open |= truth.kind == "open";
            pair.truth[which] = truth.hz;
            pair.notes[which].push(note);
        }
    }
    println!(
        "{:10} {:>5} {:>8} {:>8} {:>8} {:>7} {:>5} {:>5} {:>6} {:>6} {:>6}  refused",
        "set",
        "notes",
        "median",
        "95 %",
        "worst",
        "1 sigma",
        "68 %",
        "95 %",
        "placed",
        "ms/s",
        "dB 95%"
    );
    for (name, mut set) in sets {
        set.off.sort_by(f64::total_cmp);
        set.louder.sort_by(f64::total_cmp);
        let count = set.off.len() + set.refused.values().sum::<usize>();
        let heard = set.off.len().max(1) as f64;
        let held = set.widths.iter().filter(|width| **width < 1.0).count() as f64;
        set.widths.sort_by(f64::total_cmp);
        println!(
            "{name:10} {count:5} {:8.4} {:8.4} {:8.3} {:6.0}% {:5.2} {:5.2} {:5.1}% {:6.2} {:6.2}  {:?}",
            at(&set.off, 0.5),
            at(&set.off, 0.95),
            at(&set.off, 1.0),
            100.0 * held / heard,
            at(&set.widths, 0.68),
            at(&set.widths, 0.95),
            100.0 * set.placed as f64 / set.placeable.max(1) as f64,
            1e3 * set.seconds / count as f64,
            at(&set.louder, 0.95),
            set.refused
        );
    }
    let (mut off, mut widths, mut held) = (Vec::new(), Vec::new(), 0);
    for pair in pairs.values() {
        let kind = if pair.open {
            Kind::Open
        } else {
            Kind::Harmonic
        };
        let Some(interval) = Interval::of(&pair.notes[0], kind, &pair.notes[1]) else {
            continue;
        };
        // The fretted note against the harmonic; where the open string was played, by the stiffness that truth has is told below.
        let reference = if pair.open {
            2.0 * pair.truth[0]
        } else {
            pair.truth[0]
        };
        let heard = interval.cents
            + if pair.open {
                above(&pair.notes[0])
            } else {
                0.0
            };
        let wrong = heard - 1200.0 * (pair.truth[1] / reference).log2();
        off.push(wrong.abs());
        widths.push(wrong.abs() / interval.width);
        held += usize::from(wrong.abs() < interval.width);
    }
    if !off.is_empty() {
        off.sort_by(f64::total_cmp);
        widths.sort_by(f64::total_cmp);
        println!(
            "intervals: {} pairs, median {:.4}, 95 % {:.4}, one sigma holds {:.0} %, 68 % within {:.2}, 95 % within {:.2} of it",
            off.len(),
            at(&off, 0.5),
            at(&off, 0.95),
            100.0 * held as f64 / off.len() as f64,
            at(&widths, 0.68),
            at(&widths, 0.95)
        );
    }
}

/// What the interval was brought by from the octave to the harmonic.
fn above(notes: &[Note]) -> f64 {
    notes
        .iter()
        .map(|note| gradimen_ear::harmonic_above_octave(note.stiffness))
        .sum::<f64>()
        / notes.len() as f64
}
