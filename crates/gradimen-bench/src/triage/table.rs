//! The likelihood table: how often what is told or found comes with each kind of work. One place, and common practice all of it: no
//! source counts these. They are meant in the coarse steps that a shop would agree on (rare 3 %, seldom 10 %, often 30-40 %).

use super::{Evidence, Outcome, Trial};
use crate::model::Symptom;

/// Work that comes in, by kind: setup, small repairs, new nut, fretwork, specialist.
pub(super) const PRIOR: [f64; Outcome::COUNT] = [0.60, 0.15, 0.07, 0.13, 0.05];

/// How often each kind of work comes with what was told or found: setup, small repairs, new nut, fretwork, specialist.
pub(super) const fn likelihood(evidence: Evidence) -> [f64; Outcome::COUNT] {
    match evidence {
        Evidence::Told(symptom) => told(symptom),
        Evidence::Tried(trial, fine) => {
            let fine_share = fine_in(trial);
            if fine {
                return fine_share;
            }
            let [setup, repairs, nut, frets, other] = fine_share;
            [
                1.0 - setup,
                1.0 - repairs,
                1.0 - nut,
                1.0 - frets,
                1.0 - other,
            ]
        }
        // One that has been on this bench before was brought round once already.
        Evidence::SeenBefore => [0.40, 0.30, 0.15, 0.20, 0.15],
    }
}

/// How often a player tells this of an instrument that needs each kind of work.
const fn told(symptom: Symptom) -> [f64; Outcome::COUNT] {
    match symptom {
        Symptom::BuzzOpen => [0.10, 0.10, 0.45, 0.05, 0.08],
        Symptom::BuzzLow => [0.18, 0.12, 0.10, 0.15, 0.20],
        Symptom::BuzzMiddle => [0.15, 0.10, 0.03, 0.20, 0.15],
        Symptom::BuzzHigh => [0.10, 0.08, 0.02, 0.35, 0.25],
        Symptom::BuzzOne => [0.04, 0.05, 0.02, 0.40, 0.05],
        Symptom::HardToPlay => [0.35, 0.15, 0.10, 0.10, 0.30],
        // Slots too high, mostly: a setup files them. A new nut only where its edge stands wrong.
        Symptom::SharpLow => [0.25, 0.10, 0.12, 0.05, 0.05],
        Symptom::SourHigh => [0.30, 0.10, 0.05, 0.10, 0.20],
        Symptom::DeadNotes => [0.05, 0.08, 0.02, 0.30, 0.08],
        Symptom::ChokingBends => [0.10, 0.03, 0.02, 0.40, 0.10],
        // Slots that bind are widened and lubricated.
        Symptom::WillNotStay => [0.20, 0.30, 0.10, 0.03, 0.08],
        Symptom::Rattles => [0.08, 0.40, 0.03, 0.05, 0.05],
        Symptom::Crackle => [0.03, 0.45, 0.02, 0.02, 0.15],
        Symptom::Squeal => [0.03, 0.15, 0.02, 0.02, 0.40],
        Symptom::OffTheEdge => [0.03, 0.15, 0.20, 0.02, 0.15],
        Symptom::FretEnds => [0.05, 0.30, 0.03, 0.25, 0.05],
    }
}

/// How often a quick check finds nothing wrong.
const fn fine_in(trial: Trial) -> [f64; Outcome::COUNT] {
    match trial {
        Trial::Rocker => [0.92, 0.88, 0.90, 0.12, 0.75],
        Trial::Rod => [0.99, 0.97, 0.98, 0.95, 0.55],
        Trial::Neck => [0.98, 0.97, 0.98, 0.85, 0.60],
        Trial::Slots => [0.97, 0.95, 0.40, 0.95, 0.95],
        Trial::Travel => [0.98, 0.96, 0.98, 0.98, 0.65],
        Trial::Electrics => [0.96, 0.45, 0.95, 0.94, 0.60],
    }
}
