//! Harmonic and fretted note after harmonic and fretted note: which belong together, and when enough of them were heard.

use std::collections::BTreeMap;

use serde::Serialize;

use crate::interval::Interval;
use crate::note::{Note, Refusal};
use crate::who::{Heard, Kind};

/// What a note that was heard comes to.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Step {
    /// It is near no note of the instrument, or near two.
    Unplaced,
    /// The string's reference; now it is fretted.
    Reference {
        /// Which string.
        string: u8,
        /// How it was played.
        kind: Kind,
    },
    /// A reference too far off its pitch: what it would be set by is not what will be played.
    Untuned {
        /// Which string.
        string: u8,
    },
    /// A note that is not where the last one of its kind was: the string was tuned or its saddle moved, or it was not of that kind. Neither is
    /// believed.
    Changed {
        /// Which string.
        string: u8,
    },
    /// A note at the twelfth before its reference: fretted, or a harmonic that cannot be told from it.
    Alone {
        /// Which string.
        string: u8,
        /// Whether it was one the last time, too: whoever played the harmonic as he was asked to is to play the open string, which is always
        /// told from a fretted note.
        again: bool,
    },
    /// The interval so far; it decides nothing yet.
    Again {
        /// Which string.
        string: u8,
        /// As it stands.
        interval: Interval,
    },
    /// The interval, as well as it has to be known.
    Read {
        /// Which string.
        string: u8,
        /// As it stands.
        interval: Interval,
    },
}

/// Less sure of its place than this it is asked for again; of a harmonic, which all else is measured from, than that.
const PLACED: f64 = 0.8;
const SURELY: f64 = 0.9;
/// And what a touch left stands so many times over what noise leaves there as a rule: taken for its own reference, or the two for one
/// another, a note turns a saddle the wrong way.
const CLEAR: f64 = 2.5;
/// A string is in tune within this, cents, when its intonation is read.
const IN_TUNE: f64 = 12.0;
/// A note this far off the last of its kind, cents, is another one: the string was tuned.
const TUNED: f64 = 2.0;
/// Plucks of each after which it is as good as it gets.
const ENOUGH: usize = 5;
/// Known to this share of what is let be, nothing more is to be decided.
const FINE: f64 = 0.35;
/// Or this many widths beyond it.
const PLAINLY: f64 = 3.0;

/// Plucks of one string.
#[derive(Debug, Clone, Default, PartialEq)]
struct Plucks {
    kind: Option<Kind>,
    reference: Vec<Note>,
    fretted: Vec<Note>,
    /// Whether a note at the twelfth came before any reference.
    alone: bool,
}

/// Whether a note is not where the last one was.
fn is_elsewhere(last: Option<&Note>, note: &Note) -> bool {
    last.is_some_and(|last| (1200.0 * (note.hz / last.hz).log2()).abs() > TUNED)
}

/// The strings of an instrument, as they are played one after the other or as it comes.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Pairs {
    strings: BTreeMap<u8, Plucks>,
    /// The string played last, with what comes next on it.
    next: Option<(u8, Kind)>,
}

impl Pairs {
    /// What the work expects next: on a string whose reference rang, the fretted note.
    pub fn next(&self) -> Option<(u8, Kind)> {
        self.next
    }

    /// Something came of which nothing can be said. Where it was a note it may have been the one that was expected, and what comes next is not
    /// known; a hand on the strings was none.
    pub fn missed(&mut self, refusal: Refusal) {
        use Refusal as R;
        match refusal {
            R::Lost | R::Clipped | R::TwoNotes | R::Bends | R::Drifts => self.next = None,
            R::Quiet | R::Short | R::Hum | R::Noise => {}
        }
    }

