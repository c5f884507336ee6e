//! What a buzz that was heard may come from, likeliest first, each with the test that decides.
//!
//! A table of odds by where it was heard, every line of which is weighed by what is known: `share_i = w_i e_i / sum`. The
//! weights are the order in which the trade looks (common practice: open, the slot, the angle behind the nut and loose parts
//! before the first fret; low on the neck, relief and the next fret; high up, the bridge and a rising tongue), their numbers
//! from memory.

use gradimen_core::quantity::Length;

use super::{BuzzRemedy, ONE_FRET};
use crate::estimate::{Estimate as Known, HeardBuzz};
use crate::journal::Event;
use crate::model::{Place, Reading, Rocking};

/// What a buzz may come from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Suspect {
    /// A slot too low, too wide, or that does not fall toward the tuners.
    Slot,
    /// Too little angle behind the nut.
    BackAngle,
    /// A part that rattles along: tuner, spring, screw, saddle, cover.
    LoosePart,
    /// The string itself: dented, old, twisted.
    String,
    /// This fret stands high, or is not seated.
    HighFret(u8),
    /// The fret that it is held at is worn.
    WornFret(u8),
    /// Relief: too little low on the neck, too much higher up.
    Relief,
    /// The string lies too low for this touch.
    LowAction,
    /// The board rises toward its end.
    RisingTongue,
}

/// A suspect with its odds.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Suspicion {
    /// Who.
    pub suspect: Suspect,
    /// How likely, of all.
    pub share: f64,
}

/// Below this none is worth a look (from memory).
const WORTH_A_LOOK: f64 = 0.05;

/// The weights by where a string was held, before anything is known of this one.
fn table(held: u8) -> Vec<(Suspect, f64)> {
    use Suspect as S;
    let next = S::HighFret(held + 1);
    match held {
        0 => vec![
            (S::Slot, 4.0),
            (S::BackAngle, 2.0),
            (S::LoosePart, 2.0),
            (S::Relief, 1.0),
            (next, 1.0),
            (S::String, 0.5),
            (S::LowAction, 0.5),
        ],
        1..=5 => vec![
            (next, 3.0),
            (S::Relief, 3.0),
            (S::LoosePart, 1.5),
            (S::WornFret(held), 1.5),
            (S::LowAction, 0.7),
            (S::String, 0.5),
        ],
        6..=11 => vec![
            (next, 3.0),
            (S::LowAction, 2.5),
            (S::Relief, 1.0),
            (S::WornFret(held), 1.0),
            (S::LoosePart, 1.0),
            (S::String, 0.4),
        ],
        _ => vec![
            (S::LowAction, 3.0),
            (next, 2.5),
            (S::RisingTongue, 2.0),
            (S::WornFret(held), 0.7),
            (S::LoosePart, 0.7),
            (S::String, 0.4),
        ],
    }
}

/// The suspect that a computed cure puts its finger on.
fn meant(cure: BuzzRemedy, suspect: Suspect) -> bool {
    matches!(
        (cure, suspect),
        (BuzzRemedy::Rod { .. }, Suspect::Relief)
            | (BuzzRemedy::Nut { .. }, Suspect::Slot)
            | (
                BuzzRemedy::Saddle { .. },
                Suspect::LowAction | Suspect::RisingTongue
            )
    )
}

/// What was found with a rocker on a fret along a string, where it was tried.
fn rocked(known: &Known, string: u8, fret: u8) -> Option<Rocking> {
    known
        .facts()
        .iter()
        .rev()
        .find_map(|entry| match &entry.event {
            Event::Read {
                place:
                    Place::Rock {
                        string: on,
                        fret: at,
                    },
                value: Reading::Rock { seen },
                ..
            } if *on == string && *at == fret => Some(*seen),
            _ => None,
        })
}

/// How the slot of a string was read: nothing unread, else whether it is low.
fn slot_is_low(known: &Known, string: u8) -> Option<bool> {
    let targets = known.targets();
    let state = known.state();
    let target = targets.nut(string, state.share(state.index(string)));
    state.last(target.place)?;
    let now = state.predict(target.place).ok()?.value;
    Some(now < target.value - target.tolerance)
}

/// What is known of one suspect, as a factor on its weight.
fn evidence(known: &Known, heard: &HeardBuzz, cure: BuzzRemedy, stroke: f64, of: Suspect) -> f64 {
    let geometry = matches!(
        of,
        Suspect::Slot | Suspect::Relief | Suspect::LowAction | Suspect::RisingTongue
    );
    // At this stroke even frets would touch, or would not by far. Nobody knows the hand better than to a share.
    let computed = match stroke {
        stroke if stroke > ONE_FRET && geometry && of != Suspect::Slot => 0.2,
        stroke if stroke <= 1.0 && meant(cure, of) => 6.0,
        stroke if stroke <= 1.0 && !geometry => 0.5,
        _ => 1.0,
    };
    let string = heard.buzz.string;
    let told = match of {
        Suspect::HighFret(fret) => match rocked(known, string, fret) {
            Some(Rocking::Clear) => 8.0,
            Some(Rocking::Slight) => 3.0,
            Some(Rocking::None) => 0.15,
            None => 1.0,
        },
        Suspect::Slot => match slot_is_low(known, string) {
            Some(true) => 3.0,
            Some(false) => 0.4,
            None => 1.0,
        },
        Suspect::String if known.old_strings() => 4.0,
        _ => 1.0,
    };
    computed * told
}

/// The suspects of a buzz, likeliest first; `stroke` is how many times harder than it was played even frets would touch.
pub(super) fn of(
    known: &Known,
    heard: &HeardBuzz,
    cure: BuzzRemedy,
    stroke: f64,
) -> Vec<Suspicion> {
    let last = known.instrument().frets;
    let mut found: Vec<Suspicion> = table(heard.buzz.held)
        .into_iter()
        .filter(|(suspect, _)| !matches!(suspect, Suspect::HighFret(fret) if *fret > last))
        .map(|(suspect, weight)| Suspicion {
            suspect,
            share: weight * evidence(known, heard, cure, stroke, suspect),
        })
        .collect();
    let all: f64 = found.iter().map(|one| one.share).sum();
    for one in &mut found {
        one.share /= all;
    }
    found.retain(|one| one.share >= WORTH_A_LOOK);
    found.sort_by(|a, b| b.share.total_cmp(&a.share));
    found
}

/// Whether a string lies otherwise now than when it was heard.
pub(super) fn lies_otherwise(known: &Known, heard: &HeardBuzz) -> bool {
    // More than a hand can feel in a buzz (from memory).
    const FAR: Length = Length::from_mm(0.05);
    let now = known.state().line(heard.buzz.string);
    let tops = known.state().tops(heard.buzz.string);
    let height = |line: &gradimen_core::action::StringLine, fret| {
        line.action(tops, fret).unwrap_or(Length::ZERO)
    };
    [1, 12]
        .into_iter()
        .any(|fret| (height(&now, fret) - height(&heard.line, fret)).abs() > FAR)
}
