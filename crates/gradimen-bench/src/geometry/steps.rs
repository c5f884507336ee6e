//! What happens to neck, nut and heights, and what the filter makes of it.

use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{
    BASS, Geometry, GeometryError, LastRead, Place, Sight, Snapshot, TREBLE, reading_sigma,
};
use crate::doubt::KEPT_WIDENING;
use crate::event::{Gap, HeightAdjuster, HeightsGiven, ReliefSpan, Shim, Side};
use crate::methods::tolerance;
use crate::record::Measured;

/// Heights that are only assumed: over fret 1 and over fret 12.
const ASSUMED_MM: (f64, f64) = (0.12, 0.4);
/// Heights from intake, measured on the outer strings.
const GIVEN_MM: (f64, f64) = (0.05, 0.1);
/// A string that touches may still have a hair of light under it.
const TOUCH_SIGMA_MM: f64 = 0.02;
/// A neck on which an edge rocks is bent backward, by hold 1 and last, read 8, by about so much ...
const ROCKS_MM: f64 = -0.12;
/// ... known no better than this: less is not felt, more is rare (common practice).
const ROCKS_SIGMA_MM: f64 = 0.06;
/// How well the rise of a plate is predicted, as a share.
const PLATE_SHARE: f64 = 0.25;
/// How much less a pickup on springs or foam moves than its screw says, as a share.
const PICKUP_GIVE: f64 = 0.1;
/// Filing by eye: a share of what was meant, and a hair.
const FILING: (f64, f64) = (0.25, 0.01);

/// Something that happened to neck, nut or heights.
#[derive(Debug, Clone, PartialEq)]
pub enum GeometryStep {
    /// Heights from intake.
    Given(HeightsGiven),
    /// Relief was read.
    Relief {
        /// Along which side.
        side: Side,
        /// How.
        span: ReliefSpan,
        /// What was seen.
        seen: Gap,
        /// By another school than the one the target is named in: necks are no parabolas, and a
        /// converted number is less certain.
        converted: bool,
        /// Kept against a question.
        kept: bool,
    },
    /// The gap over fret 1 was read.
    Nut {
        /// Which string.
        string: u8,
        /// Held where.
        held: u8,
        /// The gap.
        gap: Measured,
        /// Kept against a question.
        kept: bool,
    },
    /// A height was read.
    Action {
        /// Which string.
        string: u8,
        /// Over which fret.
        fret: u8,
        /// Held where.
        held: u8,
        /// The height.
        gap: Measured,
        /// Kept against a question.
        kept: bool,
    },
    /// The rod was turned; positive tightens.
    Rod(f64),
    /// Nut slots moved up.
    NutMoved {
        /// Which strings.
        strings: Vec<u8>,
        /// How far; negative when filed.
        by: Length,
    },
    /// A height adjuster was turned; positive raises.
    Height {
        /// Which.
        adjuster: HeightAdjuster,
        /// By how many turns.
        turns: f64,
    },
    /// The neck was put on a shim.
    Shimmed {
        /// Which sort.
        shim: Shim,
        /// Its thickness.
        thickness: Length,
        /// Length of the pocket.
        pocket: Length,
    },
    /// The plate of a vibrato turned with this step of its balance; how far is filled in when all of
    /// that is known.
    Plate(usize),
    /// The plate of a vibrato turned: all crowns rose by so much.
    PlateTurned {
        /// How far.
        up: Length,
    },
    /// The gap over a pickup was read.
    Pickup {
        /// Which.
        pickup: u8,
        /// At which side.
        side: Side,
        /// The gap.
        gap: Measured,
        /// Kept against a question.
        kept: bool,
    },
    /// A screw of a pickup was turned; positive brings it nearer.
    PickupTurned {
        /// Which.
        pickup: u8,
        /// At which side.
        side: Side,
        /// By how many turns.
        turns: f64,
    },
    /// The gap under a string over a pickup was read.
    Pole {
        /// Which pickup.
        pickup: u8,
        /// Which string.
        string: u8,
        /// The gap.
        gap: Measured,
    },
    /// A pole was moved.
    PoleMoved {
        /// Which pickup.
        pickup: u8,
        /// Under which string.
        string: u8,
        /// How far nearer to the string.
        up: Length,
    },
    /// The strings pull otherwise.
    Pull {
        /// Change as a share of the pull before.
        change: f64,
    },
}

