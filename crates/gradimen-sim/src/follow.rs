//! Doing what the plan says, one thing at a time, as a technician would.

use gradimen_bench::decision::{Action, Move, StationId, Stop};
use gradimen_bench::estimate::Estimate;
use gradimen_bench::journal::Event;
use gradimen_bench::model::{Adjuster, Place};
use gradimen_bench::plan::Plan;
use gradimen_core::intonation::IntonationError;

use crate::SimulatedInstrument;

impl SimulatedInstrument {
    /// Does the next thing the plan asks for and records it; nothing when there is nothing left that a setup
    /// can do.
    ///
    /// # Errors
    /// [`IntonationError`] never, on a board with twelve frets.
    pub fn follow(&mut self, known: &Estimate, plan: &Plan) -> Result<Vec<Event>, IntonationError> {
        let Some(next) = plan.next_station(known) else {
            return Ok(Vec::new());
        };
        if next == StationId::Action {
            // Of two posts the one that has furthest to go.
            return match plan.action.next_adjuster() {
                Some(adjuster) => self.act(&adjuster.action),
                None => Ok(Vec::new()),
            };
        }
        let station = plan
            .bench()
            .into_iter()
            .find(|station| station.id() == next);
        let tasks = station.map_or_else(Vec::new, |station| station.tasks(known));
        for task in &tasks {
            let told = self.act(&task.next)?;
            if !told.is_empty() {
                return Ok(told);
            }
        }
        Ok(Vec::new())
    }

    fn act(&mut self, action: &Action) -> Result<Vec<Event>, IntonationError> {
        match action {
            Action::Measure(places) => {
                let read = places.iter().map(|place| self.read(*place));
                let read: Result<Vec<Option<Event>>, IntonationError> = read.collect();
                Ok(read?.into_iter().flatten().collect())
            }
            Action::Adjust(step) => Ok(self.adjust(step).into_iter().collect()),
            Action::Stop(Stop::Springs {
                enough: Some(count),
            }) => Ok(vec![self.hook_springs(*count)]),
            Action::Stop(_) | Action::Leave => Ok(Vec::new()),
        }
    }

    /// Reads a place with the tool that belongs there; nothing where it has none.
    fn read(&mut self, place: Place) -> Result<Option<Event>, IntonationError> {
        Ok(match place {
            Place::Relief { side, span } => Some(self.read_relief(side, span)),
            Place::Nut { string, held } => Some(self.read_nut(string, held)),
            Place::Action { string, fret, .. } => Some(self.read_action(string, fret)),
            Place::Intonation { string, .. } => Some(self.read_cents(string)?),
            Place::Gap => Some(self.read_balance()),
            Place::Spring => self.measure_spring(),
            Place::Pickup { pickup, side } => Some(self.read_pickup(pickup, side)),
            Place::PolePiece { pickup, string } => Some(self.read_pole(pickup, string)),
            Place::ClawEnds
            | Place::Level { .. }
            | Place::Scale { .. }
            | Place::Saddle { .. }
            | Place::Room { .. }
            | Place::Core { .. }
            | Place::CutOff { .. }
            | Place::RodCheck
            | Place::Rock { .. } => None,
        })
    }

    /// Makes a move exactly as it is said.
    fn adjust(&mut self, step: &Move) -> Option<Event> {
        let turns = step.turns().value();
        Some(match step.adjuster {
            Adjuster::Claw => self.turn_claw(turns),
            Adjuster::Seat => self.move_seat(turns),
            Adjuster::TrussRod => self.turn_rod(turns),
            Adjuster::NutSlots { strings } => {
                self.file(strings.iter().next()?, step.distance.abs())
            }
            Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } => {
                self.turn_height(step.adjuster, turns)
            }
            Adjuster::SaddleDrive { string } => self.turn_saddle(string, turns),
            Adjuster::PickupScrew { pickup, side } => self.turn_pickup(pickup, side, turns),
            Adjuster::PolePiece { pickup, string } => self.turn_pole(pickup, string, turns),
            Adjuster::Springs | Adjuster::Bridge | Adjuster::Pocket { .. } => return None,
        })
    }
}
