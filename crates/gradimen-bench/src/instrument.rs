//! An instrument: its geometry and its hardware.

use gradimen_core::fretboard::{BoardError, BoardRadius, checked_scale, fret_position};
use gradimen_core::ladder::Family;
use gradimen_core::neck::{Board, FretTops};
use gradimen_core::quantity::Length;
use gradimen_core::thread::ThreadError;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};
use thiserror::Error;

use crate::hardware::{Bridge, PickupRecord};
use crate::record::Measured;

/// What is wrong with an instrument.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum InstrumentError {
    /// Not 4 to 8 strings.
    #[error("read {0} strings, expected 4 to 8")]
    Strings(u8),
    /// Neither one scale nor one a string.
    #[error("read {read} scales for {strings} strings, expected one for all or one per string")]
    Scales {
        /// How many scales.
        read: usize,
        /// How many strings.
        strings: u8,
    },
    /// A string without a saddle, or with two.
    #[error("every string needs exactly one saddle; string {0} has none or two")]
    Saddles(u8),
    /// The front end of the travel behind its back end.
    #[error(
        "the travel of the saddles runs from {0} to {1} mm, expected the first in front of the second"
    )]
    Travel(f64, f64),
    /// A pickup that is not between the board and the bridge.
    #[error("the pickup '{0}' does not lie between the last fret and the scale line")]
    Pickup(String),
    /// A neck that is nowhere held.
    #[error("read a neck joined at fret {read}, expected fret 10 to {}", frets - 1)]
    Joint {
        /// As recorded.
        read: u8,
        /// Frets on the board.
        frets: u8,
    },
    /// A length that is not a number, or an interval upside down.
    #[error("the value '{0}' is no length")]
    NotALength(String),
    /// Without a name nobody finds it again.
    #[error("an instrument needs a stock number or a name")]
    Nameless,
    /// Something about the board.
    #[error("{0}")]
    Board(#[from] BoardError),
    /// Something about a screw.
    #[error("{0}")]
    Thread(#[from] ThreadError),
}

/// What sort of instrument it is.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Kind {
    /// A guitar.
    Guitar,
    /// A baritone.
    Baritone,
    /// A bass.
    Bass,
}

impl Kind {
    /// Every kind.
    pub const ALL: [Self; 3] = [Self::Guitar, Self::Baritone, Self::Bass];

    /// Its word, in forms and in text.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Guitar => "guitar",
            Self::Baritone => "baritone",
            Self::Bass => "bass",
        }
    }

    /// From that word.
    pub fn from_key(key: &str) -> Option<Self> {
        Self::ALL.into_iter().find(|kind| kind.key() == key)
    }

    /// The ladder its strings are picked from.
    pub const fn family(self) -> Family {
        match self {
            Self::Guitar | Self::Baritone => Family::Guitar,
            Self::Bass => Family::Bass,
        }
    }
}

/// What a rod can do.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum Rod {
    /// It only pulls against the strings.
    OneWay,
    /// It pulls and pushes.
    TwoWay,
}

impl Rod {
    /// Every kind.
    pub const ALL: [Self; 2] = [Self::OneWay, Self::TwoWay];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::OneWay => "one_way",
            Self::TwoWay => "two_way",
        }
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::OneWay => "one-way rod",
            Self::TwoWay => "two-way rod",
        }
    }
}

/// Where the key goes in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "snake_case")]
pub enum RodAt {
    /// At the head.
    Head,
    /// At the body end, within reach.
    Body,
    /// At the heel under the neck plate: the neck comes off for every turn.
    Heel,
}

impl RodAt {
    /// Every place.
    pub const ALL: [Self; 3] = [Self::Head, Self::Body, Self::Heel];

    /// Its word in documents and forms.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Head => "head",
            Self::Body => "body",
            Self::Heel => "heel",
        }
    }

    /// Its name in words.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Head => "at the head",
            Self::Body => "at the body end",
            Self::Heel => "at the heel, neck off",
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
    /// Screwed into a pocket, so that wedge and shim are ways out.
    pub bolted: bool,
    /// Length of that pocket.
    pub pocket: Measured,
}

