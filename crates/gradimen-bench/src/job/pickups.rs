//! The fold of what is told of pickups.

use gradimen_core::quantity::{Level, Turns};

use super::setup::{MOST_HEIGHT_TURNS, bounded, height};
use super::{Job, JobError, LevelReading};
use crate::event::{Event, Side};
use crate::geometry::GeometryStep;

impl Job {
    pub(super) fn apply_pickups(&mut self, event: &Event) -> Result<(), JobError> {
        match event {
            Event::PickupRead {
                pickup,
                side,
                gap,
                kept,
            } => {
                height(gap, "gap of a pickup")?;
                self.geometry.pickup_sight(*pickup, *side)?;
                self.lay(GeometryStep::Pickup {
                    pickup: *pickup,
                    side: *side,
                    gap: gap.clone(),
                    kept: *kept,
                });
            }
            Event::PickupTurned {
                pickup,
                side,
                turns,
            } => {
                bounded(
                    *turns,
                    MOST_HEIGHT_TURNS,
                    "turns of a pickup's screw",
                    "at most 30 either way",
                )?;
                self.geometry.pickup_sight(*pickup, *side)?;
                self.pickup_ends.retain(|(on, _)| *on != (*pickup, *side));
                *self.pickup_turns.entry((*pickup, *side)).or_default() += Turns::new(*turns);
                self.lay(GeometryStep::PickupTurned {
                    pickup: *pickup,
                    side: *side,
                    turns: *turns,
                });
            }
            Event::PoleRead {
                pickup,
                string,
                gap,
            } => {
                self.index(*string)?;
                height(gap, "gap of a pole")?;
                self.geometry.pole_sight(*pickup, *string)?;
                self.lay(GeometryStep::Pole {
                    pickup: *pickup,
                    string: *string,
                    gap: gap.clone(),
                });
            }
            Event::PoleTurned {
                pickup,
                string,
                turns,
            } => {
                self.index(*string)?;
                bounded(
                    *turns,
                    MOST_HEIGHT_TURNS,
                    "turns of a pole screw",
                    "at most 30 either way",
                )?;
                let record = self.instrument.pickups.get(usize::from(*pickup));
                let pitch = record.and_then(|record| record.pole_pitch.as_ref());
                let Some(pitch) = pitch else {
                    return Err(JobError::Value {
                        what: "turns of a pole screw",
                        read: format!("pickup {}", pickup + 1),
                        expected: "a pickup whose poles are screws, by the instrument's record",
                    });
                };
                self.lay(GeometryStep::PoleMoved {
                    pickup: *pickup,
                    string: *string,
                    up: pitch.middle() * *turns,
                });
            }
            Event::PickupAtEnd { pickup, side, end } => {
                self.geometry.pickup_sight(*pickup, *side)?;
                let place = (*pickup, *side);
                self.pickup_ends.retain(|(on, _)| *on != place);
                self.pickup_ends.push((place, *end));
            }
            Event::PickupWanted {
                pickup,
                treble,
                bass,
            } => {
                self.geometry.pickup_sight(*pickup, Side::Bass)?;
                for gap in [treble, bass] {
                    height(gap, "gap of a pickup to reach")?;
                }
                self.pickups_wanted
                    .insert(*pickup, [treble.clone(), bass.clone()]);
            }
            Event::LevelRead {
                pickup,
                string,
                decibels,
            } => {
                self.index(*string)?;
                self.geometry.pickup_sight(*pickup, Side::Bass)?;
                bounded(*decibels, 150.0, "level of a pickup", "-150 to +150 dB")?;
                self.levels.push(LevelReading {
                    pickup: *pickup,
                    string: *string,
                    level: Level::from_decibels(*decibels),
                    at: self.geometry_steps.len() - 1,
                });
            }
            _ => {}
        }
        Ok(())
    }
}
