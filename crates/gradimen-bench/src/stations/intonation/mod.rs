//! The intonation station: from the estimate to the one next move of every saddle.
//!
//! A saddle that plays is read before it is set. It is left alone when its notes are surely in spec, moved when they
//! are not, and read again only while another reading could change that.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let saddle = plan.intonation.saddle_of(3).ok_or("string 3 has its saddle")?;
//! assert!(saddle.strings().any(|string| string == 3));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod bar;
mod findings;
pub mod heard;
mod scale;
mod turn;

pub use scale::scale_checks;

use gradimen_core::intonation::first_order_move;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::shared::even_compromise;
use gradimen_core::units::print::rounded_turns;

use crate::decision::Finish;
use crate::decision::{
    Action, CLOSED, Decision, Expectation, Expected, IN_SPEC, Judged, Mark, Move, Odds, Rule,
    Station, StationId, Stop, Sum, Task, Verdict,
};
use crate::estimate::Estimate as Known;
use crate::estimate::saddle::{SaddleEstimate, StringEstimate};
use crate::finding::Finding;
use crate::model::hardware::SaddleDrive;
use crate::model::{Adjuster, Amount, End, Place};

/// Fewest comparisons of two notes before a saddle is moved for the first time (common practice: one is chance).
const BEFORE_MOVING: usize = 2;
/// Whoever plays it has another finger than whoever read it: by so many cents at the twelfth (common practice).
const OWN_FINGER: f64 = 0.15;
/// A finding that stops needs so many standard deviations.
const TWO_SIGMA: f64 = 2.0;
/// One hand reading scatters by about this (common practice: 0.4 to 1.2 by string), for what a tuner can show.
const HAND_SCATTER: f64 = 0.6;
/// So many readings are what a tuner is taken to be asked for.
const READINGS: f64 = 3.0;

/// One saddle with its estimate and what follows.
#[derive(Debug, Clone, PartialEq)]
pub struct SaddlePlan {
    /// What is known.
    pub estimate: SaddleEstimate,
    /// Where it is to stand.
    pub target: Estimate<Length>,
    /// What remains on each string there.
    pub remaining: Vec<Cents>,
    /// How probable it is that each string is right.
    pub odds: Vec<Odds>,
    /// Verdict on each string.
    pub verdicts: Vec<Verdict>,
    /// How far the target lies outside the travel: positive behind it, negative in front.
    pub short_by: Option<Length>,
    /// Less than one turn left at the target.
    pub tight: bool,
    /// What to do.
    pub action: Action,
    /// The string that matters more, if one does.
    pub preferred: Option<u8>,
}

impl SaddlePlan {
    /// The strings on it.
    pub fn strings(&self) -> impl Iterator<Item = u8> + '_ {
        self.estimate.strings.iter().map(|string| string.string)
    }

    /// Where it is drawn: where it stands, or where it belongs while nobody has read it.
    pub fn shown_place(&self) -> Length {
        if self.estimate.placed {
            self.estimate.setback.value
        } else {
            self.target.value
        }
    }

    /// Way left behind the saddle where it belongs; negative when its travel ends before that.
    pub fn left_behind(&self) -> Length {
        self.estimate.furthest.value - self.target.value
    }

    /// The end of the travel that is nearer to where the saddle belongs.
    pub fn nearer_end(&self) -> Length {
        let to_front = self.target.value - self.estimate.nearest;
        if self.left_behind() < to_front {
            self.estimate.furthest.value
        } else {
            self.estimate.nearest
        }
    }

    /// The move, where the action has one.
    pub fn next_move(&self) -> Option<&Move> {
        self.action.next_move()
    }
}

/// Within this ear and reading may disagree anyhow (common practice): nothing finer is asked for where the job says nothing.
const WITHIN_A_CENT: f64 = 1.0;

/// What is let be where the job says nothing: a cent, or what this tuner and three readings by hand can still tell from
/// nothing.
pub fn threshold(resolution: Cents) -> Cents {
    let scatter = HAND_SCATTER * HAND_SCATTER / READINGS;
    let told = (resolution.value().powi(2) + scatter).sqrt();
    Cents::new(told.max(WITHIN_A_CENT))
}

