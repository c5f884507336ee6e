//! The tops of the frets under a string, seen from the side: neck, board arc and relief.
//!
//! With the body as reference, the neck is straight beyond its joint `x_b` and bends with one
//! curvature `k` before it (Euler-Bernoulli: the rod and the strings, both along the neck, load it
//! with a moment that hardly changes along its length, so its shape is a parabola):
//!
//! `z(x) = k/2 * max(0, x_b - x)^2`, `k` in 1/m, positive when the nut comes up (relief).
//!
//! Rods act on the middle of a neck more than on its ends: a second bend `m` has the curvature `m (6u(1-u) - 1)`,
//! `u = x / x_b`, which sums to nothing along the neck and so neither tilts nor lifts its end:
//!
//! `z(x) = -m/2 * (x_b u (1 - u))^2`, by integrating twice; the middle dips where the nut stays.
//!
//! A fret top lies at `z(x) - sag(y, R)`: a string that does not run along the crown of a round
//! board crosses it at a slant and so sees a hump of a few hundredths of a millimetre on a dead
//! straight neck. One curvature serves the bass side and one the treble side.
//!
//! Heights count from the fret tops on the crown of the board where it is straight.
//!
//! ```
//! use gradimen_core::fretboard::BoardRadius;
//! use gradimen_core::neck::{Board, FretTops, Span};
//! use gradimen_core::quantity::Length;
//!
//! let mm = Length::from_mm;
//! let board = Board {
//!     frets: 22,
//!     radius: BoardRadius::new(mm(240.0), mm(240.0))?,
//!     spread_nut: mm(35.5),
//!     spread_bridge: mm(52.5),
//!     strings: 6,
//!     joint_fret: 16,
//! };
//! let tops = FretTops::new(&board, mm(648.0), 0)?;
//! let relief = tops.relief(Span { low: 1, high: 22, at: 8 })?;
//! // A neck that shows 0.25 mm there shows it again.
//! let bend = relief.curvature(mm(0.25));
//! assert!((relief.gap(bend).mm() - 0.25).abs() < 1e-9);
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use thiserror::Error;

use crate::fretboard::{BoardError, BoardRadius, fret_position, offset_across, sag};
use crate::quantity::{Curvature, Length};

/// Why relief cannot be read that way.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum NeckError {
    /// The read fret does not lie between the held ones, or they are not on the board.
    #[error(
        "read a gap at fret {at} between frets {low} and {high}: the gap lies between the two held frets of a board with {frets}"
    )]
    Span {
        /// Held fret near the nut.
        low: u8,
        /// Held fret near the body.
        high: u8,
        /// Fret read.
        at: u8,
        /// Frets on the board.
        frets: u8,
    },
    /// Relief does not show there: the span lies where the neck is straight.
    #[error("between frets {0} and {1} this neck is straight by its build: nothing can be read")]
    Blind(u8, u8),
}

/// Board and strings as far as heights depend on them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Board {
    /// How many frets.
    pub frets: u8,
    /// Its arc.
    pub radius: BoardRadius,
    /// Between the outer strings at the nut.
    pub spread_nut: Length,
    /// Between the outer strings at the bridge.
    pub spread_bridge: Length,
    /// How many strings.
    pub strings: usize,
    /// The fret where the neck begins to be held by the body.
    pub joint_fret: u8,
}

/// Where a string is held down and where the gap to the fret is read.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub struct Span {
    /// Held at this fret near the nut.
    pub low: u8,
    /// Held at this fret near the body.
    pub high: u8,
    /// Read over this one.
    pub at: u8,
}

/// How a neck is bent: evenly, and its middle beyond that.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub struct Bend {
    /// The even part.
    pub even: Curvature,
    /// What the middle is bent more than the ends.
    pub middle: Curvature,
}

impl From<Curvature> for Bend {
    fn from(even: Curvature) -> Self {
        Self {
            even,
            middle: Curvature::ZERO,
        }
    }
}

impl std::ops::Sub for Bend {
    type Output = Self;

    fn sub(self, other: Self) -> Self {
        Self {
            even: self.even - other.even,
            middle: self.middle - other.middle,
        }
    }
}

