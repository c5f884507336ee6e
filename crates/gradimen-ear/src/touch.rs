//! What a touch leaves: a string touched at its middle keeps for some hundredths of a second some of the partials that have no node there. A fretted one has none
//! of them.
//!
//! They stand half way between the partials that ring on, which are a hundred times as strong. So both are drawn through the first tenths of a second
//! together, by least squares: what dies soon half way between, and beside it every partial as it rings and changes. Against noise that is as good as knowing how
//! the trace looks (a matched filter), but for how fast it dies.

use std::f64::consts::PI;

use nalgebra::{DMatrix, DVector};

use crate::lower::{REACH, lower};
use crate::partials::Span;
use crate::turning::{dot, turning};

/// What a touch left of a note.
#[derive(Debug, Clone, Copy, PartialEq, Default)]
pub(crate) struct Trace {
    /// Its size against the note's own partials, beyond what noise gives.
    pub(crate) size: f64,
    /// What noise alone gives there as a rule.
    pub(crate) noise: f64,
}

/// Lines of the whole string, counted in its own partials, that a touch at its middle stops.
const STOPPED: [f64; 4] = [1.0, 3.0, 5.0, 7.0];
/// How fast what is left of them dies, 1/s: some hundredths of a second.
const DIES: f64 = 13.0;
/// So much of the note is looked at, seconds, or as many periods as hold its partials apart.
const LOOKED: f64 = 0.15;
const PERIODS: f64 = 9.4;
/// It is faded in and out over so many periods, so that partials that are not drawn do not reach across.
const FADED: f64 = 1.5;
/// Partials of the note that are drawn beside them, and samples to a period that hold those.
const BESIDE: usize = 5;
const SAMPLES: f64 = 11.0;
/// Of those the ones that a trace is measured against.
const OWN: usize = 4;
/// So much later what still stands there is taken off, seconds, drawn in the same way: a string that was shaken along, there or near it. It is taken off as it is then,
/// not as it may have been: a finger that left soon leaves a trace that rings on as the string does, and that is seen in what it lost.
const LATER: f64 = 0.35;
/// It is one where it is so many times what noise gives there.
const PLAIN: f64 = 4.0;

/// The trace in a sound that hum was taken out of, for a note of that base and stiffness; nothing where the sound is too short to hold its partials apart.
pub(crate) fn trace(clean: &[f64], span: Span, base: f64, stiffness: f64) -> Option<Trace> {
    let step = ((span.rate / (SAMPLES * base)) as usize).max(1);
    let rate = span.rate / step as f64;
    let seconds = LOOKED.max(PERIODS / base);
    // The low-pass reaches back before the note and past its piece.
    let begin = span.from.saturating_sub(REACH * step);
    let dropped = (span.from - begin) / step;
    let length = (seconds * rate) as usize;
    if begin + (dropped + length) * step > clean.len() {
        return None;
    }
    let later = dropped + (LATER * rate) as usize;
    let end = begin + (later + length + REACH) * step;
    let sound = lower(&clean[begin..end.min(clean.len())], step);
    let noise = span.noise / step as f64;
    let place = |k: f64| k * base * (1.0 + stiffness * k * k).sqrt();
    let half = |odd: f64| place(odd / 2.0);

    let mut columns = Columns::new(length, rate, FADED / base);
    let ringing = (1..=BESIDE).map(|k| place(k as f64));
    for hz in ringing.take_while(|hz| *hz < 0.49 * rate) {
        columns.ring(hz);
    }
    let partials = columns.all.len() / 4;
    for odd in STOPPED {
        columns.die(half(odd));
    }
    let drawing = columns.drawing()?;
    let at_first = drawing.of(sound.get(dropped..dropped + length)?);
    let later = sound
        .get(later..later + length)
        .map(|part| drawing.of(part));
    let size = |values: &DVector<f64>, at: usize| values[at].hypot(values[at + 1]);
    let (mut power, mut scatter) = (0.0, 0.0);
    for n in 0..STOPPED.len() {
        let at = 4 * partials + 2 * n;
        let blur = noise * (drawing.doubts[at] + drawing.doubts[at + 1]);
        let seen = later
            .as_ref()
            .map_or(0.0, |values| size(values, at).powi(2));
        let stays = if seen > PLAIN * blur {
            seen - blur
        } else {
            0.0
        };
        power += size(&at_first, at).powi(2) - blur - stays;
        // What stays, hum or another string, is never there twice alike in noise: |h + n|^2 scatters by 2 |h|^2 |n|^2 + |n|^4.
        scatter += blur * blur + 8.0 * stays * blur;
    }
    let own: f64 = (0..OWN.min(partials)).map(|k| size(&at_first, 4 * k)).sum();
    let own = own.max(f64::MIN_POSITIVE);
    Some(Trace {
        size: power.max(0.0).sqrt() / own,
        noise: scatter.sqrt().sqrt() / own,
    })
}

/// Lines that are drawn through a piece of sound together.
struct Columns {
    rate: f64,
    /// How much each sample counts.
    weight: Vec<f64>,
    all: Vec<Vec<f64>>,
}

impl Columns {
    fn new(length: usize, rate: f64, faded: f64) -> Self {
        let faded = (faded * rate).min(length as f64 / 3.0);
        let weight = (0..length).map(|n| {
            let edge = (n.min(length - 1 - n) as f64 + 0.5) / faded;
            (0.5 - 0.5 * (PI * edge.min(1.0)).cos()).min(1.0)
        });
        Self {
            rate,
            weight: weight.collect(),
            all: Vec::new(),
        }
    }

