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
//!
//! ```
//! use gradimen_core::{clearance::Pluck, quantity::{Force, Length}};
//!
//! // 1 N at the middle of 648 mm drawn with 70 N: F l / (4 T).
//! let middle = Pluck { force: Force::from_newtons(1.0), from_saddle: Length::from_mm(324.0) };
//! let aside = middle.amplitude(Length::from_mm(648.0), Force::from_newtons(70.0));
//! assert!((aside.mm() - 648.0 / 280.0).abs() < 1e-9);
//! ```

use crate::action::{ActionError, Levers, StringLine, levers};
use crate::neck::FretTops;
use crate::quantity::{Force, Length};
use crate::solve::{SolveError, root};

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

/// All places of a string where it could touch, worked out once: how the clearance there hangs on
/// nut, saddle and neck, and how far the string swings.
#[derive(Debug, Clone)]
pub struct Swings {
    places: Vec<Place>,
}

#[derive(Debug, Clone, Copy)]
struct Place {
    held: u8,
    at: u8,
    levers: Levers,
    swing: Length,
}

impl Swings {
    /// Of a string of that length and tension, plucked so.
    ///
    /// # Errors
    /// [`ActionError`] on a board without frets.
    pub fn new(
        tops: &FretTops,
        length: Length,
        tension: Force,
        pluck: &Pluck,
    ) -> Result<Self, ActionError> {
        let mut places = Vec::new();
        for held in 0..tops.frets() {
            let speaking = length - tops.place(held);
            for at in held + 1..=tops.frets() {
                places.push(Place {
                    held,
                    at,
                    levers: levers(tops, length, held, at)?,
                    swing: pluck.envelope(speaking, tension, length - tops.place(at)),
                });
            }
        }
        Ok(Self { places })
    }

    /// What is left at every place, held frets from 0 on.
    pub fn rooms(&self, line: &StringLine) -> impl Iterator<Item = Tightest> {
        self.places.iter().map(|place| Tightest {
            held: place.held,
            fret: place.at,
            margin: place.levers.height(line) - place.swing,
        })
    }

    /// The tightest place for every held fret from 0 to the last but one.
    pub fn map(&self, line: &StringLine) -> Vec<Tightest> {
        let mut found: Vec<Tightest> = Vec::new();
        for here in self.rooms(line) {
            match found.last_mut() {
                Some(last) if last.held == here.held => {
                    if here.margin < last.margin {
                        *last = here;
                    }
                }
                _ => found.push(here),
            }
        }
        found
    }

    /// The lowest saddle at which nothing touches at this neck and nut: the margin of every place is
    /// linear in the height of the saddle.
    pub fn lowest_saddle(&self, line: &StringLine) -> Length {
        self.places
            .iter()
            .map(|place| {
                let margin = place.levers.height(line) - place.swing;
                line.saddle - margin / place.levers.saddle
            })
            .fold(Length::from_mm(-1e3), Length::max)
    }
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

/// A string that is bent aside.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Bent {
    /// Its pull before.
    pub tension: Force,
    /// Force that would double its length.
    pub stretch: Force,
    /// All of it that stretches: between the nut and the crown, and behind both.
    pub free: Length,
}

impl Bent {
    /// How far a string of length `length`, held at `held`, is bent aside for a pitch higher by so
    /// many semitones: its path grows by `d` on both sides of the finger, its pull by `EA d / free`,
    /// and `f'/f = sqrt(T'/T) l/l'`.
    ///
    /// # Errors
    /// [`SolveError`] when no bend across a board does it.
    pub fn shift(
        &self,
        tops: &FretTops,
        length: Length,
        held: u8,
        semitones: f64,
    ) -> Result<Length, SolveError> {
        const ACROSS: f64 = 0.05;
        let (a, b) = (
            tops.place(held).metres(),
            (length - tops.place(held)).metres(),
        );
        let wanted = 2f64.powf(semitones / 12.0);
        let found = root(0.0, ACROSS, 1e-7, |aside| {
            let (near, far) = (a.hypot(aside), b.hypot(aside));
            let more = self.stretch.newtons() * (near + far - a - b) / self.free.metres();
            (1.0 + more / self.tension.newtons()).sqrt() * b / far - wanted
        })?;
        Ok(Length::from_metres(found))
    }
}

