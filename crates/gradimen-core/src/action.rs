//! The open string over the frets: actions, saddle heights, the arc at the bridge, neck angle.
//!
//! From nut slot to saddle crown the underside of a string is a straight line. With `h` its height
//! at the nut over the plane of the fret tops there, `z` the height of the crown, `L` from nut to
//! crown and `t(x)` the fret tops of [`crate::neck`]:
//!
//! `action at x = (t(0) + h) (1 - x/L) + z x/L - t(x)`.
//!
//! A saddle that rises by `d` raises the action at `x` by `d x/L`: half of it at the twelfth fret,
//! 0.625 at the seventeenth where the saddle stands at the scale line. Everything is linear in
//! `h`, `z` and the curvature of the neck, which is what makes one estimate of all of it possible.
//!
//! A wedge of thickness `t` at the heel end of a pocket of length `l` tilts the neck by `t/l` about
//! the mouth of the pocket; seen from the neck the saddles sink by `t/l` times their distance from
//! there. A full shim lets them sink by its thickness.
//!
//! ```
//! use gradimen_core::{action::arc_radius, quantity::Length};
//!
//! // Three saddles on a 10 inch arc, 20 mm apart: the middle one stands 20^2 / (2 R) higher.
//! let at = |y: f64, z: f64| (Length::from_mm(y), Length::from_mm(z));
//! let radius = arc_radius(&[at(-20.0, 0.0), at(0.0, 0.7893), at(20.0, 0.0)])?;
//! assert!((radius.inches() - 10.0).abs() < 0.01);
//! # Ok::<(), gradimen_core::action::ActionError>(())
//! ```

use nalgebra::Vector2;
use thiserror::Error;

use crate::neck::{Bend, FretTops};
use crate::quantity::{Angle, Length};
use crate::solve::least_squares;

/// Why there is no such height.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum ActionError {
    /// A fret behind the place where the string is held.
    #[error(
        "read the height at fret {at} of a string held at fret {held}: it lies on the frets there"
    )]
    Held {
        /// Held here.
        held: u8,
        /// Read there.
        at: u8,
    },
    /// Points that lie on no circle.
    #[error("these crowns lie on one line: no radius goes through them")]
    Straight,
    /// An arc too round for the strings.
    #[error("an arc of {0:.0} mm does not reach the outer strings")]
    TooRound(f64),
}

/// One string in its slot and on its saddle.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct StringLine {
    /// Height of the slot over the plane of the fret tops at the nut.
    pub nut: Length,
    /// Height of the saddle's crown.
    pub saddle: Length,
    /// From nut to crown.
    pub length: Length,
    /// Of the neck under it.
    pub bend: Bend,
}

/// How a height answers to what it hangs on.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Levers {
    /// Per height of the nut slot.
    pub nut: f64,
    /// Per height of the saddle.
    pub saddle: f64,
    /// Per curvature of the neck, in square metres.
    pub curvature: f64,
    /// Per bend of the middle of the neck, in square metres.
    pub middle: f64,
    /// What is left when all of them are nothing.
    pub rest: Length,
}

impl Levers {
    /// The height they give.
    pub fn height(&self, line: &StringLine) -> Length {
        line.nut * self.nut
            + line.saddle * self.saddle
            + Length::from_metres(self.curvature * line.bend.even.per_metre())
            + Length::from_metres(self.middle * line.bend.middle.per_metre())
            + self.rest
    }
}

/// Levers on the height of the string over fret `at`, held at `held` (0: open) on the nut side.
///
/// # Errors
/// [`ActionError::Held`] when the string is held at or beyond that fret.
pub fn levers(tops: &FretTops, length: Length, held: u8, at: u8) -> Result<Levers, ActionError> {
    if held >= at || at > tops.frets() {
        return Err(ActionError::Held { held, at });
    }
    let (from, here, end) = (tops.x(held), tops.x(at), length.metres());
    let share = (here - from) / (end - from);
    Ok(Levers {
        nut: if held == 0 { 1.0 - share } else { 0.0 },
        saddle: share,
        curvature: tops.lift(held) * (1.0 - share) - tops.lift(at),
        middle: tops.middle_lift(held) * (1.0 - share) - tops.middle_lift(at),
        rest: Length::from_metres(tops.flat(held) * (1.0 - share) - tops.flat(at)),
    })
}

