//! One state with one covariance: all that is not known of an instrument, from neck to pickups.
//!
//! The unknowns stand in `layout.rs`, what is believed of each before anything was read in the table of
//! `estimate/priors.rs`. Three things touch the state and nothing else: [`State::observe`] takes a reading in,
//! [`State::adjust`] a move, [`State::restring`] other strings. Readings of the neck, of heights and of gaps are linear
//! in it but for a floating plate, whose angle is no unknown: it is solved from the state (`plate.rs`), so that a
//! height screw moves the plate, the plate moves every height, setback and gap, and any of these readings teaches the
//! claw, the springs and the arms.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let [treble, bass] = known.state().plain_relief();
//! assert!(treble.sigma.mm() > 0.0 && bass.value.mm() > -0.2);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod adjust;
pub(crate) mod layout;
mod observe;
mod plate;
mod prior;
mod sights;
#[cfg(test)]
mod tests;

pub(crate) use observe::{Heard, noise_of_note};
pub(crate) use plate::{FURTHEST, Lie};
pub(crate) use sights::Sight;

use std::collections::BTreeMap;

use gradimen_core::action::StringLine;
use gradimen_core::intonation::Speaking;
use gradimen_core::neck::{Bend, FretTops, Relief, Span};
use gradimen_core::quantity::{Curvature, Estimate, Length};
use nalgebra::DVector;

use super::EstimateError;
use super::filter::Filter;
use crate::model::hardware::{Lifts, VibratoRecord};
use crate::model::instrument::{Instrument, InstrumentError};
use crate::model::{HeightsGiven, Measurement, Place, Side, Taught};
use layout::{BASS, LIFTS, Layout, MIDDLE, ROD, ROD_MIDDLE, TREBLE};

/// Relief by hold 1 and last, read 8: what the priors are stated in.
const PLAIN_READ_AT: u8 = 8;
/// From nut to crown, beyond the scale: what saddles usually stand back by.
const USUAL_SETBACK: Length = Length::from_mm(3.0);
/// Posts stand so far outside the outer strings (common practice: 74 mm between them).
const POST_BEYOND: Length = Length::from_mm(10.5);
/// Screws of a barrel stand so far outside its strings (common practice).
const BARREL_BEYOND: Length = Length::from_mm(2.5);
/// Screws of a pickup stand so far outside the outer strings (common practice: 76 to 80 mm between them).
const PICKUP_BEYOND: Length = Length::from_mm(12.0);

/// The last reading of a place.
#[derive(Debug, Clone, PartialEq)]
pub struct LastRead {
    /// What was read, as it was typed.
    pub written: String,
    /// What was read; nothing where the string touched or rocked.
    pub value: Option<Measurement>,
    /// How often it was read since it last moved by more than can be carried.
    pub fresh: usize,
    /// By how much it is predicted to have moved since.
    pub drift: Length,
    /// By which method.
    pub place: Place,
}

/// A string as the state needs it: how hard it pulls, and how it speaks.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Pulling {
    /// At pitch, in newtons.
    pub(crate) tension: f64,
    /// Fretted on this instrument.
    pub(crate) speaking: Speaking,
    /// One standard deviation of its right place, in millimetres: finger, core, what slides.
    pub(crate) doubt: f64,
    /// How much a note scatters for the finger alone, in cents.
    pub(crate) finger: f64,
    /// How sharp a usual pluck makes a fretted note against its reference, in cents.
    pub(crate) pluck: f64,
}

/// The vibrato as it is hooked now.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Sheet {
    pub(crate) record: VibratoRecord,
    /// The strings lie on the plate: it carries their saddles.
    pub(crate) carries: bool,
}

/// What is known of an instrument.
#[derive(Debug, Clone, PartialEq)]
pub struct State {
    pub(crate) at: Layout,
    tops: Vec<FretTops>,
    /// How far each string lies from the first to the last.
    across: Vec<f64>,
    lengths: Vec<Length>,
    lifts: Lifts,
    /// The strings of each saddle, by index; and the saddle of each string.
    saddles: Vec<Vec<usize>>,
    saddle_of: Vec<usize>,
    /// What a turn lifts: of the screws in a saddle, and of a post.
    height_pitch: f64,
    post_pitch: f64,
    drive_pitch: f64,
    turn_round: f64,
    /// Distance of a post from the centre line.
    post: Length,
    plain: Relief,
    twelfth: u8,
    /// How far before the scale line the poles of each pickup lie, and the pitch of its screws.
    pickups: Vec<(Length, Length)>,
    pickup_share: f64,
    pub(crate) sheet: Option<Sheet>,
    pub(crate) strings: Vec<Pulling>,
    pub(crate) filter: Filter,
    lie: Lie,
    last: BTreeMap<Place, LastRead>,
    checks: observe::Checks,
    /// Which way the rod was last turned.
    rod_way: Option<bool>,
    /// Which saddles stand the other way round.
    turned_round: Vec<bool>,
    /// Whether the slot of each string has been under the file.
    pub(crate) filed: Vec<bool>,
    told: bool,
    assumed: bool,
}

