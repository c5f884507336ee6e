//! Vibrato balance: what is known of plate, springs and claw, and the next turn of the claw.
//!
//! The forward model is [`gradimen_core::vibrato`]: with the strings at pitch the plate rests where
//! the springs answer them. Two unknowns are estimated from readings of the gap under its tail and
//! from turns of the claw (extended Kalman filter, slopes by small steps of the model):
//!
//! | unknown | prior | why |
//! |---|---|---|
//! | how far in the claw stands | where it balances the plate as it should be, 4 mm | nobody measures it |
//! | logarithm of the rate of the springs | as recorded, 0.15 | springs of one sort differ by so much (common practice) |
//!
//! A tail with one pressed spring is the same lever with another adjuster: its seat goes up. Where a
//! spring is measured between its hooks or seats, its length tells where the adjuster stands, and the
//! gap beside it how stiff the springs are: their rate from the balance as it was found.
//!
//! A quarter turn of the claw can move the plate several times as far once the strings have been
//! brought back to pitch, since they answer with their full pull at the new angle: so every reading
//! is taken at pitch, turns are small, and the second one already knows this plate.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../docs/formats/examples/floating-vibrato.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let balance = known.balance().ok_or("a vibrato with springs")?;
//! let shown = plan.balance.as_ref().ok_or("and its station")?;
//! assert!(shown.now.value.mm() > 0.0 && shown.rate.value.newtons_per_metre() > 0.0);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Angle, Estimate, Force, Length, Rate};
use gradimen_core::vibrato::{Hooked, Plate, VibratoError};
use nalgebra::DVector;

use super::CONFIRMED_WIDENING;
use super::kalman::Filter;
use crate::model::hardware::{VibratoKind, VibratoRecord};
use crate::model::{BalanceSchool, Measurement, Tool};

const CLAW_SIGMA_MM: f64 = 4.0;
/// A pressed spring's seat is nearer to where the sheet has it.
const SEAT_SIGMA_MM: f64 = 1.5;
const RATE_LOG_SIGMA: f64 = 0.15;
/// Play of the claw's screws.
const CLAW_PLAY_MM: f64 = 0.05;
/// What the model leaves out, as gap: friction of the edge, strings that catch (common practice).
pub(crate) const REST_SIGMA_MM: f64 = 0.12;
/// How well a move of the plate is predicted, as a share of it: arms are read with a rule, and the closed
/// loops leave more behind with less.
const MOVED_SHARE: f64 = 0.25;
/// A spring on its hooks is measured no better than this (common practice).
const SPRING_SIGMA_MM: f64 = 0.5;
/// A small float (common practice: 2 to 3 mm).
const SMALL_FLOAT: Length = Length::from_mm(2.5);
/// Outer springs of a converging set lie so far aside at the claw, each further out one more (from memory).
const CONVERGES: Length = Length::from_mm(8.0);

/// Something that happened to plate, springs or claw, with the strings' pull at that time.
#[derive(Debug, Clone, PartialEq)]
pub enum BalanceStep {
    /// The gap under the tail was read; and whether it was confirmed against a question.
    Read(Measurement, bool),
    /// The plate was found flat on the body.
    Flat,
    /// A spring was measured from hook to hook, or from seat to seat.
    Spring(Measurement),
    /// The distances from claw to wall were read: treble, bass.
    Ends([Measurement; 2]),
    /// The screws of the claw were turned: both by the first, positive is in, and the bass side by
    /// the second further in, the treble side by as much less.
    Claw(f64, f64),
    /// The seat of a pressed spring went up.
    Seat(Length),
    /// Other springs were hooked on.
    Springs {
        /// How many.
        count: u8,
        /// Whether they converge on the claw.
        converging: bool,
    },
    /// The strings pull otherwise from here on.
    Pull,
}

/// What is known of a plate.
#[derive(Debug, Clone, PartialEq)]
pub struct Balance {
    pub(crate) record: VibratoRecord,
    pub(crate) plate: Plate,
    pub(crate) school: BalanceSchool,
    pub(crate) filter: Filter,
    pub(crate) pull: Force,
    pub(crate) last: Option<(String, usize)>,
    pub(crate) last_gap: Option<Length>,
    /// From claw to wall: treble, bass.
    pub(crate) ends: Option<[Length; 2]>,
    /// Where the plate stands.
    angle: Angle,
}

