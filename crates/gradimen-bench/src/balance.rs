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
//! A quarter turn of the claw can move the plate several times as far once the strings have been
//! brought back to pitch, since they answer with their full pull at the new angle: so every reading
//! is taken at pitch, turns are small, and the second one already knows this plate.

use gradimen_core::quantity::{Angle, Cents, Estimate, Force, Length, Rate, Turns};
use gradimen_core::thread::Rotation;
use gradimen_core::vibrato::{Held, Hooked, Plate, VibratoError};

use crate::event::BalanceSchool;
use crate::geometry::reading_sigma;
use crate::hardware::VibratoRecord;
use crate::job::Job;
use crate::kalman::Filter;
use crate::plan::Verdict;
use crate::record::Measured;

const CLAW_SIGMA_MM: f64 = 4.0;
const RATE_LOG_SIGMA: f64 = 0.15;
/// Play of the claw's screws.
const CLAW_PLAY_MM: f64 = 0.05;
/// What the model leaves out, as gap: friction of the edge, strings that catch (common practice).
const REST_SIGMA_MM: f64 = 0.12;
/// A gap is right within this (common practice: what can be seen).
pub const TOLERANCE: Length = Length::from_mm(0.3);
/// A claw is turned by no more than this before the strings are brought back to pitch.
const MOST_TURNS: f64 = 4.0;
/// A small float (common practice: 2 to 3 mm).
const SMALL_FLOAT: Length = Length::from_mm(2.5);
/// A decked plate stays down through a bend of so many semitones on one string.
const BEND_SEMITONES: f64 = 2.0;
/// Screws of a claw hold over so much.
const CLAW_TRAVEL: Length = Length::from_mm(14.0);
/// Hooks there are for springs.
const MOST_SPRINGS: u8 = 5;
/// Outer springs of a converging set lie so far aside at the claw, each further out one more.
const CONVERGES: Length = Length::from_mm(8.0);

/// Something that happened to plate, springs or claw, with the strings' pull at that time.
#[derive(Debug, Clone, PartialEq)]
pub enum BalanceStep {
    /// The gap under the tail was read.
    Read(Measured),
    /// The plate was found flat on the body.
    Flat,
    /// Both screws of the claw were turned; positive is in.
    Claw(f64),
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

/// What to do about the balance.
#[derive(Debug, Clone, PartialEq)]
pub enum BalanceAction {
    /// Read the gap (again).
    Read,
    /// Turn both screws of the claw.
    Turn(ClawMove),
    /// Nothing.
    Leave,
    /// These springs cannot; so many could.
    Springs(Option<u8>),
}

/// A turn of the claw, both screws alike.
#[derive(Debug, Clone, PartialEq)]
pub struct ClawMove {
    /// This round; positive is in.
    pub turns: Turns,
    /// Which way, seen on the heads.
    pub rotation: Rotation,
    /// All of it.
    pub total: Turns,
    /// Rounds expected, this one included.
    pub rounds: u32,
    /// The gap after this round, at pitch.
    pub expected: Estimate<Length>,
    /// How far the claw has to go in all; positive is in.
    pub distance: Length,
    /// The gap that one more turn makes, at pitch.
    pub per_turn: Length,
}

/// What the plate does to a string.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Range {
    /// Which string.
    pub string: u8,
    /// How far it can be pulled up until the tail is down.
    pub up: Cents,
    /// How far the others fall when this one is bent a whole step.
    pub bent: Cents,
}

/// The balance station.
#[derive(Debug, Clone, PartialEq)]
pub struct BalancePlan {
    /// As recorded, with the springs that are on.
    pub record: VibratoRecord,
    /// The gap now, at pitch.
    pub now: Estimate<Length>,
    /// The last reading, and how often it was read since the claw was turned.
    pub last: Option<(String, usize)>,
    /// The gap that is wanted.
    pub target: Length,
    /// The school it is wanted by.
    pub school: BalanceSchool,
    /// How it stands.
    pub verdict: Verdict,
    /// What to do.
    pub action: BalanceAction,
    /// The pull of all strings.
    pub pull: Force,
    /// What holds a decked plate down beyond the strings; negative when it is up.
    pub spare: Force,
    /// What that has to be.
    pub spare_wanted: Force,
    /// Pull-up range and the answer to a bend, string by string.
    pub ranges: Vec<Range>,
    /// How far the others go sharp when the thickest string breaks.
    pub broken: Option<Cents>,
    /// How far in the claw stands, and where it is wanted.
    pub claw: (Length, Length),
    /// Angle of the plate now.
    pub angle: Angle,
}

