//! Whatever comes in: no panic, no number that is none.
#![allow(clippy::unwrap_used)]

use gradimen_ear::{Ear, Listener, Note, Report, Said, Sound, measure};

/// Numbers of no meaning, the same in every run: a linear congruential generator.
struct Chance(u64);

impl Chance {
    fn next(&mut self) -> u64 {
        self.0 = self
            .0
            .wrapping_mul(6_364_136_223_846_793_005)
            .wrapping_add(1_442_695_040_888_963_407);
        self.0 >> 33
    }

    fn upto(&mut self, most: u64) -> usize {
        (self.next() % most) as usize
    }

    fn signed(&mut self) -> f64 {
        self.next() as f64 / (1_u64 << 30) as f64 - 1.0
    }
}

fn whole(note: &Note) -> bool {
    let numbers = [
        note.hz,
        note.width,
        note.stiffness,
        note.stiffness_width,
        note.glide,
        note.decay,
        note.level,
        note.below,
        note.below_noise,
    ];
    numbers.iter().all(|number| number.is_finite()) && note.hz > 0.0 && note.width > 0.0
}

/// A piece of something: silence, a tone that steps, squares, clicks, noise that dies, one value.
fn something(chance: &mut Chance, rate: f64) -> Vec<f64> {
    let length = chance.upto((1.5 * rate) as u64);
    let kind = chance.upto(7);
    let hz = 15.0 * 2.0_f64.powf(chance.upto(900) as f64 / 100.0);
    let size = 10.0_f64.powi(-(chance.upto(8) as i32));
    let dies = chance.upto(2000) as f64 / 100.0;
    (0..length)
        .map(|n| {
            let t = n as f64 / rate;
            let turn = 2.0 * std::f64::consts::PI * hz * t;
            size * match kind {
                0 => 0.0,
                1 => turn.sin() * (-dies * t).exp(),
                2 => turn.sin().signum(),
                3 => f64::from(u8::from(n % 997 == 0)),
                4 => chance.signed() * (-dies * t).exp(),
                5 => 1.0,
                _ => (turn * (1.0 + 0.3 * t)).sin() * (turn * 0.013).cos(),
            }
        })
        .collect()
}

#[test]
fn no_sound_gives_a_failure_or_a_number_that_is_none() {
    let mut chance = Chance(7);
    let (mut notes, mut refused, mut struck_ones) = (0, 0, 0);
    for round in 0..250 {
        let rate = [16_000.0, 44_100.0, 48_000.0, 96_000.0][round % 4];
        let samples: Vec<f64> = (0..1 + chance.upto(3))
            .flat_map(|_| something(&mut chance, rate))
            .collect();
        match measure(&samples, rate, &[82.4, 110.0]) {
            Ok(note) => {
                notes += 1;
                assert!(whole(&note), "round {round}: {note:?}");
            }
            Err(_) => refused += 1,
        }
        let mut said = Vec::new();
        let listeners = [Listener::new(rate, &[]), Listener::for_bursts(rate, &[])];
        let recorded = listeners.clone().map(Listener::of_recording);
        for mut listener in listeners.into_iter().chain(recorded) {
            let mut rest = samples.as_slice();
            while !rest.is_empty() {
                let (block, after) = rest.split_at(rest.len().min(1 + chance.upto(9000)));
                said.extend(listener.hear(block));
                rest = after;
            }
            said.extend(listener.finish());
        }
        for said in said {
            match said {
                Said::First(note) | Said::Note(note) => {
                    assert!(whole(&note), "round {round}: {note:?}")
                }
                Said::Struck(struck) => {
                    struck_ones += 1;
                    let burst = struck
                        .burst
                        .map(|b| [b.strength, b.above, b.until, b.hidden, b.sure]);
                    let numbers = burst.into_iter().flatten().chain([struck.hz, struck.level]);
                    assert!(
                        numbers.into_iter().all(f64::is_finite),
                        "round {round}: {struck:?}"
                    );
                }
                Said::Refused(at, _) => assert!(at >= 0.0 && at <= samples.len() as f64 / rate),
            }
        }
    }
    // Both ways are gone.
    assert!(
        notes > 5 && refused > 50 && struck_ones > 20,
        "{notes} {refused} {struck_ones}"
    );
}

#[test]
fn a_spoilt_file_is_refused_or_heard() {
    let good = include_bytes!("notes/glide-0000.wav");
    let good = &good[..20_000];
    let ear = Ear::new(&[146.8], &[12]);
    let mut chance = Chance(3);
    let mut refused = 0;
    for _ in 0..300 {
        let mut bytes = good.to_vec();
        for _ in 0..1 + chance.upto(4) {
            // Most of it in the head, where it tells.
            let at = if chance.upto(3) > 0 {
                chance.upto(60)
            } else {
                chance.upto(bytes.len() as u64)
            };
            bytes[at] = chance.upto(256) as u8;
        }
        bytes.truncate(chance.upto(bytes.len() as u64 + 1));
        match Sound::from_wav(bytes.as_slice()) {
            Ok(sound) => {
                let report = Report::of(&sound, &ear);
                assert!(report.notes.iter().all(|heard| whole(&heard.note)));
            }
            Err(error) => {
                refused += 1;
                assert!(
                    error.to_string().contains("16") || error.to_string().contains("600"),
                    "{error}"
                );
            }
        }
    }
    assert!(refused > 100, "{refused}");
}
