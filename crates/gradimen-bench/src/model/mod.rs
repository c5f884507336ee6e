//! What everything else speaks of: places and what is read there, adjusters and how far they go, targets,
//! instruments, strings and players; and the limits of all of it.
//!
//! ```
//! use gradimen_bench::model::{Keyed, Tool, Touch};
//!
//! // Every choice has one word, the same in documents, forms and texts.
//! assert_eq!(Tool::from_key("rule_64"), Some(Tool::Rule64));
//! assert!(Touch::all().all(|touch| Touch::from_key(touch.key()) == Some(touch)));
//! ```

pub mod adjuster;
pub mod complaint;
pub mod defaults;
mod fretwork;
pub mod hardware;
pub mod instrument;
mod keyed;
mod last_time;
pub mod limits;
pub mod measurement;
pub mod observation;
pub mod place;
pub mod player;
mod practice;
pub mod shop;
mod station;
pub mod strings;
pub mod target;
mod taught;
mod tool;

pub use adjuster::{Adjuster, Amount, End, Shim, StringSet};
pub use complaint::{CheckLine, Complaint, Condition, Heard, Note, Picks, Round, Symptom};
pub use fretwork::Fretwork;
pub use keyed::Keyed;
pub use last_time::{Air, LastTime, Left};
pub use measurement::Measurement;
pub use observation::{Buzz, Observation};
pub use place::{Place, Reading, Reference, ReliefSpan, Rocking, RodFeel, Side, Weighing};
pub use player::{HeightsGiven, Player, Stage, Strung, Touch, Tuner, Tuning};
pub use practice::{Came, Difficulty, Hints, Practice, PracticeFault, Practised, Toll};
pub use shop::Shop;
pub use station::StationId;
pub use strings::{StringConstruction, StringEntry};
pub use target::{BalanceSchool, Inner, IntonationReference, Target, Targets, Tolerances, Wanted};
pub use taught::{Behaviour, Taught};
pub use tool::Tool;

/// What is usual is not written.
#[expect(clippy::trivially_copy_pass_by_ref, reason = "as serde calls it")]
pub(crate) const fn is_false(value: &bool) -> bool {
    !*value
}
