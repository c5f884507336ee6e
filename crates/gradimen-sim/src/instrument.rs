//! A whole instrument: board, neck, strings, saddles, plate and pickups, all of them at once.
//!
//! Along every string `x` runs from the nut edge to the bridge, `z` up from a plane through the board; what is one
//! string's reaches the others through the neck, the plate and the posts.

use std::collections::BTreeMap;

use gradimen_bench::model::hardware::Lifts;
use gradimen_bench::model::instrument::Instrument;
use gradimen_bench::model::{ReliefSpan, Side, Strung};

use crate::neck::Neck;
use crate::path::{self, Point};
use crate::plate::{Hung, Plate};
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
    bridge: f64,
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
    pub(crate) courses: Vec<Course>,
    pub(crate) plate: Option<Plate>,
    /// Screws that raise: one for each string, or two posts, treble first.
    pub(crate) lifts: Vec<Screw>,
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
        let two_posts = record.bridge.lifts() == Lifts::TwoPosts;
        let screws = if two_posts { 2 } else { count };
        let pitch = record.bridge.height.pitch.middle().mm();
        let last = record.frets;
        let radius_end = record.radius_last_fret.middle().mm();
        let along = 1.0 / (1.0 - (-f64::from(last) / 12.0).exp2());
        let radius_nut = record.radius_nut.middle().mm();
        let joint = courses.first()?.frets[usize::from(record.neck.joint_fret)];
        let mut made = Self {
            neck: Neck::hidden(joint, &mut chance),
            lifts: (0..screws)
                .map(|_| Screw::hidden(pitch, 0.03, 0.03, &mut chance))
                .collect(),
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

    /// Sets everything so that it reads as the condition has it.
    fn come(&mut self, condition: &Condition, chance: &mut Rng) -> Option<()> {
        let span = ReliefSpan {
            low: 1,
            high: self.record.frets,
            at: 8,
        };
        let bass = self.record.kind == gradimen_bench::model::instrument::Kind::Bass;
        let turn = if bass {
            chance.between(0.25, 0.9)
        } else {
            chance.between(0.3, 1.1)
        };
        let own = if self.lifts.len() == 2 { 0.05 } else { 0.15 };
        let [first, twelfth] = condition.scatter_mm.unwrap_or([0.03, own]);
        let lies: Vec<(f64, f64)> = (0..self.courses.len())
            .map(|index| {
                let share = index as f64 / (self.courses.len() - 1).max(1) as f64;
                let action =
                    condition.action_mm[0] * (1.0 - share) + condition.action_mm[1] * share;
                let nut = condition.nut_mm + chance.normal(first);
                (nut, action + chance.normal(twelfth))
            })
            .collect();
        // Neck, plate and saddles all bear on each other: each is brought there a few times.
        for _ in 0..3 {
            let mut neck = self.neck.clone();
            neck.begin(condition.relief_mm, turn, |neck| {
                Side::ALL.map(|side| self.relief_of(neck, side, span))
            });
            self.neck = neck;
            for (index, (nut, action)) in lies.iter().enumerate() {
                self.lay(index, *nut, *action);
            }
            for _ in 0..3 {
                let Some(mut plate) = self.plate.take() else {
                    break;
                };
                let hung = self.hung(&plate);
                if !plate.begin(&hung, condition.gap_mm) {
                    return None;
                }
                self.plate = Some(plate);
                for (index, (nut, action)) in lies.iter().enumerate() {
                    self.lay(index, *nut, *action);
                }
            }
            if condition.fitted {
                self.fit()?;
            }
            for index in 0..self.courses.len() {
                let right = self.right_setback(index)?;
                let off = condition.saddles_mm[index % condition.saddles_mm.len()];
                let (near, far) = self.travel;
                // What its saddle cannot reach cannot be set: another instrument.
                if condition.trap.is_none() && !(near + REACH..far - REACH).contains(&right) {
                    return None;
                }
                self.courses[index].setback = (right + off).clamp(near, far);
            }
            // Two strings on one saddle stand in one place.
            for group in self.record.bridge.saddles.clone() {
                let first = self.courses[usize::from(group[0] - 1)].setback;
                for string in &group[1..] {
                    self.courses[usize::from(string - 1)].setback = first;
                }
            }
            self.tune();
        }
        // A plate that does not stay where it was balanced was never balanced.
        if self
            .gap()
            .is_some_and(|gap| (gap - condition.gap_mm).abs() > STAYS)
        {
            return None;
        }
        for pickup in self.record.pickups.clone() {
            let before = pickup.before_saddle.middle().mm();
            let pitch = pickup.pitch.middle().mm();
            let wanted = [chance.between(1.2, 3.4), chance.between(1.5, 3.6)];
            let mut coil = Coil {
                before,
                face: [0.0; 2],
                screws: [(); 2].map(|()| Screw::hidden(pitch, 0.04, 0.05, chance)),
                beyond: chance.between(0.15, 0.3),
                poles: (0..self.courses.len())
                    .map(|_| {
                        let pole = pickup
                            .pole_pitch
                            .as_ref()
                            .map(|pitch| Screw::hidden(pitch.middle().mm(), 0.04, 0.05, chance));
                        let off = if pole.is_some() {
                            chance.normal(0.3)
                        } else {
                            0.0
                        };
                        (off, pole)
                    })
                    .collect(),
            };
            for side in Side::ALL {
                let over = self.over_pickup(&coil, self.index(side));
                coil.face[side.index()] = over - wanted[side.index()];
            }
            self.pickups.push(coil);
        }
        Some(())
    }

    /// Sets the bridge back or forward so that its saddles reach, where some do not: whoever drilled its holes had the strings on.
    fn fit(&mut self) -> Option<()> {
        let (near, far) = self.travel;
        let mut rights = Vec::with_capacity(self.courses.len());
        for index in 0..self.courses.len() {
            rights.push(self.right_setback(index)?);
        }
        let furthest = rights.iter().copied().fold(f64::MIN, f64::max);
        let nearest = rights.iter().copied().fold(f64::MAX, f64::min);
        let behind = (furthest - (far - FITTED)).max(0.0);
        let before = (near + FITTED - nearest).max(0.0);
        for course in &mut self.courses {
            course.bridge += behind - before;
        }
        Some(())
    }

    /// Lays a string over frets 1 and 12 as it is wanted.
    fn lay(&mut self, index: usize, first: f64, twelfth: f64) {
        for _ in 0..8 {
            self.courses[index].slot += first - self.height(index, 0, 1);
            self.courses[index].crown += 2.0 * (twelfth - self.height(index, 0, 12));
        }
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

    /// How much all strings pull.
    pub(crate) fn pull(&self) -> f64 {
        self.courses.iter().map(|course| course.pull).sum()
    }

    /// Fret tops and the slot's foot, over the plane of the board.
    fn tops_of(&self, neck: &Neck, index: usize) -> Vec<f64> {
        let course = &self.courses[index];
        let places: Vec<f64> = course.frets.iter().map(|x| x + course.offset).collect();
        let bent = neck.bent(&places, self.pull(), self.side_of(index));
        let end = course.bridge;
        course
            .frets
            .iter()
            .zip(bent)
            .zip(&course.uneven)
            .map(|((x, bent), uneven)| {
                let share = x / end;
                let across = course.across.0 + (course.across.1 - course.across.0) * share;
                let radius = self.radius.0 + (self.radius.1 - self.radius.0) * share;
                // A cylinder there falls off to the sides.
                let falls = radius - (radius * radius - across * across).sqrt();
                bent + uneven - falls
            })
            .collect()
    }

    pub(crate) fn tops(&self, index: usize) -> Vec<f64> {
        self.tops_of(&self.neck, index)
    }

    fn relief_of(&self, neck: &Neck, side: Side, span: ReliefSpan) -> f64 {
        let index = self.index(side);
        let tops = self.tops_of(neck, index);
        let [low, high, at] = [span.low, span.high, span.at].map(usize::from);
        let x = &self.courses[index].frets;
        let share = (x[at] - x[low]) / (x[high] - x[low]);
        tops[low] + (tops[high] - tops[low]) * share - tops[at]
    }

    /// Relief, truly.
    pub fn relief(&self, side: Side, span: ReliefSpan) -> f64 {
        self.relief_of(&self.neck, side, span)
    }

    /// A crown: along the string from the nut edge, and up.
    pub(crate) fn crown(&self, index: usize) -> Point {
        let course = &self.courses[index];
        match &self.plate {
            Some(plate) if plate.carries() => {
                let sheet = self.record.bridge.vibrato.as_ref();
                let edge_up = sheet.map_or(0.0, |sheet| sheet.crown_up.middle().mm());
                let edge_back = sheet.map_or(0.0, |sheet| sheet.crown_back.middle().mm());
                let (back, up) = plate.crown((
                    edge_back + course.setback - EDGE_SETBACK,
                    edge_up + course.crown + course.ramp * course.setback,
                ));
                (
                    course.bridge + back - edge_back + EDGE_SETBACK,
                    up - edge_up + course.lifted,
                )
            }
            _ => (
                course.bridge + course.setback,
                course.crown + course.ramp * course.setback,
            ),
        }
    }

    fn hung(&self, plate: &Plate) -> Vec<Hung> {
        let sheet = self.record.bridge.vibrato.as_ref();
        let up = sheet.map_or(0.0, |sheet| sheet.crown_up.middle().mm());
        let back = sheet.map_or(0.0, |sheet| sheet.crown_back.middle().mm());
        self.courses
            .iter()
            .map(|course| {
                let crown = if plate.carries() {
                    (
                        back + course.setback - EDGE_SETBACK,
                        up + course.crown + course.ramp * course.setback,
                    )
                } else {
                    (back, up)
                };
                Hung {
                    crown,
                    nut: (-course.bridge, up - course.lifted),
                    pull: course.pull * (1.0 + course.off_pitch),
                }
            })
            .collect()
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

    /// The string from its slot to its crown, over the frets.
    pub(crate) fn line(&self, index: usize, tops: &[f64]) -> Vec<Point> {
        let course = &self.courses[index];
        let crown = self.crown(index);
        let mut points = vec![(0.0, tops[0] + course.slot)];
        points.extend(
            course
                .frets
                .iter()
                .copied()
                .zip(tops.iter().copied())
                .skip(1),
        );
        points.push(crown);
        path::taut(&points)
    }

    /// Height of a string over a fret, held down or open, truly.
    pub fn height(&self, index: usize, held: u8, fret: u8) -> f64 {
        let tops = self.tops(index);
        let course = &self.courses[index];
        let at = usize::from(fret);
        if held == 0 {
            let line = self.line(index, &tops);
            return path::height_at(&line, course.frets[at]) - tops[at];
        }
        let from = usize::from(held);
        let start = (course.frets[from], tops[from]);
        let points: Vec<Point> = if held > fret {
            let nut = (0.0, tops[0] + course.slot);
            let between = (1..from).map(|fret| (course.frets[fret], tops[fret]));
            std::iter::once(nut)
                .chain(between)
                .chain(std::iter::once(start))
                .collect()
        } else {
            let crown = self.crown(index);
            let between =
                (from + 1..course.frets.len()).map(|fret| (course.frets[fret], tops[fret]));
            std::iter::once(start)
                .chain(between)
                .chain(std::iter::once(crown))
                .collect()
        };
        path::height_at(&path::taut(&points), course.frets[at]) - tops[at]
    }

    /// How sharp the fretted twelfth is of the harmonic there, in cents: by a finger that presses so hard, so far behind.
    pub(crate) fn note(&self, index: usize, finger: (f64, f64)) -> f64 {
        let course = &self.courses[index];
        let harmonic = course.wire.frequency(self.crown(index).0, course.pull, 2);
        let (length, pull) = self.held(index, finger);
        1200.0 * (course.wire.frequency(length, pull, 1) / harmonic).log2()
    }

    /// What is left of a string held down behind the twelfth: its length, and how it pulls now.
    pub(crate) fn held(&self, index: usize, (force, behind): (f64, f64)) -> (f64, f64) {
        let course = &self.courses[index];
        let tops = self.tops(index);
        let open = self.line(index, &tops);
        let length = self.crown(index).0;
        let (twelfth, before) = (course.frets[12], course.frets[11]);
        let fret = (twelfth, tops[12]);
        let at = twelfth - behind.min((twelfth - before) * 0.7);
        let mut nut: Vec<Point> = vec![(0.0, tops[0] + course.slot)];
        nut.extend((1..12).map(|fret| (course.frets[fret], tops[fret])));
        // Down until the string's two slopes carry the finger.
        let (mut low, mut high) = (0.0, 1.4);
        let dipped = |depth: f64| {
            let mut points = nut.clone();
            points.push((at, tops[12] - depth));
            path::taut(&points)
        };
        for _ in 0..40 {
            let depth = 0.5 * (low + high);
            let carried =
                course.pull * (depth / (twelfth - at) - path::slope_at_end(&dipped(depth)));
            if carried < force {
                low = depth;
            } else {
                high = depth;
            }
        }
        let mut held = dipped(0.5 * (low + high));
        held.push(fret);
        let crown = self.crown(index);
        let beyond = (13..course.frets.len()).map(|fret| (course.frets[fret], tops[fret]));
        let over: Vec<Point> = std::iter::once(fret)
            .chain(beyond)
            .chain(std::iter::once(crown))
            .collect();
        let over = path::taut(&over);
        let longer = path::length(&held) + path::length(&over) - path::length(&open);
        let pull = course.pull + course.wire.stretch * longer / (length + course.tails);
        (path::length(&over), pull)
    }

    /// The same by its usual finger: the truth that a job is judged by.
    pub fn cents(&self, string: u8) -> f64 {
        let index = usize::from(string - 1);
        self.note(index, self.courses[index].finger)
    }

    /// Where a saddle would be right, or none in reach of any bridge.
    fn right_setback(&mut self, index: usize) -> Option<f64> {
        let was = self.courses[index].setback;
        let mut off = |setback: f64| {
            self.courses[index].setback = setback;
            self.note(index, self.courses[index].finger)
        };
        let (mut low, mut high) = (-60.0, 60.0);
        if off(low) < 0.0 || off(high) > 0.0 {
            return None;
        }
        for _ in 0..40 {
            let middle = 0.5 * (low + high);
            if off(middle) > 0.0 {
                low = middle;
            } else {
                high = middle;
            }
        }
        self.courses[index].setback = was;
        Some(0.5 * (low + high))
    }

    /// How high a string, held down at the last fret, runs over a pickup's place.
    fn over_pickup(&self, coil: &Coil, index: usize) -> f64 {
        let course = &self.courses[index];
        let tops = self.tops(index);
        let last = course.frets.len() - 1;
        let line = [(course.frets[last], tops[last]), self.crown(index)];
        path::height_at(&line, course.bridge - coil.before)
    }

    /// The gap over a pickup, truly.
    pub fn pickup(&self, pickup: u8, side: Side) -> Option<f64> {
        let coil = self.pickups.get(usize::from(pickup))?;
        Some(self.over_pickup(coil, self.index(side)) - coil.face[side.index()])
    }

    /// The gap over one of its poles, truly.
    pub fn pole(&self, pickup: u8, string: u8) -> Option<f64> {
        let coil = self.pickups.get(usize::from(pickup))?;
        let index = usize::from(string - 1);
        let bass = 0.5 + 0.5 * self.side_of(index);
        let face = coil.face[0] * (1.0 - bass) + coil.face[1] * bass;
        let (pole, _) = coil.poles.get(index)?;
        Some(self.over_pickup(coil, index) - face - pole)
    }

    /// The gap of the plate or tail, truly.
    pub fn gap(&self) -> Option<f64> {
        self.plate.as_ref().map(Plate::gap)
    }
}

/// A plate that was balanced rests within so much of where it was balanced.
const STAYS: f64 = 0.5;
/// So much travel is left at either end where a saddle is right.
const REACH: f64 = 0.6;
/// And so much where a bridge was set back for them.
const FITTED: f64 = 0.8;
/// The sheet of a plate measures its crowns with the saddles about so far behind the scale line.
const EDGE_SETBACK: f64 = 2.5;
