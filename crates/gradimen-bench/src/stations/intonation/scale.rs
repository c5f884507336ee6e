//! The scale check: nut edge to the crown of the 12th, doubled, against the name.

use gradimen_core::quantity::Length;

use super::SaddlePlan;
use crate::finding::ScaleCheck;
use crate::job::{Job, SCALE_TOLERANCE};

/// The scale checks of a job, where something was measured.
pub fn scale_checks(job: &Job, saddles: &[SaddlePlan]) -> Vec<ScaleCheck> {
    let shift = shift_needed(job, saddles);
    (1..=job.instrument().strings)
        .filter_map(|string| {
            let measured = job.nut_to_twelfth(string)?.middle() * 2.0;
            let named = job.instrument().scale(string);
            Some(ScaleCheck {
                string,
                named,
                measured,
                agrees: (measured - named).abs() <= SCALE_TOLERANCE,
                shift,
            })
        })
        .collect()
}

/// The one shift of the whole bridge that leaves every saddle a turn at both ends; nothing when
/// none is needed. Where one bridge cannot serve all, the back end decides: sharp is worse cured.
pub(super) fn shift_needed(job: &Job, saddles: &[SaddlePlan]) -> Length {
    let turn = job.instrument().bridge.intonation.pitch.middle();
    let back = saddles
        .iter()
        .map(|saddle| saddle.target.value + turn - saddle.estimate.furthest.value)
        .fold(Length::ZERO, Length::max);
    if back > Length::ZERO {
        return back;
    }
    saddles
        .iter()
        .map(|saddle| saddle.target.value - turn - saddle.estimate.nearest)
        .fold(Length::ZERO, Length::min)
}
