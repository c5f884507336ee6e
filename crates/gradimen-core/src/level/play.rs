//! The least metal after which one string plays as on an even board: a linear programme, string by string.
//!
//! Tops deviate from their board by `u`. Nut and saddle are set over the tops as they are: by the gap over fret 1 and by the action
//! over its fret `a`, so the open string follows the line through `u_1` and `u_a`; call what that line shows at the saddle `d`. Held
//! at `k`, the string goes from `u_k` to `d`, and fret `j` before it loses
//!
//! `u_j - (1 - s) u_k - s d`, `s = (x_j - x_k) / (L - x_k)`,
//!
//! of the room an even board would leave there (for the open string `u_0` lies on that line too). That may take no more than the
//! room there is, and nothing where there is none: what the targets leave too tight on a perfect board is not asked of a file.
//!
//! ```
//! use gradimen_core::clearance::Tightest;
//! use gradimen_core::level::play::{Played, least};
//! use gradimen_core::quantity::Length;
//!
//! let mm = Length::from_mm;
//! // Frets 100 mm apart, four of them; a tenth of room wherever the string could touch.
//! let rooms: Vec<Tightest> = (0..4)
//!     .flat_map(|held| (held + 1..=4).map(move |fret| Tightest { held, fret, margin: mm(0.1) }))
//!     .collect();
//! let places = [0.0, 100.0, 200.0, 300.0, 400.0].map(mm);
//! let played = Played { places: &places, length: mm(1000.0), action_fret: 4, rooms: &rooms };
//! // Fret 3 stands 0.08 high, and plays; 0.15 high, it is brought down to where it plays.
//! assert!(least(&played, &[0.0, 0.0, 0.08, 0.0].map(mm))?.iter().all(|taken| taken.mm() < 1e-9));
//! let taken = least(&played, &[0.0, 0.0, 0.15, 0.0].map(mm))?;
//! assert!((taken[2].mm() - 0.05).abs() < 1e-9 && taken[1].mm() < 1e-9);
//! # Ok::<(), gradimen_core::level::LevelError>(())
//! ```

use microlp::{ComparisonOp, OptimizationDirection, Problem, SolveOutcome, Variable};

use super::{FURTHEST_MM, LevelError};
use crate::clearance::Tightest;
use crate::quantity::Length;

/// A place that is too tight by less than this is not.
const EXACT_MM: f64 = 1e-7;

/// A string as it is to play.
#[derive(Debug, Clone, Copy)]
pub struct Played<'a> {
    /// Of the nut and of every fret, from the nut.
    pub places: &'a [Length],
    /// From nut to saddle.
    pub length: Length,
    /// The fret the action is set over.
    pub action_fret: u8,
    /// The room an even board would leave at every place, lying by its targets.
    pub rooms: &'a [Tightest],
}

/// What goes from every top, fret 1 first.
///
/// # Errors
/// [`LevelError`]; a plane under all tops always does, so there is an answer to what is a number.
pub fn least(played: &Played<'_>, heights: &[Length]) -> Result<Vec<Length>, LevelError> {
    let number = |length: &Length| length.mm().abs() < FURTHEST_MM;
    let frets = heights.len();
    let sound = frets > 0
        && played.places.len() > frets
        && (1..=frets).contains(&usize::from(played.action_fret))
        && heights.iter().all(number)
        && played.rooms.iter().all(|room| {
            number(&room.margin) && room.held < room.fret && usize::from(room.fret) <= frets
        });
    if !sound {
        return Err(LevelError::Tops);
    }
    let places: Vec<Asked> = played
        .rooms
        .iter()
        .map(|room| Asked {
            shares: played.shares(room, frets),
            room: room.margin.mm().max(0.0),
        })
        .collect();
    let heights: Vec<f64> = heights.iter().map(|height| height.mm()).collect();
    // Few places are ever too tight: those that are enter, until none is left; what solves so many solves all.
    let mut entered = vec![false; places.len()];
    let mut goes = vec![0.0; frets];
    loop {
        let standing: Vec<f64> = heights
            .iter()
            .zip(&goes)
            .map(|(up, off)| up - off)
            .collect();
        let mut more = false;
        for (place, entered) in places.iter().zip(&mut entered) {
            if !*entered && place.lost(&standing) > place.room + EXACT_MM {
                *entered = true;
                more = true;
            }
        }
        if !more {
            return Ok(goes.into_iter().map(Length::from_mm).collect());
        }
        let asked = places.iter().zip(&entered);
        let asked = asked.filter_map(|(place, entered)| entered.then_some(place));
        goes = solve(asked, &heights)?;
    }
}

/// One place that is not to be touched.
struct Asked {
    /// What it loses by every top's deviation.
    shares: Vec<(usize, f64)>,
    /// And how much of it there is to lose.
    room: f64,
}

impl Asked {
    fn lost(&self, standing: &[f64]) -> f64 {
        let parts = self.shares.iter().map(|(at, by)| by * standing[*at]);
        parts.sum()
    }
}

fn solve<'a>(
    asked: impl Iterator<Item = &'a Asked>,
    heights: &[f64],
) -> Result<Vec<f64>, LevelError> {
    let mut problem = Problem::new(OptimizationDirection::Minimize);
    let goes: Vec<Variable> = heights
        .iter()
        .map(|_| problem.add_var(1.0, (0.0, FURTHEST_MM)))
        .collect();
    for place in asked {
        let terms = place.shares.iter().map(|(at, by)| (goes[*at], -by));
        let allowed = place.room - place.lost(heights);
        problem.add_constraint(terms.collect::<Vec<_>>(), ComparisonOp::Le, allowed);
    }
    let Ok(SolveOutcome::Solution(found)) = problem.solve() else {
        return Err(LevelError::NoPlane);
    };
    Ok(goes.iter().map(|goes| found[*goes].max(0.0)).collect())
}

/// What the open string has at so far from the nut of the deviations of fret 1 and of the action fret, whose gaps it is set by: the
/// tops counted from nought, and their shares.
pub fn open_line(places: &[Length], action_fret: u8, at: Length) -> [(usize, f64); 2] {
    let action = usize::from(action_fret);
    let share = if action == 1 {
        0.0
    } else {
        (at - places[1]).ratio(places[action] - places[1])
    };
    [(0, 1.0 - share), (action - 1, share)]
}

impl Played<'_> {
    fn x(&self, fret: usize) -> f64 {
        self.places[fret].mm()
    }

    /// What a place loses by every top's deviation, tops counted from nought.
    fn shares(&self, room: &Tightest, frets: usize) -> Vec<(usize, f64)> {
        let (held, at) = (usize::from(room.held), usize::from(room.fret));
        let end = self.length.mm();
        let along = (self.x(at) - self.x(held)) / (end - self.x(held));
        let mut by = vec![0.0; frets];
        by[at - 1] += 1.0;
        for (top, share) in open_line(self.places, self.action_fret, self.length) {
            by[top] -= along * share;
        }
        match held {
            0 => {
                for (top, share) in open_line(self.places, self.action_fret, self.places[0]) {
                    by[top] -= (1.0 - along) * share;
                }
            }
            held => by[held - 1] -= 1.0 - along,
        }
        let named = by.into_iter().enumerate();
        named.filter(|(_, by)| *by != 0.0).collect()
    }
}
