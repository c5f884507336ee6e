//! What a technician gets whose intonation is heard: `cargo run --release -p gradimen-ear --example hands_free FOLDER`, with a folder written by
//! `tests/reference/synth.py FOLDER --intervals N --how SET`. Once the notes are played as they are asked for, once the fretted note comes first
//! and nobody looks at the screen.
#![allow(missing_docs, clippy::unwrap_used)]

use std::collections::BTreeMap;
use std::fs::File;
use std::io::BufReader;

use gradimen_ear::{Ear, Kind, Note, Pairs, Refusal, Sound, Step, measure};

/// Plucks after which somebody goes and looks what is wrong.
const PATIENCE: usize = 20;
/// Off by so many cents an interval is wrong.
const WRONG: f64 = 0.5;
/// What is let be either side, cents.
const TOLERANCE: f64 = 1.0;

/// Plucks of the reference and of the fretted note: what was measured, or why it was refused, each as often as it is played.
#[derive(Default)]
struct Strung {
    tuning: String,
    string: u8,
    open: bool,
    /// Lowest partials of reference and fretted note, and the reference's inharmonicity, as they were made.
    lowest: [f64; 2],
    stiffness: f64,
    plucks: [Vec<Result<Note, Refusal>>; 2],
}

impl Strung {
    /// Cents by which the fretted note truly stands above the harmonic; the second partial of an open string by the equation it was made with.
    fn truth(&self) -> f64 {
        let partial = |k: f64| k * (1.0 + self.stiffness * k * k).sqrt();
        let harmonic = if self.open {
            self.lowest[0] * partial(2.0) / partial(1.0)
        } else {
            self.lowest[0]
        };
        1200.0 * (self.lowest[1] / harmonic).log2()
    }
}

/// What came of many strings.
#[derive(Default)]
struct Outcome {
    read: usize,
    wrong: usize,
    elsewhere: usize,
    /// Sent to the open string, since its harmonic cannot be told from a fretted note.
    open: usize,
    never: usize,
    plucks: usize,
    least: usize,
}

fn ear(tuning: &str) -> Ear {
    match tuning {
        "six" => Ear::new(&[329.628, 246.942, 195.998, 146.832, 110.0, 82.407], &[12]),
        _ => Ear::new(&[97.999, 73.416, 55.0, 41.203, 30.868], &[12]),
    }
}

fn strings(folder: &str) -> Vec<Strung> {
    let mut reader = csv::Reader::from_path(format!("{folder}/truth.csv")).unwrap();
    let mut all: BTreeMap<usize, Strung> = BTreeMap::new();
    for row in reader.records() {
        let row = row.unwrap();
        let file = BufReader::new(File::open(format!("{folder}/{}.wav", &row[0])).unwrap());
        let sound = Sound::from_wav(file).unwrap();
        let string = all.entry(row[8].parse().unwrap()).or_default();
        row[2].clone_into(&mut string.tuning);
        string.string = row[3].parse().unwrap();
        let which = usize::from(&row[4] == "fretted");
        string.open |= &row[4] == "open";
        string.lowest[which] = row[6].parse().unwrap();
        if which == 0 {
            string.stiffness = row[7].parse().unwrap();
        }
        let pitches = ear(&row[2]).pitches();
        let note = measure(&sound.samples, sound.rate, &pitches);
        string.plucks[which].push(note);
    }
    all.into_values().collect()
}

/// Plays a string until it is read; `asked` says whether what is asked for is played.
fn play(string: &Strung, asked: bool, outcome: &mut Outcome) {
    let ear = ear(&string.tuning);
    let mut pairs = Pairs::default();
    let mut played = [0, 0];
    let mut which = usize::from(!asked);
    for _ in 0..PATIENCE {
        let of = &string.plucks[which];
        let note = &of[played[which] % of.len()];
        played[which] += 1;
        let step = match note {
            Ok(note) => {
                let heard = ear.heard(note.clone(), pairs.next());
                Some(pairs.take(&heard, 0.0, TOLERANCE))
            }
            Err(refusal) => {
                pairs.missed(*refusal);
                None
            }
        };
        if asked && matches!(step, Some(Step::Alone { again: true, .. })) {
            outcome.open += 1;
            return;
        }
        which = match (asked, step) {
            (
                _,
                Some(Step::Read {
                    string: of,
                    interval,
                }),
            ) => {
                let truth = string.truth();
                outcome.read += 1;
                outcome.elsewhere += usize::from(of != string.string);
                let off = interval.cents - truth;
                let wrong = off.abs() > WRONG;
                outcome.wrong += usize::from(wrong);
                if wrong {
                    println!(
                        "  string {} of {}: read {:.2}, truly {truth:.2}, width {:.2}",
                        string.string, string.tuning, interval.cents, interval.width
                    );
                }
                outcome.plucks += played[0] + played[1];
                outcome.least += interval.plucks.0 + interval.plucks.1;
                return;
            }
            (false, _) => 1 - which,
            (true, None | Some(Step::Unplaced)) => which,
            (true, Some(Step::Reference { .. })) => 1,
            (true, Some(Step::Changed { .. } | Step::Untuned { .. } | Step::Alone { .. })) => 0,
            (true, Some(Step::Again { .. })) => {
                usize::from(pairs.next().is_none_or(|(_, kind)| kind == Kind::Fretted))
            }
        };
    }
    outcome.never += 1;
}

fn main() {
    let folder = std::env::args().nth(1).unwrap();
    let strings = strings(&folder);
    for (name, asked) in [("as asked", true), ("wrong way round", false)] {
        let mut outcome = Outcome::default();
        for string in &strings {
            play(string, asked, &mut outcome);
        }
        println!(
            "{name:16} {} strings: {} read, of them {} off by more than {WRONG} cents and {} on another string; {} to be played open instead; {} not read in {PATIENCE} plucks; {} plucks played, {} of them counted",
            strings.len(),
            outcome.read,
            outcome.wrong,
            outcome.elsewhere,
            outcome.open,
            outcome.never,
            outcome.plucks,
            outcome.least
        );
    }
}
