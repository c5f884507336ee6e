//! Tuning by ear: how far a string is from where it is to be, which one comes next, and how far fresh ones fell when they were stretched.

use std::collections::{BTreeMap, BTreeSet};

use crate::who::{Heard, Kind};

/// A string is in tune within this, cents: what a hand at a peg reaches (from memory).
const IN_TUNE: f64 = 1.0;
/// And this near it lands on a float, which the next string moves again (a choice).
const LANDED: f64 = 3.0;

/// The strings as they are to be tuned, heard by an ear that knows where each is to be.
#[derive(Debug, Clone, PartialEq)]
pub struct Tuning {
    wanted: Vec<u8>,
    /// Whether one must not come before those before it.
    ordered: bool,
    within: f64,
    right: BTreeSet<u8>,
}

/// What a note says of the tuning.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Tuned {
    /// It was none of these strings, open or touched at its middle.
    Unplaced,
    /// Another string comes before it.
    Early {
        /// Which was played.
        string: u8,
        /// Which comes first.
        first: u8,
    },
    /// Too sharp or, below nought, too flat by so many cents.
    Off {
        /// Which.
        string: u8,
        /// By how much.
        cents: f64,
    },
    /// Where it is to be.
    Right {
        /// Which.
        string: u8,
        /// What is left.
        cents: f64,
        /// Which comes next; nothing where all are right.
        next: Option<u8>,
    },
}

/// The string of an open note, or of the harmonic over its middle, and how far that is off its pitch.
fn open(heard: &Heard) -> Option<(u8, f64)> {
    let place = heard.place.filter(|place| place.kind != Kind::Fretted)?;
    Some((place.string, heard.cents?))
}

impl Tuning {
    /// Every string at its pitch, in any order.
    pub fn in_tune(strings: u8) -> Self {
        Self {
            wanted: (1..=strings).collect(),
            ordered: false,
            within: IN_TUNE,
            right: BTreeSet::new(),
        }
    }

    /// These strings one after the other, each where it is to land.
    pub const fn in_order(strings: Vec<u8>) -> Self {
        Self {
            wanted: strings,
            ordered: true,
            within: LANDED,
            right: BTreeSet::new(),
        }
    }

    /// The first string that is not right yet.
    pub fn next(&self) -> Option<u8> {
        let mut left = self.wanted.iter().copied();
        left.find(|string| !self.right.contains(string))
    }

    /// A note more.
    pub fn take(&mut self, heard: &Heard) -> Tuned {
        let Some((string, cents)) = open(heard) else {
            return Tuned::Unplaced;
        };
        if !self.wanted.contains(&string) {
            return Tuned::Unplaced;
        }
        if let Some(first) = self.next().filter(|_| self.ordered)
            && first != string
            && !self.right.contains(&string)
        {
            return Tuned::Early { string, first };
        }
        if cents.abs() > self.within {
            self.right.remove(&string);
            return Tuned::Off { string, cents };
        }
        self.right.insert(string);
        Tuned::Right {
            string,
            cents,
            next: self.next(),
        }
    }
}

/// How far each string fell since it was in tune.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct Stretch {
    fell: BTreeMap<u8, f64>,
}

/// What a note says of a stretch.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Stretched {
    /// It was none of these strings, open or touched at its middle.
    Unplaced,
    /// This one fell by so many cents, and so many strings are still to be played.
    Fell {
        /// Which.
        string: u8,
        /// By how much; a string that rose fell by less than nought.
        cents: f64,
        /// How many are left.
        left: usize,
    },
    /// The last of them; the worst fell by so much.
    All {
        /// Which was the worst.
        string: u8,
        /// By how much.
        cents: f64,
    },
}

impl Stretch {
    /// A note more, on an instrument of so many strings.
    pub fn take(&mut self, heard: &Heard, strings: u8) -> Stretched {
        let Some((string, cents)) = open(heard) else {
            return Stretched::Unplaced;
        };
        self.fell.insert(string, -cents);
        let left = usize::from(strings).saturating_sub(self.fell.len());
        if left > 0 {
            let cents = -cents;
            return Stretched::Fell {
                string,
                cents,
                left,
            };
        }
        let fell = std::mem::take(&mut self.fell);
        let worst = fell
            .into_iter()
            .max_by(|(_, one), (_, other)| one.total_cmp(other));
        let (string, cents) = worst.unwrap_or((string, -cents));
        Stretched::All { string, cents }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::note::Note;
    use crate::who::Ear;

    const OPEN: [f64; 3] = [246.942, 195.998, 110.0];

    /// String and how far off it was played, open.
    fn heard(string: usize, cents: f64) -> Heard {
        let hz = OPEN[string - 1] * (cents / 1200.0).exp2();
        let note = Note::plain(hz, 1e-5);
        Ear::new(&OPEN, &[]).heard(note, None)
    }

    #[test]
    fn strings_are_brought_to_pitch_in_any_order() {
        let mut tuning = Tuning::in_tune(3);
        assert_eq!(tuning.next(), Some(1));
        let Tuned::Off { string: 2, cents } = tuning.take(&heard(2, -14.0)) else {
            panic!()
        };
        assert!((cents + 14.0).abs() < 0.01);
        let right = tuning.take(&heard(2, 0.4));
        assert!(matches!(
            right,
            Tuned::Right {
                string: 2,
                next: Some(1),
                ..
            }
        ));
        tuning.take(&heard(1, -0.2));
        let last = tuning.take(&heard(3, 0.0));
        assert!(matches!(last, Tuned::Right { next: None, .. }));
        // One that fell meanwhile is to be tuned again.
        assert!(matches!(tuning.take(&heard(1, -5.0)), Tuned::Off { .. }));
        assert_eq!(tuning.next(), Some(1));
    }

    #[test]
    fn a_float_lands_in_its_order_and_each_string_off_by_what_is_wanted() {
        // String 3 is tuned 280 cents flat for now, string 2 in tune.
        let ear = Ear::tuned_off(&OPEN, &[0.0, 0.0, -280.0]);
        let played = |string: usize, cents: f64| ear.heard(heard(string, cents).note, None);
        let mut tuning = Tuning::in_order(vec![3, 2, 1]);
        let early = tuning.take(&played(1, 0.0));
        assert_eq!(
            early,
            Tuned::Early {
                string: 1,
                first: 3
            }
        );
        let Tuned::Off { string: 3, cents } = tuning.take(&played(3, -200.0)) else {
            panic!()
        };
        assert!((cents - 80.0).abs() < 0.01, "{cents}");
        let right = tuning.take(&played(3, -278.0));
        assert!(matches!(right, Tuned::Right { next: Some(2), .. }));
        // Played again it is no longer where it was, and that is said.
        assert!(matches!(tuning.take(&played(3, -260.0)), Tuned::Off { .. }));
    }

    #[test]
    fn the_worst_fall_of_all_strings_is_the_stretch() {
        let mut stretch = Stretch::default();
        let first = stretch.take(&heard(1, -4.0), 3);
        assert!(matches!(
            first,
            Stretched::Fell {
                string: 1,
                left: 2,
                ..
            }
        ));
        // Heard again, it counts once.
        stretch.take(&heard(1, -6.0), 3);
        stretch.take(&heard(2, 1.0), 3);
        let Stretched::All { string: 1, cents } = stretch.take(&heard(3, -2.0), 3) else {
            panic!()
        };
        assert!((cents - 6.0).abs() < 0.01);
    }
}
