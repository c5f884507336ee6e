//! The instrument as its journal left it.
//!
//! Everything follows from the journal: the same entries leave the same instrument, and a tool that is laid on twice between two entries
//! shows the same. Undoing a turn turns the screw back, which is a move like any other; what was filed does not come back.

use std::sync::Arc;

use gradimen_bench::journal::{Entry, Event, Opened};
use gradimen_bench::model::{
    Adjuster, Amount, Note, Observation, Place, Practice, PracticeFault, Practised,
};
use gradimen_sim::{Played, SimulatedInstrument};
use thiserror::Error;

use crate::hidden;

/// What cannot be done at a practice bench.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Refused {
    /// A part that stays where it is here.
    #[error(
        "on this practice instrument only rod, nut slots, height screws, saddles, pickups, claw and springs can be moved: bridge, pocket and pieces under them stay where they are"
    )]
    Stays,
}

/// How long a reading takes, in minutes, while a neck goes on settling.
const READING: f64 = 0.25;

/// An instrument to practise on, as it stands.
#[derive(Debug, Clone)]
pub struct Bench {
    practice: Practice,
    instrument: SimulatedInstrument,
    /// The place of the last entry.
    seq: u64,
    /// What was turned, by the stroke it was turned in.
    turned: Vec<(u64, Adjuster, Amount)>,
    strings: u8,
}

impl Bench {
    /// As it comes to the bench; nothing where the job is none of practice.
    pub fn open(opened: &Opened) -> Option<Self> {
        Some(Self {
            practice: opened.practice.clone()?,
            instrument: hidden::hidden(opened, true)?,
            seq: 1,
            turned: Vec::new(),
            strings: opened.instrument.strings,
        })
    }

    /// As a journal left it.
    pub fn of(entries: &[Arc<Entry>]) -> Option<Self> {
        let (first, rest) = entries.split_first()?;
        let Event::Opened(opened) = &first.event else {
            return None;
        };
        let mut bench = Self::open(opened)?;
        for entry in rest {
            bench.then(entry);
        }
        Some(bench)
    }

    /// One entry later.
    pub fn then(&mut self, entry: &Entry) {
        self.seq = entry.seq;
        self.instrument.reseed(self.chance(0));
        match &entry.event {
            Event::Adjusted { adjuster, amount } => {
                self.instrument.adjust(*adjuster, amount);
                self.turned.push((entry.group, *adjuster, amount.clone()));
            }
            Event::Read { .. } => self.instrument.wait(READING),
            Event::Restrung { strung } => {
                // What cannot be read was refused when it was told.
                let _ = self.instrument.restring(strung);
            }
            Event::Observed { what } => match what {
                Observation::Practised {
                    what: Practised::Waited { minutes },
                } => self.instrument.wait(*minutes),
                Observation::Fretwork { work, fret, .. } => self.instrument.fretwork(*work, *fret),
                _ => {}
            },
            Event::Undone { target } => self.back(*target, -1.0),
            Event::Redone { target } => self.back(*target, 1.0),
            _ => {}
        }
    }

    /// Turns the screws of a stroke back, or on again.
    fn back(&mut self, group: u64, way: f64) {
        let of_it: Vec<(Adjuster, Amount)> = self
            .turned
            .iter()
            .filter(|(of, ..)| *of == group)
            .filter_map(|(_, adjuster, amount)| Some((*adjuster, again(*adjuster, amount, way)?)))
            .collect();
        for (adjuster, amount) in of_it {
            self.instrument.adjust(adjuster, &amount);
        }
    }

    fn chance(&self, what: u64) -> u64 {
        let mut mixed = self.practice.seed ^ 0x9e37_79b9_7f4a_7c15;
        for part in [self.seq, what] {
            mixed = (mixed ^ part).wrapping_mul(0xbf58_476d_1ce4_e5b9);
            mixed ^= mixed >> 29;
        }
        mixed
    }

    /// What is practised.
    pub const fn practice(&self) -> &Practice {
        &self.practice
    }

    /// The instrument itself, with everything that is hidden.
    pub const fn instrument(&self) -> &SimulatedInstrument {
        &self.instrument
    }

    /// How many strings it has.
    pub const fn strings(&self) -> u8 {
        self.strings
    }

    /// What truly happens where somebody tells this: a screw that is at its end stops, a rod that is spent does not go.
    ///
    /// # Errors
    /// [`Refused`] for what cannot be moved here.
    pub fn meets(&self, told: &[Event]) -> Result<Vec<Event>, Refused> {
        let mut trying = self.clone();
        let mut happens = Vec::with_capacity(told.len());
        for event in told {
            let Event::Adjusted { adjuster, amount } = event else {
                happens.push(event.clone());
                continue;
            };
            trying.seq += 1;
            trying.instrument.reseed(trying.chance(0));
            let truly = trying.instrument.adjust(*adjuster, amount);
            if truly.is_empty() {
                return Err(Refused::Stays);
            }
            happens.extend(truly);
        }
        Ok(happens)
    }

    /// What a tool shows at a place, as it is typed; nothing where none of this bench reads it.
    pub fn shows(&self, place: Place) -> Option<Event> {
        let mut read = self.instrument.clone();
        read.reseed(self.chance(word(place)));
        read.read(place)
    }

    /// The sound of a string, plucked for the so many-th time.
    pub fn sound_of(&self, string: u8, played: Played, pluck: u64) -> Option<Vec<f32>> {
        let mut read = self.instrument.clone();
        read.reseed(self.chance(7000 + u64::from(string) * 8 + played as u64 + pluck * 1000));
        read.sound(string, played)
    }

    /// Whether a fret gives under a stick.
    pub fn gives(&self, fret: u8) -> bool {
        self.instrument.gives(fret)
    }

    /// How far a note clears the frets in a medium stroke, in millimetres: below nought it buzzes.
    pub fn clears(&self, note: Note) -> Option<f64> {
        self.instrument.clears(note)
    }

    /// How far the fret stands up that has a fault, where one has: under the string where it stands highest.
    pub fn stands(&self) -> Option<f64> {
        let (fret, ..) = hidden::fault_at(&self.practice)?;
        let all = (1..=self.strings).filter_map(|string| {
            let note = Note { string, fret };
            self.instrument.stands(note)
        });
        all.max_by(f64::total_cmp)
    }

    /// What is wrong with it that no screw puts right.
    pub fn trap(&self) -> Option<PracticeFault> {
        let faults = self.practice.faults.iter();
        faults.copied().find(|fault| fault.is_trap())
    }
}

/// The same move once more, or back; nothing for what cannot be taken back.
fn again(adjuster: Adjuster, amount: &Amount, way: f64) -> Option<Amount> {
    let slot = matches!(adjuster, Adjuster::NutSlots { .. });
    match amount {
        Amount::Turns { turns } => Some(Amount::Turns { turns: turns * way }),
        Amount::Distance { distance } if !slot => Some(Amount::Distance {
            distance: gradimen_bench::model::Measurement::mm(distance.middle().mm() * way),
        }),
        _ => None,
    }
}

/// A number for a place, so that every place has chance of its own.
fn word(place: Place) -> u64 {
    let written = format!("{place:?}");
    written.bytes().fold(11, |sum: u64, byte| {
        sum.wrapping_mul(131).wrapping_add(u64::from(byte))
    })
}
