//! Fretted notes and the saddle moves that bring them true.
//!
//! The open string runs straight from nut slot to saddle crown and is tuned to its note. Fretted
//! at `n` it runs from the nut down to the finger behind the fret, over the fret, and up to the
//! saddle: a longer path. With `EA` the stretch stiffness and `L_free` all the string that shares
//! the stretch (behind nut and saddle too, where it slides),
//!
//! `dT = EA (path - open path) / L_free`.
//!
//! The finger presses with a force `F` at `p` behind the fret, `q` in front of what lies before it,
//! and so dips to `F p q / (T (p + q))` under the frets (statics of a point load on a string).
//! What then sounds is the stiff string of [`crate::vibration`] between fret and saddle.
//!
//! A saddle move of `d` changes the open length by `d / L` and the length from the twelfth fret by
//! `2 d / L`; after retuning the fretted twelfth falls by `1200 / ln 2 * d / L` cents. The rule
//! `d = c ln 2 / 1200 * L` is 0.374 mm per cent at 648 mm; the model refines it.
//!
//! The neck is taken as straight here; relief changes these errors by hundredths of a cent.
//!
//! ```
//! use gradimen_core::{intonation::first_order_move, quantity::{Cents, Length}};
//!
//! // 5 cents sharp at fret 12 of 648 mm: the saddle goes back by about 0.94 mm.
//! let back = first_order_move(Cents::new(5.0), Length::from_mm(648.0) * 0.5);
//! assert!((back.mm() - 0.94).abs() < 0.01);
//! ```

mod lie;

use lie::BEHIND_SHARE;
pub use lie::{Anchors, Fingering, Heights, LIGHT_PRESS};
use thiserror::Error;

use crate::fretboard::{fret_position, fret_spacing};
use crate::pitch::{cents_between, shifted};
use crate::quantity::{BendingStiffness, Cents, Estimate, Force, Frequency, Length, LinearDensity};
use crate::solve::{SolveError, root};
use crate::string::StringSpec;
use crate::vibration::{End, StiffString, bending_length};

/// Why there is no prediction.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum IntonationError {
    /// Heights no string can lie at.
    #[error(
        "read {first:.2} mm at fret 1 and {twelfth:.2} mm at fret 12, expected 0 to 3 mm and 0.2 to 8 mm, the second not below the first"
    )]
    Heights {
        /// Clearance at the first fret in millimetres.
        first: f64,
        /// Action at the twelfth in millimetres.
        twelfth: f64,
    },
    /// A harmonic is only read at the twelfth here.
    #[error(
        "read a harmonic at fret {0}: the harmonic is compared at fret 12; at other frets compare with the open string in tune"
    )]
    HarmonicFret(u8),
    /// A fret that is not on the board.
    #[error("read fret {0}, expected 1 to 36")]
    Fret(u8),
    /// No saddle place brings the note true.
    #[error("{0}")]
    Solve(#[from] SolveError),
}

/// What a fretted reading is compared with.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Hash)]
pub enum Reference {
    /// The open string in tune, as many semitones down as the fret counts.
    Open,
    /// The harmonic over the twelfth fret.
    Harmonic,
}

/// How well the inputs of the model are known: one standard deviation each.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Doubts {
    /// Of the finger's force.
    pub force: Force,
    /// Of the action at the twelfth.
    pub twelfth: Length,
    /// Of the clearance at the first fret.
    pub first_fret: Length,
    /// Of the free length, as a share.
    pub free_length: f64,
    /// Of the core diameter, as a share.
    pub core: f64,
}

/// One string of one instrument, ready to be fretted.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Speaking {
    string: StringSpec,
    frequency: Frequency,
    scale: Length,
    heights: Heights,
    fingering: Fingering,
    anchors: Anchors,
    nut_offset: Length,
    unit_weight: LinearDensity,
    stretch: Force,
    bending: BendingStiffness,
}

