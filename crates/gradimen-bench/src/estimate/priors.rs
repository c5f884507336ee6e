//! What is believed of an instrument before anything was read: one table, one standard deviation each, in millimetres
//! unless said otherwise. Wide where instruments are; where no source is named it is common practice.
//!
//! | unknown | belief | why |
//! |---|---|---|
//! | relief, both sides together | 0.20 (basses 0.30), 0.25 | necks come in anywhere from back-bow to a string's height |
//! | each side beyond that | 0.08 | up to 0.05 more on the bass is normal, 0.1 is a finding: sides know each other |
//! | middle beyond the even bend | 0.10 of relief | short and long spans disagree on one neck |
//! | relief a turn of the rod | 0.39, a factor of 1.9 | 0.1 to 1.5 from neck to neck: the middle of that, on the scale of factors |
//! | sides apart in that | 6 % | one rod under the middle |
//! | its part in the middle | 0.3, 0.2 | a rod pulls away from the neck's axis in its middle |
//! | relief by all of the pull | 0.45 (basses 1.15), a factor of 1.4 | sets a gauge up bend by a sixth of it |
//! | slots, together and each | 0.15, 0.05 | a nut is cut by one hand |
//! | crowns, together | 1.2 | 0.6 at the twelfth: what players can play |
//! | crowns, tilt and each | 0.4, 0.35 (0.15 on a fixed arc) | they follow the board |
//! | thread of height screws, drives and pickup screws, in common | 12 %, or 2 % where it is not the one that its family usually has | 0.45, 0.5 and 0.635 are taken for each other; who typed another has measured ten threads with a caliper |
//! | each beyond that | 2 % | play and lean |
//! | share of a screw at its own end | 5 % | where the screws stand is seen, not measured |
//! | lean of a rule, of blades | 0.02, 0.004 | parallax and a worn end, the same all day; blades are ground |
//! | pluck for the tuner | a factor of 1.35 | hands differ |
//! | setback | what makes its notes true as they are played, 3 | it played somehow |
//! | right place of a saddle, beyond the model's own doubt | 0, 2.5 | setbacks of one string differ by as much from hand to hand |
//! | back end of the travel | the record's, 1 | where a bridge was screwed on |
//! | faces of pickups, together and each | 2.3 under the string, 1.0 and 0.5 | between touching and lost |
//!
//! A vibrato's sheet is worth what it was measured with: half a millimetre by rule; a value that still is the typical
//! one of its family was not measured.
//!
//! | unknown | measured | typical | why |
//! |---|---|---|---|
//! | claw | 0.5 | 4 | spring length read on its hooks |
//! | rate | 18 % | 25 % | springs of one set differ by 10-15 %, sorts by more; the force before they part is in it |
//! | claw's thread | 4 % | 25 % | 0.8 to 2.2 a turn |
//! | crowns behind and above the edge | 0.5 | 3, 1 | 5 to 20 behind, 10-11 above |
//! | hooks below the edge, behind it | 0.4 | 3; 4, 3 always | blocks hang behind the edge, nobody measures how far |
//! | level gap | 0.5 | 0.8 | seen, not measured |
//! | tension | 2 % | | unit weights differ by that within a make |
//! | where it rests | its level gap, 2.5 | | someone balanced it once |

use gradimen_core::quantity::Length;

use crate::model::Measurement;
use crate::model::instrument::Kind;

pub(crate) const BEND_TOGETHER: f64 = 0.25;
pub(crate) const BEND_EACH: f64 = 0.08;
pub(crate) const MIDDLE: f64 = 0.10;
pub(crate) const ROD: (f64, f64) = (0.39, 0.65);
pub(crate) const SKEW: f64 = 0.06;
pub(crate) const ROD_MIDDLE: (f64, f64) = (0.3, 0.2);
pub(crate) const PULL_LOG: f64 = 0.35;
pub(crate) const SLOT: (f64, f64) = (0.15, 0.05);
pub(crate) const CROWN_TOGETHER: f64 = 1.2;
pub(crate) const CROWN_TILT: f64 = 0.4;
pub(crate) const CROWN_EACH: f64 = 0.35;
pub(crate) const CROWN_ON_ARC: f64 = 0.15;
pub(crate) const THREAD: (f64, f64) = (0.02, 0.12);
pub(crate) const OWN_THREAD: f64 = 0.02;
pub(crate) const SHARE: f64 = 0.05;
pub(crate) const RULE_LEAN: f64 = 0.02;
pub(crate) const BLADE_LEAN: f64 = 0.004;
pub(crate) const PLUCK_LOG: f64 = 0.3;
pub(crate) const SETBACK: f64 = 3.0;
pub(crate) const BIAS: f64 = 2.5;
pub(crate) const TRAVEL_END: f64 = 1.0;
pub(crate) const FACE_UNDER: f64 = 2.3;
pub(crate) const FACE: (f64, f64) = (1.0, 0.5);
pub(crate) const RATE_LOG: (f64, f64) = (0.18, 0.25);
pub(crate) const CLAW: (f64, f64) = (0.5, 4.0);
/// A pressed spring's seat is nearer to where the sheet has it.
pub(crate) const SEAT: f64 = 1.5;
pub(crate) const CLAW_TURN: (f64, f64) = (0.04, 0.25);
pub(crate) const CROWN_BACK: (f64, f64) = (0.5, 3.0);
pub(crate) const CROWN_UP: (f64, f64) = (0.5, 1.0);
pub(crate) const HOOK_DOWN: (f64, f64) = (0.4, 3.0);
pub(crate) const HOOK_BACK: (f64, f64) = (4.0, 3.0);
pub(crate) const LEVEL: (f64, f64) = (0.5, 0.8);
pub(crate) const TENSION_LOG: f64 = 0.02;
pub(crate) const RESTS: f64 = 2.5;
/// What an earlier visit taught holds within this share (from memory): wood goes with the seasons, and threads wear.
pub(crate) const SINCE: f64 = 0.05;
/// Heights measured at intake, on the outer strings: over fret 1 and over fret 12.
pub(crate) const GIVEN: (f64, f64) = (0.05, 0.1);

/// Relief of a neck as it comes, by hold 1 and last, read 8.
pub(crate) const fn relief(kind: Kind) -> f64 {
    match kind {
        Kind::Bass => 0.30,
        Kind::Guitar | Kind::Baritone => 0.20,
    }
}

/// Relief that all of the strings' pull makes.
pub(crate) const fn pull(kind: Kind) -> f64 {
    match kind {
        Kind::Bass => 1.15,
        Kind::Guitar | Kind::Baritone => 0.45,
    }
}

/// Half the height of a plucked note's fundamental by the time a tuner has settled on it: a soft stroke moves a string
/// by a third of a millimetre where it is plucked, a bass string by half of one (statics of a point load, with a light
/// hand's force), and two thirds of its fundamental are left.
pub(crate) const fn pluck(kind: Kind) -> Length {
    match kind {
        Kind::Bass => Length::from_mm(0.35),
        Kind::Guitar | Kind::Baritone => Length::from_mm(0.22),
    }
}

/// What a part of a vibrato's sheet is worth.
pub(crate) fn of_sheet(part: &Measurement, typical: &Measurement, worth: (f64, f64)) -> f64 {
    if (part.middle() - typical.middle()).abs() < Length::from_mm(1e-6) {
        worth.1
    } else {
        worth.0
    }
}
