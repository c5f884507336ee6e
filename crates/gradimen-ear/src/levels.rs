//! How loud each open string of a pickup is: several plucks of each, for no hand strikes twice alike.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::who::{Heard, Kind};

/// One stroke of a hand that means to strike alike differs by so much, decibels (from memory): counts as this many strokes' scatter.
const STROKE: f64 = 1.0;
const THOUGHT: f64 = 2.0;
/// Strokes that are asked for at least, and after which no more are.
const LEAST: usize = 3;
const ENOUGH: usize = 6;
/// What is known so well is known, decibels.
const KNOWN: f64 = 0.5;

/// The level of a string, from several strokes.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Level {
    /// Decibels below full scale.
    pub decibels: f64,
    /// One standard deviation.
    pub width: f64,
    /// From how many strokes.
    pub strokes: usize,
}

/// The strings of a pickup, as far as they were heard.
#[derive(Debug, Clone, PartialEq)]
pub struct Levels {
    strings: u8,
    heard: BTreeMap<u8, Vec<f64>>,
    read: BTreeMap<u8, Level>,
}

/// What a note says of the levels.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Leveled {
    /// It was none of these strings, open.
    Unplaced,
    /// More strokes of it are wanted.
    More {
        /// Which.
        string: u8,
        /// As it is known by now.
        level: Level,
    },
    /// It is known.
    Read {
        /// Which.
        string: u8,
        /// Its level.
        level: Level,
        /// Which string comes next; nothing where all are known.
        next: Option<u8>,
    },
}

impl Level {
    /// The mean of some strokes. Their scatter is weighed with what a hand does as a rule.
    fn of(strokes: &[f64]) -> Self {
        let n = strokes.len() as f64;
        let mean = strokes.iter().sum::<f64>() / n;
        let squares: f64 = strokes.iter().map(|stroke| (stroke - mean).powi(2)).sum();
        let one = (squares + THOUGHT * STROKE * STROKE) / (n - 1.0 + THOUGHT);
        Self {
            decibels: mean,
            width: (one / n).sqrt(),
            strokes: strokes.len(),
        }
    }
}

impl Levels {
    /// Every open string of a pickup, in any order.
    pub const fn of(strings: u8) -> Self {
        Self {
            strings,
            heard: BTreeMap::new(),
            read: BTreeMap::new(),
        }
    }

    /// The string that is to be played: one that was begun, else the lowest that is not known.
    pub fn next(&self) -> Option<u8> {
        let begun = self.heard.iter().find(|(_, strokes)| !strokes.is_empty());
        let mut left = (1..=self.strings).rev();
        let left = left.find(|string| !self.read.contains_key(string));
        begun.map(|(string, _)| *string).or(left)
    }

    /// A note more. One of a string that is known already begins that string anew.
    pub fn take(&mut self, heard: &Heard) -> Leveled {
        let Some(place) = heard.place.filter(|place| place.kind == Kind::Open) else {
            return Leveled::Unplaced;
        };
        let string = place.string;
        let strokes = self.heard.entry(string).or_default();
        strokes.push(heard.note.level);
        let level = Level::of(strokes);
        let known = level.strokes >= LEAST && level.width <= KNOWN || level.strokes >= ENOUGH;
        if !known {
            return Leveled::More { string, level };
        }
        self.heard.remove(&string);
        self.read.insert(string, level);
        Leveled::Read {
            string,
            level,
            next: self.next(),
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::note::Note;
    use crate::who::Ear;

    const OPEN: [f64; 2] = [246.942, 110.0];

    fn heard(string: usize, level: f64) -> Heard {
        let note = Note {
            level,
            ..Note::plain(OPEN[string - 1], 4e-5)
        };
        Ear::new(&OPEN, &[]).heard(note, None)
    }

    fn play(levels: &mut Levels, string: usize, strokes: &[f64]) -> Leveled {
        let last = strokes
            .iter()
            .map(|level| levels.take(&heard(string, *level)))
            .last();
        last.unwrap()
    }

    #[test]
    fn strokes_alike_are_soon_enough_and_uneven_ones_are_asked_again() {
        let mut levels = Levels::of(2);
        assert_eq!(levels.next(), Some(2));
        // Worked by hand: squares 0.02, (0.02 + 2) / 4 = 0.505 for one, a third of it for the mean: 0.410.
        let Leveled::Read {
            string: 2,
            level,
            next: Some(1),
        } = play(&mut levels, 2, &[-18.0, -18.1, -17.9])
        else {
            panic!()
        };
        assert!((level.decibels + 18.0).abs() < 1e-9 && (level.width - 0.4103).abs() < 1e-3);
        let uneven = play(&mut levels, 1, &[-12.0, -16.0, -20.0, -13.0, -19.0]);
        assert!(matches!(uneven, Leveled::More { string: 1, .. }));
        assert_eq!(levels.next(), Some(1));
        // There is an end to asking, and the width says how uneven they were.
        let Leveled::Read {
            level, next: None, ..
        } = play(&mut levels, 1, &[-16.0])
        else {
            panic!()
        };
        assert!(level.strokes == 6 && level.width > 1.0, "{level:?}");
    }

    #[test]
    fn the_width_holds_what_strokes_scatter() {
        // Strokes of a hand that scatters by 1.5 dB: the truth lies within the width about as often as it says.
        let mut state = 1_u64;
        let mut even = || {
            state = state
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1);
            (state >> 11) as f64 / (1_u64 << 53) as f64
        };
        let mut stroke = || (0..12).map(|_| even()).sum::<f64>() - 6.0;
        let (mut within, mut all) = (0, 0);
        for _ in 0..2000 {
            let mut levels = Levels::of(2);
            loop {
                if let Leveled::Read { level, .. } = levels.take(&heard(1, -20.0 + 1.5 * stroke()))
                {
                    all += 1;
                    within += usize::from((level.decibels + 20.0).abs() < level.width);
                    break;
                }
            }
        }
        let share = f64::from(within as u32) / f64::from(all);
        assert!((0.58..0.76).contains(&share), "{share}");
    }

    #[test]
    fn only_an_open_string_has_a_level() {
        let mut levels = Levels::of(2);
        let mut touched = heard(2, -18.0);
        touched.place = touched.place.map(|place| crate::who::Place {
            kind: Kind::Harmonic,
            ..place
        });
        assert_eq!(levels.take(&touched), Leveled::Unplaced);
        let stranger = Ear::new(&OPEN, &[]).heard(Note::plain(400.0, 1e-5), None);
        assert_eq!(levels.take(&stranger), Leveled::Unplaced);
    }
}
