//! What can be told to a job on this instrument: which places there are to read and which adjusters to move.

use gradimen_core::action::{levers, levers_behind};
use gradimen_core::intonation::Heights;

use super::{Job, JobError, stringing};
use crate::model::hardware::{Lifts, SaddleDrive, VibratoKind};
use crate::model::limits::{self, LimitError};
use crate::model::{
    Adjuster, Amount, HeightsGiven, Keyed, Note, Observation, Place, Player, Reading, Reference,
    Side, Symptom, Taught, Wanted,
};

impl Job {
    pub(super) fn index(&self, string: u8) -> Result<usize, JobError> {
        let strings = self.instrument.strings;
        if (1..=strings).contains(&string) {
            Ok(usize::from(string - 1))
        } else {
            Err(JobError::NoSuchString {
                read: string,
                strings,
            })
        }
    }

    pub(super) fn saddle_index(&self, string: u8) -> Result<usize, JobError> {
        self.index(string)?;
        // The record has been checked: every string has a saddle.
        Ok(self.instrument.bridge.saddle_of(string).unwrap_or(0))
    }

    fn pickup(&self, pickup: u8) -> Result<(), JobError> {
        let pickups = self.instrument.pickups.len();
        if usize::from(pickup) < pickups {
            Ok(())
        } else {
            Err(JobError::NoSuchPickup {
                read: usize::from(pickup) + 1,
                pickups,
            })
        }
    }

    fn vibrato(&self) -> Result<VibratoKind, JobError> {
        let record = self.instrument.bridge.vibrato.as_ref();
        record.map(|record| record.kind).ok_or(JobError::NotHere {
            what: "vibrato",
            why: "this bridge has none on its record",
        })
    }

    fn claw(&self) -> Result<(), JobError> {
        match self.vibrato()? {
            VibratoKind::BodySprings => Ok(()),
            VibratoKind::TailSpring | VibratoKind::ArmSpring => Err(JobError::NotHere {
                what: "claw",
                why: "this vibrato has one spring in its tail or under its arm",
            }),
        }
    }

    /// Whether a height over a fret can be read on a string held there.
    fn height(&self, string: u8, held: u8, at: u8) -> Result<(), JobError> {
        let tops = &self.tops[self.index(string)?];
        let found = if held > at {
            levers_behind(tops, held, at)
        } else {
            levers(tops, tops.scale(), held, at)
        };
        found?;
        Ok(())
    }

    fn relief(&self, side: Side, span: crate::model::ReliefSpan) -> Result<(), JobError> {
        let string = self.instrument.string_of(side);
        self.tops[self.index(string)?].relief(span.span())?;
        Ok(())
    }

