//! A vibrato in balance: strings pull its plate up, springs pull it down.
//!
//! Everything turns about the knife edge, seen from the bass side with the neck to the left: `x`
//! toward the tail, `z` away from the body, the edge at the origin. The plate rises by an angle `a`
//! at its tail. With a crown at `(x_s, z_s)`, a hook on the block at `(x_b, -z_b)` and a hook of the
//! claw at `(-x_c, -z_c)`, all with the plate level:
//!
//! - turned by `a`, a point `(x, z)` of the plate lies at `(x cos a - z sin a, x sin a + z cos a)`;
//! - a string pulls its crown toward the nut along `x`: torque `T z_s(a)`, raising the tail;
//! - a spring pulls its hook toward the claw with `F = F0 + k (length - free)`: torque by the vector
//!   product, lowering the tail. A spring that converges on the claw is longer by its offset `y`, and
//!   only the share of its pull along `x` and `z` turns anything.
//!
//! A tail with one pressed spring is the same lever: the strings hold on above its pivot, a spring
//! stands on a seat before it (`x_b` negative) and pushes up. Its adjuster lifts the seat.
//!
//! At pitch the strings' pull is what the tuning says, whatever the angle: the plate rests where the
//! springs answer it. The rest is stable when a small lift raises the springs' torque more than the
//! strings': it need not be.
//!
//! ```
//! use gradimen_core::quantity::{Angle, Force, Length, Rate};
//! use gradimen_core::spring::Spring;
//! use gradimen_core::vibrato::{Adjusts, Hooked, Plate};
//!
//! let mm = Length::from_mm;
//! let plate = Plate {
//!     crown_back: mm(12.0),
//!     crown_up: mm(12.0),
//!     hook_back: mm(4.0),
//!     hook_down: mm(38.0),
//!     claw_front: mm(110.0),
//!     claw_down: mm(38.0),
//!     tail_back: mm(38.0),
//!     adjusts: Adjusts::Neckward,
//! };
//! // A turned plate keeps the distance of its points from the edge.
//! let (back, up) = Plate::turned(mm(30.0), mm(40.0), Angle::from_degrees(5.0));
//! assert!((back.mm().hypot(up.mm()) - 50.0).abs() < 1e-9);
//! // The gap of an angle gives that angle again.
//! let angle = plate.angle_of(mm(2.0));
//! assert!((plate.gap(angle).mm() - 2.0).abs() < 1e-9);
//! ```

use thiserror::Error;

use crate::quantity::{Angle, Cents, Force, Length, Rate};
use crate::solve::{SolveError, root};
use crate::spring::Spring;

/// Why a plate does not balance.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum VibratoError {
    /// No angle within reach at which strings and springs balance.
    #[error("strings and springs do not balance at any angle this plate can stand at")]
    Unbalanced,
    /// Nothing to pull with.
    #[error("no spring is hooked on")]
    NoSprings,
}

impl From<SolveError> for VibratoError {
    fn from(_: SolveError) -> Self {
        Self::Unbalanced
    }
}

/// Which way an adjuster makes the springs stronger.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Adjusts {
    /// A claw, toward the neck.
    Neckward,
    /// A seat, away from the body.
    Upward,
}

/// Where the parts of a plate or a tail lie, when it is level, from its edge or pivot.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Plate {
    /// A crown behind the edge.
    pub crown_back: Length,
    /// A crown above the edge.
    pub crown_up: Length,
    /// The hooks of the block behind the edge.
    pub hook_back: Length,
    /// The hooks of the block below the edge.
    pub hook_down: Length,
    /// The hooks of the claw before the edge, its screws at no turn.
    pub claw_front: Length,
    /// The hooks of the claw below the edge.
    pub claw_down: Length,
    /// Where the gap is measured, behind the edge; negative before it.
    pub tail_back: Length,
    /// What the adjuster does.
    pub adjusts: Adjusts,
}

/// A spring on its two hooks.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Hooked {
    /// The spring.
    pub spring: Spring,
    /// How far aside its hook on the claw lies from its hook on the block.
    pub aside: Length,
    /// How much further its adjuster stands: the claw toward the neck, or the seat up.
    pub claw_in: Length,
}

/// Plates stand between these angles.
const LOWEST: f64 = -0.20;
const HIGHEST: f64 = 0.30;
/// A hundred-thousandth of a degree.
const ANGLE_TOLERANCE: f64 = 1e-7;

impl Plate {
    /// Where a crown lies: behind the edge and above it.
    pub fn crown(&self, angle: Angle) -> (Length, Length) {
        Self::turned(self.crown_back, self.crown_up, angle)
    }

