//! The fold of what is told at the geometry stations.

use gradimen_core::quantity::Length;

use super::{Buzz, Job, JobError, sound};
use crate::event::{Event, Gap, HeightAdjuster, Targets};
use crate::geometry::{GeometryError, GeometryStep};
use crate::record::Measured;

/// No one turns a rod further than this in one go.
const MOST_ROD_TURNS: f64 = 2.0;
/// No one turns a height screw further than this in one go.
pub(super) const MOST_HEIGHT_TURNS: f64 = 30.0;
/// Gaps and heights beyond this were meant otherwise.
const HIGHEST: Length = Length::from_mm(10.0);

impl Job {
    pub(super) fn apply_setup(&mut self, event: &Event) -> Result<(), JobError> {
        match event {
            Event::ReliefRead {
                side,
                span,
                seen,
                kept,
            } => {
                if let Gap::Open { gap } = seen {
                    height(gap, "relief")?;
                }
                self.geometry
                    .relief_sight(*side, span.span())
                    .map_err(GeometryError::from)?;
                self.lay(GeometryStep::Relief {
                    side: *side,
                    span: *span,
                    seen: seen.clone(),
                    converted: *span != self.targets().relief_span,
                    kept: *kept,
                });
            }
            Event::RodTurned { turns } => {
                bounded(
                    *turns,
                    MOST_ROD_TURNS,
                    "turns of the rod",
                    "at most 2 either way, and a quarter at once is plenty",
                )?;
                self.rod_stop = None;
                if *turns != 0.0 {
                    self.lay(GeometryStep::Rod(*turns));
                }
            }
            Event::RodStopped { how } => self.rod_stop = Some(*how),
            Event::NutRead {
                string,
                held,
                gap,
                kept,
            } => {
                self.index(*string)?;
                height(gap, "gap over fret 1")?;
                self.geometry
                    .action_sight(*string, *held, 1)
                    .map_err(GeometryError::from)?;
                self.lay(GeometryStep::Nut {
                    string: *string,
                    held: *held,
                    gap: gap.clone(),
                    kept: *kept,
                });
            }
            Event::NutMoved { strings, by } => {
                sound(by, "what was taken off the nut")?;
                if strings.is_empty() || by.middle().abs() > Length::from_mm(3.0) {
                    return Err(JobError::Value {
                        what: "move of the nut",
                        read: by.written.clone(),
                        expected: "at least one string, and at most 3 mm",
                    });
                }
                for string in strings {
                    self.index(*string)?;
                }
                self.lay(GeometryStep::NutMoved {
                    strings: strings.clone(),
                    by: by.middle(),
                });
            }
            Event::ActionRead {
                string,
                fret,
                held,
                gap,
                kept,
            } => {
                self.index(*string)?;
                height(gap, "height of a string")?;
                self.geometry
                    .action_sight(*string, *held, *fret)
                    .map_err(GeometryError::from)?;
                self.lay(GeometryStep::Action {
                    string: *string,
                    fret: *fret,
                    held: *held,
                    gap: gap.clone(),
                    kept: *kept,
                });
            }
            Event::HeightMoved { adjuster, turns } => {
                bounded(
                    *turns,
                    MOST_HEIGHT_TURNS,
                    "turns of a height screw",
                    "at most 30 either way",
                )?;
                self.check_adjuster(*adjuster)?;
                self.height_ends.retain(|(on, _)| on != adjuster);
                if *turns != 0.0 {
                    self.lay(GeometryStep::Height {
                        adjuster: *adjuster,
                        turns: *turns,
                    });
                }
            }
            Event::HeightAtEnd { adjuster, end } => {
                self.check_adjuster(*adjuster)?;
                self.height_ends.retain(|(on, _)| on != adjuster);
                self.height_ends.push((*adjuster, *end));
            }
            Event::NeckShimmed { shim, thickness } => {
                height(thickness, "thickness of a shim")?;
                if !self.instrument.neck.bolted {
                    return Err(JobError::Value {
                        what: "shim under a neck",
                        read: "a neck that is glued in".to_owned(),
                        expected: "a neck on screws, by the instrument's record",
                    });
                }
                // The saddles can go on: that is what it was for.
                self.height_ends.clear();
                self.lay(GeometryStep::Shimmed {
                    shim: *shim,
                    thickness: thickness.middle(),
                    pocket: self.instrument.neck.pocket.middle(),
                });
            }
            Event::TargetsSet { targets } => {
                self.check_targets(targets)?;
                self.targets = Some(targets.clone());
            }
            Event::BuzzHeard {
                string,
                held,
                attack,
            } => {
                self.index(*string)?;
                if *held >= self.instrument.frets {
                    return Err(JobError::NoSuchFret {
                        read: *held,
                        frets: self.instrument.frets - 1,
                    });
                }
                if !(0.05..=1.0).contains(attack) {
                    return Err(JobError::Value {
                        what: "how hard it was played",
                        read: format!("{:.0} %", attack * 100.0),
                        expected: "5 to 100 % of the player's hardest stroke",
                    });
                }
                self.buzzes.push(Buzz {
                    string: *string,
                    held: *held,
                    attack: *attack,
                });
            }
            other => {
                self.apply_balance(other)?;
                self.apply_pickups(other)?;
            }
        }
        Ok(())
    }

    fn check_adjuster(&self, adjuster: HeightAdjuster) -> Result<(), JobError> {
        if let HeightAdjuster::String(string) = adjuster {
            self.index(string)?;
        }
        self.geometry.check_adjuster(adjuster)?;
        Ok(())
    }

    fn check_targets(&self, targets: &Targets) -> Result<(), JobError> {
        for side in crate::event::Side::ALL {
            self.geometry
                .relief_sight(side, targets.relief_span.span())
                .map_err(GeometryError::from)?;
        }
        self.geometry
            .action_sight(1, 0, targets.action_fret)
            .map_err(GeometryError::from)?;
        self.geometry
            .action_sight(1, targets.nut_held, 1)
            .map_err(GeometryError::from)?;
        for (measured, what) in [
            (&targets.relief, "relief to reach"),
            (&targets.nut_treble, "gap over fret 1 to reach"),
            (&targets.nut_bass, "gap over fret 1 to reach"),
            (&targets.action_treble, "height to reach"),
            (&targets.action_bass, "height to reach"),
        ] {
            height(measured, what)?;
        }
        Ok(())
    }
}

pub(super) fn height(measured: &Measured, what: &'static str) -> Result<(), JobError> {
    sound(measured, what)?;
    if measured.low < Length::ZERO || measured.high > HIGHEST {
        return Err(JobError::Value {
            what,
            read: measured.written.clone(),
            expected: "0 to 10 mm",
        });
    }
    Ok(())
}

pub(super) fn bounded(
    value: f64,
    most: f64,
    what: &'static str,
    expected: &'static str,
) -> Result<(), JobError> {
    if value.is_finite() && value.abs() <= most {
        Ok(())
    } else {
        Err(JobError::Value {
            what,
            read: value.to_string(),
            expected,
        })
    }
}
