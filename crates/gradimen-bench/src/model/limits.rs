//! The only limits there are: what can be typed into a form, stand in a document or be told to a job.
//!
//! Forms borrow the [`LengthField`]s, the fold and the import check by the same ones, so that nothing can
//! come in through one door that another would refuse. Whatever lies outside is refused with the field,
//! what was read (shortened) and what is allowed, once and on one line.
//!
//! ```
//! use gradimen_bench::model::limits;
//!
//! assert!(limits::count("frets", 22, &(12..=36)).is_ok());
//! let refused = limits::count("frets", 5, &(12..=36)).unwrap_err().to_string();
//! assert!(refused.contains("frets") && refused.contains('5') && refused.contains("12"));
//! ```

use std::ops::RangeInclusive;

use gradimen_core::quantity::Length;
use gradimen_core::units::LengthField;
use gradimen_core::units::LengthUnit::{Inch, Millimetre, SixtyFourth, Thou};
use gradimen_core::units::print;
use thiserror::Error;

use super::measurement::Measurement;
use super::place::Place;

/// Strings of an instrument; those of a course count each.
pub const STRINGS: RangeInclusive<u8> = 3..=12;
/// Frets on a board.
pub const FRETS: RangeInclusive<u8> = 12..=36;
/// Where a body begins to hold a neck.
pub const JOINT: RangeInclusive<u8> = 10..=35;
/// Pickups of an instrument.
pub const PICKUPS: usize = 8;
/// Springs of a vibrato.
pub const SPRINGS: RangeInclusive<u8> = 1..=5;
/// Entries of a journal.
pub const ENTRIES: usize = 100_000;
/// Times an instrument is strung in one job.
pub const RESTRINGINGS: usize = 10_000;
/// Characters of a name or of one line.
pub const LINE: usize = 200;
/// Characters of a note.
pub const TEXT: usize = 4_000;
/// Turns of a truss rod, of a height screw or a pickup's, of a saddle's, of a claw's, told at once.
pub const ROD_TURNS: f64 = 2.0;
/// Turns of thread that the nut of a truss rod may have left.
pub const ROD_THREAD: RangeInclusive<f64> = 0.0..=10.0;
/// Turns of a height or pickup screw at once.
pub const SCREW_TURNS: f64 = 30.0;
/// Turns of a saddle screw at once.
pub const SADDLE_TURNS: f64 = 40.0;
/// Turns of a claw's screws at once.
pub const CLAW_TURNS: f64 = 10.0;
/// Beyond this a fretted note is another note, in cents.
pub const CENTS: f64 = 100.0;
/// What a new string falls by when it is stretched, in cents: five semitones and it is another string.
pub const DRIFT: f64 = 500.0;
/// Relative humidity of a room, per cent.
pub const HUMIDITY: RangeInclusive<f64> = 5.0..=99.0;
/// What a tuner resolves, in cents.
pub const RESOLUTION: RangeInclusive<f64> = 0.01..=10.0;
/// What a level meter shows, in decibels.
pub const DECIBELS: f64 = 150.0;
/// A piece of string, in grams.
pub const GRAMS: RangeInclusive<f64> = 0.001..=200.0;
/// The rate of a spring, in newtons per metre, and the force before it starts to stretch, in newtons.
pub const RATE: RangeInclusive<f64> = 100.0..=100_000.0;
/// Newtons at which a spring begins to stretch.
pub const PRELOAD: RangeInclusive<f64> = 0.0..=60.0;
/// A stroke, as a share of the player's hardest.
pub const ATTACK: RangeInclusive<f64> = 0.05..=1.0;
/// How long something may be left to itself, in minutes.
pub const WAIT: RangeInclusive<f64> = 0.0..=600.0;
/// What a practice job may count: visits, readings, rows.
pub const TOLL: RangeInclusive<f64> = 0.0..=1e6;
/// How an instrument to practise on may come, in millimetres.
pub const CAME: RangeInclusive<f64> = -2.0..=20.0;
/// How far a note may be off, in cents, where a job says so itself.
pub const CENTS_TOLERANCE: RangeInclusive<f64> = 0.1..=20.0;
/// How sharp or flat a fretted note may be wanted, in cents.
pub const CENTS_AIM: RangeInclusive<f64> = -20.0..=20.0;