pub(crate) const CLAW: usize = 0;
pub(crate) const RATE: usize = 1;
/// A plate is dived no further than this, in radians.
const FURTHEST: f64 = 0.28;

/// What a reading shows.
#[derive(Debug, Clone, Copy)]
enum Sees {
    /// The gap.
    Gap,
    /// The length of a spring.
    Spring,
}

impl Balance {
    /// Before anything was read.
    pub(crate) fn new(record: &VibratoRecord, school: BalanceSchool, pull: Force) -> Self {
        let mut filter = Filter::new(2);
        let sigma = match record.kind {
            VibratoKind::BodySprings => CLAW_SIGMA_MM,
            VibratoKind::TailSpring | VibratoKind::ArmSpring => SEAT_SIGMA_MM,
        };
        filter.reset(CLAW, 0.0, sigma);
        filter.reset(RATE, 0.0, RATE_LOG_SIGMA);
        let mut balance = Self {
            plate: record.plate(),
            record: record.clone(),
            school,
            filter,
            pull,
            last: None,
            last_gap: None,
            ends: None,
            angle: Angle::ZERO,
        };
        // Someone balanced it once: the claw stands about where it should.
        let level = balance.angle_of(balance.target());
        let claw = balance.claw_for(pull, level).unwrap_or(Length::ZERO);
        balance.filter.x[CLAW] = claw.mm();
        balance.angle = balance.rest();
        balance
    }

    pub(crate) fn target(&self) -> Length {
        match self.school {
            // A tail knows one place to rest at.
            _ if !self.has_claw() => self.record.level_gap.middle(),
            BalanceSchool::Decked => Length::ZERO,
            BalanceSchool::SmallFloat => self.record.level_gap.middle() + SMALL_FLOAT,
            BalanceSchool::Level => self.record.level_gap.middle(),
        }
    }

    pub(crate) fn angle_of(&self, gap: Length) -> Angle {
        self.plate.angle_of(gap - self.record.level_gap.middle())
    }

    pub(crate) fn gap_of(&self, angle: Angle) -> Length {
        (self.record.level_gap.middle() + self.plate.gap(angle)).max(Length::ZERO)
    }

    pub(crate) const fn has_claw(&self) -> bool {
        matches!(self.record.kind, VibratoKind::BodySprings)
    }

    /// The angle at which it can be pulled up no further: the tail lies on the body, or the spring of
    /// a tail is loose on its seat.
    pub(crate) fn up_end(&self) -> Angle {
        if self.has_claw() {
            return self.angle_of(Length::ZERO);
        }
        let hooked = &self.springs()[0];
        let loose = self.record.spring_free.middle();
        let long_at = |angle: f64| {
            let angle = Angle::from_radians(angle);
            (self.plate.spring_torque(hooked, angle).0 - loose).mm()
        };
        let found = gradimen_core::solve::root(-FURTHEST, FURTHEST, 1e-7, long_at);
        Angle::from_radians(found.unwrap_or(-FURTHEST))
    }

    /// The angle at which it can be dived no further.
    pub(crate) fn dive_end(&self) -> Angle {
        if self.has_claw() {
            self.plate
                .angle_of(self.record.tail_back.middle() * FURTHEST)
        } else {
            self.angle_of(Length::ZERO)
        }
    }

    pub(crate) fn springs_at(&self, claw_mm: f64, log_rate: f64, count: u8) -> Vec<Hooked> {
        let spring = self.record.spring();
        let rate = Rate::from_newtons_per_metre(spring.rate.newtons_per_metre() * log_rate.exp());
        (0..count)
            .map(|index| {
                let place = f64::from(index) - f64::from(count - 1) / 2.0;
                Hooked {
                    spring: gradimen_core::spring::Spring { rate, ..spring },
                    aside: if self.record.converging {
                        CONVERGES * place.abs()
                    } else {
                        Length::ZERO
                    },
                    claw_in: Length::from_mm(claw_mm),
                }
            })
            .collect()
    }

    pub(crate) fn springs(&self) -> Vec<Hooked> {
        self.springs_at(
            self.filter.x[CLAW],
            self.filter.x[RATE],
            self.record.springs,
        )
    }

