//! How it truly stands: the board under its strings, the lines of the strings, what a fretted note sounds, the gaps over its pickups.

use gradimen_bench::model::{ReliefSpan, Side};

use super::{Coil, EDGE_SETBACK, SimulatedInstrument};
use crate::neck::Neck;
use crate::path::{self, Point};
use crate::plate::{Hung, Plate};

impl SimulatedInstrument {
    /// How much all strings pull.
    pub(crate) fn pull(&self) -> f64 {
        self.courses.iter().map(|course| course.pull).sum()
    }

    /// Fret tops and the slot's foot, over the plane of the board.
    pub(super) fn tops_of(&self, neck: &Neck, index: usize) -> Vec<f64> {
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

    pub(super) fn relief_of(&self, neck: &Neck, side: Side, span: ReliefSpan) -> f64 {
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

    pub(super) fn hung(&self, plate: &Plate) -> Vec<Hung> {
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

    /// How high a string, held down at the last fret, runs over a pickup's place.
    pub(super) fn over_pickup(&self, coil: &Coil, index: usize) -> f64 {
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
