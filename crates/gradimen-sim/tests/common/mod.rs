//! The instrument that the tests of this crate turn screws on.

use gradimen_bench::model::defaults;
use gradimen_bench::model::hardware::{Bridge, BridgeFamily};
use gradimen_bench::model::instrument::{Instrument, Kind};
use gradimen_bench::model::{Strung, Tuning};
use gradimen_sim::{Condition, SimulatedInstrument};

/// A guitar with a bridge of this family, a little odd everywhere; `alter` has the last word on its record and on how it comes.
pub(crate) fn simulated(
    family: BridgeFamily,
    seed: u64,
    alter: impl Fn(&mut Bridge, &mut Condition),
) -> SimulatedInstrument {
    let kind = Kind::Guitar;
    let mut record = Instrument {
        name: "Heron".into(),
        bridge: Bridge::profile(family, 6),
        ..defaults::usual_instrument(kind, 6)
    };
    let strung = Strung {
        set: defaults::sets(kind, 6)[0].strings.clone(),
        tuning: Tuning::of("standard", 440.0, &defaults::tunings(kind, 6)[0].pitches),
    };
    let mut odd = Condition {
        relief_mm: [0.3, 0.3],
        nut_mm: 0.6,
        action_mm: [1.8, 2.2],
        gap_mm: 2.5,
        saddles_mm: [0.0; 8],
        scatter_mm: None,
        fitted: true,
        trap: None,
    };
    alter(&mut record.bridge, &mut odd);
    (0..20)
        .find_map(|more| SimulatedInstrument::hidden(&record, &strung, &odd, seed * 31 + more))
        .unwrap()
}