/// The intonation station.
#[derive(Debug, Clone, PartialEq)]
pub struct IntonationPlan {
    /// Saddle by saddle.
    pub saddles: Vec<SaddlePlan>,
    /// Below this an error is let be: what the job allows, or what the tuner can show.
    pub threshold: Cents,
    /// The instrument when all else is done.
    end: Finish,
}

/// Works the station out. A saddle for which the model has no answer is left out.
pub(crate) fn plan(known: &Known, rule: Rule, end: Finish) -> IntonationPlan {
    let threshold = known
        .targets()
        .intonation_tolerance()
        .unwrap_or_else(|| threshold(known.tuner().resolution()));
    let bar = known.instrument().bridge.details.drive == SaddleDrive::Bar;
    let all: Vec<(usize, &SaddleEstimate)> = known
        .known_saddles()
        .iter()
        .enumerate()
        .filter_map(|(index, estimate)| Some((index, estimate.as_ref()?)))
        .collect();
    let on_bar = bar.then(|| {
        let estimates: Vec<&SaddleEstimate> = all.iter().map(|(_, saddle)| *saddle).collect();
        bar::places(known, &estimates)
    });
    let on_bar = on_bar.flatten();
    let mut saddles: Vec<SaddlePlan> = all
        .into_iter()
        .enumerate()
        .filter_map(|(at, (index, estimate))| {
            let target = match &on_bar {
                Some(places) => *places.get(at)?,
                None => place_for(known, estimate, known.preferred(index))?,
            };
            plan_saddle(known, index, estimate, target, (threshold, rule))
        })
        .collect();
    if bar {
        bar::order(known, &mut saddles);
    }
    IntonationPlan {
        saddles,
        threshold,
        end,
    }
}

impl IntonationPlan {
    /// The strings that were read and may be out of spec, by more than a hand scatters: each with how far it is off and its
    /// odds. Of a shared saddle that is what its compromise leaves to do.
    pub fn in_doubt(&self) -> impl Iterator<Item = (&StringEstimate, Odds)> {
        let each = self.saddles.iter().flat_map(|saddle| {
            let strings = saddle.estimate.strings.iter();
            strings.zip(&saddle.remaining).zip(&saddle.odds)
        });
        each.filter(|((string, left), odds)| {
            let off = string.error.value - **left;
            string.count > 0 && odds.within < IN_SPEC && !well_inside(off, self.threshold)
        })
        .map(|((string, _), odds)| (string, *odds))
    }

    /// The saddle that carries a string.
    pub fn saddle_of(&self, string: u8) -> Option<&SaddlePlan> {
        self.saddles
            .iter()
            .find(|saddle| saddle.strings().any(|on| on == string))
    }

    /// The string to attend to next: one to move, then one to read again, then one not read yet.
    pub fn next_string(&self) -> Option<u8> {
        let rank = |saddle: &SaddlePlan| match saddle.action {
            Action::Adjust(_) => 0,
            Action::Measure(_) if saddle.estimate.is_unread() => 2,
            Action::Measure(_) => 1,
            Action::Stop(_) => 3,
            Action::Leave => 4,
        };
        self.saddles
            .iter()
            .filter(|saddle| !saddle.action.is_leave())
            .min_by_key(|saddle| rank(saddle))
            .and_then(|saddle| match &saddle.action {
                Action::Measure(places) => places.first()?.string(),
                _ => saddle.strings().next(),
            })
    }

    /// Whether nothing is left to do on any saddle.
    pub fn is_done(&self) -> bool {
        self.saddles.iter().all(|saddle| saddle.action.is_leave())
    }
}

/// Errors of all strings of a saddle at a setback: to first order about where it stands.
fn errors_at(bench: &Known, saddle: &SaddleEstimate, setback: Length) -> Vec<Cents> {
    let state = bench.state();
    let of = |string: &StringEstimate| {
        let slope = state.cents_per_mm(state.index(string.string));
        string.error.value + Cents::new(slope * (setback - saddle.setback.value).mm())
    };
    saddle.strings.iter().map(of).collect()
}