/// The tops of the frets under one string.
#[derive(Debug, Clone, PartialEq)]
pub struct FretTops {
    scale: f64,
    joint: f64,
    /// Place of nut and frets.
    x: Vec<f64>,
    /// Height on a straight neck: how far the arc falls away under the string.
    arc: Vec<f64>,
    /// How far the string lies from the crown there, and the radius of the arc.
    across: Vec<(f64, f64)>,
    offset_at_bridge: f64,
    arc_at_bridge: f64,
}

impl FretTops {
    /// Under the string of this index (0 is string 1) and scale.
    ///
    /// # Errors
    /// [`BoardError`] where the strings lie outside the arc of the board.
    pub fn new(board: &Board, scale: Length, index: usize) -> Result<Self, BoardError> {
        let gaps = board.strings.saturating_sub(1).max(1) as f64;
        Self::across(board, scale, index as f64 / gaps)
    }

    /// Under a string that lies `across` of the way from the first to the last, 0 to 1.
    ///
    /// # Errors
    /// [`BoardError`] where the strings lie outside the arc of the board.
    pub fn across(board: &Board, scale: Length, across: f64) -> Result<Self, BoardError> {
        let end = fret_position(scale, board.frets);
        let offset =
            |x: Length| offset_across(across, board.spread_nut, board.spread_bridge, x, scale);
        let arc_at = |x: Length| sag(offset(x), board.radius.at(x, end)).map(|fall| -fall.metres());
        let places = (0..=board.frets).map(|fret| fret_position(scale, fret));
        Ok(Self {
            scale: scale.metres(),
            joint: fret_position(scale, board.joint_fret).metres(),
            arc: places.clone().map(arc_at).collect::<Result<_, _>>()?,
            across: places
                .clone()
                .map(|x| (offset(x).metres(), board.radius.at(x, end).metres()))
                .collect(),
            x: places.map(Length::metres).collect(),
            offset_at_bridge: offset(scale).metres(),
            arc_at_bridge: arc_at(scale)?,
        })
    }

    /// On a board whose end is planed to fall away by so much at the last fret, in a straight line from where the body
    /// begins to hold the neck (common practice).
    #[must_use]
    pub fn falling_away(mut self, by: Length) -> Self {
        let last = self.x.last().copied().unwrap_or(0.0);
        let beyond = (last - self.joint).max(f64::MIN_POSITIVE);
        for (top, x) in self.arc.iter_mut().zip(&self.x) {
            *top -= by.metres() * ((x - self.joint) / beyond).max(0.0);
        }
        self
    }

    /// On tops that deviate from the line of their board by so much each, fret 1 first; what is not named lies on it.
    #[must_use]
    pub fn uneven(mut self, by: &[Length]) -> Self {
        for (top, by) in self.arc.iter_mut().skip(1).zip(by) {
            *top += by.metres();
        }
        self
    }

    /// How many frets.
    pub fn frets(&self) -> u8 {
        u8::try_from(self.x.len().saturating_sub(1)).unwrap_or(u8::MAX)
    }

    /// Scale along this string.
    pub const fn scale(&self) -> Length {
        Length::from_metres(self.scale)
    }

    /// Where the body begins to hold the neck.
    pub const fn joint(&self) -> Length {
        Length::from_metres(self.joint)
    }

    /// Where the string passes the bridge, from the centre line; positive to the treble side.
    pub const fn offset_at_bridge(&self) -> Length {
        Length::from_metres(self.offset_at_bridge)
    }

    /// Height of the board's arc carried on to the bridge.
    pub const fn arc_at_bridge(&self) -> Length {
        Length::from_metres(self.arc_at_bridge)
    }

    /// Place of a fret; the last one for numbers beyond it, 0 is the nut.
    pub fn place(&self, fret: u8) -> Length {
        Length::from_metres(self.x(fret))
    }

    pub(crate) fn x(&self, fret: u8) -> f64 {
        self.x[usize::from(fret).min(self.x.len() - 1)]
    }

    /// Height of a fret top per unit of curvature, in square metres.
    pub(crate) fn lift(&self, fret: u8) -> f64 {
        (self.joint - self.x(fret)).max(0.0).powi(2) / 2.0
    }

    /// Height of a fret top per unit of a bend of the middle, in square metres.
    pub(crate) fn middle_lift(&self, fret: u8) -> f64 {
        let u = (self.x(fret) / self.joint).clamp(0.0, 1.0);
        -(self.joint * u * (1.0 - u)).powi(2) / 2.0
    }