/// Saddles are looked for from so far in front of the scale line ...
const NEAREST_SETBACK: Length = Length::from_mm(-25.0);
/// ... to so far behind it.
const FURTHEST_SETBACK: Length = Length::from_mm(40.0);
/// A hundredth of a micrometre: far below what any screw can set.
const SETBACK_TOLERANCE: f64 = 1e-8;

impl Speaking {
    /// A string tuned to `frequency` on a scale, at given heights, pressed in a given way.
    pub fn new(
        string: &StringSpec,
        frequency: Frequency,
        scale: Length,
        heights: Heights,
        fingering: Fingering,
    ) -> Self {
        Self {
            string: *string,
            frequency,
            scale,
            heights,
            fingering,
            anchors: Anchors::default(),
            nut_offset: Length::ZERO,
            unit_weight: string.unit_weight(),
            stretch: string.stretch_stiffness(),
            bending: string.bending_stiffness(),
        }
    }

    /// With other lengths behind nut and saddle.
    pub fn with_anchors(self, anchors: Anchors) -> Self {
        Self { anchors, ..self }
    }

    /// With the nut edge moved toward the bridge (positive) or away from it.
    pub fn with_nut_offset(self, nut_offset: Length) -> Self {
        Self { nut_offset, ..self }
    }

    /// Lying at other heights.
    pub const fn with_heights(self, heights: Heights) -> Self {
        Self { heights, ..self }
    }

    /// Where it lies.
    pub const fn heights(&self) -> Heights {
        self.heights
    }

    /// Pressed in another way.
    pub fn with_fingering(self, fingering: Fingering) -> Self {
        Self { fingering, ..self }
    }

    /// Another string at the same note in the same place.
    pub fn with_string(self, string: &StringSpec) -> Self {
        Self {
            string: *string,
            unit_weight: string.unit_weight(),
            stretch: string.stretch_stiffness(),
            bending: string.bending_stiffness(),
            ..self
        }
    }

    /// The scale it is fretted by.
    pub const fn scale(&self) -> Length {
        self.scale
    }

    /// How it is pressed.
    pub const fn fingering(&self) -> Fingering {
        self.fingering
    }

    /// The open string at a saddle setback, tuned to its note.
    fn open(&self, setback: Length) -> Open {
        let (x_nut, x_saddle) = (self.nut_offset.metres(), (self.scale + setback).metres());
        let nut = (x_nut, self.heights.at(x_nut, self.scale));
        let saddle = (x_saddle, self.heights.at(x_saddle, self.scale));
        let path = distance(nut, saddle);
        let string = StiffString {
            length: Length::from_metres(path),
            tension: Force::from_newtons(
                self.unit_weight.kilograms_per_metre()
                    * (2.0 * path * self.frequency.hertz()).powi(2),
            ),
            unit_weight: self.unit_weight,
            stiffness: self.bending,
            ends: [End::Tail(self.nut_tail()), End::Tail(self.saddle_tail())],
        }
        .tuned_to(self.frequency);
        Open {
            nut,
            saddle,
            path,
            string,
        }
    }

    /// The tail behind the nut bends even where a lock keeps it from sliding.
    fn nut_tail(&self) -> Length {
        self.anchors.behind_nut.max(SHORTEST_TAIL)
    }

    fn saddle_tail(&self) -> Length {
        self.anchors.behind_saddle.max(SHORTEST_TAIL)
    }