    /// A point of the plate, `back` and `up` from its edge while it lies level, at an angle.
    pub fn turned(back: Length, up: Length, angle: Angle) -> (Length, Length) {
        let (sin, cos) = angle.radians().sin_cos();
        (back * cos - up * sin, back * sin + up * cos)
    }

    /// The gap under the tail.
    pub fn gap(&self, angle: Angle) -> Length {
        Length::from_metres(self.tail_back.metres() * angle.radians().sin())
    }

    /// The angle of a gap.
    pub fn angle_of(&self, gap: Length) -> Angle {
        let share = gap.ratio(self.tail_back).clamp(-0.9, 0.9);
        Angle::from_radians(share.asin())
    }

    /// Torque by a pull on the strings, raising the tail, in newton metres.
    pub fn string_torque(&self, pull: Force, angle: Angle) -> f64 {
        pull.newtons() * self.crown(angle).1.metres()
    }

    /// Length and torque of a spring, lowering the tail, in newton metres.
    pub fn spring_torque(&self, hooked: &Hooked, angle: Angle) -> (Length, f64) {
        let (x, z) = Self::turned(self.hook_back, -self.hook_down, angle);
        let (x, z) = (x.metres(), z.metres());
        let (further, up) = match self.adjusts {
            Adjusts::Neckward => (hooked.claw_in, Length::ZERO),
            Adjusts::Upward => (Length::ZERO, hooked.claw_in),
        };
        let claw = -(self.claw_front + further).metres();
        let (dx, dz) = (claw - x, (up - self.claw_down).metres() - z);
        let length = (dx * dx + dz * dz + hooked.aside.metres().powi(2)).sqrt();
        let pull = hooked.spring.pull(Length::from_metres(length)).newtons();
        // The pull along the spring, its part in the plane, by the vector product about the edge.
        let torque = (x * dz - z * dx) * pull / length;
        (Length::from_metres(length), -torque)
    }

    fn balance(&self, pull: Force, springs: &[Hooked], angle: f64) -> f64 {
        let angle = Angle::from_radians(angle);
        let down: f64 = springs
            .iter()
            .map(|hooked| self.spring_torque(hooked, angle).1)
            .sum();
        down - self.string_torque(pull, angle)
    }

    /// The angle at which a plate rests with its strings at pitch.
    ///
    /// # Errors
    /// [`VibratoError`] when there is none within reach.
    pub fn rest(&self, pull: Force, springs: &[Hooked]) -> Result<Angle, VibratoError> {
        if springs.is_empty() {
            return Err(VibratoError::NoSprings);
        }
        let found = root(LOWEST, HIGHEST, ANGLE_TOLERANCE, |angle| {
            self.balance(pull, springs, angle)
        })?;
        Ok(Angle::from_radians(found))
    }

    /// The rate that every one of these springs must have for the plate to rest at an angle: what a
    /// balance that was found says of them. Nothing where they are loose there.
    pub fn rate_found(&self, pull: Force, springs: &[Hooked], angle: Angle) -> Option<Rate> {
        let torque = |rate: f64| -> f64 {
            springs
                .iter()
                .map(|hooked| {
                    let mut other = *hooked;
                    other.spring.rate = Rate::from_newtons_per_metre(rate);
                    self.spring_torque(&other, angle).1
                })
                .sum()
        };
        // Torque is linear in the rate: what the coils part at, and so much for every newton a metre.
        let (none, one) = (torque(0.0), torque(1.0));
        let rate = (self.string_torque(pull, angle) - none) / (one - none);
        (rate.is_finite() && rate > 0.0).then(|| Rate::from_newtons_per_metre(rate))
    }

    /// How much further in the claw has to stand for the plate to rest at an angle.
    ///
    /// # Errors
    /// [`VibratoError`] when no claw within 30 mm either way, or no seat within half of its spring, does
    /// it.
    pub fn claw_for(
        &self,
        pull: Force,
        springs: &[Hooked],
        angle: Angle,
    ) -> Result<Length, VibratoError> {
        let reach = match self.adjusts {
            Adjusts::Neckward => 0.03,
            Adjusts::Upward => self.claw_down.metres() * 0.45,
        };
        if springs.is_empty() {
            return Err(VibratoError::NoSprings);
        }
        let found = root(-reach, reach, 1e-8, |further| {
            let moved: Vec<Hooked> = springs
                .iter()
                .map(|hooked| Hooked {
                    claw_in: hooked.claw_in + Length::from_metres(further),
                    ..*hooked
                })
                .collect();
            self.balance(pull, &moved, angle.radians())
        })?;
        Ok(Length::from_metres(found))
    }

