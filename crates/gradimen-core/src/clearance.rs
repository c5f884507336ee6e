//! Where a plucked string touches a fret, how near it comes elsewhere, and how low it may lie.
//!
//! A string of speaking length `l` and tension `T`, drawn aside by a force `F` at `p` from the
//! saddle, stands in a triangle of height `A = F p (l - p) / (T l)` (statics). Let go, an ideal
//! string never leaves the parallelogram of that triangle and its point-mirror (d'Alembert), so
//! toward the frets it reaches at `u` from the saddle
//!
//! `E(u) = A max(tri(u, p), tri(u, l - p))`, `tri(u, q) = min(u/q, (l - u)/(l - q))`,
//!
//! whichever way it was drawn. Real strings lose height at every turn, so this is the worst case of
//! the first swing. The clearance of fret `j` for a string held at `k` is linear in the heights of
//! nut and saddle and in the bend of the neck; the margin is what remains of it beyond `E`.

use crate::action::{ActionError, StringLine, levers};
use crate::neck::FretTops;
use crate::quantity::{Curvature, Force, Length};

/// How a string is plucked.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Pluck {
    /// The part of the force at a right angle to the board.
    pub force: Force,
    /// From the saddle to the plectrum or finger.
    pub from_saddle: Length,
}

impl Pluck {
    /// The same with another force.
    pub fn with_force(self, force: Force) -> Self {
        Self { force, ..self }
    }

    /// Height of the triangle a string of tension `T` is drawn to.
    pub fn amplitude(&self, speaking: Length, tension: Force) -> Length {
        let (l, p) = (speaking.metres(), self.place(speaking));
        Length::from_metres(self.force.newtons() * p * (l - p) / (tension.newtons() * l))
    }

    /// No one plucks beyond the middle of what sounds: there the finger would leave the string.
    fn place(&self, speaking: Length) -> f64 {
        self.from_saddle.metres().min(speaking.metres() / 2.0)
    }

    /// How far the string swings toward the frets at `from_saddle`.
    pub fn envelope(&self, speaking: Length, tension: Force, from_saddle: Length) -> Length {
        let (l, p, u) = (
            speaking.metres(),
            self.place(speaking),
            from_saddle.metres(),
        );
        let triangle = |apex: f64| (u / apex).min((l - u) / (l - apex)).max(0.0);
        self.amplitude(speaking, tension) * triangle(p).max(triangle(l - p))
    }
}

/// The tightest place of a string held at one fret.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Tightest {
    /// Held here; 0 is the open string.
    pub held: u8,
    /// Nearest to touching this fret.
    pub fret: u8,
    /// What is left there; negative when it buzzes.
    pub margin: Length,
}

/// The margin of a string held at `held` over fret `at`.
///
/// # Errors
/// [`ActionError`] when that fret does not lie before it.
pub fn margin(
    tops: &FretTops,
    line: &StringLine,
    tension: Force,
    pluck: &Pluck,
    held: u8,
    at: u8,
) -> Result<Length, ActionError> {
    let clearance = line.action_held(tops, held, at)?;
    let speaking = line.length - tops.place(held);
    Ok(clearance - pluck.envelope(speaking, tension, line.length - tops.place(at)))
}

/// The tightest place for every held fret from 0 to the last but one.
///
/// # Errors
/// [`ActionError`] on a board without frets.
pub fn map(
    tops: &FretTops,
    line: &StringLine,
    tension: Force,
    pluck: &Pluck,
) -> Result<Vec<Tightest>, ActionError> {
    (0..tops.frets())
        .map(|held| {
            let mut tightest = Tightest {
                held,
                fret: held + 1,
                margin: margin(tops, line, tension, pluck, held, held + 1)?,
            };
            for at in held + 2..=tops.frets() {
                let here = margin(tops, line, tension, pluck, held, at)?;
                if here < tightest.margin {
                    tightest = Tightest {
                        held,
                        fret: at,
                        margin: here,
                    };
                }
            }
            Ok(tightest)
        })
        .collect()
}

/// The force at which a string held at `held` begins to touch fret `at`.
///
/// # Errors
/// [`ActionError`] when that fret does not lie before it.
pub fn onset(
    tops: &FretTops,
    line: &StringLine,
    tension: Force,
    pluck: &Pluck,
    held: u8,
    at: u8,
) -> Result<Force, ActionError> {
    let clearance = line.action_held(tops, held, at)?;
    let one = pluck.with_force(Force::from_newtons(1.0));
    let speaking = line.length - tops.place(held);
    let swing = one.envelope(speaking, tension, line.length - tops.place(at));
    Ok(Force::from_newtons(clearance.ratio(swing).max(0.0)))
}

/// The lowest saddle at which nothing touches at this neck and nut: the margin of every place is
/// linear in the height of the saddle.
///
/// # Errors
/// [`ActionError`] on a board without frets.
pub fn lowest_saddle(
    tops: &FretTops,
    line: &StringLine,
    tension: Force,
    pluck: &Pluck,
) -> Result<Length, ActionError> {
    let mut lowest = Length::from_mm(-1e3);
    for held in 0..tops.frets() {
        for at in held + 1..=tops.frets() {
            let short = -margin(tops, line, tension, pluck, held, at)?;
            let lever = levers(tops, line.length, held, at)?.saddle;
            lowest = lowest.max(line.saddle + short / lever);
        }
    }
    Ok(lowest)
}

