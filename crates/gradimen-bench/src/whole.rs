//! The whole-job plan: every move in the order of the bench, each adjuster once.
//!
//! Each move is worked out on the instrument as the moves before it will leave it: the rod lifts
//! the nut, nut and neck change the heights, and the saddles are placed for the heights to come.

mod parts;
mod saddle;

use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::units::print::{self};

use crate::balance::{BalanceAction, BalancePlan};
use crate::event::Side;
use crate::job::Job;
use crate::plan::{Action, Plan};
use crate::setup::{FILE_MARGIN, HeightAction, NutAction, PickupAction, ReliefAction, SetupPlan};

/// A station of the bench that turns something.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash)]
pub enum Station {
    /// The vibrato.
    Balance,
    /// The rod.
    Relief,
    /// The slots.
    Nut,
    /// The height screws.
    Height,
    /// The saddles.
    Intonation,
    /// The pickups.
    Pickups,
}

impl Station {
    /// Its word.
    pub const fn key(self) -> &'static str {
        match self {
            Self::Balance => "balance",
            Self::Relief => "relief",
            Self::Nut => "nut",
            Self::Height => "height",
            Self::Intonation => "intonation",
            Self::Pickups => "pickups",
        }
    }
}

/// Where on the bench the work stands: the first station, in its order, that asks for something a
/// setup can do.
pub fn next_station(plan: &Plan) -> Option<Station> {
    let slots = plan.setup.nut.strings.iter();
    let heights = plan.setup.height.adjusters.iter();
    let saddles = plan.saddles.iter();
    let unbalanced = |balance: &BalancePlan| balance.action != BalanceAction::Leave;
    if plan.balance.as_ref().is_some_and(unbalanced) {
        Some(Station::Balance)
    } else if plan.setup.relief.action != ReliefAction::Leave {
        Some(Station::Relief)
    } else if slots
        .into_iter()
        .any(|slot| matches!(slot.action, NutAction::Read | NutAction::File { .. }))
    {
        Some(Station::Nut)
    } else if heights.into_iter().any(|adjuster| {
        matches!(
            adjuster.action,
            HeightAction::Read(_) | HeightAction::Turn(_)
        )
    }) {
        Some(Station::Height)
    } else if saddles.into_iter().any(|saddle| {
        !matches!(
            saddle.action,
            Action::Leave | Action::Blocked | Action::Stuck
        )
    }) {
        Some(Station::Intonation)
    } else if plan
        .setup
        .pickups
        .iter()
        .flat_map(|pickup| &pickup.sides)
        .any(|side| matches!(side.action, PickupAction::Read | PickupAction::Turn(_)))
    {
        Some(Station::Pickups)
    } else {
        None
    }
}

/// A reading to expect after a move.
#[derive(Debug, Clone, PartialEq)]
pub struct ExpectedReading {
    /// Along which string.
    pub string: u8,
    /// Over which fret.
    pub fret: u8,
    /// How much.
    pub value: Reading,
}

/// A reading with its doubt.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum Reading {
    /// A gap or a height.
    Gap(Estimate<Length>),
    /// A fretted note.
    Note(Estimate<Cents>),
}

/// One line of the whole plan.
#[derive(Debug, Clone, PartialEq)]
pub struct WholeMove {
    /// Where on the bench.
    pub station: Station,
    /// What is turned or filed.
    pub adjuster: String,
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// How far: the saddle away from the neck, the string up, the neck's gap wider.
    pub distance: Option<Length>,
    /// In turns of its screw, signed like the distance; the rod positive when tightened.
    pub turns: Option<Turns>,
    /// Which way, in words.
    pub direction: String,
    /// Rounds expected, where it is not done at once.
    pub rounds: u32,
    /// What the next readings will be.
    pub expected: Vec<ExpectedReading>,
}

/// A line that waits for a reading first, or cannot go on.
#[derive(Debug, Clone, PartialEq)]
pub struct Waiting {
    /// Where on the bench.
    pub station: Station,
    /// What is needed, in words.
    pub says: String,
}

/// All of it.
#[derive(Debug, Clone, PartialEq, Default)]
pub struct WholePlan {
    /// The moves, in the order of the bench.
    pub moves: Vec<WholeMove>,
    /// Readings without which some moves are not known, and what is stopped.
    pub waiting: Vec<Waiting>,
}

impl WholePlan {
    /// Works the list out.
    pub fn of(job: &Job, plan: &Plan) -> Self {
        let mut whole = Self::default();
        if let Some(balance) = &plan.balance {
            whole.balance(job, balance);
        }
        whole.relief(job, &plan.setup);
        whole.nut(&plan.setup);
        whole.height(job, &plan.setup);
        let mut places = Vec::new();
        for saddle in &plan.saddles {
            whole.saddle(job, plan, saddle, &mut places);
        }
        if !places.is_empty() {
            whole.wait(
                Station::Intonation,
                format!(
                    "set the saddles from the crown of fret 12, then read: {}",
                    places.join(", ")
                ),
            );
        }
        whole.pickups(job, &plan.setup);
        whole
    }

