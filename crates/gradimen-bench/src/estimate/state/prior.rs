//! What is believed before anything was read, by the table of [`crate::estimate::priors`].

use gradimen_core::action::StringLine;
use gradimen_core::neck::Bend;
use gradimen_core::quantity::{Curvature, Length};

use super::layout::{
    BASS, BLADE, DRIVES, LIFTS, MIDDLE, PLUCK, PULL, Part, ROD, ROD_MIDDLE, RULE, SHARE, SKEW,
    TREBLE,
};
use super::{Lie, Sheet, State};
use crate::estimate::filter::Change;
use crate::estimate::{learned, priors};
use crate::model::hardware::{Lifts, VibratoRecord};
use crate::model::instrument::Instrument;
use crate::model::{Behaviour, HeightsGiven, Measurement, Place, Side, Taught};

/// So wide that it says nothing beside what follows.
const UNKNOWN: f64 = 100.0;

impl State {
    /// Believes what the table says.
    pub(super) fn believe(
        &mut self,
        instrument: &Instrument,
        given: &HeightsGiven,
        taught: &[Taught],
    ) {
        let believed = |of: Behaviour| learned::belief(of, instrument, taught);
        self.believe_neck(instrument, believed);
        self.believe_screws(believed);
        self.believe_heights(given);
        self.believe_saddles(instrument);
        if let Some(sheet) = self.sheet.clone() {
            self.believe_plate(&sheet, believed);
        }
        self.lie = self.lie_in(&self.filter.x);
        self.believe_true_once();
        if given.measured {
            self.take_intake(given);
        }
        self.believe_faces();
    }

    /// Several unknowns about one value: each by itself, and all together.
    fn about(&mut self, which: &[usize], each: f64, together: f64) {
        for &at in which {
            let value = self.filter.x[at];
            self.filter.reset(at, value, each);
        }
        let along: Vec<(usize, f64)> = which.iter().map(|&at| (at, 1.0)).collect();
        self.filter.doubt(&along, together);
    }

    fn believe_neck(
        &mut self,
        instrument: &Instrument,
        believed: impl Fn(Behaviour) -> (f64, f64),
    ) {
        let plain = self.plain.slope();
        let kind = instrument.kind;
        for side in [BASS, TREBLE] {
            self.filter.x[side] = priors::relief(kind) / plain;
        }
        self.about(
            &[BASS, TREBLE],
            priors::BEND_EACH / plain,
            priors::BEND_TOGETHER / plain,
        );
        let middle = priors::MIDDLE / self.plain.middle().abs().max(1e-3);
        self.filter.reset(MIDDLE, 0.0, middle);
        let (rod, sigma) = believed(Behaviour::Rod);
        self.filter.reset(ROD, rod, sigma);
        self.filter.reset(SKEW, 0.0, priors::SKEW);
        self.filter
            .reset(ROD_MIDDLE, priors::ROD_MIDDLE.0, priors::ROD_MIDDLE.1);
        let (pull, sigma) = believed(Behaviour::Pull);
        self.filter.reset(PULL, pull, sigma);
    }

    fn believe_screws(&mut self, believed: impl Fn(Behaviour) -> (f64, f64)) {
        for (at, of) in [
            (LIFTS, Behaviour::HeightScrews),
            (DRIVES, Behaviour::Drives),
            (SHARE, Behaviour::OwnEnd),
        ] {
            let (value, sigma) = believed(of);
            self.filter.reset(at, value, sigma);
        }
        for pickup in 0..self.at.pickups {
            self.filter
                .reset(self.at.face_screw(pickup), 0.0, priors::THREAD.1);
        }
        for screw in 0..self.at.screws {
            // Posts beside screws in the saddles have a thread of their own.
            let post = self.lifts == Lifts::Both && screw >= self.count();
            let worth = if post {
                priors::THREAD.1
            } else {
                priors::OWN_THREAD
            };
            self.filter.reset(self.at.lift(screw), 0.0, worth);
        }
        for saddle in 0..self.at.saddles {
            self.filter
                .reset(self.at.drive(saddle), 0.0, priors::OWN_THREAD);
        }
        self.filter.reset(RULE, 0.0, priors::RULE_LEAN);
        self.filter.reset(BLADE, 0.0, priors::BLADE_LEAN);
        self.filter.reset(PLUCK, 0.0, priors::PLUCK_LOG);
    }

