//! The scale check: nut edge to the crown of the 12th, doubled, against the name.

use gradimen_core::quantity::Length;

use crate::estimate::Estimate;
use crate::estimate::saddle::SaddleEstimate;
use crate::finding::ScaleCheck;
use crate::job::SCALE_TOLERANCE;

/// Both ends of a long rule, and whether it lies straight (from memory).
const LONG_RULE: Length = Length::from_mm(0.5);
/// A rule that stops a job is this many standard deviations sure.
const TWO_SIGMA: f64 = 2.0;

/// The scale checks of a job, where something was measured.
pub fn scale_checks(job: &Estimate) -> Vec<ScaleCheck> {
    let shift = shift_needed(job);
    let mut checks: Vec<ScaleCheck> = (1..=job.instrument().strings)
        .filter_map(|string| {
            let measured = job.own_scale(string)?;
            let named = job.instrument().scale(string);
            Some(ScaleCheck {
                string,
                named,
                measured,
                agrees: (measured - named).abs() <= SCALE_TOLERANCE,
                shift,
            })
        })
        .collect();
    // One neck has one set of frets: what is read on all strings together decides, and the oftener the finer.
    let off: Length = checks
        .iter()
        .map(|check| check.measured - check.named)
        .sum();
    let count = checks.len().max(1) as f64;
    let doubt = (LONG_RULE * 2.0 * TWO_SIGMA / count.sqrt()).max(SCALE_TOLERANCE);
    let together = (off * (1.0 / count)).abs() <= doubt;
    for check in &mut checks {
        check.agrees |= together;
    }
    checks
}

/// The one shift of the whole bridge that leaves every saddle a turn at both ends; nothing when
/// none is needed. Where one bridge cannot serve all, the back end decides: sharp is worse cured.
pub(super) fn shift_needed(job: &Estimate) -> Length {
    let turn = job.instrument().bridge.intonation.pitch.middle();
    let places = || {
        let saddles = job.known_saddles().iter().flatten();
        saddles.flat_map(|saddle: &SaddleEstimate| {
            let of =
                |string: &crate::estimate::saddle::StringEstimate| (saddle, string.ideal.value);
            saddle.strings.iter().map(of).collect::<Vec<_>>()
        })
    };
    let back = places()
        .map(|(saddle, place)| place + turn - saddle.furthest.value)
        .fold(Length::ZERO, Length::max);
    if back > Length::ZERO {
        return back;
    }
    places()
        .map(|(saddle, place)| place - turn - saddle.nearest)
        .fold(Length::ZERO, Length::min)
}