/// What is known of a plate.
#[derive(Debug, Clone, PartialEq)]
pub struct Balance {
    record: VibratoRecord,
    plate: Plate,
    school: BalanceSchool,
    filter: Filter,
    pull: Force,
    last: Option<(String, usize)>,
    /// Where the plate stood after each step.
    angles: Vec<Angle>,
}

const CLAW: usize = 0;
const RATE: usize = 1;

impl Balance {
    /// Before anything was read.
    pub(crate) fn new(record: &VibratoRecord, school: BalanceSchool, pull: Force) -> Self {
        let mut filter = Filter::new(2);
        filter.reset(CLAW, 0.0, CLAW_SIGMA_MM);
        filter.reset(RATE, 0.0, RATE_LOG_SIGMA);
        let mut balance = Self {
            plate: record.plate(),
            record: record.clone(),
            school,
            filter,
            pull,
            last: None,
            angles: Vec::new(),
        };
        // Someone balanced it once: the claw stands about where it should.
        let level = balance.angle_of(balance.target());
        let claw = balance.claw_for(pull, level).unwrap_or(Length::ZERO);
        balance.filter.x[CLAW] = claw.mm();
        balance.angles.push(balance.rest());
        balance
    }

    fn target(&self) -> Length {
        match self.school {
            BalanceSchool::Decked => Length::ZERO,
            BalanceSchool::SmallFloat => self.record.level_gap.middle() + SMALL_FLOAT,
            BalanceSchool::Level => self.record.level_gap.middle(),
        }
    }

    fn angle_of(&self, gap: Length) -> Angle {
        self.plate.angle_of(gap - self.record.level_gap.middle())
    }

    fn gap_of(&self, angle: Angle) -> Length {
        (self.record.level_gap.middle() + self.plate.gap(angle)).max(Length::ZERO)
    }

    /// The angle at which the tail lies on the body.
    fn down(&self) -> Angle {
        self.angle_of(Length::ZERO)
    }