    pub(crate) fn rest_at(&self, claw_mm: f64, log_rate: f64) -> Angle {
        let hooked = self.springs_at(claw_mm, log_rate, self.record.springs);
        // What does not balance is pulled right up; what would go below lies on the body.
        let (lowest, highest) = (self.up_end(), self.dive_end());
        self.plate
            .rest(self.pull, &hooked)
            .unwrap_or(if self.plate.held_down(self.pull, &hooked) > Force::ZERO {
                lowest
            } else {
                highest
            })
            .max(lowest)
            .min(highest)
    }

    pub(crate) fn rest(&self) -> Angle {
        self.rest_at(self.filter.x[CLAW], self.filter.x[RATE])
    }

    pub(crate) fn claw_for(&self, pull: Force, angle: Angle) -> Result<Length, VibratoError> {
        self.plate.claw_for(pull, &self.springs(), angle)
    }

    /// The gap the model gives without the body in its way, so that it has a slope everywhere.
    fn free_gap(&self, claw_mm: f64, log_rate: f64) -> Option<f64> {
        let hooked = self.springs_at(claw_mm, log_rate, self.record.springs);
        let angle = self.plate.rest(self.pull, &hooked).ok()?;
        Some((self.record.level_gap.middle() + self.plate.gap(angle)).mm())
    }

    /// How long the straightest spring is at rest, in millimetres.
    fn free_spring(&self, claw_mm: f64, log_rate: f64) -> Option<f64> {
        let hooked = self.springs_at(claw_mm, log_rate, self.record.springs);
        let angle = self.plate.rest(self.pull, &hooked).ok()?;
        let straightest = hooked.get(hooked.len() / 2)?;
        Some(self.plate.spring_torque(straightest, angle).0.mm())
    }

    /// What a reading says here, and how it hangs on claw and rate.
    fn look(&self, sees: Sees) -> Option<(f64, DVector<f64>)> {
        let (claw, rate) = (self.filter.x[CLAW], self.filter.x[RATE]);
        let at = |claw: f64, rate: f64| match sees {
            Sees::Gap => self.free_gap(claw, rate),
            Sees::Spring => self.free_spring(claw, rate),
        };
        let here = at(claw, rate)?;
        let by_claw = (at(claw + 0.02, rate)? - here) / 0.02;
        let by_rate = (at(claw, rate + 0.002)? - here) / 0.002;
        Some((here, self.filter.unit(&[(CLAW, by_claw), (RATE, by_rate)])))
    }

    pub(crate) fn gap_sigma(&self) -> Length {
        let sigma = |(_, slope): (f64, DVector<f64>)| self.filter.variance_along(&slope).sqrt();
        Length::from_mm(self.look(Sees::Gap).map_or(1.0, sigma))
    }

    /// The rate of one spring by everything that was read.
    pub(crate) fn rate(&self) -> Estimate<Rate> {
        let rate = self.record.rate_newtons_per_metre * self.filter.x[RATE].exp();
        Estimate::new(
            Rate::from_newtons_per_metre(rate),
            Rate::from_newtons_per_metre(rate * self.filter.p[(RATE, RATE)].sqrt()),
        )
    }