    /// Whether a place is on this instrument, and a value could be found there.
    pub(super) fn check_reading(&self, place: Place, value: &Reading) -> Result<(), JobError> {
        if let Some(string) = place.string() {
            self.index(string)?;
        }
        match (place, value) {
            (Place::Relief { side, span }, Reading::Touches | Reading::Rocks) => {
                return self.relief(side, span);
            }
            (Place::Relief { side, span }, _) => {
                self.relief(side, span)?;
            }
            (Place::Nut { string, held }, _) => {
                self.height(string, held, 1)?;
            }
            (Place::Action { string, fret, held }, _) => {
                self.height(string, held, fret)?;
            }
            (Place::Intonation { fret, .. }, value) => return self.check_note(fret, value),
            (Place::Gap, Reading::Flat) => {
                return match self.vibrato()? {
                    VibratoKind::BodySprings => Ok(()),
                    VibratoKind::TailSpring | VibratoKind::ArmSpring => Err(JobError::NotHere {
                        what: "flat",
                        why: "a tail does not lie flat: read the gap before its pivot",
                    }),
                };
            }
            (Place::Gap, _) => {
                self.vibrato()?;
            }
            (Place::Spring, _) => {
                self.vibrato()?;
            }
            (Place::ClawEnds, Reading::Ends { treble, bass }) => {
                self.claw()?;
                for end in [treble, bass] {
                    limits::length(end, &limits::CLAW_END)?;
                }
                return Ok(());
            }
            (Place::ClawEnds, _) => return Err(misfit("claw to its wall", "two lengths")),
            (Place::Pickup { pickup, .. } | Place::PolePiece { pickup, .. }, _) => {
                self.pickup(pickup)?;
            }
            (
                Place::Level { pickup, .. },
                Reading::Level {
                    decibels,
                    doubt_decibels,
                },
            ) => {
                self.pickup(pickup)?;
                limits::either_way("level", *decibels, limits::DECIBELS, "dB")?;
                if let Some(doubt) = *doubt_decibels {
                    limits::either_way("doubt of a level", doubt, limits::DECIBELS, "dB")?;
                }
                return Ok(());
            }
            (Place::Level { .. }, _) => return Err(misfit("level", "decibels")),
            (
                Place::Scale { .. }
                | Place::Saddle { .. }
                | Place::Room { .. }
                | Place::Core { .. },
                _,
            ) => {}
            (Place::CutOff { .. }, Reading::Weighed { weighing }) => {
                return stringing::weighing(weighing);
            }
            (Place::CutOff { .. }, _) => return Err(misfit("cut-off", "a length and a weight")),
            (Place::RodCheck, Reading::RodNut { turns_left, .. }) => {
                limits::number("turns left", *turns_left, &limits::ROD_THREAD, "turns")?;
                return Ok(());
            }
            (Place::RodCheck, _) => return Err(misfit("nut of the truss rod", "turns left")),
            (Place::Rock { fret, .. }, Reading::Rock { .. }) => return self.rocked(fret),
            (Place::Rock { .. }, _) => return Err(misfit("rocker", "how far it rocks")),
        }
        let within = limits::of_place(place).ok_or_else(|| misfit("reading", "no length"))?;
        let length = value
            .length()
            .ok_or_else(|| misfit(within.what, "a length"))?;
        limits::length(length, &within)?;
        Ok(())
    }

    /// A rocker stands on three frets.
    fn rocked(&self, fret: u8) -> Result<(), JobError> {
        if (2..self.instrument.frets).contains(&fret) {
            Ok(())
        } else {
            Err(JobError::NoSuchFret {
                read: fret,
                frets: self.instrument.frets,
            })
        }
    }

    fn check_note(&self, fret: u8, value: &Reading) -> Result<(), JobError> {
        if fret == 0 || fret > self.instrument.frets {
            return Err(JobError::NoSuchFret {
                read: fret,
                frets: self.instrument.frets,
            });
        }
        let Reading::Note {
            cents,
            against,
            resolution_cents,
            ..
        } = value
        else {
            return Err(misfit("fretted note", "cents"));
        };
        limits::either_way("fretted note", *cents, limits::CENTS, "cents")?;
        if let Some(resolution) = resolution_cents {
            resolves(*resolution)?;
        }
        if *against == Reference::Harmonic && fret != 12 {
            return Err(gradimen_core::intonation::IntonationError::HarmonicFret(fret).into());
        }
        Ok(())
    }