/// Levers on the gap over fret `at` of a string held down at a fret behind it (the school that
/// holds fret 3 and looks at fret 1): the saddle has no part in it.
///
/// # Errors
/// [`ActionError::Held`] when `at` does not lie between the nut and the held fret.
pub fn levers_behind(tops: &FretTops, held: u8, at: u8) -> Result<Levers, ActionError> {
    if at == 0 || at >= held || held > tops.frets() {
        return Err(ActionError::Held { held, at });
    }
    let share = tops.x(at) / tops.x(held);
    Ok(Levers {
        nut: 1.0 - share,
        saddle: 0.0,
        curvature: tops.lift(0) * (1.0 - share) + tops.lift(held) * share - tops.lift(at),
        middle: tops.middle_lift(held) * share - tops.middle_lift(at),
        rest: Length::from_metres(
            tops.flat(0) * (1.0 - share) + tops.flat(held) * share - tops.flat(at),
        ),
    })
}

impl StringLine {
    /// Height of the open string over a fret.
    ///
    /// # Errors
    /// [`ActionError::Held`] for the nut itself and beyond the last fret.
    pub fn action(&self, tops: &FretTops, fret: u8) -> Result<Length, ActionError> {
        self.action_held(tops, 0, fret)
    }

    /// Height over fret `at` of the string held down at `held`.
    ///
    /// # Errors
    /// [`ActionError::Held`] when it is held at or beyond that fret.
    pub fn action_held(&self, tops: &FretTops, held: u8, at: u8) -> Result<Length, ActionError> {
        levers(tops, self.length, held, at).map(|levers| levers.height(self))
    }

    /// Height over the plane of the fret tops of the string held down at `held` (0: open), at a place along it: the
    /// straight line from what it is held on to the saddle's crown. Before that place the line is carried on.
    pub fn height_at(&self, tops: &FretTops, held: u8, along: Length) -> Length {
        let (from, low) = if held == 0 {
            (Length::ZERO, tops.top(0, self.bend) + self.nut)
        } else {
            (tops.place(held), tops.top(held, self.bend))
        };
        low + (self.saddle - low) * (along - from).ratio(self.length - from)
    }

    /// With the saddle where the height over `fret` is `action`.
    ///
    /// # Errors
    /// [`ActionError::Held`] for a fret over which the saddle has no lever.
    pub fn with_action(
        self,
        tops: &FretTops,
        fret: u8,
        action: Length,
    ) -> Result<Self, ActionError> {
        let levers = levers(tops, self.length, 0, fret)?;
        let off = action - levers.height(&self);
        Ok(Self {
            saddle: self.saddle + off / levers.saddle,
            ..self
        })
    }

    /// With the slot where the height over fret 1, the string open, is `clearance`.
    ///
    /// # Errors
    /// [`ActionError::Held`] on a board without frets.
    pub fn with_first_fret(self, tops: &FretTops, clearance: Length) -> Result<Self, ActionError> {
        let levers = levers(tops, self.length, 0, 1)?;
        let off = clearance - levers.height(&self);
        Ok(Self {
            nut: self.nut + off / levers.nut,
            ..self
        })
    }
}

