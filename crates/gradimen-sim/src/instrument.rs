//! A whole instrument: board, neck, strings, saddles, plate and pickups, all of them at once.
//!
//! Along every string `x` runs from the nut edge to the bridge, `z` up from a plane through the board; what is one
//! string's reaches the others through the neck, the plate and the posts.

mod come;
mod truth;

use std::collections::BTreeMap;

use gradimen_bench::model::hardware::{HeightScrews, Lifts};
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{Side, Strung};

use crate::neck::Neck;
use crate::plate::Plate;
use crate::screw::Screw;
use crate::tools::{Hand, Ruler};
use crate::wire::Wire;
use crate::{Condition, Rng, Trap};

/// One string with its saddle.
#[derive(Debug, Clone)]
pub(crate) struct Course {
    pub(crate) wire: Wire,
    pub(crate) hertz: f64,
    /// What it pulls in tune.
    pub(crate) pull: f64,
    /// How far off its pitch the hand leaves it, as a share of its pull.
    pub(crate) off_pitch: f64,
    /// Where the bridge's scale line is along it, from its nut edge.
    pub(crate) bridge: f64,
    /// How much further back its crown went when its saddle was turned round.
    pub(crate) round: f64,
    /// Frets along it, the nut edge first, and how each stands.
    pub(crate) frets: Vec<f64>,
    pub(crate) uneven: Vec<f64>,
    /// Where its nut edge lies along the neck.
    offset: f64,
    across: (f64, f64),
    /// Height of the slot over the board there, and of the crown over its plane, the plate lying level.
    pub(crate) slot: f64,
    pub(crate) crown: f64,
    /// How far posts have lifted a plate's edge under it.
    pub(crate) lifted: f64,
    /// Behind the scale line, the plate lying level.
    pub(crate) setback: f64,
    pub(crate) drive: Screw,
    /// How much a crown rises as its saddle goes back a millimetre.
    ramp: f64,
    /// String that goes on beyond nut and saddle.
    tails: f64,
    /// How hard it is held down, usually, and how far behind the fret.
    pub(crate) finger: (f64, f64),
}

/// A pickup under the strings.
#[derive(Debug, Clone)]
pub(crate) struct Coil {
    pub(crate) before: f64,
    /// Its face under the treble and under the bass string.
    pub(crate) face: [f64; 2],
    pub(crate) screws: [Screw; 2],
    /// How far beyond the outer strings its screws stand, as a share of the spread there.
    pub(crate) beyond: f64,
    /// How far each pole stands over the face, string 1 first, and its screw where it is one.
    pub(crate) poles: Vec<(f64, Option<Screw>)>,
}

/// The instrument behind the readings.
#[derive(Debug, Clone)]
pub struct SimulatedInstrument {
    pub(crate) record: Instrument,
    pub(crate) neck: Neck,
    /// How long the pocket is that a wedge lies in.
    pub(crate) pocket: f64,
    pub(crate) courses: Vec<Course>,
    pub(crate) plate: Option<Plate>,
    /// Screws that raise each string's saddle, where it has them.
    pub(crate) lifts: Vec<Screw>,
    /// The two posts of a bridge that stands on them, treble first.
    pub(crate) posts: Option<[Screw; 2]>,
    /// How far posts stand beyond the outer strings.
    pub(crate) beyond: f64,
    pub(crate) pickups: Vec<Coil>,
    /// Where the saddles' travel really ends.
    pub(crate) travel: (f64, f64),
    /// Board radius at the nut and where the scale ends.
    radius: (f64, f64),
    pub(crate) hand: Hand,
    /// How the rod's nut turns: stiff ones are at their end.
    pub(crate) rod_hard: bool,
    /// Frets that came loose, and how far each stands up for it.
    pub(crate) loose: BTreeMap<u8, f64>,
}