impl Default for NeckRecord {
    /// Joined at the sixteenth fret, one-way rod at the head, a pocket of 3 in (common practice).
    fn default() -> Self {
        Self {
            joint_fret: 16,
            rod: Rod::OneWay,
            rod_at: RodAt::Head,
            bolted: true,
            pocket: Measured::mm(76.0),
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
    pub scales: Vec<Measured>,
    /// How many frets.
    pub frets: u8,
    /// Board radius at the nut.
    pub radius_nut: Measured,
    /// Board radius at the last fret.
    pub radius_last_fret: Measured,
    /// Between the outer strings at the nut.
    pub spread_nut: Measured,
    /// Between the outer strings at the bridge.
    pub spread_bridge: Measured,
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
    /// Anything else.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub note: String,
}

impl Instrument {
    /// The scale of a string, counted from 1.
    pub fn scale(&self, string: u8) -> Length {
        let index = usize::from(string.saturating_sub(1));
        self.scales
            .get(index)
            .or(self.scales.first())
            .map_or(Length::ZERO, Measured::middle)
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
    pub fn check(&self) -> Result<(), InstrumentError> {
        if self.title().is_empty() {
            return Err(InstrumentError::Nameless);
        }
        if !(4..=8).contains(&self.strings) {
            return Err(InstrumentError::Strings(self.strings));
        }
        if self.scales.len() != 1 && self.scales.len() != usize::from(self.strings) {
            return Err(InstrumentError::Scales {
                read: self.scales.len(),
                strings: self.strings,
            });
        }
        if !(12..=36).contains(&self.frets) {
            return Err(BoardError::Frets(self.frets).into());
        }
        let screws = &self.bridge.intonation;
        for measured in self.scales.iter().chain(
            [
                &self.radius_nut,
                &self.radius_last_fret,
                &self.spread_nut,
                &self.spread_bridge,
                &screws.pitch,
                &screws.nearest,
                &screws.furthest,
                &self.bridge.height.pitch,
                &self.bridge.height.travel,
                &self.bridge.behind_saddle,
                &self.neck.pocket,
            ]
            .into_iter()
            .chain(
                self.pickups
                    .iter()
                    .flat_map(|pickup| [&pickup.before_saddle, &pickup.pitch]),
            ),
        ) {
            if !measured.is_sound() {
                return Err(InstrumentError::NotALength(measured.written.clone()));
            }
        }
        for scale in &self.scales {
            checked_scale(scale.middle())?;
        }
        if !(10..self.frets).contains(&self.neck.joint_fret) {
            return Err(InstrumentError::Joint {
                read: self.neck.joint_fret,
                frets: self.frets,
            });
        }
        let board = self.board()?;
        for (index, string) in (1..=self.strings).enumerate() {
            FretTops::new(&board, self.scale(string), index)?;
        }
        screws.screw()?;
        let shortest = (1..=self.strings)
            .map(|string| self.scale(string))
            .fold(self.scale(1), Length::min);
        let reach = shortest - fret_position(shortest, self.frets);
        for pickup in &self.pickups {
            let before = pickup.before_saddle.middle();
            if before <= Length::ZERO || before >= reach {
                return Err(InstrumentError::Pickup(pickup.name.clone()));
            }
        }
        let (near, far) = (screws.nearest.middle(), screws.furthest.middle());
        if near >= far {
            return Err(InstrumentError::Travel(near.mm(), far.mm()));
        }
        for string in 1..=self.strings {
            let carriers = self
                .bridge
                .saddles
                .iter()
                .flatten()
                .filter(|&&on| on == string);
            if carriers.count() != 1 {
                return Err(InstrumentError::Saddles(string));
            }
        }
        if let Some(&stray) = self
            .bridge
            .saddles
            .iter()
            .flatten()
            .find(|&&on| on == 0 || on > self.strings)
        {
            return Err(InstrumentError::Saddles(stray));
        }
        Ok(())
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::methods::usual_instrument;

    #[test]
    fn the_usual_instruments_are_sound() {
        for kind in Kind::ALL {
            for strings in 4..=8 {
                assert_eq!(
                    usual_instrument(kind, strings).check(),
                    Err(InstrumentError::Nameless)
                );
                let named = Instrument {
                    name: "Wren".into(),
                    ..usual_instrument(kind, strings)
                };
                assert_eq!(named.check(), Ok(()));
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
            Measured::mm(648.0),
            Measured::mm(660.0),
            Measured::mm(670.0),
        ];
        assert!(matches!(
            three.check(),
            Err(InstrumentError::Scales { read: 3, .. })
        ));
        let mut double = heron.clone();
        double.bridge.saddles[0] = vec![1, 2];
        assert_eq!(double.check(), Err(InstrumentError::Saddles(2)));
        let mut backwards = heron.clone();
        backwards.bridge.intonation.nearest = Measured::mm(12.0);
        assert!(matches!(
            backwards.check(),
            Err(InstrumentError::Travel(..))
        ));
        let mut unsound = heron;
        unsound.spread_nut.low = Length::from_mm(f64::NAN);
        assert!(matches!(
            unsound.check(),
            Err(InstrumentError::NotALength(_))
        ));
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