    /// Slots and crowns where the heights of intake put them, whether measured or only usual.
    fn believe_heights(&mut self, given: &HeightsGiven) {
        let count = self.count();
        for index in 0..count {
            let bass = self.share(index);
            let between = |treble: &Measurement, last: &Measurement| {
                treble.middle() * (1.0 - bass) + last.middle() * bass
            };
            let line = StringLine {
                nut: Length::ZERO,
                saddle: Length::ZERO,
                length: self.lengths[index],
                bend: Bend {
                    even: Curvature::from_per_metre(self.filter.x[BASS] * 1e-3),
                    middle: Curvature::ZERO,
                },
            };
            let tops = &self.tops[index];
            let wanted = (
                between(&given.first_fret_treble, &given.first_fret_bass),
                between(&given.twelfth_treble, &given.twelfth_bass),
            );
            // Slot and saddle show over both frets; a few turns settle both.
            let mut laid = line;
            for _ in 0..6 {
                laid = laid
                    .with_first_fret(tops, wanted.0)
                    .and_then(|laid| laid.with_action(tops, self.twelfth, wanted.1))
                    .unwrap_or(laid);
            }
            self.filter.x[self.at.nut(index)] = laid.nut.mm();
            self.filter.x[self.at.crown(index)] = laid.saddle.mm();
        }
        let nuts: Vec<usize> = (0..count).map(|index| self.at.nut(index)).collect();
        self.about(&nuts, priors::SLOT.1, priors::SLOT.0);
        let crowns: Vec<usize> = (0..count).map(|index| self.at.crown(index)).collect();
        let each = match self.lifts {
            Lifts::EachString | Lifts::Both => priors::CROWN_EACH,
            Lifts::TwoPosts | Lifts::Nothing => priors::CROWN_ON_ARC,
        };
        self.about(&crowns, each, priors::CROWN_TOGETHER);
        let tilt: Vec<(usize, f64)> = crowns
            .iter()
            .enumerate()
            .map(|(index, &at)| (at, 2.0 * self.share(index) - 1.0))
            .collect();
        self.filter.doubt(&tilt, priors::CROWN_TILT);
    }

    fn believe_saddles(&mut self, instrument: &Instrument) {
        let screws = &instrument.bridge.intonation;
        let lie = Lie::level();
        for saddle in 0..self.at.saddles {
            let on = self.saddles[saddle].clone();
            let places: Vec<f64> = on
                .iter()
                .map(|&index| self.model_place(index, &lie))
                .collect();
            let middle = places.iter().sum::<f64>() / places.len().max(1) as f64;
            self.filter
                .reset(self.at.setback(saddle), middle, priors::SETBACK);
            for &index in &on {
                let doubt = self.strings[index].doubt;
                self.filter.reset(self.at.bias(index), 0.0, doubt);
            }
            // A longer neck moves the scale line back under a bridge that stays where it is.
            let first = on.first().copied().unwrap_or(0);
            let string = u8::try_from(first + 1).unwrap_or(1);
            let shift = self.tops[first].scale() - instrument.scale(string);
            self.filter.reset(
                self.at.end(saddle),
                (screws.furthest.middle() - shift).mm(),
                priors::TRAVEL_END,
            );
        }
    }

    /// Whoever set the saddles set them by ear, on the heights and with the finger that are not known yet: how far a
    /// note is off says nothing of those. Every setback goes with what its notes hang on.
    fn believe_true_once(&mut self) {
        for saddle in 0..self.at.saddles {
            let own = self.at.setback(saddle);
            let on = self.saddles[saddle].clone();
            let mut along = nalgebra::DVector::zeros(self.filter.x.len());
            for &index in &on {
                let string = u8::try_from(index + 1).unwrap_or(1);
                if let Ok(sight) = self.sight(Place::Intonation { string, fret: 12 }) {
                    let share = sight.slope[own] * on.len() as f64;
                    along.axpy(-1.0 / share, &sight.slope, 1.0);
                }
            }
            let others = along.iter().enumerate();
            let slopes = others
                .filter(|(at, slope)| *at != own && **slope != 0.0)
                .map(|(at, slope)| (own, at, *slope))
                .collect();
            self.filter.change(&Change {
                slopes,
                ..Change::default()
            });
        }
    }

    /// Where the model has a string's saddle, as it lies in the state; 3 mm where it has no answer.
    pub(super) fn model_place(&self, index: usize, lie: &Lie) -> f64 {
        let speaking = self.speaking_in(index, &self.filter.x, lie);
        speaking
            .setback_for(12, gradimen_core::quantity::Cents::ZERO)
            .map_or(3.0, Length::mm)
    }

