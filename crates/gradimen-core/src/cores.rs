//! The usual core under a wound gauge.
//!
//! Core sizes are rarely printed: the table gives usual sizes (from memory, good to about 8 %), always shown as an
//! estimate; a micrometer or a pocket scale replaces them. Of strings in two layers makers wind the same gauge on cores that
//! differ more; theirs are chosen so that a stock 34 in bass has the setbacks that are measured on such basses (common
//! practice: E 5-7 mm, B 7-10 mm behind the scale line), where thicker ones asked for half as much again.
//!
//! ```
//! use gradimen_core::cores::usual_core;
//! use gradimen_core::quantity::Length;
//!
//! assert!((usual_core(Length::from_thou(46.0)).thou() - 17.0).abs() < 1e-9);
//! ```

use crate::quantity::Length;

/// Above this gauge a wrap is laid in two layers (common practice on bass strings).
pub const TWO_LAYERS_ABOVE: Length = Length::from_inches(0.0605);

/// Usual core diameter by gauge, both in thousandths of an inch (from memory).
const CORES: [(f64, f64); 17] = [
    (14.0, 8.0),
    (17.0, 9.5),
    (20.0, 11.0),
    (24.0, 12.5),
    (26.0, 13.0),
    (32.0, 14.5),
    (36.0, 15.5),
    (42.0, 16.5),
    (46.0, 17.0),
    (52.0, 18.0),
    (60.0, 19.5),
    (70.0, 22.0),
    (80.0, 22.7),
    (85.0, 23.0),
    (105.0, 27.0),
    (130.0, 31.0),
    (160.0, 36.0),
];

/// The usual core under a wound gauge: linear between the entries of the table.
pub fn usual_core(gauge: Length) -> Length {
    let thou = gauge.thou();
    let above = CORES
        .iter()
        .position(|&(outer, _)| outer >= thou)
        .unwrap_or(CORES.len() - 1)
        .max(1);
    let ((g0, c0), (g1, c1)) = (CORES[above - 1], CORES[above]);
    Length::from_thou(c0 + (c1 - c0) * (thou - g0) / (g1 - g0))
}
