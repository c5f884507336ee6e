//! A buzz, on strings that were stepped through time over frets (`tests/reference/buzz.py`, SciPy), and the fret at which it is.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::fs::File;
use std::io::BufReader;
use std::path::Path;

use gradimen_ear::{Listener, Rattled, Rattles, Said, Sound, Struck};

struct Truth {
    held: u8,
    hz: f64,
    /// Contacts after the pluck itself, and up to when.
    contacts: u32,
    until: f64,
    sound: Sound,
}

fn truths() -> Vec<Truth> {
    let folder = Path::new(env!("CARGO_MANIFEST_DIR")).join("tests/buzzes");
    let mut reader = csv::Reader::from_path(folder.join("truth.csv")).unwrap();
    let rows = reader.records().map(|row| {
        let row = row.unwrap();
        let file = File::open(folder.join(format!("{}.wav", &row[0]))).unwrap();
        Truth {
            held: row[3].parse().unwrap(),
            hz: row[4].parse().unwrap(),
            contacts: row[6].parse().unwrap(),
            until: row[7].parse().unwrap(),
            sound: Sound::from_wav(BufReader::new(file)).unwrap(),
        }
    });
    rows.collect()
}

/// One stroke, in blocks as a page sends them; `gain` is how much softer or louder.
fn struck(truth: &Truth, gain: f64) -> Struck {
    let mut listener = Listener::for_bursts(truth.sound.rate, &[truth.hz]);
    let mut said = Vec::new();
    for block in truth.sound.samples.chunks(512) {
        let block: Vec<f64> = block.iter().map(|sample| gain * sample).collect();
        said.extend(listener.hear(&block));
    }
    said.extend(listener.finish());
    match said.as_slice() {
        [Said::Struck(struck)] => *struck,
        other => panic!("{other:?}"),
    }
}

#[test]
fn a_string_that_meets_frets_buzzes_and_one_that_clears_them_is_clean() {
    for truth in truths() {
        let one = struck(&truth, 1.0);
        let burst = one.burst.unwrap();
        assert!((12.0 * (one.hz / truth.hz).log2()).abs() < 0.2, "{one:?}");
        if truth.contacts == 0 {
            assert!(burst.sure < 0.1 && burst.until == 0.0, "{burst:?}");
        } else {
            assert!(burst.sure > 0.9, "{burst:?}");
            // A window smears the end of it over its own length.
            assert!(
                (burst.until - truth.until).abs() < 0.15,
                "{burst:?} {}",
                truth.until
            );
        }
        // As loud as it comes, or a tenth of it, it is the same.
        let soft = struck(&truth, 0.1).burst.unwrap();
        assert!((soft.strength - burst.strength).abs() < 0.5);
    }
}

#[test]
fn the_fret_is_known_and_a_note_that_is_clean_softer_says_where_it_begins() {
    let all = truths();
    let open = |truth: &Truth| truth.hz / 2f64.powf(f64::from(truth.held) / 12.0);
    for truth in &all {
        let mut rattles = Rattles::of(open(truth), 21);
        let (held, buzzes) = (truth.held, truth.contacts > 0);
        match rattles.take(&struck(truth, 1.0)) {
            Rattled::Clean { fret, .. } => assert!(fret == held && !buzzes),
            Rattled::Buzzes { fret, begins, .. } => {
                assert!(fret == held && buzzes && begins.is_none());
            }
            other => panic!("{other:?}"),
        }
    }
    // Another string's note is none of this one's.
    let mut rattles = Rattles::of(1.03 * open(&all[0]), 21);
    assert_eq!(rattles.take(&struck(&all[0], 1.0)), Rattled::Unplaced);
}

#[test]
fn a_finger_that_damps_the_string_is_no_buzz() {
    let all = truths();
    for truth in all.iter().filter(|truth| truth.contacts == 0) {
        let rate = truth.sound.rate;
        let mut state = 5_u64;
        let mut rubs = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1);
            (state >> 11) as f64 / (1_u64 << 53) as f64 - 0.5
        };
        // Rings for half a second after its silence, then a finger comes: it rubs along ever harder, and the string is still.
        let damps = 0.75 * rate;
        let touched = |(n, sample): (usize, &f64)| {
            let after = (n as f64 - damps) / rate;
            let near = ((after + 0.1) / 0.1).clamp(0.0, 1.0);
            if after < 0.0 {
                return sample + 0.02 * near * near * rubs();
            }
            sample * (-after / 0.01).exp()
        };
        let samples = truth
            .sound
            .samples
            .iter()
            .enumerate()
            .map(touched)
            .collect();
        let damped = Truth {
            sound: Sound { rate, samples },
            held: truth.held,
            hz: truth.hz,
            contacts: 0,
            until: 0.0,
        };
        let said = struck(&damped, 1.0);
        assert!(said.burst.is_none_or(|burst| burst.sure < 0.1), "{said:?}");
    }
}

#[test]
fn the_highest_fret_of_the_highest_string_is_listened_to_as_well() {
    let rate = 48_000.0;
    let samples: Vec<f64> = (0..60_000)
        .map(|n| {
            let t = f64::from(n) / rate - 0.2;
            let partial = |k: f64| {
                (2.0 * std::f64::consts::PI * 1318.5 * k * t).sin() * (-(4.0 + k) * t).exp() / k
            };
            if t < 0.0 {
                0.0
            } else {
                0.2 * (1..=4).map(f64::from).map(partial).sum::<f64>()
            }
        })
        .collect();
    let mut listener = Listener::for_bursts(rate, &[1318.5]);
    let mut said = listener.hear(&samples);
    said.extend(listener.finish());
    let [Said::Struck(struck)] = said.as_slice() else {
        panic!("{said:?}")
    };
    assert!(
        struck.burst.is_some_and(|burst| burst.sure < 0.1),
        "{struck:?}"
    );
}

#[test]
fn hiss_that_would_hide_a_buzz_is_said_rather_than_clean() {
    let all = truths();
    let clean = all.iter().find(|truth| truth.contacts == 0).unwrap();
    let mut state = 1_u64;
    let mut hiss = || {
        state = state
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1);
        (state >> 11) as f64 / (1_u64 << 53) as f64 - 0.5
    };
    let noisy = Truth {
        sound: Sound {
            rate: clean.sound.rate,
            samples: clean
                .sound
                .samples
                .iter()
                .map(|sample| sample + 0.05 * hiss())
                .collect(),
        },
        ..Truth {
            held: clean.held,
            hz: clean.hz,
            contacts: 0,
            until: 0.0,
            sound: clean.sound.clone(),
        }
    };
    let open = clean.hz / 2f64.powf(f64::from(clean.held) / 12.0);
    let said = Rattles::of(open, 21).take(&struck(&noisy, 1.0));
    assert_eq!(said, Rattled::Noisy(clean.held));
}
