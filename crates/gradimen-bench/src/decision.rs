//! One rule for every station: measure, adjust, leave or stop, by the odds that a quantity is in spec.
//!
//! A quantity with a target is in spec with a probability: the share of what it may really be that lies inside its
//! tolerance. At a station nine in ten will do. When no station has anything left, the few quantities that could still
//! be wrong are closed: read again until all but one in a hundred are surely in spec, or as well known as reading makes
//! them. A move aims at the middle; it is worth making when it adds one in twenty to its odds,
//! and it waits for another reading while that could change it.
//!
//! ```
//! use gradimen_bench::decision::{Odds, Verdict};
//!
//! assert!(Verdict::TooHigh.is_out());
//! assert!(!Verdict::InSpec.is_out() && !Verdict::Unread.is_out());
//! // On target within a fifth of the tolerance: in spec, surely.
//! let sure = Odds::of(0.0, 0.02, (0.1, 0.1));
//! assert!(sure.within > 0.99 && sure.verdict() == Verdict::InSpec);
//! // At its edge nobody can say.
//! assert_eq!(Odds::of(0.1, 0.05, (0.1, 0.1)).verdict(), Verdict::MeasureAgain);
//! ```

mod finish;
mod step;

pub(crate) use finish::Finish;
pub use step::{Expectation, Expected, Move, SaddleSum, Sum};

use gradimen_core::probability::{share_below, share_between};
use gradimen_core::quantity::{Estimate, Length};

use crate::estimate::Estimate as Known;
use crate::estimate::state::{LastRead, State};
use crate::finding::Finding;
pub use crate::model::StationId;
use crate::model::{Adjuster, End, Place, Target};

/// As many readings of one place as a decision asks for, while it stays where it is (common practice: three, and one
/// more where it is close).
pub const ENOUGH_READINGS: usize = 4;
/// In spec with so much certainty is in spec.
pub const IN_SPEC: f64 = 0.90;
/// With this much it is closed.
pub const CLOSED: f64 = 0.99;
/// Off by this many tolerances it is surely moved.
const SURELY_OFF: f64 = 1.1;
/// Before a move that is surely to be made a reading is worth it when it makes its end surer by this share.
const SHARPENS: f64 = 0.2;
/// A turn does what its thread says within this share.
const MOVES_WITHIN: f64 = 0.05;
/// Known within this share of its tolerance another reading cannot help.
const WELL_KNOWN: f64 = 0.35;
/// A move that makes it no more probable than by this is not worth it.
pub(crate) const WORTH: f64 = 0.05;
/// A reading that lowers the width by less than this share tells nothing.
const TELLS: f64 = 0.06;

/// How a quantity stands to its target.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Verdict {
    /// Not read yet.
    Unread,
    /// Within what can be told.
    InSpec,
    /// Above: sharp.
    TooHigh,
    /// Below: flat.
    TooLow,
    /// Read before it moved: to be measured again.
    MeasureAgain,
    /// Cannot be brought right here.
    Blocked,
}

impl Verdict {
    /// Whether it is out of range.
    pub const fn is_out(self) -> bool {
        matches!(self, Self::TooHigh | Self::TooLow | Self::Blocked)
    }
}

/// How a station stands, in one mark.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, serde::Serialize, serde::Deserialize)]
#[serde(rename_all = "snake_case")]
pub enum Mark {
    /// Nothing read yet.
    Unread,
    /// In progress: something is off or to be measured again.
    Working,
    /// All in spec.
    Within,
    /// Something stops.
    Blocked,
}

/// Whether a quantity calls for a move, for a reading or for nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Decision {
    /// A reading could change what is done.
    Measure,
    /// Off, and a move brings it nearer.
    Move,
    /// As good as can be told.
    Leave,
}

/// How probable it is that a quantity is in spec, too high or too low.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Odds {
    /// Inside its tolerance.
    pub within: f64,
    /// Above it.
    pub high: f64,
    /// Below it.
    pub low: f64,
}

