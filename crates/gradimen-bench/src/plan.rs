//! From the estimate to the one next move of every saddle.
//!
//! A saddle is left alone when its remaining error cannot be told from nothing by this tuner and
//! this hand; it is moved when the error is certain; it is read again only while another reading
//! could change that decision, and no more than three times.

use gradimen_core::intonation::first_order_move;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::shared::even_compromise;
use gradimen_core::thread::Rotation;
use gradimen_core::units::print::rounded_turns;

use crate::balance::BalancePlan;
use crate::estimate::{HAND_SCATTER, SaddleEstimate, StringEstimate, estimate};
use crate::findings::{Finding, findings};
use crate::job::{Job, Saddle};
use crate::setup::SetupPlan;

/// As many readings as a decision may ask for (common practice).
pub const ENOUGH_READINGS: usize = 3;
/// Play of a screw that a single move can add, in millimetres.
const PLAY_MM: f64 = 0.03;
/// A place known better than this is good enough to turn a screw by before any reading.
const PLACE_KNOWN: Length = Length::from_mm(0.6);

/// How a quantity stands to its target.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Verdict {
    /// Not read yet.
    Unread,
    /// Within what can be told.
    Within,
    /// Above: sharp.
    Above,
    /// Below: flat.
    Below,
    /// Read before the saddle moved: to be read again.
    Recheck,
    /// Cannot be brought right here.
    Blocked,
}

impl Verdict {
    /// Its word for a gap or a height.
    pub const fn gap_word(self) -> &'static str {
        match self {
            Self::Unread => "not read",
            Self::Within => "within",
            Self::Above => "above",
            Self::Below => "below",
            Self::Recheck => "read again",
            Self::Blocked => "stopped",
        }
    }

    /// Whether it is out of range.
    pub const fn is_out(self) -> bool {
        matches!(self, Self::Above | Self::Below | Self::Blocked)
    }

    /// Its word for an intonation reading.
    pub const fn word(self) -> &'static str {
        match self {
            Self::Unread => "not read",
            Self::Within => "within",
            Self::Above => "sharp",
            Self::Below => "flat",
            Self::Recheck => "read again",
            Self::Blocked => "out of travel",
        }
    }
}

/// What to do with a saddle next.
#[derive(Debug, Clone, PartialEq)]
pub enum Action {
    /// Set it to its start place, by turns where it is known where it stands.
    Start(Option<Move>),
    /// Read (again): which strings.
    Read(Vec<u8>),
    /// Turn the screw.
    Turn(Move),
    /// Nothing.
    Leave,
    /// It does not get there; with the move that goes as far as it can.
    Blocked,
    /// Its screw would not turn.
    Stuck,
}

/// A turn of a saddle screw.
#[derive(Debug, Clone, PartialEq)]
pub struct Move {
    /// How far the saddle is to go; positive away from the neck.
    pub distance: Length,
    /// The same in turns of this screw, rounded to what can be set.
    pub turns: Turns,
    /// Which way, seen on the head.
    pub rotation: Rotation,
    /// What the next reading will be, string by string of the saddle.
    pub expected: Vec<Estimate<Cents>>,
    /// Way left behind the saddle afterwards.
    pub behind_after: Estimate<Length>,
    /// Where the numbers come from.
    pub why: Why,
}

/// The sum behind a move.
#[derive(Debug, Clone, PartialEq)]
pub struct Why {
    /// Readings since the last move, of the string that leads.
    pub readings: Vec<Cents>,
    /// Their mean.
    pub mean: Option<Cents>,
    /// What the harmonic itself is sharp by.
    pub harmonic_excess: Cents,
    /// The error as estimated from all readings.
    pub error: Estimate<Cents>,
    /// Scale the error is turned into a distance with.
    pub scale: Length,
    /// First-order distance for that error.
    pub first_order: Length,
    /// Distance by the model.
    pub exact: Length,
    /// Thread pitch.
    pub pitch: Length,
    /// What the screw really moves by, as a factor.
    pub response: Estimate<f64>,
    /// Turns before rounding.
    pub turns_exact: Turns,
    /// What the tuner resolves.
    pub resolution: Cents,
    /// Below this the error cannot be told from nothing.
    pub threshold: Cents,
}

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
    /// The string that matters more, if one does.
    pub preferred: Option<u8>,
}

