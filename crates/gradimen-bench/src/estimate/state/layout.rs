//! Where each unknown stands in the state.
//!
//! Lengths in millimetres, bends in thousandths per metre, factors as logarithms or as shares beyond one.

use crate::model::Side;
use crate::model::hardware::Lifts;

/// Bend of the neck's bass side and of its treble side.
pub(crate) const BASS: usize = 0;
pub(crate) const TREBLE: usize = 1;
/// What the middle of the neck is bent more than its ends.
pub(crate) const MIDDLE: usize = 2;
/// Logarithm of what a turn of the rod takes away, by hold 1 and last, read 8.
pub(crate) const ROD: usize = 3;
/// By what share more a turn bends the treble side, and less the bass side.
pub(crate) const SKEW: usize = 4;
/// How much of the rod's bend goes into the middle.
pub(crate) const ROD_MIDDLE: usize = 5;
/// Logarithm of what all of the strings' pull bends the neck by.
pub(crate) const PULL: usize = 6;
/// Factors on the threads that all screws of a kind have in common: height, drive.
pub(crate) const LIFTS: usize = 7;
pub(crate) const DRIVES: usize = 8;
/// How much more of a screw than it should reaches its own end of a part on two screws.
pub(crate) const SHARE: usize = 9;
/// The lean of rules and calipers, and of blades.
pub(crate) const RULE: usize = 10;
pub(crate) const BLADE: usize = 11;
/// Logarithm of how hard notes are plucked for the tuner.
pub(crate) const PLUCK: usize = 12;
const FIXED: usize = 13;

/// The unknowns of a vibrato, from the first of them.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) enum Part {
    /// The gap under the tail; below nothing, how hard the plate lies on the body.
    Gap,
    /// Logarithm of the springs' rate.
    Rate,
    /// Factor on the thread of the claw's screws.
    ClawTurn,
    /// Height of the edge, over the plane of the fret tops.
    EdgeUp,
    /// Where the edge stands, behind the scale line.
    EdgeBack,
    /// Hooks of the block below and behind the edge.
    HookDown,
    HookBack,
    /// The gap when the plate is level.
    Level,
    /// Logarithm of how much harder the strings pull than computed.
    Tension,
}

const PARTS: usize = 9;

/// How many of each there are.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub(crate) struct Layout {
    pub(crate) strings: usize,
    pub(crate) saddles: usize,
    pub(crate) screws: usize,
    pub(crate) pickups: usize,
    pub(crate) plate: bool,
}

impl Layout {
    pub(crate) const fn screws_of(lifts: Lifts, strings: usize) -> usize {
        match lifts {
            // Of what has no screw none is ever turned.
            Lifts::EachString | Lifts::Nothing => strings,
            Lifts::TwoPosts => 2,
            // The posts behind those of the strings.
            Lifts::Both => strings + 2,
        }
    }

    pub(crate) const fn size(&self) -> usize {
        self.faces() + 3 * self.pickups + if self.plate { PARTS } else { 0 }
    }

    /// Height of a nut slot over the plane of the fret tops.
    pub(crate) const fn nut(&self, string: usize) -> usize {
        FIXED + string
    }

    /// Height of a crown there, a plate lying level.
    pub(crate) const fn crown(&self, string: usize) -> usize {
        FIXED + self.strings + string
    }

    /// By how much the right place of a string's saddle differs from the model's.
    pub(crate) const fn bias(&self, string: usize) -> usize {
        FIXED + 2 * self.strings + string
    }

    /// Setback of a saddle, a plate lying level.
    pub(crate) const fn setback(&self, saddle: usize) -> usize {
        FIXED + 3 * self.strings + saddle
    }

    /// Factor on the thread of its own drive.
    pub(crate) const fn drive(&self, saddle: usize) -> usize {
        FIXED + 3 * self.strings + self.saddles + saddle
    }

    /// Back end of its travel.
    pub(crate) const fn end(&self, saddle: usize) -> usize {
        FIXED + 3 * self.strings + 2 * self.saddles + saddle
    }

    /// Factor on the thread of a height screw.
    pub(crate) const fn lift(&self, screw: usize) -> usize {
        FIXED + 3 * self.strings + 3 * self.saddles + screw
    }

    const fn faces(&self) -> usize {
        FIXED + 3 * self.strings + 3 * self.saddles + self.screws
    }

    /// Height of a pickup's face under the outer string of a side.
    pub(crate) const fn face(&self, pickup: usize, side: Side) -> usize {
        self.faces() + 2 * pickup + side.index()
    }

    /// Factor on the thread of a pickup's own screws: one may hang from others than its neighbour.
    pub(crate) const fn face_screw(&self, pickup: usize) -> usize {
        self.faces() + 2 * self.pickups + pickup
    }

    /// An unknown of the vibrato.
    pub(crate) const fn part(&self, part: Part) -> usize {
        self.faces() + 3 * self.pickups + part as usize
    }
}