/// Where a saddle belongs, by where each of its strings would have it.
fn place_for(
    bench: &Known,
    saddle: &SaddleEstimate,
    preferred: Option<u8>,
) -> Option<Estimate<Length>> {
    let strings = &saddle.strings;
    let alone = preferred.and_then(|string| strings.iter().find(|on| on.string == string));
    match (alone, &strings[..]) {
        (Some(string), _) | (None, [string]) => Some(string.ideal),
        (None, []) => None,
        (None, [first, ..]) => {
            let ideals = strings.iter().map(|on| on.ideal.value);
            let low = ideals.clone().fold(first.ideal.value, Length::min);
            let high = ideals.fold(low, Length::max);
            let margin = Length::from_mm(0.01);
            let at = even_compromise(low - margin, high + margin, |at| {
                errors_at(bench, saddle, at)
            })
            .ok()?;
            let sigmas = strings.iter().map(|on| on.ideal.sigma);
            Some(Estimate::new(at, sigmas.fold(Length::ZERO, Length::max)))
        }
    }
}

/// Off by less than this share of what is allowed a saddle is not moved, however that would raise its odds: a strobe shows
/// tenths that the hand scatters itself, and who chases them never ends (common practice).
const WELL_INSIDE: f64 = 0.5;

/// Whether a note is so little off that only the hand's scatter is left in doubt.
fn well_inside(off: Cents, threshold: Cents) -> bool {
    off.abs() < threshold * WELL_INSIDE
}

fn plan_saddle(
    bench: &Known,
    index: usize,
    known: &SaddleEstimate,
    target: Estimate<Length>,
    (threshold, rule): (Cents, Rule),
) -> Option<SaddlePlan> {
    let strings = &known.strings;
    let lead = strings.first()?.string;
    let preferred = bench.preferred(index);
    let remaining = errors_at(bench, known, target.value);
    let pitch = bench.instrument().bridge.intonation.pitch.middle();
    let beyond = short_by(known, target.value);
    let left = (known.furthest.value - target.value).min(target.value - known.nearest);
    let tight = beyond.is_none() && left < pitch && !known.is_unread();

    let off: Vec<Cents> = strings
        .iter()
        .zip(&remaining)
        .map(|(string, left)| string.error.value - *left)
        .collect();
    let judged: Vec<Judged> = strings
        .iter()
        .zip(&off)
        .map(|(string, off)| judge(known, string, *off, threshold))
        .collect();
    let decision = match decide(&judged, rule) {
        Decision::Move if off.iter().all(|off| well_inside(*off, threshold)) => Decision::Leave,
        decision => decision,
    };
    let distance = target.value - known.setback.value;
    let drive = bench.instrument().bridge.details.drive;
    let stuck = bench.ended(Adjuster::SaddleDrive { string: lead });
    // Where it went no further it would have to go on.
    let refused = decision == Decision::Move
        && match stuck {
            Some(End::Bottom) => distance > Length::ZERO,
            Some(End::Top) => distance < Length::ZERO,
            _ => false,
        };
    let short_by = beyond.or(refused.then_some(distance));
    let action = match decision {
        _ if matches!(stuck, Some(End::Stuck | End::Hard)) => Action::Stop(Stop::Stuck),
        Decision::Leave => Action::Leave,
        // Beyond doubt out of its travel: no reading changes that.
        _ if short_by.is_some() => Action::Stop(Stop::OutOfTravel {
            short_by: short_by.unwrap_or(Length::ZERO),
        }),
        Decision::Measure => {
            let needy = strings
                .iter()
                .zip(&judged)
                .filter(|(_, judged)| judged.decide(rule) == Decision::Measure);
            Action::Measure(
                needy
                    .map(|(string, _)| Place::Intonation {
                        string: string.string,
                        fret: 12,
                    })
                    .collect(),
            )
        }
        // A fixed saddle does not go at all; one bar for all strings goes by its two ends, solved for all of them together.
        Decision::Move if matches!(drive, SaddleDrive::Bar | SaddleDrive::Fixed) => {
            Action::Stop(Stop::NoDrive { by: distance })
        }
        Decision::Move => turn::of(bench, known, distance, &off, threshold)
            .map_or(Action::Leave, |step| Action::Adjust(Box::new(step))),
    };
    let blocked = short_by.is_some() && !action.is_leave();
    let odds: Vec<Odds> = judged.iter().map(Judged::odds).collect();
    // Until the saddle is let be, each string on it is called what it is itself, not what the compromise is.
    let shared = strings.len() > 1 && !action.is_leave();
    let verdicts = strings
        .iter()
        .zip(&odds)
        .map(|(string, odds)| {
            let own = judge(known, string, string.error.value, threshold).odds();
            verdict(string, if shared { own } else { *odds }, blocked, rule)
        })
        .collect();
    Some(SaddlePlan {
        target,
        remaining,
        odds,
        verdicts,
        short_by,
        tight,
        action,
        preferred,
        estimate: known.clone(),
    })
}