impl SaddlePlan {
    /// The strings on it.
    pub fn strings(&self) -> impl Iterator<Item = u8> + '_ {
        self.estimate.strings.iter().map(|string| string.string)
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
    pub const fn next_move(&self) -> Option<&Move> {
        match &self.action {
            Action::Turn(step) | Action::Start(Some(step)) => Some(step),
            _ => None,
        }
    }
}

/// Everything computed about a job.
#[derive(Debug, Clone, PartialEq)]
pub struct Plan {
    /// The vibrato, where there is one.
    pub balance: Option<BalancePlan>,
    /// Relief, nut and height.
    pub setup: SetupPlan,
    /// Saddle by saddle.
    pub saddles: Vec<SaddlePlan>,
    /// What stops or redirects the job.
    pub findings: Vec<Finding>,
    /// Below this an error cannot be told from nothing.
    pub threshold: Cents,
}

/// The error that this tuner and three readings by hand can still tell from nothing.
pub fn threshold(resolution: Cents) -> Cents {
    let scatter = HAND_SCATTER.value().powi(2) / ENOUGH_READINGS as f64;
    Cents::new((resolution.value().powi(2) + scatter).sqrt())
}

impl Plan {
    /// Works a job out. A saddle for which the model has no answer is left out; the fold has
    /// refused such strings before.
    pub fn of(job: &Job) -> Self {
        let threshold = threshold(job.tuner().resolution());
        let saddles: Vec<SaddlePlan> = job
            .saddles()
            .iter()
            .filter_map(|saddle| plan_saddle(job, saddle, threshold))
            .collect();
        let balance = BalancePlan::of(job);
        let up = balance
            .as_ref()
            .map_or(Length::ZERO, |balance| balance.to_come.1);
        let setup = SetupPlan::with_crowns_up(job, up);
        Self {
            findings: findings(job, balance.as_ref(), &setup, &saddles),
            balance,
            setup,
            saddles,
            threshold,
        }
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
            Action::Turn(_) => 0,
            Action::Read(_) => 1,
            Action::Start(_) => 2,
            Action::Blocked | Action::Stuck => 3,
            Action::Leave => 4,
        };
        self.saddles
            .iter()
            .filter(|saddle| saddle.action != Action::Leave)
            .min_by_key(|saddle| rank(saddle))
            .and_then(|saddle| match &saddle.action {
                Action::Read(strings) => strings.first().copied(),
                _ => saddle.strings().next(),
            })
    }

    /// Whether nothing is left to do on any saddle.
    pub fn intonation_done(&self) -> bool {
        self.saddles
            .iter()
            .all(|saddle| saddle.action == Action::Leave)
    }
}

/// Errors of all strings of a saddle at a setback, with what is known of each.
fn errors_at(job: &Job, strings: &[StringEstimate], setback: Length) -> Vec<Cents> {
    strings
        .iter()
        .map(|string| {
            job.string_state(string.string)
                .ok()
                .and_then(|state| state.speaking.error(12, setback - string.bias).ok())
                .unwrap_or(Cents::ZERO)
        })
        .collect()
}

fn plan_saddle(job: &Job, saddle: &Saddle, threshold: Cents) -> Option<SaddlePlan> {
    let known = estimate(job, saddle).ok()?;
    let strings = &known.strings;
    let preferred = saddle
        .preferred
        .and_then(|string| strings.iter().find(|on| on.string == string));
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
                errors_at(job, strings, at)
            })
            .ok()?;
            let sigma = strings
                .iter()
                .map(|on| on.ideal.sigma)
                .fold(Length::ZERO, Length::max);
            Estimate::new(at, sigma)
        }
    };
    let remaining = errors_at(job, strings, target.value);
    let pitch = job.instrument().bridge.intonation.pitch.middle();
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
    let action = if saddle.stuck {
        Action::Stuck
    } else {
        match decision {
            Decision::Leave => Action::Leave,
            _ if short_by.is_some() => Action::Blocked,
            // A saddle that was moved, even before any reading, is read and not set once more.
            Decision::Unread
                if known.moves == 0 && strings.iter().all(|string| string.count == 0) =>
            {
                let sure = known.placed && known.setback.sigma < PLACE_KNOWN;
                Action::Start(
                    sure.then(|| turn(job, &known, distance, &off, threshold))
                        .flatten(),
                )
            }
            Decision::Unread | Decision::Again => {
                let needy = strings.iter().filter(|string| {
                    string.fresh.is_empty()
                        || (decision == Decision::Again && string.fresh.len() < ENOUGH_READINGS)
                });
                Action::Read(needy.map(|string| string.string).collect())
            }
            Decision::Turn => {
                turn(job, &known, distance, &off, threshold).map_or(Action::Leave, Action::Turn)
            }
        }
    };
    let verdicts = strings
        .iter()
        .zip(&off)
        .map(|(string, off)| {
            verdict(
                string,
                *off,
                threshold,
                short_by.is_some() && action != Action::Leave,
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
        preferred: saddle.preferred,
        estimate: known,
    })
}

