//! A plate or a tail with its own springs.

use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::hardware::{VibratoKind, VibratoRecord};
use gradimen_bench::model::{Adjuster, Amount, Measurement, Place, Reading};
use gradimen_core::intonation::IntonationError;
use gradimen_core::quantity::{Angle, Force, Length, Rate};
use gradimen_core::spring::Spring;
use gradimen_core::vibrato::{Hooked, Plate};

use super::{SimulatedInstrument, length, mm, turned};
use crate::{Rng, Saddle};

/// A plate with its own springs: other rates and arms than the record says.
#[derive(Debug, Clone)]
pub(super) struct HiddenPlate {
    kind: VibratoKind,
    plate: Plate,
    spring: Spring,
    count: u8,
    claw: Length,
    pitch: Length,
    level_gap: Length,
    pull: Force,
    angle: Angle,
}

/// The pull of all strings of a job.
pub(super) fn pull_of(known: &Estimate) -> Force {
    (1..)
        .zip(known.strings())
        .map(|(string, state)| state.tension(known.speaking_scale(string)))
        .sum()
}

impl HiddenPlate {
    pub(super) fn new(record: &VibratoRecord, pull: Force, chance: &mut Rng) -> Self {
        let mut plate = record.plate();
        // A tail's lever is short: what is measured on it with a rule is off by less.
        let claw = record.kind == VibratoKind::BodySprings;
        let off = if claw { 0.4 } else { 0.2 };
        plate.crown_up += mm(chance.normal(off));
        plate.crown_back += mm(chance.normal(off));
        plate.hook_down += mm(chance.normal(if claw { 0.7 } else { 0.0 }));
        let spring = record.spring();
        let mut hidden = Self {
            kind: record.kind,
            plate,
            spring: Spring {
                rate: spring.rate * chance.between(0.85, 1.18),
                ..spring
            },
            count: record.springs,
            claw: Length::ZERO,
            pitch: record.claw_pitch.middle(),
            level_gap: record.level_gap.middle(),
            pull,
            angle: Angle::ZERO,
        };
        // It came balanced somehow, at a gap that is not the one wanted.
        let gap = if claw {
            mm(chance.between(0.8, 4.5))
        } else {
            hidden.level_gap + mm(chance.between(-2.0, 2.0))
        };
        let angle = hidden.plate.angle_of(gap - hidden.level_gap);
        if let Ok(claw) = hidden.plate.claw_for(pull, &hidden.hooked(), angle) {
            hidden.claw = claw;
        }
        hidden.retune();
        hidden
    }

    fn hooked(&self) -> Vec<Hooked> {
        vec![
            Hooked {
                spring: self.spring,
                aside: Length::ZERO,
                claw_in: self.claw,
            };
            usize::from(self.count)
        ]
    }

    /// Tuned up to pitch again: the plate goes where strings and springs agree, or lies on the body.
    fn retune(&mut self) {
        let hooked = self.hooked();
        let (down, highest) = match self.kind {
            VibratoKind::BodySprings => (
                self.plate.angle_of(-self.level_gap),
                Angle::from_radians(0.28),
            ),
            VibratoKind::TailSpring | VibratoKind::ArmSpring => (
                Angle::from_radians(-0.2),
                self.plate.angle_of(-self.level_gap),
            ),
        };
        let up = if self.plate.held_down(self.pull, &hooked) > Force::ZERO {
            down
        } else {
            highest
        };
        self.angle = self
            .plate
            .rest(self.pull, &hooked)
            .unwrap_or(up)
            .max(down)
            .min(highest);
    }

    fn gap(&self) -> Length {
        (self.level_gap + self.plate.gap(self.angle)).max(Length::ZERO)
    }
}

impl SimulatedInstrument {
    /// The gap under the vibrato as it really is; nothing without one.
    pub fn vibrato_gap(&self) -> Length {
        self.vibrato.as_ref().map_or(Length::ZERO, HiddenPlate::gap)
    }