    fn wait(&mut self, station: Station, says: impl Into<String>) {
        self.waiting.push(Waiting {
            station,
            says: says.into(),
        });
    }

    fn relief(&mut self, job: &Job, setup: &SetupPlan) {
        match &setup.relief.action {
            ReliefAction::Read(sides) => {
                let names: Vec<&str> = sides.iter().map(|side| side.key()).collect();
                self.wait(
                    Station::Relief,
                    format!("read relief, {} side", names.join(" and ")),
                );
            }
            ReliefAction::Blocked => self.wait(Station::Relief, "stopped: see what was found"),
            ReliefAction::Leave => {}
            ReliefAction::Turn(step) => {
                let rounds = if step.rounds > 1 {
                    format!(
                        ", {} rounds, never more than a quarter at once",
                        step.rounds
                    )
                } else {
                    String::new()
                };
                self.moves.push(WholeMove {
                    station: Station::Relief,
                    adjuster: "rod".to_owned(),
                    strings: Vec::new(),
                    distance: Some(-step.off),
                    turns: Some(step.total),
                    direction: format!(
                        "{} {}, about {} turn in all{rounds}",
                        if step.total > Turns::ZERO {
                            "tighten,"
                        } else {
                            "loosen,"
                        },
                        step.rotation,
                        print::turns(eighths(step.total)),
                    ),
                    rounds: step.rounds,
                    expected: Side::ALL
                        .into_iter()
                        .zip(&setup.relief.sides)
                        .map(|(side, quantity)| ExpectedReading {
                            string: job.geometry().string_of(side),
                            fret: setup.targets.relief_span.at,
                            value: Reading::Gap(Estimate::new(quantity.after, quantity.now.sigma)),
                        })
                        .collect(),
                });
            }
        }
    }

    fn nut(&mut self, setup: &SetupPlan) {
        let mut unread = Vec::new();
        for slot in &setup.nut.strings {
            match &slot.action {
                NutAction::Read => unread.push(slot.string.to_string()),
                // Found and said elsewhere: there is nothing to turn.
                NutAction::TooLow { .. } | NutAction::Leave => {}
                NutAction::File { total, .. } => self.moves.push(WholeMove {
                    station: Station::Nut,
                    adjuster: "nut slot".to_owned(),
                    strings: vec![slot.string],
                    distance: Some(-*total),
                    turns: None,
                    direction: format!(
                        "file {} ({}) off, the last {} after reading again",
                        print::mm(hundredths(*total)),
                        print::thou(*total),
                        print::mm(FILE_MARGIN)
                    ),
                    rounds: 2,
                    expected: vec![ExpectedReading {
                        string: slot.string,
                        fret: 1,
                        value: Reading::Gap(Estimate::new(
                            slot.quantity.after,
                            slot.quantity.now.sigma,
                        )),
                    }],
                }),
            }
        }
        if !unread.is_empty() {
            self.wait(
                Station::Nut,
                format!("read the nut at string {}", unread.join(", ")),
            );
        }
    }

    fn height(&mut self, job: &Job, setup: &SetupPlan) {
        let mut unread = Vec::new();
        for adjuster in &setup.height.adjusters {
            match &adjuster.action {
                HeightAction::Read(strings) => unread.extend(strings.iter().map(u8::to_string)),
                HeightAction::Leave => {}
                HeightAction::AtEnd { short_by, .. } => self.wait(
                    Station::Height,
                    format!(
                        "{}: at its end, {} short",
                        adjuster.adjuster.name(),
                        print::tenths(*short_by)
                    ),
                ),
                HeightAction::Turn(step) => self.moves.push(WholeMove {
                    station: Station::Height,
                    adjuster: format!("height, {}", adjuster.adjuster.name()),
                    strings: adjuster.strings.clone(),
                    distance: Some(step.distance),
                    turns: Some(step.turns),
                    direction: format!(
                        "{}, {} {}",
                        if step.distance > Length::ZERO {
                            "up"
                        } else {
                            "down"
                        },
                        print::turns_with_word(step.turns),
                        step.rotation
                    ),
                    rounds: 1,
                    expected: step
                        .expected
                        .iter()
                        .map(|(string, value)| ExpectedReading {
                            string: *string,
                            fret: setup.height.fret,
                            value: Reading::Gap(*value),
                        })
                        .collect(),
                }),
            }
        }
        unread.sort();
        unread.dedup();
        if !unread.is_empty() {
            let held = if job.geometry().read_any() {
                ""
            } else {
                " first"
            };
            self.wait(
                Station::Height,
                format!("read the height of string {}{held}", unread.join(", ")),
            );
        }
    }
}

fn eighths(turns: Turns) -> Turns {
    Turns::new(((turns.value().abs() * 8.0).round() / 8.0).max(0.125))
}

fn hundredths(value: Length) -> Length {
    Length::from_mm((value.mm() * 100.0).round() / 100.0)
}