impl Odds {
    /// Of a quantity that is off by so much, known so well, and may be so much too low and too high.
    pub fn of(off: f64, sigma: f64, (low, high): (f64, f64)) -> Self {
        let within = share_between(-low, high, off, sigma);
        let above = if sigma > 0.0 {
            share_below((off - high) / sigma)
        } else {
            f64::from(u8::from(off > high))
        };
        Self {
            within,
            high: above,
            low: (1.0 - within - above).max(0.0),
        }
    }

    /// In plain words: in spec from nine in ten; too high or too low where most of all lies there; else nobody can
    /// say without another reading.
    pub fn verdict(self) -> Verdict {
        if self.within >= IN_SPEC {
            Verdict::InSpec
        } else if self.high > 0.5 {
            Verdict::TooHigh
        } else if self.low > 0.5 {
            Verdict::TooLow
        } else {
            Verdict::MeasureAgain
        }
    }
}

/// What a decision is made by, whatever the quantity.
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Judged {
    /// By how much it is off.
    pub(crate) off: f64,
    /// One standard deviation of that.
    pub(crate) sigma: f64,
    /// By how much it may be too low and too high.
    pub(crate) allowed: (f64, f64),
    /// How often it was read at all, with these strings.
    pub(crate) reads: usize,
    /// How often since it last moved.
    pub(crate) fresh: usize,
    /// One standard deviation of one more reading.
    pub(crate) reading: f64,
    /// Fewest readings before it is moved.
    pub(crate) fewest: usize,
    /// One standard deviation of what the move itself would add.
    pub(crate) moving: f64,
    /// The odds with which it is closed.
    pub(crate) closed: f64,
}

/// How the rule stands: at the stations or closing, and whether all counts as read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Default)]
pub(crate) struct Rule {
    pub(crate) closing: bool,
    pub(crate) assumed: bool,
}

impl Judged {
    pub(crate) fn odds(&self) -> Odds {
        Odds::of(self.off, self.sigma, self.allowed)
    }

    /// Whether another reading could still tell something.
    pub(crate) fn can_tell(&self) -> bool {
        let (own, one) = (self.sigma, self.reading);
        let after = own * one / own.hypot(one).max(f64::MIN_POSITIVE);
        self.fresh < ENOUGH_READINGS && after < own * (1.0 - TELLS)
    }

    /// Whether one more reading would make the end of a move surer by a fair share.
    fn sharpens(&self) -> bool {
        let (own, one) = (self.sigma, self.reading);
        let after = own * one / own.hypot(one).max(f64::MIN_POSITIVE);
        after.hypot(self.moving) < own.hypot(self.moving) * (1.0 - SHARPENS)
    }

    /// The rule.
    pub(crate) fn decide(&self, rule: Rule) -> Decision {
        let tolerance = if self.off > 0.0 {
            self.allowed.1
        } else {
            self.allowed.0
        };
        let off = self.off.abs();
        if rule.assumed {
            return if off > tolerance {
                Decision::Move
            } else {
                Decision::Leave
            };
        }
        let within = self.odds().within;
        if within >= self.closed || (within >= IN_SPEC && self.reads > 0 && !rule.closing) {
            return Decision::Leave;
        }
        let few = self.reads < self.fewest;
        if few && self.can_tell() {
            return Decision::Measure;
        }
        // What is read before a move tells as much as what is read after it, and saves the second move; but nothing is
        // gained by knowing better what the move itself will blur.
        let blurred = off > SURELY_OFF * tolerance && !self.sharpens();
        if self.sigma > WELL_KNOWN * tolerance && self.can_tell() && !blurred {
            return Decision::Measure;
        }
        let right = Odds::of(0.0, self.sigma, self.allowed).within;
        if right - within > WORTH {
            Decision::Move
        } else {
            Decision::Leave
        }
    }
}

/// What to do.
#[derive(Debug, Clone, PartialEq)]
pub enum Action {
    /// Read (again): where.
    Measure(Vec<Place>),
    /// Move an adjuster.
    Adjust(Box<Move>),
    /// Nothing.
    Leave,
    /// It cannot go on here.
    Stop(Stop),
}

