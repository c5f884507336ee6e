//! Doing what the plan says, one thing at a time, as a technician would.

use gradimen_bench::balance::BalanceAction;
use gradimen_bench::event::Event;
use gradimen_bench::hardware::VibratoKind;
use gradimen_bench::plan::{Action, Plan};
use gradimen_bench::setup::{HeightAction, NutAction, PickupAction, ReliefAction};
use gradimen_bench::whole::{Station, next_station};
use gradimen_core::intonation::IntonationError;

use crate::StandIn;

impl StandIn {
    /// Does the next thing the plan asks for and tells of it; nothing when there is nothing left
    /// that a setup can do.
    ///
    /// # Errors
    /// [`IntonationError`] never, on a board with twelve frets.
    pub fn follow(&mut self, plan: &Plan) -> Result<Vec<Event>, IntonationError> {
        match next_station(plan) {
            None => Ok(Vec::new()),
            Some(Station::Balance) => Ok(self.follow_balance(plan)),
            Some(Station::Relief) => Ok(self.follow_relief(plan)),
            Some(Station::Nut) => Ok(self.follow_nut(plan)),
            Some(Station::Height) => Ok(self.follow_height(plan)),
            Some(Station::Intonation) => self.follow_saddles(plan),
            Some(Station::Pickups) => Ok(self.follow_pickups(plan)),
        }
    }

    fn follow_balance(&mut self, plan: &Plan) -> Vec<Event> {
        let has_claw = plan
            .balance
            .as_ref()
            .is_some_and(|balance| balance.record.kind == VibratoKind::BodySprings);
        match plan.balance.as_ref().map(|balance| &balance.action) {
            Some(BalanceAction::Read) => vec![self.read_balance()],
            Some(BalanceAction::Turn(step)) if has_claw => {
                vec![self.turn_claw(step.turns.value())]
            }
            Some(BalanceAction::Turn(step)) => vec![self.move_seat(step.turns.value())],
            Some(BalanceAction::Springs(Some(count))) => vec![self.hook_springs(*count)],
            _ => Vec::new(),
        }
    }

    fn follow_relief(&mut self, plan: &Plan) -> Vec<Event> {
        match &plan.setup.relief.action {
            ReliefAction::Read(sides) => sides
                .iter()
                .map(|side| self.read_relief(*side, plan.setup.targets.relief_span))
                .collect(),
            ReliefAction::Turn(step) => vec![self.turn_rod(step.turns.value())],
            ReliefAction::Leave | ReliefAction::Blocked => Vec::new(),
        }
    }

    fn follow_nut(&mut self, plan: &Plan) -> Vec<Event> {
        for slot in &plan.setup.nut.strings {
            match slot.action {
                NutAction::Read => {
                    return vec![self.read_nut(slot.string, plan.setup.targets.nut_held)];
                }
                NutAction::File { first, .. } => return vec![self.file(slot.string, first)],
                NutAction::TooLow { .. } | NutAction::Leave => {}
            }
        }
        Vec::new()
    }

    fn follow_height(&mut self, plan: &Plan) -> Vec<Event> {
        let fret = plan.setup.height.fret;
        match plan.setup.height.next_adjuster() {
            Some(adjuster) => match &adjuster.action {
                HeightAction::Read(strings) => strings
                    .iter()
                    .map(|string| self.read_action(*string, fret))
                    .collect(),
                HeightAction::Turn(step) => {
                    vec![self.turn_height(adjuster.adjuster, step.turns.value())]
                }
                HeightAction::AtEnd { .. } | HeightAction::Leave => Vec::new(),
            },
            None => Vec::new(),
        }
    }

    fn follow_pickups(&mut self, plan: &Plan) -> Vec<Event> {
        for (pickup, known) in (0_u8..).zip(&plan.setup.pickups) {
            for side in &known.sides {
                match &side.action {
                    PickupAction::Read => return vec![self.read_pickup(pickup, side.side)],
                    PickupAction::Turn(step) => {
                        return vec![self.turn_pickup(pickup, side.side, step.turns.value())];
                    }
                    PickupAction::AtEnd { .. } | PickupAction::Leave => {}
                }
            }
        }
        Vec::new()
    }

    fn follow_saddles(&mut self, plan: &Plan) -> Result<Vec<Event>, IntonationError> {
        for saddle in &plan.saddles {
            let strings: Vec<u8> = saddle.strings().collect();
            match &saddle.action {
                Action::Start(None) => {
                    return strings
                        .iter()
                        .map(|string| self.read_cents(*string))
                        .collect();
                }
                Action::Read(unread) => {
                    return unread
                        .iter()
                        .map(|string| self.read_cents(*string))
                        .collect();
                }
                Action::Turn(step) | Action::Start(Some(step)) => {
                    return Ok(vec![self.turn_saddle(strings[0], step.turns.value())]);
                }
                Action::Leave | Action::Blocked | Action::Stuck => {}
            }
        }
        Ok(Vec::new())
    }
}
