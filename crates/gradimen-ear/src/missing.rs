//! Pieces of a sound that did not arrive: silence to the last bit in their place, or nothing.

use std::f64::consts::PI;

use crate::partials::Track;

/// Ten steps of sixteen bits: what is softer may well be silence to the last bit for a while.
const STEPS: f64 = 3e-4;

/// Whether pieces are missing: a millisecond and more of silence to the last bit with sound right before and after it. A busy machine fills up so what it could not
/// carry; no string and no input is that still. What fades into silence at the end is whole.
pub(crate) fn silenced(samples: &[f64], rate: f64) -> bool {
    let length = (0.001 * rate) as usize;
    let sounds = |part: &[f64]| part.iter().any(|sample| sample.abs() > STEPS);
    let mut from = 0;
    for (at, sample) in samples.iter().enumerate() {
        if *sample == 0.0 {
            continue;
        }
        let (before, after) = (&samples[..from], &samples[at..]);
        if at - from > length
            && sounds(&before[before.len().saturating_sub(length)..])
            && sounds(&after[..after.len().min(length)])
        {
            return true;
        }
        from = at + 1;
    }
    false
}

/// So many times what noise and a pitch on the move do to it, the middle one of the partials jumps in its phase where a piece was left out. Of 479 whole notes (seed 103
/// of the reference synthesiser) none reached 2.6.
const JUMPS: f64 = 4.0;
/// Windows before a jump and after it that say how the phase goes there; two lie on a cut.
const BEFORE: usize = 3;
const AFTER: usize = 5;
/// Partials of which the middle one is asked, at least.
const SOME: usize = 3;
/// One that is known no better than this, radians, is not asked, nor one that is damped there to this share.
const KNOWN: f64 = 0.15;
const DAMPED: f64 = 0.25;
/// A coil, a pickup and sixteen bits, radians.
const GRAIN: f64 = 0.003;

/// Whether a piece was left out without a mark: all partials go on at their pitch, at another place of their swing. A pitch that is moved takes its time. What lies near a
/// whole number of swings, or within the first and the last windows, does not show.
pub(crate) fn left_out(tracks: &[Track]) -> bool {
    let windows = tracks.iter().map(|track| track.at.len()).min().unwrap_or(0);
    (BEFORE..(windows + 1).saturating_sub(AFTER)).any(|at| {
        let heard = tracks.iter().filter(|track| {
            track.doubt[at + AFTER - 1] < KNOWN
                && track.size[at + AFTER - 1] > DAMPED * track.size[at - 1]
        });
        let mut jumps: Vec<f64> = heard.map(|track| jump(track, at)).collect();
        jumps.sort_by(f64::total_cmp);
        jumps.len() >= SOME && jumps[jumps.len() / 2] > JUMPS
    })
}

/// How far the phase of a partial jumps from window `at - 1` to `at + 2`, beside the mean of how it went on before and after; in units of what noise may
/// do to that, and what a pitch that moves there.
fn jump(track: &Track, at: usize) -> f64 {
    let phase = &track.phase;
    let on = 0.75 * (phase[at - 1] - phase[at - 3] + phase[at + 4] - phase[at + 2]);
    let jump = phase[at + 2] - phase[at - 1] - on;
    let jump = jump - (jump / (2.0 * PI)).round() * 2.0 * PI;
    // Four phases by their weights above; of three in `bends` below.
    let noise = 2.7 * track.doubt[at + 2];
    let bends = |from: usize| {
        let [first, second, third] = [0, 1, 2].map(|n| phase[from + n]);
        let surely = 2.5 * 2.45 * track.doubt[from + 2];
        ((first - 2.0 * second + third).abs() - surely).max(0.0)
    };
    // A pitch that comes and goes as the square of time adds so many times what it bends the phase.
    let moves = 3.5 * bends(at - 3).max(bends(at + 2));
    jump.abs() / noise.hypot(moves).hypot(GRAIN)
}
