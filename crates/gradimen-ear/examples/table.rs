//! How far the ear is off on notes whose truth is known: `cargo run --release -p gradimen-ear --example table FOLDER`, with a folder
//! written by `tests/reference/synth.py`.
#![allow(missing_docs, clippy::unwrap_used)]

use std::collections::BTreeMap;

use gradimen_ear::{Sound, measure};

fn at(sorted: &[f64], share: f64) -> f64 {
    sorted
        .get(((sorted.len() as f64 - 1.0) * share).round() as usize)
        .copied()
        .unwrap_or(f64::NAN)
}

/// Seconds this process has been on a core, so that a busy machine does not count.
fn on_core() -> f64 {
    let text = std::fs::read_to_string("/proc/self/schedstat").unwrap();
    text.split(' ').next().unwrap().parse::<f64>().unwrap() * 1e-9
}

fn main() {
    let folder = std::env::args().nth(1).unwrap();
    let verbose = std::env::args().nth(2);
    let mut reader = csv::Reader::from_path(format!("{folder}/truth.csv")).unwrap();
    // Per set: errors, errors in widths, refusals, seconds spent.
    let mut sets: BTreeMap<String, (Vec<f64>, Vec<f64>, BTreeMap<String, usize>, f64)> =
        BTreeMap::new();
    for row in reader.records() {
        let row = row.unwrap();
        let sound = Sound::from_wav(std::io::BufReader::new(
            std::fs::File::open(format!("{folder}/{}.wav", &row[0])).unwrap(),
        ))
        .unwrap();
        let truth: f64 = row[6].parse().unwrap();
        let began = on_core();
        let heard = measure(&sound.samples, sound.rate, &[]);
        let took = (on_core() - began) / (sound.samples.len() as f64 / sound.rate);
        let set = sets.entry(row[1].to_owned()).or_default();
        set.3 += took;
        match heard {
            Ok(note) => {
                let off = 1200.0 * (note.hz / truth).log2();
                set.0.push(off.abs());
                set.1.push(off / note.width);
                if verbose.as_deref() == Some(&row[1]) {
                    println!(
                        "{} {} {truth:8.2} B {:.1e} off {off:8.4} width {:.4} glide {:.2} B {:.1e} partials {} decay {:.2} below {:.4}",
                        &row[0],
                        &row[4],
                        row[7].parse::<f64>().unwrap(),
                        note.width,
                        note.glide,
                        note.stiffness,
                        note.partials,
                        note.decay,
                        note.below
                    );
                }
            }
            Err(refusal) => *set.2.entry(format!("{refusal:?}")).or_default() += 1,
        }
    }
    println!(
        "{:10} {:>5} {:>8} {:>8} {:>8} {:>7} {:>7}  refused",
        "set", "notes", "median", "95 %", "worst", "1 sigma", "ms/s"
    );
    for (name, (mut off, widths, refused, seconds)) in sets {
        off.sort_by(f64::total_cmp);
        let count = off.len() + refused.values().sum::<usize>();
        let held = widths.iter().filter(|width| width.abs() < 1.0).count() as f64
            / widths.len().max(1) as f64;
        println!(
            "{name:10} {count:5} {:8.4} {:8.4} {:8.3} {:6.0}% {:7.2}  {refused:?}",
            at(&off, 0.5),
            at(&off, 0.95),
            at(&off, 1.0),
            100.0 * held,
            1e3 * seconds / count as f64
        );
    }
}
