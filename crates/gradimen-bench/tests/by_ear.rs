//! A reading by ear is the interval itself: a pluck does not sharpen it, and it is as fine as it says.
#![allow(clippy::unwrap_used)] // a test that cannot go on should stop there

mod common;

use std::sync::Arc;

use common::prelude::*;
use common::{fold, opened};
use gradimen_bench::estimate::Estimate;

/// What is known of string 6 after one reading of it.
fn after(by_ear: bool) -> (f64, f64, f64) {
    let note = Reading::Note {
        cents: 3.0,
        against: Reference::Harmonic,
        resolution_cents: Some(0.3),
        by_ear,
    };
    let place = Place::Intonation {
        string: 6,
        fret: 12,
    };
    let start = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    let job = fold(vec![start, Event::read(place, note)]);
    let known = Estimate::of(Arc::new(job)).unwrap();
    let plan = Plan::of(&known);
    let saddle = plan.intonation.saddle_of(6).unwrap();
    let string = &saddle.estimate.strings[0];
    (
        string.error.value.value(),
        string.error.sigma.value(),
        string.plucked.value.value(),
    )
}

#[test]
fn what_a_tuner_reads_sharp_by_is_not_taken_off_a_reading_by_ear() {
    let (tuner, wide, plucked) = after(false);
    let (ear, narrow, _) = after(true);
    assert!(
        plucked > 0.1,
        "a pluck sharpens what a tuner shows: {plucked}"
    );
    assert!(
        (ear - tuner - plucked).abs() < 0.25 * plucked + 0.05,
        "{ear} {tuner} {plucked}"
    );
    assert!(narrow < wide, "{narrow} {wide}");
}
