//! Which note stands in a spectrum, to a cent or so: a first guess that the fit starts from.

use crate::spectrum::{Line, Spectrum};

/// The lowest partial and the stiffness of a note, roughly.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Guess {
    /// `F` of `f_k = k F sqrt(1 + B k^2)`, Hz.
    pub(crate) base: f64,
    /// `B`.
    pub(crate) stiffness: f64,
    /// Share of the lines' size that its partials account for.
    pub(crate) explained: f64,
    /// The strongest line that is none of its partials, against the strongest that is one.
    pub(crate) stranger: f64,
}

/// The lowest note that is asked for, and the highest, Hz: a low F sharp of a nine-string, the last fret of a high E.
const LOWEST: f64 = 20.0;
const HIGHEST: f64 = 1700.0;

/// `B` of the thickest string at its highest fret: a low B of 0.0007 (common practice) shortened to three eighths.
const STIFFEST: f64 = 5e-3;

/// How far a line may stand from where a partial is expected, in spacings of partials.
const REACH: f64 = 0.12;

/// What the odd partials of an open string are, at most, once it was touched at its middle: a share of the even ones.
const TRACE: f64 = 0.12;

/// The note that explains these lines best; one of those expected where one of them explains them nearly as well.
pub(crate) fn guess(spectrum: &Spectrum, expected: &[f64]) -> Option<Guess> {
    let lines = &spectrum.lines;
    let mut best: Option<(f64, Guess)> = None;
    for line in lines.iter().take(8) {
        for order in 1..=6 {
            let hz = line.hz / f64::from(order);
            if !(LOWEST..=HIGHEST).contains(&hz) {
                continue;
            }
            let (score, guess) = explain(lines, hz, spectrum.apart);
            let near = |e: &f64| (hz / e).log2().abs() < 1.5 / 12.0;
            let score = if expected.is_empty() || expected.iter().any(near) {
                score
            } else {
                0.6 * score
            };
            if best.as_ref().is_none_or(|(held, _)| score > *held) {
                best = Some((score, guess));
            }
        }
    }
    best.map(|(_, guess)| guess)
}

/// How well a note of this lowest partial explains the lines, and the note drawn through those it explains.
fn explain(lines: &[Line], hz: f64, apart: f64) -> (f64, Guess) {
    let total: f64 = lines.iter().map(|line| line.size).sum();
    let top = lines.iter().map(|line| line.hz).fold(0.0, f64::max);
    let mut base = hz;
    let mut stiffness = 0.0;
    // Partials found: order, place, size.
    let mut found: Vec<(f64, f64, f64)> = Vec::new();
    let (mut filled, mut all, mut missing, mut looked) = (0.0, 0.0, 0, hz);
    for order in 1..=40 {
        let k = f64::from(order);
        let place = k * base * (1.0 + stiffness * k * k).sqrt();
        if place > top + 0.5 * base || missing > 6 {
            break;
        }
        looked = place;
        let reach = (REACH * base).max(0.5 * apart);
        let near = lines.iter().filter(|line| (line.hz - place).abs() < reach);
        let strongest = near.max_by(|a, b| a.size.total_cmp(&b.size));
        if order <= 8 {
            all += 1.0 / k;
        }
        match strongest {
            Some(line) => {
                found.push((k, line.hz, line.size));
                if order <= 8 {
                    filled += 1.0 / k;
                }
                missing = 0;
                (base, stiffness) = through(&found, hz);
            }
            None => missing += 1,
        }
    }
    let matched: f64 = found.iter().map(|(_, _, size)| size).sum();
    let explained = if total > 0.0 {
        (matched / total).min(1.0)
    } else {
        0.0
    };
    let own = found.iter().map(|(_, _, size)| *size).fold(0.0, f64::max);
    let is_own = |line: &&Line| found.iter().any(|(_, hz, _)| (hz - line.hz).abs() < apart);
    let stranger = lines
        .iter()
        // Above the last partial that was looked for it may be one more.
        .filter(|line| !is_own(line) && line.hz < looked)
        .map(|line| line.size)
        .fold(0.0, f64::max);
    let stranger = if own > 0.0 {
        stranger / own
    } else {
        f64::INFINITY
    };
    // Every second partial a trace only is the octave above, touched at the middle of its string; all but every third or fifth
    // are a higher note's among other lines, and all but every second and third are two notes' a fifth apart.
    let traces = |of: &[u32]| {
        let own = |k: f64| of.iter().any(|m| k % f64::from(*m) == 0.0);
        let (on, off) = found.iter().fold((0.0, 0.0), |(on, off), (k, _, size)| {
            if own(*k) {
                (on + size, off)
            } else {
                (on, off + size)
            }
        });
        off < TRACE * on
    };
    let others: [&[u32]; 4] = [&[2], &[3], &[5], &[2, 3]];
    let whole = if others.into_iter().any(traces) {
        0.5
    } else {
        1.0
    };
    (
        whole * explained * (0.2 + 0.8 * filled / all),
        Guess {
            base,
            stiffness,
            explained,
            stranger,
        },
    )
}

/// `F` and `B` through the partials found so far: `(f/k)^2 = F^2 + F^2 B k^2` by least squares, the stronger ones counting more.
fn through(found: &[(f64, f64, f64)], hz: f64) -> (f64, f64) {
    let (mut w, mut x, mut y, mut xx, mut xy) = (0.0, 0.0, 0.0, 0.0, 0.0);
    for (k, at, size) in found {
        // A line's place is as sure for every partial; so (f/k) is surer by k.
        let weight = size.sqrt() * k * k;
        let (px, py) = (k * k, (at / k).powi(2));
        w += weight;
        x += weight * px;
        y += weight * py;
        xx += weight * px * px;
        xy += weight * px * py;
    }
    let spread = w * xx - x * x;
    if found.len() < 3 || spread <= 0.0 {
        // Before three are found the stiffness is only a cause of being a little sharp.
        let (k, at, _) = found.last().copied().unwrap_or((1.0, hz, 0.0));
        return (at / k, 0.0);
    }
    let slope = (w * xy - x * y) / spread;
    let level = (y - slope * x) / w;
    let stiffness = (slope / level).clamp(0.0, STIFFEST);
    let level = if stiffness * level == slope {
        level
    } else {
        y / (w + stiffness * x)
    };
    (level.max(1.0).sqrt(), stiffness)
}
