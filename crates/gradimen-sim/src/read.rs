//! What hands read off it, as they type it.

use gradimen_bench::journal::Event;
use gradimen_bench::model::{Measurement, Note, Place, Reading, Reference, RodFeel};

use crate::SimulatedInstrument;

/// How finely its tuner shows.
const TUNER_STEP: f64 = 0.1;
/// A fretted note by hand: how much the finger differs from time to time, as a share of its force, and the rest of it.
const FINGER: f64 = 0.15;
const SCATTER: f64 = 0.35;

impl SimulatedInstrument {
    /// Reads a place with the tool that belongs there; nothing where it has none.
    pub fn read(&mut self, place: Place) -> Option<Event> {
        self.neck.settle();
        let reading = match place {
            Place::Relief { side, span } => {
                let gap = self.relief(side, span);
                if gap < -0.03 {
                    Reading::Rocks
                } else {
                    match self.hand.bladed(gap) {
                        Some(length) => Reading::Length { length },
                        None => Reading::Touches,
                    }
                }
            }
            Place::Nut { string, held } => {
                let held = if held == 3 { 2 } else { held };
                let gap = self.height(usize::from(string - 1), held, 1);
                length(self.hand.bladed(gap)?)
            }
            Place::Action { string, fret, held } => {
                let height = self.height(usize::from(string - 1), held, fret);
                length(self.hand.ruled(height)?)
            }
            Place::Gap => {
                let gap = self.gap()?;
                if gap < 0.05 {
                    Reading::Flat
                } else {
                    length(self.hand.calipered(gap)?)
                }
            }
            Place::Spring => {
                let long = self.plate.as_ref()?.spring();
                length(self.hand.calipered(long)?)
            }
            Place::ClawEnds => {
                let (treble, bass) = self.plate.as_ref()?.claw_ends()?;
                Reading::Ends {
                    treble: self.hand.ruled(treble)?,
                    bass: self.hand.ruled(bass)?,
                }
            }
            Place::Intonation { string, fret: 12 } => self.play(string),
            Place::Pickup { pickup, side } => {
                let gap = self.pickup(pickup, side)?;
                length(self.hand.ruled(gap)?)
            }
            Place::PolePiece { pickup, string } => {
                let gap = self.pole(pickup, string)?;
                length(self.hand.ruled(gap)?)
            }
            Place::Scale { string } => {
                let twelfth = self.courses[usize::from(string - 1)].frets[12];
                length(self.hand.along(twelfth)?)
            }
            Place::Saddle { string } => {
                let index = usize::from(string - 1);
                let way = self.crown(index).0 - self.courses[index].frets[12];
                length(self.hand.along(way)?)
            }
            Place::Room { string } => {
                let course = &self.courses[usize::from(string - 1)];
                let (_, far) = self.travel_of(usize::from(string - 1));
                let room = (far - course.setback).max(0.0);
                length(self.hand.ruled(room)?)
            }
            Place::Rock { string, fret } => Reading::Rock {
                seen: self.rocks(Note { string, fret })?,
            },
            Place::RodCheck => Reading::RodNut {
                turns_left: (self.neck.left * 4.0).floor() / 4.0,
                how: if self.rod_hard {
                    RodFeel::Hard
                } else {
                    RodFeel::Free
                },
            },
            _ => return None,
        };
        Some(Event::read(place, reading))
    }

    /// A fretted twelfth against its harmonic: another finger and another pluck every time.
    fn play(&mut self, string: u8) -> Reading {
        let index = usize::from(string - 1);
        let (force, behind) = self.courses[index].finger;
        let chance = &mut self.hand.chance;
        let finger = (force * chance.factor(FINGER), behind * chance.factor(0.1));
        let swings = [chance.between(0.05, 0.3), chance.between(0.03, 0.2)];
        let round = chance.between(0.0, 1.0);
        let noise = chance.normal(SCATTER);
        let course = &self.courses[index];
        let length = self.crown(index).0 / 2.0;
        let [fretted, harmonic] =
            swings.map(|swing| course.wire.swung(length, course.pull, swing, round));
        let shown = self.note(index, finger) + fretted - harmonic + noise;
        Reading::Note {
            cents: ((shown / TUNER_STEP).round() * TUNER_STEP * 100.0).round() / 100.0,
            against: Reference::Harmonic,
            resolution_cents: None,
            by_ear: false,
        }
    }
}

fn length(length: Measurement) -> Reading {
    Reading::Length { length }
}
