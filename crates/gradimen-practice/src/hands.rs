//! A pair of hands at a practice bench: what they do is told to a journal, and the instrument follows.

use std::sync::Arc;

use gradimen_bench::estimate::Estimate;
use gradimen_bench::job::Job;
use gradimen_bench::journal::{Entry, Event};
use gradimen_bench::model::{
    Adjuster, Amount, Fretwork, Heard, Note, Observation, Place, Reading, Rocking, Toll,
};
use gradimen_bench::plan::Plan;
use gradimen_trial::judge;

use crate::bench::Bench;
use crate::toll;

/// Hands, a journal and the instrument behind it.
pub(crate) struct Hands {
    pub(crate) bench: Bench,
    pub(crate) entries: Vec<Entry>,
}

impl Hands {
    /// At an instrument as it comes.
    pub(crate) fn at(opening: &[Event]) -> Option<Self> {
        let Some(Event::Opened(opened)) = opening.first() else {
            return None;
        };
        let mut hands = Self {
            bench: Bench::open(opened)?,
            entries: Vec::new(),
        };
        hands.tell(opening.to_vec());
        Some(hands)
    }

    /// Tells some events as one stroke.
    pub(crate) fn tell(&mut self, events: Vec<Event>) {
        let next = self.entries.len() as u64 + 1;
        let at = jiff::Timestamp::UNIX_EPOCH + jiff::SignedDuration::from_secs(60 * next as i64);
        for entry in Entry::group(next, at, events) {
            if entry.seq > 1 {
                self.bench.then(&entry);
            }
            self.entries.push(entry);
        }
    }

    pub(crate) fn known(&self) -> Option<Estimate> {
        Estimate::of(Arc::new(Job::fold(&self.entries).ok()?)).ok()
    }

    /// Reads a place and tells it; what was read.
    pub(crate) fn read(&mut self, place: Place) -> Option<Event> {
        let event = self.bench.shows(place)?;
        self.tell(vec![event.clone()]);
        Some(event)
    }

    /// Turns, files or hooks, and tells what came of it; nothing where it does not go.
    pub(crate) fn turn(&mut self, adjuster: Adjuster, amount: &Amount) -> Option<Vec<Event>> {
        let told = Event::Adjusted {
            adjuster,
            amount: amount.clone(),
        };
        let happened = self.bench.meets(&[told]).ok()?;
        self.tell(happened.clone());
        Some(happened)
    }

    /// What it all took, and what is out.
    pub(crate) fn toll(&self) -> Option<Toll> {
        let known = self.known()?;
        let rows = judge::rows(self.bench.instrument(), &known, &Plan::of(&known));
        Some(measured(&self.bench, &self.entries, &known, &rows))
    }

    /// How many moves it took so far.
    pub(crate) fn moves(&self) -> u32 {
        toll::of(&self.entries, self.bench.record()).moves
    }
}

/// What a journal took on an instrument, and how many of its targets are truly out.
pub(crate) fn measured<'a>(
    bench: &Bench,
    entries: impl IntoIterator<Item = &'a Entry>,
    known: &Estimate,
    rows: &[judge::Row],
) -> Toll {
    let out = rows.iter().filter(|row| row.is_out()).count();
    let fret = bench.stands();
    let high = usize::from(fret.is_some_and(|stands| stands > STANDS));
    Toll {
        out: (out + high) as u32,
        of: (rows.len() + usize::from(fret.is_some())) as u32,
        ..toll::of(entries, known.instrument())
    }
}

/// A fret that stands no higher than this over its neighbours is right, in millimetres: what a rocker no longer feels.
pub(crate) const STANDS: f64 = 0.02;

/// Plays the notes that buzzed before frets were worked on, and tells what is heard now; whether all are clean.
pub(crate) fn played_clean(hands: &mut Hands) -> Option<bool> {
    let again: Vec<Note> = hands.known()?.play_test().map(|(note, _)| note).collect();
    let played: Vec<Event> = again
        .into_iter()
        .map(|note| {
            let clears = hands.bench.clears(note).is_none_or(|clears| clears >= 0.0);
            let heard = (!clears).then_some(Heard::Buzz);
            Event::Observed {
                what: Observation::Played {
                    note,
                    heard,
                    sure: None,
                },
            }
        })
        .collect();
    let clean = !played.iter().any(|event| {
        matches!(
            event,
            Event::Observed {
                what: Observation::Played { heard: Some(_), .. }
            }
        )
    });
    hands.tell(played);
    Some(clean)
}

pub(crate) const fn fretwork(work: Fretwork, fret: Option<u8>) -> Event {
    Event::Observed {
        what: Observation::Fretwork {
            work,
            fret,
            taken: None,
        },
    }
}

/// Whether a rocker moved.
pub(crate) fn rocked(event: &Event) -> bool {
    matches!(
        event,
        Event::Read { value: Reading::Rock { seen }, .. } if *seen != Rocking::None
    )
}
