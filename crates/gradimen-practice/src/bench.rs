//! The instrument as its journal left it.
//!
//! Everything follows from the journal: the same entries leave the same instrument, and a tool that is laid on twice between two entries
//! shows the same. Undoing a turn turns the screw back, undone strings and springs are those from before, each a move like any other; what was
//! filed does not come back.

use std::sync::Arc;

use gradimen_bench::journal::{Entry, Event, Opened};
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{
    Adjuster, Amount, Note, Observation, Place, Practice, PracticeFault, Practised, Strung,
};
use gradimen_core::quantity::Length;
use gradimen_sim::{Played, SimulatedInstrument};
use thiserror::Error;

use crate::hidden;

/// What cannot be done at a practice bench.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum Refused {
    /// A part that this instrument does not have.
    #[error("this practice instrument has no such part to move")]
    NoSuchPart,
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
    /// What was done, by the stroke it was done in, as far as it can be taken back.
    done: Vec<(u64, Done)>,
    strung: Strung,
    /// How many springs hang, and whether they converge.
    springs: (u8, bool),
    record: Instrument,
}

/// Something that can be taken back.
#[derive(Debug, Clone)]
enum Done {
    /// Something that was turned, slid, laid in or turned round.
    Moved(Adjuster, Amount),
    /// Springs: as they were, and then.
    Hooked([(u8, bool); 2]),
    /// Strings: before, and then.
    Restrung(Box<[Strung; 2]>),
}

impl Bench {
    /// As it comes to the bench; nothing where the job is none of practice.
    pub fn open(opened: &Opened) -> Option<Self> {
        Some(Self {
            practice: opened.practice.clone()?,
            instrument: hidden::hidden(opened, true)?,
            seq: 1,
            done: Vec::new(),
            strung: opened.strung.clone(),
            springs: opened
                .instrument
                .bridge
                .vibrato
                .as_ref()
                .map_or((0, false), |sheet| (sheet.springs, sheet.converging)),
            record: opened.instrument.clone(),
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
                let done = self.can_be_undone(*adjuster, amount);
                self.done.extend(done.map(|done| (entry.group, done)));
            }
            Event::Read { .. } => self.instrument.wait(READING),
            Event::Restrung { strung } => {
                let both = Box::new([self.strung.clone(), strung.clone()]);
                self.done.push((entry.group, Done::Restrung(both)));
                self.string_with(strung.clone());
            }
            Event::Observed { what } => match what {
                Observation::Practised {
                    what: Practised::Waited { minutes },
                } => self.instrument.wait(*minutes),
                Observation::Fretwork { work, fret, .. } => self.instrument.fretwork(*work, *fret),
                _ => {}
            },
            Event::Undone { target } => self.once_more(*target, true),
            Event::Redone { target } => self.once_more(*target, false),
            _ => {}
        }
    }

    /// What is to be known to take a move back; nothing of one that cannot be.
    fn can_be_undone(&mut self, adjuster: Adjuster, amount: &Amount) -> Option<Done> {
        match (adjuster, amount) {
            // What was filed or cut is gone.
            (
                Adjuster::NutSlots { .. } | Adjuster::SaddleHeight { .. },
                Amount::Distance { distance },
            ) if distance.middle() < Length::ZERO => None,
            (_, Amount::Springs { count, converging }) => {
                let now = (*count, *converging);
                let before = std::mem::replace(&mut self.springs, now);
                Some(Done::Hooked([before, now]))
            }
            _ => Some(Done::Moved(adjuster, amount.clone())),
        }
    }

    fn string_with(&mut self, strung: Strung) {
        // What no instrument can be strung with was refused when it was told.
        if self.instrument.restring(&strung).is_some() {
            self.strung = strung;
        }
    }

    /// Takes back what was done in a stroke, the last first, or does it once more.
    fn once_more(&mut self, group: u64, back: bool) {
        let of_it = self.done.iter().filter(|(of, _)| *of == group);
        let mut of_it: Vec<Done> = of_it.map(|(_, done)| done.clone()).collect();
        if back {
            of_it.reverse();
        }
        for done in of_it {
            match done {
                Done::Moved(adjuster, amount) => {
                    let amount = if back { amount.back() } else { amount };
                    self.instrument.adjust(adjuster, &amount);
                }
                Done::Hooked(counts) => {
                    self.springs = counts[usize::from(!back)];
                    let (count, converging) = self.springs;
                    let amount = Amount::Springs { count, converging };
                    self.instrument.adjust(Adjuster::Springs, &amount);
                }
                Done::Restrung(both) => {
                    let [before, then] = *both;
                    self.string_with(if back { before } else { then });
                }
            }
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

    /// What is on record of it.
    pub const fn record(&self) -> &Instrument {
        &self.record
    }

    /// How many strings it has.
    pub const fn strings(&self) -> u8 {
        self.record.strings
    }

    /// What truly happens where somebody tells this: a screw that is at its end stops, a rod that is spent does not go. The events must be
    /// such as the job of this instrument takes.
    ///
    /// # Errors
    /// [`Refused`] for a part that is not there.
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
                return Err(Refused::NoSuchPart);
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
        let how = match played {
            Played::Open => 0,
            Played::Harmonic => 1,
            Played::Fretted => 2,
            Played::Struck(fret) => 1_000_000 + u64::from(fret) * 100_000,
        };
        read.reseed(self.chance(7000 + u64::from(string) * 8 + how + pluck * 1000));
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

    /// Which fret stands high, how far, and whether it is loose.
    pub(crate) fn fault(&self) -> Option<(u8, f64, bool)> {
        hidden::fault_at(&self.practice, self.record.frets)
    }

    /// How far the fret stands up that has a fault, where one has: under the string where it stands highest.
    pub fn stands(&self) -> Option<f64> {
        let (fret, ..) = self.fault()?;
        let all = (1..=self.record.strings).filter_map(|string| {
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

/// A number for a place, so that every place has chance of its own.
fn word(place: Place) -> u64 {
    let written = format!("{place:?}");
    written.bytes().fold(11, |sum: u64, byte| {
        sum.wrapping_mul(131).wrapping_add(u64::from(byte))
    })
}
