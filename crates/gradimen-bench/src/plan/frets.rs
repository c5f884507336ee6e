//! The fret survey: what rockers and buzzes say of every fret top, where one more rock would tell most, and what to do about it.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::frets::{Advice, Frets}};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let frets = Frets::of(&known);
//! assert_eq!(frets.advice, Advice::Survey);
//! assert!(frets.next.is_some());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::BTreeSet;

use gradimen_core::fretboard::{fret_position, string_offset};
use gradimen_core::level::{Top, level};
use gradimen_core::quantity::Length;
use gradimen_core::survey::{Rock, Survey};

use crate::estimate::Estimate;
use crate::journal::Event;
use crate::model::{Heard, Note, Place, Reading, Rocking};

/// A fret is called high from these odds on, and let be below those.
const HIGH: f64 = 0.5;
/// As many frets as are spot-levelled one by one; more, and all are levelled (common practice: a handful).
const SPOT: usize = 3;
/// A crown of usual height, and the share of it that may go (common practice: a tenth).
const CROWN: Length = Length::from_mm(1.1);
const MAY_GO: f64 = 0.1;
/// A rock that would tell less than this, in nats, is not asked for: where one outcome in thirty would come otherwise (a choice).
const WORTH_A_ROCK: f64 = 0.15;

/// One fret top.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct TopKnown {
    /// Where.
    pub note: Note,
    /// Over the line of the board, and one standard deviation of that.
    pub height: (Length, Length),
    /// How probable it is that it stands high over its neighbours; nothing at the ends of the board.
    pub high: Option<f64>,
    /// What a rocker showed there last.
    pub rocked: Option<Rocking>,
    /// What levelling all frets with the least metal would take from it.
    pub taken: Length,
}

impl TopKnown {
    /// Whether it is called high.
    pub fn is_high(&self) -> bool {
        self.high.is_some_and(|share| share > HIGH)
    }
}

/// What is to be done.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Advice {
    /// Nothing is known yet: lay the rocker.
    Survey,
    /// Nothing stands high so far, and there is more to rock.
    GoOn,
    /// Nothing stands high.
    Leave,
    /// A few frets, one by one; press them first.
    Spot,
    /// All frets levelled, crowned and polished.
    Level,
    /// Levelling would take more than a tenth of the crowns: new frets, or a specialist's word.
    Refret,
}

/// The survey.
#[derive(Debug, Clone, PartialEq)]
pub struct Frets {
    /// Every top, string by string.
    pub tops: Vec<TopKnown>,
    /// Those that are called high, the surest first.
    pub high: Vec<TopKnown>,
    /// How many frets those are.
    pub frets: usize,
    /// Where one more rock would tell most.
    pub next: Option<Note>,
    /// The most that levelling all frets would take anywhere.
    pub most: Length,
    /// What to do.
    pub advice: Advice,
}

const fn rock_of(seen: Rocking) -> Rock {
    match seen {
        Rocking::None => Rock::None,
        Rocking::Slight => Rock::Slight,
        Rocking::Clear => Rock::Clear,
    }
}

/// Where a rocker can stand with its middle.
fn can_rock(note: Note, frets: u8) -> bool {
    note.fret >= 2 && note.fret < frets
}