    /// The gap read with a rule to a tenth of a millimetre, or the plate found flat.
    pub fn read_balance(&mut self) -> Event {
        let gap = self.vibrato_gap().mm() + self.chance.normal(0.08);
        let tenths = (gap * 10.0).round() / 10.0;
        if tenths > 0.05 {
            length(Place::Gap, Measurement::mm(tenths))
        } else {
            Event::read(Place::Gap, Reading::Flat)
        }
    }

    /// Lets something happen to the plate, and carries every crown along with it.
    fn with_plate(&mut self, happens: impl FnOnce(&mut HiddenPlate)) {
        let Some(plate) = &mut self.vibrato else {
            return;
        };
        let (x0, z0) = plate.plate.crown(plate.angle);
        happens(plate);
        plate.retune();
        if plate.kind != VibratoKind::BodySprings {
            // A tail turns behind its bridge.
            self.relay();
            return;
        }
        let (x1, z1) = plate.plate.crown(plate.angle);
        for crown in &mut self.crown {
            *crown += (z1 - z0).mm();
        }
        for saddle in &mut self.saddles {
            let setback = saddle.setback() + (x1 - x0);
            saddle.place(setback);
        }
        self.relay();
    }

    /// Turns both screws of the claw and brings the strings back to pitch; positive is in.
    pub fn turn_claw(&mut self, turns: f64) -> Event {
        self.with_plate(|plate| plate.claw += plate.pitch * turns);
        turned(Adjuster::Claw, turns)
    }

    /// Moves the seat of a tail's spring by turns of its screw or by washers, and tunes up again; positive is up.
    pub fn move_seat(&mut self, turns: f64) -> Event {
        let mut up = Length::ZERO;
        self.with_plate(|plate| {
            up = plate.pitch * turns;
            plate.claw += up;
        });
        Event::Adjusted {
            adjuster: Adjuster::Seat,
            amount: Amount::Distance {
                distance: Measurement::mm(up.mm()),
            },
        }
    }

    /// A spring measured with a rule to half a millimetre, from hook to hook or from seat to seat.
    pub fn measure_spring(&mut self) -> Option<Event> {
        let plate = self.vibrato.as_ref()?;
        let (hung, _) = plate
            .plate
            .spring_torque(plate.hooked().first()?, plate.angle);
        let read = hung.mm() + self.chance.normal(0.3);
        Some(length(
            Place::Spring,
            Measurement::mm((read * 2.0).round() / 2.0),
        ))
    }

    /// The rate of one spring as it really is.
    pub fn spring_rate(&self) -> Option<Rate> {
        self.vibrato.as_ref().map(|plate| plate.spring.rate)
    }

    /// Hooks on so many springs and brings the strings back to pitch.
    pub fn hook_springs(&mut self, count: u8) -> Event {
        self.with_plate(|plate| plate.count = count);
        Event::Adjusted {
            adjuster: Adjuster::Springs,
            amount: Amount::Springs {
                count,
                converging: false,
            },
        }
    }

    /// Other strings or another tuning, as the job has them now.
    ///
    /// # Errors
    /// [`IntonationError`] when a string has no right place at all.
    pub fn restrung(&mut self, known: &Estimate) -> Result<(), IntonationError> {
        let pull = pull_of(known);
        self.with_plate(|plate| plate.pull = pull);
        let pitch = known.instrument().bridge.intonation.pitch.middle();
        for (index, state) in known.strings().iter().enumerate() {
            let stood = self.saddles[index].setback();
            let believed = state.speaking.with_heights(self.heights(index));
            let mut saddle = Saddle::hidden(
                &believed,
                &state.spec,
                pitch,
                Length::ZERO,
                &mut self.chance,
            )?;
            saddle.place(stood);
            self.saddles[index] = saddle;
        }
        self.relay();
        Ok(())
    }
}
