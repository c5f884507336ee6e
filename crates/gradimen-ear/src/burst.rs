//! A buzz: a string that meets frets is struck anew at every swing, and what that throws up fills the room between its partials.
//!
//! In windows long enough to hold the partials apart, the power between them is laid against what is there when nothing
//! rings (or where the note is at its quietest), and against the note itself. A clean note leaves the room between its partials
//! empty, down to the window's side lobes; what one pluck throws up is gone within [`AFTER`]. Every partial may die as it likes, glide or beat.

use realfft::RealFftPlanner;
use serde::Serialize;

use crate::spectrum::window;

/// What was heard between the partials of a note.
#[derive(Debug, Clone, Copy, PartialEq, Serialize)]
pub struct Burst {
    /// Its power where it is surest, against the whole note then, decibels.
    pub strength: f64,
    /// The same against what is there without it, decibels.
    pub above: f64,
    /// Seconds after the pluck up to which it is heard.
    pub until: f64,
    /// How likely it is a buzz and no chance: 0 to 1.
    pub sure: f64,
    /// How strong it would have to be to be heard above what hisses there, decibels.
    pub hidden: f64,
}

/// What a pluck itself throws up is over by then, seconds.
pub const AFTER: f64 = 0.06;
/// A buzz is looked for up to here, seconds; what comes later tells what is there without it.
const UNTIL: f64 = 0.7;
/// Windows hold so many spacings of partials, and are no shorter than this, seconds.
const SPACINGS: f64 = 9.5;
const SHORTEST: f64 = 0.045;
/// Looked at from here up, Hz, and from this partial, as far as there are three above it; no pickup gives more than this.
const LOWEST: f64 = 1200.0;
const PARTIAL: f64 = 5.0;
const HIGHEST: f64 = 6500.0;

/// One window: the power between the partials and all of it, and where its middle lies.
#[derive(Debug, Clone, Copy)]
struct Look {
    at: f64,
    between: f64,
    all: f64,
}

/// What stands between the partials of a note of `hz` that was plucked at sample `pluck` and rings until sample `until`; nothing where
/// it is too short to say.
pub(crate) fn burst(
    samples: &[f64],
    rate: f64,
    pluck: usize,
    until: usize,
    hz: f64,
) -> Option<Burst> {
    let seconds = (SPACINGS / hz).max(SHORTEST);
    let length = ((seconds * rate) as usize).next_multiple_of(256);
    let from = pluck + (AFTER * rate) as usize;
    let lead = pluck.saturating_sub((0.012 * rate) as usize);
    let before = (0..lead.saturating_sub(length) + 1).step_by(length / 2);
    let during = (from..until.min(samples.len()).saturating_sub(length) + 1).step_by(length / 2);
    let mut looks = Looks::new(length, rate, hz)?;
    let mut look = |start: usize| {
        let at = (start as f64 + length as f64 / 2.0 - pluck as f64) / rate;
        looks.at(samples.get(start..start + length)?, at)
    };
    let before: Vec<Look> = before
        .filter(|start| start + length <= lead)
        .filter_map(&mut look)
        .collect();
    let during: Vec<Look> = during.filter_map(&mut look).collect();
    let least = |looks: &[Look]| looks.iter().map(|look| look.between).reduce(f64::min);
    let quiet = [least(&before), least(&during)];
    let quiet = quiet.into_iter().flatten().reduce(f64::min)?.max(1e-18);
    let decibels = |ratio: f64| 10.0 * ratio.max(1e-12).log10();
    let told = |look: &Look| {
        let own = (look.between - quiet).max(0.0);
        (
            decibels(own / look.all.max(1e-18)),
            decibels(look.between / quiet),
        )
    };
    let looked: Vec<&Look> = during.iter().filter(|look| look.at < UNTIL).collect();
    // Not the window in which it is strongest against its note: once that is gone, noise is.
    let likely = |look: &Look| sure(told(look).0, told(look).1);
    let surest = looked
        .iter()
        .copied()
        .max_by(|a, b| likely(a).total_cmp(&likely(b)))?;
    let (strength, above) = told(surest);
    let heard = |look: &&&Look| told(look).1 > ABOVE && told(look).0 > STRENGTH - 6.0;
    let until = looked.iter().rev().find(heard).map_or(0.0, |look| look.at);
    Some(Burst {
        strength,
        above,
        until,
        sure: sure(strength, above),
        hidden: decibels(quiet / looked.first()?.all.max(1e-18)) + ABOVE,
    })
}

/// From here on it is as likely a buzz as none: against the note, and against what is there without it; and how soon that is certain.
const STRENGTH: f64 = -60.0;
const ABOVE: f64 = 10.0;
const SOON: [f64; 2] = [2.0, 1.0];

/// How likely it is a buzz: it must stand out of both.
fn sure(strength: f64, above: f64) -> f64 {
    let share = |off: f64, soon: f64| 1.0 / (1.0 + (-off / soon).exp());
    share(strength - STRENGTH, SOON[0]) * share(above - ABOVE, SOON[1])
}

/// Looks of one length at notes of one pitch.
struct Looks {
    shape: Vec<f64>,
    plan: std::sync::Arc<dyn realfft::RealToComplex<f64>>,
    /// Bins of one spacing of partials, and which are looked at.
    cell: usize,
    bins: std::ops::Range<usize>,
}

impl Looks {
    fn new(length: usize, rate: f64, hz: f64) -> Option<Self> {
        let bin = rate / length as f64;
        let cell = (hz / bin).round() as usize;
        let to = HIGHEST.min(0.42 * rate);
        // Of the highest notes there are few partials up to there.
        let from = LOWEST.max((PARTIAL * hz).min(to - 3.0 * hz));
        let bins = (from / bin) as usize..(to / bin) as usize;
        (cell >= 6 && bins.len() >= 2 * cell).then(|| Self {
            shape: window(length),
            plan: RealFftPlanner::<f64>::new().plan_fft_forward(length),
            cell,
            bins,
        })
    }

    fn at(&mut self, part: &[f64], at: f64) -> Option<Look> {
        let mut buffer: Vec<f64> = part.iter().zip(&self.shape).map(|(s, w)| s * w).collect();
        let mut out = self.plan.make_output_vec();
        self.plan.process(&mut buffer, &mut out).ok()?;
        let power: Vec<f64> = out.iter().map(|value| value.norm_sqr()).collect();
        let all = power[self.cell / 2..].iter().sum();
        let mut between = 0.0;
        for cell in power.get(self.bins.clone())?.chunks_exact(self.cell) {
            let mut sorted = cell.to_vec();
            sorted.sort_by(f64::total_cmp);
            let quarter = (self.cell / 4).max(1);
            between += sorted[..quarter].iter().sum::<f64>() / quarter as f64 * self.cell as f64;
        }
        Some(Look { at, between, all })
    }
}
