//! Which string of an instrument a note was played on, and how.

use serde::Serialize;

use crate::note::{Note, typical_stiffness};

/// How a note was played.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    /// The open string.
    Open,
    /// Touched at its middle.
    Harmonic,
    /// Pressed at a fret.
    Fretted,
}

/// A note that may be played.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Place {
    /// The string, 1 being the highest.
    pub string: u8,
    /// How.
    pub kind: Kind,
    /// Where it is pressed; nought for an open string, 12 for its harmonic.
    pub fret: u8,
    /// Its pitch when it is in tune, Hz.
    pub hz: f64,
}

/// A note with the string it was played on.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Heard {
    /// What it says of itself.
    #[serde(flatten)]
    pub note: Note,
    /// Where it was played; nothing where it is near no note of the instrument.
    pub place: Option<Place>,
    /// How far it is from that note in tune, cents.
    pub cents: Option<f64>,
    /// How likely it is that place and no other of those that are known.
    pub confidence: f64,
    /// How likely it is that string, however it was played.
    pub string_confidence: f64,
}

/// The notes of an instrument as it is strung, and which it hears.
#[derive(Debug, Clone, PartialEq)]
pub struct Ear {
    places: Vec<Place>,
    /// The pitch of each open string in tune, string 1 first.
    open: Vec<f64>,
}

/// A note is off by so much, cents, before it was tuned or set: most by less, some by far more.
const OFF: f64 = 18.0;
/// What is further off than this is no note of this string, cents.
const FAR: f64 = 160.0;
/// `B` of strings of one pitch differs by this, in its logarithm (thin and thick, plain and wound).
const DIFFERS: f64 = 0.9;
/// What a touch leaves between the partials is more than this, as a rule, and what else stands there less.
const TOUCHED: f64 = 0.0026;
/// Where it is noisy, more than so many times what noise gives there as a rule.
const NOISE: f64 = 1.7;
/// How fast more than that makes it sure, and less unlikely, in the logarithm.
const MORE: f64 = 4.0;
const LESS: f64 = 1.5;
/// How sure that makes, at most: what is there was left by a touch, but a harmonic that was touched lightly may leave nothing.
const SURE: f64 = 5.0;
const UNLIKELY: f64 = 1.3;
/// How much likelier the string is that the work expects, and the way of playing, in the logarithm: more than nothing, less than a sound.
const ASKED: f64 = 2.0;

impl Ear {
    /// An instrument by its open strings in tune (string 1 first), of which these frets are played beside the harmonic.
    pub fn new(open: &[f64], frets: &[u8]) -> Self {
        let of = |(index, hz): (usize, &f64)| {
            let (string, hz) = (index as u8 + 1, *hz);
            let place = move |kind, fret: u8| Place {
                string,
                kind,
                fret,
                hz: hz * 2.0_f64.powf(f64::from(fret) / 12.0),
            };
            let fretted: Vec<Place> = frets
                .iter()
                .map(|fret| place(Kind::Fretted, *fret))
                .collect();
            [place(Kind::Open, 0), place(Kind::Harmonic, 12)]
                .into_iter()
                .chain(fretted)
        };
        Self {
            places: open.iter().enumerate().flat_map(of).collect(),
            open: open.to_vec(),
        }
    }

    /// Open strings that are tuned each so many cents off its pitch for now, as those of a float are before it lands.
    pub fn tuned_off(open: &[f64], cents: &[f64]) -> Self {
        let off = |(hz, cents): (&f64, &f64)| hz * (cents / 1200.0).exp2();
        let open: Vec<f64> = open.iter().zip(cents).map(off).collect();
        Self::new(&open, &[])
    }

    /// Every pitch that may come, Hz.
    pub fn pitches(&self) -> Vec<f64> {
        self.places.iter().map(|place| place.hz).collect()
    }