impl State {
    /// Before anything is known. Scales are those the frets were cut to, string by string.
    ///
    /// # Errors
    /// [`EstimateError`] for an instrument whose record cannot be.
    pub(crate) fn new(
        instrument: &Instrument,
        scales: &[Length],
        strings: Vec<Pulling>,
        given: &HeightsGiven,
        taught: &[Taught],
    ) -> Result<Self, EstimateError> {
        let board = instrument.board()?;
        let tops = scales
            .iter()
            .zip(1..)
            .map(|(scale, string)| instrument.fret_tops(string, *scale))
            .collect::<Result<Vec<_>, InstrumentError>>()?;
        let bridge = &instrument.bridge;
        let count = tops.len();
        let saddles: Vec<Vec<usize>> = bridge
            .saddles
            .iter()
            .map(|on| on.iter().map(|&string| usize::from(string) - 1).collect())
            .collect();
        let saddle_of = (0..count)
            .map(|string| saddles.iter().position(|on| on.contains(&string)))
            .map(|saddle| saddle.unwrap_or(0))
            .collect();
        let lifts = bridge.lifts();
        let at = Layout {
            strings: count,
            saddles: saddles.len(),
            screws: Layout::screws_of(lifts, count),
            pickups: instrument.pickups.len(),
            plate: bridge.vibrato.is_some(),
        };
        let plain = tops[count / 2].relief(Span {
            low: 1,
            high: board.frets,
            at: PLAIN_READ_AT,
        })?;
        let half = instrument.spread_bridge.middle() * 0.5;
        let mut state = Self {
            lengths: scales.iter().map(|scale| *scale + USUAL_SETBACK).collect(),
            twelfth: 12.min(board.frets),
            lifts,
            turned_round: vec![false; saddles.len()],
            saddles,
            saddle_of,
            height_pitch: bridge.saddle_screws().pitch.middle().mm(),
            post_pitch: bridge.posts().pitch.middle().mm(),
            turn_round: bridge.intonation.turn_round.mm(),
            drive_pitch: bridge.intonation.pitch.middle().mm(),
            post: half + POST_BEYOND,
            plain,
            pickups: instrument
                .pickups
                .iter()
                .map(|pickup| (pickup.before_saddle.middle(), pickup.pitch.middle()))
                .collect(),
            pickup_share: (1.0 + half.ratio(half + PICKUP_BEYOND)) / 2.0,
            sheet: bridge.vibrato.clone().map(|record| Sheet {
                carries: record.kind == crate::model::hardware::VibratoKind::BodySprings,
                record,
            }),
            filter: Filter::new(at.size()),
            at,
            across: (1..=instrument.strings)
                .map(|string| instrument.across(string))
                .collect(),
            tops,
            strings,
            lie: Lie::default(),
            last: BTreeMap::new(),
            checks: observe::Checks::default(),
            rod_way: None,
            filed: vec![false; count],
            told: false,
            assumed: false,
        };
        state.believe(instrument, given, taught);
        Ok(state)
    }

    pub(crate) fn count(&self) -> usize {
        self.tops.len()
    }

    /// Where the bass end lies: 0 for string 1, 1 for the last.
    pub(crate) fn share(&self, index: usize) -> f64 {
        self.across[index]
    }

    /// The place of a string in the state; the nearest one for numbers that none has.
    pub(crate) fn index(&self, string: u8) -> usize {
        usize::from(string.max(1) - 1).min(self.count() - 1)
    }

    /// The saddle of a string.
    pub(crate) fn saddle(&self, index: usize) -> usize {
        self.saddle_of[index]
    }

    /// The string along which a side is read.
    pub fn string_of(&self, side: Side) -> u8 {
        match side {
            Side::Treble => 1,
            Side::Bass => u8::try_from(self.count()).unwrap_or(1),
        }
    }

    /// Lays other fret tops under the strings: the same board, known to be more or less even.
    pub(crate) fn lay(&mut self, tops: Vec<FretTops>) {
        self.tops = tops;
        self.settle();
    }

    /// The fret tops under a string, counted from 1.
    pub fn tops(&self, string: u8) -> &FretTops {
        &self.tops[self.index(string)]
    }

    /// What the height screws lift.
    pub const fn lifts(&self) -> Lifts {
        self.lifts
    }

    /// Where the factor of a post stands among those of the height screws.
    pub(crate) const fn post_at(&self, side: Side) -> usize {
        match self.lifts {
            Lifts::Both => self.at.strings + side.index(),
            Lifts::EachString | Lifts::TwoPosts | Lifts::Nothing => side.index(),
        }
    }

    /// The best values now.
    pub(crate) const fn mean(&self) -> &DVector<f64> {
        &self.filter.x
    }

    /// How the plate lies at the best values.
    pub(crate) const fn lie(&self) -> &Lie {
        &self.lie
    }

    /// Takes every place as read just now, at what is predicted: nothing is asked for.
    pub(crate) fn take_as_read(&mut self) {
        self.assumed = true;
    }

