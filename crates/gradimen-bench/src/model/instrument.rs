//! An instrument: its geometry and its hardware.
//!
//! ```
//! use gradimen_bench::model::defaults::usual_instrument;
//! use gradimen_bench::model::instrument::{Instrument, Kind};
//!
//! let heron = Instrument {
//!     stock_number: "27".into(),
//!     name: "Heron".into(),
//!     ..usual_instrument(Kind::Guitar, 6)
//! };
//! assert_eq!(heron.title(), "No. 27 Heron");
//! assert!(heron.validate().is_ok());
//! ```

mod construction;

pub use construction::{Construction, NutKind};

use gradimen_core::fretboard::{BoardError, BoardRadius, fret_position};
use gradimen_core::ladder::Family;
use gradimen_core::neck::{Board, FretTops};
use gradimen_core::quantity::Length;
use gradimen_core::thread::{Rotation, ThreadError};
use gradimen_core::units::LengthUnit;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use thiserror::Error;

use super::hardware::{Bridge, PickupRecord};
use super::limits::{self, LimitError};
use super::measurement::Measurement;

/// What is wrong with an instrument.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum InstrumentError {
    /// A value that cannot be.
    #[error(transparent)]
    Limit(#[from] LimitError),
    /// Neither one scale nor one a string.
    #[error("read {read} scales for {strings} strings, expected one for all or one per string")]
    Scales {
        /// How many scales.
        read: usize,
        /// How many strings.
        strings: u8,
    },
    /// A string without a saddle, or with two, or a saddle without a string.
    #[error(
        "every string needs exactly one saddle, and every saddle a string; string {0} has none or two"
    )]
    Saddles(u8),
    /// The front end of the travel behind its back end.
    #[error(
        "the travel of the saddles runs from {0} to {1} mm, expected the first in front of the second"
    )]
    Travel(f64, f64),
    /// A pickup that is not between the board and the bridge.
    #[error("the pickup \"{0}\" does not lie between the last fret and the scale line")]
    Pickup(String),
    /// A neck that is nowhere held.
    #[error("read a neck joined at fret {read}, expected fret 10 to {}", frets - 1)]
    Joint {
        /// As recorded.
        read: u8,
        /// Frets on the board.
        frets: u8,
    },
    /// Without a name nobody finds it again.
    #[error("an instrument needs a stock number or a name")]
    Nameless,
    /// Something about the board.
    #[error(transparent)]
    Board(#[from] BoardError),
    /// Something about a screw.
    #[error(transparent)]
    Thread(#[from] ThreadError),
}

/// What sort of instrument it is.
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
pub enum Kind {
    /// A guitar.
    Guitar,
    /// A baritone.
    Baritone,
    /// A bass.
    Bass,
}

impl Kind {
    /// The ladder its strings are picked from.
    pub const fn family(self) -> Family {
        match self {
            Self::Guitar | Self::Baritone => Family::Guitar,
            Self::Bass => Family::Bass,
        }
    }
}

/// What a rod can do.
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
pub enum Rod {
    /// It only pulls against the strings.
    OneWay,
    /// It pulls and pushes.
    TwoWay,
}

impl Rod {
    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::OneWay => "one-way rod",
            Self::TwoWay => "two-way rod",
        }
    }
}

/// Where the key goes in.
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
pub enum RodAt {
    /// At the head.
    Head,
    /// At the body end, within reach.
    Body,
    /// At the heel under the neck plate: the neck comes off for every turn.
    Heel,
    /// A spoke wheel at the body end, turned by any bar that fits its holes: no neck off.
    Wheel,
}

impl RodAt {
    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Head => "at the head",
            Self::Body => "at the body end",
            Self::Heel => "at the heel, neck off",
            Self::Wheel => "a spoke wheel at the body end",
        }
    }
}

/// A neck: where it is held and how it is bent.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct NeckRecord {
    /// The fret where the body begins to hold it.
    pub joint_fret: u8,
    /// What its rod can do.
    pub rod: Rod,
    /// Where the key goes in.
    pub rod_at: RodAt,
    /// One of the few that clockwise loosens.
    #[serde(default, skip_serializing_if = "crate::model::is_false")]
    pub rod_reversed: bool,
    /// Screwed into a pocket, so that wedge and shim are ways out.
    pub bolted: bool,
    /// Length of that pocket.
    pub pocket: Measurement,
}