/// Radius of the circle nearest to points `(y, z)`: three lie on it exactly.
///
/// `y^2 + z^2 = 2 a y + 2 b z + c` is linear in `a`, `b`, `c` (Kasa's fit); on symmetrical crowns
/// `a` vanishes, so only `b` and `c` are fitted about the middle of the outer points.
///
/// # Errors
/// [`ActionError::Straight`] when there is no circle.
pub fn arc_radius(points: &[(Length, Length)]) -> Result<Length, ActionError> {
    if points.len() < 3 {
        return Err(ActionError::Straight);
    }
    let count = points.len();
    // In millimetres and about the mean, so that the equations are well scaled.
    let mean =
        |pick: fn(&(Length, Length)) -> f64| points.iter().map(pick).sum::<f64>() / count as f64;
    let (y0, z0) = (mean(|p| p.0.mm()), mean(|p| p.1.mm()));
    let centred: Vec<(f64, f64)> = points
        .iter()
        .map(|(y, z)| (y.mm() - y0, z.mm() - z0))
        .collect();
    let rows: Vec<Vec<f64>> = centred
        .iter()
        .map(|(y, z)| vec![2.0 * y, 2.0 * z, 1.0])
        .collect();
    let right: Vec<f64> = centred.iter().map(|(y, z)| y * y + z * z).collect();
    let found = least_squares(&rows, &right)
        .map_err(|_| ActionError::Straight)?
        .values;
    let square = found[2] + found[0].powi(2) + found[1].powi(2);
    if square <= 0.0 || !square.is_finite() || square.sqrt() > 1e5 {
        return Err(ActionError::Straight);
    }
    Ok(Length::from_mm(square.sqrt()))
}

/// Height at `y` on a circle of `radius` that passes through two crowns, bulging away from the
/// board: what a radius gauge held up under the strings asks of the inner ones.
///
/// # Errors
/// [`ActionError::TooRound`] when no circle of that radius reaches both.
pub fn on_gauge(
    treble: (Length, Length),
    bass: (Length, Length),
    radius: Length,
    y: Length,
) -> Result<Length, ActionError> {
    let (a, b) = (
        Vector2::new(treble.0.metres(), treble.1.metres()),
        Vector2::new(bass.0.metres(), bass.1.metres()),
    );
    let r = radius.metres();
    let half = (a - b) / 2.0;
    let rest = r * r - half.norm_squared();
    if rest < 0.0 || half.norm() == 0.0 {
        return Err(ActionError::TooRound(radius.mm()));
    }
    // From the middle of the chord to the centre, on the side of the board.
    let mut toward = Vector2::new(-half.y, half.x) / half.norm();
    if toward.y > 0.0 {
        toward = -toward;
    }
    let centre = (a + b) / 2.0 + toward * rest.sqrt();
    let across = y.metres() - centre.x;
    if across.abs() > r {
        return Err(ActionError::TooRound(radius.mm()));
    }
    Ok(Length::from_metres(
        centre.y + (r * r - across * across).sqrt(),
    ))
}

/// Tilt of a neck by a wedge at the heel end of its pocket.
pub fn wedge_tilt(thickness: Length, pocket: Length) -> Angle {
    Angle::from_radians((thickness.metres() / pocket.metres()).atan())
}