    /// Frequency of the note fretted at `fret` with the saddle at `setback`.
    fn fretted(&self, open: &Open, fret: u8) -> Frequency {
        let x = fret_position(self.scale, fret).metres();
        let spacing = fret_spacing(self.scale, fret).metres();
        let p = self.fingering.behind.metres().min(BEHIND_SHARE * spacing);
        let q = spacing - p;
        let pull = open.string.tension.newtons();
        let dip = self.fingering.force.newtons() * p * q / (pull * (p + q));
        let (finger, top) = ((x - p, -dip), (x, 0.0));
        // The string comes down from the nut in one line unless the fret before lies in its way.
        let before = (x - spacing, 0.0);
        let clears = fret == 1
            || open.nut.1
                + (finger.1 - open.nut.1) * (before.0 - open.nut.0) / (finger.0 - open.nut.0)
                >= 0.0;
        let to_finger = if clears {
            distance(open.nut, finger)
        } else {
            distance(open.nut, before) + distance(before, finger)
        };
        let speaking = distance(top, open.saddle);
        let stretch = to_finger + distance(finger, top) + speaking - open.path;
        let free =
            open.path + self.anchors.behind_nut.metres() + self.anchors.behind_saddle.metres();
        StiffString {
            length: Length::from_metres(speaking),
            tension: Force::from_newtons(pull + self.stretch.newtons() * stretch / free),
            unit_weight: self.unit_weight,
            stiffness: self.bending,
            ends: [
                End::Tail(Length::from_metres(p)),
                End::Tail(self.saddle_tail()),
            ],
        }
        .partial(1)
    }

    /// How sharp the note fretted at `fret` is against the open string in tune.
    ///
    /// # Errors
    /// [`IntonationError::Fret`] for a fret no board has.
    pub fn error(&self, fret: u8, setback: Length) -> Result<Cents, IntonationError> {
        if !(1..=36).contains(&fret) {
            return Err(IntonationError::Fret(fret));
        }
        let open = self.open(setback);
        let wanted = shifted(self.frequency, Cents::new(100.0 * f64::from(fret)));
        Ok(cents_between(wanted, self.fretted(&open, fret)))
    }

    /// How much sharper the harmonic over the twelfth is than the octave of the open string.
    pub fn harmonic_excess(&self, setback: Length) -> Cents {
        cents_between(self.frequency * 2.0, self.open(setback).string.partial(2))
    }

    /// What a reading says about the true error: the harmonic's own sharpness is added back.
    ///
    /// # Errors
    /// [`IntonationError::HarmonicFret`] for a harmonic at any fret but the twelfth.
    pub fn true_error(
        &self,
        fret: u8,
        reading: Cents,
        reference: Reference,
        setback: Length,
    ) -> Result<Cents, IntonationError> {
        match reference {
            Reference::Open => Ok(reading),
            Reference::Harmonic if fret == 12 => Ok(reading + self.harmonic_excess(setback)),
            Reference::Harmonic => Err(IntonationError::HarmonicFret(fret)),
        }
    }

    /// The setback at which the note fretted at `fret` is sharp by `target`.
    ///
    /// # Errors
    /// [`IntonationError::Solve`] when there is none within reach of any bridge.
    pub fn setback_for(&self, fret: u8, target: Cents) -> Result<Length, IntonationError> {
        self.error(fret, Length::ZERO)?;
        let found = root(
            NEAREST_SETBACK.metres(),
            FURTHEST_SETBACK.metres(),
            SETBACK_TOLERANCE,
            |setback| {
                self.error(fret, Length::from_metres(setback))
                    .map_or(f64::NAN, |error| (error - target).value())
            },
        )?;
        Ok(Length::from_metres(found))
    }

