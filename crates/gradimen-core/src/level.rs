//! Levelling frets with the least metal: the plane under every top that takes away least, a linear programme of three unknowns.
//!
//! ```
//! use gradimen_core::level::{Top, level};
//! use gradimen_core::quantity::Length;
//!
//! let top = |x: f64, up: f64| Top { along: Length::from_mm(x), across: Length::ZERO, height: Length::from_mm(up) };
//! // A flat board with one fret a tenth too high: only that one is cut.
//! let tops = [top(0.0, 0.0), top(30.0, 0.1), top(60.0, 0.0), top(90.0, 0.0)];
//! let plan = level(&tops)?;
//! assert!((plan.taken[1].mm() - 0.1).abs() < 1e-9 && plan.taken[0].mm().abs() < 1e-9);
//! # Ok::<(), gradimen_core::level::LevelError>(())
//! ```
//!
//! [`play`] takes away no more than it takes to play.

pub mod play;

use microlp::{ComparisonOp, OptimizationDirection, Problem, SolveOutcome};
use thiserror::Error;

use crate::quantity::Length;

/// No slope of a board comes near this, in millimetres per millimetre.
const STEEPEST: f64 = 1.0;
/// Nor does a top stand this far off.
const FURTHEST_MM: f64 = 100.0;

/// The top of a fret under a string.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Top {
    /// From the nut.
    pub along: Length,
    /// From the middle of the board.
    pub across: Length,
    /// Over the line of the board.
    pub height: Length,
}

/// What is taken away.
#[derive(Debug, Clone, PartialEq)]
pub struct Levelled {
    /// From each top, in the order they came.
    pub taken: Vec<Length>,
    /// The plane: its height at the nut in the middle, and its slopes along and across.
    pub plane: (Length, f64, f64),
}

impl Levelled {
    /// The most that is taken anywhere.
    pub fn most(&self) -> Length {
        self.taken.iter().copied().fold(Length::ZERO, Length::max)
    }
}

/// Why there is no plane.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Error)]
pub enum LevelError {
    /// No tops, or one that is no number.
    #[error("tops to level must be there, and numbers")]
    Tops,
    /// The solver found none.
    #[error("no plane was found under these tops")]
    NoPlane,
}

/// The plane that takes away least in all and leaves nothing standing over it.
///
/// # Errors
/// [`LevelError`].
pub fn level(tops: &[Top]) -> Result<Levelled, LevelError> {
    let number = |top: &Top| {
        [top.along, top.across, top.height]
            .iter()
            .all(|part| part.mm().abs() < FURTHEST_MM * 100.0)
    };
    if tops.is_empty() || !tops.iter().all(number) {
        return Err(LevelError::Tops);
    }
    let sum = |of: fn(&Top) -> f64| tops.iter().map(of).sum::<f64>();
    let mut problem = Problem::new(OptimizationDirection::Maximize);
    // As high as it can lie in all: what is taken is the rest.
    let at_nut = problem.add_var(tops.len() as f64, (-FURTHEST_MM, FURTHEST_MM));
    let along = problem.add_var(sum(|top| top.along.mm()), (-STEEPEST, STEEPEST));
    let across = problem.add_var(sum(|top| top.across.mm()), (-STEEPEST, STEEPEST));
    for top in tops {
        problem.add_constraint(
            [
                (at_nut, 1.0),
                (along, top.along.mm()),
                (across, top.across.mm()),
            ],
            ComparisonOp::Le,
            top.height.mm(),
        );
    }
    let Ok(SolveOutcome::Solution(found)) = problem.solve() else {
        return Err(LevelError::NoPlane);
    };
    let (height, slope, tilt) = (found[at_nut], found[along], found[across]);
    let taken = tops.iter().map(|top| {
        let plane = tilt.mul_add(top.across.mm(), slope.mul_add(top.along.mm(), height));
        Length::from_mm((top.height.mm() - plane).max(0.0))
    });
    Ok(Levelled {
        taken: taken.collect(),
        plane: (Length::from_mm(height), slope, tilt),
    })
}
