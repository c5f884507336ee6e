//! Screws: pitch of the thread, and which way a turn moves what it drives.
//!
//! Pitches: ISO 261 coarse series (M2.5 0.45, M3 0.5, M4 0.7 mm) and ASME B1.1 unified
//! coarse (3-48, 4-40, 6-32, 8-32 threads per inch) and fine (10-32).
//!
//! ```
//! use gradimen_core::{quantity::Length, thread::{Rotation, Screw}};
//!
//! // M3, pitch 0.5 mm, clockwise drives toward positive.
//! let screw = Screw::new(Length::from_mm(0.5), true)?;
//! let back = screw.turns_for(Length::from_mm(-0.25));
//! assert!((back.value() + 0.5).abs() < 1e-12);
//! assert_eq!(screw.rotation(back), Rotation::Counterclockwise);
//! # Ok::<(), gradimen_core::thread::ThreadError>(())
//! ```

use std::fmt;

use thiserror::Error;

use crate::quantity::{Length, METRES_PER_INCH, Turns};

/// Threads met on bridges, pickups and posts, with their pitch.
pub const COMMON_THREADS: [(&str, Length); 13] = [
    ("M2", Length::from_mm(0.4)),
    ("M2.5", Length::from_mm(0.45)),
    ("M3", Length::from_mm(0.5)),
    ("M4", Length::from_mm(0.7)),
    ("M5", Length::from_mm(0.8)),
    ("M6", Length::from_mm(1.0)),
    ("M8", Length::from_mm(1.25)),
    ("3-48", per_inch(48.0)),
    ("4-40", per_inch(40.0)),
    ("5-40", per_inch(40.0)),
    ("6-32", per_inch(32.0)),
    ("8-32", per_inch(32.0)),
    ("10-32", per_inch(32.0)),
];

const fn per_inch(threads: f64) -> Length {
    Length::from_metres(METRES_PER_INCH / threads)
}

/// What a thread moves in a turn, by its name, `M3` or `6-32`, or by its count, `40 tpi`. Nothing for what names no thread.
///
/// ```
/// use gradimen_core::thread::pitch_named;
///
/// assert_eq!(pitch_named("m3").map(|pitch| pitch.mm()), Some(0.5));
/// assert!(pitch_named("0.5 mm").is_none());
/// ```
pub fn pitch_named(written: &str) -> Option<Length> {
    let name = written.trim().to_ascii_lowercase();
    if let Some(count) = name.strip_suffix("tpi") {
        let count: f64 = count.trim().parse().ok()?;
        return (10.0..=130.0).contains(&count).then(|| per_inch(count));
    }
    COMMON_THREADS
        .iter()
        .find(|(thread, _)| thread.eq_ignore_ascii_case(&name))
        .map(|(_, pitch)| *pitch)
}

/// A thread pitch no bridge screw has.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
#[error("read a thread pitch of {0:.3} mm, expected 0.2 to 2 mm: M3 is 0.5, 6-32 is 0.794")]
pub struct ThreadError(f64);

/// Which way a screw is turned, seen on its head.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Rotation {
    /// Clockwise.
    Clockwise,
    /// Counter-clockwise.
    Counterclockwise,
}

impl Rotation {
    /// The other way.
    pub const fn reversed(self) -> Self {
        match self {
            Self::Clockwise => Self::Counterclockwise,
            Self::Counterclockwise => Self::Clockwise,
        }
    }
}

impl fmt::Display for Rotation {
    fn fmt(&self, formatter: &mut fmt::Formatter<'_>) -> fmt::Result {
        formatter.write_str(match self {
            Self::Clockwise => "clockwise",
            Self::Counterclockwise => "counter-clockwise",
        })
    }
}

/// A screw that drives something along one line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Screw {
    pitch: Length,
    clockwise_is_positive: bool,
}

impl Screw {
    /// A thread pitch, and whether clockwise drives toward positive (away from the neck, or up).
    ///
    /// # Errors
    /// [`ThreadError`] outside 0.2 to 2 mm.
    pub fn new(pitch: Length, clockwise_is_positive: bool) -> Result<Self, ThreadError> {
        if (0.2..=2.0).contains(&pitch.mm()) {
            Ok(Self {
                pitch,
                clockwise_is_positive,
            })
        } else {
            Err(ThreadError(pitch.mm()))
        }
    }

    /// Travel in one turn.
    pub const fn pitch(self) -> Length {
        self.pitch
    }

    /// Whether clockwise drives toward positive.
    pub const fn clockwise_is_positive(self) -> bool {
        self.clockwise_is_positive
    }

    /// Turns for a distance; positive turns drive toward positive.
    pub fn turns_for(self, distance: Length) -> Turns {
        Turns::new(distance.ratio(self.pitch))
    }

    /// Distance for turns.
    pub fn travel(self, turns: Turns) -> Length {
        self.pitch * turns.value()
    }

    /// Which way to turn to drive toward positive (or, for negative turns, away from it).
    pub fn rotation(self, turns: Turns) -> Rotation {
        if (turns.value() >= 0.0) == self.clockwise_is_positive {
            Rotation::Clockwise
        } else {
            Rotation::Counterclockwise
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn pitches_of_the_standards() {
        // ISO 261 and ASME B1.1, in millimetres.
        for (name, pitch) in [
            ("M2", 0.4),
            ("M2.5", 0.45),
            ("M3", 0.5),
            ("M4", 0.7),
            ("M5", 0.8),
            ("M6", 1.0),
            ("M8", 1.25),
            ("3-48", 0.529_166_666_666_666_7),
            ("4-40", 0.635),
            ("5-40", 0.635),
            ("6-32", 0.793_75),
            ("8-32", 0.793_75),
            ("10-32", 0.793_75),
            ("40 tpi", 0.635),
        ] {
            let found = pitch_named(name).unwrap();
            assert!((found.mm() - pitch).abs() < 1e-12, "{name}");
        }
    }

    #[test]
    fn turns_and_direction() {
        let pulls = Screw::new(Length::from_mm(0.5), true).unwrap();
        assert_eq!(pulls.turns_for(Length::from_mm(2.25)), Turns::new(4.5));
        assert_eq!(pulls.rotation(Turns::new(4.5)), Rotation::Clockwise);
        assert_eq!(pulls.rotation(Turns::new(-1.0)), Rotation::Counterclockwise);
        let pushes = Screw::new(Length::from_mm(0.5), false).unwrap();
        assert_eq!(
            pushes.rotation(Turns::new(4.5)),
            Rotation::Clockwise.reversed()
        );
        assert!((pushes.travel(Turns::new(-0.5)).mm() + 0.25).abs() < 1e-12);
        assert!(Screw::new(Length::from_mm(5.0), true).is_err());
    }
}
