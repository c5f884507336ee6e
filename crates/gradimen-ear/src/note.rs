//! A note as it was heard, and why none was.

use std::fmt;

use serde::Serialize;

/// What a note says of itself.
#[derive(Debug, Clone, PartialEq, Serialize)]
pub struct Note {
    /// When it was plucked, seconds from the start of the sound.
    pub at: f64,
    /// Its lowest partial, in the limit of no amplitude, Hz.
    pub hz: f64,
    /// One standard deviation of that, cents: noise, glide, beating and the body's pull.
    pub width: f64,
    /// Inharmonicity `B` of `f_k = k F sqrt(1 + B k^2)`.
    pub stiffness: f64,
    /// One standard deviation of it.
    pub stiffness_width: f64,
    /// How much sharper it was at the pluck, cents.
    pub glide: f64,
    /// Partials that were followed.
    pub partials: usize,
    /// How fast it dies, 1/s of amplitude.
    pub decay: f64,
    /// How loud it was over the first third of a second, decibels below full scale: its partials, without hum and noise.
    pub level: f64,
    /// Seconds of it that were listened to.
    pub seconds: f64,
    /// Partials of half its pitch just after the pluck, against its own: what a touched harmonic leaves of the open string.
    pub below: f64,
    /// What noise alone gives there as a rule.
    pub below_noise: f64,
}

/// Why nothing is said.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize)]
#[serde(rename_all = "snake_case")]
pub enum Refusal {
    /// Nothing was plucked.
    Quiet,
    /// Less of it than 0.3 s.
    Short,
    /// It does not die away: mains or another machine.
    Hum,
    /// No note stands out.
    Noise,
    /// Two families of partials.
    TwoNotes,
    /// Flat tops: too loud for the input.
    Clipped,
    /// Pieces of it did not arrive: silence to the last bit in the midst of it, or a jump of all partials at once.
    Lost,
    /// Its pitch was moved while it sounded.
    Bends,
    /// Its pitch went on moving and never settled.
    Drifts,
}

impl fmt::Display for Refusal {
    fn fmt(&self, f: &mut fmt::Formatter<'_>) -> fmt::Result {
        f.write_str(match self {
            Self::Quiet => "nothing was plucked: play louder, or turn the instrument up",
            Self::Short => "too short: let it ring for a second",
            Self::Hum => "a steady tone that does not die away, such as mains hum: no string",
            Self::Noise => "no note stands out of the noise",
            Self::TwoNotes => "two notes at once: damp the other strings",
            Self::Clipped => {
                "too loud for the input, the tops are cut off: turn it down or play softer"
            }
            Self::Lost => "pieces of the sound did not arrive, this machine is busy: play it again",
            Self::Bends => "the pitch was moved while it rang: hold still",
            Self::Drifts => "the pitch went on drifting: wait until it is still, then play again",
        })
    }
}

/// A string's `B` before it was heard, by the pitch it is made for: thin plain strings near 1e-5, thick wound ones some 1e-4
/// (common practice).
pub(crate) fn typical_stiffness(hz: f64) -> f64 {
    4e-5 * (110.0 / hz).powf(0.8).clamp(0.3, 6.0)
}

#[cfg(test)]
impl Note {
    /// A note that says nothing but its pitch and stiffness, a tenth of a cent wide.
    pub(crate) const fn plain(hz: f64, stiffness: f64) -> Self {
        Self {
            at: 0.0,
            hz,
            width: 0.1,
            stiffness,
            stiffness_width: 0.0,
            glide: 0.0,
            partials: 12,
            decay: 1.0,
            level: -20.0,
            seconds: 1.5,
            below: 0.0,
            below_noise: 0.0,
        }
    }
}