    /// Takes a step in; `pull` is the strings' tension then. Says how the break points went with it: back,
    /// and up.
    pub(crate) fn step(&mut self, step: &BalanceStep, pull: Force) -> (Length, Length) {
        let stood = self.angle;
        let before = self.free_gap(self.filter.x[CLAW], self.filter.x[RATE]);
        self.pull = pull;
        match step {
            BalanceStep::Read(gap, confirmed) => {
                let widened = if *confirmed { CONFIRMED_WIDENING } else { 1.0 };
                let sigma = gap.sigma(Tool::RuleHalfMm).mm().hypot(REST_SIGMA_MM) * widened;
                self.learn(Sees::Gap, gap.middle().mm(), sigma);
                self.note(gap.written.clone());
                self.last_gap = Some(gap.middle());
            }
            BalanceStep::Spring(length) => {
                let sigma = length.sigma(Tool::RuleHalfMm).mm().hypot(SPRING_SIGMA_MM);
                self.learn(Sees::Spring, length.middle().mm(), sigma);
            }
            BalanceStep::Ends(ends) => self.ends = Some([ends[0].middle(), ends[1].middle()]),
            BalanceStep::Flat => {
                // It says nothing but that the springs win; believed up, it comes down to the body.
                let free = self.free_gap(self.filter.x[CLAW], self.filter.x[RATE]);
                let held = self.plate.held_down(self.pull, &self.springs()) > Force::ZERO;
                if free.map_or(!held, |gap| gap > 0.0) {
                    self.learn(Sees::Gap, -0.2, 0.3);
                }
                self.note("flat".to_owned());
                self.last_gap = Some(Length::ZERO);
            }
            BalanceStep::Claw(turns, apart) => {
                let pitch = self.record.claw_pitch.middle();
                if let Some(ends) = &mut self.ends {
                    ends[0] -= pitch * (turns - apart);
                    ends[1] -= pitch * (turns + apart);
                }
                self.adjusted(pitch * *turns);
            }
            BalanceStep::Seat(up) => self.adjusted(*up),
            BalanceStep::Springs { count, converging } => {
                self.record.springs = *count;
                self.record.converging = *converging;
                self.stale();
            }
            BalanceStep::Pull => self.stale(),
        }
        if matches!(
            step,
            BalanceStep::Claw(..)
                | BalanceStep::Seat(_)
                | BalanceStep::Springs { .. }
                | BalanceStep::Pull
        ) {
            self.doubt(before);
        }
        self.angle = self.rest();
        if self.has_claw() {
            self.crowns(stood, self.angle)
        } else {
            // A tail turns behind a bridge that stays where it is.
            (Length::ZERO, Length::ZERO)
        }
    }

    /// What moved the plate is known no better than a share of how far it moved: arms were read with a
    /// rule. The next reading is believed before such a prediction.
    fn doubt(&mut self, before_mm: Option<f64>) {
        let moved = before_mm.zip(self.look(Sees::Gap));
        let doubt = moved.map_or(CLAW_SIGMA_MM / 2.0, |(before, (now, slope))| {
            let by_claw = slope[CLAW].abs().max(1e-3);
            ((now - before) * MOVED_SHARE / by_claw).min(CLAW_SIGMA_MM)
        });
        self.filter.p[(CLAW, CLAW)] += doubt * doubt;
    }

    fn adjusted(&mut self, further: Length) {
        self.filter.x[CLAW] += further.mm();
        self.filter.p[(CLAW, CLAW)] += CLAW_PLAY_MM * CLAW_PLAY_MM;
        self.stale();
    }

    fn learn(&mut self, sees: Sees, read_mm: f64, sigma: f64) {
        if self.look(sees).is_none() {
            // Believed to balance nowhere within reach, and yet it stands there: the claw is elsewhere.
            let gap = match sees {
                Sees::Gap => Length::from_mm(read_mm),
                Sees::Spring => self.target(),
            };
            let angle = self.angle_of(gap);
            if let Ok(further) = self.claw_for(self.pull, angle) {
                let claw = self.filter.x[CLAW] + further.mm();
                self.filter.reset(CLAW, claw, CLAW_SIGMA_MM / 2.0);
            }
        }
        // Three times, for the model bends: each time from where the last one led.
        let before = self.filter.clone();
        for _ in 0..3 {
            let Some((here, slope)) = self.look(sees) else {
                return;
            };
            let shift = slope.dot(&(&self.filter.x - &before.x));
            let mut next = before.clone();
            next.observe(&slope, read_mm - here + shift, sigma * sigma);
            self.filter = next;
        }
    }

    fn note(&mut self, written: String) {
        let fresh = self.last.as_ref().map_or(0, |(_, fresh)| *fresh) + 1;
        self.last = Some((written, fresh));
    }

    fn stale(&mut self) {
        if let Some((_, fresh)) = &mut self.last {
            *fresh = 0;
        }
    }

    /// How crowns move from one angle to another: back, and up.
    pub(crate) fn crowns(&self, from: Angle, to: Angle) -> (Length, Length) {
        let (x0, z0) = self.plate.crown(from);
        let (x1, z1) = self.plate.crown(to);
        (x1 - x0, z1 - z0)
    }

    /// Takes the gap as read just now, at what is predicted.
    pub(crate) fn take_as_read(&mut self) {
        self.note(String::new());
    }
}
