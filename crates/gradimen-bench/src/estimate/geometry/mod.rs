//! What is known of neck, nut and heights from everything that was read and turned: one Kalman
//! filter over the whole bench.
//!
//! All forward models of [`gradimen_core::neck`] and [`gradimen_core::action`] are linear in the
//! state, so one filter holds them together: a relief reading says something of every action, an
//! action of the relief, and a turn of the rod moves all of them.
//!
//! State, in millimetres and thousandths per metre:
//!
//! | unknown | prior | why |
//! |---|---|---|
//! | bend of bass and treble side | 0.20 mm of relief, 0.25; sides differ by 0.10 | necks as they come (common practice) |
//! | logarithm of the rod's response | 0.6 mm a turn, factor 1.75 | one neck moves 0.25 mm on a quarter turn, another needs much more (common practice) |
//! | height of every nut slot | nothing, then what intake gave | |
//! | height of every saddle | nothing, then what intake gave | |
//! | height of every pickup at both sides | nothing | |
//! | what each height screw really lifts | 1, 0.05 | play, lean, worn threads (common practice) |
//!
//! Relief here is by holding 1 and the last fret and reading the 8th. A setback of a few
//! millimetres tilts a string by hundredths of a millimetre at the twelfth and is left out.
//! Heights tell the pitch of a fretted note, but a pitch tells next to nothing of a height: the
//! saddle filters of [`super::saddle`] take heights from here and give none back.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let [treble, bass] = known.geometry().plain_relief();
//! assert!(treble.sigma.mm() > 0.0 && bass.value.mm() > -0.2);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod moves;
mod sights;
mod steps;

pub(crate) use steps::seen_relief;

use std::collections::BTreeMap;

use gradimen_core::action::StringLine;
use gradimen_core::neck::{FretTops, Relief, Span};
use gradimen_core::quantity::{Curvature, Estimate, Length};
use nalgebra::DVector;

use super::EstimateError;
use super::kalman::Filter;
use crate::model::hardware::Lifts;
use crate::model::instrument::{Instrument, InstrumentError};
use crate::model::{Measurement, Place, Side};

/// Relief by hold 1 and last, read 8: what the priors are stated in.
const PLAIN_READ_AT: u8 = 8;
const BEND_MM: f64 = 0.20;
const BEND_SIGMA_MM: f64 = 0.25;
const SIDES_SIGMA_MM: f64 = 0.10;
/// Relief a full turn takes away.
const ROD_MM_PER_TURN: f64 = 0.6;
const ROD_LOG_SIGMA: f64 = 0.55;
const SCREW_SIGMA: f64 = 0.05;
/// Where strings lie before anything is said of them: so wide that heights that are only assumed at
/// intake say nothing of the neck's bend.
const NUT_UNKNOWN_MM: (f64, f64) = (0.6, 10.0);
const SADDLE_UNKNOWN_MM: (f64, f64) = (3.0, 40.0);
/// Faces of pickups, over the plane of the fret tops.
const PICKUP_UNKNOWN_MM: (f64, f64) = (0.0, 5.0);
/// From nut to crown, beyond the scale: what saddles usually stand back by.
const USUAL_SETBACK: Length = Length::from_mm(3.0);
/// Posts stand so far outside the outer strings (common practice: 74 mm between them).
const POST_BEYOND: Length = Length::from_mm(10.5);

/// How a reading hangs on the state: `value = slope . x + rest`, in millimetres.
#[derive(Debug, Clone, PartialEq)]
pub struct LinearView {
    pub(crate) slope: DVector<f64>,
    pub(crate) rest: f64,
}

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
    /// How it was read.
    pub sight: LinearView,
}

/// Where all strings lie after one step.
#[derive(Debug, Clone, PartialEq)]
pub struct Snapshot {
    /// Whether something was learned, or something moved.
    pub learned: bool,
    /// Clearance over fret 1 and action over fret 12, string by string.
    pub heights: Vec<(Length, Length)>,
    /// The gap over the middle of every pickup.
    pub pickups: Vec<Length>,
}