/// The bend of the neck, of those offered, that lets a string lie lowest at the twelfth fret, with
/// the string so laid.
///
/// # Errors
/// [`ActionError`] on a board without frets.
pub fn lowest_line(
    tops: &FretTops,
    line: &StringLine,
    tension: Force,
    pluck: &Pluck,
    bends: &[Curvature],
) -> Result<StringLine, ActionError> {
    let twelfth = 12.min(tops.frets());
    let mut best: Option<(Length, StringLine)> = None;
    for &curvature in bends {
        let bent = StringLine { curvature, ..*line };
        let laid = StringLine {
            saddle: lowest_saddle(tops, &bent, tension, pluck)?,
            ..bent
        };
        let action = laid.action(tops, twelfth)?;
        if best.is_none_or(|(lowest, _)| action < lowest) {
            best = Some((action, laid));
        }
    }
    Ok(best.map_or(*line, |(_, laid)| laid))
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::fretboard::BoardRadius;
    use crate::neck::Board;
    use proptest::prelude::*;

    fn tops() -> FretTops {
        let radius = Length::from_inches(12.0);
        let board = Board {
            frets: 22,
            radius: BoardRadius::new(radius, radius).unwrap(),
            spread_nut: Length::from_mm(35.5),
            spread_bridge: Length::from_mm(52.5),
            strings: 6,
            joint_fret: 16,
        };
        FretTops::new(&board, Length::from_mm(648.0), 3).unwrap()
    }

    fn line(action: f64, bend: f64) -> StringLine {
        StringLine {
            nut: Length::from_mm(0.55),
            saddle: Length::from_mm(3.0),
            length: Length::from_mm(651.0),
            curvature: Curvature::from_per_metre(bend),
        }
        .with_action(&tops(), 12, Length::from_mm(action))
        .unwrap()
    }

    const TENSION: Force = Force::from_newtons(75.0);

    fn pluck(newtons: f64) -> Pluck {
        Pluck {
            force: Force::from_newtons(newtons),
            from_saddle: Length::from_mm(120.0),
        }
    }

    #[test]
    fn amplitude_by_statics() {
        // A force in the middle of a string: A = F l / (4 T) (any mechanics handbook).
        let middle = Pluck {
            force: Force::from_newtons(1.0),
            from_saddle: Length::from_mm(325.0),
        };
        let found = middle.amplitude(Length::from_mm(650.0), TENSION);
        assert!((found.mm() - 650.0 / (4.0 * 75.0)).abs() < 1e-12);
    }

    #[test]
    fn the_swing_is_the_same_seen_from_both_ends_and_ends_there() {
        let (l, p) = (Length::from_mm(650.0), pluck(0.6));
        for at in [60.0, 120.0, 250.0, 325.0] {
            let near = p.envelope(l, TENSION, Length::from_mm(at));
            let far = p.envelope(l, TENSION, Length::from_mm(650.0 - at));
            assert!((near - far).abs().mm() < 1e-12);
        }
        assert!(p.envelope(l, TENSION, Length::ZERO).mm().abs() < 1e-12);
        assert_eq!(
            p.envelope(l, TENSION, Length::from_mm(120.0)),
            p.amplitude(l, TENSION)
        );
    }

    #[test]
    fn a_low_bridge_buzzes_high_up_and_a_flat_neck_low_down() {
        // Common practice: buzz low on the neck is too little relief, high up a low bridge.
        let bent = map(&tops(), &line(1.1, 0.022), TENSION, &pluck(0.4)).unwrap();
        let worst = |map: &[Tightest], range: std::ops::Range<usize>| {
            map[range]
                .iter()
                .map(|t| t.margin.mm())
                .fold(f64::INFINITY, f64::min)
        };
        let flat = map(&tops(), &line(1.6, 0.0), TENSION, &pluck(0.4)).unwrap();
        assert!(worst(&bent, 10..16) < worst(&bent, 1..5), "{bent:?}");
        assert!(worst(&flat, 1..5) < worst(&flat, 10..16), "{flat:?}");
    }

    #[test]
    fn at_the_onset_nothing_is_left() {
        let (tops, line) = (tops(), line(1.5, 0.003));
        let force = onset(&tops, &line, TENSION, &pluck(0.1), 3, 5).unwrap();
        let left = margin(&tops, &line, TENSION, &pluck(force.newtons()), 3, 5).unwrap();
        assert!(left.mm().abs() < 1e-12);
    }

    #[test]
    fn some_relief_lets_the_strings_lie_lower() {
        let tops = tops();
        let bends: Vec<Curvature> = (0..=40)
            .map(|n| Curvature::from_per_metre(f64::from(n) * 0.001))
            .collect();
        let lowest = lowest_line(&tops, &line(1.6, 0.0), TENSION, &pluck(0.6), &bends).unwrap();
        assert!(lowest.curvature > Curvature::ZERO && lowest.curvature < bends[40]);
        let harder = lowest_line(&tops, &line(1.6, 0.0), TENSION, &pluck(0.9), &bends).unwrap();
        assert!(harder.action(&tops, 12).unwrap() > lowest.action(&tops, 12).unwrap());
        assert!(harder.curvature >= lowest.curvature);
    }

    proptest! {
        #[test]
        fn the_lowest_saddle_just_clears(bend in 0.0..0.01f64, force in 0.1..1.2f64) {
            let (tops, line) = (tops(), line(1.6, bend));
            let laid = StringLine { saddle: lowest_saddle(&tops, &line, TENSION, &pluck(force)).unwrap(), ..line };
            let map = map(&tops, &laid, TENSION, &pluck(force)).unwrap();
            let tightest = map.iter().map(|t| t.margin.mm()).fold(f64::INFINITY, f64::min);
            prop_assert!(tightest.abs() < 1e-9, "{tightest}");
        }
    }
}