impl Frets {
    /// From everything a job knows of its frets.
    pub fn of(known: &Estimate) -> Self {
        let instrument = known.instrument();
        let (strings, frets) = (instrument.strings, instrument.frets);
        let places: Vec<Vec<Length>> = (1..=strings)
            .map(|string| {
                let scale = known.speaking_scale(string);
                (1..=frets).map(|fret| fret_position(scale, fret)).collect()
            })
            .collect();
        let index = |note: Note| (usize::from(note.string - 1), usize::from(note.fret - 1));
        let mut rocked: Vec<(Note, Rocking)> = Vec::new();
        let mut survey = Survey::new(&places).ok();
        let mut buzzes: Vec<Note> = known
            .buzzes()
            .iter()
            .map(|buzz| Note {
                string: buzz.string,
                fret: buzz.held + 1,
            })
            .collect();
        buzzes.extend(
            known
                .play_test()
                .filter(|(_, heard)| matches!(heard, Heard::Buzz | Heard::Choke | Heard::Dead))
                .map(|(note, _)| Note {
                    fret: note.fret + 1,
                    ..note
                }),
        );
        for entry in known.facts() {
            if let Event::Read {
                place: Place::Rock { string, fret },
                value: Reading::Rock { seen },
                ..
            } = &entry.event
            {
                let note = Note {
                    string: *string,
                    fret: *fret,
                };
                rocked.retain(|(at, _)| *at != note);
                rocked.push((note, *seen));
            }
        }
        if let Some(survey) = &mut survey {
            // What cannot be is refused when it is told; a board on which no rocker stands knows nothing.
            for note in buzzes.iter().filter(|note| can_rock(**note, frets)) {
                let (string, fret) = index(*note);
                survey.buzzed(string, fret).ok();
            }
            for (note, seen) in rocked.iter().filter(|(note, _)| can_rock(*note, frets)) {
                let (string, fret) = index(*note);
                survey.rocked(string, fret, rock_of(*seen)).ok();
            }
        }
        let mut tops = tops(known, survey.as_ref(), &rocked);
        let most = take(known, &mut tops);
        let mut high: Vec<TopKnown> = tops.iter().filter(|top| top.is_high()).copied().collect();
        high.sort_by(|one, other| {
            other
                .high
                .unwrap_or(0.0)
                .total_cmp(&one.high.unwrap_or(0.0))
        });
        let anything = !rocked.is_empty() || !buzzes.is_empty();
        let next = survey
            .as_ref()
            .and_then(|survey| next(survey, known, &rocked));
        let numbers: BTreeSet<u8> = high.iter().map(|top| top.note.fret).collect();
        Self {
            next,
            advice: match numbers.len() {
                _ if !anything => Advice::Survey,
                0 if next.is_some() => Advice::GoOn,
                0 => Advice::Leave,
                count if count <= SPOT => Advice::Spot,
                _ if most > CROWN * MAY_GO => Advice::Refret,
                _ => Advice::Level,
            },
            frets: numbers.len(),
            tops,
            high,
            most,
        }
    }
}

fn tops(known: &Estimate, survey: Option<&Survey>, rocked: &[(Note, Rocking)]) -> Vec<TopKnown> {
    let instrument = known.instrument();
    let notes = (1..=instrument.strings)
        .flat_map(|string| (1..=instrument.frets).map(move |fret| Note { string, fret }));
    notes
        .map(|note| {
            let (string, fret) = (usize::from(note.string - 1), usize::from(note.fret - 1));
            let height = survey.and_then(|survey| survey.top(string, fret));
            let high = survey.and_then(|survey| survey.high(string, fret).ok());
            let last = rocked.iter().find(|(at, _)| *at == note);
            TopKnown {
                note,
                height: height.unwrap_or((Length::ZERO, Length::ZERO)),
                high: high.map(|high| high.share),
                rocked: last.map(|(_, seen)| *seen),
                taken: Length::ZERO,
            }
        })
        .collect()
}

/// Lays the plane of least metal under the tops as they most likely are; the most that goes anywhere.
fn take(known: &Estimate, tops: &mut [TopKnown]) -> Length {
    let instrument = known.instrument();
    let across = |string: u8, along: Length, scale: Length| {
        let (nut, bridge) = (
            instrument.spread_nut.middle(),
            instrument.spread_bridge.middle(),
        );
        let (index, strings) = (usize::from(string - 1), usize::from(instrument.strings));
        string_offset(index, strings, nut, bridge, along, scale)
    };
    let laid: Vec<Top> = tops
        .iter()
        .map(|top| {
            let scale = known.speaking_scale(top.note.string);
            let along = fret_position(scale, top.note.fret);
            Top {
                along,
                across: across(top.note.string, along, scale),
                height: top.height.0,
            }
        })
        .collect();
    let Ok(plan) = level(&laid) else {
        return Length::ZERO;
    };
    for (top, taken) in tops.iter_mut().zip(&plan.taken) {
        top.taken = *taken;
    }
    plan.most()
}

/// The place not rocked yet that would tell most.
fn next(survey: &Survey, known: &Estimate, rocked: &[(Note, Rocking)]) -> Option<Note> {
    let instrument = known.instrument();
    let mut best: Option<(Note, f64)> = None;
    for string in 1..=instrument.strings {
        for fret in 2..instrument.frets {
            let note = Note { string, fret };
            if rocked.iter().any(|(at, _)| *at == note) {
                continue;
            }
            let tells = survey.would_tell(usize::from(string - 1), usize::from(fret - 1));
            let Ok(tells) = tells else { continue };
            // The first of equals: along the board from the nut, string 1 first.
            if best.is_none_or(|(_, most)| tells > most + 1e-9) {
                best = Some((note, tells));
            }
        }
    }
    best.filter(|(_, tells)| *tells > WORTH_A_ROCK)
        .map(|(note, _)| note)
}