    /// The setback that brings the twelfth true, and how far off it may be for what is not known
    /// about finger, heights, free length and core.
    ///
    /// # Errors
    /// As [`Speaking::setback_for`].
    pub fn predicted_setback(&self, doubts: &Doubts) -> Result<Estimate<Length>, IntonationError> {
        let centre = self.setback_for(12, Cents::ZERO)?;
        // At the centre the error is nil; what an input changes there is worth so much saddle.
        let worth = |other: Self| {
            other
                .error(12, centre)
                .map(|error| first_order_move(error, self.scale))
        };
        let harder = Fingering {
            force: self.fingering.force + doubts.force,
            ..self.fingering
        };
        let higher = Heights {
            twelfth: self.heights.twelfth + doubts.twelfth,
            ..self.heights
        };
        let nut_higher = Heights {
            first_fret: self.heights.first_fret + doubts.first_fret,
            ..self.heights
        };
        let longer = Anchors {
            behind_nut: self.anchors.behind_nut + self.scale * doubts.free_length,
            ..self.anchors
        };
        let thicker = self.string.with_core_scaled(1.0 + doubts.core);
        let changed = [
            self.with_fingering(harder),
            Self {
                heights: higher,
                ..*self
            },
            Self {
                heights: nut_higher,
                ..*self
            },
            self.with_anchors(longer),
            self.with_string(&thicker),
        ];
        let mut variance = MODEL_SIGMA.mm().powi(2);
        for other in changed {
            variance += worth(other)?.mm().powi(2);
        }
        Ok(Estimate::new(centre, Length::from_mm(variance.sqrt())))
    }
}

/// Crown wear, fret placement and what else the model leaves out (common practice: setbacks of
/// one string vary by about this much between like instruments).
const MODEL_SIGMA: Length = Length::from_mm(0.35);
/// A string is never held nearer behind its support than this.
const SHORTEST_TAIL: Length = Length::from_mm(5.0);

/// The open string, tuned.
struct Open {
    nut: (f64, f64),
    saddle: (f64, f64),
    path: f64,
    string: StiffString,
}

fn distance(a: (f64, f64), b: (f64, f64)) -> f64 {
    (a.0 - b.0).hypot(a.1 - b.1)
}

/// The saddle move for a twelfth that reads `error` sharp, to first order: `c ln 2 / 1200 * L`,
/// away from the neck for a sharp reading.
pub fn first_order_move(error: Cents, length: Length) -> Length {
    length * (error.value() * std::f64::consts::LN_2 / 1200.0)
}

