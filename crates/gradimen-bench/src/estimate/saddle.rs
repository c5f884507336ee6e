//! What is known of one saddle from everything that was read and turned, as a Kalman filter.
//!
//! State, in millimetres and turns: the setback `s` of the saddle, the factor `k` its screw really
//! moves it by, the setback `f` of the back end of its travel, and for each of its strings the bias
//! `b`, by which its right place differs from the model's. The error of string `i` is the
//! model's at `s - b_i`. A reading observes that, a rule observes `s` or `f - s`, a move adds
//! `k * pitch * turns` to `s`.
//!
//! | unknown | prior | why |
//! |---|---|---|
//! | s | the model's place, 3 mm | it played somehow before it came |
//! | k | 1, 0.08 | play, tilted saddles, worn threads (common practice) |
//! | f | the profile's travel, 1 mm | where a bridge was screwed on |
//! | b | 0, what the model doubts | finger, core, heights |
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

use gradimen_core::intonation::{Heights, IntonationError, Speaking, first_order_move};
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};

use super::StringState;
use super::geometry::Geometry;
use super::kalman::Filter;
use crate::job::Job;
use crate::model::{IntonationReference, Reference};

/// Something that happened to a saddle, in order.
#[derive(Debug, Clone, PartialEq)]
pub enum SaddleStep {
    /// Other strings or another tuning: readings before it speak of other strings.
    Restrung {
        /// The strings before, on this saddle, that the earlier readings speak of.
        before: Vec<StringState>,
    },
    /// A saddle's place was measured from the crown of fret 12.
    Placed {
        /// Along which string.
        string: u8,
        /// The distance; half the scale less is the setback.
        from_twelfth: Length,
        /// One standard deviation of it.
        sigma: Length,
    },
    /// Way left behind was measured.
    Room {
        /// How much.
        behind: Length,
    },
    /// A fretted note was read.
    Read {
        /// Place in the journal.
        seq: u64,
        /// Which string.
        string: u8,
        /// Which fret.
        fret: u8,
        /// How sharp.
        cents: Cents,
        /// Against what.
        against: Reference,
        /// What the tuner resolved that it was read with.
        resolution: Cents,
        /// Confirmed against a question.
        confirmed: bool,
    },
    /// Its screw was turned.
    Moved {
        /// Positive away from the neck.
        turns: Turns,
    },
    /// It was slid by hand.
    Slid {
        /// Away from the neck.
        by: Length,
    },
    /// It was turned round.
    TurnedRound,
    /// The bridge under it was moved.
    BridgeMoved {
        /// Away from the neck.
        by: Length,
    },
    /// The plate it stands on turned, by this step of the balance.
    PlateTurned(usize),
    /// Neck, nut or heights were read or moved: how the strings lie from here on is the snapshot of
    /// this number.
    Lying(usize),
}

impl SaddleStep {
    /// Whether it moves the saddle or changes its strings, so that readings before it are old.
    pub const fn moves_it(&self) -> bool {
        matches!(
            self,
            Self::Moved { .. }
                | Self::Slid { .. }
                | Self::Restrung { .. }
                | Self::TurnedRound
                | Self::BridgeMoved { .. }
                | Self::PlateTurned(_)
        )
    }
}

/// A saddle: what it carries and what happened to it.
#[derive(Debug, Clone, PartialEq)]
pub struct Saddle {
    /// Its strings, counted from 1.
    pub strings: Vec<u8>,
    /// What happened, in order.
    pub steps: Vec<SaddleStep>,
}

