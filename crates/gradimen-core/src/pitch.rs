//! Notes, concert pitch and cents.
//!
//! `f = A4 * 2^((m - 69) / 12)` with `m` the MIDI note number and A4 = 440 Hz by default
//! (ISO 16:1975); an interval in cents is `1200 log2(f / reference)`.
//!
//! ```
//! use gradimen_core::{pitch::{cents_between, ConcertPitch, Note}, quantity::Frequency};
//!
//! let a2: Note = "A2".parse()?;
//! assert!((a2.frequency(ConcertPitch::default()).hertz() - 110.0).abs() < 1e-9);
//! let octave = cents_between(Frequency::from_hertz(110.0), Frequency::from_hertz(220.0));
//! assert!((octave.value() - 1200.0).abs() < 1e-9);
//! # Ok::<(), gradimen_core::pitch::PitchError>(())
//! ```

use std::fmt;
use std::str::FromStr;

use thiserror::Error;

use crate::quantity::{Cents, Frequency};

/// What was wrong with a note or a concert pitch.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum PitchError {
    /// Not a note name.
    #[error(
        "read '{0}', expected a note with its octave: E4, F#3, Bb1, or E4-14 for 14 cents under it"
    )]
    NotANote(String),
    /// A note no string of this kind is tuned to.
    #[error("read '{0}', expected a note from B0 to B6")]
    OutOfRange(String),
    /// Concert pitch far from any in use.
    #[error("read A4 = {0} Hz, expected 390 to 470 Hz, usually 440")]
    ConcertPitch(f64),
    /// An offset that belongs to another note.
    #[error("read an offset of {0} cents, expected -100 to +100: beyond that write the next note")]
    Offset(f64),
}

/// The frequency of A4 that the player tunes to.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ConcertPitch(Frequency);

impl ConcertPitch {
    /// From the frequency of A4, 390 to 470 Hz.
    ///
    /// # Errors
    /// [`PitchError::ConcertPitch`] outside that range.
    pub fn new(a4: Frequency) -> Result<Self, PitchError> {
        if (390.0..=470.0).contains(&a4.hertz()) {
            Ok(Self(a4))
        } else {
            Err(PitchError::ConcertPitch(a4.hertz()))
        }
    }

    /// The frequency of A4.
    pub const fn a4(self) -> Frequency {
        self.0
    }
}

impl Default for ConcertPitch {
    /// ISO 16: 440 Hz.
    fn default() -> Self {
        Self(Frequency::from_hertz(440.0))
    }
}

/// A note of equal temperament by its MIDI number (69 is A4).
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub struct Note(i16);

/// B0, the lowest note an ordinary low bass string is tuned to, less a few for experiments.
const LOWEST: i16 = 16;
/// B6: far above any open string.
const HIGHEST: i16 = 95;
const NAMES: [&str; 12] = [
    "C", "C#", "D", "Eb", "E", "F", "F#", "G", "G#", "A", "Bb", "B",
];

impl Note {
    /// From a MIDI number, 16 (E0) to 95 (B6).
    ///
    /// # Errors
    /// [`PitchError::OutOfRange`] outside that range.
    pub fn from_midi(number: i16) -> Result<Self, PitchError> {
        if (LOWEST..=HIGHEST).contains(&number) {
            Ok(Self(number))
        } else {
            Err(PitchError::OutOfRange(number.to_string()))
        }
    }

    /// The MIDI number.
    pub const fn midi(self) -> i16 {
        self.0
    }

    /// Its frequency at a concert pitch.
    pub fn frequency(self, concert: ConcertPitch) -> Frequency {
        concert.a4() * 2f64.powf(f64::from(self.0 - 69) / 12.0)
    }

    /// The note some semitones higher (or lower).
    ///
    /// # Errors
    /// [`PitchError::OutOfRange`] when no string goes there.
    pub fn transposed(self, semitones: i16) -> Result<Self, PitchError> {
        Self::from_midi(self.0 + semitones)
    }
}

impl fmt::Display for Note {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        let name = NAMES[usize::from(self.0.rem_euclid(12).unsigned_abs())];
        write!(formatter, "{name}{}", self.0.div_euclid(12) - 1)
    }
}

impl FromStr for Note {
    type Err = PitchError;

