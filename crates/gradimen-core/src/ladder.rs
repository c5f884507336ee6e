//! A neutral ladder of gauges: those wire drawers and winders commonly step by.
//!
//! ```
//! use gradimen_core::{ladder::{gauges, Family}, quantity::Length, string::Construction};
//!
//! let plain = gauges(Family::Guitar, Construction::Plain);
//! assert!(plain.windows(2).all(|pair| pair[0].gauge() < pair[1].gauge()));
//! assert!(plain.iter().any(|s| (s.gauge() - Length::from_inches(0.010)).abs().mm() < 1e-9));
//! ```

use crate::material::WrapMetal;
use crate::quantity::Length;
use crate::string::{Construction, StringSpec};

/// Plain gauges in thousandths of an inch, with the halves that are commonly drawn.
const PLAIN: [f64; 22] = [
    7.0, 8.0, 8.5, 9.0, 9.5, 10.0, 10.5, 11.0, 11.5, 12.0, 13.0, 13.5, 14.0, 15.0, 16.0, 17.0,
    18.0, 19.0, 20.0, 22.0, 24.0, 26.0,
];

/// Wound gauges for guitars and baritones in thousandths of an inch.
const WOUND: [f64; 29] = [
    17.0, 18.0, 19.0, 20.0, 21.0, 22.0, 24.0, 26.0, 28.0, 30.0, 32.0, 34.0, 36.0, 38.0, 40.0, 42.0,
    44.0, 46.0, 48.0, 50.0, 52.0, 54.0, 56.0, 59.0, 62.0, 66.0, 70.0, 74.0, 80.0,
];

/// Wound gauges for basses in thousandths of an inch.
const BASS: [f64; 20] = [
    20.0, 25.0, 30.0, 32.0, 35.0, 40.0, 45.0, 50.0, 55.0, 60.0, 65.0, 70.0, 75.0, 80.0, 85.0, 90.0,
    95.0, 100.0, 105.0, 110.0,
];

/// The lowest bass strings.
const LOW_BASS: [f64; 6] = [115.0, 120.0, 125.0, 130.0, 135.0, 145.0];

/// Which ladder a string is picked from.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Family {
    /// Guitars and baritones.
    Guitar,
    /// Basses.
    Bass,
}

/// Every string of the ladder in one construction, thinnest first.
pub fn gauges(family: Family, construction: Construction) -> Vec<StringSpec> {
    let thou: Vec<f64> = match (construction, family) {
        (Construction::Plain, _) => PLAIN.to_vec(),
        (_, Family::Guitar) => WOUND.to_vec(),
        (_, Family::Bass) => BASS.iter().chain(&LOW_BASS).copied().collect(),
    };
    thou.into_iter()
        .filter_map(|gauge| StringSpec::new(Length::from_thou(gauge), construction).ok())
        .collect()
}

/// The wrap a set is usually offered in when nothing else is said.
pub const USUAL_WRAP: WrapMetal = WrapMetal::NickelPlatedSteel;

#[cfg(test)]
mod tests {
    use super::*;
    use crate::cores::usual_core;

    #[test]
    fn cores_grow_with_the_gauge_and_leave_room_for_the_wrap() {
        let mut before = Length::ZERO;
        for thou in 14..=160 {
            let gauge = Length::from_thou(f64::from(thou));
            let core = usual_core(gauge);
            assert!(core > before && core < gauge * 0.7, "{thou}");
            before = core;
        }
    }

    #[test]
    fn every_rung_is_a_string() {
        for (family, construction, count) in [
            (Family::Guitar, Construction::Plain, PLAIN.len()),
            (
                Family::Guitar,
                Construction::RoundWound(USUAL_WRAP),
                WOUND.len(),
            ),
            (
                Family::Bass,
                Construction::FlatWound(WrapMetal::Stainless),
                BASS.len() + LOW_BASS.len(),
            ),
        ] {
            let rungs = gauges(family, construction);
            assert_eq!(rungs.len(), count);
            assert!(
                rungs
                    .windows(2)
                    .all(|pair| pair[0].gauge() < pair[1].gauge())
            );
        }
    }
}
