//! The shop's defaults, in one place: tunings, sets, tuners, heights, usual instruments.
//!
//! All of it is common practice and can be overridden job by job.
//!
//! ```
//! use gradimen_bench::model::defaults::{sets, tunings};
//! use gradimen_bench::model::instrument::Kind;
//!
//! let standard = &tunings(Kind::Guitar, 6)[0];
//! assert_eq!(standard.pitches.len(), 6);
//! assert!(sets(Kind::Bass, 4).iter().all(|set| set.strings.len() == 4));
//! ```

mod setup;
mod specs;

pub use setup::{School, action_fret, pickup_target, pluck, relief_schools, targets, tolerance};
pub use specs::house_specs;

use gradimen_core::pitch::{Note, Pitch};
use gradimen_core::quantity::Cents;
use gradimen_core::quantity::Length;
use gradimen_core::units::LengthUnit;

use super::hardware::{Bridge, BridgeFamily, PickupFamily, PickupRecord};
use super::instrument::{Construction, Instrument, Kind, NeckRecord};
use super::measurement::Measurement;
use super::player::{HeightsGiven, Tuner};
use super::strings::{StringConstruction, StringEntry};

/// A named tuning, string 1 first.
#[derive(Debug, Clone, PartialEq)]
pub struct Preset {
    /// Its name.
    pub name: &'static str,
    /// Its notes.
    pub pitches: Vec<Pitch>,
}

/// The lowest note that a string can be had for, by MIDI number: E0 on a bass, B0 on the shorter scale of a guitar.
const fn lowest(kind: Kind) -> i16 {
    match kind {
        Kind::Bass => 16,
        Kind::Guitar | Kind::Baritone => 23,
    }
}

/// Open notes of the standard tuning by MIDI number, string 1 first.
fn standard(kind: Kind, strings: u8) -> Vec<i16> {
    let full: &[i16] = match (kind, strings) {
        // Six courses: two in unison, four with their octave on the bass side (common practice).
        (Kind::Guitar, 12) => &[64, 64, 59, 59, 55, 67, 50, 62, 45, 57, 40, 52],
        (Kind::Guitar, 4) => &[62, 57, 52, 47],
        (Kind::Guitar, _) => &[64, 59, 55, 50, 45, 40, 35, 30],
        (Kind::Baritone, 4) => &[59, 54, 50, 45],
        (Kind::Baritone, _) => &[59, 54, 50, 45, 40, 35, 30, 25],
        (Kind::Bass, 4) => &[43, 38, 33, 28],
        (Kind::Bass, 5) => &[43, 38, 33, 28, 23],
        (Kind::Bass, _) => &[48, 43, 38, 33, 28, 23, 18, 16],
    };
    // Beyond what the lists have, on in fourths to the lowest there is.
    let last = full.last().copied().unwrap_or(28);
    let further = (1..).map(|step| (last - 5 * step).max(lowest(kind)));
    full.iter()
        .copied()
        .chain(further)
        .take(usize::from(strings))
        .collect()
}

/// The presets that fit a kind and number of strings, the standard tuning first.
pub fn tunings(kind: Kind, strings: u8) -> Vec<Preset> {
    let base = standard(kind, strings);
    let lowered = |by: i16| base.iter().map(|note| note - by).collect::<Vec<_>>();
    let dropped = |mut notes: Vec<i16>| {
        if let Some(last) = notes.last_mut() {
            *last -= 2;
        }
        notes
    };
    let mut found = vec![
        ("standard", base.clone()),
        ("half a step down", lowered(1)),
        ("a whole step down", lowered(2)),
        ("lowest string down a whole step", dropped(base.clone())),
        ("half a step down, lowest dropped", dropped(lowered(1))),
    ];
    if kind == Kind::Guitar && strings == 6 {
        found.push(("open D", vec![62, 57, 54, 50, 45, 38]));
        found.push(("open G", vec![62, 59, 55, 50, 43, 38]));
        found.push(("D A D G A D", vec![62, 57, 55, 50, 45, 38]));
    }
    found
        .into_iter()
        .filter_map(|(name, notes)| {
            let pitches: Option<Vec<Pitch>> = notes
                .into_iter()
                .map(|midi| Note::from_midi(midi).ok().map(Pitch::from))
                .collect();
            pitches.map(|pitches| Preset { name, pitches })
        })
        .collect()
}

/// A set as the trade names it by its outer gauges.
#[derive(Debug, Clone, PartialEq)]
pub struct UsualSet {
    /// Its weight in a word.
    pub name: &'static str,
    /// Its strings, string 1 first.
    pub strings: Vec<StringEntry>,
}