const PLACE_SIGMA_MM: f64 = 3.0;
const RESPONSE_SIGMA: f64 = 0.08;
const TRAVEL_SIGMA_MM: f64 = 1.0;
/// Play of a screw at each move.
const PLAY_SIGMA_MM: f64 = 0.03;
/// Turning a saddle round gains what its profile says within this.
const TURN_ROUND_SIGMA_MM: f64 = 0.3;
/// Moving a whole bridge is measured with a rule.
const BRIDGE_MOVE_SIGMA_MM: f64 = 0.2;
/// How well the way of a turning plate is predicted, as a share.
const PLATE_SHARE: f64 = 0.25;
/// Reading the way left behind a saddle with a rule.
const ROOM_SIGMA_MM: f64 = 0.25;
/// Sliding a saddle by hand along a rule.
const SLID_SIGMA_MM: f64 = 0.2;
/// One hand reading scatters by this (common practice).
pub const HAND_SCATTER: Cents = Cents::new(0.6);
/// A retuned but unchanged string keeps its bias within this share of its doubt.
const RETUNED_SHARE: f64 = 0.3;
/// A reading further off than so many standard deviations is questioned, and weighs less.
const QUESTIONED: f64 = 4.0;
/// How much wider a questioned reading is taken to be.
const QUESTIONED_WIDENING: f64 = 4.0;
/// What is known of one string on a saddle.
#[derive(Debug, Clone, PartialEq)]
pub struct StringEstimate {
    /// Which string.
    pub string: u8,
    /// Where the saddle belongs for this string alone.
    pub ideal: Estimate<Length>,
    /// Way left behind the saddle at that place; what is common to both is no doubt about this.
    pub left: Estimate<Length>,
    /// How sharp of the octave it is to be: what its reference itself is sharp by.
    pub aim: Cents,
    /// Its error at the twelfth now, against its reference.
    pub error: Estimate<Cents>,
    /// By how much its right place differs from the model's.
    pub bias: Length,
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
    /// Readings that cannot quite be right, by their place in the journal.
    pub questioned: Vec<u64>,
    /// How many moves it has had with these strings.
    pub moves: usize,
}

impl SaddleEstimate {
    /// Whether none of its strings has been read.
    pub fn is_unread(&self) -> bool {
        self.strings.iter().all(|string| string.count == 0)
    }
}

/// Places in the state: setback, response of the screw, back end of the travel, biases from there on.
const S: usize = 0;
const K: usize = 1;
const F: usize = 2;
const B: usize = 3;

/// Error of a string at the twelfth and its slope per millimetre of setback: to first order, which
/// is within a hundredth of the model's own slope and far better than readings are.
fn error_and_slope(speaking: &Speaking, at_mm: f64) -> Result<(f64, f64), IntonationError> {
    let here = speaking.error(12, Length::from_mm(at_mm))?.value();
    Ok((here, slope(speaking)))
}

fn slope(speaking: &Speaking) -> f64 {
    -1.0 / first_order_move(Cents::new(1.0), speaking.scale()).mm()
}

/// The model's right places and their doubts, string by string.
fn model(states: &[StringState]) -> Result<Vec<Estimate<Length>>, IntonationError> {
    states
        .iter()
        .map(|state| state.speaking.predicted_setback(&state.doubts))
        .collect()
}

/// What a saddle stands on: the job's facts, and what is known of everything else.
pub(super) struct Ground<'a> {
    pub(super) job: &'a Job,
    pub(super) geometry: &'a Geometry,
    pub(super) strings: &'a [StringState],
    /// How far back the break points went with each turn of the plate.
    pub(super) plate: &'a [Length],
}