/// How far a place lies outside the travel, where that is beyond doubt: positive behind it, negative in front.
fn short_by(known: &SaddleEstimate, place: Length) -> Option<Length> {
    // What the end of the travel and the right place are off together, by what was read of both.
    let doubt = known
        .strings
        .iter()
        .map(|string| string.left.sigma)
        .fold(Length::ZERO, Length::max)
        * TWO_SIGMA;
    if known.is_unread() {
        return None;
    }
    if place - known.furthest.value > doubt {
        Some(place - known.furthest.value)
    } else if known.nearest - place > doubt {
        Some(place - known.nearest)
    } else {
        None
    }
}

fn judge(saddle: &SaddleEstimate, string: &StringEstimate, off: Cents, threshold: Cents) -> Judged {
    Judged {
        off: off.value(),
        sigma: string.error.sigma.value().hypot(OWN_FINGER),
        allowed: (threshold.value(), threshold.value()),
        reads: string.count,
        fresh: string.fresh.len(),
        reading: string.scatter.value(),
        fewest: if saddle.moves == 0 { BEFORE_MOVING } else { 1 },
        moving: (off.value() * saddle.response.sigma).abs(),
        closed: CLOSED,
    }
}

/// What the neediest string of the saddle calls for.
fn decide(judged: &[Judged], rule: Rule) -> Decision {
    let all: Vec<Decision> = judged.iter().map(|one| one.decide(rule)).collect();
    [Decision::Measure, Decision::Move]
        .into_iter()
        .find(|decision| all.contains(decision))
        .unwrap_or(Decision::Leave)
}

fn verdict(string: &StringEstimate, odds: Odds, blocked: bool, rule: Rule) -> Verdict {
    match odds.verdict() {
        _ if blocked => Verdict::Blocked,
        _ if string.count == 0 && odds.within < CLOSED && !rule.assumed => Verdict::Unread,
        verdict => verdict,
    }
}

/// Where a saddle belongs when everything else is done.
pub struct SaddleEnd {
    /// Its setback there.
    pub place: Length,
    /// How far it goes for that from where it will stand.
    pub distance: Length,
    /// What remains on its strings.
    pub remaining: Vec<Estimate<Cents>>,
}

impl IntonationPlan {
    /// Where a saddle belongs when everything else is done; nothing where the model has no answer.
    pub fn end_of(&self, known: &Known, saddle: &SaddlePlan) -> Option<SaddleEnd> {
        let state = known.state();
        let mut distance = Length::ZERO;
        for (string, left) in saddle.estimate.strings.iter().zip(&saddle.remaining) {
            let index = state.index(string.string);
            let place = Place::Intonation {
                string: string.string,
                fret: 12,
            };
            let note = state.sight_in(place, &self.end.x, &self.end.lie).ok()?;
            let off = note.value - string.aim.value() - left.value();
            distance -= Length::from_mm(off / state.cents_per_mm(index));
        }
        let count = saddle.estimate.strings.len().max(1) as f64;
        let lead = state.index(saddle.strings().next()?);
        let stands = state.setback_in(&self.end.x, &self.end.lie, lead);
        let remaining = saddle
            .estimate
            .strings
            .iter()
            .zip(&saddle.remaining)
            .map(|(string, left)| Estimate::new(*left, string.error.sigma))
            .collect();
        Some(SaddleEnd {
            place: Length::from_mm(stands) + distance / count,
            distance: distance / count,
            remaining,
        })
    }