    /// By how much the springs' torque outgrows the strings' as the plate is lifted, the strings kept at
    /// pitch, in newton metres a radian. At a rest where it is not positive a plate runs away.
    pub fn steadiness(&self, pull: Force, springs: &[Hooked], angle: Angle) -> f64 {
        const STEP: f64 = 1e-4;
        let at = |by: f64| self.balance(pull, springs, angle.radians() + by);
        (at(STEP) - at(-STEP)) / (2.0 * STEP)
    }

    /// What holds a plate down on the body, beyond the strings: the pull more on the strings that
    /// would just lift it. Negative when it is up already.
    pub fn held_down(&self, pull: Force, springs: &[Hooked]) -> Force {
        let level = Angle::ZERO;
        let down: f64 = springs
            .iter()
            .map(|hooked| self.spring_torque(hooked, level).1)
            .sum();
        Force::from_newtons(down / self.crown(level).1.metres()) - pull
    }
}

/// A string on a vibrato, its tuner left alone.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Held {
    /// Its pull at pitch.
    pub tension: Force,
    /// The force that would double its length.
    pub stretch: Force,
    /// All of it that stretches.
    pub free: Length,
    /// From nut to crown.
    pub speaking: Length,
}

impl Held {
    /// Its pull when the crown has gone back by `back`.
    pub fn pull(&self, back: Length) -> Force {
        let more = self.stretch.newtons() * back.ratio(self.free);
        Force::from_newtons((self.tension.newtons() + more).max(0.0))
    }

    /// How much higher it sounds then.
    pub fn cents(&self, back: Length) -> Cents {
        let pull = self.pull(back).ratio(self.tension).max(1e-6);
        let length = 1.0 + back.ratio(self.speaking);
        Cents::new(1200.0 * (pull.sqrt() / length).log2())
    }
}

impl Plate {
    /// How far a crown goes back when the plate turns from one angle to another.
    pub fn back(&self, from: Angle, to: Angle) -> Length {
        self.crown(to).0 - self.crown(from).0
    }

    /// The angle a floating plate goes to when one string pulls otherwise and no tuner is touched:
    /// `others` are the strings that keep their own, `pulled` the pull of the one that does not.
    ///
    /// # Errors
    /// [`VibratoError`] when there is none within reach.
    pub fn answers(
        &self,
        rest: Angle,
        springs: &[Hooked],
        others: &[Held],
        pulled: Force,
    ) -> Result<Angle, VibratoError> {
        let found = root(LOWEST, HIGHEST, ANGLE_TOLERANCE, |angle| {
            let angle = Angle::from_radians(angle);
            let back = self.back(rest, angle);
            let pull = others
                .iter()
                .map(|held| held.pull(back).newtons())
                .sum::<f64>()
                + pulled.newtons();
            self.balance(Force::from_newtons(pull), springs, angle.radians())
        })?;
        Ok(Angle::from_radians(found))
    }

    /// How far off each string is to be tuned, one after the other, so that all are at pitch once the last one is. At
    /// pitch the plate stood at `from`; since its springs were changed it rests, at pitch again, at `to`. `strings` in the
    /// order in which they are tuned: each is tuned once.
    ///
    /// A string that was tuned keeps what is wound up of it, one that was not keeps what was wound up before: its pull
    /// follows from how far the plate has turned since (Hooke). Strings and springs agree at every step.
    ///
    /// # Errors
    /// [`VibratoError`] when the plate goes out of reach on the way.
    pub fn landing(
        &self,
        (from, to): (Angle, Angle),
        springs: &[Hooked],
        strings: &[Held],
    ) -> Result<Vec<Cents>, VibratoError> {
        let pitch: f64 = strings.iter().map(|held| held.tension.newtons()).sum();
        // One crown stands for all of them: where the plate ends is known better than that.
        let off = self.balance(Force::from_newtons(pitch), springs, to.radians());
        let after = |tuned: usize| -> Result<Length, VibratoError> {
            let found = root(LOWEST, HIGHEST, ANGLE_TOLERANCE, |angle| {
                let angle = Angle::from_radians(angle);
                let pull: f64 = strings
                    .iter()
                    .enumerate()
                    .map(|(index, held)| {
                        let since = if index < tuned { to } else { from };
                        held.pull(self.back(since, angle)).newtons()
                    })
                    .sum();
                self.balance(Force::from_newtons(pull), springs, angle.radians()) - off
            })?;
            Ok(self.back(to, Angle::from_radians(found)))
        };
        (1..=strings.len())
            .map(|tuned| Ok(strings[tuned - 1].cents(after(tuned)?)))
            .collect()
    }
}