const fn field(
    what: &'static str,
    unit: gradimen_core::units::LengthUnit,
    low: f64,
    high: f64,
) -> LengthField {
    LengthField::mm(what, unit, low, high)
}

/// A scale.
pub const SCALE: LengthField = field("a scale", Inch, 400.0, 1000.0);
/// A board radius.
pub const RADIUS: LengthField = field("a board radius", Inch, 100.0, 3000.0);
/// A string spread.
pub const SPREAD: LengthField =
    field("a string spread", Millimetre, 10.0, 260.0).naturally(15.0, 230.0);
/// A thread pitch.
pub const THREAD: LengthField = field("a thread pitch", Millimetre, 0.2, 2.5);
/// An end of the saddle travel.
pub const TRAVEL_END: LengthField = field("an end of the saddle travel", Millimetre, -30.0, 60.0);
/// The extra travel with the saddle reversed.
pub const TURN_ROUND: LengthField = field(
    "the extra travel with the saddle reversed",
    Millimetre,
    0.0,
    10.0,
);
/// The travel of a screw.
pub const HEIGHT_TRAVEL: LengthField = field("the travel of a screw", Millimetre, 0.0, 30.0);
/// String behind the saddle.
pub const BEHIND_SADDLE: LengthField = field("string behind the saddle", Millimetre, 0.0, 400.0);
/// A gauge.
pub const GAUGE: LengthField = field("a gauge", Thou, 0.1, 4.5);
/// A core diameter.
pub const CORE: LengthField = field("a core diameter", Thou, 0.1, 2.0);
/// A piece of string.
pub const CUT_OFF: LengthField = field("a piece of string", Millimetre, 10.0, 1500.0);
/// Clearance over fret 1.
pub const FIRST_FRET: LengthField =
    field("clearance over fret 1", Thou, 0.0, 3.0).naturally(0.05, 2.0);
/// Action at fret 12.
pub const TWELFTH: LengthField =
    field("action at fret 12", SixtyFourth, 0.2, 8.0).naturally(1.0, 6.0);
/// A neck pocket.
pub const POCKET: LengthField = field("a neck pocket", Millimetre, 30.0, 200.0);
/// Relief.
pub const RELIEF: LengthField = field("relief", Thou, 0.0, 5.0).naturally(0.02, 1.5);
/// A gap over fret 1.
pub const NUT: LengthField = field("a gap over fret 1", Thou, 0.0, 5.0).naturally(0.02, 2.0);
/// The action.
pub const ACTION: LengthField = field("the action", SixtyFourth, 0.0, 10.0).naturally(1.0, 6.0);
/// What a saddle was shimmed or cut by.
pub const SADDLE_CUT: LengthField =
    field("what a saddle was shimmed or cut by", Millimetre, -4.0, 4.0);
/// A move of the nut.
pub const NUT_MOVE: LengthField = field("a move of the nut", Thou, -3.0, 3.0);
/// The thickness of a shim.
pub const SHIM: LengthField =
    field("the thickness of a shim", Millimetre, 0.0, 6.0).naturally(0.1, 4.0);
/// A pickup before the scale line.
pub const PICKUP_PLACE: LengthField =
    field("a pickup before the scale line", Millimetre, 5.0, 400.0);