#[derive(Debug, Clone, Copy, PartialEq, Eq)]
enum Decision {
    Unread,
    Again,
    Turn,
    Leave,
}

/// Whether the errors call for a turn, for another reading, or for nothing.
fn decide(strings: &[StringEstimate], off: &[Cents], threshold: Cents) -> Decision {
    if strings.iter().any(|string| string.fresh.is_empty()) {
        return Decision::Unread;
    }
    let enough = strings
        .iter()
        .all(|string| string.fresh.len() >= ENOUGH_READINGS);
    let mut all_within = true;
    for (string, off) in strings.iter().zip(off) {
        let (size, sigma) = (off.abs(), string.error.sigma);
        if size > threshold {
            all_within = false;
            if enough || size - threshold > sigma {
                return Decision::Turn;
            }
        } else if !enough && sigma > threshold {
            all_within = false;
        }
    }
    if all_within {
        Decision::Leave
    } else {
        Decision::Again
    }
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
        Verdict::Recheck
    } else if off.abs() <= threshold {
        Verdict::Within
    } else if off > Cents::ZERO {
        Verdict::Above
    } else {
        Verdict::Below
    }
}

/// The turn for a distance; none where it rounds to nothing.
fn turn(
    job: &Job,
    known: &SaddleEstimate,
    distance: Length,
    off: &[Cents],
    threshold: Cents,
) -> Option<Move> {
    let screws = &job.instrument().bridge.intonation;
    let pitch = screws.pitch.middle();
    let screw = screws.screw().ok()?;
    let turns_exact = screw.turns_for(distance / known.response.value);
    let turns = rounded_turns(turns_exact);
    if turns == Turns::ZERO {
        return None;
    }
    let travelled = screw.travel(turns) * known.response.value;
    let after = known.setback.value + travelled;
    let expected = errors_at(job, &known.strings, after)
        .into_iter()
        .zip(&known.strings)
        .map(|(error, string)| {
            let scale = job.speaking_scale(string.string);
            // What the turn itself is uncertain by, as cents.
            let per_mm = 1.0 / first_order_move(Cents::new(1.0), scale).mm();
            let by_response = travelled.mm() / known.response.value * known.response.sigma;
            let variance = string.error.sigma.value().powi(2)
                + (by_response.powi(2) + PLAY_MM.powi(2)) * per_mm.powi(2)
                + HAND_SCATTER.value().powi(2);
            Estimate::new(error, Cents::new(variance.sqrt()))
        })
        .collect();
    // The string that is furthest off leads the sum.
    let lead =
        (0..off.len()).max_by(|&a, &b| off[a].abs().value().total_cmp(&off[b].abs().value()))?;
    let string = &known.strings[lead];
    let state = job.string_state(string.string).ok()?;
    let scale = job.speaking_scale(string.string);
    Some(Move {
        distance: travelled,
        turns,
        rotation: screw.rotation(turns),
        expected,
        behind_after: Estimate::new(known.behind.value - travelled, known.behind.sigma),
        why: Why {
            readings: string.fresh.clone(),
            mean: string.mean(),
            harmonic_excess: state.speaking.harmonic_excess(known.setback.value),
            error: Estimate::new(off[lead], string.error.sigma),
            scale,
            first_order: first_order_move(off[lead], scale),
            exact: distance,
            pitch,
            response: known.response,
            turns_exact,
            resolution: job.tuner().resolution(),
            threshold,
        },
    })
}
