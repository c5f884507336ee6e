//! Marks of a pluck, and of what is none.

use std::f64::consts::{LN_2, PI};

use crate::note::Refusal;
use crate::partials::Track;

/// Cents of a relative change of one.
const CENTS: f64 = 1200.0 / LN_2;
/// Length of the pieces whose loudness is compared, seconds.
const PIECE: f64 = 0.005;

fn pieces(samples: &[f64], rate: f64) -> (usize, Vec<f64>) {
    let length = ((PIECE * rate) as usize).max(1);
    let mean = |piece: &[f64]| piece.iter().map(|s| s * s).sum::<f64>() / piece.len() as f64;
    (length, samples.chunks(length).map(mean).collect())
}

/// Where something is plucked: loudness rises at once to many times what was there before.
pub(crate) fn pluck(samples: &[f64], rate: f64) -> Option<usize> {
    let (length, loud) = pieces(samples, rate);
    let most = loud.iter().copied().fold(0.0, f64::max);
    if most < 1e-8 {
        return None;
    }
    // From silence: the file begins with the note or comes close to it.
    let before = |at: usize| {
        let lead = &loud[at.saturating_sub(20)..at];
        (!lead.is_empty()).then(|| lead.iter().sum::<f64>() / lead.len() as f64)
    };
    let found = (0..loud.len()).find(|&at| {
        let next = loud[at..(at + 4).min(loud.len())]
            .iter()
            .copied()
            .fold(0.0, f64::max);
        next > 0.02 * most && before(at).is_some_and(|before| next > 12.0 * before)
    })?;
    // To the piece in which it rises.
    let rises = (found..loud.len()).find(|at| loud[*at] > 0.02 * most);
    Some(rises.unwrap_or(found) * length)
}

/// Whether it is loud and stays so.
pub(crate) fn steady(samples: &[f64], rate: f64) -> bool {
    let (_, loud) = pieces(samples, rate);
    let half = loud.len() / 2;
    let mean = |part: &[f64]| part.iter().sum::<f64>() / part.len().max(1) as f64;
    let (first, second) = (mean(&loud[..half]), mean(&loud[half..]));
    first > 1e-6 && second > 0.7 * first && second < 1.4 * first
}

/// Where a note that is damped stops, in samples from its pluck: what follows is far softer than what went before.
pub(crate) fn damped(samples: &[f64], rate: f64) -> Option<usize> {
    const STEP: f64 = 0.02;
    const DROPS: f64 = 0.03;
    let length = ((STEP * rate) as usize).max(1);
    let mean = |piece: &[f64]| piece.iter().map(|s| s * s).sum::<f64>() / piece.len() as f64;
    let loud: Vec<f64> = samples.chunks_exact(length).map(mean).collect();
    // Two pieces are a period of the lowest string.
    let stops = loud
        .windows(6)
        .position(|w| w[4] + w[5] < DROPS * (w[0] + w[1] + w[2] + w[3]) / 2.0)?;
    Some((stops + 3) * length)
}

/// Whether the tops are cut off: many runs of samples that stand at the very same height, the highest of all.
pub(crate) fn clipped(samples: &[f64]) -> bool {
    const RUN: usize = 4;
    const OFTEN: usize = 6;
    let most = samples.iter().map(|s| s.abs()).fold(0.0, f64::max);
    let edge = most - 1.5e-4 * most.max(0.2);
    let (mut run, mut often) = (0, 0);
    for sample in samples {
        if sample.abs() >= edge {
            run += 1;
            often += usize::from(run == RUN);
        } else {
            run = 0;
        }
    }
    often >= OFTEN
}

/// How fast the partials die, 1/s, the stronger ones counting more.
pub(crate) fn decay(tracks: &[Track]) -> f64 {
    let (mut all, mut sum) = (0.0, 0.0);
    for track in tracks {
        let n = track.at.len() as f64;
        let logs: Vec<f64> = track
            .size
            .iter()
            .map(|size| size.max(f64::MIN_POSITIVE).ln())
            .collect();
        let (t, y) = (
            track.at.iter().sum::<f64>() / n,
            logs.iter().sum::<f64>() / n,
        );
        let xx: f64 = track.at.iter().map(|at| (at - t).powi(2)).sum();
        let xy: f64 = track
            .at
            .iter()
            .zip(&logs)
            .map(|(at, log)| (at - t) * (log - y))
            .sum();
        let weight = track.size.first().copied().unwrap_or(0.0);
        all += weight;
        sum += weight * -xy / xx.max(f64::MIN_POSITIVE);
    }
    if all > 0.0 { sum / all } else { 0.0 }
}