/// Runs the filter over everything that happened to a saddle.
///
/// # Errors
/// [`IntonationError`] when the model has no answer for these strings.
pub(super) fn estimate(
    ground: &Ground<'_>,
    saddle: &Saddle,
) -> Result<SaddleEstimate, IntonationError> {
    let job = ground.job;
    let now: Vec<StringState> = saddle
        .strings
        .iter()
        .filter_map(|&string| ground.strings.get(usize::from(string.saturating_sub(1))))
        .cloned()
        .collect();
    // The strings each stretch of steps speaks of: those before the next restringing.
    let mut stretches: Vec<&[StringState]> = saddle
        .steps
        .iter()
        .filter_map(|step| match step {
            SaddleStep::Restrung { before } => Some(before.as_slice()),
            _ => None,
        })
        .collect();
    stretches.push(&now);
    let mut stretch = 0;
    let mut states = stretches[0];
    let mut places = model(states)?;
    let mut lying = Strung::at(ground.geometry, saddle, states, 0);

    let screws = &job.instrument().bridge.intonation;
    let pitch_mm = screws.pitch.middle().mm();
    let travel = screws.furthest.middle() - screws.nearest.middle();
    let first = saddle.strings.first().copied().unwrap_or(1);
    // A longer neck moves the scale line back under a bridge that stays where it is.
    let scale_shift = job.speaking_scale(first) - job.instrument().scale(first);
    let mut filter = Filter::new(B + states.len());
    let middle = places.iter().map(|place| place.value.mm()).sum::<f64>() / places.len() as f64;
    filter.reset(S, middle, PLACE_SIGMA_MM);
    filter.reset(K, 1.0, RESPONSE_SIGMA);
    filter.reset(
        F,
        (screws.furthest.middle() - scale_shift).mm(),
        TRAVEL_SIGMA_MM,
    );
    for (index, place) in places.iter().enumerate() {
        filter.reset(B + index, 0.0, place.sigma.mm());
    }

    let mut tally = Tally::new(states.len());
    for step in &saddle.steps {
        match step {
            SaddleStep::Restrung { .. } => {
                stretch += 1;
                let after = stretches[stretch];
                let after_places = model(after)?;
                for (index, place) in after_places.iter().enumerate() {
                    let sigma = place.sigma.mm();
                    if after[index].record == states[index].record {
                        let at = B + index;
                        filter.p[(at, at)] += (RETUNED_SHARE * sigma).powi(2);
                    } else {
                        filter.reset(B + index, 0.0, sigma);
                    }
                }
                (states, places) = (after, after_places);
                lying = Strung::at(ground.geometry, saddle, states, lying.snapshot);
                tally = Tally {
                    placed: tally.placed,
                    measured: tally.measured,
                    questioned: tally.questioned,
                    ..Tally::new(states.len())
                };
            }
            SaddleStep::Placed {
                string,
                from_twelfth,
                sigma,
            } => {
                let setback = job.setback_at(*string, *from_twelfth);
                let h = filter.unit(&[(S, 1.0)]);
                let innovation = setback.mm() - filter.x[S];
                filter.observe(&h, innovation, sigma.mm().powi(2));
                tally.placed = true;
                tally.measured = Some(setback);
            }
            SaddleStep::Room { behind } => {
                let h = filter.unit(&[(F, 1.0), (S, -1.0)]);
                let innovation = behind.mm() - (filter.x[F] - filter.x[S]);
                filter.observe(&h, innovation, ROOM_SIGMA_MM.powi(2));
            }
            SaddleStep::Read {
                seq,
                string,
                fret: 12,
                cents,
                against,
                resolution,
                confirmed,
            } => {
                let noise =
                    HAND_SCATTER.value().powi(2) + resolution.value() * resolution.value() / 3.0;
                let Some(index) = saddle.strings.iter().position(|on| on == string) else {
                    continue;
                };
                let place = filter.x[S] - filter.x[B + index];
                let speaking = &lying.speaking[index];
                let (expected, slope) = error_and_slope(speaking, place)?;
                let read =
                    speaking.true_error(12, *cents, against.computed(), Length::from_mm(place))?;
                let h = filter.unit(&[(S, slope), (B + index, -slope)]);
                let innovation = read.value() - expected;
                let spread = (filter.variance_along(&h) + noise).sqrt();
                let doubted = *confirmed || innovation.abs() > QUESTIONED * spread;
                if doubted {
                    tally.questioned.push(*seq);
                }
                let widening = if doubted {
                    QUESTIONED_WIDENING.powi(2)
                } else {
                    1.0
                };
                filter.observe(&h, innovation, noise * widening);
                tally.placed = true;
                tally.fresh[index].push(*cents);
                tally.last[index] = Some(*cents);
                tally.count[index] += 1;
            }
            SaddleStep::Read { .. } => {}
            SaddleStep::Moved { turns } => {
                let nominal = pitch_mm * turns.value();
                filter.carry(S, K, filter.x[K] * nominal, nominal);
                filter.p[(S, S)] += PLAY_SIGMA_MM.powi(2);
                tally.moved();
                tally.moves += 1;
            }
            SaddleStep::Slid { by } => {
                filter.x[S] += by.mm();
                filter.p[(S, S)] += SLID_SIGMA_MM.powi(2);
                tally.moved();
                tally.moves += 1;
            }
            SaddleStep::TurnedRound => {
                let gain = screws.turn_round.mm();
                filter.x[S] += gain;
                filter.x[F] += gain;
                filter.p[(S, S)] += TURN_ROUND_SIGMA_MM.powi(2);
                filter.p[(F, F)] += TURN_ROUND_SIGMA_MM.powi(2);
                tally.moved();
            }
            SaddleStep::BridgeMoved { by } => {
                for index in [S, F] {
                    filter.x[index] += by.mm();
                }
                // Both go together: the way left behind is not touched.
                let both = filter.unit(&[(S, 1.0), (F, 1.0)]);
                filter.p += &both * both.transpose() * BRIDGE_MOVE_SIGMA_MM.powi(2);
                tally.moved();
            }
            SaddleStep::PlateTurned(index) => {
                let back = ground.plate.get(*index).map_or(0.0, |back| back.mm());
                for at in [S, F] {
                    filter.x[at] += back;
                }
                let both = filter.unit(&[(S, 1.0), (F, 1.0)]);
                filter.p += &both * both.transpose() * (back * PLATE_SHARE).powi(2);
                tally.moved();
            }
            SaddleStep::Lying(snapshot) => {
                lying.go_to(ground.geometry, *snapshot, &mut filter, &mut tally)?;
            }
        }
    }
    let aim = job.targets().intonation_reference;
    conclude(saddle, states, &places, &filter, tally, travel, aim)
}

