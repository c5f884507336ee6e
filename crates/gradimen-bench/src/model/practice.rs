//! A job that is practised: on an instrument that is only simulated, and marked as such from its first entry.
//!
//! ```
//! use gradimen_bench::model::{Hints, Keyed, PracticeFault};
//!
//! assert_eq!(Hints::from_key("on_request"), Some(Hints::OnRequest));
//! assert!(PracticeFault::ForeignNeck.is_trap() && !PracticeFault::Nut.is_trap());
//! ```

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::limits::{self, LimitError};

/// How much the bench tells while it is practised on.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Hints {
    /// Readings and targets; no move.
    Off,
    /// The next move where it is asked for.
    OnRequest,
    /// Everything, as at work.
    Full,
}

impl Hints {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Off => "off",
            Self::OnRequest => "on request",
            Self::Full => "the full plan",
        }
    }
}

/// What is wrong with an instrument to practise on.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum PracticeFault {
    /// Too much relief, and the strings high with it: the season's turn.
    Relief,
    /// Slots that were never cut down.
    Nut,
    /// Strings too high.
    Action,
    /// Saddles that stand anywhere.
    Saddles,
    /// A vibrato that does not rest where it should.
    Gap,
    /// Heavier strings than it was set up for.
    Gauge,
    /// Pickups that stand anywhere.
    Pickups,
    /// A fret that stands high.
    HighFret,
    /// A fret that stands high because it came loose.
    LooseFret,
    /// A neck of another scale.
    ForeignNeck,
    /// A neck whose two sides lie apart.
    Wound,
    /// A rod with nothing left.
    RodSpent,
    /// A bridge far behind its place.
    Bridge,
}

impl PracticeFault {
    /// What no screw puts right.
    pub const fn is_trap(self) -> bool {
        matches!(
            self,
            Self::ForeignNeck | Self::Wound | Self::RodSpent | Self::Bridge
        )
    }

    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Relief => "too much relief",
            Self::Nut => "nut slots never cut down",
            Self::Action => "strings too high",
            Self::Saddles => "saddles that stand anywhere",
            Self::Gap => "vibrato out of balance",
            Self::Gauge => "heavier strings than before",
            Self::Pickups => "pickups that stand anywhere",
            Self::HighFret => "a high fret",
            Self::LooseFret => "a loose fret",
            Self::ForeignNeck => "a neck of another scale",
            Self::Wound => "a wound neck",
            Self::RodSpent => "a rod with nothing left",
            Self::Bridge => "a bridge far from its place",
        }
    }
}

/// How far off it comes, and by what it is read.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Difficulty {
    /// A little off; heights are read with a dial gauge.
    Easy,
    /// As instruments come, and as rules read.
    Usual,
    /// Far off.
    Hard,
}

impl Difficulty {
    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Easy => "easy: a little off, heights by a dial gauge",
            Self::Usual => "usual: as they come, heights by a rule",
            Self::Hard => "hard: far off, heights by a rule",
        }
    }
}

/// How the instrument came, in millimetres: what it is made from.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Came {
    /// Relief by hold 1 and last, read 8: treble and bass.
    pub relief_mm: [f64; 2],
    /// The gap over fret 1.
    pub nut_mm: f64,
    /// The height over fret 12: treble and bass.
    pub action_mm: [f64; 2],
    /// The gap of the vibrato; nought where there is none.
    pub gap_mm: f64,
}

/// What some work took.
#[derive(Debug, Clone, Copy, PartialEq, Default, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Toll {
    /// Visits to screws, passes of a file, springs hooked.
    pub moves: u32,
    /// Readings.
    pub readings: u32,
    /// As a technician's would be, in minutes.
    pub minutes: f64,
    /// How many of the targets were truly out at the end.
    pub out: u32,
    /// Of so many.
    pub of: u32,
}

/// What was made to practise on, and what it takes.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Practice {
    /// The graded exercise, by its word; nothing for one made to order.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub exercise: Option<String>,
    /// What is wrong with it.
    pub faults: Vec<PracticeFault>,
    /// How far off it comes.
    pub difficulty: Difficulty,
    /// How it came, as set up, before other strings went on.
    pub came: Came,
    /// What its chance begins with: the same seed is the same instrument.
    pub seed: u64,
    /// How much is told.
    pub hints: Hints,
    /// What the plan, followed to the letter, took on it.
    pub plan: Toll,
    /// What careful trial and error took on it.
    pub trial: Toll,
}

/// Something that happens at a practice bench only.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "did", rename_all = "snake_case", deny_unknown_fields)]
pub enum Practised {
    /// Some time was let pass.
    Waited {
        /// Minutes.
        minutes: f64,
    },
    /// The next move was asked for.
    Hint,
    /// The work was handed in, and looked at with all that is hidden.
    HandedIn {
        /// What it took.
        toll: Toll,
        /// Whether that was as good as the plan, or nearly.
        par: bool,
    },
}

impl Toll {
    fn check(&self) -> Result<(), LimitError> {
        let counts = [self.moves, self.readings, self.out, self.of];
        for count in counts.map(f64::from).into_iter().chain([self.minutes]) {
            limits::number("what the work took", count, &limits::TOLL, "")?;
        }
        Ok(())
    }
}

impl Practice {
    /// # Errors
    /// [`LimitError`] for what cannot be.
    pub(crate) fn check(&self) -> Result<(), LimitError> {
        if let Some(exercise) = &self.exercise {
            limits::text("the exercise", exercise)?;
        }
        limits::count("faults", self.faults.len(), &(0..=FAULTS))?;
        let came = &self.came;
        let all = came.relief_mm.iter().chain(&came.action_mm);
        for length in all.chain([&came.nut_mm, &came.gap_mm]) {
            limits::number("how it came", *length, &limits::CAME, "mm")?;
        }
        self.plan.check()?;
        self.trial.check()
    }
}

impl Practised {
    /// # Errors
    /// [`LimitError`] for what cannot be.
    pub(crate) fn check(&self) -> Result<(), LimitError> {
        match self {
            Self::Waited { minutes } => {
                limits::number("a wait", *minutes, &limits::WAIT, "minutes")
            }
            Self::Hint => Ok(()),
            Self::HandedIn { toll, .. } => toll.check(),
        }
    }
}

/// More than there are kinds of faults is nonsense.
const FAULTS: usize = <PracticeFault as strum::VariantArray>::VARIANTS.len();
