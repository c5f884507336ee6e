//! Where a string buzzes, and at how hard a stroke that begins: one string, struck at fret after fret.

use serde::Serialize;

use crate::listener::Struck;

/// A pitch further than this from every fret of the string is another string's, or out of tune: semitones.
const NEAR: f64 = 0.35;
/// From here on it buzzes, up to the other it is clean; between them it is struck again.
const BUZZES: f64 = 0.9;
const CLEAN: f64 = 0.1;
/// A buzz is stronger than this against its note, decibels; what hides more hides it (of a simulated string over frets).
const HIDDEN: f64 = -40.0;
/// The stroke at which it begins is known when a clean and a buzzing one lie this near, decibels.
const BETWEEN: f64 = 4.0;
/// Frets of one string, struck alike, differ in loudness by less than this, decibels (from memory).
const AS_HARD: f64 = 4.0;
/// No two strokes of one loudness swing alike: decibels (from memory).
const STROKE: f64 = 1.0;

/// The fret of a string of that open pitch at which a note sounds; 0 is the open string.
pub fn fret_of(open: f64, hz: f64, frets: u8) -> Option<u8> {
    let semitones = 12.0 * (hz / open).log2();
    let fret = semitones.round();
    let there = (0.0..=f64::from(frets)).contains(&fret) && (semitones - fret).abs() < NEAR;
    there.then_some(fret as u8)
}

/// The strokes of one note, as far as they tell a buzz from none.
#[derive(Debug, Clone, PartialEq)]
pub struct Rattles {
    open: f64,
    frets: u8,
    fret: Option<u8>,
    /// How likely this note buzzes at its hardest stroke, in odds' logarithm.
    odds: f64,
    hardest: f64,
    /// Whether a stroke is only good or bad, held against the hardest on the whole string, and no onset is looked for.
    plays: bool,
    /// The loudest stroke that stayed clean, and the softest that buzzed.
    clean: Option<f64>,
    buzzing: Option<f64>,
}

/// Where a buzz begins: a share of the hardest stroke.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Onset {
    /// That share.
    pub share: f64,
    /// One standard deviation of it.
    pub doubt: f64,
}

/// What a stroke says of a note.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Rattled {
    /// None of this string's frets.
    Unplaced,
    /// Too short to say.
    Short(u8),
    /// It may or may not buzz: struck again it is known.
    Unsure(u8),
    /// What hisses there would hide a buzz.
    Noisy(u8),
    /// Clean in a play test, and by so many decibels softer than the string was struck before: no test of the note.
    Soft {
        /// Held there; 0 is open.
        fret: u8,
        /// How much softer.
        softer: f64,
    },
    /// Clean.
    Clean {
        /// Held there; 0 is open.
        fret: u8,
        /// How likely it is so.
        sure: f64,
        /// Against the hardest stroke of this note, or in a play test of this string: decibels.
        softer: f64,
    },
    /// It buzzes.
    Buzzes {
        /// Held there; 0 is open.
        fret: u8,
        /// How likely it is so.
        sure: f64,
        /// Against the hardest stroke, as above.
        softer: f64,
        /// At which stroke it begins, once strokes on both sides of it were heard.
        begins: Option<Onset>,
    },
}

impl Rattles {
    /// A string of that open pitch with so many frets.
    pub const fn of(open: f64, frets: u8) -> Self {
        Self {
            open,
            frets,
            fret: None,
            odds: 0.0,
            hardest: f64::NEG_INFINITY,
            plays: false,
            clean: None,
            buzzing: None,
        }
    }

    /// The same for a play test: every fret in turn at one touch, so that a soft stroke is seen to be one.
    pub const fn play_test(open: f64, frets: u8) -> Self {
        Self {
            plays: true,
            ..Self::of(open, frets)
        }
    }

