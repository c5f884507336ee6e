//! What is known of the saddles: the state seen along the strings.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let saddle = known.known_saddles().iter().flatten().next().ok_or("a saddle")?;
//! assert_eq!(saddle.strings[0].string, 1);
//! assert!(saddle.response.sigma > 0.0, "a screw is never known beyond doubt");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Cents, Estimate, Length};
use nalgebra::DVector;

use super::EstimateError;
use super::state::layout::{DRIVES, PLUCK};
use super::state::{State, noise_of_note};
use crate::job::Job;
use crate::model::{IntonationReference, Place};

/// What is known of one string on a saddle.
#[derive(Debug, Clone, PartialEq)]
pub struct StringEstimate {
    /// Which string.
    pub string: u8,
    /// Where the saddle belongs for this string alone.
    pub ideal: Estimate<Length>,
    /// Way left behind the saddle at that place; what is common to both is no doubt about this.
    pub left: Estimate<Length>,
    /// How sharp of the octave it is to be: what its reference itself is sharp by, and what was asked for.
    pub aim: Cents,
    /// Its error at the twelfth now, against its aim.
    pub error: Estimate<Cents>,
    /// By how much its right place differs from the model's.
    pub bias: Length,
    /// One comparison of two notes scatters by this.
    pub scatter: Cents,
    /// What a pluck makes it read sharp by.
    pub plucked: Estimate<Cents>,
    /// Readings at the twelfth since the saddle last moved: the raw cents.
    pub fresh: Vec<Cents>,
    /// The last reading at the twelfth, fresh or not.
    pub last: Option<Cents>,
    /// How many readings at the twelfth these strings have had.
    pub count: usize,
}

impl StringEstimate {
    /// Mean of the readings since the saddle last moved.
    pub fn mean(&self) -> Option<Cents> {
        let count = self.fresh.len();
        (count > 0).then(|| self.fresh.iter().copied().sum::<Cents>() / count as f64)
    }
}

/// What is known of one saddle.
#[derive(Debug, Clone, PartialEq)]
pub struct SaddleEstimate {
    /// Where it stands.
    pub setback: Estimate<Length>,
    /// Whether a reading or a rule has said anything about that.
    pub placed: bool,
    /// Where a rule last found it.
    pub measured: Option<Length>,
    /// Whether the way left behind it was measured.
    pub room_read: bool,
    /// What its screw really moves it by, as a factor on its thread.
    pub response: Estimate<f64>,
    /// Front end of its travel.
    pub nearest: Length,
    /// Back end of its travel.
    pub furthest: Estimate<Length>,
    /// Way left behind it.
    pub behind: Estimate<Length>,
    /// Its strings.
    pub strings: Vec<StringEstimate>,
    /// Readings that cannot quite be right: their place in the journal, string and cents.
    pub questioned: Vec<(u64, u8, Cents)>,
    /// How many moves it has had with these strings.
    pub moves: usize,
}

impl SaddleEstimate {
    /// Whether none of its strings has been read.
    pub fn is_unread(&self) -> bool {
        self.strings.iter().all(|string| string.count == 0)
    }
}

/// What was read and moved along one string.
#[derive(Debug, Clone, PartialEq, Default)]
pub(super) struct Notes {
    pub(super) fresh: Vec<Cents>,
    pub(super) last: Option<Cents>,
    pub(super) count: usize,
    /// Its note as predicted when it was last read or told to be old.
    pub(super) stood: f64,
}

/// What happened to one saddle.
#[derive(Debug, Clone, PartialEq, Default)]
pub(super) struct Track {
    pub(super) placed: bool,
    pub(super) measured: Option<Length>,
    pub(super) room_read: bool,
    pub(super) questioned: Vec<(u64, u8, Cents)>,
    pub(super) moves: usize,
}

/// A saddle as the state has it.
pub(super) fn conclude(
    job: &Job,
    state: &State,
    saddle: usize,
    track: &Track,
    notes: &[Notes],
) -> Result<SaddleEstimate, EstimateError> {
    let (x, lie) = (state.mean(), state.lie());
    let sigma = |h: &DVector<f64>| state.filter.variance_along(h).sqrt();
    let mm = |value: f64, h: &DVector<f64>| {
        Estimate::new(Length::from_mm(value), Length::from_mm(sigma(h)))
    };
    let at = &state.at;
    let strings_on = job.instrument().bridge.saddles.get(saddle);
    let strings_on = strings_on.map_or(&[][..], Vec::as_slice);
    let lead = state.index(strings_on.first().copied().unwrap_or(1));
    let place = state.setback_in(x, lie, lead);
    let mut stands = DVector::zeros(x.len());
    state.add_setback(&mut stands, x, lie, lead, 1.0);
    let (end, own) = (at.end(saddle), at.setback(saddle));
    let behind = state.filter.unit(&[(end, 1.0), (own, -1.0)]);
    // The end of the travel stands on the plate with the saddle.
    let furthest = place + x[end] - x[own];
    let mut ends = stands.clone();
    ends += &behind;
    let mut strings = Vec::with_capacity(strings_on.len());
    for &string in strings_on {
        let index = state.index(string);
        let sight = state.sight(Place::Intonation { string, fret: 12 })?;
        let targets = job.targets();
        let reference = targets
            .intonation_reference
            .unwrap_or(IntonationReference::Harmonic);
        let aim = state.excess(index, reference.reading().computed(), x, lie)
            + targets.intonation_aim_cents.unwrap_or(0.0);
        let slope = state.cents_per_mm(index);
        let error = sight.value - aim;
        let mut right = stands.clone();
        right.axpy(-1.0 / slope, &sight.slope, 1.0);
        let mut left = ends.clone();
        left -= &right;
        let ideal = place - error / slope;
        let plucked = state.plucked(index, x);
        let noted = &notes[index];
        strings.push(StringEstimate {
            string,
            ideal: mm(ideal, &right),
            left: mm(furthest - ideal, &left),
            aim: Cents::new(aim),
            error: Estimate::new(Cents::new(error), Cents::new(sigma(&sight.slope))),
            bias: Length::from_mm(x[at.bias(index)]),
            scatter: Cents::new(noise_of_note(
                state.strings[index].finger,
                job.tuner().resolution_cents,
                false,
            )),
            plucked: Estimate::new(
                Cents::new(plucked),
                Cents::new(2.0 * plucked * state.filter.p[(PLUCK, PLUCK)].sqrt()),
            ),
            fresh: noted.fresh.clone(),
            last: noted.last,
            count: noted.count,
        });
    }
    let screws = &job.instrument().bridge.intonation;
    let travel = screws.furthest.middle() - screws.nearest.middle();
    Ok(SaddleEstimate {
        setback: mm(place, &stands),
        placed: track.placed,
        measured: track.measured,
        room_read: track.room_read,
        response: state.factor(&[(DRIVES, 1.0), (at.drive(saddle), 1.0)]),
        nearest: Length::from_mm(furthest) - travel,
        furthest: mm(furthest, &ends),
        behind: mm(x[end] - x[own], &behind),
        strings,
        questioned: track.questioned.clone(),
        moves: track.moves,
    })
}
