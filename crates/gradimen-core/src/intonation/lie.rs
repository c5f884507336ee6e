//! How a string lies over the board, what presses it, and where its dead ends are held.

use super::IntonationError;
use crate::fretboard::fret_position;
use crate::quantity::{Force, Length};

/// Where the string lies over the frets.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Heights {
    pub(super) first_fret: Length,
    pub(super) twelfth: Length,
}

impl Heights {
    /// Clearance over fret 1 and action at fret 12, both with the string open.
    ///
    /// # Errors
    /// [`IntonationError::Heights`] for what no string can lie at.
    pub fn new(first_fret: Length, twelfth: Length) -> Result<Self, IntonationError> {
        let (first, at_12) = (first_fret.mm(), twelfth.mm());
        if (0.0..=3.0).contains(&first) && (0.2..=8.0).contains(&at_12) && at_12 >= first {
            Ok(Self {
                first_fret,
                twelfth,
            })
        } else {
            Err(IntonationError::Heights {
                first,
                twelfth: at_12,
            })
        }
    }

    /// The nearest heights a string can lie at: for estimates, which noise may carry beyond.
    pub fn bounded(first_fret: Length, twelfth: Length) -> Self {
        let limit =
            |value: Length, low: f64, high: f64| Length::from_mm(value.mm().clamp(low, high));
        let twelfth = limit(twelfth, 0.2, 8.0);
        Self {
            first_fret: limit(first_fret, 0.0, 3.0).min(twelfth),
            twelfth,
        }
    }

    /// Clearance over fret 1.
    pub const fn first_fret(self) -> Length {
        self.first_fret
    }

    /// Action at fret 12.
    pub const fn twelfth(self) -> Length {
        self.twelfth
    }

    /// Height of the string above the frets at `x`.
    pub(super) fn at(self, x: f64, scale: Length) -> f64 {
        let (x1, x12) = (
            fret_position(scale, 1).metres(),
            fret_position(scale, 12).metres(),
        );
        let (h1, h12) = (self.first_fret.metres(), self.twelfth.metres());
        h1 + (h12 - h1) * (x - x1) / (x12 - x1)
    }
}

/// How the string is pressed down.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Fingering {
    /// Force of the finger once the string touches the fret.
    pub force: Force,
    /// Distance behind the fret, where the frets leave room for it.
    pub behind: Length,
}

/// A light finger of an experienced technician (common practice: just enough to sound).
pub const LIGHT_PRESS: Force = Force::from_newtons(2.0);
/// Middle of a fingertip set right behind the fret.
const BEHIND_FRET: Length = Length::from_mm(8.0);
/// Between close frets the fingertip stands at most this share of the space behind the fret.
pub(super) const BEHIND_SHARE: f64 = 0.45;

impl Default for Fingering {
    fn default() -> Self {
        Self {
            force: LIGHT_PRESS,
            behind: BEHIND_FRET,
        }
    }
}

/// The lengths of string beyond nut and saddle that stretch with the rest.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Anchors {
    /// From the nut to the tuner; nothing behind a locking nut.
    pub behind_nut: Length,
    /// From the saddle to where the string is held.
    pub behind_saddle: Length,
}

impl Default for Anchors {
    fn default() -> Self {
        Self {
            behind_nut: Length::from_mm(100.0),
            behind_saddle: Length::from_mm(25.0),
        }
    }
}