    /// A stroke more. The first of a note is taken for the hardest, until a harder one comes.
    pub fn take(&mut self, struck: &Struck) -> Rattled {
        let Some(fret) = fret_of(self.open, struck.hz, self.frets) else {
            return Rattled::Unplaced;
        };
        if self.fret != Some(fret) {
            let hardest = if self.plays {
                self.hardest
            } else {
                f64::NEG_INFINITY
            };
            *self = Self {
                fret: Some(fret),
                hardest,
                plays: self.plays,
                ..Self::of(self.open, self.frets)
            };
        }
        let Some(burst) = struck.burst else {
            return Rattled::Short(fret);
        };
        let level = struck.level;
        self.hardest = self.hardest.max(level);
        let alone = burst.sure.clamp(1e-3, 1.0 - 1e-3);
        let odds = (alone / (1.0 - alone)).ln();
        // What one stroke leaves open the next ones settle together.
        let doubtful = (CLEAN..=BUZZES).contains(&alone);
        self.odds = if doubtful { self.odds + odds } else { odds };
        let sure = 1.0 / (1.0 + (-self.odds).exp());
        if (CLEAN..=BUZZES).contains(&sure) {
            return Rattled::Unsure(fret);
        }
        self.odds = 0.0;
        if sure < CLEAN && burst.hidden > HIDDEN {
            return Rattled::Noisy(fret);
        }
        let softer = self.hardest - level;
        if sure < CLEAN && self.plays && softer >= AS_HARD {
            return Rattled::Soft { fret, softer };
        }
        if sure < CLEAN {
            self.clean = Some(self.clean.map_or(level, |loudest| loudest.max(level)));
            // A stroke as hard that buzzed before is what it was, and the string lies otherwise now or was held otherwise.
            self.buzzing = self.buzzing.filter(|softest| *softest > level);
        } else {
            self.buzzing = Some(self.buzzing.map_or(level, |softest| softest.min(level)));
            self.clean = self.clean.filter(|loudest| *loudest < level);
        }
        let begins = self.begins();
        if begins.is_some() {
            // What comes next is another note, or this one from its hardest stroke on.
            self.fret = None;
        }
        match begins {
            None if sure < CLEAN => Rattled::Clean {
                fret,
                sure: 1.0 - sure,
                softer,
            },
            _ => Rattled::Buzzes {
                fret,
                sure: sure.max(1.0 - sure),
                softer,
                begins,
            },
        }
    }