/// Neutral sets for a kind and number of strings, the usual one first.
pub fn sets(kind: Kind, strings: u8) -> Vec<UsualSet> {
    // (name, gauges in thou, how many are plain)
    if (kind, strings) == (Kind::Guitar, 12) {
        return vec![twelve()];
    }
    let ladder: Vec<(&str, &[f64], usize)> = match (kind, strings) {
        (Kind::Guitar, 4) => vec![("medium", &[11.0, 16.0, 24.0, 34.0], 2)],
        (Kind::Guitar, _) => vec![
            (
                "light",
                &[10.0, 13.0, 17.0, 26.0, 36.0, 46.0, 59.0, 74.0],
                3,
            ),
            (
                "extra light",
                &[9.0, 11.0, 16.0, 24.0, 32.0, 42.0, 54.0, 70.0],
                3,
            ),
            (
                "medium",
                &[11.0, 14.0, 18.0, 28.0, 38.0, 50.0, 62.0, 80.0],
                3,
            ),
            (
                "heavy, wound third",
                &[12.0, 16.0, 24.0, 32.0, 42.0, 54.0, 66.0, 80.0],
                2,
            ),
        ],
        (Kind::Baritone, 4) => vec![("medium", &[13.0, 18.0, 30.0, 42.0], 2)],
        (Kind::Baritone, _) => vec![
            (
                "medium",
                &[13.0, 18.0, 26.0, 36.0, 46.0, 62.0, 74.0, 80.0],
                2,
            ),
            (
                "heavy",
                &[14.0, 18.0, 28.0, 38.0, 52.0, 66.0, 80.0, 80.0],
                2,
            ),
        ],
        (Kind::Bass, 4 | 5) => vec![
            ("medium", &[45.0, 65.0, 85.0, 105.0, 130.0], 0),
            ("light", &[40.0, 60.0, 80.0, 100.0, 125.0], 0),
            ("heavy", &[50.0, 70.0, 90.0, 110.0, 135.0], 0),
        ],
        (Kind::Bass, _) => vec![(
            "medium",
            &[32.0, 45.0, 65.0, 85.0, 105.0, 130.0, 145.0, 145.0],
            0,
        )],
    };
    ladder
        .into_iter()
        .map(|(name, gauges, plain)| UsualSet {
            name,
            strings: gauges
                .iter()
                .copied()
                // Beyond what a set has, on as its last ones go.
                .chain((1..).map(|more| further(gauges.last().copied().unwrap_or(80.0), more)))
                .take(usize::from(strings))
                .enumerate()
                .map(|(index, gauge)| {
                    let make = if index < plain {
                        StringConstruction::Plain
                    } else {
                        StringConstruction::RoundNickelPlated
                    };
                    StringEntry::thou(gauge, make)
                })
                .collect(),
        })
        .collect()
}

/// So many strings beyond a set, each a fourth lower: thicker by the same share (from memory), to what is made.
fn further(last: f64, more: i32) -> f64 {
    (last * 1.28_f64.powi(more)).round().min(THICKEST)
}

/// The thickest that is made, in thousandths of an inch (from memory).
const THICKEST: f64 = 160.0;

/// Twelve strings in six courses, as they come (from memory).
fn twelve() -> UsualSet {
    let plain = [
        10.0, 10.0, 14.0, 14.0, 23.0, 8.0, 30.0, 12.0, 39.0, 18.0, 47.0, 27.0,
    ];
    let wound = [4, 6, 8, 10, 11];
    let strings = plain.iter().enumerate().map(|(index, &gauge)| {
        let make = if wound.contains(&index) {
            StringConstruction::RoundNickelPlated
        } else {
            StringConstruction::Plain
        };
        StringEntry::thou(gauge, make)
    });
    UsualSet {
        name: "twelve, light",
        strings: strings.collect(),
    }
}

/// Tuners by what they resolve (common practice).
pub const TUNERS: [(&str, Cents); 4] = [
    ("strobe", Cents::new(0.1)),
    ("good pedal", Cents::new(0.5)),
    ("clip-on", Cents::new(1.0)),
    ("coarse clip-on", Cents::new(3.0)),
];

/// The tuner assumed until one is chosen.
pub fn usual_tuner() -> Tuner {
    Tuner {
        name: TUNERS[1].0.to_owned(),
        resolution_cents: TUNERS[1].1.value(),
    }
}

/// Heights assumed until they are measured: first fret .020 in, action 4/64 treble and 5/64 bass
/// on guitars, 4/64 on basses (common practice).
pub fn usual_heights(instrument: &Instrument) -> HeightsGiven {
    let thou = |value| Measurement::exact(Length::from_thou(value), LengthUnit::Thou);
    let sixty_fourths = |count: f64| {
        let height = Length::from_inches(count / 64.0);
        Measurement::new(format!("{count}/64"), height, height)
    };
    let first = setup::over_first_fret(instrument)[0];
    let (treble, bass) = match instrument.kind {
        Kind::Guitar => (4.0, 5.0),
        Kind::Baritone => (4.5, 5.5),
        // Common practice has 5/64 at fret 17, which is 4/64 at fret 12.
        Kind::Bass => (4.0, 4.5),
    };
    HeightsGiven {
        first_fret_treble: thou(first),
        first_fret_bass: thou(first),
        twelfth_treble: sixty_fourths(treble),
        twelfth_bass: sixty_fourths(bass),
        measured: false,
    }
}