    pub(crate) fn flat(&self, fret: u8) -> f64 {
        self.arc[usize::from(fret).min(self.arc.len() - 1)]
    }

    /// How far a string rises on a fret when it is bent aside by `shift`, toward the crown and
    /// beyond it: the arc there is higher than where it lay.
    pub fn rise(&self, fret: u8, shift: Length) -> Length {
        let (y, radius) = self.across[usize::from(fret).min(self.across.len() - 1)];
        let moved = y.abs() - shift.metres();
        let fall = |y: f64| radius - (radius * radius - y * y).max(0.0).sqrt();
        Length::from_metres(fall(y) - fall(moved))
    }

    /// Height of a fret top; 0 is the plane of the fret tops carried on to the nut.
    pub fn top(&self, fret: u8, bend: impl Into<Bend>) -> Length {
        let bend = bend.into();
        Length::from_metres(
            self.flat(fret)
                + bend.even.per_metre() * self.lift(fret)
                + bend.middle.per_metre() * self.middle_lift(fret),
        )
    }

    /// What a span shows of a neck: the gap on a straight neck, and the gap per unit of curvature.
    ///
    /// # Errors
    /// [`NeckError`] for spans in which no gap can be.
    pub fn relief(&self, span: Span) -> Result<Relief, NeckError> {
        let Span { low, high, at } = span;
        if low == 0 || low >= at || at >= high || high > self.frets() {
            return Err(NeckError::Span {
                low,
                high,
                at,
                frets: self.frets(),
            });
        }
        let share = (self.x(at) - self.x(low)) / (self.x(high) - self.x(low));
        let gap = |z: &dyn Fn(u8) -> f64| z(low) + (z(high) - z(low)) * share - z(at);
        let per_curvature = gap(&|fret| self.lift(fret));
        // Less than a hundredth of a millimetre for a neck bent by a whole one.
        if per_curvature < 1e-4 {
            return Err(NeckError::Blind(low, high));
        }
        Ok(Relief {
            straight: gap(&|fret| self.flat(fret)),
            per_curvature,
            per_middle: gap(&|fret| self.middle_lift(fret)),
        })
    }
}

/// A relief school on one string of one board.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Relief {
    straight: f64,
    per_curvature: f64,
    per_middle: f64,
}

/// Real necks leave the parabola a little under a rod: a converted number is good to this share ...
pub const SHAPE_DOUBT: f64 = 0.06;
/// ... and never better than this (common practice: short spans disagree by so much on one neck).
pub const SHAPE_FLOOR: Length = Length::from_mm(0.006);

impl Relief {
    /// The gap that this school reads.
    pub fn gap(self, curvature: Curvature) -> Length {
        Length::from_metres(self.straight + self.per_curvature * curvature.per_metre())
    }

    /// The curvature behind a gap.
    pub fn curvature(self, gap: Length) -> Curvature {
        Curvature::from_per_metre((gap.metres() - self.straight) / self.per_curvature)
    }

    /// Gap per unit of curvature, in square metres.
    pub const fn slope(self) -> f64 {
        self.per_curvature
    }

    /// Gap per unit of a bend of the middle, in square metres.
    pub const fn middle(self) -> f64 {
        self.per_middle
    }