impl NeckRecord {
    /// Which way its rod is turned to tighten it, looking at its nut (common practice: clockwise, but for a few).
    pub const fn tightens(&self) -> Rotation {
        if self.rod_reversed {
            Rotation::Counterclockwise
        } else {
            Rotation::Clockwise
        }
    }
}

impl Default for NeckRecord {
    /// Joined at the sixteenth fret, one-way rod at the head, a pocket of 3 in (common practice).
    fn default() -> Self {
        Self {
            joint_fret: 16,
            rod: Rod::OneWay,
            rod_at: RodAt::Head,
            rod_reversed: false,
            bolted: true,
            pocket: Measurement::mm(76.0),
        }
    }
}

/// An instrument as it was recorded.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Instrument {
    /// Stock number, as the shop writes it.
    pub stock_number: String,
    /// Its name.
    pub name: String,
    /// What sort it is.
    pub kind: Kind,
    /// How many strings.
    pub strings: u8,
    /// One scale for all, or one per string from string 1.
    pub scales: Vec<Measurement>,
    /// How many frets.
    pub frets: u8,
    /// Board radius at the nut.
    pub radius_nut: Measurement,
    /// Board radius at the last fret.
    pub radius_last_fret: Measurement,
    /// Between the outer strings at the nut.
    pub spread_nut: Measurement,
    /// Between the outer strings at the bridge.
    pub spread_bridge: Measurement,
    /// Played left-handed: drawn mirrored.
    pub left_handed: bool,
    /// Whether the strings are clamped at the nut.
    pub locking_nut: bool,
    /// Its neck.
    #[serde(default)]
    pub neck: NeckRecord,
    /// Its pickups, from the neck to the bridge.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pickups: Vec<PickupRecord>,
    /// Its bridge.
    pub bridge: Bridge,
    /// How it is built beyond that.
    #[serde(default, skip_serializing_if = "Construction::is_usual")]
    pub construction: Construction,
    /// Anything else.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

/// Between the strings of a course at the bridge (from memory).
const IN_A_COURSE: Length = Length::from_mm(2.2);

/// What an old default of ours had wrong in a record.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum PutRight {
    /// Posts or wheels that were to rise clockwise.
    Posts,
    /// Pickups screwed to the body that were to rise clockwise.
    Pickups,
}

impl Instrument {
    /// Puts right what old defaults of ours said of its screws. Says of what.
    pub fn put_right(&mut self) -> Vec<PutRight> {
        let bridge = self.bridge.put_right().then_some(PutRight::Posts);
        // Every one of them, not only the first.
        let pickups = self.pickups.iter_mut().map(PickupRecord::put_right);
        let pickups = pickups.fold(false, |any, wrong| any | wrong);
        bridge
            .into_iter()
            .chain(pickups.then_some(PutRight::Pickups))
            .collect()
    }

    /// The scale of a string, counted from 1.
    pub fn scale(&self, string: u8) -> Length {
        let index = usize::from(string.saturating_sub(1));
        self.scales
            .get(index)
            .or(self.scales.first())
            .map_or(Length::ZERO, Measurement::middle)
    }

    /// Nut edge to the crown of fret 12, by the named scale.
    pub fn nut_to_twelfth(&self, string: u8) -> Length {
        self.scale(string) * 0.5
    }

    /// Board and strings as far as heights depend on them.
    ///
    /// # Errors
    /// [`InstrumentError`] for a radius no board has.
    pub fn board(&self) -> Result<Board, InstrumentError> {
        Ok(Board {
            frets: self.frets,
            radius: BoardRadius::new(self.radius_nut.middle(), self.radius_last_fret.middle())?,
            spread_nut: self.spread_nut.middle(),
            spread_bridge: self.spread_bridge.middle(),
            strings: usize::from(self.strings),
            joint_fret: self.neck.joint_fret,
        })
    }