    fn believe_plate(&mut self, sheet: &Sheet, believed: impl Fn(Behaviour) -> (f64, f64)) {
        let record = &sheet.record;
        let typical = record.typical();
        let worth = priors::of_sheet;
        let claw = if sheet.has_claw() {
            worth(&record.spring_length, &typical.spring_length, priors::CLAW)
        } else {
            priors::SEAT
        };
        self.filter.reset(
            self.at.part(Part::Gap),
            record.level_gap.middle().mm(),
            priors::RESTS,
        );
        for (part, of) in [
            (Part::Rate, Behaviour::SpringRate),
            (Part::ClawTurn, Behaviour::Claw),
        ] {
            let (value, sigma) = believed(of);
            self.filter.reset(self.at.part(part), value, sigma);
        }
        let down = worth(&record.hook_down, &typical.hook_down, priors::HOOK_DOWN);
        self.filter.reset(
            self.at.part(Part::HookDown),
            record.hook_down.middle().mm(),
            down,
        );
        let (back, wide) = priors::HOOK_BACK;
        self.filter.reset(self.at.part(Part::HookBack), back, wide);
        self.filter.reset(
            self.at.part(Part::Level),
            record.level_gap.middle().mm(),
            priors::LEVEL.0,
        );
        self.filter
            .reset(self.at.part(Part::Tension), 0.0, priors::TENSION_LOG);
        self.believe_edge(sheet, &typical);
        self.believe_claw(sheet, claw);
    }

    /// The edge stands so far below and before the crowns as the sheet says.
    fn believe_edge(&mut self, sheet: &Sheet, typical: &VibratoRecord) {
        let record = &sheet.record;
        let count = self.count() as f64;
        let (up, back) = (self.at.part(Part::EdgeUp), self.at.part(Part::EdgeBack));
        let crown = (0..self.count())
            .map(|index| self.filter.x[self.at.crown(index)])
            .sum::<f64>()
            / count;
        let setback = (0..self.count())
            .map(|index| self.filter.x[self.at.setback(self.saddle(index))])
            .sum::<f64>()
            / count;
        let (high, far) = (
            record.crown_up.middle().mm(),
            record.crown_back.middle().mm(),
        );
        self.filter.reset(up, crown - high, UNKNOWN);
        self.filter.reset(back, setback - far, UNKNOWN);
        let mut above = self.filter.unit(&[(up, -1.0)]);
        let mut behind = self.filter.unit(&[(back, -1.0)]);
        for index in 0..self.count() {
            above[self.at.crown(index)] += 1.0 / count;
            behind[self.at.setback(self.saddle(index))] += 1.0 / count;
        }
        let high = priors::of_sheet(&record.crown_up, &typical.crown_up, priors::CROWN_UP);
        let far = priors::of_sheet(&record.crown_back, &typical.crown_back, priors::CROWN_BACK);
        self.filter.observe(&above, 0.0, high * high);
        self.filter.observe(&behind, 0.0, far * far);
    }

    /// The claw stands about where the sheet has it: what that says of springs, arms and rest together.
    fn believe_claw(&mut self, sheet: &Sheet, worth: f64) {
        // A rate that rests it there to begin with: far from it a curve leads astray.
        let rate = self.at.part(Part::Rate);
        if let Some(off) = self.rate_as_found(sheet) {
            let (middle, sigma) = (self.filter.x[rate], self.filter.p[(rate, rate)].sqrt());
            self.filter.x[rate] = off.clamp(middle - 3.0 * sigma, middle + 3.0 * sigma);
        }
        let mut filter = self.filter.clone();
        let seen = filter.observe_curve(12, 0.0, worth * worth, |x| {
            Ok::<_, std::convert::Infallible>(self.claw_sight(x))
        });
        if seen.is_ok() {
            self.filter = filter;
        }
    }

    /// Faces lie under their outer strings.
    fn believe_faces(&mut self) {
        for pickup in 0..self.at.pickups {
            let faces = Side::ALL.map(|side| self.at.face(pickup, side));
            for (face, side) in faces.into_iter().zip(Side::ALL) {
                self.filter.x[face] = 0.0;
                let place = Place::Pickup {
                    pickup: u8::try_from(pickup).unwrap_or(0),
                    side,
                };
                let over = self.sight(place).map_or(0.0, |sight| sight.value);
                self.filter.x[face] = over - priors::FACE_UNDER;
            }
            self.about(&faces, priors::FACE.1, priors::FACE.0);
        }
    }

    /// Heights that were measured at intake, on the outer strings.
    fn take_intake(&mut self, given: &HeightsGiven) {
        let last = self.string_of(Side::Bass);
        let twelfth = self.twelfth;
        let read = [
            (1, 1, &given.first_fret_treble, priors::GIVEN.0),
            (last, 1, &given.first_fret_bass, priors::GIVEN.0),
            (1, twelfth, &given.twelfth_treble, priors::GIVEN.1),
            (last, twelfth, &given.twelfth_bass, priors::GIVEN.1),
        ];
        for (string, fret, length, sigma) in read {
            let place = Place::Action {
                string,
                fret,
                held: 0,
            };
            self.learn(place, length.middle().mm(), sigma);
        }
    }
}