impl Action {
    /// The move, where it is one.
    pub fn next_move(&self) -> Option<&Move> {
        match self {
            Self::Adjust(step) => Some(step),
            Self::Measure(_) | Self::Leave | Self::Stop(_) => None,
        }
    }

    /// The places to read, where there are any.
    pub fn places(&self) -> &[Place] {
        match self {
            Self::Measure(places) => places,
            Self::Adjust(_) | Self::Leave | Self::Stop(_) => &[],
        }
    }

    /// Whether there is nothing to do.
    pub const fn is_leave(&self) -> bool {
        matches!(self, Self::Leave)
    }

    /// Whether a setup can do something about it now.
    pub const fn is_work(&self) -> bool {
        matches!(self, Self::Measure(_) | Self::Adjust(_))
    }
}

/// Why something cannot go on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Stop {
    /// A setup cannot put this neck right.
    Neck,
    /// What was found before the first screw makes the move useless.
    Unsound,
    /// An adjuster is at its end and would have to go on.
    AtEnd {
        /// Which adjuster.
        adjuster: Adjuster,
        /// Which end.
        end: End,
        /// How far it would have to go on.
        short_by: Length,
    },
    /// A slot is too low and cannot be filed back.
    TooLow {
        /// By how much.
        by: Length,
    },
    /// A zero fret carries the strings too high, or too low where this is negative: no slot is filed for it.
    ZeroFret {
        /// By how much.
        by: Length,
    },
    /// These springs cannot; so many could.
    Springs {
        /// How many.
        enough: Option<u8>,
    },
    /// A saddle does not reach its place.
    OutOfTravel {
        /// How far it is short: positive behind the travel, negative in front of it.
        short_by: Length,
    },
    /// A screw would not turn.
    Stuck,
    /// No screw lifts this saddle: how far it would have to go, up.
    NoLift {
        /// By how much.
        by: Length,
    },
    /// Nothing on this bridge moves this saddle alone: how far it would have to go, away from the neck.
    NoDrive {
        /// By how much.
        by: Length,
    },
}

/// What a station has to do with one adjuster.
#[derive(Debug, Clone, PartialEq)]
pub struct Task {
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// What to do next, on the instrument as it is.
    pub next: Action,
    /// All of it, on the instrument as the moves before leave it.
    pub whole: Action,
}

impl Task {
    /// The same now as in the end.
    pub fn new(strings: Vec<u8>, action: Action) -> Self {
        Self {
            strings,
            whole: action.clone(),
            next: action,
        }
    }
}

/// A station of the bench, worked out. The order of the bench is the order in which a plan keeps them.
pub trait Station {
    /// Which it is.
    fn id(&self) -> StationId;

    /// What it has to do, adjuster by adjuster, in the order of the work.
    fn tasks(&self, known: &Known) -> Vec<Task>;

    /// What stops or redirects the job there.
    fn findings(&self, known: &Known) -> Vec<Finding>;

    /// How it stands.
    fn mark(&self) -> Mark;

    /// Whether a technician could do something here now.
    fn has_work(&self, known: &Known) -> bool {
        self.tasks(known).iter().any(|task| task.next.is_work())
    }
}

/// A quantity of a station with everything known of it.
#[derive(Debug, Clone, PartialEq)]
pub struct Quantity {
    /// Where it is read, by the target's method.
    pub place: Place,
    /// What was last read, as it was read then.
    pub last: Option<LastRead>,
    /// What the target's method would read now.
    pub now: Estimate<Length>,
    /// What it is to be.
    pub target: Length,
    /// By how much it may miss that.
    pub tolerance: Length,
    /// By how much it may be too low and too high: the tolerance, or more where less cannot be undone.
    pub allowed: (Length, Length),
    /// How probable it is that it is right.
    pub odds: Odds,
    /// How it stands.
    pub verdict: Verdict,
    /// What it will be when the whole plan is done.
    pub after: Length,
}

impl Quantity {
    /// A quantity held against its target.
    pub(crate) fn new(state: &State, target: Target) -> Self {
        Self::allowing(state, target, (target.tolerance, target.tolerance))
    }

