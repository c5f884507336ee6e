//! Where the frets are, how round the board is and where the strings lie.
//!
//! - Fret `n` of a scale `S` in equal temperament: `x = S (1 - 2^(-n/12))`.
//! - Arc of the board: `sag(y, R) = R - sqrt(R^2 - y^2)`; a tapered board has `R` linear in x.
//! - Strings fan out linearly from nut to bridge.
//!
//! ```
//! use gradimen_core::{fretboard::{fret_position, sag}, quantity::Length};
//!
//! assert!((fret_position(Length::from_mm(648.0), 12).mm() - 324.0).abs() < 1e-9);
//! // 26 mm from the middle of a 12 inch board.
//! assert!((sag(Length::from_mm(26.0), Length::from_inches(12.0))?.mm() - 1.111).abs() < 0.001);
//! # Ok::<(), gradimen_core::fretboard::BoardError>(())
//! ```

use thiserror::Error;

use crate::quantity::Length;

/// Why there is no such board.
#[derive(Debug, Clone, Copy, PartialEq, Error)]
pub enum BoardError {
    /// A scale no instrument of these kinds has.
    #[error(
        "read a scale of {0:.1} mm, expected 400 to 1000 mm (a guitar is near 648, a bass near 864)"
    )]
    Scale(f64),
    /// A number of frets no board carries.
    #[error("read {0} frets, expected 12 to 36")]
    Frets(u8),
    /// A radius rounder than any board.
    #[error("read a radius of {0:.0} mm, expected 100 mm or more (7.25 in is 184)")]
    Radius(f64),
    /// A place outside the arc.
    #[error("{0:.1} mm from the centre lies outside the arc")]
    OutsideArc(f64),
}

/// A scale length within what instruments have.
///
/// # Errors
/// [`BoardError::Scale`] outside 400 to 1000 mm.
pub fn checked_scale(scale: Length) -> Result<Length, BoardError> {
    if (400.0..=1000.0).contains(&scale.mm()) {
        Ok(scale)
    } else {
        Err(BoardError::Scale(scale.mm()))
    }
}

/// Distance from the nut edge to fret `n` (0 is the nut itself).
pub fn fret_position(scale: Length, n: u8) -> Length {
    scale * (1.0 - 2f64.powf(-f64::from(n) / 12.0))
}

/// Distance between fret `n - 1` and fret `n`; `n` from 1.
pub fn fret_spacing(scale: Length, n: u8) -> Length {
    fret_position(scale, n) - fret_position(scale, n.saturating_sub(1))
}

/// How far an arc of radius `radius` falls away at `y` from its crown.
///
/// # Errors
/// [`BoardError::OutsideArc`] where `y` is beyond the arc.
pub fn sag(y: Length, radius: Length) -> Result<Length, BoardError> {
    let (y_m, r) = (y.metres(), radius.metres());
    if y_m.abs() > r {
        return Err(BoardError::OutsideArc(y.mm()));
    }
    // y^2 / (r + sqrt(r^2 - y^2)) is the same and keeps its digits for flat arcs.
    Ok(Length::from_metres(
        y_m * y_m / (r + (r * r - y_m * y_m).sqrt()),
    ))
}

/// A board's radius along its length: one radius, or linear from nut to last fret.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct BoardRadius {
    nut: Length,
    last_fret: Length,
}

impl BoardRadius {
    /// Radius at the nut and at the last fret; equal for a cylinder.
    ///
    /// # Errors
    /// [`BoardError::Radius`] below 100 mm.
    pub fn new(nut: Length, last_fret: Length) -> Result<Self, BoardError> {
        for radius in [nut, last_fret] {
            if radius.mm() < 100.0 {
                return Err(BoardError::Radius(radius.mm()));
            }
        }
        Ok(Self { nut, last_fret })
    }

    /// Radius at the nut.
    pub const fn nut(self) -> Length {
        self.nut
    }