/// Root of the mean square.
pub(crate) fn loudness(samples: &[f64]) -> f64 {
    (samples.iter().map(|s| s * s).sum::<f64>() / samples.len().max(1) as f64).sqrt()
}

/// How a pitch moved while it rang, beside what the energy of the pluck gives.
#[derive(Debug, Clone, Copy, PartialEq)]
struct Moved {
    /// How much sharper it was at the pluck, as the energy goes, cents.
    glide: f64,
    /// How it went on, cents a second.
    drift: f64,
    /// How far it was off that at most, cents.
    bend: f64,
}

/// Partials that are looked at: the low ones, which a bend does not carry out of their windows.
const LOW: usize = 6;
/// Pieces of a note over which its pitch is averaged.
const PIECES: usize = 12;
/// A hard pluck of a slack string is this much sharper at first; what is more is no pluck's doing. Cents at 110 Hz; slack
/// bass strings more.
const GLIDES: f64 = 9.0;
/// A pitch that goes on like this is being turned, cents a second.
const DRIFTS: f64 = 2.5;
/// A pitch this far off its course was bent, cents; of low strings, whose beats go further, more.
const BENDS: f64 = 2.5;

/// Widths of noise that are no bend.
const SURELY: f64 = 4.0;

/// Whether the pitch was moved by something else than its own pluck.
pub(crate) fn moved(tracks: &[Track], curve: &[f64], hz: f64) -> Option<Refusal> {
    let moved = course(tracks, curve)?;
    let low = (110.0 / hz).clamp(1.0, 1.6);
    if moved.bend > BENDS * low {
        return Some(Refusal::Bends);
    }
    let settles =
        moved.drift.abs() < DRIFTS * low && (-0.5 * GLIDES..GLIDES * low).contains(&moved.glide);
    (!settles).then_some(Refusal::Drifts)
}

/// The course of the pitch, by least squares: as the energy goes, and evenly.
fn course(tracks: &[Track], curve: &[f64]) -> Option<Moved> {
    let at = &tracks.first()?.at;
    let pieces = PIECES.min(at.len() / 2);
    if pieces < 5 {
        return None;
    }
    let bounds: Vec<usize> = (0..=pieces).map(|n| n * (at.len() - 1) / pieces).collect();
    // Energy, time, cents, and what noise may do to them.
    let mut rows: Vec<[f64; 4]> = Vec::new();
    for pair in bounds.windows(2) {
        let (from, to) = (pair[0], pair[1]);
        let seconds = at[to] - at[from];
        let (mut weight, mut sum) = (0.0, 0.0);
        for track in tracks.iter().take(LOW) {
            let turned = track.phase[to] - track.phase[from];
            let cents = CENTS * turned / (2.0 * PI * seconds * track.hz);
            let doubt = track.doubt[from].hypot(track.doubt[to]) / track.hz;
            let doubt = CENTS * doubt / (2.0 * PI * seconds);
            let share = 1.0 / (doubt * doubt + 1e-8);
            weight += share;
            sum += share * cents;
        }
        let energy = curve[from..=to].iter().sum::<f64>() / (to - from + 1) as f64;
        let middle = (at[from] + at[to]) / 2.0 - at[0];
        rows.push([energy, middle, sum / weight, 1.0 / weight.sqrt()]);
    }
    let design = nalgebra::DMatrix::from_fn(rows.len(), 3, |row, column| match column {
        0 => 1.0,
        1 => rows[row][0],
        _ => rows[row][1],
    });
    let values = nalgebra::DVector::from_iterator(rows.len(), rows.iter().map(|row| row[2]));
    // Energy and time are nearly one where a note hardly dies: a little is asked of either.
    let mut squares = design.tr_mul(&design);
    squares[(1, 1)] += 1e-3;
    squares[(2, 2)] += 1e-3;
    let found = squares.cholesky()?.solve(&design.tr_mul(&values));
    let left = &values - &design * &found;
    Some(Moved {
        glide: found[1],
        drift: found[2],
        bend: left
            .iter()
            .zip(&rows)
            .map(|(left, row)| left.abs() - SURELY * row[3])
            .fold(0.0, f64::max),
    })
}