    /// How far a string lies from the first to the last, 0 to 1: evenly, or in courses, whose strings lie beside each other.
    pub fn across(&self, string: u8) -> f64 {
        let even = |at: usize, of: usize| at as f64 / of.saturating_sub(1).max(1) as f64;
        let index = usize::from(string.saturating_sub(1));
        let courses = &self.construction.courses;
        let found = courses.iter().position(|on| on.contains(&string));
        let (Some(course), true) = (found, self.construction.covers(self.strings)) else {
            return even(index, usize::from(self.strings));
        };
        // The outer strings are the outer strings of the outer courses.
        let inside = courses[course].iter().position(|on| *on == string);
        let gap = IN_A_COURSE.ratio(self.spread_bridge.middle());
        let widest = courses.iter().map(Vec::len).max().unwrap_or(1);
        let width = gap * widest.saturating_sub(1) as f64;
        even(course, courses.len()) * (1.0 - width) + gap * inside.unwrap_or(0) as f64
    }

    /// The fret tops under a string that is fretted by so long a scale.
    ///
    /// # Errors
    /// [`InstrumentError`] where the strings lie outside the arc of the board.
    pub fn fret_tops(&self, string: u8, scale: Length) -> Result<FretTops, InstrumentError> {
        let tops = FretTops::across(&self.board()?, scale, self.across(string))?;
        let fall = self.construction.fall_away.as_ref();
        Ok(match fall {
            Some(fall) => tops.falling_away(fall.middle()),
            None => tops,
        })
    }

    /// How far a compensated nut stands toward the bridge under a string; nothing under any other.
    pub fn nut_offset(&self, string: u8) -> Length {
        let of = &self.construction;
        let index = usize::from(string.saturating_sub(1));
        match of.nut {
            NutKind::Compensated => of
                .nut_offsets
                .get(index)
                .map_or(Length::ZERO, Measurement::middle),
            NutKind::Slotted | NutKind::ZeroFret => Length::ZERO,
        }
    }

    /// The string along which a side is read.
    pub const fn string_of(&self, side: super::place::Side) -> u8 {
        match side {
            super::place::Side::Treble => 1,
            super::place::Side::Bass => self.strings,
        }
    }

    /// The scales of a fan, string by string: its nut and bridge are straight, so they go from the first to the last by even
    /// steps. Those between are written in the unit of the last.
    pub fn fan(first: &Measurement, last: &Measurement, strings: u8) -> Vec<Measurement> {
        let steps = strings.max(2) - 1;
        let step = (last.middle() - first.middle()) / f64::from(steps);
        let metric =
            last.written.contains("mm") || last.written.trim().parse() == Ok(last.middle().mm());
        let unit = if metric {
            LengthUnit::Millimetre
        } else {
            LengthUnit::Inch
        };
        (0..=steps)
            .map(|at| match at {
                0 => first.clone(),
                _ if at == steps => last.clone(),
                _ => Measurement::exact(first.middle() + step * f64::from(at), unit),
            })
            .collect()
    }

    /// Whether the strings have scales of their own.
    pub fn is_multi_scale(&self) -> bool {
        self.scales.len() > 1
    }

    /// What the bench calls it: `No. 27 Heron`.
    pub fn title(&self) -> String {
        match (self.stock_number.trim(), self.name.trim()) {
            ("", name) => name.to_owned(),
            (number, "") => format!("No. {number}"),
            (number, name) => format!("No. {number} {name}"),
        }
    }

    /// Says what cannot be.
    ///
    /// # Errors
    /// The first [`InstrumentError`] found.
    pub fn validate(&self) -> Result<(), InstrumentError> {
        if self.title().is_empty() {
            return Err(InstrumentError::Nameless);
        }
        limits::line("stock number", &self.stock_number)?;
        limits::line("name", &self.name)?;
        limits::text("note", &self.note)?;
        if !limits::STRINGS.contains(&self.strings) {
            let (low, high) = (limits::STRINGS.start(), limits::STRINGS.end());
            let allowed = format!("{low} to {high}");
            return Err(LimitError::new("strings", self.strings.to_string(), allowed).into());
        }
        if self.scales.len() != 1 && self.scales.len() != usize::from(self.strings) {
            return Err(InstrumentError::Scales {
                read: self.scales.len(),
                strings: self.strings,
            });
        }
        if !limits::FRETS.contains(&self.frets) {
            return Err(BoardError::Frets(self.frets).into());
        }
        if !(10..self.frets).contains(&self.neck.joint_fret) {
            return Err(InstrumentError::Joint {
                read: self.neck.joint_fret,
                frets: self.frets,
            });
        }
        for scale in &self.scales {
            limits::length(scale, &limits::SCALE)?;
        }
        for (name, measured, within) in [
            ("board radius at the nut", &self.radius_nut, &limits::RADIUS),
            (
                "board radius at the last fret",
                &self.radius_last_fret,
                &limits::RADIUS,
            ),
            (
                "string spread at the nut",
                &self.spread_nut,
                &limits::SPREAD,
            ),
            (
                "string spread at the bridge",
                &self.spread_bridge,
                &limits::SPREAD,
            ),
            ("neck pocket", &self.neck.pocket, &limits::POCKET),
        ] {
            limits::named_length(name, measured, within)?;
        }
        for string in 1..=self.strings {
            self.fret_tops(string, self.scale(string))?;
        }
        self.construction.validate(self.strings)?;
        self.validate_pickups()?;
        self.bridge.validate()?;
        self.validate_saddles()
    }

