//! One rule for every station: measure, adjust, leave or stop.
//!
//! A quantity is measured again only while another reading could change what is done, and no more than
//! three times; it is adjusted when it is off beyond doubt, and left when it is as good as can be told.
//!
//! ```
//! use gradimen_bench::decision::Verdict;
//!
//! assert!(Verdict::TooHigh.is_out());
//! assert!(!Verdict::InSpec.is_out() && !Verdict::Unread.is_out());
//! ```

mod step;

pub use step::{Expectation, Expected, Move, SaddleSum, Sum};

use gradimen_core::quantity::{Estimate, Length};

use crate::estimate::Estimate as Known;
use crate::estimate::geometry::{Geometry, LastRead, LinearView};
use crate::finding::Finding;
use crate::model::{Adjuster, End, Place, Target};

/// As many readings as a decision may ask for (common practice).
pub const ENOUGH_READINGS: usize = 3;

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

/// A station of the bench that turns something, in the order of the work.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[strum(serialize_all = "snake_case")]
pub enum StationId {
    /// The vibrato.
    Balance,
    /// The truss rod.
    Relief,
    /// The slots.
    Nut,
    /// The height screws.
    Action,
    /// The saddles.
    Intonation,
    /// The pickups.
    Pickups,
}

/// Whether a quantity calls for a move, for a reading or for nothing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Decision {
    /// Never read, or moved too far since.
    Unread,
    /// One more reading could change the decision.
    Again,
    /// Off, beyond doubt.
    Move,
    /// As good as can be told.
    Leave,
}

impl Decision {
    /// From how far a quantity is off, how well that is known, how far it may be off, and how often it was
    /// read since it last moved.
    pub fn of<Q: PartialOrd + Copy + std::ops::Sub<Output = Q>>(
        off: Q,
        sigma: Q,
        allowed: Q,
        fresh: usize,
    ) -> Self {
        if fresh == 0 {
            Self::Unread
        } else if off > allowed {
            if fresh >= ENOUGH_READINGS || off - allowed > sigma {
                Self::Move
            } else {
                Self::Again
            }
        } else if sigma > allowed && fresh < ENOUGH_READINGS {
            Self::Again
        } else {
            Self::Leave
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
    /// By how much more it may be too large, where less cannot be undone.
    pub slack: Length,
    /// How it stands.
    pub verdict: Verdict,
    /// What it will be when the whole plan is done.
    pub after: Length,
}

impl Quantity {
    /// A quantity held against its target.
    pub(crate) fn new(geometry: &Geometry, target: Target, view: &LinearView) -> Self {
        Self::with_slack(geometry, target, view, Length::ZERO)
    }

    /// One that may be more above its target than below.
    pub(crate) fn with_slack(
        geometry: &Geometry,
        target: Target,
        view: &LinearView,
        slack: Length,
    ) -> Self {
        let mut quantity = Self {
            place: target.place,
            last: geometry.last(target.place).cloned(),
            now: geometry.predict(view),
            target: target.value,
            tolerance: target.tolerance,
            slack,
            verdict: Verdict::Unread,
            after: Length::ZERO,
        };
        quantity.verdict = match quantity.decision() {
            Decision::Unread if quantity.last.is_none() => Verdict::Unread,
            Decision::Unread => Verdict::MeasureAgain,
            Decision::Leave => Verdict::InSpec,
            Decision::Again | Decision::Move if quantity.off().abs() <= quantity.allowed() => {
                Verdict::InSpec
            }
            Decision::Again | Decision::Move if quantity.off() > Length::ZERO => Verdict::TooHigh,
            Decision::Again | Decision::Move => Verdict::TooLow,
        };
        quantity
    }

    /// By how much it is off its target.
    pub fn off(&self) -> Length {
        self.now.value - self.target
    }

    /// By how much it may miss its target on the side on which it does.
    pub fn allowed(&self) -> Length {
        if self.off() > Length::ZERO {
            self.tolerance + self.slack
        } else {
            self.tolerance
        }
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

    /// What is to be done about it.
    pub fn decision(&self) -> Decision {
        Decision::of(
            self.off().abs(),
            self.now.sigma,
            self.allowed(),
            self.fresh(),
        )
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
