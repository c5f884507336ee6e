//! The intonation station: from the estimate to the one next move of every saddle.
//!
//! A saddle is left alone when its remaining error is too small for this tuner to show; it is moved when
//! the error is certain; it is read again only while another reading could change that decision.
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

mod findings;
mod scale;
mod turn;

pub use scale::scale_checks;

use gradimen_core::intonation::{Heights, first_order_move};
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::shared::even_compromise;
use gradimen_core::units::print::rounded_turns;

use crate::decision::{
    Action, Decision, ENOUGH_READINGS, Expectation, Expected, Mark, Move, Station, StationId, Stop,
    Sum, Task, Verdict,
};
use crate::estimate::Estimate as Known;
use crate::estimate::saddle::{HAND_SCATTER, SaddleEstimate, StringEstimate};
use crate::finding::Finding;
use crate::model::{Adjuster, Amount, End, Place};

/// Play of a screw that a single move can add, in millimetres.
const PLAY_MM: f64 = 0.03;
/// A place known better than this is good enough to turn a screw by before any reading.
const PLACE_KNOWN: Length = Length::from_mm(0.6);

/// One saddle with its estimate and what follows.
#[derive(Debug, Clone, PartialEq)]
pub struct SaddlePlan {
    /// What is known.
    pub estimate: SaddleEstimate,
    /// Where it is to stand.
    pub target: Estimate<Length>,
    /// What remains on each string there.
    pub remaining: Vec<Cents>,
    /// Verdict on each string.
    pub verdicts: Vec<Verdict>,
    /// How far the target lies outside the travel: positive behind it, negative in front.
    pub short_by: Option<Length>,
    /// Less than one turn left at the target.
    pub tight: bool,
    /// What to do.
    pub action: Action,
    /// Nobody knows where it stands: it is set to its place by rule before it is read.
    pub start: bool,
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

/// The error that this tuner and three readings by hand can still tell from nothing.
pub fn threshold(resolution: Cents) -> Cents {
    let scatter = HAND_SCATTER.value().powi(2) / ENOUGH_READINGS as f64;
    Cents::new((resolution.value().powi(2) + scatter).sqrt())
}

/// The intonation station.
#[derive(Debug, Clone, PartialEq)]
pub struct IntonationPlan {
    /// Saddle by saddle.
    pub saddles: Vec<SaddlePlan>,
    /// Below this an error is let be: what the job allows, or what the tuner can show.
    pub threshold: Cents,
    /// How far back the break points go with the move of a vibrato that is planned.
    pub plate_back: Length,
    /// Clearance over fret 1 and action over fret 12 when all else is done, string by string.
    heights: Vec<(Length, Length)>,
}

/// Works the station out. A saddle for which the model has no answer is left out.
pub(crate) fn plan(
    known: &Known,
    heights: Vec<(Length, Length)>,
    plate_back: Length,
) -> IntonationPlan {
    let threshold = known
        .targets()
        .intonation_tolerance()
        .unwrap_or_else(|| threshold(known.tuner().resolution()));
    let saddles = known
        .known_saddles()
        .iter()
        .enumerate()
        .filter_map(|(index, estimate)| plan_saddle(known, index, estimate.as_ref()?, threshold))
        .collect();
    IntonationPlan {
        saddles,
        threshold,
        plate_back,
        heights,
    }
}

impl IntonationPlan {
    /// The saddle that carries a string.
    pub fn saddle_of(&self, string: u8) -> Option<&SaddlePlan> {
        self.saddles
            .iter()
            .find(|saddle| saddle.strings().any(|on| on == string))
    }