    fn from_str(text: &str) -> Result<Self, PitchError> {
        let wrong = || PitchError::NotANote(text.trim().to_owned());
        let mut letters = text.trim().chars();
        let letter = letters.next().ok_or_else(wrong)?.to_ascii_uppercase();
        let base = match letter {
            'C' => 0,
            'D' => 2,
            'E' => 4,
            'F' => 5,
            'G' => 7,
            'A' => 9,
            'B' => 11,
            _ => return Err(wrong()),
        };
        let rest = letters.as_str();
        let (shift, octave) = if let Some(octave) = rest.strip_prefix(['#', '\u{266f}']) {
            (1, octave)
        } else if let Some(octave) = rest.strip_prefix(['b', '\u{266d}']) {
            (-1, octave)
        } else {
            (0, rest)
        };
        let octave: i16 = octave.parse().map_err(|_| wrong())?;
        if !(-1..=9).contains(&octave) {
            return Err(PitchError::OutOfRange(text.trim().to_owned()));
        }
        Self::from_midi(12 * (octave + 1) + base + shift)
            .map_err(|_| PitchError::OutOfRange(text.trim().to_owned()))
    }
}

/// What a string is tuned to: a note and an offset from it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pitch {
    note: Note,
    offset: Cents,
}

impl Pitch {
    /// A note and an offset of at most 100 cents either way.
    ///
    /// # Errors
    /// [`PitchError::Offset`] beyond that.
    pub fn new(note: Note, offset: Cents) -> Result<Self, PitchError> {
        if offset.value().abs() <= 100.0 {
            Ok(Self { note, offset })
        } else {
            Err(PitchError::Offset(offset.value()))
        }
    }

    /// The note.
    pub const fn note(self) -> Note {
        self.note
    }

    /// The offset from it.
    pub const fn offset(self) -> Cents {
        self.offset
    }

    /// Its frequency at a concert pitch.
    pub fn frequency(self, concert: ConcertPitch) -> Frequency {
        shifted(self.note.frequency(concert), self.offset)
    }
}

impl From<Note> for Pitch {
    fn from(note: Note) -> Self {
        Self {
            note,
            offset: Cents::ZERO,
        }
    }
}

impl fmt::Display for Pitch {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        write!(formatter, "{}", self.note)?;
        if self.offset != Cents::ZERO {
            write!(formatter, "{:+}", self.offset.value())?;
        }
        Ok(())
    }
}

impl FromStr for Pitch {
    type Err = PitchError;

    /// `E4`, or `E4-14` and `E4+2.5` with an offset in cents.
    fn from_str(text: &str) -> Result<Self, PitchError> {
        let text = text.trim().replace('\u{2212}', "-").replace(',', ".");
        let Some(sign) = text.find(['+', '-']).filter(|&at| at > 0) else {
            return Ok(text.parse::<Note>()?.into());
        };
        let offset: f64 = text[sign..]
            .parse()
            .ok()
            .filter(|offset: &f64| offset.is_finite())
            .ok_or_else(|| PitchError::NotANote(text.clone()))?;
        Self::new(text[..sign].parse()?, Cents::new(offset))
    }
}

/// The interval from `reference` up to `frequency`.
pub fn cents_between(reference: Frequency, frequency: Frequency) -> Cents {
    Cents::new(1200.0 * frequency.ratio(reference).log2())
}

/// A frequency moved by an interval.
pub fn shifted(frequency: Frequency, by: Cents) -> Frequency {
    frequency * 2f64.powf(by.value() / 1200.0)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn reads_and_prints_notes() {
        for (text, midi) in [
            ("E4", 64),
            ("e2", 40),
            ("F#3", 54),
            ("Bb1", 34),
            ("B0", 23),
            ("Cb4", 59),
        ] {
            assert_eq!(text.parse::<Note>().unwrap().midi(), midi, "{text}");
        }
        for midi in LOWEST..=HIGHEST {
            let note = Note::from_midi(midi).unwrap();
            assert_eq!(note.to_string().parse::<Note>().unwrap(), note);
        }
        let pitch: Pitch = "E4\u{2212}2,5".parse().unwrap();
        assert_eq!(pitch.to_string(), "E4-2.5");
    }

    #[test]
    fn refuses_nonsense_and_says_how_to_write_it() {
        for text in ["", "H2", "E", "E#", "4E", "E4+x", "E99999", "\u{266f}4"] {
            assert!(text.parse::<Pitch>().is_err(), "{text}");
        }
        let message = "Q2".parse::<Note>().unwrap_err().to_string();
        assert!(message.contains("'Q2'") && message.contains("F#3"));
        assert!(matches!(
            "E4+101".parse::<Pitch>(),
            Err(PitchError::Offset(_))
        ));
        assert!(ConcertPitch::new(Frequency::from_hertz(44.0)).is_err());
    }

    #[test]
    fn cents_undo_themselves() {
        let a = Frequency::from_hertz(110.0);
        assert!((cents_between(a, shifted(a, Cents::new(-37.5))).value() + 37.5).abs() < 1e-9);
        assert_eq!(cents_between(a, a * 2.0).value(), 1200.0);
    }
}
