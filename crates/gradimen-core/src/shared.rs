//! One saddle under several strings.
//!
//! Each string has its own right place; the saddle has one. The even compromise makes the worst
//! error as small as it can be: where the sharpest and the flattest string are off by the same
//! amount, `max e_i(s) + min e_i(s) = 0`. Every `e_i` falls as the saddle goes back, so the sum
//! does too, and its one root is the answer, for one string as for three.
//!
//! ```
//! use gradimen_core::{quantity::{Cents, Length}, shared::even_compromise};
//!
//! // Two strings that want 2 mm and 4 mm of setback, a cent for each tenth: half way serves both.
//! let errors = |s: Length| vec![Cents::new((2.0 - s.mm()) * 10.0), Cents::new((4.0 - s.mm()) * 10.0)];
//! let place = even_compromise(Length::ZERO, Length::from_mm(10.0), errors)?;
//! assert!((place.mm() - 3.0).abs() < 1e-3);
//! # Ok::<(), gradimen_core::solve::SolveError>(())
//! ```

use crate::quantity::{Cents, Length};
use crate::solve::{SolveError, root};

/// A hundredth of a micrometre: far below what any screw can set.
const TOLERANCE: f64 = 1e-8;

/// The setback between `near` and `far` that makes the worst error smallest.
///
/// `errors` answers with the error of every string at a setback.
///
/// # Errors
/// [`SolveError`] when the compromise lies outside the two limits.
pub fn even_compromise(
    near: Length,
    far: Length,
    errors: impl Fn(Length) -> Vec<Cents>,
) -> Result<Length, SolveError> {
    let found = root(near.metres(), far.metres(), TOLERANCE, |setback| {
        let all = errors(Length::from_metres(setback));
        let (low, high) = all
            .iter()
            .fold((f64::INFINITY, f64::NEG_INFINITY), |(low, high), cents| {
                (low.min(cents.value()), high.max(cents.value()))
            });
        low + high
    })?;
    Ok(Length::from_metres(found))
}

#[cfg(test)]
mod tests {
    use super::*;

    /// Strings that are right at the given setbacks and lose 2.7 cents a millimetre.
    fn errors(right: &[f64]) -> impl Fn(Length) -> Vec<Cents> {
        let right = right.to_vec();
        move |at| {
            right
                .iter()
                .map(|place| Cents::new(2.7 * (place - at.mm())))
                .collect()
        }
    }

    #[test]
    fn two_strings_share_the_error_evenly() {
        let found = even_compromise(
            Length::from_mm(-5.0),
            Length::from_mm(15.0),
            errors(&[2.0, 5.0]),
        )
        .unwrap();
        assert!((found.mm() - 3.5).abs() < 1e-4);
    }

    #[test]
    fn the_middle_string_of_three_does_not_matter() {
        let found = even_compromise(
            Length::from_mm(-5.0),
            Length::from_mm(15.0),
            errors(&[2.0, 2.5, 5.0]),
        )
        .unwrap();
        assert!((found.mm() - 3.5).abs() < 1e-4);
    }

    #[test]
    fn one_string_gets_its_own_place() {
        let found =
            even_compromise(Length::from_mm(-5.0), Length::from_mm(15.0), errors(&[2.0])).unwrap();
        assert!((found.mm() - 2.0).abs() < 1e-4);
        assert!(
            even_compromise(Length::from_mm(5.0), Length::from_mm(15.0), errors(&[2.0])).is_err()
        );
    }
}
