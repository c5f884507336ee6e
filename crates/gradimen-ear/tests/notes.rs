//! Notes of a synthesiser that shares nothing with the ear (`tests/reference/synth.py`, SciPy): what is heard of them, what is refused,
//! and the same as a stream. The long table is in docs/ear.md.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

use std::f64::consts::PI;
use std::fs::File;
use std::io::BufReader;
use std::path::Path;

use gradimen_ear::{Ear, Kind, Listener, Note, Refusal, Report, Said, Sound, measure};

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

/// Of a high note one partial stands among the multiples of the mains: what it says of the others is less than what all of them said.
#[test]
fn a_high_note_is_heard_under_hum_as_without_it() {
    let (rate, base, stiffness) = (44_100.0, 525.0_f64, 2.9e-4);
    let line = |hz: f64, at: f64| (2.0 * PI * hz * at).sin();
    let sample = |n: usize| {
        let at = n as f64 / rate;
        let hum: f64 = (1..=13)
            .map(f64::from)
            .map(|h| line(h * 49.995, at) / h)
            .sum();
        let rings = at - 0.3;
        if rings < 0.0 {
            return 0.01 * hum;
        }
        let partial = |k: f64| {
            let hz = k * base * (1.0 + stiffness * k * k).sqrt();
            line(hz, rings) * (-(0.8 + 0.3 * k) * rings).exp() / k
        };
        0.2 * (1..=12).map(f64::from).map(partial).sum::<f64>() + 0.01 * hum
    };
    let samples: Vec<f64> = (0..(2.0 * rate) as usize).map(sample).collect();
    let note = measure(&samples, rate, &[]).unwrap();
    let off = cents(note.hz, base * (1.0 + stiffness).sqrt());
    assert!(off.abs() < 0.01, "{off} {note:?}");
    assert!((note.stiffness / stiffness - 1.0).abs() < 0.01, "{note:?}");
}

/// A busy machine puts ten milliseconds of nothing where it could not carry the sound: what is left has a pitch that is wrong by cents.
#[test]
fn a_note_of_which_pieces_did_not_arrive_is_refused_and_one_that_fades_into_nothing_is_not() {
    for truth in good() {
        let rate = truth.sound.rate;
        let heard = measure(&truth.sound.samples, rate, &truth.ear.pitches()).unwrap();
        let from = ((heard.at + 0.5) * rate) as usize;
        let mut holed = truth.sound.samples.clone();
        holed[from..from + 441].fill(0.0);
        let refused = measure(&holed, rate, &truth.ear.pitches());
        assert_eq!(refused, Err(Refusal::Lost), "{}", truth.set);
        let mut listener = Listener::for_bursts(rate, &truth.ear.pitches());
        let mut said = listener.hear(&holed);
        said.extend(listener.finish());
        let lost = |said: &Said| matches!(said, Said::Refused(_, Refusal::Lost));
        assert!(said.iter().any(lost), "{} {said:?}", truth.set);
        let mut faded = truth.sound.samples;
        faded.extend([0.0; 9000]);
        assert!(
            measure(&faded, rate, &truth.ear.pitches()).is_ok(),
            "{}",
            truth.set
        );
    }
}

/// A busy machine leaves a block out without a mark, too: what stands on either side of it sounds as it did, at another place of its swing.
#[test]
fn a_note_with_a_block_left_out_is_refused_as_that_wherever_it_is_missing() {
    for truth in good() {
        let rate = truth.sound.rate;
        let whole = measure(&truth.sound.samples, rate, &truth.ear.pitches()).unwrap();
        // A quarter of a swing and some more: no whole number of them for most partials.
        let block = (3.27 * rate / whole.hz) as usize;
        for share in [0.3, 0.5, 0.7] {
            let from = ((whole.at + share * whole.seconds) * rate) as usize;
            let mut cut = truth.sound.samples.clone();
            cut.drain(from..from + block);
            let heard = measure(&cut, rate, &truth.ear.pitches());
            assert_eq!(heard, Err(Refusal::Lost), "{} at {share}", truth.set);
        }
    }
}

