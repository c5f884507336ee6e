//! The vibrato and the pickups on the list.

use gradimen_core::quantity::{Estimate, Length};
use gradimen_core::units::print;

use super::{ExpectedReading, Reading, Station, WholeMove, WholePlan, eighths};
use crate::balance::{BalanceAction, BalancePlan};
use crate::job::Job;
use crate::setup::{PickupAction, Pole, SetupPlan};

impl WholePlan {
    pub(super) fn balance(&mut self, job: &Job, balance: &BalancePlan) {
        match &balance.action {
            BalanceAction::Read => {
                self.wait(Station::Balance, "read the gap under the vibrato, at pitch")
            }
            BalanceAction::Leave => {}
            BalanceAction::Springs(Some(count)) => self.wait(
                Station::Balance,
                format!("these springs cannot: {count} could"),
            ),
            BalanceAction::Springs(None) => {
                self.wait(
                    Station::Balance,
                    "no number of these springs can: other springs",
                );
            }
            BalanceAction::Turn(step) => self.moves.push(WholeMove {
                station: Station::Balance,
                adjuster: balance.record.kind.adjuster().to_owned(),
                strings: Vec::new(),
                distance: Some(step.distance),
                turns: Some(step.total),
                direction: step.in_words(balance.record.kind, eighths(step.total)),
                rounds: step.rounds,
                expected: vec![ExpectedReading {
                    string: job.instrument().strings,
                    fret: 0,
                    value: Reading::Gap(Estimate::new(balance.target, step.expected.sigma)),
                }],
            }),
        }
    }

    pub(super) fn pickups(&mut self, job: &Job, setup: &SetupPlan) {
        let read_any = setup
            .pickups
            .iter()
            .flat_map(|pickup| &pickup.sides)
            .any(|side| side.quantity.last.is_some());
        for pickup in &setup.pickups {
            for side in &pickup.sides {
                match &side.action {
                    PickupAction::Read if read_any => self.wait(
                        Station::Pickups,
                        format!(
                            "read the gap of the {} pickup, {} side",
                            pickup.name,
                            side.side.key()
                        ),
                    ),
                    PickupAction::Read | PickupAction::Leave => {}
                    PickupAction::AtEnd { short_by, .. } => self.wait(
                        Station::Pickups,
                        format!(
                            "the {} pickup, {} side, is at its end and {:.1} mm short",
                            pickup.name,
                            side.side.key(),
                            short_by.mm()
                        ),
                    ),
                    PickupAction::Turn(step) => self.moves.push(WholeMove {
                        station: Station::Pickups,
                        adjuster: format!("{} pickup, {} side", pickup.name, side.side.key()),
                        strings: Vec::new(),
                        distance: Some(step.distance),
                        turns: Some(step.turns),
                        direction: format!(
                            "{}, {} {}",
                            if step.distance > Length::ZERO {
                                "nearer"
                            } else {
                                "away"
                            },
                            print::turns_with_word(step.turns),
                            step.rotation
                        ),
                        rounds: 1,
                        expected: vec![ExpectedReading {
                            string: job.geometry().string_of(side.side),
                            fret: job.instrument().frets,
                            value: Reading::Gap(step.expected),
                        }],
                    }),
                }
            }
            for pole in &pickup.poles {
                let Some(turns) = pole.next_turn() else {
                    continue;
                };
                self.moves.push(WholeMove {
                    station: Station::Pickups,
                    adjuster: format!("{} pickup, pole", pickup.name),
                    strings: vec![pole.string],
                    distance: Some(pole.gap - pole.even),
                    turns: Some(turns),
                    direction: Pole::direction(turns),
                    rounds: 1,
                    expected: Vec::new(),
                });
            }
        }
        if !read_any && !setup.pickups.is_empty() {
            self.wait(Station::Pickups, "read the gaps of the pickups");
        }
    }
}