/// The tightest place of a string held at `held`, bent aside by `shift` there and plucked: it rides
/// up the arc, and the frets before it are higher toward the crown.
///
/// # Errors
/// [`ActionError`] at the last fret.
pub fn bend_margin(
    tops: &FretTops,
    line: &StringLine,
    tension: Force,
    pluck: &Pluck,
    held: u8,
    shift: Length,
) -> Result<Tightest, ActionError> {
    let from = tops.place(held);
    let mut tightest: Option<Tightest> = None;
    for at in held + 1..=tops.frets() {
        let left = 1.0 - (tops.place(at) - from).ratio(line.length - from);
        let margin = margin(tops, line, tension, pluck, held, at)? + tops.rise(held, shift) * left
            - tops.rise(at, shift * left);
        if tightest.is_none_or(|tightest| margin < tightest.margin) {
            tightest = Some(Tightest {
                held,
                fret: at,
                margin,
            });
        }
    }
    tightest.ok_or(ActionError::Held { held, at: held })
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::fretboard::BoardRadius;
    use crate::neck::Board;
    use crate::quantity::Curvature;
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
            bend: Curvature::from_per_metre(bend).into(),
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

    fn swings(newtons: f64) -> Swings {
        Swings::new(&tops(), Length::from_mm(651.0), TENSION, &pluck(newtons)).unwrap()
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
        let bent = swings(0.4).map(&line(1.1, 0.022));
        let worst = |map: &[Tightest], range: std::ops::Range<usize>| {
            map[range]
                .iter()
                .map(|t| t.margin.mm())
                .fold(f64::INFINITY, f64::min)
        };
        let flat = swings(0.4).map(&line(1.6, 0.0));
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
    fn a_bend_chokes_on_a_round_board_with_low_strings() {
        // Common practice: bends at the high frets choke on round boards with low strings.
        let on = |inches: f64, action: f64| {
            let radius = Length::from_inches(inches);
            let board = Board {
                frets: 22,
                radius: BoardRadius::new(radius, radius).unwrap(),
                spread_nut: Length::from_mm(35.5),
                spread_bridge: Length::from_mm(52.5),
                strings: 6,
                joint_fret: 16,
            };
            let tops = FretTops::new(&board, Length::from_mm(648.0), 0).unwrap();
            let laid = StringLine {
                nut: Length::from_mm(0.55),
                saddle: Length::from_mm(3.0),
                length: Length::from_mm(650.0),
                bend: Curvature::from_per_metre(0.006).into(),
            }
            .with_action(&tops, 12, Length::from_mm(action))
            .unwrap();
            bend_margin(
                &tops,
                &laid,
                TENSION,
                &pluck(0.4),
                14,
                Length::from_mm(12.0),
            )
            .unwrap()
            .margin
        };
        assert!(on(7.25, 1.2) < on(7.25, 1.8) && on(7.25, 1.2) < on(16.0, 1.2));
        assert!(on(7.25, 1.2) < Length::ZERO && on(16.0, 1.6) > Length::ZERO);
    }

    #[test]
    fn a_bend_of_a_plain_first_string() {
        // Hooke and Mersenne worked by hand: .010 at E4 on 648 mm, EA = 2.0e11 * 5.07e-8 = 10.1 kN,
        // 72 N; bent 10 mm aside at fret 12: the path grows by 2 * (sqrt(324^2 + 10^2) - 324) =
        // 0.3085 mm, on 773 mm that is 4.04 N, and the pitch rises by sqrt(76.04/72) / 1.000476.
        let bent = Bent {
            tension: Force::from_newtons(72.0),
            stretch: Force::from_newtons(10_134.0),
            free: Length::from_mm(773.0),
        };
        let length = Length::from_mm(648.0);
        let semitones =
            12.0 * (((72.0 + 10_134.0 * 0.308_568 / 773.0) / 72.0_f64).sqrt() / 1.000_476).log2();
        let shift = bent.shift(&tops(), length, 12, semitones).unwrap();
        assert!((shift.mm() - 10.0).abs() < 0.01, "{shift:?}");
        assert!(bent.shift(&tops(), length, 12, 24.0).is_err());
    }

    proptest! {
        #[test]
        fn the_lowest_saddle_just_clears(bend in 0.0..0.01f64, force in 0.1..1.2f64) {
            let line = line(1.6, bend);
            let laid = StringLine { saddle: swings(force).lowest_saddle(&line), ..line };
            let map = swings(force).map(&laid);
            let tightest = map.iter().map(|t| t.margin.mm()).fold(f64::INFINITY, f64::min);
            prop_assert!(tightest.abs() < 1e-9, "{tightest}");
        }
    }
}
