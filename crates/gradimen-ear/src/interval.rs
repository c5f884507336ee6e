//! The interval between two notes of one string, from several plucks of each.

use serde::Serialize;

use crate::note::Note;
use crate::who::Kind;

/// How far a fretted note stands above the harmonic over it.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Interval {
    /// Cents; sharp is more than nought.
    pub cents: f64,
    /// One standard deviation.
    pub width: f64,
    /// Plucks of the reference and of the fretted note.
    pub plucks: (usize, usize),
}

/// What all plucks of one note share (the body's pull) is no scatter: this share of one pluck's width.
const SHARED: f64 = 0.1;
/// The median of five scatters by this more than their mean. Of normal values it would be 1.198 (the variance of the middle one of five), of
/// plucks it is less: most beat little and a few far.
const MEDIAN: f64 = 1.04;

/// Cents by which the harmonic of a string lies above twice the open string, `B` being the open string's:
/// `1200 lb sqrt((1 + 4 B) / (1 + B))`, 2597 `B` for a small one.
pub fn harmonic_above_octave(stiffness: f64) -> f64 {
    600.0 * ((1.0 + 4.0 * stiffness) / (1.0 + stiffness)).log2()
}

impl Interval {
    /// The twelfth fret's note against its harmonic; where the open string was played instead, against its octave, brought to the harmonic
    /// by the stiffness that was heard. Nothing without a pluck of each.
    pub fn of(reference: &[Note], kind: Kind, fretted: &[Note]) -> Option<Self> {
        let (below, below_width) = middle(reference, |note| match kind {
            Kind::Open => note.hz.log2() * 1200.0 + 1200.0 + harmonic_above_octave(note.stiffness),
            Kind::Harmonic | Kind::Fretted => note.hz.log2() * 1200.0,
        })?;
        let (above, above_width) = middle(fretted, |note| note.hz.log2() * 1200.0)?;
        Some(Self {
            cents: above - below,
            width: above_width.hypot(below_width),
            plucks: (reference.len(), fretted.len()),
        })
    }
}

/// The middle of some plucks of a note, cents, and its width: from their scatter, and from what each claims.
fn middle(notes: &[Note], cents: impl Fn(&Note) -> f64) -> Option<(f64, f64)> {
    let mut values: Vec<f64> = notes.iter().map(cents).collect();
    let n = values.len();
    if n == 0 {
        return None;
    }
    let mean = values.iter().sum::<f64>() / n as f64;
    let claimed = (notes
        .iter()
        .map(|note| note.width * note.width)
        .sum::<f64>()
        / n as f64)
        .sqrt();
    values.sort_by(f64::total_cmp);
    let median = (values[(n - 1) / 2] + values[n / 2]) / 2.0;
    // What they claim counts as one pluck's scatter more.
    let squares: f64 = values.iter().map(|value| (value - mean).powi(2)).sum();
    let one = (squares + claimed * claimed) / n as f64;
    let own = MEDIAN * MEDIAN * one / n as f64;
    let own = if n == 1 { claimed * claimed } else { own };
    let shared = if n == 1 { 0.0 } else { SHARED * claimed };
    Some((median, (own + shared * shared).sqrt()))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_harmonic_lies_above_the_octave_as_the_handbook_has_it() {
        // Worked by hand from f_2 / (2 f_1) = sqrt((1 + 4 B) / (1 + B)) (Fletcher 1964) for B = 0.001:
        // 1200 lb sqrt(1.004 / 1.001) = 2.5906 cents.
        assert!((harmonic_above_octave(1e-3) - 2.5906).abs() < 1e-3);
        assert_eq!(harmonic_above_octave(0.0), 0.0);
    }

    #[test]
    fn a_wild_pluck_moves_the_middle_little_and_more_plucks_narrow_it() {
        let sharp = |cents: f64| Note::plain(220.0 * 2.0_f64.powf(cents / 1200.0), 0.0);
        let reference = [Note::plain(220.0, 0.0)];
        let one = Interval::of(&reference, Kind::Harmonic, &[sharp(2.0)]).unwrap();
        assert!((one.cents - 2.0).abs() < 1e-9 && (one.width - 0.1 * 2.0_f64.sqrt()).abs() < 1e-9);
        let calm = [
            sharp(2.0),
            sharp(2.05),
            sharp(1.95),
            sharp(2.02),
            sharp(1.98),
        ];
        let calm = Interval::of(&vec![Note::plain(220.0, 0.0); 5], Kind::Harmonic, &calm).unwrap();
        assert!(calm.width < one.width, "{calm:?}");
        let wild = [
            sharp(2.0),
            sharp(2.05),
            sharp(1.95),
            sharp(2.02),
            sharp(9.0),
        ];
        let wild = Interval::of(&vec![Note::plain(220.0, 0.0); 5], Kind::Harmonic, &wild).unwrap();
        assert!(
            (wild.cents - 2.02).abs() < 1e-9 && wild.width > 5.0 * calm.width,
            "{wild:?}"
        );
        assert!(Interval::of(&[], Kind::Harmonic, &reference).is_none());
    }

    #[test]
    fn an_open_string_is_brought_to_its_harmonic() {
        let of = |b: f64| {
            Interval::of(
                &[Note::plain(110.0, b)],
                Kind::Open,
                &[Note::plain(220.0, 4.0 * b)],
            )
            .unwrap()
        };
        assert!(of(0.0).cents.abs() < 1e-9);
        // The fretted note stands an octave above the open string, so flat of the harmonic.
        assert!((of(1e-3).cents + 2.5906).abs() < 1e-3);
    }
}
