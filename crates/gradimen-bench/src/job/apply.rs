//! One event more: what each kind of entry changes.

use gradimen_core::intonation::Heights;
use gradimen_core::quantity::{Cents, Length, Turns};

use super::{Job, JobError, SaddleStep};
use crate::balance::BalanceStep;
use crate::event::{Against, Entry, Event, HeightsGiven};
use crate::geometry::GeometryStep;
use crate::record::Measured;

/// One standard deviation of a distance read with a rule to half a millimetre division.
const RULE_SIGMA: Length = Length::from_mm(0.2);
/// A pull that changes by less than this share bends no neck.
const PULL_UNCHANGED: f64 = 0.005;

impl Job {
    pub(super) fn apply(&mut self, entry: &Entry) -> Result<(), JobError> {
        match &entry.event {
            Event::Opened(_) => return Err(JobError::OpenedTwice(entry.seq)),
            Event::Undone { .. } | Event::Redone { .. } => {}
            Event::PlayerChanged { player } => self.player = player.clone(),
            Event::HeightsGiven { heights } => {
                check_heights(heights)?;
                self.heights = heights.clone();
                self.lay(GeometryStep::Given(heights.clone()));
            }
            event @ (Event::ReliefRead { .. }
            | Event::RodTurned { .. }
            | Event::RodStopped { .. }
            | Event::NutRead { .. }
            | Event::NutMoved { .. }
            | Event::ActionRead { .. }
            | Event::HeightMoved { .. }
            | Event::HeightAtEnd { .. }
            | Event::NeckShimmed { .. }
            | Event::TargetsSet { .. }
            | Event::BuzzHeard { .. }
            | Event::BalanceRead { .. }
            | Event::ClawTurned { .. }
            | Event::SeatMoved { .. }
            | Event::SpringMeasured { .. }
            | Event::ClawEnds { .. }
            | Event::SpringsHooked { .. }
            | Event::BalanceWanted { .. }
            | Event::PickupRead { .. }
            | Event::PickupTurned { .. }
            | Event::PoleRead { .. }
            | Event::PoleTurned { .. }
            | Event::PickupAtEnd { .. }
            | Event::PickupWanted { .. }
            | Event::LevelRead { .. }) => self.apply_setup(event)?,
            Event::Strung { strung } => {
                // As the strings lay until now.
                self.lie()?;
                let before = self.strung();
                let states = self.strings.clone();
                let pull = self.total_pull();
                self.string(strung)?;
                let change = self.total_pull().ratio(pull) - 1.0;
                for saddle in &mut self.saddles {
                    let on = |&string: &u8| states[usize::from(string - 1)].clone();
                    let before = saddle.strings.iter().map(on).collect();
                    saddle.steps.push(SaddleStep::Restrung { before });
                }
                if before.set != strung.set {
                    self.old_strings = false;
                }
                if change.abs() > PULL_UNCHANGED {
                    self.lay(GeometryStep::Pull { change });
                    self.weigh(BalanceStep::Pull);
                }
                self.previous = Some(before);
            }
            Event::CoreMeasured { string, core } => {
                let index = self.index(*string)?;
                sound(core, "core diameter")?;
                self.strings[index].record.core = Some(core.clone());
            }
            Event::CutOffWeighed { string, weighing } => {
                let index = self.index(*string)?;
                sound(&weighing.length, "length of the piece")?;
                self.strings[index].record.weighed = Some(weighing.clone());
            }
            Event::StringsAged { old } => self.old_strings = *old,
            Event::TunerChosen { tuner } => {
                if !(0.01..=10.0).contains(&tuner.resolution_cents) {
                    return Err(JobError::Value {
                        what: "tuner resolution",
                        read: format!("{} cents", tuner.resolution_cents),
                        expected: "0.01 to 10 cents",
                    });
                }
                self.tuner = tuner.clone();
                self.tuner_chosen = true;
            }
            Event::ScaleMeasured {
                string,
                nut_to_twelfth,
            } => {
                let index = self.index(*string)?;
                sound(nut_to_twelfth, "nut to fret 12")?;
                self.nut_to_twelfth[index] = Some(nut_to_twelfth.clone());
            }
            Event::SaddleMeasured {
                string,
                twelfth_to_saddle,
            } => {
                self.index(*string)?;
                sound(twelfth_to_saddle, "fret 12 to saddle")?;
                let sigma = RULE_SIGMA.max(twelfth_to_saddle.half_width());
                let step = SaddleStep::Placed {
                    string: *string,
                    from_twelfth: twelfth_to_saddle.middle(),
                    sigma,
                };
                self.saddle_mut(*string)?.steps.push(step);
            }
            Event::RoomMeasured { string, behind } => {
                sound(behind, "room behind the saddle")?;
                let step = SaddleStep::Room {
                    behind: behind.middle(),
                };
                self.saddle_mut(*string)?.steps.push(step);
            }
            Event::IntonationRead {
                string,
                fret,
                cents,
                against,
                kept,
            } => {
                self.index(*string)?;
                self.check_reading(*string, *fret, *cents, *against)?;
                let step = SaddleStep::Read {
                    seq: entry.seq,
                    string: *string,
                    fret: *fret,
                    cents: Cents::new(*cents),
                    against: *against,
                    kept: *kept,
                };
                self.saddle_mut(*string)?.steps.push(step);
            }
            Event::SaddleMoved { string, turns } => {
                if !turns.is_finite() || turns.abs() > 40.0 {
                    return Err(JobError::Value {
                        what: "turns of a saddle screw",
                        read: turns.to_string(),
                        expected: "at most 40 either way",
                    });
                }
                let saddle = self.saddle_mut(*string)?;
                saddle.stuck = false;
                // No turns at all only say that the screw turns after all.
                if *turns != 0.0 {
                    let turns = Turns::new(*turns);
                    saddle.steps.push(SaddleStep::Moved { turns });
                }
            }
            Event::SaddleTurnedRound { string } => {
                if self.instrument.bridge.intonation.turn_round <= Length::ZERO {
                    return Err(JobError::Value {
                        what: "turning a saddle round",
                        read: "a bridge whose saddles cannot be turned".to_owned(),
                        expected: "a gain on the instrument's record",
                    });
                }
                self.saddle_mut(*string)?
                    .steps
                    .push(SaddleStep::TurnedRound);
            }
            Event::BridgeMoved { by } => {
                sound(by, "move of the bridge")?;
                for saddle in &mut self.saddles {
                    saddle
                        .steps
                        .push(SaddleStep::BridgeMoved { by: by.middle() });
                }
            }
            Event::ScrewStuck { string } => self.saddle_mut(*string)?.stuck = true,
            Event::Preferred { string, alone } => {
                self.saddle_mut(*string)?.preferred = alone.then_some(*string);
            }
            Event::Noted { text } => self.notes.push(text.clone()),
            Event::StageSet { stage } => self.stage = *stage,
        }
        Ok(())
    }