impl Geometry {
    /// Takes a step in.
    ///
    /// # Errors
    /// [`GeometryError`] for readings and adjusters that this instrument does not have; the
    /// estimate is then as it was.
    pub(crate) fn step(&mut self, step: &GeometryStep) -> Result<(), GeometryError> {
        let before = self.filter.x.clone();
        let learned = match step {
            GeometryStep::Given(given) => {
                self.given(given);
                true
            }
            GeometryStep::Relief {
                side,
                span,
                seen,
                converted,
                kept,
            } => {
                self.read_relief(*side, *span, seen, *converted, *kept)?;
                true
            }
            GeometryStep::Nut {
                string,
                held,
                gap,
                kept,
            } => {
                let sight = self.action_sight(*string, *held, 1)?;
                self.read(Place::Nut(*string), sight, gap, *kept);
                true
            }
            GeometryStep::Action {
                string,
                fret,
                held,
                gap,
                kept,
            } => {
                let sight = self.action_sight(*string, *held, *fret)?;
                self.read(Place::Action(*string), sight, gap, *kept);
                true
            }
            GeometryStep::Rod(turns) => {
                self.turn_rod(*turns);
                false
            }
            GeometryStep::NutMoved { strings, by } => {
                for string in strings {
                    let index = usize::from(string.max(&1) - 1).min(self.count() - 1);
                    let at = Self::nut(index);
                    self.filed[index] |= *by < Length::ZERO;
                    self.filter.x[at] += by.mm();
                    let sigma = (by.mm() * FILING.0).hypot(FILING.1);
                    self.filter.p[(at, at)] += sigma * sigma;
                }
                false
            }
            GeometryStep::Height { adjuster, turns } => {
                self.turn_height(*adjuster, *turns)?;
                false
            }
            GeometryStep::Shimmed {
                shim,
                thickness,
                pocket,
            } => {
                self.shimmed(*shim, *thickness, *pocket);
                false
            }
            GeometryStep::Plate(_) => false,
            GeometryStep::PlateTurned { up } => {
                let rise = up.mm();
                let first = self.saddle(0);
                let count = self.count();
                for a in first..first + count {
                    self.filter.x[a] += rise;
                    for b in first..first + count {
                        // All rise together, within a quarter.
                        self.filter.p[(a, b)] += (rise * PLATE_SHARE).powi(2);
                    }
                }
                false
            }
            GeometryStep::Pickup {
                pickup,
                side,
                gap,
                kept,
            } => {
                let sight = self.pickup_sight(*pickup, *side)?;
                self.read(Place::Pickup(*pickup, *side), sight, gap, *kept);
                true
            }
            GeometryStep::PickupTurned {
                pickup,
                side,
                turns,
            } => {
                self.pickup_sight(*pickup, *side)?;
                let pitch = self.pickup_pitch(*pickup).unwrap_or(Length::ZERO);
                let at = self.face(usize::from(*pickup), *side);
                let moved = pitch.mm() * turns;
                self.filter.x[at] += moved;
                // Springs and foam give: a tenth of the move.
                self.filter.p[(at, at)] += (moved * PICKUP_GIVE).powi(2);
                false
            }
            GeometryStep::Pole {
                pickup,
                string,
                gap,
            } => {
                // It says of the pole, which hangs on nothing else: it is kept beside the filter, and
                // carried with its string and its pickup.
                let sight = self.pole_sight(*pickup, *string)?;
                let place = Place::Pole(*pickup, *string);
                self.remember(place, sight, Some(gap.middle()), gap.written.clone());
                false
            }
            GeometryStep::PoleMoved { pickup, string, up } => {
                self.pole_sight(*pickup, *string)?;
                if let Some(last) = self.last.get_mut(&Place::Pole(*pickup, *string)) {
                    last.drift -= *up;
                }
                false
            }
            GeometryStep::Pull { change } => {
                self.pulled(*change);
                false
            }
        };
        if !learned {
            self.drift(&before);
        }
        self.snapshot(learned);
        Ok(())
    }

    fn given(&mut self, given: &HeightsGiven) {
        if self.told && !given.measured {
            return;
        }
        let (first_sigma, twelfth_sigma) = if given.measured { GIVEN_MM } else { ASSUMED_MM };
        for index in 0..self.count() {
            let bass = self.share(index);
            let between = |treble: &Measured, last: &Measured| {
                (treble.middle() * (1.0 - bass) + last.middle() * bass).mm()
            };
            // What lies between two measured strings follows the board only roughly.
            let wider = 1.0 + 2.0 * bass * (1.0 - bass);
            for (sight, read, sigma) in [
                (
                    self.first[index].clone(),
                    between(&given.first_fret_treble, &given.first_fret_bass),
                    first_sigma,
                ),
                (
                    self.middle[index].clone(),
                    between(&given.twelfth_treble, &given.twelfth_bass),
                    twelfth_sigma,
                ),
            ] {
                self.observe(&sight, read, sigma * wider);
            }
        }
    }

