//! How much metal this player's touch and targets ask for, fret by fret, beside what levelling all frets would take.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::{Plan, frets::Frets}};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! // Nothing was rocked: nothing stands in the way.
//! let frets = Frets::of(&known).for_play(&known, &Plan::of(&known));
//! assert!(frets.to_play.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use std::collections::BTreeSet;

use gradimen_core::action::StringLine;
use gradimen_core::clearance::{Swings, Tightest};
use gradimen_core::level::play::{Played, least, open_line};
use gradimen_core::quantity::Length;

use super::frets::{Advice, CROWN, FretCut, Frets, SPOT, TopKnown, buzzed, may_go};
use crate::estimate::Estimate;
use crate::plan::Plan;
use crate::stations::clearance::{even, hardest_stroke, pull};

/// Less than this is a polish, not a cut.
const A_CUT: Length = Length::from_mm(0.005);

impl Frets {
    /// The survey, bounded by what this player's touch and targets ask for.
    #[must_use]
    pub fn for_play(mut self, known: &Estimate, plan: &Plan) -> Self {
        if self.high.is_empty() && self.most < A_CUT {
            return self;
        }
        let Some(goes) = goes(&self, known, plan, |top| top.height.0) else {
            return self;
        };
        let crown = known.crown().map_or(CROWN, |crown| crown.middle());
        self.to_play = cuts(&self, &goes, crown);
        let asked: Vec<&FretCut> = self
            .to_play
            .iter()
            .filter(|cut| cut.to_play > A_CUT)
            .collect();
        let most = asked
            .iter()
            .map(|cut| cut.to_play)
            .fold(Length::ZERO, Length::max);
        let few = asked.len() <= SPOT;
        let (none, may_go) = (asked.is_empty(), may_go(known, most));
        self.advice = match self.advice {
            Advice::Spot | Advice::Level | Advice::Refret if self.grooved => self.advice,
            Advice::Spot | Advice::Level if none && self.plays(known, plan) => Advice::Play,
            Advice::Level | Advice::Refret if !none && few && may_go => Advice::Spot,
            Advice::Refret if !none && may_go => Advice::Level,
            as_it_is => as_it_is,
        };
        self
    }

    /// Whether nothing would be touched even if what is called high stood a width higher, and nothing was heard there.
    fn plays(&self, known: &Estimate, plan: &Plan) -> bool {
        let high: BTreeSet<u8> = self.high.iter().map(|top| top.note.fret).collect();
        if buzzed(known).iter().any(|note| high.contains(&note.fret)) {
            return false;
        }
        let stands = |top: &TopKnown| {
            let (height, sigma) = top.height;
            if top.is_high() {
                height + sigma
            } else {
                height
            }
        };
        goes(self, known, plan, stands)
            .is_some_and(|goes| goes.iter().flatten().all(|goes| *goes <= A_CUT))
    }
}

/// What goes from every top, string by string; nothing where a board has no frets to speak of.
fn goes(
    frets: &Frets,
    known: &Estimate,
    plan: &Plan,
    stands: impl Fn(&TopKnown) -> Length,
) -> Option<Vec<Vec<Length>>> {
    let instrument = known.instrument();
    if instrument.construction.fretless {
        return None;
    }
    let pluck = hardest_stroke(known);
    let action_fret = known.targets().action_fret.min(instrument.frets);
    let strings = (1..=instrument.strings).zip(&plan.lines);
    strings
        .map(|(string, line)| {
            let heights: Vec<Length> = frets
                .tops
                .iter()
                .filter(|top| top.note.string == string)
                .map(&stands)
                .collect();
            let even = even(known, string)?;
            let places: Vec<Length> = (0..=even.frets()).map(|fret| even.place(fret)).collect();
            let swings = Swings::new(&even, line.length, pull(known, string), &pluck).ok()?;
            // As the string will lie over an even board by the same gaps: what uneven tops lift or let down is taken off.
            let known_tops = frets.tops.iter().filter(|top| top.note.string == string);
            let lifted: Vec<Length> = known_tops.map(|top| top.height.0).collect();
            let lift = |at: Length| {
                let shares = open_line(&places, action_fret, at).into_iter();
                shares.fold(Length::ZERO, |sum, (top, share)| sum + lifted[top] * share)
            };
            let laid = StringLine {
                nut: line.nut - lift(Length::ZERO),
                saddle: line.saddle - lift(line.length),
                ..*line
            };
            let rooms: Vec<Tightest> = swings.rooms(&laid).collect();
            let played = Played {
                places: &places,
                length: line.length,
                action_fret,
                rooms: &rooms,
            };
            least(&played, &heights).ok()
        })
        .collect()
}

/// Fret by fret, those of which anything goes by either way.
fn cuts(frets: &Frets, goes: &[Vec<Length>], crown: Length) -> Vec<FretCut> {
    let count = goes.iter().map(Vec::len).max().unwrap_or(0);
    let of_fret = (1..=count).filter_map(|fret| {
        let number = u8::try_from(fret).ok()?;
        let here = goes.iter().filter_map(|string| string.get(fret - 1));
        let to_play = here.clone().copied().fold(Length::ZERO, Length::max);
        let strings = (1..).zip(here).filter(|(_, goes)| **goes > A_CUT);
        let tops = frets.tops.iter().filter(|top| top.note.fret == number);
        let to_level = tops.map(|top| top.taken).fold(Length::ZERO, Length::max);
        (to_play > A_CUT || to_level > A_CUT).then(|| FretCut {
            fret: number,
            to_play,
            strings: strings.map(|(string, _)| string).collect(),
            to_level,
            stays: (crown - to_play, crown - to_level),
        })
    });
    of_fret.collect()
}