    /// How far a gap may be off only because necks are not parabolas.
    pub fn shape_doubt(self, gap: Length) -> Length {
        Length::from_metres((gap.metres() * SHAPE_DOUBT).hypot(SHAPE_FLOOR.metres()))
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn a_board_that_falls_away_drops_behind_the_joint_and_nowhere_else() {
        let flat = tops(0);
        let falls = tops(0).falling_away(Length::from_mm(0.3));
        for fret in 0..=16 {
            assert_eq!(
                flat.top(fret, Bend::default()),
                falls.top(fret, Bend::default())
            );
        }
        let drop = |fret| (flat.top(fret, Bend::default()) - falls.top(fret, Bend::default())).mm();
        assert!((drop(22) - 0.3).abs() < 1e-9);
        // Fret 19 lies 0.54 of the way by the rule of the twelfth root: 390.84, 431.76 and 466.16 mm.
        let (x16, x19, x22) = (390.84, 431.76, 466.16);
        assert!(
            (drop(19) - 0.3 * (x19 - x16) / (x22 - x16)).abs() < 1e-4,
            "{}",
            drop(19)
        );
    }

    #[test]
    fn strings_of_a_course_lie_beside_each_other() {
        let board = board(Length::from_inches(12.0));
        let scale = Length::from_mm(648.0);
        let place = |across| {
            let tops = FretTops::across(&board, scale, across).unwrap();
            tops.offset_at_bridge().mm()
        };
        assert!((place(0.0) - 26.25).abs() < 1e-9);
        assert!((place(0.0) - place(0.04) - 52.5 * 0.04).abs() < 1e-9);
    }

    fn board(radius: Length) -> Board {
        Board {
            frets: 22,
            radius: BoardRadius::new(radius, radius).unwrap(),
            spread_nut: Length::from_mm(35.5),
            spread_bridge: Length::from_mm(52.5),
            strings: 6,
            joint_fret: 16,
        }
    }

    fn tops(index: usize) -> FretTops {
        FretTops::new(
            &board(Length::from_inches(9.5)),
            Length::from_mm(648.0),
            index,
        )
        .unwrap()
    }

    #[test]
    fn a_bent_neck_bends_only_before_the_body() {
        let tops = tops(0);
        let bent = Curvature::from_per_metre(0.01);
        for fret in 16..=22 {
            assert_eq!(tops.top(fret, bent), tops.top(fret, Curvature::ZERO));
        }
        // Euler-Bernoulli: a length a under an end moment rises by k a^2 / 2 at its end.
        let rise = tops.top(0, bent) - tops.top(0, Curvature::ZERO);
        let a = tops.joint().metres();
        assert!((rise.metres() - 0.01 * a * a / 2.0).abs() < 1e-15);
    }

    #[test]
    fn the_gap_of_a_uniform_bend_is_the_sagitta() {
        // Where the whole span bends, the gap at x is k/2 (x - x_a)(x_b - x): for the middle of a
        // chord c that is c^2 k / 8, the sagitta of the circle of radius 1/k to first order.
        let tops = tops(0);
        let span = Span {
            low: 1,
            high: 15,
            at: 6,
        };
        let relief = tops.relief(span).unwrap();
        let (a, b, m) = (tops.x(1), tops.x(15), tops.x(6));
        assert!((relief.slope() - (m - a) * (b - m) / 2.0).abs() < 1e-12);
    }

    #[test]
    fn a_slanting_string_sees_a_hump() {
        // From the identity sag = y^2 / 2R to first order: chord over a parabola in y.
        let tops = tops(0);
        let relief = tops
            .relief(Span {
                low: 1,
                high: 22,
                at: 8,
            })
            .unwrap();
        let hump = -relief.gap(Curvature::ZERO).mm();
        assert!(hump > 0.01 && hump < 0.03, "{hump}");
        let middle = FretTops::new(
            &Board {
                strings: 7,
                ..board(Length::from_inches(9.5))
            },
            Length::from_mm(648.0),
            3,
        )
        .unwrap();
        let along = middle
            .relief(Span {
                low: 1,
                high: 22,
                at: 8,
            })
            .unwrap();
        assert!(along.gap(Curvature::ZERO).mm().abs() < 1e-12);
    }

    #[test]
    fn says_what_cannot_be_read() {
        let tops = tops(5);
        for (low, high, at) in [(0, 12, 6), (1, 6, 6), (1, 23, 8), (8, 1, 4)] {
            assert!(matches!(
                tops.relief(Span { low, high, at }),
                Err(NeckError::Span { .. })
            ));
        }
        assert_eq!(
            tops.relief(Span {
                low: 17,
                high: 22,
                at: 19
            }),
            Err(NeckError::Blind(17, 22))
        );
    }

    #[test]
    fn curvature_and_gap_answer_each_other() {
        let relief = tops(5)
            .relief(Span {
                low: 1,
                high: 12,
                at: 6,
            })
            .unwrap();
        let gap = Length::from_thou(6.0);
        assert!((relief.gap(relief.curvature(gap)) - gap).abs().mm() < 1e-12);
        assert!(relief.shape_doubt(Length::ZERO) >= SHAPE_FLOOR);
    }
}