/// Thickness of the wedge that lets a saddle rise by `raise` for the same action: the saddle stands
/// `beyond` the mouth of a pocket of length `pocket`.
pub fn wedge_for(raise: Length, beyond: Length, pocket: Length) -> Length {
    Length::from_metres((raise.metres() / beyond.metres()) * pocket.metres())
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::fretboard::BoardRadius;
    use crate::neck::Board;
    use proptest::prelude::*;

    fn tops(index: usize, joint_fret: u8) -> FretTops {
        let radius = Length::from_inches(9.5);
        let board = Board {
            frets: 22,
            radius: BoardRadius::new(radius, radius).unwrap(),
            spread_nut: Length::from_mm(35.5),
            spread_bridge: Length::from_mm(52.5),
            strings: 6,
            joint_fret,
        };
        FretTops::new(&board, Length::from_mm(648.0), index).unwrap()
    }

    fn share(setback: f64, held: u8, at: u8) -> f64 {
        let length = Length::from_mm(648.0 + setback);
        levers(&tops(0, 16), length, held, at).unwrap().saddle
    }

    // Derivation: (x_n - x_held) / (L - x_held), with x_12 = L/2 exactly.
    #[test]
    fn saddle_levers() {
        for (setback, held, at, expected) in [
            (0.0, 0, 12, 0.500),
            (0.0, 0, 17, 0.625),
            (5.5, 0, 12, 0.496),
            (5.5, 0, 17, 0.620),
            (0.0, 1, 12, 0.470),
            (0.0, 1, 17, 0.603),
        ] {
            let found = share(setback, held, at);
            assert!((found - expected).abs() < 0.0007, "{held} {at}: {found}");
        }
    }

    #[test]
    fn relief_moves_the_action_because_the_nut_comes_up() {
        // Common practice: a change of relief r by hold 1 and last, read 8, moves the action at the
        // twelfth by about 1.7 r.
        let tops = tops(5, 16);
        let relief = tops
            .relief(crate::neck::Span {
                low: 1,
                high: 22,
                at: 8,
            })
            .unwrap();
        let lever = levers(&tops, Length::from_mm(650.0), 0, 12).unwrap();
        let per_relief = lever.curvature / relief.slope();
        assert!((per_relief - 1.7).abs() < 0.1, "{per_relief}");
    }

    #[test]
    fn three_crowns_lie_on_their_circle() {
        // 3-4-5: points on a circle of radius 50 about the origin.
        let at = |y: f64, z: f64| (Length::from_mm(y), Length::from_mm(z));
        let radius = arc_radius(&[at(-30.0, 40.0), at(0.0, 50.0), at(30.0, 40.0)]).unwrap();
        assert!((radius.mm() - 50.0).abs() < 1e-9);
        assert_eq!(
            arc_radius(&[at(-30.0, 40.0), at(0.0, 40.0), at(30.0, 40.0)]),
            Err(ActionError::Straight)
        );
        // A gauge of that radius through the outer two finds the middle one again.
        let middle = on_gauge(
            at(30.0, 40.0),
            at(-30.0, 40.0),
            Length::from_mm(50.0),
            Length::ZERO,
        );
        assert!((middle.unwrap().mm() - 50.0).abs() < 1e-9);
        assert!(
            on_gauge(
                at(30.0, 40.0),
                at(-30.0, 40.0),
                Length::from_mm(20.0),
                Length::ZERO
            )
            .is_err()
        );
    }

    #[test]
    fn wedges_are_similar_triangles() {
        // A saddle 252 mm behind the mouth of a 76 mm pocket: 0.5 mm of wedge is worth 1.658 mm.
        let (beyond, pocket) = (Length::from_mm(252.0), Length::from_mm(76.0));
        let thickness = wedge_for(Length::from_mm(1.657_894_7), beyond, pocket);
        assert!((thickness.mm() - 0.5).abs() < 1e-6);
        let sunk = wedge_tilt(thickness, pocket).radians().tan() * beyond.mm();
        assert!((sunk - 1.657_894_7).abs() < 1e-6);
    }

    #[test]
    fn held_strings_have_no_height_where_they_are_held() {
        assert!(levers(&tops(0, 16), Length::from_mm(650.0), 12, 12).is_err());
        assert!(levers_behind(&tops(0, 16), 3, 3).is_err());
        // Held at fret 3 the gap over fret 1 is the nut's share of the line.
        let behind = levers_behind(&tops(0, 16), 3, 1).unwrap();
        assert!(
            (behind.nut - (1.0 - 36.37 / 103.1)).abs() < 0.001,
            "{behind:?}"
        );
    }

    proptest! {
        #[test]
        fn heights_asked_for_are_heights_got(
            nut in 0.2..1.2f64, action in 0.8..4.0f64, first in 0.2..1.0f64, bend in 0.0..0.02f64, fret in 5u8..=22, index in 0usize..6,
        ) {
            let tops = tops(index, 16);
            let line = StringLine {
                nut: Length::from_mm(nut),
                saddle: Length::from_mm(4.0),
                length: Length::from_mm(651.0),
                bend: crate::quantity::Curvature::from_per_metre(bend).into(),
            };
            let set = line.with_action(&tops, fret, Length::from_mm(action)).unwrap();
            prop_assert!((set.action(&tops, fret).unwrap().mm() - action).abs() < 1e-9);
            // The straight line to the saddle gives the same height over the fret's top.
            let over = set.height_at(&tops, 0, tops.place(fret)) - tops.top(fret, set.bend);
            prop_assert!((over.mm() - action).abs() < 1e-9);
            let filed = set.with_first_fret(&tops, Length::from_mm(first)).unwrap();
            prop_assert!((filed.action(&tops, 1).unwrap().mm() - first).abs() < 1e-9);
        }
    }
}
