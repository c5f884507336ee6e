//! One move: an adjuster, how far, which way, what to expect, and where its numbers come from.

use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::thread::Rotation;

use crate::model::{Adjuster, Amount, Place};

/// A reading to expect.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Expectation {
    /// A gap or a height.
    Length(Estimate<Length>),
    /// A fretted note.
    Cents(Estimate<Cents>),
}

impl Expectation {
    /// The length, where it is one.
    pub const fn length(self) -> Option<Estimate<Length>> {
        match self {
            Self::Length(value) => Some(value),
            Self::Cents(_) => None,
        }
    }

    /// The cents, where it is a note.
    pub const fn cents(self) -> Option<Estimate<Cents>> {
        match self {
            Self::Cents(value) => Some(value),
            Self::Length(_) => None,
        }
    }
}

/// What will be read where.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Expected {
    /// Where.
    pub place: Place,
    /// What.
    pub value: Expectation,
}

/// One adjuster, how far, which way, and what to expect. Rounded once, to what can be set.
#[derive(Debug, Clone, PartialEq)]
pub struct Move {
    /// What is moved.
    pub adjuster: Adjuster,
    /// This round as the hand makes it, with its sign: whatever has a screw or takes washers in turns, and only
    /// what has neither by a distance.
    pub amount: Amount,
    /// Which way to turn, seen on the head; nothing where nothing is turned.
    pub rotation: Option<Rotation>,
    /// How far that goes: strings up, a saddle away from the neck, a pickup nearer, the neck's gap wider,
    /// springs stronger.
    pub distance: Length,
    /// All of it, in turns or washers, where it is turned in rounds.
    pub total: Turns,
    /// Rounds expected, this one included.
    pub rounds: u32,
    /// What the next readings will be.
    pub expected: Vec<Expected>,
    /// The sum behind it.
    pub sum: Sum,
}

impl Move {
    /// Turns of this round; none where nothing is turned.
    pub const fn turns(&self) -> Turns {
        match self.amount.as_turns() {
            Some(turns) => turns,
            None => Turns::ZERO,
        }
    }

    /// Whether it is made by hand along a rule, without a screw.
    pub const fn is_slid(&self) -> bool {
        matches!(
            (self.adjuster, &self.amount),
            (Adjuster::SaddleDrive { .. }, Amount::Distance { .. })
                | (Adjuster::Bar, Amount::Ends { .. })
        )
    }

    /// What is expected at a place.
    pub fn expected_at(&self, place: Place) -> Option<Expectation> {
        let mut expected = self.expected.iter();
        let found = expected.find(|expected| expected.place == place)?;
        Some(found.value)
    }
}

/// Where the numbers of a move come from.
#[derive(Debug, Clone, PartialEq)]
pub enum Sum {
    /// A truss rod.
    Rod {
        /// How far the neck is off, by the target's method, as the mean of both sides.
        off: Length,
        /// What a turn takes away by that method.
        per_turn: Length,
        /// Share by which that is in doubt.
        doubt: f64,
    },
    /// A claw or the seat of a spring.
    Claw {
        /// The gap that one more turn makes, at pitch.
        per_turn: Length,
    },
    /// A slot.
    Slot {
        /// All that is to come off.
        total: Length,
    },
    /// A screw.
    Screw {
        /// Turns before rounding.
        turns_exact: Turns,
        /// Thread pitch.
        pitch: Length,
        /// What it really moves by, as a factor on its thread.
        response: Estimate<f64>,
    },
    /// A bar under all strings.
    Bar {
        /// How far its ends would go exactly: under string 1.
        treble: Length,
        /// Under the last string.
        bass: Length,
    },
    /// A saddle.
    Saddle(Box<SaddleSum>),
}

/// The sum behind a saddle's move.
#[derive(Debug, Clone, PartialEq)]
pub struct SaddleSum {
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
    /// Below this the error is too small for this tuner to show.
    pub threshold: Cents,
    /// Travel left behind the saddle afterwards.
    pub behind_after: Estimate<Length>,
}