/// Noise, the same in every run: a half either side of nought.
fn chance(mut seed: u32) -> impl FnMut() -> f64 {
    move || {
        seed = seed.wrapping_mul(1_664_525).wrapping_add(1_013_904_223);
        f64::from(seed) / f64::from(u32::MAX) - 0.5
    }
}

/// Whoever makes a recording cuts it where he pleases.
#[test]
fn a_recording_may_begin_with_its_note_or_in_a_room_that_is_never_still() {
    for truth in good() {
        let (rate, ear) = (truth.sound.rate, &truth.ear);
        let whole = measure(&truth.sound.samples, rate, &ear.pitches()).unwrap();
        let from = (whole.at * rate) as usize;
        let report = |samples: Vec<f64>| Report::of(&Sound { rate, samples }, ear);
        for early in [0.0, 0.004, 0.012, 0.021, 0.029] {
            let from = from.saturating_sub((early * rate) as usize);
            let cut = report(truth.sound.samples[from..].to_vec());
            let [heard] = cut.notes.as_slice() else {
                panic!("{} {early}: {cut:?}", truth.set);
            };
            let off = cents(heard.note.hz, truth.hz);
            assert!(off.abs() < bar(&truth.set), "{} {off}", truth.set);
            assert!(cut.refused.is_empty(), "{} {cut:?}", truth.set);
        }
        // A second of hum and of a noisy line, then the note in it.
        let mut chance = chance(5);
        let lead = rate as usize;
        let room = |n: usize, chance: f64| {
            let hum = |h: f64| (2.0 * PI * 50.0 * h * n as f64 / rate).sin() / h;
            0.004 * (1..=9).map(f64::from).map(hum).sum::<f64>() + 0.004 * chance
        };
        let mut noisy = vec![0.0; lead];
        noisy.extend(&truth.sound.samples[from..]);
        for (n, sample) in noisy.iter_mut().enumerate() {
            *sample += room(n, chance());
        }
        let heard = report(noisy);
        assert_eq!(heard.notes.len(), 1, "{} {heard:?}", truth.set);
        assert!(heard.refused.is_empty(), "{} {heard:?}", truth.set);
    }
}

#[test]
fn a_recording_in_which_nothing_is_heard_says_why() {
    let rate = 48_000.0;
    let said = |samples: Vec<f64>| {
        let mut listener = Listener::new(rate, &[]).of_recording();
        let mut said = listener.hear(&samples);
        said.extend(listener.finish());
        said
    };
    let of = |why: Refusal| vec![Said::Refused(0.0, why)];
    assert_eq!(said(vec![]), of(Refusal::Quiet));
    assert_eq!(said(vec![0.0; 60_000]), of(Refusal::Quiet));
    let line = |n: i32, h: f64| (2.0 * PI * 50.0 * h * f64::from(n) / rate).sin() / h;
    let hum = |n| 0.1 * [1.0, 2.0, 3.0, 5.0].map(|h| line(n, h)).iter().sum::<f64>();
    assert_eq!(said((0..60_000).map(hum).collect()), of(Refusal::Hum));
    let truth = good().find(|truth| truth.set == "clean").unwrap();
    let whole = measure(&truth.sound.samples, truth.sound.rate, &[]).unwrap();
    let damped = ((whole.at + 0.2) * truth.sound.rate) as usize;
    let damped = &truth.sound.samples[..damped];
    assert_eq!(said(damped.to_vec()), of(Refusal::Short));
    let pluck = (whole.at * truth.sound.rate) as usize;
    assert_eq!(said(damped[pluck..].to_vec()), of(Refusal::Short));
    let mut chance = chance(9);
    let noise = (0..60_000).map(|_| 0.02 * chance()).collect();
    assert_eq!(said(noise), of(Refusal::Noise));
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