/// What is known of neck, nut and heights.
#[derive(Debug, Clone, PartialEq)]
pub struct Geometry {
    tops: Vec<FretTops>,
    lengths: Vec<Length>,
    lifts: Lifts,
    screw_pitch: Length,
    /// Distance of a post from the centre line.
    post: Length,
    plain_slope: f64,
    /// How far before the scale line the poles of each pickup lie, and the pitch of its screws.
    pickups: Vec<(Length, Length)>,
    pub(crate) filter: Filter,
    twelfth: u8,
    pub(crate) first: Vec<LinearView>,
    pub(crate) middle: Vec<LinearView>,
    /// Treble and bass side of every pickup.
    faces: Vec<[LinearView; 2]>,
    snapshots: Vec<Snapshot>,
    last: BTreeMap<Place, LastRead>,
    /// Moves each adjuster has had.
    pub(crate) rod_moves: usize,
    /// Whether the slot of each string has been under the file.
    pub(crate) filed: Vec<bool>,
    /// Whether a station has read anything.
    told: bool,
}

pub(crate) const BASS: usize = 0;
pub(crate) const TREBLE: usize = 1;
const ROD: usize = 2;
const REST: usize = 3;

impl Geometry {
    /// Before anything is known. Scales are those the frets were cut to, string by string.
    ///
    /// # Errors
    /// [`EstimateError`] for an instrument whose record cannot be.
    pub fn new(instrument: &Instrument, scales: &[Length]) -> Result<Self, EstimateError> {
        let board = instrument.board()?;
        let tops = scales
            .iter()
            .enumerate()
            .map(|(index, scale)| {
                FretTops::new(&board, *scale, index).map_err(InstrumentError::from)
            })
            .collect::<Result<Vec<_>, _>>()?;
        let lifts = instrument.bridge.lifts();
        let count = tops.len();
        let screws = match lifts {
            Lifts::EachString => count,
            Lifts::TwoPosts => 2,
        };
        let plain = Span {
            low: 1,
            high: board.frets,
            at: PLAIN_READ_AT,
        };
        let middle = &tops[count / 2];
        let plain_slope = middle.relief(plain)?.slope();
        let pickups: Vec<(Length, Length)> = instrument
            .pickups
            .iter()
            .map(|pickup| (pickup.before_saddle.middle(), pickup.pitch.middle()))
            .collect();
        let mut filter = Filter::new(REST + 2 * count + screws + 2 * pickups.len());
        let (bend, sigma, apart) = (
            BEND_MM / plain_slope,
            BEND_SIGMA_MM / plain_slope,
            SIDES_SIGMA_MM / plain_slope / 2.0,
        );
        for side in [BASS, TREBLE] {
            filter.reset(side, bend, sigma.hypot(apart));
        }
        let together = sigma * sigma - apart * apart;
        filter.p[(BASS, TREBLE)] = together;
        filter.p[(TREBLE, BASS)] = together;
        filter.reset(ROD, ROD_MM_PER_TURN.ln(), ROD_LOG_SIGMA);
        for index in 0..count {
            filter.reset(REST + index, NUT_UNKNOWN_MM.0, NUT_UNKNOWN_MM.1);
            filter.reset(
                REST + count + index,
                SADDLE_UNKNOWN_MM.0,
                SADDLE_UNKNOWN_MM.1,
            );
        }
        for index in 0..screws {
            filter.reset(REST + 2 * count + index, 1.0, SCREW_SIGMA);
        }
        for index in 0..2 * pickups.len() {
            let at = REST + 2 * count + screws + index;
            filter.reset(at, PICKUP_UNKNOWN_MM.0, PICKUP_UNKNOWN_MM.1);
        }
        let post = instrument.spread_bridge.middle() * 0.5 + POST_BEYOND;
        let mut geometry = Self {
            lengths: scales.iter().map(|scale| *scale + USUAL_SETBACK).collect(),
            twelfth: 12.min(board.frets),
            lifts,
            screw_pitch: instrument.bridge.height.pitch.middle(),
            post,
            plain_slope,
            pickups,
            filter,
            tops,
            first: Vec::new(),
            middle: Vec::new(),
            faces: Vec::new(),
            snapshots: Vec::new(),
            last: BTreeMap::new(),
            rod_moves: 0,
            filed: vec![false; count],
            told: false,
        };
        for string in 1..=instrument.strings {
            geometry.first.push(geometry.action_sight(string, 0, 1)?);
            let twelfth = geometry.action_sight(string, 0, geometry.twelfth)?;
            geometry.middle.push(twelfth);
        }
        for pickup in (0_u8..).take(geometry.pickups.len()) {
            let [treble, bass] = Side::ALL.map(|side| geometry.pickup_sight(pickup, side));
            geometry.faces.push([treble?, bass?]);
        }
        Ok(geometry)
    }