    fn springs_at(&self, claw_mm: f64, log_rate: f64, count: u8) -> Vec<Hooked> {
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

    fn springs(&self) -> Vec<Hooked> {
        self.springs_at(
            self.filter.x[CLAW],
            self.filter.x[RATE],
            self.record.springs,
        )
    }

    fn rest_at(&self, claw_mm: f64, log_rate: f64) -> Angle {
        let hooked = self.springs_at(claw_mm, log_rate, self.record.springs);
        // What does not balance is pulled right up; what would go below lies on the body.
        let highest = self.plate.angle_of(self.record.tail_back.middle() * 0.28);
        self.plate
            .rest(self.pull, &hooked)
            .unwrap_or(if self.plate.held_down(self.pull, &hooked) > Force::ZERO {
                self.down()
            } else {
                highest
            })
            .max(self.down())
            .min(highest)
    }

    fn rest(&self) -> Angle {
        self.rest_at(self.filter.x[CLAW], self.filter.x[RATE])
    }

    fn claw_for(&self, pull: Force, angle: Angle) -> Result<Length, VibratoError> {
        self.plate.claw_for(pull, &self.springs(), angle)
    }

    /// The gap the model gives without the body in its way, so that it has a slope everywhere.
    fn free_gap(&self, claw_mm: f64, log_rate: f64) -> Option<f64> {
        let hooked = self.springs_at(claw_mm, log_rate, self.record.springs);
        let angle = self.plate.rest(self.pull, &hooked).ok()?;
        Some((self.record.level_gap.middle() + self.plate.gap(angle)).mm())
    }

    fn slope(&self) -> Option<nalgebra::DVector<f64>> {
        let (claw, rate) = (self.filter.x[CLAW], self.filter.x[RATE]);
        let here = self.free_gap(claw, rate)?;
        let by_claw = (self.free_gap(claw + 0.02, rate)? - here) / 0.02;
        let by_rate = (self.free_gap(claw, rate + 0.002)? - here) / 0.002;
        Some(self.filter.unit(&[(CLAW, by_claw), (RATE, by_rate)]))
    }

    /// Takes a step in; `pull` is the strings' pull then.
    pub(crate) fn step(&mut self, step: &BalanceStep, pull: Force) {
        self.pull = pull;
        match step {
            BalanceStep::Read(gap) => {
                let sigma = reading_sigma(gap).mm().hypot(REST_SIGMA_MM);
                self.learn(gap.middle().mm(), sigma);
                self.note(gap.written.clone());
            }
            BalanceStep::Flat => {
                // It says nothing but that the springs win; believed up, it comes down to the body.
                let free = self.free_gap(self.filter.x[CLAW], self.filter.x[RATE]);
                let held = self.plate.held_down(self.pull, &self.springs()) > Force::ZERO;
                if free.map_or(!held, |gap| gap > 0.0) {
                    self.learn(-0.2, 0.3);
                }
                self.note("flat".to_owned());
            }
            BalanceStep::Claw(turns) => {
                self.filter.x[CLAW] += self.record.claw_pitch.middle().mm() * turns;
                self.filter.p[(CLAW, CLAW)] += CLAW_PLAY_MM * CLAW_PLAY_MM;
                self.stale();
            }
            BalanceStep::Springs { count, converging } => {
                self.record.springs = *count;
                self.record.converging = *converging;
                self.stale();
            }
            BalanceStep::Pull => self.stale(),
        }
        self.angles.push(self.rest());
    }

    fn learn(&mut self, read_mm: f64, sigma: f64) {
        if self.slope().is_none() {
            // Believed to balance nowhere within reach, and yet it stands there: the claw is elsewhere.
            let angle = self.angle_of(Length::from_mm(read_mm));
            if let Ok(further) = self.claw_for(self.pull, angle) {
                let claw = self.filter.x[CLAW] + further.mm();
                self.filter.reset(CLAW, claw, CLAW_SIGMA_MM / 2.0);
            }
        }
        // Three times, for the model bends: each time from where the last one led.
        let before = self.filter.clone();
        for _ in 0..3 {
            let (claw, rate) = (self.filter.x[CLAW], self.filter.x[RATE]);
            let (Some(slope), Some(here)) = (self.slope(), self.free_gap(claw, rate)) else {
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

    /// How crowns move from one step to another: back, and up.
    pub(crate) fn moved(&self, step: usize) -> (Length, Length) {
        let at = |index: usize| self.angles.get(index).copied().unwrap_or(Angle::ZERO);
        let (x0, z0) = self.plate.crown(at(step));
        let (x1, z1) = self.plate.crown(at(step + 1));
        (x1 - x0, z1 - z0)
    }
}

fn held(job: &Job) -> Vec<Held> {
    (1..)
        .zip(job.strings())
        .map(|(string, state)| {
            let scale = job.instrument().scale(string);
            Held {
                tension: state.tension(scale),
                stretch: state.spec.stretch_stiffness(),
                free: scale
                    + job.instrument().bridge.behind_saddle.middle()
                    + Length::from_mm(100.0),
                speaking: scale,
            }
        })
        .collect()
}

impl BalancePlan {
    /// Works the station out; nothing for bridges without a vibrato on record.
    pub fn of(job: &Job) -> Option<Self> {
        let balance = job.balance()?;
        let strings = held(job);
        let springs = balance.springs();
        let angle = balance.rest();
        let gap = balance.gap_of(angle);
        let sigma = balance
            .slope()
            .map_or(1.0, |slope| balance.filter.variance_along(&slope).sqrt());
        let target = balance.target();
        let now = Estimate::new(gap, Length::from_mm(sigma));
        let hardest = strings
            .iter()
            .map(|held| held.tension)
            .fold(Force::ZERO, Force::max);
        let spare_wanted = hardest * (2f64.powf(BEND_SEMITONES / 6.0) - 1.0);
        let spare = balance.plate.held_down(balance.pull, &springs);
        let mut plan = Self {
            record: balance.record.clone(),
            now,
            last: balance.last.clone(),
            target,
            school: balance.school,
            verdict: Verdict::Unread,
            action: BalanceAction::Read,
            pull: balance.pull,
            spare,
            spare_wanted,
            ranges: ranges(balance, &strings, &springs, angle),
            broken: broken(balance, &strings, &springs, angle),
            claw: (Length::from_mm(balance.filter.x[CLAW]), Length::ZERO),
            angle,
        };
        plan.decide(balance);
        Some(plan)
    }

    fn decide(&mut self, balance: &Balance) {
        let decked = self.school == BalanceSchool::Decked;
        // A decked plate is held for the pull of a bend at the angle at which it lies down.
        let (pull, angle) = if decked {
            (self.pull + self.spare_wanted, balance.down())
        } else {
            (self.pull, balance.angle_of(self.target))
        };
        let further = balance.claw_for(pull, angle);
        let reach = |distance: Length| {
            let stands = self.claw.0 + distance;
            stands.abs() <= CLAW_TRAVEL
        };
        self.claw.1 = self.claw.0 + further.unwrap_or(Length::ZERO);
        let fresh = self.last.as_ref().map_or(0, |(_, fresh)| *fresh);
        let off = self.now.value - self.target;
        let right = if decked {
            self.now.value <= TOLERANCE && self.spare >= self.spare_wanted * 0.85
        } else {
            off.abs() <= TOLERANCE
        };
        self.verdict = match (fresh, right) {
            (0, _) if self.last.is_none() => Verdict::Unread,
            (0, _) => Verdict::Recheck,
            (_, true) => Verdict::Within,
            _ if off > Length::ZERO || (decked && self.spare < self.spare_wanted) => Verdict::Above,
            _ => Verdict::Below,
        };
        self.action = match further {
            _ if fresh == 0 => BalanceAction::Read,
            _ if right => BalanceAction::Leave,
            Ok(distance) if reach(distance) => {
                BalanceAction::Turn(self.claw_move(balance, distance))
            }
            _ => BalanceAction::Springs(self.enough(balance, pull, angle)),
        };
    }

    fn claw_move(&self, balance: &Balance, distance: Length) -> ClawMove {
        let pitch = balance.record.claw_pitch.middle();
        let total = distance.ratio(pitch);
        let eighths = |turns: f64| (turns * 8.0).round() / 8.0;
        let step = eighths(total.clamp(-MOST_TURNS, MOST_TURNS));
        let step = if step == 0.0 {
            0.125 * total.signum()
        } else {
            step
        };
        let (claw, rate) = (balance.filter.x[CLAW], balance.filter.x[RATE]);
        let after = balance.rest_at(claw + pitch.mm() * step, rate);
        let one = balance.rest_at(claw + pitch.mm() * 0.25, rate);
        let per_turn = (balance.gap_of(one) - self.now.value) * 4.0;
        let wider = Length::from_mm(
            self.now
                .sigma
                .mm()
                .hypot(per_turn.mm() * step * 0.15)
                .hypot(REST_SIGMA_MM),
        );
        ClawMove {
            turns: Turns::new(step),
            rotation: if step > 0.0 {
                Rotation::Clockwise
            } else {
                Rotation::Counterclockwise
            },
            total: Turns::new(total),
            rounds: (total.abs() / MOST_TURNS).ceil().max(1.0) as u32,
            expected: Estimate::new(balance.gap_of(after), wider),
            distance,
            per_turn,
        }
    }

    /// How many springs could hold the plate where it is wanted.
    fn enough(&self, balance: &Balance, pull: Force, angle: Angle) -> Option<u8> {
        (1..=MOST_SPRINGS).find(|count| {
            let hooked = balance.springs_at(balance.filter.x[CLAW], balance.filter.x[RATE], *count);
            balance
                .plate
                .claw_for(pull, &hooked, angle)
                .is_ok_and(|distance| (self.claw.0 + distance).abs() <= CLAW_TRAVEL)
        })
    }

    /// The move, where there is one.
    pub const fn next_move(&self) -> Option<&ClawMove> {
        match &self.action {
            BalanceAction::Turn(step) => Some(step),
            _ => None,
        }
    }
}

fn ranges(balance: &Balance, strings: &[Held], springs: &[Hooked], rest: Angle) -> Vec<Range> {
    let down = balance.plate.back(rest, balance.down());
    (1_u8..)
        .zip(strings)
        .map(|(string, own)| {
            let others: Vec<Held> = strings
                .iter()
                .zip(1_u8..)
                .filter(|(_, other)| *other != string)
                .map(|(held, _)| *held)
                .collect();
            let pulled = own.tension * 2f64.powf(BEND_SEMITONES / 6.0);
            let answered = balance
                .plate
                .answers(rest, springs, &others, pulled)
                .map_or(rest, |angle| angle.max(balance.down()));
            let fall = balance.plate.back(rest, answered);
            let mean = others.iter().map(|held| held.cents(fall)).sum::<Cents>()
                / others.len().max(1) as f64;
            Range {
                string,
                up: own.cents(down),
                bent: mean,
            }
        })
        .collect()
}

fn broken(balance: &Balance, strings: &[Held], springs: &[Hooked], rest: Angle) -> Option<Cents> {
    let (_, others) = strings.split_last()?;
    let angle = balance
        .plate
        .answers(rest, springs, others, Force::ZERO)
        .map_or(balance.down(), |angle| angle.max(balance.down()));
    let back = balance.plate.back(rest, angle);
    Some(others.iter().map(|held| held.cents(back)).sum::<Cents>() / others.len().max(1) as f64)
}