    fn check_reading(
        &self,
        string: u8,
        fret: u8,
        cents: f64,
        against: Against,
    ) -> Result<(), JobError> {
        if fret == 0 || fret > self.instrument.frets {
            return Err(JobError::NoSuchFret {
                read: fret,
                frets: self.instrument.frets,
            });
        }
        if cents.is_nan() || cents.abs() > 100.0 {
            return Err(JobError::Value {
                what: "fretted note",
                read: format!("{cents} cents"),
                expected: "-100 to +100 cents",
            });
        }
        let speaking = &self.strings[self.index(string)?].speaking;
        speaking.true_error(fret, Cents::new(cents), against.reference(), Length::ZERO)?;
        Ok(())
    }
}

/// Heights given by hand, on both sides, have to be such that a string can lie there.
pub(super) fn check_heights(given: &HeightsGiven) -> Result<(), JobError> {
    for (first, twelfth) in [
        (&given.first_fret_treble, &given.twelfth_treble),
        (&given.first_fret_bass, &given.twelfth_bass),
    ] {
        sound(first, "height of the strings")?;
        sound(twelfth, "height of the strings")?;
        Heights::new(first.middle(), twelfth.middle())?;
    }
    Ok(())
}

pub(super) fn sound(measured: &Measured, what: &'static str) -> Result<(), JobError> {
    if measured.is_sound() {
        Ok(())
    } else {
        Err(JobError::Value {
            what,
            read: measured.written.clone(),
            expected: "a length",
        })
    }
}