    /// Whether this instrument has an adjuster.
    pub(super) fn check_adjuster(&self, adjuster: Adjuster) -> Result<(), JobError> {
        let bridge = &self.instrument.bridge;
        match adjuster {
            Adjuster::Claw | Adjuster::Springs => self.claw(),
            Adjuster::Seat => match self.vibrato()? {
                VibratoKind::TailSpring | VibratoKind::ArmSpring => Ok(()),
                VibratoKind::BodySprings => Err(JobError::NotHere {
                    what: "seat",
                    why: "this vibrato has its springs on a claw",
                }),
            },
            Adjuster::TrussRod | Adjuster::Bridge => Ok(()),
            Adjuster::Bar if bridge.details.drive == SaddleDrive::Bar => Ok(()),
            Adjuster::Bar => Err(JobError::NotHere {
                what: "bar",
                why: "the saddles of this bridge do not stand on one bar, by the instrument's record",
            }),
            Adjuster::NutSlots { strings } => {
                if strings.is_empty() {
                    return Err(misfit("move of the nut", "at least one string"));
                }
                strings.iter().try_for_each(|string| {
                    self.index(string)?;
                    Ok(())
                })
            }
            Adjuster::SaddleHeight { string } => {
                self.index(string)?;
                match bridge.lifts() {
                    Lifts::EachString | Lifts::Both => Ok(()),
                    Lifts::TwoPosts => Err(JobError::NotHere {
                        what: "height screws of a string",
                        why: "this bridge is lifted by its two posts",
                    }),
                    Lifts::Nothing => Err(JobError::NotHere {
                        what: "height screws of a string",
                        why: "no screw lifts these saddles, by the instrument's record",
                    }),
                }
            }
            Adjuster::Post { .. } => match bridge.lifts() {
                Lifts::TwoPosts | Lifts::Both => Ok(()),
                Lifts::EachString => Err(JobError::NotHere {
                    what: "post",
                    why: "on this bridge every string has screws of its own",
                }),
                Lifts::Nothing => Err(JobError::NotHere {
                    what: "post",
                    why: "no screw lifts this bridge, by the instrument's record",
                }),
            },
            Adjuster::SaddleDrive { string } => {
                self.index(string)?;
                Ok(())
            }
            Adjuster::Pocket { .. } if self.instrument.neck.bolted => Ok(()),
            Adjuster::Pocket { .. } => Err(JobError::NotHere {
                what: "shim",
                why: "this neck is glued in, by the instrument's record",
            }),
            Adjuster::PickupScrew { pickup, .. } => self.pickup(pickup),
            Adjuster::PolePiece { pickup, string } => {
                self.index(string)?;
                self.pickup(pickup)?;
                let record = &self.instrument.pickups[usize::from(pickup)];
                if record.pole_pitch.is_some() {
                    Ok(())
                } else {
                    Err(JobError::NotHere {
                        what: "pole screw",
                        why: "the pole pieces of this pickup are fixed, by the instrument's record",
                    })
                }
            }
        }
    }

    /// Whether an adjuster can have been moved so.
    pub(super) fn check_move(&self, adjuster: Adjuster, amount: &Amount) -> Result<(), JobError> {
        if let (Adjuster::SaddleHeight { string }, Amount::Distance { distance }) =
            (adjuster, amount)
        {
            // A saddle can be shimmed or cut whatever lifts it.
            self.index(string)?;
            limits::length(distance, &limits::SADDLE_CUT)?;
            return Ok(());
        }
        self.check_adjuster(adjuster)?;
        let turns = |name: &str, turns: f64, most: f64| -> Result<(), JobError> {
            limits::either_way(name, turns, most, "turns")?;
            Ok(())
        };
        match (adjuster, amount) {
            (Adjuster::TrussRod, Amount::Turns { turns: by }) => {
                turns("turns of the truss rod", *by, limits::ROD_TURNS)
            }
            (Adjuster::Claw, Amount::Turns { turns: by }) => {
                turns("turns of the claw", *by, limits::CLAW_TURNS)
            }
            (Adjuster::Claw, Amount::Apart { turns: by, apart }) => {
                for by in [by, apart] {
                    limits::either_way("turns of the claw", *by, limits::CLAW_TURNS, "turns")?;
                }
                Ok(())
            }
            (
                Adjuster::SaddleHeight { .. }
                | Adjuster::Post { .. }
                | Adjuster::PickupScrew { .. }
                | Adjuster::PolePiece { .. },
                Amount::Turns { turns: by },
            ) => turns("turns of a screw", *by, limits::SCREW_TURNS),
            (Adjuster::SaddleDrive { .. }, Amount::Turns { turns: by }) => {
                turns("turns of a saddle screw", *by, limits::SADDLE_TURNS)
            }
            (Adjuster::SaddleDrive { .. }, Amount::Reversed) => {
                if self.instrument.bridge.intonation.turn_round.mm() > 0.0 {
                    Ok(())
                } else {
                    Err(JobError::NotHere {
                        what: "saddle reversed",
                        why: "the saddles of this bridge cannot be, by the instrument's record",
                    })
                }
            }
            (Adjuster::Bar, Amount::Ends { treble, bass }) => {
                limits::length(treble, &limits::BAR_MOVE)?;
                limits::length(bass, &limits::BAR_MOVE)?;
                Ok(())
            }
            (Adjuster::Springs, Amount::Springs { count, .. }) => {
                let (low, high) = (limits::SPRINGS.start(), limits::SPRINGS.end());
                let allowed = usize::from(*low)..=usize::from(*high);
                limits::count("springs", usize::from(*count), &allowed)?;
                Ok(())
            }
            (adjuster, Amount::Distance { distance }) => {
                let within = match adjuster {
                    Adjuster::Seat => &limits::SEAT_MOVE,
                    Adjuster::NutSlots { .. } => &limits::NUT_MOVE,
                    Adjuster::SaddleDrive { .. } | Adjuster::Bridge => &limits::BRIDGE_MOVE,
                    Adjuster::Pocket { .. } => &limits::SHIM,
                    _ => return Err(misfit("move", "turns")),
                };
                limits::length(distance, within)?;
                Ok(())
            }
            (_, Amount::Turns { .. } | Amount::Apart { .. }) => Err(misfit("move", "a distance")),
            (_, Amount::Springs { .. } | Amount::Ends { .. } | Amount::Reversed) => {
                Err(misfit("move", "turns or a distance"))
            }
        }
    }