/// Pickups as they usually lie (common practice; places from memory).
fn usual_pickups(kind: Kind) -> Vec<PickupRecord> {
    let places: &[(&str, PickupFamily, f64)] = match kind {
        Kind::Guitar | Kind::Baritone => &[
            ("neck", PickupFamily::SingleCoil, 160.0),
            ("middle", PickupFamily::SingleCoil, 98.0),
            ("bridge", PickupFamily::SingleCoil, 44.0),
        ],
        Kind::Bass => &[
            ("neck", PickupFamily::Bass, 150.0),
            ("bridge", PickupFamily::Bass, 55.0),
        ],
    };
    places
        .iter()
        .map(|(name, family, before)| usual_pickup(name, *family, Measurement::mm(*before)))
        .collect()
}

/// A pickup as most of its family are held and screwed.
pub fn usual_pickup(name: &str, family: PickupFamily, before_saddle: Measurement) -> PickupRecord {
    let held = family.usual_mounting();
    PickupRecord {
        name: name.to_owned(),
        family,
        before_saddle,
        pitch: family.usual_screw(),
        clockwise_raises: held.rises_clockwise(),
        direction_checked: true,
        travel: None,
        pole_pitch: None,
        mounting: Some(held),
    }
}

/// The usual instrument of a kind with as many strings as most have: a bass four, the others six.
pub fn most_usual(kind: Kind) -> Instrument {
    usual_instrument(kind, if kind == Kind::Bass { 4 } else { 6 })
}

/// A usual instrument of a kind, to start a form from. It has no name yet.
pub fn usual_instrument(kind: Kind, strings: u8) -> Instrument {
    let inches = |value: f64| Measurement::exact(Length::from_inches(value), LengthUnit::Inch);
    let (scale, frets, family) = match kind {
        Kind::Guitar => (25.5, 22, BridgeFamily::FixedPlate),
        Kind::Baritone => (27.0, 24, BridgeFamily::FixedPlate),
        Kind::Bass => (34.0, 20, BridgeFamily::BentPlateBass),
    };
    let gaps = f64::from(strings.saturating_sub(1));
    let (nut_gap, bridge_gap) = match kind {
        Kind::Bass => (9.8, 19.0),
        _ => (7.1, 10.5),
    };
    Instrument {
        stock_number: String::new(),
        name: String::new(),
        kind,
        strings,
        scales: vec![inches(scale)],
        frets,
        radius_nut: inches(9.5),
        radius_last_fret: inches(9.5),
        spread_nut: Measurement::mm((nut_gap * gaps * 10.0).round() / 10.0),
        spread_bridge: Measurement::mm((bridge_gap * gaps * 10.0).round() / 10.0),
        left_handed: false,
        locking_nut: false,
        neck: NeckRecord::default(),
        pickups: usual_pickups(kind),
        bridge: Bridge::profile(family, strings),
        construction: Construction::default(),
        note: String::new(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use strum::VariantArray;

    #[test]
    fn every_kind_has_tunings_and_sets_that_exist() {
        for kind in Kind::VARIANTS.iter().copied() {
            for strings in crate::model::limits::STRINGS {
                let presets = tunings(kind, strings);
                assert!(!presets.is_empty(), "{kind:?} {strings}");
                for preset in presets {
                    assert_eq!(preset.pitches.len(), usize::from(strings));
                    // Octave strings of courses lie above their neighbours.
                    let falls = preset
                        .pitches
                        .windows(2)
                        .all(|pair| pair[0].note() >= pair[1].note());
                    assert!(falls || (kind, strings) == (Kind::Guitar, 12));
                }
                for set in sets(kind, strings) {
                    assert_eq!(set.strings.len(), usize::from(strings));
                    assert!(set.strings.iter().all(|string| string.spec().is_ok()));
                }
            }
        }
    }

    #[test]
    fn the_standard_guitar_is_e_to_e() {
        let names: Vec<String> = tunings(Kind::Guitar, 6)[0]
            .pitches
            .iter()
            .map(Pitch::to_string)
            .collect();
        assert_eq!(names, ["E4", "B3", "G3", "D3", "A2", "E2"]);
        let bass: Vec<String> = tunings(Kind::Bass, 4)[0]
            .pitches
            .iter()
            .map(Pitch::to_string)
            .collect();
        assert_eq!(bass, ["G2", "D2", "A1", "E1"]);
    }
}