/// The gap under the vibrato.
pub const VIBRATO_GAP: LengthField = field("the gap under the vibrato", Millimetre, 0.0, 15.0);
/// A part of the vibrato.
pub const VIBRATO_PART: LengthField = field("a part of the vibrato", Millimetre, 0.0, 150.0);
/// A turn of the claw's screw.
pub const CLAW_PITCH: LengthField = field("a turn of the claw's screw", Millimetre, 0.1, 5.0);
/// A move of the spring's seat.
pub const SEAT_MOVE: LengthField = field("a move of the spring's seat", Millimetre, -8.0, 8.0);
/// The length of a spring.
pub const SPRING_LENGTH: LengthField = field("the length of a spring", Millimetre, 5.0, 150.0);
/// The claw before its wall.
pub const CLAW_END: LengthField = field("the claw before its wall", Millimetre, 0.0, 40.0);
/// The gap of a pickup.
pub const PICKUP_GAP: LengthField =
    field("the gap of a pickup", SixtyFourth, 0.0, 10.0).naturally(0.79, 8.0);
/// Nut to fret 12.
pub const NUT_TO_TWELFTH: LengthField = field("nut to fret 12", Millimetre, 190.0, 530.0);
/// Fret 12 to saddle.
pub const TWELFTH_TO_SADDLE: LengthField = field("fret 12 to saddle", Millimetre, 190.0, 560.0);
/// Room behind a saddle.
pub const ROOM: LengthField = field("room behind a saddle", Millimetre, 0.0, 40.0);
/// A move of the bridge.
pub const BRIDGE_MOVE: LengthField = field("a move of the bridge", Millimetre, -30.0, 30.0);
/// How far a saddle was slid.
pub const SLIDE: LengthField = field("how far a saddle was slid", Millimetre, 0.05, 15.0);
/// How far an end of a bar was moved.
pub const BAR_MOVE: LengthField = field(
    "how far an end of the bar was moved",
    Millimetre,
    -15.0,
    15.0,
);
/// A tolerance.
pub const TOLERANCE: LengthField = field("a tolerance", Millimetre, 0.005, 3.0);
/// One of relief or nut, and one of the action or a pickup, as they are typed.
pub const TOLERANCE_THOU: LengthField = TOLERANCE.in_unit(Thou).naturally(0.02, 1.0);
/// See [`TOLERANCE_THOU`].
pub const TOLERANCE_64: LengthField = TOLERANCE.in_unit(SixtyFourth).naturally(0.04, 1.5);
/// A nut compensated by.
pub const NUT_OFFSET: LengthField = field("a nut compensated by", Millimetre, -5.0, 5.0);
/// What goes under a straightedge on frets.
pub const EDGE: LengthField = field("the gap under a straightedge", Thou, 0.0, 2.0);
/// What is left of a fret's crown.
pub const CROWN: LengthField = field("the height of a crown", Millimetre, 0.1, 2.5);
/// How deep a fret is worn.
pub const WEAR: LengthField = field("how deep a fret is worn", Thou, 0.01, 1.5);
/// What levelling took.
pub const TAKEN: LengthField = field("what was taken off the frets", Thou, 0.0, 1.0);
/// A fall-away at the last fret.
pub const FALL_AWAY: LengthField = field("a fall-away at the last fret", Millimetre, 0.0, 3.0);

/// The lengths that can be typed, by the names that fields are asked about with.
const NAMED: [(&str, LengthField); 42] = [
    ("edge", EDGE),
    ("crown", CROWN),
    ("wear", WEAR),
    ("taken", TAKEN),
    ("slide", SLIDE),
    ("bar_move", BAR_MOVE),
    ("vibrato_part", VIBRATO_PART),
    ("seat_move", SEAT_MOVE),
    ("spring_length", SPRING_LENGTH),
    ("claw_end", CLAW_END),
    ("vibrato_gap", VIBRATO_GAP),
    ("pickup_gap", PICKUP_GAP),
    ("pickup_place", PICKUP_PLACE),
    ("pocket", POCKET),
    ("relief", RELIEF),
    ("gap", NUT),
    ("action", ACTION),
    ("saddle_cut", SADDLE_CUT),
    ("nut_move", NUT_MOVE),
    ("shim", SHIM),
    ("scale", SCALE),
    ("radius", RADIUS),
    ("spread", SPREAD),
    ("thread", THREAD),
    ("travel_end", TRAVEL_END),
    ("turn_round", TURN_ROUND),
    ("height_travel", HEIGHT_TRAVEL),
    ("behind_saddle", BEHIND_SADDLE),
    ("gauge", GAUGE),
    ("core", CORE),
    ("cut_off", CUT_OFF),
    ("first_fret", FIRST_FRET),
    ("twelfth", TWELFTH),
    ("nut_to_twelfth", NUT_TO_TWELFTH),
    ("twelfth_to_saddle", TWELFTH_TO_SADDLE),
    ("room", ROOM),
    ("bridge_move", BRIDGE_MOVE),
    ("nut_offset", NUT_OFFSET),
    ("fall_away", FALL_AWAY),
    ("tolerance", TOLERANCE),
    ("tolerance_thou", TOLERANCE_THOU),
    ("tolerance_64", TOLERANCE_64),
];