    /// A line that rings on, and changes evenly.
    fn ring(&mut self, hz: f64) {
        let [re, im] = self.line(hz, 0.0);
        let length = self.weight.len() as f64;
        let changed = |line: &[f64]| {
            let changed = |(n, value): (usize, &f64)| value * n as f64 / length;
            line.iter().enumerate().map(changed).collect()
        };
        let more = [changed(&re), changed(&im)];
        self.all.extend([re, im]);
        self.all.extend(more);
    }

    /// A line that dies as what a touch leaves.
    fn die(&mut self, hz: f64) {
        let lines = self.line(hz, DIES);
        self.all.extend(lines);
    }

    fn line(&self, hz: f64, dies: f64) -> [Vec<f64>; 2] {
        let turn = 2.0 * PI * hz / self.rate;
        let size = (-dies / self.rate).exp();
        let step = (size * turn.cos(), size * turn.sin());
        let (mut re, mut im) = turning(self.weight.len(), (1.0, 0.0), step);
        for ((re, im), weight) in re.iter_mut().zip(&mut im).zip(&self.weight) {
            *re *= weight;
            *im *= weight;
        }
        [re, im]
    }

    /// What draws them through any piece of that length.
    fn drawing(&self) -> Option<Drawing<'_>> {
        let count = self.all.len();
        let mut squares = DMatrix::zeros(count, count);
        for row in 0..count {
            for column in 0..=row {
                let value = dot(&self.all[row], &self.all[column]);
                squares[(row, column)] = value;
                squares[(column, row)] = value;
            }
            squares[(row, row)] *= 1.0 + 1e-9;
        }
        let inverse = squares.cholesky()?.inverse();
        Some(Drawing {
            columns: self,
            doubts: inverse.diagonal(),
            inverse,
        })
    }
}

/// Lines that are drawn by least squares.
struct Drawing<'a> {
    columns: &'a Columns,
    inverse: DMatrix<f64>,
    /// The variance of each size for noise of one.
    doubts: DVector<f64>,
}

impl Drawing<'_> {
    /// The size of each line in a piece of sound.
    fn of(&self, sound: &[f64]) -> DVector<f64> {
        let weight = sound.iter().zip(&self.columns.weight);
        let sound: Vec<f64> = weight.map(|(sample, weight)| sample * weight).collect();
        let lines = &self.columns.all;
        let sums = lines.iter().map(|line| dot(line, &sound));
        &self.inverse * DVector::from_iterator(lines.len(), sums)
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    const RATE: f64 = 8000.0;
    const BASE: f64 = 164.8;

    /// Ten partials that ring on, and beside them lines half way between: so strong at first, and dying so fast.
    fn sound(left: f64, dies: f64, noise: f64) -> (Vec<f64>, Span) {
        let mut chance = 1_u64;
        let mut even = move || {
            chance = chance
                .wrapping_mul(6_364_136_223_846_793_005)
                .wrapping_add(1);
            (chance >> 11) as f64 / (1_u64 << 53) as f64 - 0.5
        };
        let sample = |n: usize| {
            let at = n as f64 / RATE;
            let line = |k: f64| (2.0 * PI * k * BASE * at + k).sin();
            let own: f64 = (1..=10)
                .map(f64::from)
                .map(|k| line(k) / k * (-k * at).exp())
                .sum();
            let half: f64 = STOPPED.iter().map(|odd| line(odd / 2.0) / odd).sum();
            // Twelve even chances are a normal one.
            let hiss: f64 = (0..12).map(|_| even()).sum();
            own + left * half * (-dies * at).exp() + noise * hiss
        };
        let span = Span {
            rate: RATE,
            from: 240,
            until: 12_000,
            noise: (noise * noise).max(1e-12),
        };
        ((0..12_000).map(sample).collect(), span)
    }

    #[test]
    fn a_trace_that_noise_covers_is_found() {
        // Twenty decibels below the note, and by the piece's beginning twice what is left of the touch.
        let (touched, span) = sound(0.04, 15.0, 0.04);
        let found = trace(&touched, span, BASE, 0.0).unwrap();
        assert!(found.size > 2.5 * found.noise, "{found:?}");
        let (fretted, span) = sound(0.0, 15.0, 0.04);
        let found = trace(&fretted, span, BASE, 0.0).unwrap();
        assert!(found.size < 1.6 * found.noise, "{found:?}");
    }

    #[test]
    fn without_noise_there_is_as_much_as_was_left() {
        let (touched, span) = sound(0.02, 15.0, 0.0);
        let found = trace(&touched, span, BASE, 0.0).unwrap();
        // A line and a third, a fifth and a seventh of one, by the piece's beginning; the partials as they were then.
        let left = 0.02
            * (1.0 + 1.0 / 9.0 + 1.0 / 25.0 + 1.0 / 49.0_f64).sqrt()
            * (-15.0_f64 * 0.03).exp();
        let own: f64 = (1..=4)
            .map(f64::from)
            .map(|k| (-k * 0.03_f64).exp() / k)
            .sum();
        let ratio = found.size / (left / own);
        assert!((0.85..1.15).contains(&ratio), "{ratio}");
    }

    #[test]
    fn what_stays_is_no_trace_and_what_dies_with_the_string_is_one() {
        let size = |dies| {
            let (sound, span) = sound(0.02, dies, 0.0);
            trace(&sound, span, BASE, 0.0).unwrap().size
        };
        let touched = size(15.0);
        assert!(size(0.01) < 0.5 * touched, "{} {touched}", size(0.01));
        // A finger that left soon: the other synthesiser of this project makes its harmonics so.
        assert!(size(1.5) > touched, "{} {touched}", size(1.5));
    }

    #[test]
    fn of_too_little_nothing_is_said() {
        let (touched, span) = sound(0.02, 15.0, 0.0);
        assert_eq!(trace(&touched[..900], span, BASE, 0.0), None);
    }
}