    /// Where a note was played. `next` is the string and the kind that the work expects now, if any: of two places that sound
    /// alike it decides, against what was plainly heard it does not, and of nothing it makes a harmonic.
    pub fn heard(&self, note: Note, next: Option<(u8, Kind)>) -> Heard {
        let scored: Vec<(f64, &Place)> = self
            .places
            .iter()
            .filter(|place| (1200.0 * (note.hz / place.hz).log2()).abs() < FAR)
            .map(|place| (self.likely(&note, place, next), place))
            .collect();
        let best = scored.iter().max_by(|a, b| a.0.total_cmp(&b.0));
        let Some((score, place)) = best.copied() else {
            return Heard {
                note,
                place: None,
                cents: None,
                confidence: 0.0,
                string_confidence: 0.0,
            };
        };
        let share = |(other, _): &(f64, &Place)| (other - score).exp();
        let all: f64 = scored.iter().map(share).sum();
        let on_it = scored.iter().filter(|(_, at)| at.string == place.string);
        Heard {
            cents: Some(1200.0 * (note.hz / place.hz).log2()),
            place: Some(*place),
            confidence: 1.0 / all,
            string_confidence: on_it.map(share).sum::<f64>() / all,
            note,
        }
    }

    /// The logarithm of how likely a note is from there.
    fn likely(&self, note: &Note, place: &Place, next: Option<(u8, Kind)>) -> f64 {
        let off = 1200.0 * (note.hz / place.hz).log2() / OFF;
        let pitch = -(1.0 + off * off).ln();
        // A shorter string is stiffer by the square of it; so is its harmonic, as it counts its partials.
        let open = self
            .open
            .get(usize::from(place.string) - 1)
            .copied()
            .unwrap_or(place.hz);
        let typical = typical_stiffness(open) * (place.hz / open).powi(2);
        let doubt = DIFFERS.hypot(note.stiffness_width / note.stiffness.max(1e-7));
        let stiff = (note.stiffness.max(1e-7) / typical).ln() / doubt;
        let stiff = -0.5 * stiff * stiff;
        let bound = TOUCHED.hypot(NOISE * note.below_noise);
        let times = ((note.below + 1e-4) / bound).ln();
        let touched = (MORE * times.max(0.0) + LESS * times.min(0.0)).clamp(-UNLIKELY, SURE);
        let touched = if place.kind == Kind::Harmonic {
            touched
        } else {
            0.0
        };
        let asked = match next {
            Some((string, kind)) => {
                // A harmonic is known by its sound or not at all: what it is compared with would else be the fretted note itself.
                let expected = place.kind == kind && kind != Kind::Harmonic;
                let string = if place.string == string { ASKED } else { 0.0 };
                string + if expected { ASKED } else { 0.0 }
            }
            None => 0.0,
        };
        pitch + stiff + touched + asked
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_harmonic_is_known_by_what_the_touch_leaves_and_never_by_the_order_of_the_work() {
        let ear = Ear::new(&[329.63, 246.94, 196.0, 146.83, 110.0, 82.41], &[12]);
        let with = |below, next| {
            let note = Note {
                below,
                ..Note::plain(392.0, 8e-5)
            };
            let heard = ear.heard(note, next);
            (heard.place.unwrap().kind, heard)
        };
        // Without a trace it may be either: the string is known, how it was played is not.
        for next in [None, Some((3, Kind::Harmonic))] {
            let (_, heard) = with(0.0, next);
            assert!(heard.confidence < 0.8, "{next:?} {heard:?}");
            assert!(heard.string_confidence > 0.8, "{next:?} {heard:?}");
        }
        // Where a fretted note is due it is one.
        let (kind, heard) = with(0.0, Some((3, Kind::Fretted)));
        assert!(kind == Kind::Fretted && heard.confidence > 0.9, "{heard:?}");
        // What was left by a touch is heard whatever is due.
        for next in [None, Some((3, Kind::Fretted))] {
            let (kind, heard) = with(0.01, next);
            assert!(
                kind == Kind::Harmonic && heard.confidence > 0.95,
                "{heard:?}"
            );
        }
    }
}
