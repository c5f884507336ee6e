//! Pickups on their screws, with poles that stand as they were made.

use gradimen_bench::journal::Event;
use gradimen_bench::model::hardware::PickupRecord;
use gradimen_bench::model::{Adjuster, Place, Side};
use gradimen_core::quantity::Length;

use super::{SimulatedInstrument, half_sixty_fourths, length, mm, turned};

/// A pickup as it really is, in millimetres.
#[derive(Debug, Clone)]
pub(super) struct HiddenPickup {
    /// Before the scale line.
    before: f64,
    /// Height of its face at treble and bass side.
    face: [f64; 2],
    pitch: f64,
    /// How far each pole stands proud of that face, string 1 first; the outer two are the face.
    poles: Vec<f64>,
    pole_pitch: f64,
}

impl SimulatedInstrument {
    /// Mounts a pickup somewhere near where it belongs.
    pub(super) fn mount(&mut self, record: &PickupRecord) {
        let before = record.before_saddle.middle().mm();
        let strings = self.tops.len();
        let face = [0, strings - 1]
            .map(|index| self.over_pickup(index, before) - self.chance.between(1.4, 4.2));
        let poles = (0..strings)
            .map(|index| match index {
                0 => 0.0,
                last if last + 1 == strings => 0.0,
                _ => 0.4 + self.chance.normal(0.25),
            })
            .collect();
        self.pickups.push(HiddenPickup {
            before,
            face,
            pitch: record.pitch.middle().mm(),
            poles,
            pole_pitch: record
                .pole_pitch
                .as_ref()
                .map_or(0.0, |pitch| pitch.middle().mm()),
        });
    }

    /// Height of a string over a place before the scale line, held down at the last fret.
    fn over_pickup(&self, index: usize, before: f64) -> f64 {
        let last = self.tops[index].frets();
        let from = self.tops[index].place(last).mm();
        let low = self.top(index, last);
        let along = (self.scales[index].mm() - before - from) / (self.length(index) - from);
        low + (self.crown[index] - low) * along
    }

    /// The gap of a pickup at a side as it really is.
    pub fn pickup_gap(&self, pickup: u8, side: Side) -> Length {
        let string = u8::try_from(self.side(side) + 1).unwrap_or(1);
        self.pole_gap(pickup, string)
    }

    /// The gap of a pole as it really is.
    pub fn pole_gap(&self, pickup: u8, string: u8) -> Length {
        let known = &self.pickups[usize::from(pickup)];
        let index = usize::from(string - 1);
        let share = index as f64 / (self.tops.len() - 1).max(1) as f64;
        let face = known.face[0] * (1.0 - share) + known.face[1] * share;
        mm(self.over_pickup(index, known.before) - face - known.poles[index])
    }

    /// A gap read with a rule to half a 64th.
    pub fn read_pickup(&mut self, pickup: u8, side: Side) -> Event {
        self.settle();
        let gap = self.pickup_gap(pickup, side).mm() + self.chance.normal(0.06);
        length(Place::Pickup { pickup, side }, half_sixty_fourths(gap))
    }

    /// The gap of a pole, read so.
    pub fn read_pole(&mut self, pickup: u8, string: u8) -> Event {
        self.settle();
        let gap = self.pole_gap(pickup, string).mm() + self.chance.normal(0.06);
        length(Place::PolePiece { pickup, string }, half_sixty_fourths(gap))
    }

    /// Turns a screw of a pickup; positive brings it nearer.
    pub fn turn_pickup(&mut self, pickup: u8, side: Side, turns: f64) -> Event {
        let give = self.pickup_give;
        let known = &mut self.pickups[usize::from(pickup)];
        known.face[usize::from(side == Side::Bass)] += turns * known.pitch * give;
        turned(Adjuster::PickupScrew { pickup, side }, turns)
    }

    /// Turns a pole screw; positive brings it nearer.
    pub fn turn_pole(&mut self, pickup: u8, string: u8, turns: f64) -> Event {
        let known = &mut self.pickups[usize::from(pickup)];
        known.poles[usize::from(string - 1)] += turns * known.pole_pitch;
        turned(Adjuster::PolePiece { pickup, string }, turns)
    }
}
