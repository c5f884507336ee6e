//! What a plucked string says of itself.
//!
//! Samples and their rate in; out: the lowest partial that sounds, in the limit of no amplitude, the inharmonicity `B`, and how far
//! both can be trusted; or why nothing can be said. It is no pitch tracker: the partials of a decaying stiff string,
//! `f_k = k F sqrt(1 + B k^2)` (Fletcher 1964), are followed one by one and one note is drawn through all of them, with the
//! glide that the energy of the pluck gives.
//!
//! - [`measure`]: one note out of a piece of sound;
//! - [`Listener`]: sound as it comes, in blocks, cut into notes;
//! - [`Ear`]: which string of an instrument that was, and how it was played.

mod burst;
mod fit;
mod guess;
mod interval;
mod levels;
mod listener;
mod lower;
mod mains;
mod marks;
mod measure;
mod missing;
mod note;
mod pairs;
mod partials;
mod rattle;
mod report;
mod says;
mod sound;
mod spectrum;
mod touch;
mod tuning;
mod turning;
mod who;

pub use burst::{AFTER, Burst};
pub use interval::{Interval, harmonic_above_octave};
pub use levels::{Level, Leveled, Levels};
pub use listener::{Listener, Said, Struck};
pub use measure::measure;
pub use note::{Note, Refusal};
pub use pairs::{Pairs, Step};
pub use rattle::{Onset, Rattled, Rattles, fret_of};
pub use report::{Refused, Report};
pub use sound::{Sound, SoundError};
pub use tuning::{Stretch, Stretched, Tuned, Tuning};
pub use who::{Ear, Heard, Kind, Place};