/// The strings of a saddle as they lie.
struct Strung {
    snapshot: usize,
    strings: Vec<u8>,
    speaking: Vec<Speaking>,
    /// The error last worked out, and the place it was worked out for.
    known: Vec<Option<(f64, f64)>>,
}

/// Heights that differ by less change no pitch that a tuner can show.
const SAME_HEIGHT: Length = Length::from_mm(0.01);

impl Strung {
    fn at(geometry: &Geometry, saddle: &Saddle, states: &[StringState], snapshot: usize) -> Self {
        let mut lying = Self {
            snapshot,
            strings: saddle.strings.clone(),
            speaking: states.iter().map(|state| state.speaking).collect(),
            known: vec![None; states.len()],
        };
        for index in 0..lying.speaking.len() {
            lying.speaking[index] = lying.laid(geometry, index, snapshot);
        }
        lying
    }

    fn laid(&self, geometry: &Geometry, index: usize, snapshot: usize) -> Speaking {
        let string = usize::from(self.strings[index].saturating_sub(1));
        let heights = geometry
            .snapshots()
            .get(snapshot)
            .and_then(|lies| lies.heights.get(string));
        heights.map_or(self.speaking[index], |(first, twelfth)| {
            self.speaking[index].with_heights(Heights::bounded(*first, *twelfth))
        })
    }

    /// Neck, nut or heights are otherwise from here on. What was only *learned* of them leaves a
    /// fretted note that was read where it is, so the bias of its string gives way; what *moved*
    /// them shifts it.
    fn go_to(
        &mut self,
        geometry: &Geometry,
        snapshot: usize,
        filter: &mut Filter,
        tally: &mut Tally,
    ) -> Result<(), IntonationError> {
        let learned = geometry
            .snapshots()
            .get(snapshot)
            .is_some_and(|lies| lies.learned);
        self.snapshot = snapshot;
        for index in 0..self.speaking.len() {
            let (was, now) = (self.speaking[index], self.laid(geometry, index, snapshot));
            let differs = |a: Length, b: Length| (a - b).abs() > SAME_HEIGHT;
            if !differs(was.heights().twelfth(), now.heights().twelfth())
                && !differs(was.heights().first_fret(), now.heights().first_fret())
            {
                continue;
            }
            self.speaking[index] = now;
            if tally.count[index] == 0 {
                continue;
            }
            let place = filter.x[S] - filter.x[B + index];
            let error = |speaking: &Speaking| speaking.error(12, Length::from_mm(place));
            let before = match self.known[index] {
                Some((at, error)) if at == place => error,
                _ => error(&was)?.value(),
            };
            let after = error(&now)?.value();
            if learned {
                filter.x[B + index] += (after - before) / slope(&now);
                self.known[index] = Some((filter.x[S] - filter.x[B + index], before));
            } else {
                tally.shifted(index, Cents::new(after - before));
                self.known[index] = Some((place, after));
            }
        }
        Ok(())
    }
}