impl SimulatedInstrument {
    /// The same in a hand that reads heights with a dial gauge and not with a rule.
    #[must_use]
    pub fn with_gauge(mut self) -> Self {
        self.hand.ruler = Ruler::Gauge;
        self
    }

    /// The instrument of a record, strung, as it comes. `nothing` where no claw or saddle brings it there: another seed
    /// does.
    pub fn hidden(
        record: &Instrument,
        strung: &Strung,
        condition: &Condition,
        seed: u64,
    ) -> Option<Self> {
        let mut chance = Rng::new(seed);
        let count = usize::from(record.strings);
        let pitches = strung.tuning.pitches().ok()?;
        let a4 = gradimen_core::quantity::Frequency::from_hertz(strung.tuning.a4_hz);
        let concert = gradimen_core::pitch::ConcertPitch::new(a4).ok()?;
        let mut courses = Vec::with_capacity(count);
        let foreign = match condition.trap {
            Some(Trap::ForeignNeck(scale)) => Some(scale),
            _ => None,
        };
        let moved = match condition.trap {
            Some(Trap::Bridge(by)) => by,
            _ => chance.normal(0.25),
        };
        let bass = record.kind == gradimen_bench::model::instrument::Kind::Bass;
        let (force, behind) = (chance.between(1.2, 3.0), chance.between(6.0, 10.0));
        let first = record.scale(1).mm();
        for (index, entry) in strung.set.iter().take(count).enumerate() {
            let string = u8::try_from(index + 1).ok()?;
            let named = record.scale(string).mm();
            let scale = foreign.unwrap_or(named);
            let share = if count > 1 {
                index as f64 / (count - 1) as f64
            } else {
                0.5
            };
            let lateral = |spread: f64| spread * (share - 0.5);
            let frets: Vec<f64> = (0..=record.frets)
                .map(|fret| scale * (1.0 - (-f64::from(fret) / 12.0).exp2()))
                .collect();
            // Fans are square at the seventh fret.
            let square = |scale: f64| scale * (1.0 - (-7.0f64 / 12.0).exp2());
            let wire = Wire::hidden(entry, &mut chance);
            let hertz = pitches.get(index)?.frequency(concert).hertz();
            courses.push(Course {
                pull: wire.pull_for(named, hertz),
                wire,
                hertz,
                off_pitch: 0.0,
                // A foreign neck ends where its pocket does: its frets are its own, the bridge stays where it was.
                bridge: scale / 2.0 + named / 2.0 + moved,
                round: 0.0,
                uneven: frets.iter().map(|_| chance.normal(0.010)).collect(),
                offset: square(first) - square(named),
                frets,
                across: (
                    lateral(record.spread_nut.middle().mm()),
                    lateral(record.spread_bridge.middle().mm()),
                ),
                slot: 0.0,
                crown: 0.0,
                lifted: 0.0,
                setback: 2.0,
                drive: Screw::hidden(
                    record.bridge.intonation.pitch.middle().mm(),
                    0.03,
                    0.08,
                    &mut chance,
                ),
                ramp: chance.normal(0.01),
                tails: record.bridge.behind_saddle.middle().mm() + chance.between(20.0, 120.0),
                finger: (force * if bass { 1.6 } else { 1.0 }, behind),
            });
        }
        let lifts = record.bridge.lifts();
        let screws = |count: usize, screws: HeightScrews, chance: &mut Rng| -> Vec<Screw> {
            let pitch = screws.pitch.middle().mm();
            let screw = |_| Screw::hidden(pitch, 0.03, 0.03, chance);
            (0..count).map(screw).collect()
        };
        let last = record.frets;
        let radius_end = record.radius_last_fret.middle().mm();
        let along = 1.0 / (1.0 - (-f64::from(last) / 12.0).exp2());
        let radius_nut = record.radius_nut.middle().mm();
        let joint = courses.first()?.frets[usize::from(record.neck.joint_fret)];
        let mut made = Self {
            neck: Neck::hidden(joint, &mut chance),
            // By chance of its own, so that what comes after it does not change.
            pocket: POCKET * Rng::new(seed ^ 0x90c7).factor(0.06),
            lifts: if lifts == Lifts::TwoPosts {
                Vec::new()
            } else {
                screws(count, record.bridge.saddle_screws(), &mut chance)
            },
            posts: matches!(lifts, Lifts::TwoPosts | Lifts::Both)
                .then(|| screws(2, record.bridge.posts(), &mut chance))
                .and_then(|posts| posts.try_into().ok()),
            beyond: chance.between(9.0, 14.0),
            plate: record
                .bridge
                .vibrato
                .as_ref()
                .map(|sheet| Plate::hidden(sheet, &mut chance)),
            pickups: Vec::new(),
            travel: (
                record.bridge.intonation.nearest.middle().mm() + chance.normal(0.3),
                record.bridge.intonation.furthest.middle().mm() + chance.normal(0.3),
            ),
            radius: (radius_nut, radius_nut + (radius_end - radius_nut) * along),
            hand: Hand::new(seed ^ 0x5eed),
            rod_hard: condition.trap == Some(Trap::RodSpent),
            loose: BTreeMap::new(),
            record: record.clone(),
            courses,
        };
        if made.rod_hard {
            made.neck.left = 0.0;
        }
        made.come(condition, &mut chance)?;
        Some(made)
    }