    /// One that may be off by more on one side than on the other.
    pub(crate) fn allowing(state: &State, target: Target, allowed: (Length, Length)) -> Self {
        let now = state
            .predict(target.place)
            .unwrap_or(Estimate::new(Length::ZERO, Length::from_mm(1.0)));
        let last = state.last(target.place).cloned();
        let limits = (allowed.0.mm(), allowed.1.mm());
        let odds = Odds::of((now.value - target.value).mm(), now.sigma.mm(), limits);
        let verdict = match odds.verdict() {
            Verdict::InSpec if last.is_none() && odds.within < CLOSED => Verdict::Unread,
            Verdict::InSpec => Verdict::InSpec,
            _ if last.is_none() && !state.is_assumed() => Verdict::Unread,
            verdict => verdict,
        };
        Self {
            place: target.place,
            last,
            now,
            target: target.value,
            tolerance: target.tolerance,
            allowed,
            odds,
            verdict,
            after: now.value,
        }
    }

    /// What a reading of it is expected to be, where it was read before.
    pub fn expected(&self) -> Option<Length> {
        self.last.as_ref().map(|_| self.now.value)
    }

    /// By how much it is off its target.
    pub fn off(&self) -> Length {
        self.now.value - self.target
    }

    /// How often it was read since it moved by more than can be carried.
    pub fn fresh(&self) -> usize {
        self.last.as_ref().map_or(0, |last| last.fresh)
    }

    /// Whether its last reading stands for a value that moved since, and is carried with it.
    pub fn is_carried(&self) -> bool {
        self.last
            .as_ref()
            .is_some_and(|last| last.drift.abs() > Length::from_mm(0.005))
            && self.verdict != Verdict::MeasureAgain
    }

    /// What a decision is made by, were it off by `off`.
    pub(crate) fn judged(&self, off: Length) -> Judged {
        // One more of the kind that was read last: by the same tool, between marks as far apart.
        let next = self.fresh() + 1;
        let usual = self.place.usual_tool();
        let last = self.last.as_ref().and_then(|last| last.value.as_ref());
        let reading = last.map_or(usual.sigma_again(Length::ZERO, next), |length| {
            length.sigma_again(usual, next)
        });
        // Read by another school it tells of this one only as far as the neck's shape is known, however often.
        let relief = matches!(self.place, Place::Relief { .. });
        let other = |last: &LastRead| relief && last.place != self.place && last.fresh > 1;
        let fresh = if self.last.as_ref().is_some_and(other) {
            ENOUGH_READINGS
        } else {
            self.fresh()
        };
        Judged {
            off: off.mm(),
            sigma: self.now.sigma.mm(),
            allowed: (self.allowed.0.mm(), self.allowed.1.mm()),
            reads: usize::from(self.last.is_some()),
            fresh,
            reading: reading.mm(),
            fewest: 1,
            moving: (off.mm() * MOVES_WITHIN).abs(),
            closed: CLOSED,
        }
    }

    /// What is to be done about it as it is.
    pub(crate) fn decision(&self, rule: Rule) -> Decision {
        self.judged(self.off()).decide(rule)
    }
}

/// What is let be with everything read is as right as a setup makes it, whatever doubt is left.
pub(crate) const fn settled(mark: Mark, left: bool) -> Mark {
    match mark {
        Mark::Working if left => Mark::Within,
        mark => mark,
    }
}

/// The mark of a station by its quantities.
pub(crate) fn mark_of<'a>(
    quantities: impl Iterator<Item = &'a Quantity> + Clone,
    blocked: bool,
) -> Mark {
    let mut verdicts = quantities.map(|quantity| quantity.verdict);
    if blocked {
        Mark::Blocked
    } else if verdicts.clone().all(|verdict| verdict == Verdict::Unread) {
        Mark::Unread
    } else if verdicts.all(|verdict| verdict == Verdict::InSpec) {
        Mark::Within
    } else {
        Mark::Working
    }
}
