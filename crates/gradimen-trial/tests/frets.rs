//! The fret survey on boards whose high frets nobody told it of: how many it finds, how many it only believes in, and how many rocks
//! it takes, beside a plain pass of a rocker over every fret under every string.
//!
//! The boards are no draw from the survey's own assumptions: most frets lie within a few hundredths with long tails, the board has a
//! slow wave, a high fret may be high under all strings or under half of them, and the hand feels a rock somewhere between one and two
//! hundredths, and sees it between three and five.
#![allow(clippy::unwrap_used, clippy::cast_possible_truncation)] // a test that cannot go on should stop there

use std::collections::BTreeSet;
use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Document, Event};
use gradimen_bench::model::{Note, Place, Reading, Rocking};
use gradimen_bench::plan::frets::Frets;
use rand::rngs::StdRng;
use rand::seq::SliceRandom;
use rand::{Rng, SeedableRng};
use rand_distr::{Distribution, StudentT};

const STRINGS: usize = 6;
const FRETS: usize = 22;
/// A fret that stands this far over its neighbours under two strings or more has to be found.
const MATTERS_MM: f64 = 0.04;
/// One that stands nowhere higher than this is none.
const NONE_MM: f64 = 0.02;

struct Board {
    /// Tops by string and fret, in millimetres.
    tops: [[f64; FRETS]; STRINGS],
    along: [f64; FRETS],
}

impl Board {
    fn new(random: &mut StdRng) -> Self {
        let tail = StudentT::new(4.0).unwrap();
        let along =
            std::array::from_fn(|fret| 648.0 * (1.0 - 2f64.powf(-((fret + 1) as f64) / 12.0)));
        let (wave, phase) = (
            random.random_range(0.0..0.04),
            random.random_range(0.0..6.3),
        );
        let whole: [f64; FRETS] = std::array::from_fn(|fret| {
            0.004 * tail.sample(random) + wave * (phase + along[fret] / 90.0).sin()
        });
        let mut tops: [[f64; FRETS]; STRINGS] = std::array::from_fn(|_| {
            std::array::from_fn(|fret| whole[fret] + 0.002 * tail.sample(random))
        });
        let mut frets: Vec<usize> = (2..FRETS - 2).collect();
        frets.shuffle(random);
        for &fret in frets.iter().take(random.random_range(1..=3)) {
            let by = random.random_range(0.06..0.12);
            let strings = if random.random_bool(0.5) {
                0..STRINGS
            } else {
                3..STRINGS
            };
            for string in strings {
                tops[string][fret] += by * random.random_range(0.8..1.1);
            }
        }
        Self { tops, along }
    }

    /// How far a fret stands over the chord of its neighbours.
    fn over(&self, string: usize, fret: usize) -> f64 {
        let share = (self.along[fret] - self.along[fret - 1])
            / (self.along[fret + 1] - self.along[fret - 1]);
        let tops = &self.tops[string];
        tops[fret] - (tops[fret - 1] + share * (tops[fret + 1] - tops[fret - 1]))
    }

    fn rock(&self, string: usize, fret: usize, random: &mut StdRng) -> Rocking {
        let stands = self.over(string, fret);
        if stands < random.random_range(0.010..0.022) {
            Rocking::None
        } else if stands < random.random_range(0.03..0.05) {
            Rocking::Slight
        } else {
            Rocking::Clear
        }
    }

    /// Frets that matter, and frets that are none.
    fn truth(&self) -> (BTreeSet<u8>, BTreeSet<u8>) {
        let under = |fret: usize, limit: f64| {
            (0..STRINGS)
                .filter(|string| self.over(*string, fret) > limit)
                .count()
        };
        let inner = || 1..FRETS - 1;
        let high = inner().filter(|fret| under(*fret, MATTERS_MM) >= 2);
        let none = inner().filter(|fret| under(*fret, NONE_MM) == 0);
        (
            high.map(|fret| fret as u8 + 1).collect(),
            none.map(|fret| fret as u8 + 1).collect(),
        )
    }
}

#[derive(Default, Debug)]
struct Score {
    high: usize,
    found: usize,
    none: usize,
    called: usize,
    rocks: usize,
}

impl Score {
    fn add(&mut self, board: &Board, called: &BTreeSet<u8>, rocks: usize) {
        let (high, none) = board.truth();
        self.high += high.len();
        self.found += high.intersection(called).count();
        self.none += none.len();
        self.called += none.intersection(called).count();
        self.rocks += rocks;
    }

    fn recall(&self) -> f64 {
        self.found as f64 / self.high as f64
    }

    fn false_alarms(&self) -> f64 {
        self.called as f64 / self.none as f64
    }
}

fn rocked(note: Note, seen: Rocking) -> Event {
    let (string, fret) = (note.string, note.fret);
    Event::read(Place::Rock { string, fret }, Reading::Rock { seen })
}

/// So many rocks are a third of a plain pass.
const A_THIRD: usize = 40;

#[test]
fn a_third_of_the_rocks_finds_most_high_frets_and_the_rest_finds_nearly_all() {
    const BOARDS: u64 = 24;
    let text = include_str!("../../../docs/formats/examples/six-string-mid-work.json");
    let opened = Job::fold(&Document::parse(text).unwrap().events[..1]).unwrap();
    let [mut third, mut survey, mut plain] = [(); 3].map(|()| Score::default());
    for seed in 0..BOARDS {
        let mut random = StdRng::seed_from_u64(seed);
        let board = Board::new(&mut random);
        let called = |frets: &Frets| frets.high.iter().map(|top| top.note.fret).collect();
        // Follows what is asked for until nothing more would tell enough.
        let mut job = opened.clone();
        let mut rocks = 0;
        loop {
            let frets = Frets::of(&Estimate::of(Arc::new(job.clone())).unwrap());
            if rocks == A_THIRD || (rocks < A_THIRD && frets.next.is_none()) {
                third.add(&board, &called(&frets), rocks);
            }
            let Some(next) = frets.next else {
                survey.add(&board, &called(&frets), rocks);
                break;
            };
            let (string, fret) = (usize::from(next.string - 1), usize::from(next.fret - 1));
            let seen = board.rock(string, fret, &mut random);
            job = job.with(vec![rocked(next, seen)]).unwrap();
            rocks += 1;
        }
        // A plain pass: every fret under every string, once; what rocks is high.
        let mut called = BTreeSet::new();
        for string in 0..STRINGS {
            for fret in 1..FRETS - 1 {
                if board.rock(string, fret, &mut random) != Rocking::None {
                    called.insert(fret as u8 + 1);
                }
            }
        }
        plain.add(&board, &called, STRINGS * (FRETS - 2));
    }
    for (name, score) in [
        ("a third", &third),
        ("to the end", &survey),
        ("plain pass", &plain),
    ] {
        println!(
            "{name}: {:.0} % of {} high frets found, {:.1} % of {} sound ones called high, {:.0} rocks a board",
            score.recall() * 100.0,
            score.high,
            score.false_alarms() * 100.0,
            score.none,
            score.rocks as f64 / BOARDS as f64
        );
    }
    assert!(
        third.recall() > 0.75 && third.false_alarms() < 0.02,
        "{third:?}"
    );
    assert!(
        survey.recall() > 0.9 && survey.false_alarms() < 0.02,
        "{survey:?}"
    );
    assert!(survey.rocks < plain.rocks && survey.false_alarms() < plain.false_alarms() / 2.0);
}