    pub(crate) fn index(&self, side: Side) -> usize {
        match side {
            Side::Treble => 0,
            Side::Bass => self.courses.len() - 1,
        }
    }

    /// From -1 at the treble to +1 at the bass.
    fn side_of(&self, index: usize) -> f64 {
        2.0 * index as f64 / (self.courses.len() - 1).max(1) as f64 - 1.0
    }

    /// Chance from here on: the same seed reads and turns the same.
    pub fn reseed(&mut self, seed: u64) {
        self.hand.chance = Rng::new(seed);
    }

    /// Some minutes go by.
    pub fn wait(&mut self, minutes: f64) {
        for _ in 0..(minutes * 4.0).clamp(1.0, 40.0) as usize {
            self.neck.settle();
        }
    }

    /// Other strings or another tuning, brought to pitch. Nothing is changed where the pitches cannot be read.
    pub fn restring(&mut self, strung: &Strung) -> Option<()> {
        let pitches = strung.tuning.pitches().ok()?;
        let a4 = gradimen_core::quantity::Frequency::from_hertz(strung.tuning.a4_hz);
        let concert = gradimen_core::pitch::ConcertPitch::new(a4).ok()?;
        if pitches.len() < self.courses.len() || strung.set.len() < self.courses.len() {
            return None;
        }
        for ((course, entry), pitch) in self.courses.iter_mut().zip(&strung.set).zip(pitches) {
            course.wire = Wire::hidden(entry, &mut self.hand.chance);
            course.hertz = pitch.frequency(concert).hertz();
        }
        self.tune();
        Some(())
    }

    /// Brings every string to pitch, as near as hands do, and lets everything settle.
    pub fn tune(&mut self) {
        for index in 0..self.courses.len() {
            self.courses[index].off_pitch = self.hand.chance.normal(0.0008);
        }
        for _ in 0..3 {
            for index in 0..self.courses.len() {
                let length = self.crown(index).0;
                let course = &mut self.courses[index];
                course.pull = course.wire.pull_for(length, course.hertz);
            }
            if let Some(mut plate) = self.plate.take() {
                plate.rest(&self.hung(&plate));
                self.plate = Some(plate);
            }
        }
        self.neck.settle();
    }
}

/// A usual pocket, in millimetres (common practice).
const POCKET: f64 = 76.0;
/// The sheet of a plate measures its crowns with the saddles about so far behind the scale line.
const EDGE_SETBACK: f64 = 2.5;
