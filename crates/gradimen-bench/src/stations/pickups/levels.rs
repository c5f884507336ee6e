//! Levels made equal, between pickups and across the strings of one.

use gradimen_core::pickup::FallOff;
use gradimen_core::quantity::{Length, Level};

use crate::estimate::Estimate as Known;
use crate::model::{Place, Side};

/// Levels are made equal within what players hear (common practice: a decibel).
const LEVELS_EQUAL: Level = Level::from_decibels(1.0);
/// A string that stands out by less than so many times what its level is known to may be a stroke.
const PLAIN: f64 = 2.0;
/// A balance never sends a pickup nearer than this, or further (common practice: no target lies beyond).
const BALANCE_WITHIN: (Length, Length) = (Length::from_mm(1.4), Length::from_mm(5.0));

/// How a pickup stands to the quietest one, by the levels of the strings that were read on every one of them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LevelDifference {
    /// Mean of its levels.
    pub level: Level,
    /// How much louder it is than the quietest.
    pub by: Level,
    /// One standard deviation of that.
    pub doubt: Level,
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
    /// One standard deviation of that.
    pub doubt: Level,
    /// Whether that lies within what players hear already.
    pub equal: bool,
    /// How much further off each side has to go for an even line, treble and bass; negative nearer.
    pub further: [Length; 2],
    /// What no tilt cures: strings that stand out of that line, and by how much.
    pub odd: Vec<(u8, Level)>,
}

impl LevelDifference {
    /// Whether strokes that differ explain what is more than players hear as well.
    pub fn unsure(&self) -> bool {
        unsure(self.by, self.doubt)
    }
}

impl StringBalance {
    /// Whether strokes that differ explain what is more than players hear as well.
    pub fn unsure(&self) -> bool {
        unsure(self.treble_louder, self.doubt)
    }
}

/// A difference that is more than players hear by less than it is known.
fn unsure(by: Level, doubt: Level) -> bool {
    by.abs() > LEVELS_EQUAL && by.abs() < LEVELS_EQUAL + doubt
}

/// The last level of a string on a pickup, and its doubt.
fn last_level(known: &Known, pickup: u8, string: u8) -> Option<(Level, Level)> {
    let read = known.levels().iter().rev();
    let mut of = read.filter(|read| read.pickup == pickup && read.string == string);
    of.next().map(|read| (read.level, read.doubt))
}

/// One standard deviation of the mean of some that are known each so well.
fn doubt_of_mean(doubts: impl ExactSizeIterator<Item = Level>) -> Level {
    let count = doubts.len() as f64;
    let squares: f64 = doubts.map(|doubt| doubt.decibels().powi(2)).sum();
    Level::from_decibels(squares.sqrt() / count)
}

/// A reading of one string: which, where it lies across, its level and its doubt.
type Read = (u8, f64, Level, Level);

/// The line through the levels of one pickup, least squares by what each is known to, and the tilt that evens it.
pub(super) fn across(known: &Known, pickup: u8) -> Option<StringBalance> {
    let state = known.state();
    let read: Vec<Read> = (1..=known.instrument().strings)
        .filter_map(|string| {
            let share = state.share(state.index(string));
            let (level, doubt) = last_level(known, pickup, string)?;
            Some((string, share, level, doubt))
        })
        .collect();
    if read.len() < 3 {
        return None;
    }
    let weight = |doubt: &Level| doubt.decibels().powi(-2);
    let all: f64 = read.iter().map(|(.., doubt)| weight(doubt)).sum();
    let sum =
        |of: &dyn Fn(&Read) -> Level| read.iter().map(|r| of(r) * weight(&r.3)).sum::<Level>();
    let mean = sum(&|(_, _, level, _)| *level) / all;
    let middle = read.iter().map(|r| r.1 * weight(&r.3)).sum::<f64>() / all;
    let spread: f64 = read
        .iter()
        .map(|(_, share, _, doubt)| (share - middle).powi(2) * weight(doubt))
        .sum();
    // Decibels from the treble string to the bass string.
    let slope = sum(&|(_, share, level, _)| (*level - mean) * (share - middle)) / spread;
    let odd = read
        .iter()
        .map(|(string, share, level, doubt)| {
            let off = *level - mean - slope * (share - middle);
            (*string, off, *doubt)
        })
        .filter(|(_, off, doubt)| off.abs() > LEVELS_EQUAL.max(*doubt * PLAIN))
        .map(|(string, off, _)| (string, off))
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
            .map(|(string, _, level, _)| (*string, *level - mean))
            .collect(),
        treble_louder: -slope,
        doubt: Level::from_decibels(spread.sqrt().recip()),
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
    let pickups: Vec<u8> = (0..).take(count).collect();
    let read = |pickup: u8| known.levels().iter().any(|read| read.pickup == pickup);
    // A loud string read on one pickup alone would make that one loud.
    let on_all = |string: &u8| {
        let mut those = pickups.iter().filter(|pickup| read(**pickup));
        those.all(|pickup| last_level(known, *pickup, *string).is_some())
    };
    let on_all: Vec<u8> = (1..=strings).filter(on_all).collect();
    let mean = |pickup: u8| -> Option<(Level, Level)> {
        let level = |string: &u8| last_level(known, pickup, *string);
        let (levels, doubts): (Vec<Level>, Vec<Level>) = on_all.iter().filter_map(level).unzip();
        let count = levels.len();
        let mean = levels.into_iter().sum::<Level>() / count.max(1) as f64;
        (count > 0).then(|| (mean, doubt_of_mean(doubts.into_iter())))
    };
    let means: Vec<Option<(Level, Level)>> = pickups.iter().map(|pickup| mean(*pickup)).collect();
    let Some(quietest) = means
        .iter()
        .flatten()
        .copied()
        .min_by(|one, other| one.0.decibels().total_cmp(&other.0.decibels()))
    else {
        return vec![None; count];
    };
    means
        .into_iter()
        .zip(0_u8..)
        .map(|(mean, pickup)| {
            let (level, doubt) = mean?;
            let by = level - quietest.0;
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
                doubt: Level::from_decibels(doubt.decibels().hypot(quietest.1.decibels())),
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