    /// Takes a note in. `tolerance` is what is let be either side of what is wanted, `wanted` that in cents.
    pub fn take(&mut self, heard: &Heard, wanted: f64, tolerance: f64) -> Step {
        let Some(place) = heard.place.filter(|_| heard.string_confidence > PLACED) else {
            return Step::Unplaced;
        };
        let string = place.string;
        // Fretted or a harmonic: nothing says which.
        let told = match place.kind {
            Kind::Harmonic => {
                heard.confidence > SURELY && heard.note.below >= CLEAR * heard.note.below_noise
            }
            Kind::Open | Kind::Fretted => heard.confidence > PLACED,
        };
        if !told {
            return self.alone(string);
        }
        if place.kind != Kind::Fretted && heard.cents.is_some_and(|cents| cents.abs() > IN_TUNE) {
            self.strings.remove(&string);
            self.next = None;
            return Step::Untuned { string };
        }
        let plucks = self.strings.entry(string).or_default();
        if place.kind != Kind::Fretted {
            if plucks.kind != Some(place.kind) {
                *plucks = Plucks::default();
            }
            if is_elsewhere(plucks.reference.last(), &heard.note) {
                self.strings.remove(&string);
                self.next = Some((string, place.kind));
                return Step::Changed { string };
            }
            plucks.kind = Some(place.kind);
            plucks.reference.push(heard.note.clone());
            self.next = Some((string, Kind::Fretted));
            return Step::Reference {
                string,
                kind: place.kind,
            };
        }
        if is_elsewhere(plucks.fretted.last(), &heard.note) {
            self.strings.remove(&string);
            self.next = None;
            return Step::Changed { string };
        }
        plucks.fretted.push(heard.note.clone());
        let kind = plucks.kind.unwrap_or(Kind::Harmonic);
        let Some(interval) = Interval::of(&plucks.reference, kind, &plucks.fretted) else {
            return self.alone(string);
        };
        let off = (interval.cents - wanted).abs();
        let decided =
            interval.width < FINE * tolerance || off - tolerance > PLAINLY * interval.width;
        let few = plucks.reference.len().min(plucks.fretted.len());
        if decided || few >= ENOUGH {
            self.strings.remove(&string);
            self.next = None;
            return Step::Read { string, interval };
        }
        // The one of which fewer were heard.
        let next = if plucks.reference.len() < plucks.fretted.len() {
            kind
        } else {
            Kind::Fretted
        };
        self.next = Some((string, next));
        Step::Again { string, interval }
    }