    /// Radius at the last fret.
    pub const fn last_fret(self) -> Length {
        self.last_fret
    }

    /// Radius at `x`, extrapolated beyond the last fret at `board_length`.
    pub fn at(self, x: Length, board_length: Length) -> Length {
        self.nut + (self.last_fret - self.nut) * x.ratio(board_length)
    }
}

/// Distance of a string from the centre line at `x`, positive to the treble side.
///
/// `index` counts from 0 at string 1 (treble); spreads are measured between the outer strings.
pub fn string_offset(
    index: usize,
    strings: usize,
    nut_spread: Length,
    bridge_spread: Length,
    x: Length,
    scale: Length,
) -> Length {
    let gaps = strings.saturating_sub(1).max(1) as f64;
    offset_across(index as f64 / gaps, nut_spread, bridge_spread, x, scale)
}

/// The same for a string that lies `across` of the way from the first to the last, 0 to 1: strings in courses do not lie
/// evenly.
pub fn offset_across(
    across: f64,
    nut_spread: Length,
    bridge_spread: Length,
    x: Length,
    scale: Length,
) -> Length {
    let spread = nut_spread + (bridge_spread - nut_spread) * x.ratio(scale);
    spread * (0.5 - across)
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn frets_of_a_twenty_five_and_a_half_inch_scale() {
        // Lutherie handbooks: fret 1 at 1.431, 12 at 12.750, 24 at 19.125 in.
        let scale = Length::from_inches(25.5);
        for (n, inches) in [(0, 0.0), (1, 1.431), (12, 12.750), (24, 19.125)] {
            assert!(
                (fret_position(scale, n).inches() - inches).abs() < 5e-4,
                "{n}"
            );
        }
    }

    #[test]
    fn the_handbook_divisor_gives_the_same_frets() {
        // Lutherie handbooks divide what remains by 17.817 for each fret.
        let scale = Length::from_inches(25.5);
        let mut remaining = 25.5;
        for n in 1..=24 {
            remaining -= remaining / 17.817;
            let place = 25.5 - remaining;
            assert!(
                (fret_position(scale, n).inches() - place).abs() < 5e-4,
                "{n}"
            );
        }
    }

    #[test]
    fn sag_of_an_arc() {
        // 3-4-5 triangle: radius 50, 30 from the crown's axis, falls by 10.
        let fall = sag(Length::from_mm(30.0), Length::from_mm(50.0)).unwrap();
        assert!((fall.mm() - 10.0).abs() < 1e-12);
        assert!(sag(Length::from_mm(51.0), Length::from_mm(50.0)).is_err());
    }

    #[test]
    fn a_tapered_board_extrapolates_to_the_bridge() {
        // Common practice: a 254 to 406 mm taper is near 465 mm at the bridge.
        let radius = BoardRadius::new(Length::from_mm(254.0), Length::from_mm(406.4)).unwrap();
        let scale = Length::from_mm(648.0);
        let at_bridge = radius.at(scale, fret_position(scale, 22));
        assert!((at_bridge.mm() - 465.0).abs() < 3.0, "{at_bridge:?}");
    }

    #[test]
    fn strings_fan_out_evenly() {
        let at = |index| {
            string_offset(
                index,
                6,
                Length::from_mm(35.0),
                Length::from_mm(52.5),
                Length::from_mm(324.0),
                Length::from_mm(648.0),
            )
            .mm()
        };
        assert!((at(0) - 21.875).abs() < 1e-9 && (at(5) + 21.875).abs() < 1e-9);
        assert!((at(0) - at(1) - 8.75).abs() < 1e-9);
    }

    #[test]
    fn refuses_what_no_board_is() {
        assert!(checked_scale(Length::from_inches(64.8)).is_err());
        assert!(BoardRadius::new(Length::from_mm(9.5), Length::from_mm(9.5)).is_err());
    }
}