    /// Whether every place counts as read.
    pub(crate) const fn is_assumed(&self) -> bool {
        self.assumed
    }

    /// A string as it lies now.
    pub fn line(&self, string: u8) -> StringLine {
        self.line_in(string, &self.filter.x, &self.lie)
    }

    pub(crate) fn line_in(&self, string: u8, x: &DVector<f64>, lie: &Lie) -> StringLine {
        let index = self.index(string);
        StringLine {
            nut: Length::from_mm(x[self.at.nut(index)]),
            saddle: Length::from_mm(self.crown(x, lie, index)),
            length: self.lengths[index],
            bend: self.bend(x, index),
        }
    }

    fn bend(&self, x: &DVector<f64>, index: usize) -> Bend {
        let bass = self.share(index);
        Bend {
            even: Curvature::from_per_metre((x[BASS] * bass + x[TREBLE] * (1.0 - bass)) * 1e-3),
            middle: Curvature::from_per_metre(x[MIDDLE] * 1e-3),
        }
    }

    /// Clearance over fret 1 and action over fret 12 of a string, with what they are uncertain by.
    pub fn heights(&self, string: u8) -> (Estimate<Length>, Estimate<Length>) {
        let at = |fret| {
            let place = Place::Action {
                string,
                fret,
                held: 0,
            };
            self.predict(place)
                .unwrap_or(Estimate::new(Length::ZERO, Length::from_mm(1.0)))
        };
        (at(1), at(self.twelfth))
    }

    /// The same as lengths, in a state.
    pub(crate) fn heights_in(&self, index: usize, x: &DVector<f64>, lie: &Lie) -> (Length, Length) {
        let string = u8::try_from(index + 1).unwrap_or(1);
        let line = self.line_in(string, x, lie);
        let over = |fret| line.action(&self.tops[index], fret).unwrap_or(Length::ZERO);
        (over(1), over(self.twelfth))
    }

    /// The last reading of a place, by any method.
    pub fn last(&self, place: Place) -> Option<&LastRead> {
        self.last.get(&place.any_method())
    }

    /// Whether any of its places was read.
    pub const fn read_any(&self) -> bool {
        self.told
    }

    /// How a relief school looks at a side of this neck.
    ///
    /// # Errors
    /// [`EstimateError`] for spans in which no gap can be.
    pub fn relief(&self, side: Side, span: Span) -> Result<Relief, EstimateError> {
        Ok(self.tops(self.string_of(side)).relief(span)?)
    }

    /// What a turn of the rod really takes away, by a relief school: millimetres, and their share of doubt.
    pub fn rod_response(&self, relief: Relief) -> (Length, f64) {
        let x = &self.filter.x;
        let even = x[ROD].exp() / self.plain.slope();
        let per_turn = even * (relief.slope() + x[ROD_MIDDLE] * relief.middle());
        (Length::from_mm(per_turn), self.filter.p[(ROD, ROD)].sqrt())
    }

    /// Relief by hold 1 and last, read 8: treble, bass.
    pub fn plain_relief(&self) -> [Estimate<Length>; 2] {
        [TREBLE, BASS].map(|side| {
            let (h, value) = self.plain_sight(side);
            Estimate::new(
                Length::from_mm(value),
                Length::from_mm(self.filter.variance_along(&h).sqrt()),
            )
        })
    }

    /// The same of one side: its slope on the state, and its value.
    fn plain_sight(&self, bend: usize) -> (DVector<f64>, f64) {
        let parts = [(bend, self.plain.slope()), (MIDDLE, self.plain.middle())];
        let h = self.filter.unit(&parts);
        let value = h.dot(&self.filter.x);
        (h, value)
    }

    pub(crate) const fn plain_slope(&self) -> f64 {
        self.plain.slope()
    }

    /// What a height screw really lifts, as a factor on its thread.
    pub fn screw_response(&self, index: usize) -> Estimate<f64> {
        let own = self.at.lift(index.min(self.at.screws.saturating_sub(1)));
        self.factor(&[(LIFTS, 1.0), (own, 1.0)])
    }

    /// A factor that is kept as shares beyond one.
    pub(crate) fn factor(&self, parts: &[(usize, f64)]) -> Estimate<f64> {
        let h = self.filter.unit(parts);
        Estimate::new(
            1.0 + h.dot(&self.filter.x),
            self.filter.variance_along(&h).sqrt(),
        )
    }

    /// How much of a post's lift reaches a string.
    pub fn post_share(&self, side: Side, string: u8) -> f64 {
        let y = self.tops(string).offset_at_bridge();
        let more = 1.0 + 2.0 * self.filter.x[layout::SHARE];
        let treble = 0.5 + y.ratio(self.post * 2.0) * more;
        match side {
            Side::Treble => treble,
            Side::Bass => 1.0 - treble,
        }
    }

    /// Thread pitch of a pickup's screws.
    pub(crate) fn pickup_pitch(&self, pickup: u8) -> Option<Length> {
        let found = self.pickups.get(usize::from(pickup));
        found.map(|(_, pitch)| *pitch)
    }
}
