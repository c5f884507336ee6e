//! Levels made equal, between pickups and across the strings of one.

use gradimen_core::pickup::FallOff;
use gradimen_core::quantity::{Length, Level};

use crate::estimate::Estimate as Known;
use crate::model::{Place, Side};

/// Levels are made equal within what players hear (common practice: a decibel).
const LEVELS_EQUAL: Level = Level::from_decibels(1.0);
/// A balance never sends a pickup nearer than this, or further (common practice: no target lies beyond).
const BALANCE_WITHIN: (Length, Length) = (Length::from_mm(1.4), Length::from_mm(5.0));

/// How a pickup stands to the quietest one, by the levels that were read.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelDifference {
    /// Mean of its levels.
    pub level: Level,
    /// How much louder it is than the quietest.
    pub by: Level,
    /// How much further off it has to go to be as loud, within what is set in practice.
    pub further: Length,
    /// Whether that lies within what players hear already.
    pub equal: bool,
    /// Whether its own fall-off was fitted, or is only usual.
    pub fitted: bool,
}

/// How a pickup hears its strings against one another, by their levels.
#[derive(Debug, Clone, PartialEq)]
pub struct StringBalance {
    /// Strings that were read, and how much louder each is than they are on average.
    pub strings: Vec<(u8, Level)>,
    /// How much louder the treble side is than the bass side, by the line through them.
    pub treble_louder: Level,
    /// Whether that lies within what players hear already.
    pub equal: bool,
    /// How much further off each side has to go for an even line, treble and bass; negative nearer.
    pub further: [Length; 2],
    /// What no tilt cures: strings that stand out of that line, and by how much.
    pub odd: Vec<(u8, Level)>,
}

/// The last level of a string on a pickup.
fn last_level(known: &Known, pickup: u8, string: u8) -> Option<Level> {
    let read = known.levels().iter().rev();
    let mut of = read.filter(|read| read.pickup == pickup && read.string == string);
    of.next().map(|read| read.level)
}

/// The line through the levels of one pickup, least squares, and the tilt that evens it.
pub(super) fn across(known: &Known, pickup: u8) -> Option<StringBalance> {
    let state = known.state();
    let read: Vec<(u8, f64, Level)> = (1..=known.instrument().strings)
        .filter_map(|string| {
            let share = state.share(state.index(string));
            Some((string, share, last_level(known, pickup, string)?))
        })
        .collect();
    if read.len() < 3 {
        return None;
    }
    let count = read.len() as f64;
    let mean = read.iter().map(|(_, _, level)| *level).sum::<Level>() / count;
    let middle = read.iter().map(|(_, share, _)| share).sum::<f64>() / count;
    let spread: f64 = read
        .iter()
        .map(|(_, share, _)| (share - middle).powi(2))
        .sum();
    // Decibels from the treble string to the bass string.
    let slope = read
        .iter()
        .map(|(_, share, level)| (*level - mean) * (share - middle))
        .sum::<Level>()
        / spread;
    let odd = read
        .iter()
        .map(|(string, share, level)| (*string, *level - mean - slope * (share - middle)))
        .filter(|(_, off)| off.abs() > LEVELS_EQUAL)
        .collect();
    let fall = fitted(known, pickup).unwrap_or_default();
    let further = [(Side::Treble, 0.0), (Side::Bass, 1.0)].map(|(side, share)| {
        let louder = slope * (share - middle);
        let place = Place::Pickup { pickup, side };
        let now = state
            .last(place)
            .and_then(|_| state.predict(place).ok())
            .map(|now| now.value);
        now.map_or(Length::ZERO, |now| {
            let (near, far) = BALANCE_WITHIN;
            let wanted = fall.gap_for(now, -louder).max(near.min(now));
            wanted.min(far.max(now)) - now
        })
    });
    Some(StringBalance {
        strings: read
            .iter()
            .map(|(string, _, level)| (*string, *level - mean))
            .collect(),
        treble_louder: -slope,
        equal: slope.abs() <= LEVELS_EQUAL,
        further,
        odd,
    })
}

/// Levels of every pickup against the quietest, from the last reading of every string.
pub(super) fn levels(known: &Known) -> Vec<Option<LevelDifference>> {
    let state = known.state();
    let count = known.instrument().pickups.len();
    let strings = known.instrument().strings;
    let gap = |pickup: u8| -> Option<Length> {
        let both = Side::ALL.map(|side| {
            let place = Place::Pickup { pickup, side };
            state.last(place)?;
            Some(state.predict(place).ok()?.value)
        });
        Some((both[0]? + both[1]?) * 0.5)
    };
    let mean = |pickup: u8| -> Option<Level> {
        let last: Vec<Level> = (1..=strings)
            .filter_map(|string| last_level(known, pickup, string))
            .collect();
        let count = last.len();
        (count > 0).then(|| last.into_iter().sum::<Level>() / count as f64)
    };
    let means: Vec<Option<Level>> = (0..count)
        .map(|pickup| mean(u8::try_from(pickup).unwrap_or(u8::MAX)))
        .collect();
    let Some(quietest) = means.iter().flatten().copied().reduce(Level::min) else {
        return vec![None; count];
    };
    means
        .into_iter()
        .zip(0_u8..)
        .map(|(level, pickup)| {
            let level = level?;
            let by = level - quietest;
            let fitted = fitted(known, pickup);
            let fall = fitted.unwrap_or_default();
            let further = gap(pickup).map_or(Length::ZERO, |now| {
                let wanted = fall.gap_for(now, -by);
                let (near, far) = BALANCE_WITHIN;
                wanted.max(near).min(far.max(now)) - now
            });
            Some(LevelDifference {
                level,
                by,
                further,
                equal: by <= LEVELS_EQUAL,
                fitted: fitted.is_some(),
            })
        })
        .collect()
}

/// The fall-off of a pickup, where one string was read at two gaps that differ enough.
pub(super) fn fitted(known: &Known, pickup: u8) -> Option<FallOff> {
    let read: Vec<_> = known
        .levels()
        .iter()
        .filter(|read| read.pickup == pickup)
        .collect();
    read.iter().rev().find_map(|late| {
        let early = read.iter().find(|early| {
            early.string == late.string
                && early
                    .gap
                    .zip(late.gap)
                    .is_some_and(|(a, b)| (a - b).abs() > Length::from_mm(0.5))
        })?;
        FallOff::fit((early.gap?, early.level), (late.gap?, late.level)).ok()
    })
}