    /// The string to attend to next: one to move, then one to read again, then one not read yet.
    pub fn next_string(&self) -> Option<u8> {
        let rank = |saddle: &SaddlePlan| match saddle.action {
            Action::Adjust(_) if saddle.estimate.is_unread() => 2,
            Action::Adjust(_) => 0,
            Action::Measure(_) if saddle.start => 2,
            Action::Measure(_) => 1,
            Action::Stop(_) => 3,
            Action::Leave => 4,
        };
        self.saddles
            .iter()
            .filter(|saddle| !saddle.action.is_leave())
            .min_by_key(|saddle| rank(saddle))
            .and_then(|saddle| match &saddle.action {
                Action::Measure(places) if !saddle.start => places.first()?.string(),
                _ => saddle.strings().next(),
            })
    }

    /// Whether nothing is left to do on any saddle.
    pub fn is_done(&self) -> bool {
        self.saddles.iter().all(|saddle| saddle.action.is_leave())
    }
}

/// Errors of all strings of a saddle at a setback, with what is known of each.
fn errors_at(known: &Known, strings: &[StringEstimate], setback: Length) -> Vec<Cents> {
    strings
        .iter()
        .map(|string| {
            known
                .string_state(string.string)
                .and_then(|state| state.speaking.error(12, setback - string.bias).ok())
                .map_or(Cents::ZERO, |error| error - string.aim)
        })
        .collect()
}

fn plan_saddle(
    bench: &Known,
    index: usize,
    known: &SaddleEstimate,
    threshold: Cents,
) -> Option<SaddlePlan> {
    let strings = &known.strings;
    let lead = strings.first()?.string;
    let preferred_string = bench.preferred(index);
    let preferred =
        preferred_string.and_then(|string| strings.iter().find(|on| on.string == string));
    let target = match preferred {
        Some(string) => string.ideal,
        None if strings.len() == 1 => strings[0].ideal,
        None => {
            let low = strings
                .iter()
                .map(|on| on.ideal.value)
                .fold(strings[0].ideal.value, Length::min);
            let high = strings
                .iter()
                .map(|on| on.ideal.value)
                .fold(low, Length::max);
            let margin = Length::from_mm(0.01);
            let at = even_compromise(low - margin, high + margin, |at| {
                errors_at(bench, strings, at)
            })
            .ok()?;
            let sigma = strings
                .iter()
                .map(|on| on.ideal.sigma)
                .fold(Length::ZERO, Length::max);
            Estimate::new(at, sigma)
        }
    };
    let remaining = errors_at(bench, strings, target.value);
    let pitch = bench.instrument().bridge.intonation.pitch.middle();
    let short_by = if target.value > known.furthest.value {
        Some(target.value - known.furthest.value)
    } else if target.value < known.nearest {
        Some(target.value - known.nearest)
    } else {
        None
    };
    let left = (known.furthest.value - target.value).min(target.value - known.nearest);
    let tight = short_by.is_none() && left < pitch;

    let off: Vec<Cents> = strings
        .iter()
        .zip(&remaining)
        .map(|(string, left)| string.error.value - *left)
        .collect();
    let decision = decide(strings, &off, threshold);
    let distance = target.value - known.setback.value;
    let stuck = bench.ended(Adjuster::SaddleDrive { string: lead });
    let mut start = false;
    let place = |string: &StringEstimate| Place::Intonation {
        string: string.string,
        fret: 12,
    };
    let action = match decision {
        _ if matches!(stuck, Some(End::Stuck | End::Hard)) => Action::Stop(Stop::Stuck),
        Decision::Leave => Action::Leave,
        _ if short_by.is_some() => Action::Stop(Stop::OutOfTravel {
            short_by: short_by.unwrap_or(Length::ZERO),
        }),
        // A saddle that was moved, even before any reading, is read and not set once more.
        Decision::Unread if known.moves == 0 && known.is_unread() => {
            let sure = known.placed && known.setback.sigma < PLACE_KNOWN;
            let step = sure
                .then(|| turn::of(bench, known, distance, &off, threshold))
                .flatten();
            start = step.is_none();
            step.map_or_else(
                || Action::Measure(strings.iter().map(place).collect()),
                |step| Action::Adjust(Box::new(step)),
            )
        }
        Decision::Unread | Decision::Again => {
            let needy = strings.iter().filter(|string| {
                string.fresh.is_empty()
                    || (decision == Decision::Again && string.fresh.len() < ENOUGH_READINGS)
            });
            Action::Measure(needy.map(place).collect())
        }
        Decision::Move => turn::of(bench, known, distance, &off, threshold)
            .map_or(Action::Leave, |step| Action::Adjust(Box::new(step))),
    };
    let verdicts = strings
        .iter()
        .zip(&off)
        .map(|(string, off)| {
            verdict(
                string,
                *off,
                threshold,
                short_by.is_some() && !action.is_leave(),
            )
        })
        .collect();
    Some(SaddlePlan {
        target,
        remaining,
        verdicts,
        short_by,
        tight,
        action,
        start,
        preferred: preferred_string,
        estimate: known.clone(),
    })
}

/// Whether the errors call for a move, for another reading, or for nothing: what the neediest string of the
/// saddle calls for.
fn decide(strings: &[StringEstimate], off: &[Cents], threshold: Cents) -> Decision {
    let of = |(string, off): (&StringEstimate, &Cents)| {
        Decision::of(off.abs(), string.error.sigma, threshold, string.fresh.len())
    };
    let all: Vec<Decision> = strings.iter().zip(off).map(of).collect();
    [Decision::Unread, Decision::Move, Decision::Again]
        .into_iter()
        .find(|decision| all.contains(decision))
        .unwrap_or(Decision::Leave)
}

fn verdict(string: &StringEstimate, off: Cents, threshold: Cents, blocked: bool) -> Verdict {
    if string.count == 0 {
        if blocked {
            Verdict::Blocked
        } else {
            Verdict::Unread
        }
    } else if blocked {
        Verdict::Blocked
    } else if string.fresh.is_empty() {
        Verdict::MeasureAgain
    } else if off.abs() <= threshold {
        Verdict::InSpec
    } else if off > Cents::ZERO {
        Verdict::TooHigh
    } else {
        Verdict::TooLow
    }
}

/// Where a saddle belongs when everything else is done.
pub struct SaddleEnd {
    /// Its setback there.
    pub place: Length,
    /// What remains on its strings.
    pub remaining: Vec<Estimate<Cents>>,
}

impl IntonationPlan {
    /// Where a saddle belongs at the heights to come; nothing where the model has no answer.
    pub fn end_of(&self, known: &Known, saddle: &SaddlePlan) -> Option<SaddleEnd> {
        let mut shift = Length::ZERO;
        for string in &saddle.estimate.strings {
            let state = known.string_state(string.string)?;
            let (first, twelfth) = self.heights.get(usize::from(string.string - 1))?;
            let later = state
                .speaking
                .with_heights(Heights::bounded(*first, *twelfth));
            // What the model's error becomes at the place that is right today, as a distance.
            let today = string.ideal.value - string.bias;
            let error = later.error(12, today).ok()? - string.aim;
            shift += first_order_move(error, later.scale());
        }
        let count = saddle.estimate.strings.len().max(1) as f64;
        let remaining = saddle
            .estimate
            .strings
            .iter()
            .zip(&saddle.remaining)
            .map(|(string, left)| Estimate::new(*left, string.error.sigma))
            .collect();
        Some(SaddleEnd {
            place: saddle.target.value + shift / count,
            remaining,
        })
    }

    /// All of a saddle's move, for the heights to come.
    fn whole(&self, known: &Known, saddle: &SaddlePlan) -> Action {
        if saddle.start {
            // It is set by rule first; the list says where to.
            return Action::Leave;
        }
        let moves = matches!(saddle.action, Action::Adjust(_) | Action::Leave);
        let Some(end) = self.end_of(known, saddle).filter(|_| moves) else {
            return saddle.action.clone();
        };
        if !saddle.estimate.placed {
            return Action::Leave;
        }
        // Where it will stand when the vibrato rests as it is to.
        let distance = end.place - saddle.estimate.setback.value - self.plate_back;
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
        self.saddles
            .iter()
            .map(|saddle| Task {
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
