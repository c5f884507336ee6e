//! What hands do to parts that no screw of their own moves: a bar under all strings, the bridge, the neck's pocket, a cut saddle.

use gradimen_bench::journal::Event;
use gradimen_bench::model::{Adjuster, Amount, Shim};

use crate::SimulatedInstrument;
use crate::plate::Plate;

/// A hand slides a bar or a bridge to this along a rule, in millimetres.
const BY_RULE: f64 = 0.15;
/// What a hand cuts or puts under differs by this share, and a saddle turned round by so much of its two faces, in millimetres.
const CUT: f64 = 0.1;
const FACES: f64 = 0.05;

impl SimulatedInstrument {
    /// How far forward and back the crown of a string can stand.
    pub(crate) fn travel_of(&self, index: usize) -> (f64, f64) {
        let round = self.courses[index].round;
        (self.travel.0 + round, self.travel.1 + round)
    }

    /// A bar under all strings, at its two ends; each string's crown goes by where it crosses.
    pub(crate) fn shift_bar(&mut self, amount: &Amount) -> Option<Event> {
        let Amount::Ends { treble, bass } = amount else {
            return None;
        };
        let [treble_by, bass_by] = [treble, bass].map(|by| {
            let by = by.middle().mm();
            // The end that stays is held.
            let slips = if by == 0.0 { 0.1 } else { 1.0 };
            by + self.hand.chance.normal(BY_RULE * slips)
        });
        let half = self.across(self.courses.len() - 1);
        for index in 0..self.courses.len() {
            let bass_share = 0.5 + 0.5 * self.across(index) / half;
            let by = treble_by * (1.0 - bass_share) + bass_by * bass_share;
            let (near, far) = self.travel_of(index);
            let course = &mut self.courses[index];
            course.setback = (course.setback + by).clamp(near, far);
        }
        self.tune();
        Some(Event::Adjusted {
            adjuster: Adjuster::Bar,
            amount: amount.clone(),
        })
    }

    /// The whole bridge goes back along the body; what is under the strings stays where it is.
    pub(crate) fn slide_bridge(&mut self, by: f64) {
        let by = by + self.hand.chance.normal(BY_RULE);
        for course in &mut self.courses {
            course.bridge += by;
        }
        for coil in &mut self.pickups {
            coil.before += by;
        }
    }

    /// Something is laid under the heel. Seen from the board, the body with bridge and pickups sinks: all of it under a full shim; about
    /// the front edge of the pocket where a wedge lifts the end of the heel.
    pub(crate) fn shim(&mut self, shim: Shim, thickness: f64) {
        let joint = usize::from(self.record.neck.joint_fret);
        let angle = (thickness / self.pocket).atan();
        let sinks = |place: f64| match shim {
            Shim::Full => thickness,
            Shim::Wedge => place * angle.sin(),
        };
        let carries = self.plate.as_ref().is_some_and(Plate::carries);
        for course in &mut self.courses {
            let by = sinks(course.bridge - course.frets[joint]);
            // A plate sinks with the edge it stands on.
            if carries {
                course.lifted -= by;
            } else {
                course.crown -= by;
            }
        }
        let outer = [0, self.courses.len() - 1];
        for coil in &mut self.pickups {
            for (face, index) in coil.face.iter_mut().zip(outer) {
                let course = &self.courses[index];
                *face -= sinks(course.bridge - coil.before - course.frets[joint]);
            }
        }
    }

    /// A saddle without screws is cut down, or something is put under it: with all strings that it carries.
    pub(crate) fn cut(&mut self, string: u8, by: f64) {
        let by = by * self.hand.chance.factor(CUT);
        let saddles = self.record.bridge.saddles.iter();
        let on = saddles.filter(|on| on.contains(&string)).flatten().copied();
        for string in on.collect::<Vec<u8>>() {
            self.courses[usize::from(string - 1)].crown += by;
        }
    }

    /// A saddle is taken out and put in the other way round, its crown now at its other side.
    pub(crate) fn turn_round(&mut self, group: &[u8]) {
        let by = self.record.bridge.intonation.turn_round.mm() + self.hand.chance.normal(FACES);
        for string in group {
            let course = &mut self.courses[usize::from(string - 1)];
            let round = if course.round == 0.0 {
                by
            } else {
                -course.round
            };
            course.setback += round;
            course.round += round;
        }
    }
}