/// The limits of what is read at a place, and what a bare number there means; nothing where no length is read.
pub const fn of_place(place: Place) -> Option<LengthField> {
    Some(match place {
        Place::Relief { .. } => RELIEF,
        Place::Nut { .. } => NUT,
        Place::Action { .. } => ACTION,
        Place::Gap => VIBRATO_GAP,
        Place::Spring => SPRING_LENGTH,
        Place::ClawEnds => CLAW_END,
        Place::Pickup { .. } | Place::PolePiece { .. } => PICKUP_GAP,
        Place::Scale { .. } => NUT_TO_TWELFTH,
        Place::Saddle { .. } => TWELFTH_TO_SADDLE,
        Place::Room { .. } => ROOM,
        Place::Core { .. } => CORE,
        Place::Intonation { .. }
        | Place::Level { .. }
        | Place::CutOff { .. }
        | Place::RodCheck
        | Place::Rock { .. } => return None,
    })
}

/// The limits of a field by its name.
pub fn named(name: &str) -> Option<LengthField> {
    let known = NAMED.iter().find(|(known, _)| *known == name);
    known.map(|(_, limits)| *limits)
}

/// What is outside the limits: which field, what was read, what is allowed.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
#[error("{field}: read {read}, expected {allowed}")]
pub struct LimitError {
    /// Which field.
    pub field: String,
    /// What was read, shortened.
    pub read: String,
    /// What is allowed.
    pub allowed: String,
}

impl LimitError {
    /// From any three texts; what was read is cut short.
    pub fn new(
        field: impl Into<String>,
        read: impl Into<String>,
        allowed: impl Into<String>,
    ) -> Self {
        Self {
            field: field.into(),
            read: shortened(&read.into()),
            allowed: allowed.into(),
        }
    }
}

/// A text cut to what an error can show on its line.
pub fn shortened(text: &str) -> String {
    const MOST: usize = 40;
    let line: String = text
        .chars()
        .map(|letter| if letter.is_control() { ' ' } else { letter })
        .take(MOST)
        .collect();
    if text.chars().count() > MOST {
        format!("{line}\u{2026}")
    } else {
        line
    }
}

/// Checks a length: both ends numbers, in order, within the field's limits.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn length(measured: &Measurement, within: &LengthField) -> Result<(), LimitError> {
    named_length(within.what, measured, within)
}

/// The same under another name.
///
/// # Errors
/// A [`LimitError`] that has this name.
pub fn named_length(
    name: &str,
    measured: &Measurement,
    within: &LengthField,
) -> Result<(), LimitError> {
    line(name, &measured.written)?;
    // A limit that was typed itself must pass: conversion leaves a trace in the last digit.
    let hair = Length::from_mm(1e-6);
    let (low, high) = (measured.low, measured.high);
    // Written so that what is no number fails.
    let inside = low >= within.low - hair && high <= within.high + hair && low <= high;
    if inside {
        Ok(())
    } else {
        Err(LimitError::new(
            name,
            if low == high {
                print::with_unit(low)
            } else {
                format!("{} to {}", print::with_unit(low), print::with_unit(high))
            },
            format!(
                "{} to {}",
                print::limit(within.low, Millimetre),
                print::limit(within.high, Millimetre)
            ),
        ))
    }
}

