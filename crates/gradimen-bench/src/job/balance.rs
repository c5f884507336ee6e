//! The fold of what is told of a vibrato.

use gradimen_core::quantity::Length;

use super::setup::bounded;
use super::{Job, JobError, sound};
use crate::balance::BalanceStep;
use crate::event::Event;
use crate::hardware::VibratoKind;

/// A plate further up than this is off its edge.
const HIGHEST_TAIL: Length = Length::from_mm(15.0);
/// No one turns a claw further than this in one go.
const MOST_CLAW_TURNS: f64 = 10.0;
/// No seat goes further than this.
const MOST_SEAT: Length = Length::from_mm(8.0);
/// No claw stands further from its wall.
const WIDEST_CAVITY: Length = Length::from_mm(40.0);

impl Job {
    pub(super) fn apply_balance(&mut self, event: &Event) -> Result<(), JobError> {
        match event {
            Event::BalanceRead { gap, kept } => {
                let kind = self.vibrato_kind()?;
                match gap {
                    Some(gap) => {
                        sound(gap, "gap under the vibrato")?;
                        if gap.low < Length::ZERO || gap.high > HIGHEST_TAIL {
                            return Err(JobError::Value {
                                what: "gap under the vibrato",
                                read: gap.written.clone(),
                                expected: "0 to 15 mm",
                            });
                        }
                        self.weigh(BalanceStep::Read(gap.clone(), *kept));
                    }
                    None if kind == VibratoKind::BodySprings => self.weigh(BalanceStep::Flat),
                    None => {
                        return Err(JobError::Value {
                            what: "gap under the vibrato",
                            read: "flat".to_owned(),
                            expected: "the gap before the pivot: a tail does not lie flat",
                        });
                    }
                }
            }
            Event::ClawTurned { turns, apart } => {
                self.with_claw()?;
                for turns in [turns, apart] {
                    bounded(
                        *turns,
                        MOST_CLAW_TURNS,
                        "turns of the claw",
                        "at most 10 either way",
                    )?;
                }
                self.weigh(BalanceStep::Claw(*turns, *apart));
            }
            Event::SeatMoved { by } => {
                let kind = self.vibrato_kind()?;
                sound(by, "move of the spring's seat")?;
                if kind == VibratoKind::BodySprings || by.middle().abs() > MOST_SEAT {
                    return Err(JobError::Value {
                        what: "move of the spring's seat",
                        read: by.written.clone(),
                        expected: "at most 8 mm, on a vibrato with one spring in its tail or under its arm",
                    });
                }
                self.weigh(BalanceStep::Seat(by.middle()));
            }
            Event::SpringMeasured { length } => {
                self.vibrato_kind()?;
                sound(length, "length of a spring")?;
                if !(5.0..=150.0).contains(&length.middle().mm()) {
                    return Err(JobError::Value {
                        what: "length of a spring",
                        read: length.written.clone(),
                        expected: "5 to 150 mm, from hook to hook or from seat to seat",
                    });
                }
                self.weigh(BalanceStep::Spring(length.clone()));
            }
            Event::ClawEnds { treble, bass } => {
                self.with_claw()?;
                for end in [treble, bass] {
                    sound(end, "distance of the claw from its wall")?;
                    if end.low < Length::ZERO || end.high > WIDEST_CAVITY {
                        return Err(JobError::Value {
                            what: "distance of the claw from its wall",
                            read: end.written.clone(),
                            expected: "0 to 40 mm",
                        });
                    }
                }
                self.weigh(BalanceStep::Ends([treble.clone(), bass.clone()]));
            }
            Event::SpringsHooked { count, converging } => {
                self.with_claw()?;
                if !(1..=5).contains(count) {
                    return Err(JobError::Value {
                        what: "springs",
                        read: count.to_string(),
                        expected: "1 to 5",
                    });
                }
                self.weigh(BalanceStep::Springs {
                    count: *count,
                    converging: *converging,
                });
            }
            Event::BalanceWanted { school } => {
                self.with_claw()?;
                self.balance_school = Some(*school);
            }
            _ => {}
        }
        Ok(())
    }

    fn vibrato_kind(&self) -> Result<VibratoKind, JobError> {
        match &self.instrument.bridge.vibrato {
            Some(record) => Ok(record.kind),
            None => Err(JobError::Value {
                what: "vibrato",
                read: "a bridge without one on its record".to_owned(),
                expected: "a vibrato on the instrument's record",
            }),
        }
    }

    fn with_claw(&self) -> Result<(), JobError> {
        match self.vibrato_kind()? {
            VibratoKind::BodySprings => Ok(()),
            VibratoKind::TailSpring | VibratoKind::ArmSpring => Err(JobError::Value {
                what: "vibrato",
                read: "one spring in the tail or under the arm".to_owned(),
                expected: "springs in the body on a claw",
            }),
        }
    }
}