    /// The stroke between the loudest that stayed clean and the softest that buzzed, where they lie near enough.
    fn begins(&self) -> Option<Onset> {
        let (clean, buzzing) = (self.clean?, self.buzzing.filter(|_| !self.plays)?);
        let apart = buzzing - clean;
        (apart <= BETWEEN).then(|| {
            let share = 10f64.powf(((clean + buzzing) / 2.0 - self.hardest) / 20.0);
            // Even between the two, and no stroke like another.
            let decibels = (apart * apart / 12.0 + STROKE * STROKE).sqrt();
            Onset {
                share,
                doubt: share * decibels * std::f64::consts::LN_10 / 20.0,
            }
        })
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::burst::Burst;

    const OPEN: f64 = 110.0;

    fn struck(fret: f64, level: f64, sure: f64) -> Struck {
        let burst = Burst {
            strength: -10.0,
            above: 20.0,
            until: 0.2,
            sure,
            hidden: -60.0,
        };
        Struck {
            at: 0.0,
            hz: OPEN * 2f64.powf(fret / 12.0),
            level,
            burst: Some(burst),
        }
    }

    #[test]
    fn a_pitch_is_a_fret_of_its_string_or_none() {
        assert_eq!(fret_of(OPEN, 110.3, 22), Some(0));
        assert_eq!(fret_of(OPEN, 110.0 * 2f64.powf(5.2 / 12.0), 22), Some(5));
        assert_eq!(fret_of(OPEN, 110.0 * 2f64.powf(5.5 / 12.0), 22), None);
        assert_eq!(fret_of(OPEN, 82.4, 22), None);
        assert_eq!(fret_of(OPEN, 440.0, 22), None);
    }

    #[test]
    fn strokes_from_hard_to_soft_find_where_it_begins() {
        let mut rattles = Rattles::of(OPEN, 22);
        let first = rattles.take(&struck(5.0, -12.0, 0.99));
        assert!(matches!(
            first,
            Rattled::Buzzes {
                fret: 5,
                begins: None,
                ..
            }
        ));
        let softer = rattles.take(&struck(5.0, -16.0, 0.97));
        assert!(matches!(softer, Rattled::Buzzes { begins: None, .. }));
        let Rattled::Buzzes {
            begins: Some(onset),
            softer,
            ..
        } = rattles.take(&struck(5.0, -19.0, 0.02))
        else {
            panic!()
        };
        // Worked by hand: half way between 4 and 7 dB under the hardest, 10 ^ (-5.5 / 20); 3 / sqrt 12 and 1 dB together are 1.323 dB.
        assert!((onset.share - 0.5309).abs() < 1e-3 && (softer - 7.0).abs() < 1e-9);
        assert!((onset.doubt - 0.5309 * 1.3229 * 0.115_13).abs() < 1e-3);
        // Another fret is another note.
        let other = rattles.take(&struck(6.0, -12.0, 0.01));
        assert!(matches!(other, Rattled::Clean { fret: 6, .. }));
    }

    #[test]
    fn what_one_stroke_leaves_open_the_next_settle() {
        let mut rattles = Rattles::of(OPEN, 22);
        assert_eq!(rattles.take(&struck(0.0, -12.0, 0.7)), Rattled::Unsure(0));
        assert_eq!(rattles.take(&struck(0.0, -12.0, 0.75)), Rattled::Unsure(0));
        // Worked by hand: odds of 7/3, 3 and 3 make 21: 95 in 100.
        let Rattled::Buzzes { sure, .. } = rattles.take(&struck(0.0, -12.0, 0.75)) else {
            panic!()
        };
        assert!((sure - 21.0 / 22.0).abs() < 1e-9);
        let short = Struck {
            burst: None,
            ..struck(0.0, -12.0, 0.9)
        };
        assert_eq!(rattles.take(&short), Rattled::Short(0));
        assert_eq!(rattles.take(&struck(0.5, -12.0, 0.99)), Rattled::Unplaced);
        // Clean is only what would have been heard to buzz.
        let mut hissing = struck(0.0, -12.0, 0.01);
        hissing.burst = hissing.burst.map(|burst| Burst {
            hidden: -30.0,
            ..burst
        });
        assert_eq!(rattles.take(&hissing), Rattled::Noisy(0));
    }

    #[test]
    fn in_a_play_test_a_soft_stroke_is_seen_to_be_one() {
        let mut rattles = Rattles::play_test(OPEN, 22);
        rattles.take(&struck(4.0, -12.0, 0.01));
        rattles.take(&struck(5.0, -13.0, 0.99));
        // Softer it is clean: that it buzzed stays true, and no onset is made of it, however near they lie.
        let soft = rattles.take(&struck(5.0, -22.0, 0.01));
        let softer = 10.0;
        assert_eq!(soft, Rattled::Soft { fret: 5, softer });
        let alike = rattles.take(&struck(5.0, -14.0, 0.01));
        assert!(matches!(alike, Rattled::Clean { fret: 5, .. }), "{alike:?}");
    }

    #[test]
    fn a_note_that_buzzed_softer_than_it_now_stays_clean_is_heard_anew() {
        let mut rattles = Rattles::of(OPEN, 22);
        rattles.take(&struck(3.0, -18.0, 0.99));
        let clean = rattles.take(&struck(3.0, -12.0, 0.01));
        assert!(matches!(clean, Rattled::Clean { fret: 3, .. }), "{clean:?}");
    }
}