/// The length over which bending of this string shows at its supports, for the sum shown as Why.
pub fn bending_reach(string: &StringSpec, tension: Force) -> Length {
    bending_length(string.bending_stiffness(), tension)
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::material::WrapMetal;
    use crate::pitch::{ConcertPitch, Pitch};
    use crate::string::Construction;

    fn speaking(thou: f64, note: &str, scale: f64) -> Speaking {
        let gauge = Length::from_thou(thou);
        let string = StringSpec::plain(gauge)
            .ok()
            .filter(|_| thou < 20.0)
            .unwrap_or_else(|| {
                StringSpec::new(
                    gauge,
                    Construction::RoundWound(WrapMetal::NickelPlatedSteel),
                )
                .unwrap()
            });
        Speaking::new(
            &string,
            note.parse::<Pitch>()
                .unwrap()
                .frequency(ConcertPitch::default()),
            Length::from_mm(scale),
            Heights::new(Length::from_mm(0.5), Length::from_mm(1.75)).unwrap(),
            Fingering::default(),
        )
    }

    #[test]
    fn the_first_order_rule() {
        // By derivation: L ln 2 / 1200.
        assert!(
            (first_order_move(Cents::new(1.0), Length::from_mm(648.0)).mm() - 0.374).abs() < 5e-4
        );
        assert!(
            (first_order_move(Cents::new(1.0), Length::from_mm(864.0)).mm() - 0.499).abs() < 5e-4
        );
        assert!(first_order_move(Cents::new(6.0), Length::from_mm(648.0)) > Length::ZERO);
    }

    #[test]
    fn setbacks_lie_where_the_trade_finds_them() {
        // Common practice: 1.3-2.5 mm first string, 3-4.5 plain third, 4-6 sixth.
        for (thou, note, low, high) in [
            (10.0, "E4", 1.3, 2.5),
            (17.0, "G3", 3.0, 4.5),
            (46.0, "E2", 4.0, 6.0),
        ] {
            let setback = speaking(thou, note, 648.0)
                .setback_for(12, Cents::ZERO)
                .unwrap()
                .mm();
            assert!((low..=high).contains(&setback), "{note}: {setback}");
        }
    }

    #[test]
    fn the_first_order_rule_leaves_little() {
        // Derivation: under 0.3 cent from 10 cents away, 0.9 from 25.
        let string = speaking(17.0, "G3", 648.0);
        let right = string.setback_for(12, Cents::ZERO).unwrap();
        for (away, left) in [(10.0, 0.3), (25.0, 0.9), (-10.0, 0.3), (-25.0, 0.9)] {
            let from = string.setback_for(12, Cents::new(away)).unwrap();
            let after = from + first_order_move(Cents::new(away), string.scale());
            let error = string.error(12, after).unwrap();
            assert!(error.value().abs() < left, "{away}: {error:?}");
        }
        assert!(string.error(12, right).unwrap().value().abs() < 1e-4);
    }

    #[test]
    fn the_harmonic_is_corrected_and_only_at_the_twelfth() {
        let bass = speaking(105.0, "E1", 864.0);
        let excess = bass.harmonic_excess(Length::from_mm(5.0));
        // A thick bass string: above 0.3 cent; guitar strings stay below.
        assert!(excess.value() > 0.3 && excess.value() < 3.0, "{excess:?}");
        assert!(
            speaking(10.0, "E4", 648.0)
                .harmonic_excess(Length::ZERO)
                .value()
                < 0.3
        );
        let read = bass
            .true_error(12, Cents::new(1.0), Reference::Harmonic, Length::ZERO)
            .unwrap();
        assert!(read.value() > 1.3);
        assert!(
            bass.true_error(7, Cents::ZERO, Reference::Harmonic, Length::ZERO)
                .is_err()
        );
    }

    #[test]
    fn a_harder_finger_and_a_higher_string_want_more_setback() {
        let string = speaking(17.0, "G3", 648.0);
        let base = string.setback_for(12, Cents::ZERO).unwrap();
        let hard = Fingering {
            force: Force::from_newtons(5.0),
            ..Fingering::default()
        };
        assert!(
            string
                .with_fingering(hard)
                .setback_for(12, Cents::ZERO)
                .unwrap()
                > base
        );
        let high = Speaking {
            heights: Heights::new(Length::from_mm(0.5), Length::from_mm(2.5)).unwrap(),
            ..string
        };
        assert!(high.setback_for(12, Cents::ZERO).unwrap() > base);
        // Less of the string to share the stretch: sharper.
        let locked = string.with_anchors(Anchors {
            behind_nut: Length::ZERO,
            behind_saddle: Length::ZERO,
        });
        assert!(locked.setback_for(12, Cents::ZERO).unwrap() > base);
    }

    #[test]
    fn doubts_widen_the_prediction() {
        let string = speaking(46.0, "E2", 648.0);
        let doubts = |force: f64, core: f64| Doubts {
            force: Force::from_newtons(force),
            twelfth: Length::from_mm(0.1),
            first_fret: Length::from_mm(0.05),
            free_length: 0.05,
            core,
        };
        let sure = string.predicted_setback(&doubts(0.1, 0.0)).unwrap();
        let unsure = string.predicted_setback(&doubts(1.5, 0.08)).unwrap();
        assert_eq!(sure.value, unsure.value);
        assert!(unsure.sigma > sure.sigma * 1.5);
        assert!(unsure.sigma.mm() < 3.0);
    }

    #[test]
    fn refuses_impossible_heights_and_frets() {
        assert!(Heights::new(Length::from_mm(0.5), Length::from_mm(20.0)).is_err());
        assert!(Heights::new(Length::from_mm(2.0), Length::from_mm(1.0)).is_err());
        assert!(matches!(
            speaking(10.0, "E4", 648.0).error(0, Length::ZERO),
            Err(IntonationError::Fret(0))
        ));
    }
}
