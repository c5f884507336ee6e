//! The plan view: lanes of strings over the board, seen from above, frets at true scale.

use crate::vocabulary::*;
use gradimen_core::fretboard::fret_position;
use gradimen_core::quantity::Length;

use super::{Anchor, Drawing};

/// Where a station's lanes stand.
#[derive(Debug, Clone)]
pub(crate) struct Lanes {
    /// Left edge of the board.
    pub(crate) nut: f64,
    /// Top of the first lane.
    pub(crate) top: f64,
    /// Height of one lane.
    pub(crate) pitch: f64,
    /// How many.
    pub(crate) count: u8,
    /// Drawing units per millimetre along the board.
    pub(crate) per_mm: f64,
    /// How far further back the nut of each string lies on a fan, string 1 first.
    skew: Vec<f64>,
}

/// The fret of a fan that runs straight across (common practice: about the seventh).
const STRAIGHT: u8 = 7;

/// Frets that carry a number.
const NUMBERED: [u8; 12] = [1, 3, 5, 7, 9, 12, 15, 17, 19, 21, 22, 24];
/// Numbers nearer than this would run into each other.
const LEAST_GAP: f64 = 30.0;
/// Line width per millimetre of gauge; the thinnest still shows.
const WIDTH_PER_MM: f64 = 3.0;

impl Lanes {
    /// Lanes for an instrument: the drawing gives `board` units to the part from the nut to `reach`.
    pub(crate) fn new(
        instrument: &Instrument,
        nut: f64,
        top: f64,
        board: f64,
        reach: Length,
    ) -> Self {
        let pitch = match instrument.strings {
            ..=4 => 56.0,
            5 => 50.0,
            6 => 46.0,
            7 => 44.0,
            _ => 42.0,
        };
        let per_mm = board / reach.mm();
        let straight = |string| fret_position(instrument.scale(string), STRAIGHT);
        let strings = 1..=instrument.strings;
        let furthest = strings
            .clone()
            .map(straight)
            .fold(Length::ZERO, Length::max);
        Self {
            nut,
            top,
            pitch,
            count: instrument.strings,
            per_mm,
            skew: strings
                .map(|string| (furthest - straight(string)).mm() * per_mm)
                .collect(),
        }
    }

    /// Where the nut of a string lies.
    pub(crate) fn nut_x(&self, string: u8) -> f64 {
        let at = usize::from(string.max(1) - 1);
        self.nut + self.skew.get(at).copied().unwrap_or(0.0)
    }

    /// The lanes as one string has them: its nut where it lies.
    pub(crate) fn of(&self, string: u8) -> Self {
        Self {
            nut: self.nut_x(string),
            ..self.clone()
        }
    }

    /// Lanes of another height.
    pub(crate) fn with_pitch(self, pitch: f64) -> Self {
        Self { pitch, ..self }
    }

    /// Middle of a lane; strings count from 1.
    pub(crate) fn y(&self, string: u8) -> f64 {
        self.top + (f64::from(string) - 0.5) * self.pitch
    }

    /// Lower edge of the last lane.
    pub(crate) fn bottom(&self) -> f64 {
        self.top + f64::from(self.count) * self.pitch
    }

    /// A place along the string.
    pub(crate) fn x(&self, along: Length) -> f64 {
        self.nut + along.mm() * self.per_mm
    }

    /// A fret under a string.
    pub(crate) fn fret_x(&self, job: &Known, string: u8, fret: u8) -> f64 {
        self.of(string)
            .x(fret_position(job.speaking_scale(string), fret))
    }

    /// Board, frets with their numbers, and the nut.
    pub(crate) fn board(&self, drawing: &mut Drawing, job: &Known) {
        self.board_without_numbers(drawing, job);
        let last = self.count;
        let bottom = self.y(last) + self.pitch * 0.4;
        let mut before = f64::NEG_INFINITY;
        for fret in NUMBERED
            .into_iter()
            .filter(|fret| *fret <= job.instrument().frets)
        {
            let x = self.fret_x(job, last, fret);
            if x - before >= LEAST_GAP {
                drawing.text(
                    "small",
                    (x, bottom + 18.0),
                    Anchor::Middle,
                    &fret.to_string(),
                );
                before = x;
            }
        }
        drawing.text(
            "small",
            (self.nut_x(last) - 10.0, bottom + 18.0),
            Anchor::Middle,
            "nut",
        );
    }

    /// Board, frets and nut.
    pub(crate) fn board_without_numbers(&self, drawing: &mut Drawing, job: &Known) {
        let (first, last) = (1, self.count);
        let frets = job.instrument().frets;
        let edge = self.pitch * 0.4;
        let (top, bottom) = (self.y(first) - edge, self.y(last) + edge);
        let past = 6.0;
        drawing.polygon(
            "wood",
            &[
                (self.nut_x(first), top),
                (self.fret_x(job, first, frets) + past, top),
                (self.fret_x(job, last, frets) + past, bottom),
                (self.nut_x(last), bottom),
            ],
        );
        for fret in 1..=frets {
            let (a, b) = (self.fret_x(job, first, fret), self.fret_x(job, last, fret));
            drawing.line("fret", (a, top), (b, bottom));
        }
        drawing.line(
            "nut",
            (self.nut_x(first), top - 2.0),
            (self.nut_x(last), bottom + 2.0),
        );
    }

    /// The band behind the string in hand.
    pub(crate) fn in_hand(&self, drawing: &mut Drawing, string: u8) {
        drawing.rect(
            "lane",
            (0.0, self.y(string) - self.pitch / 2.0),
            (super::WIDTH, self.pitch),
            0.0,
        );
    }
}

/// Line width of a string by its gauge.
pub(crate) fn wire_width(gauge: Length) -> f64 {
    (gauge.mm() * WIDTH_PER_MM).max(1.0)
}