    pub(super) fn check_wanted(&self, wanted: &Wanted) -> Result<(), JobError> {
        match wanted {
            Wanted::Setup { targets } => {
                for side in Side::ALL {
                    self.relief(side, targets.relief_span)?;
                }
                self.height(1, 0, targets.action_fret)?;
                self.height(1, targets.nut_held, 1)?;
                for (name, measured, within) in [
                    ("relief to reach", &targets.relief, &limits::RELIEF),
                    (
                        "gap over fret 1 to reach",
                        &targets.nut_treble,
                        &limits::NUT,
                    ),
                    ("gap over fret 1 to reach", &targets.nut_bass, &limits::NUT),
                    ("action to reach", &targets.action_treble, &limits::ACTION),
                    ("action to reach", &targets.action_bass, &limits::ACTION),
                ] {
                    limits::named_length(name, measured, within)?;
                }
                for (name, given) in targets.tolerances.lengths() {
                    limits::named_length(name, given, &limits::TOLERANCE)?;
                }
                if let Some(cents) = targets.tolerances.intonation_cents {
                    limits::number(
                        "tolerance of the intonation",
                        cents,
                        &limits::CENTS_TOLERANCE,
                        "cents",
                    )?;
                }
                if let Some(cents) = targets.intonation_aim_cents {
                    limits::number("aim of the intonation", cents, &limits::CENTS_AIM, "cents")?;
                }
                Ok(())
            }
            Wanted::Balance { .. } => self.claw(),
            Wanted::Pickup {
                pickup,
                treble,
                bass,
            } => {
                self.pickup(*pickup)?;
                for gap in [treble, bass] {
                    limits::named_length("gap of a pickup to reach", gap, &limits::PICKUP_GAP)?;
                }
                Ok(())
            }
            Wanted::SharedSaddle { string, .. } => {
                self.index(*string)?;
                Ok(())
            }
            Wanted::Player { player } => self::player(player),
        }
    }