    pub(crate) fn count(&self) -> usize {
        self.tops.len()
    }

    /// Where the bass end lies: 0 for string 1, 1 for the last.
    pub(crate) fn share(&self, index: usize) -> f64 {
        index as f64 / self.count().saturating_sub(1).max(1) as f64
    }

    /// The place of a string in the state; the nearest one for numbers that none has.
    pub(crate) fn at(&self, string: u8) -> usize {
        usize::from(string.max(1) - 1).min(self.count() - 1)
    }

    pub(crate) const fn nut(index: usize) -> usize {
        REST + index
    }

    pub(crate) fn saddle(&self, index: usize) -> usize {
        REST + self.count() + index
    }

    fn screw(&self, index: usize) -> usize {
        REST + 2 * self.count() + index
    }

    /// The string along which a side is read.
    pub fn string_of(&self, side: Side) -> u8 {
        match side {
            Side::Treble => 1,
            Side::Bass => u8::try_from(self.count()).unwrap_or(1),
        }
    }

    /// The fret tops under a string, counted from 1.
    pub fn tops(&self, string: u8) -> &FretTops {
        &self.tops[usize::from(string.max(1) - 1).min(self.count() - 1)]
    }

    /// Takes every place as read just now, at what is predicted.
    pub(crate) fn take_as_read(&mut self) {
        let mut places: Vec<(Place, Option<LinearView>)> = Vec::new();
        for string in 1..=u8::try_from(self.count()).unwrap_or(0) {
            places.push((
                Place::Nut { string, held: 0 },
                self.action_sight(string, 0, 1).ok(),
            ));
            places.push((
                Place::Action {
                    string,
                    fret: 0,
                    held: 0,
                },
                self.action_sight(string, 0, self.twelfth).ok(),
            ));
        }
        for side in Side::ALL {
            places.push((self.relief_place(side), Some(self.zero())));
        }
        for (place, sight) in places {
            let Some(sight) = sight else { continue };
            let taken = LastRead {
                written: String::new(),
                value: None,
                fresh: usize::MAX,
                drift: Length::ZERO,
                sight,
            };
            let last = self.last.entry(place).or_insert(taken);
            last.fresh = usize::MAX;
            last.drift = Length::ZERO;
        }
    }

    /// The gap over the middle of a pickup after one of the steps.
    pub fn pickup_gap_at(&self, pickup: u8, snapshot: usize) -> Option<Length> {
        self.snapshots
            .get(snapshot)?
            .pickups
            .get(usize::from(pickup))
            .copied()
    }

    /// Thread pitch of a pickup's screws.
    pub(crate) fn pickup_pitch(&self, pickup: u8) -> Option<Length> {
        self.pickups
            .get(usize::from(pickup))
            .map(|(_, pitch)| *pitch)
    }

    /// The best values now.
    pub(crate) const fn mean(&self) -> &DVector<f64> {
        &self.filter.x
    }

