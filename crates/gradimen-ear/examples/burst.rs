//! Whether the ear hears a buzz where there is one: `cargo run --release -p gradimen-ear --example burst FOLDER`, with a folder
//! written by `tests/reference/buzz.py` or `synth.py`; `show` after it prints its notes one by one.
#![allow(missing_docs, clippy::unwrap_used)]

use std::fs::File;
use std::io::BufReader;

use gradimen_ear::{Listener, Said, Sound};

fn main() {
    let folder = std::env::args().nth(1).unwrap();
    let show = std::env::args().nth(2).is_some();
    let mut reader = csv::Reader::from_path(format!("{folder}/truth.csv")).unwrap();
    let heads = reader.headers().unwrap().clone();
    let column = |name: &str| heads.iter().position(|head| head == name);
    for row in reader.records() {
        let row = row.unwrap();
        let of = |name: &str| column(name).and_then(|at| row.get(at)).unwrap_or("");
        if of("file").starts_with("bad") {
            continue;
        }
        let file = File::open(format!("{folder}/{}.wav", of("file"))).unwrap();
        let sound = Sound::from_wav(BufReader::new(file)).unwrap();
        let hz: f64 = of("hz").parse().unwrap();
        let mut listener = Listener::for_bursts(sound.rate, &[hz]);
        let mut said = listener.hear(&sound.samples);
        said.extend(listener.finish());
        for said in said {
            if let (Said::Struck(struck), true) = (said, show) {
                let burst = struck.burst;
                println!(
                    "{} {:.1} heard {:.1} contacts {} until {} snr {} | {}",
                    of("file"),
                    hz,
                    struck.hz,
                    of("contacts"),
                    of("until"),
                    of("snr"),
                    burst.map_or("too short".to_owned(), |b| format!(
                        "{:.1} {:.1} {:.2} {:.2} {:.1}",
                        b.strength, b.above, b.until, b.sure, b.hidden
                    ))
                );
            }
        }
    }
}