    /// A note at the twelfth that is nothing without what comes before it: the string begins anew, as it is then asked for.
    fn alone(&mut self, string: u8) -> Step {
        let begun = Plucks {
            alone: true,
            ..Plucks::default()
        };
        let before = self.strings.insert(string, begun);
        self.next = None;
        let again = before.is_some_and(|plucks| plucks.alone);
        Step::Alone { string, again }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::who::Place;

    fn heard(string: u8, kind: Kind, hz: f64, width: f64) -> Heard {
        let note = Note {
            width,
            ..Note::plain(hz, 0.0)
        };
        let fret = if kind == Kind::Open { 0 } else { 12 };
        Heard {
            note,
            place: Some(Place {
                string,
                kind,
                fret,
                hz,
            }),
            cents: Some(0.0),
            confidence: 0.99,
            string_confidence: 0.99,
        }
    }

    fn sharp(hz: f64, cents: f64) -> f64 {
        hz * 2.0_f64.powf(cents / 1200.0)
    }

    #[test]
    fn a_pair_that_decides_is_read_and_one_that_does_not_is_asked_for_again() {
        let mut pairs = Pairs::default();
        let reference = |pairs: &mut Pairs, width| {
            pairs.take(&heard(3, Kind::Harmonic, 392.0, width), 0.0, 1.0)
        };
        let fretted = |pairs: &mut Pairs, off, width| {
            pairs.take(&heard(3, Kind::Fretted, sharp(392.0, off), width), 0.0, 1.0)
        };
        assert_eq!(
            reference(&mut pairs, 0.1),
            Step::Reference {
                string: 3,
                kind: Kind::Harmonic
            }
        );
        assert_eq!(pairs.next(), Some((3, Kind::Fretted)));
        let Step::Read { interval, .. } = fretted(&mut pairs, 0.4, 0.1) else {
            panic!()
        };
        assert!((interval.cents - 0.4).abs() < 1e-9);
        // Wide, and near the edge: once more. Wide and far beyond it: that is enough.
        reference(&mut pairs, 0.5);
        assert!(matches!(
            fretted(&mut pairs, 1.2, 0.5),
            Step::Again { string: 3, .. }
        ));
        let mut pairs = Pairs::default();
        reference(&mut pairs, 0.5);
        assert!(matches!(
            fretted(&mut pairs, 6.0, 0.5),
            Step::Read { string: 3, .. }
        ));
    }

    #[test]
    fn it_is_never_asked_for_without_end() {
        let mut pairs = Pairs::default();
        let mut asked = 0;
        for _ in 0..20 {
            pairs.take(&heard(1, Kind::Open, 330.0, 2.0), 0.0, 1.0);
            match pairs.take(&heard(1, Kind::Fretted, sharp(660.0, 1.0), 2.0), 0.0, 1.0) {
                Step::Again { .. } => asked += 1,
                Step::Read { interval, .. } => {
                    assert_eq!(interval.plucks, (ENOUGH, ENOUGH));
                    assert_eq!(asked, ENOUGH - 1);
                    return;
                }
                other => panic!("{other:?}"),
            }
        }
        panic!("asked {asked} times");
    }

    #[test]
    fn a_string_that_was_tuned_begins_anew_one_out_of_tune_waits_and_a_fretted_note_alone_is_no_reading()
     {
        let mut pairs = Pairs::default();
        assert_eq!(
            pairs.take(&heard(2, Kind::Fretted, 494.0, 0.1), 0.0, 1.0),
            Step::Alone {
                string: 2,
                again: false
            }
        );
        pairs.take(&heard(2, Kind::Harmonic, 494.0, 0.1), 0.0, 1.0);
        // Tuned since, or a fretted note taken for a harmonic: a fretted note after it is no reading, one more harmonic is believed.
        let tuned = heard(2, Kind::Harmonic, sharp(494.0, 30.0), 0.1);
        assert_eq!(pairs.take(&tuned, 0.0, 1.0), Step::Changed { string: 2 });
        let alone = pairs.take(&heard(2, Kind::Fretted, 494.0, 0.1), 0.0, 1.0);
        assert!(matches!(alone, Step::Alone { string: 2, .. }));
        pairs.take(&tuned, 0.0, 1.0);
        let step = pairs.take(&heard(2, Kind::Fretted, sharp(494.0, 30.5), 0.1), 0.0, 1.0);
        let Step::Read { interval, .. } = step else {
            panic!("{step:?}")
        };
        assert!((interval.cents - 0.5).abs() < 1e-9 && interval.plucks == (1, 1));
        let untuned = Heard {
            cents: Some(-40.0),
            ..heard(2, Kind::Harmonic, sharp(494.0, -40.0), 0.1)
        };
        assert_eq!(pairs.take(&untuned, 0.0, 1.0), Step::Untuned { string: 2 });
        let alone = pairs.take(&heard(2, Kind::Fretted, 494.0, 0.1), 0.0, 1.0);
        assert!(matches!(alone, Step::Alone { string: 2, .. }));
        let unsure = Heard {
            confidence: 0.5,
            string_confidence: 0.5,
            ..heard(2, Kind::Harmonic, 494.0, 0.1)
        };
        assert_eq!(pairs.take(&unsure, 0.0, 1.0), Step::Unplaced);
    }
    #[test]
    fn a_harmonic_that_cannot_be_told_sends_to_the_open_string() {
        let mut pairs = Pairs::default();
        let untold = Heard {
            confidence: 0.6,
            ..heard(4, Kind::Harmonic, 293.7, 0.1)
        };
        let alone = |again| Step::Alone { string: 4, again };
        // One that noise may have made is none.
        let mut noisy = heard(4, Kind::Harmonic, 293.7, 0.1);
        (noisy.note.below, noisy.note.below_noise) = (0.004, 0.002);
        assert_eq!(Pairs::default().take(&noisy, 0.0, 1.0), alone(false));
        assert_eq!(pairs.take(&untold, 0.0, 1.0), alone(false));
        assert_eq!(pairs.take(&untold, 0.0, 1.0), alone(true));
        pairs.take(&heard(4, Kind::Open, 146.85, 0.1), 0.0, 1.0);
        assert_eq!(pairs.next(), Some((4, Kind::Fretted)));
        let step = pairs.take(&heard(4, Kind::Fretted, 293.7, 0.1), 0.0, 1.0);
        assert!(matches!(step, Step::Read { string: 4, .. }), "{step:?}");
    }

    #[test]
    fn a_fretted_note_far_from_the_last_one_is_not_averaged_with_it() {
        let mut pairs = Pairs::default();
        pairs.take(&heard(3, Kind::Harmonic, 392.0, 0.5), 0.0, 1.0);
        let first = heard(3, Kind::Fretted, sharp(392.0, 1.2), 0.5);
        assert!(matches!(pairs.take(&first, 0.0, 1.0), Step::Again { .. }));
        // Fingers squeak on their way; a note that was bent may have been the one.
        let due = pairs.next();
        pairs.missed(Refusal::Noise);
        assert_eq!(pairs.next(), due);
        pairs.missed(Refusal::Bends);
        assert_eq!(pairs.next(), None);
        let moved = heard(3, Kind::Fretted, sharp(392.0, -5.0), 0.5);
        assert_eq!(pairs.take(&moved, 0.0, 1.0), Step::Changed { string: 3 });
        assert!(matches!(
            pairs.take(&moved, 0.0, 1.0),
            Step::Alone { string: 3, .. }
        ));
    }
}