    /// What a sight would read now.
    pub fn predict(&self, sight: &LinearView) -> Estimate<Length> {
        Estimate::new(
            self.look(sight, &self.filter.x),
            Length::from_mm(self.filter.variance_along(&sight.slope).sqrt()),
        )
    }

    pub(crate) fn look(&self, sight: &LinearView, x: &DVector<f64>) -> Length {
        Length::from_mm(sight.slope.dot(x) + sight.rest)
    }

    /// A string as it lies now.
    pub fn line(&self, string: u8) -> StringLine {
        self.line_in(string, &self.filter.x)
    }

    pub(crate) fn line_in(&self, string: u8, x: &DVector<f64>) -> StringLine {
        let index = usize::from(string.max(1) - 1).min(self.count() - 1);
        let bass = self.share(index);
        let bend = x[BASS] * bass + x[TREBLE] * (1.0 - bass);
        StringLine {
            nut: Length::from_mm(x[Self::nut(index)]),
            saddle: Length::from_mm(x[self.saddle(index)]),
            length: self.lengths[index],
            curvature: Curvature::from_per_metre(bend * 1e-3),
        }
    }

    /// Clearance over fret 1 and action over fret 12 of a string, with what they are uncertain by.
    pub fn heights(&self, string: u8) -> (Estimate<Length>, Estimate<Length>) {
        let index = usize::from(string.max(1) - 1).min(self.count() - 1);
        (
            self.predict(&self.first[index]),
            self.predict(&self.middle[index]),
        )
    }

    /// The last reading of a place.
    pub fn last(&self, place: Place) -> Option<&LastRead> {
        self.last.get(&place.any_method())
    }

    /// What a turn of the rod really takes away, by a relief sight: millimetres, and their share of
    /// doubt.
    pub fn rod_response(&self, relief: Relief) -> (Length, f64) {
        let per_turn = self.filter.x[ROD].exp() / self.plain_slope * relief.slope();
        (Length::from_mm(per_turn), self.filter.p[(ROD, ROD)].sqrt())
    }

    /// Relief by hold 1 and last, read 8: treble, bass.
    pub fn plain_relief(&self) -> [Estimate<Length>; 2] {
        [TREBLE, BASS].map(|side| {
            Estimate::new(
                Length::from_mm(self.filter.x[side] * self.plain_slope),
                Length::from_mm(self.filter.p[(side, side)].sqrt() * self.plain_slope),
            )
        })
    }

    pub(crate) const fn plain_slope(&self) -> f64 {
        self.plain_slope
    }

    pub(crate) const fn rod_play_mm(&self) -> f64 {
        moves::ROD_PLAY_MM
    }

    /// A sight that sees nothing.
    pub(crate) fn zero(&self) -> LinearView {
        LinearView {
            slope: self.filter.unit(&[]),
            rest: 0.0,
        }
    }

    /// What a height screw really lifts, as a factor on its thread.
    pub fn screw_response(&self, index: usize) -> Estimate<f64> {
        let at = self.screw(index);
        Estimate::new(self.filter.x[at], self.filter.p[(at, at)].sqrt())
    }

    /// How many places each station has read.
    pub fn read_any(&self) -> bool {
        self.told
    }

    /// Where all strings lay after each step.
    pub fn snapshots(&self) -> &[Snapshot] {
        &self.snapshots
    }

    /// What the height screws lift.
    pub const fn lifts(&self) -> Lifts {
        self.lifts
    }

    /// Relief of a side, by any method.
    pub(crate) const fn relief_place(&self, side: Side) -> Place {
        Place::Relief {
            side,
            span: crate::model::ReliefSpan {
                low: 0,
                high: 0,
                at: 0,
            },
        }
    }

    /// How much of a post's lift reaches a string.
    pub fn post_share(&self, side: Side, string: u8) -> f64 {
        let y = self.tops(string).offset_at_bridge();
        let treble = (y + self.post).ratio(self.post * 2.0);
        match side {
            Side::Treble => treble,
            Side::Bass => 1.0 - treble,
        }
    }
}