/// Counts kept beside the filter.
struct Tally {
    placed: bool,
    measured: Option<Length>,
    fresh: Vec<Vec<Cents>>,
    last: Vec<Option<Cents>>,
    count: Vec<usize>,
    questioned: Vec<u64>,
    moves: usize,
    shift: Vec<Cents>,
}

impl Tally {
    fn new(strings: usize) -> Self {
        Self {
            placed: false,
            measured: None,
            fresh: vec![Vec::new(); strings],
            last: vec![None; strings],
            count: vec![0; strings],
            questioned: Vec::new(),
            moves: 0,
            shift: vec![Cents::ZERO; strings],
        }
    }

    /// A fretted note went elsewhere with its heights: too far to be carried, it is read again.
    fn shifted(&mut self, index: usize, by: Cents) {
        self.shift[index] += by;
        if self.shift[index].abs() > HAND_SCATTER {
            self.fresh[index].clear();
            self.shift[index] = Cents::ZERO;
        }
    }

    fn moved(&mut self) {
        self.fresh.iter_mut().for_each(Vec::clear);
    }
}

fn conclude(
    saddle: &Saddle,
    states: &[StringState],
    places: &[Estimate<Length>],
    filter: &Filter,
    tally: Tally,
    travel: Length,
    aim: Option<IntonationReference>,
) -> Result<SaddleEstimate, IntonationError> {
    let sigma = |parts: &[(usize, f64)]| filter.variance_along(&filter.unit(parts)).max(0.0).sqrt();
    let mm = |value: f64, sigma: f64| Estimate::new(Length::from_mm(value), Length::from_mm(sigma));
    let mut strings = Vec::with_capacity(states.len());
    for (index, state) in states.iter().enumerate() {
        let bias = filter.x[B + index];
        let (error, slope) = error_and_slope(&state.speaking, filter.x[S] - bias)?;
        // True to the harmonic a fretted twelfth stands a little sharp of the octave, and its saddle a
        // little nearer to the neck.
        let aim = match aim {
            Some(IntonationReference::Harmonic) => {
                state.speaking.harmonic_excess(places[index].value).value()
            }
            Some(IntonationReference::Octave) | None => 0.0,
        };
        let ideal = places[index].value.mm() + bias + aim / slope;
        strings.push(StringEstimate {
            string: saddle.strings[index],
            ideal: mm(ideal, sigma(&[(B + index, 1.0)])),
            left: mm(filter.x[F] - ideal, sigma(&[(F, 1.0), (B + index, -1.0)])),
            aim: Cents::new(aim),
            error: Estimate::new(
                Cents::new(error - aim),
                Cents::new(sigma(&[(S, slope), (B + index, -slope)])),
            ),
            bias: Length::from_mm(bias),
            fresh: tally.fresh[index].clone(),
            last: tally.last[index],
            count: tally.count[index],
        });
    }
    Ok(SaddleEstimate {
        setback: mm(filter.x[S], sigma(&[(S, 1.0)])),
        placed: tally.placed,
        measured: tally.measured,
        response: Estimate::new(filter.x[K], sigma(&[(K, 1.0)])),
        nearest: Length::from_mm(filter.x[F]) - travel,
        furthest: mm(filter.x[F], sigma(&[(F, 1.0)])),
        behind: mm(filter.x[F] - filter.x[S], sigma(&[(F, 1.0), (S, -1.0)])),
        strings,
        questioned: tally.questioned,
        moves: tally.moves,
    })
}