/// Checks a number.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn number(
    name: &str,
    value: f64,
    within: &RangeInclusive<f64>,
    unit: &str,
) -> Result<(), LimitError> {
    if within.contains(&value) {
        Ok(())
    } else {
        Err(LimitError::new(
            name,
            format!("{value} {unit}"),
            format!("{} to {} {unit}", within.start(), within.end()),
        ))
    }
}

/// Checks a number that may lie as far either way.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn either_way(name: &str, value: f64, most: f64, unit: &str) -> Result<(), LimitError> {
    number(name, value, &(-most..=most), unit)
}

/// Checks a share of one that may be untold.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn share(name: &str, value: Option<f64>) -> Result<(), LimitError> {
    value.map_or(Ok(()), |value| number(name, value, &(0.0..=1.0), ""))
}

/// Checks a count.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn count(name: &str, value: usize, within: &RangeInclusive<usize>) -> Result<(), LimitError> {
    if within.contains(&value) {
        Ok(())
    } else {
        Err(LimitError::new(
            name,
            value.to_string(),
            format!("{} to {}", within.start(), within.end()),
        ))
    }
}

/// Checks a relative humidity.
///
/// # Errors
/// [`LimitError`] outside [`HUMIDITY`].
pub fn humidity(percent: f64) -> Result<(), LimitError> {
    number("humidity", percent, &HUMIDITY, "per cent")
}

/// Checks a name or one line of text.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn line(name: &str, text: &str) -> Result<(), LimitError> {
    at_most(name, text, LINE)
}

/// Checks a longer text.
///
/// # Errors
/// A [`LimitError`] that names the field.
pub fn text(name: &str, text: &str) -> Result<(), LimitError> {
    at_most(name, text, TEXT)
}

fn at_most(name: &str, text: &str, most: usize) -> Result<(), LimitError> {
    // Counting characters of a text that long would itself take long.
    if text.len() <= most || (text.len() <= most * 4 && text.chars().count() <= most) {
        Ok(())
    } else {
        Err(LimitError::new(
            name,
            text,
            format!("at most {most} characters"),
        ))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    fn mm(low: f64, high: f64) -> Measurement {
        Measurement {
            written: "as typed".into(),
            low: Length::from_mm(low),
            high: Length::from_mm(high),
            tool: None,
        }
    }

    #[test]
    fn what_is_no_length_is_refused_by_name() {
        assert_eq!(length(&mm(0.1, 0.2), &RELIEF), Ok(()));
        for (low, high) in [
            (f64::NAN, f64::NAN),
            (0.2, f64::NAN),
            (1e300, 1e300),
            (f64::NEG_INFINITY, 0.2),
            (0.3, 0.2),
            (-0.1, 0.2),
        ] {
            let error = length(&mm(low, high), &RELIEF).unwrap_err();
            assert_eq!(error.field, "relief");
            assert!(error.to_string().starts_with("relief: read "), "{error}");
            assert!(!error.to_string().contains('\n'));
        }
    }

    #[test]
    fn limits_themselves_are_inside() {
        for field in [SCALE, RELIEF, PICKUP_GAP, NUT_MOVE, TRAVEL_END] {
            let ends = mm(field.low.mm(), field.high.mm());
            assert_eq!(length(&ends, &field), Ok(()));
        }
    }

    #[test]
    fn long_and_broken_texts_are_shortened() {
        let error = text("a note", &"x\n".repeat(1_000_000)).unwrap_err();
        assert!(error.to_string().len() < 200, "{error}");
        assert!(line("a name", &"\u{e9}".repeat(LINE)).is_ok());
        assert!(line("a name", &"\u{e9}".repeat(LINE + 1)).is_err());
        assert!(number("cents", f64::NAN, &(0.0..=1.0), "c").is_err());
        assert!(count("pickups", 9, &(0..=PICKUPS)).is_err());
    }
}
