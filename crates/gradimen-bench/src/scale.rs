//! The scale check: nut edge to the crown of the 12th, doubled, against the name.

use gradimen_core::quantity::Length;

use crate::job::{Job, SCALE_TOLERANCE};
use crate::plan::SaddlePlan;

/// What a measured scale says.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ScaleCheck {
    /// Along which string.
    pub string: u8,
    /// The scale on record.
    pub named: Length,
    /// Twice the distance measured.
    pub measured: Length,
    /// Whether the two belong together.
    pub agrees: bool,
    /// How far the bridge must go away from the neck (negative: toward it), or the neck the other
    /// way, so that every saddle of these strings gets to its place with a turn to spare.
    pub shift: Length,
}

impl ScaleCheck {
    /// How much longer the neck is than its name says.
    pub fn difference(&self) -> Length {
        self.measured - self.named
    }
}

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
pub fn shift_needed(job: &Job, saddles: &[SaddlePlan]) -> Length {
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