    fn observe(&mut self, sight: &Sight, read_mm: f64, sigma_mm: f64) {
        let innovation = read_mm - self.look(sight, &self.filter.x).mm();
        self.filter
            .observe(&sight.slope, innovation, sigma_mm * sigma_mm);
    }

    fn read_relief(
        &mut self,
        side: Side,
        span: ReliefSpan,
        seen: &Gap,
        converted: bool,
        kept: bool,
    ) -> Result<(), GeometryError> {
        let relief = self.relief(side, span.span())?;
        let sight = self.relief_sight(side, span.span())?;
        let (value, sigma, written) = seen_relief(seen);
        let shape = if converted {
            relief.shape_doubt(Length::from_mm(value)).mm()
        } else {
            0.0
        };
        let widening = if kept { KEPT_WIDENING } else { 1.0 };
        if matches!(seen, Gap::Rocks) {
            // A neck that rocks is not like others: what was believed of this side goes.
            let bend = if side == Side::Bass { BASS } else { TREBLE };
            let (value, sigma) = (
                ROCKS_MM / self.plain_slope,
                ROCKS_SIGMA_MM / self.plain_slope,
            );
            self.filter.reset(bend, value, sigma);
        } else {
            self.observe(&sight, value, sigma.hypot(shape) * widening);
        }
        let gap = matches!(seen, Gap::Open { .. }).then(|| Length::from_mm(value));
        self.remember(Place::Relief(side), sight, gap, written);
        Ok(())
    }

    fn read(&mut self, place: Place, sight: Sight, gap: &Measured, kept: bool) {
        let widening = if kept { KEPT_WIDENING } else { 1.0 };
        let sigma = reading_sigma(gap).mm() * widening;
        self.observe(&sight, gap.middle().mm(), sigma);
        self.remember(place, sight, Some(gap.middle()), gap.written.clone());
    }

    fn remember(&mut self, place: Place, sight: Sight, value: Option<Length>, written: String) {
        self.told = true;
        let fresh = self.last.get(&place).map_or(0, |last| last.fresh) + 1;
        let last = LastRead {
            written,
            value,
            fresh,
            drift: Length::ZERO,
            sight,
        };
        self.last.insert(place, last);
    }

    /// What every last reading would be now, after a move: further off than can be carried, it has
    /// to be read again.
    fn drift(&mut self, before: &nalgebra::DVector<f64>) {
        let change = &self.filter.x - before;
        let plain = self.plain_slope;
        for (place, last) in &mut self.last {
            last.drift += Length::from_mm(last.sight.slope.dot(&change));
            let allowed = match place {
                Place::Relief(_) => tolerance::RELIEF * (last.sight.slope.norm() / plain),
                Place::Nut(_) => tolerance::NUT,
                Place::Action(_) => tolerance::ACTION,
                Place::Pickup(..) | Place::Pole(..) => tolerance::PICKUP,
            };
            if last.drift.abs() > allowed {
                last.fresh = 0;
            }
        }
    }

    fn snapshot(&mut self, learned: bool) {
        let heights = self
            .first
            .iter()
            .zip(&self.middle)
            .map(|(first, twelfth)| {
                (
                    self.look(first, &self.filter.x),
                    self.look(twelfth, &self.filter.x),
                )
            })
            .collect();
        let pickups = (0_u8..)
            .zip(&self.pickups)
            .map(|(pickup, _)| {
                let both = Side::ALL.map(|side| {
                    self.pickup_sight(pickup, side)
                        .map_or(Length::ZERO, |sight| self.look(&sight, &self.filter.x))
                });
                (both[0] + both[1]) * 0.5
            })
            .collect();
        self.snapshots.push(Snapshot {
            learned,
            heights,
            pickups,
        });
    }
}

/// What was seen as a number, how well, and in words.
pub(crate) fn seen_relief(seen: &Gap) -> (f64, f64, String) {
    match seen {
        Gap::Open { gap } => (
            gap.middle().mm(),
            reading_sigma(gap).mm(),
            gap.written.clone(),
        ),
        Gap::Touches => (0.0, TOUCH_SIGMA_MM, print::mm(Length::ZERO)),
        Gap::Rocks => (ROCKS_MM, ROCKS_SIGMA_MM, "rocks".to_owned()),
    }
}