    /// All of a saddle's move, for the heights to come.
    fn whole(&self, known: &Known, saddle: &SaddlePlan) -> Action {
        let moves = matches!(saddle.action, Action::Adjust(_) | Action::Leave);
        let Some(end) = self.end_of(known, saddle).filter(|_| moves) else {
            return saddle.action.clone();
        };
        let read = !saddle.estimate.is_unread() || known.state().is_assumed();
        if !read {
            return Action::Leave;
        }
        // A bar goes once, and only what is read now says by how much.
        let bar = known.instrument().bridge.details.drive == SaddleDrive::Bar;
        if bar {
            return saddle.action.clone();
        }
        // What it is short of where it will stand when the vibrato rests as it is to.
        let distance = end.distance;
        let lead = saddle.strings().next().unwrap_or(1);
        let worth = distance.abs().ratio(first_order_move(
            Cents::new(1.0),
            known.speaking_scale(lead),
        ));
        let bridge = &known.instrument().bridge.intonation;
        let pitch = bridge.pitch.middle();
        let response = saddle.estimate.response;
        let turns_exact = Turns::new(distance.ratio(pitch) / response.value);
        let turns = rounded_turns(turns_exact);
        let threshold = self.threshold.value();
        let small = worth <= threshold || turns == Turns::ZERO;
        if small || (saddle.action.is_leave() && worth < 2.0 * threshold) {
            return Action::Leave;
        }
        let expected = saddle
            .strings()
            .zip(&end.remaining)
            .map(|(string, value)| Expected {
                place: Place::Intonation { string, fret: 12 },
                value: Expectation::Cents(*value),
            })
            .collect();
        Action::Adjust(Box::new(Move {
            adjuster: Adjuster::SaddleDrive { string: lead },
            amount: Amount::turns(turns),
            rotation: Some(bridge.rotation(turns)),
            distance: pitch * (turns.value() * response.value),
            total: turns,
            rounds: 1,
            expected,
            sum: Sum::Screw {
                turns_exact,
                pitch,
                response,
            },
        }))
    }
}

impl Station for IntonationPlan {
    fn id(&self) -> StationId {
        StationId::Intonation
    }

    fn tasks(&self, known: &Known) -> Vec<Task> {
        let bar = |saddle: &SaddlePlan| {
            let step = saddle.next_move();
            step.is_some_and(|step| step.adjuster == Adjuster::Bar)
        };
        let first = self.saddles.iter().position(bar);
        self.saddles
            .iter()
            .enumerate()
            // One bar is one task, whichever string it is seen from.
            .filter(|(at, saddle)| !bar(saddle) || first == Some(*at))
            .map(|(_, saddle)| Task {
                strings: saddle.strings().collect(),
                next: saddle.action.clone(),
                whole: self.whole(known, saddle),
            })
            .collect()
    }

    fn findings(&self, known: &Known) -> Vec<Finding> {
        findings::findings(known, self)
    }

    fn mark(&self) -> Mark {
        let mut verdicts = self.saddles.iter().flat_map(|saddle| &saddle.verdicts);
        if self
            .saddles
            .iter()
            .any(|saddle| matches!(saddle.action, Action::Stop(_)))
        {
            Mark::Blocked
        } else if self.is_done() {
            Mark::Within
        } else if verdicts.all(|verdict| *verdict == Verdict::Unread) {
            Mark::Unread
        } else {
            Mark::Working
        }
    }

    fn has_work(&self, _: &Known) -> bool {
        self.saddles.iter().any(|saddle| saddle.action.is_work())
    }
}