    pub(super) fn check_observed(&self, what: &Observation) -> Result<(), JobError> {
        match what {
            Observation::Buzz { buzz } => {
                self.index(buzz.string)?;
                if buzz.held >= self.instrument.frets {
                    return Err(JobError::NoSuchFret {
                        read: buzz.held,
                        frets: self.instrument.frets - 1,
                    });
                }
                limits::number(
                    "how hard it was played, as a share of the hardest stroke",
                    buzz.attack,
                    &limits::ATTACK,
                    "",
                )?;
                Ok(limits::share("how well that is known", buzz.doubt)?)
            }
            Observation::Strings { .. }
            | Observation::Checked { .. }
            | Observation::PlayedThrough => Ok(()),
            Observation::Stretched { cents } => {
                let within = -limits::DRIFT..=limits::DRIFT;
                limits::number("how far a string fell", *cents, &within, "cents")?;
                Ok(())
            }
            Observation::Complaint { complaint } => {
                limits::text("what the player says", &complaint.words)?;
                limits::text("what the player likes", &complaint.liked)?;
                let (most, told) = (Symptom::all().count(), complaint.symptoms.len());
                limits::count("symptoms", told, &(0..=most))?;
                Ok(())
            }
            Observation::Played { note, sure, .. } => {
                limits::share("how sure it was heard", *sure)?;
                self.index(note.string)?;
                if note.fret > self.instrument.frets {
                    return Err(JobError::NoSuchFret {
                        read: note.fret,
                        frets: self.instrument.frets,
                    });
                }
                Ok(())
            }
            Observation::Practised { what } => {
                if self.practice.is_none() {
                    return Err(JobError::NotPractised);
                }
                Ok(what.check()?)
            }
            Observation::Pressed { note, .. } => self.check_fret(*note),
            Observation::Edged {
                note,
                low,
                high,
                gap,
            } => {
                self.check_fret(*note)?;
                for fret in [*low, *high] {
                    self.check_fret(Note { fret, ..*note })?;
                }
                if !(*low < note.fret && note.fret < *high) {
                    let read = format!("fret {} between {low} and {high}", note.fret);
                    let expected = "a fret between the two that it rests on";
                    return Err(LimitError::new("straightedge", read, expected).into());
                }
                limits::length(gap, &limits::EDGE)?;
                Ok(())
            }
            Observation::Worn { note, depth } => {
                self.check_fret(*note)?;
                limits::length(depth, &limits::WEAR)?;
                Ok(())
            }
            Observation::Crown { height } => {
                self.check_fret(Note { string: 1, fret: 1 })?;
                limits::length(height, &limits::CROWN)?;
                Ok(())
            }
            Observation::Fretwork { work, fret, taken } => {
                let fretted = fret.unwrap_or(1);
                self.check_fret(Note {
                    string: 1,
                    fret: fretted,
                })?;
                if work.is_of_all() != fret.is_none() {
                    let expected = if work.is_of_all() {
                        "no fret in particular"
                    } else {
                        "a fret"
                    };
                    return Err(misfit(work.name(), expected));
                }
                if let Some(taken) = taken {
                    limits::length(taken, &limits::TAKEN)?;
                }
                Ok(())
            }
            Observation::Humidity { percent } => Ok(limits::humidity(*percent)?),
            Observation::AsItCame { heights } => self::heights(heights),
            Observation::Tuner { tuner } => {
                limits::line("name of the tuner", &tuner.name)?;
                resolves(tuner.resolution_cents)
            }
        }
    }
}

impl Job {
    /// A fret under a string: there is one, and the board has frets.
    fn check_fret(&self, note: Note) -> Result<(), JobError> {
        self.index(note.string)?;
        let frets = self.instrument.frets;
        if self.instrument.construction.fretless {
            return Err(misfit("a fret", "a board with frets"));
        }
        if !(1..=frets).contains(&note.fret) {
            return Err(JobError::NoSuchFret {
                read: note.fret,
                frets,
            });
        }
        Ok(())
    }
}

fn resolves(cents: f64) -> Result<(), JobError> {
    limits::number("tuner resolution", cents, &limits::RESOLUTION, "cents")?;
    Ok(())
}

fn misfit(what: &str, expected: &str) -> JobError {
    LimitError::new(what, "something else", expected).into()
}

pub(super) fn player(player: &Player) -> Result<(), JobError> {
    limits::line("style", &player.style)?;
    Ok(())
}

/// Heights given by hand, on both sides, have to be such that a string can lie there.
pub(super) fn heights(given: &HeightsGiven) -> Result<(), JobError> {
    for (first, twelfth) in [
        (&given.first_fret_treble, &given.twelfth_treble),
        (&given.first_fret_bass, &given.twelfth_bass),
    ] {
        limits::length(first, &limits::FIRST_FRET)?;
        limits::length(twelfth, &limits::TWELFTH)?;
        Heights::new(first.middle(), twelfth.middle())?;
    }
    Ok(())
}

/// What earlier visits taught: each behaviour once, with a number that it can have.
pub(super) fn taught(taught: &[Taught]) -> Result<(), JobError> {
    for (index, one) in taught.iter().enumerate() {
        one.check()?;
        if taught[..index].iter().any(|other| other.of == one.of) {
            return Err(LimitError::new("taught", one.of.key(), "each once").into());
        }
    }
    Ok(())
}
