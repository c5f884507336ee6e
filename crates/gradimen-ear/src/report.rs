//! A whole recording as a document.

use serde::Serialize;

use crate::listener::{Listener, Said};
use crate::note::Refusal;
use crate::sound::Sound;
use crate::who::{Ear, Heard};

/// What was heard in a recording.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Report {
    /// Samples a second.
    pub rate: f64,
    /// How long it is, seconds.
    pub seconds: f64,
    /// Note after note.
    pub notes: Vec<Heard>,
    /// What was refused.
    pub refused: Vec<Refused>,
}

/// A sound of which nothing is said.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Refused {
    /// When it began, seconds from the start.
    pub at: f64,
    /// Why.
    pub why: Refusal,
    /// The same in words.
    pub says: String,
}

impl Report {
    /// Listens through a recording of that instrument; of one with no strings only the pitches are told.
    pub fn of(sound: &Sound, ear: &Ear) -> Self {
        let pitches = ear.pitches();
        let mut listener = Listener::new(sound.rate, &pitches).of_recording();
        let block = (sound.rate / 20.0) as usize;
        let mut said: Vec<Said> = sound
            .samples
            .chunks(block.max(1))
            .flat_map(|block| listener.hear(block))
            .collect();
        said.extend(listener.finish());
        let mut report = Self {
            rate: sound.rate,
            seconds: sound.samples.len() as f64 / sound.rate,
            notes: Vec::new(),
            refused: Vec::new(),
        };
        for said in said {
            match said {
                Said::First(_) | Said::Struck(_) => {}
                Said::Note(note) => report.notes.push(ear.heard(note, None)),
                Said::Refused(at, why) => report.refuse(at, why),
            }
        }
        report
    }

    fn refuse(&mut self, at: f64, why: Refusal) {
        self.refused.push(Refused {
            at,
            why,
            says: why.to_string(),
        });
    }
}