    fn validate_pickups(&self) -> Result<(), InstrumentError> {
        limits::count("pickups", self.pickups.len(), &(0..=limits::PICKUPS))?;
        let shortest = (1..=self.strings)
            .map(|string| self.scale(string))
            .fold(self.scale(1), Length::min);
        let reach = shortest - fret_position(shortest, self.frets);
        for pickup in &self.pickups {
            pickup.validate()?;
            if pickup.before_saddle.middle() >= reach {
                let name = limits::shortened(&pickup.name);
                return Err(InstrumentError::Pickup(name));
            }
        }
        Ok(())
    }

    fn validate_saddles(&self) -> Result<(), InstrumentError> {
        let saddles = &self.bridge.saddles;
        limits::count("saddles", saddles.len(), &(1..=usize::from(self.strings)))?;
        if saddles.iter().any(Vec::is_empty) {
            return Err(InstrumentError::Saddles(0));
        }
        let stray = |on: &&u8| **on == 0 || **on > self.strings;
        if let Some(&stray) = saddles.iter().flatten().find(stray) {
            return Err(InstrumentError::Saddles(stray));
        }
        for string in 1..=self.strings {
            let carriers = saddles.iter().flatten().filter(|&&on| on == string);
            if carriers.count() != 1 {
                return Err(InstrumentError::Saddles(string));
            }
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::model::defaults::usual_instrument;
    use strum::VariantArray;

    #[test]
    fn the_usual_instruments_are_sound() {
        for kind in Kind::VARIANTS.iter().copied() {
            for strings in limits::STRINGS {
                assert_eq!(
                    usual_instrument(kind, strings).validate(),
                    Err(InstrumentError::Nameless)
                );
                let named = Instrument {
                    name: "Wren".into(),
                    ..usual_instrument(kind, strings)
                };
                assert_eq!(named.validate(), Ok(()));
            }
        }
    }

    #[test]
    fn says_what_cannot_be() {
        let heron = Instrument {
            name: "Heron".into(),
            ..usual_instrument(Kind::Guitar, 6)
        };
        let mut three = heron.clone();
        three.scales = vec![
            Measurement::mm(648.0),
            Measurement::mm(660.0),
            Measurement::mm(670.0),
        ];
        assert!(matches!(
            three.validate(),
            Err(InstrumentError::Scales { read: 3, .. })
        ));
        let mut double = heron.clone();
        double.bridge.saddles[0] = vec![1, 2];
        assert_eq!(double.validate(), Err(InstrumentError::Saddles(2)));
        let mut backwards = heron.clone();
        backwards.bridge.intonation.nearest = Measurement::mm(12.0);
        assert!(matches!(
            backwards.validate(),
            Err(InstrumentError::Travel(..))
        ));
        let mut unsound = heron;
        unsound.spread_nut.low = Length::from_mm(f64::NAN);
        assert!(matches!(unsound.validate(), Err(InstrumentError::Limit(_))));
    }

    #[test]
    fn titles_use_what_there_is() {
        let mut heron = usual_instrument(Kind::Guitar, 6);
        heron.stock_number = "27".into();
        assert_eq!(heron.title(), "No. 27");
        heron.name = "Heron".into();
        assert_eq!(heron.title(), "No. 27 Heron");
    }
}
