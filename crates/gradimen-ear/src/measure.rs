//! One note out of a piece of sound.

use crate::fit::{Fit, Grid, ROUGH, WHOLE, energy, fit};
use crate::guess::{Guess, guess};
use crate::lower::{HOLDS, lower};
use crate::mains;
use crate::marks;
use crate::missing;
use crate::note::{Note, Refusal, typical_stiffness};
use crate::partials::{Span, Track, follow, resound};
use crate::spectrum::spectrum;
use crate::touch::{Trace, trace};

/// What follows the pluck is not yet the string alone, seconds.
const PLUCK: f64 = 0.03;
/// Nothing is said of less.
const LEAST: f64 = 0.3;
/// No more is listened to: what comes later is a weak end.
const MOST: f64 = 1.7;
/// What is looked at of the sound before the pluck, seconds.
const LEAD: f64 = 0.3;
/// The pluck itself is found to so much, seconds.
const PIECE: f64 = 0.015;
/// The rate of the first look, samples a second, and how long it is, seconds; lines below this, Hz, are no string's.
const SLOW: f64 = 11_000.0;
const LOOK: f64 = 0.7;
const LOWEST: f64 = 20.0;
/// So long a note is as loud as it is, seconds.
const FIRST: f64 = 0.3;
/// Partials of the first pass, which say where the others are.
const FEW: f64 = 8.0;
/// Partials looked at, at most.
const PARTIALS: f64 = 24.0;
/// And none above this, Hz: a pickup hears no more.
const HIGHEST: f64 = 7000.0;

/// Less of its lines than this is a note's: there is none.
const EXPLAINED: f64 = 0.5;
/// A line that is none of the note's partials and this strong against the strongest of them is another note's.
const STRANGER: f64 = 0.1;
/// A string dies faster than this, 1/s.
const DIES: f64 = 0.05;

/// The first note of a piece of sound; `expected` are pitches in Hz that it may be near, or none.
///
/// # Errors
/// Why nothing can be said of it: see [`Refusal`].
pub fn measure(samples: &[f64], rate: f64, expected: &[f64]) -> Result<Note, Refusal> {
    let Some(pluck) = marks::pluck(samples, rate) else {
        return Err(if marks::steady(samples, rate) {
            Refusal::Hum
        } else {
            Refusal::Quiet
        });
    };
    measure_from(samples, rate, pluck, samples.len(), expected)
}

/// The note that was plucked at sample `pluck` and rings until sample `until`; what is before it is only background.
pub(crate) fn measure_from(
    samples: &[f64],
    rate: f64,
    pluck: usize,
    until: usize,
    expected: &[f64],
) -> Result<Note, Refusal> {
    let until = until.min(samples.len()).min(pluck + (MOST * rate) as usize);
    let until = damped(samples, rate, pluck, until).unwrap_or(until);
    let piece = Piece::of(samples, rate, pluck, until)?;
    let look = first_look(&piece, expected)?;
    let fine = Fine::new(&piece, &look);
    let (found, tracks, clean) = fine.drawn(&look)?;
    if missing::left_out(&tracks) {
        return Err(Refusal::Lost);
    }
    let decay = marks::decay(&tracks);
    if decay < DIES {
        return Err(Refusal::Hum);
    }
    if let Some(refusal) = marks::moved(&tracks, &energy(&tracks), found.hz) {
        return Err(refusal);
    }
    let trace = fine.trace(&found, &clean).unwrap_or_default();
    Ok(Note {
        at: pluck as f64 / rate,
        hz: found.hz,
        width: found.width,
        stiffness: found.stiffness,
        stiffness_width: found.stiffness_width,
        glide: found.glide,
        partials: tracks.len(),
        decay,
        level: fine.level(&piece),
        seconds: (until - pluck) as f64 / rate,
        below: trace.size,
        below_noise: trace.noise,
    })
}

/// Where a note that was plucked there is damped before it ends.
pub(crate) fn damped(samples: &[f64], rate: f64, pluck: usize, until: usize) -> Option<usize> {
    // The pluck itself is as short as a damped note.
    let rings = pluck + (2.0 * PLUCK * rate) as usize;
    let rest = samples.get(rings..until)?;
    Some(rings + marks::damped(rest, rate)?)
}

/// Which note that roughly is, Hz, whatever else sounds along.
pub(crate) fn roughly(
    samples: &[f64],
    rate: f64,
    pluck: usize,
    until: usize,
    expected: &[f64],
) -> Result<f64, Refusal> {
    let first = seen(&Piece::of(samples, rate, pluck, until)?, expected)?.guess;
    Ok(first.base * (1.0 + first.stiffness).sqrt())
}

/// A note with what went before it.
struct Piece<'a> {
    samples: &'a [f64],
    rate: f64,
    /// Where it rings without its pluck.
    from: usize,
}

impl<'a> Piece<'a> {
    fn of(samples: &'a [f64], rate: f64, pluck: usize, until: usize) -> Result<Self, Refusal> {
        let from = pluck + (PLUCK * rate) as usize;
        if until < from + (LEAST * rate) as usize {
            return Err(Refusal::Short);
        }
        if marks::clipped(&samples[pluck..until]) {
            return Err(Refusal::Clipped);
        }
        if missing::silenced(&samples[pluck..until], rate) {
            return Err(Refusal::Lost);
        }
        let begin = pluck.saturating_sub((LEAD * rate) as usize);
        Ok(Self {
            samples: &samples[begin..until],
            rate,
            from: from - begin,
        })
    }

    /// Without what went before its pluck, and how long that was, seconds.
    fn alone(&self) -> (Self, f64) {
        let before = self.from.saturating_sub((PLUCK * self.rate) as usize);
        let alone = Self {
            samples: &self.samples[before..],
            rate: self.rate,
            from: self.from - before,
        };
        (alone, before as f64 / self.rate)
    }

    /// At every `step`-th sample; and where it rings there, and the end of what is silent before.
    fn at(&self, step: usize) -> (Vec<f64>, f64, usize, usize) {
        let rate = self.rate / step as f64;
        let from = self.from.div_ceil(step);
        let quiet = from.saturating_sub(((PLUCK + PIECE) * rate) as usize);
        (lower(self.samples, step), rate, from, quiet)
    }
}

/// A look at a quarter of the rate.
struct Look {
    /// Which note it is.
    guess: Guess,
    /// What was looked at: without what hummed before, and where.
    sound: Vec<f64>,
    hum: Vec<mains::Steady>,
    /// Whether enough went before to hear it.
    listened: bool,
    span: Span,
}

/// The note that stands in it, if it is one.
fn first_look(piece: &Piece<'_>, expected: &[f64]) -> Result<Look, Refusal> {
    let look = seen(piece, expected)?;
    if look.guess.explained < EXPLAINED {
        return Err(Refusal::Noise);
    }
    if look.guess.stranger > STRANGER {
        return Err(Refusal::TwoNotes);
    }
    Ok(look)
}

/// The note that stands in it, however badly.
fn seen(piece: &Piece<'_>, expected: &[f64]) -> Result<Look, Refusal> {
    let step = ((piece.rate / SLOW) as usize).max(1);
    // A little more than is looked at, for the low-pass to reach into.
    let looked = piece.from + ((LOOK + 0.02) * piece.rate) as usize;
    let piece = &Piece {
        samples: &piece.samples[..looked.min(piece.samples.len())],
        ..*piece
    };
    let (mut sound, rate, from, quiet) = piece.at(step);
    // What hummed before the pluck hums on.
    let hum = mains::before(&sound[..quiet], rate);
    mains::take_out(&mut sound, rate, &hum);
    let until = (from + (LOOK * rate) as usize).min(sound.len());
    let seen = spectrum(&sound[from..until], rate, LOWEST);
    Ok(Look {
        guess: guess(&seen, expected).ok_or(Refusal::Noise)?,
        sound,
        hum,
        listened: quiet as f64 > 0.04 * rate,
        span: Span {
            rate,
            from,
            until,
            noise: seen.noise.max(1e-12),
        },
    })
}

/// The sound at a rate that holds the partials and no more.
struct Fine {
    sound: Vec<f64>,
    span: Span,
    /// The hum that went before.
    hum: Vec<mains::Steady>,
    top: f64,
}

impl Fine {
    fn new(piece: &Piece<'_>, look: &Look) -> Self {
        let top = (PARTIALS * look.guess.base * 1.1)
            .min(HIGHEST)
            .min(0.45 * piece.rate);
        let step = ((HOLDS * piece.rate / top) as usize).max(1);
        let (piece, before) = piece.alone();
        let (sound, rate, from, _) = piece.at(step);
        Self {
            hum: look.hum.iter().map(|line| line.later(before)).collect(),
            span: Span {
                rate,
                from,
                until: sound.len(),
                noise: look.span.noise * rate / look.span.rate,
            },
            sound,
            top,
        }
    }

    /// The note drawn through its partials: few at first, in what was looked at, then all. Where it hums, those among the multiples of the mains
    /// are taken out before, so that what hums beside them is seen and taken out in turn.
    fn drawn(&self, look: &Look) -> Result<(Fit, Vec<Track>, Vec<f64>), Refusal> {
        let first = &look.guess;
        let few = Drawing {
            sound: &look.sound,
            span: look.span,
            hum: &look.hum,
            most: FEW,
            top: self.top.min(HOLDS * look.span.rate),
            grid: ROUGH,
        };
        let lowest = first.base * (1.0 + first.stiffness).sqrt();
        let (mut found, _) = few.pass(lowest, first.stiffness)?;
        let mut hum = self.hum.clone();
        // Where enough silence went before and it did not hum, nothing hums.
        if !(hum.is_empty() && look.listened) {
            let (better, beside) = self.hum_beside(found);
            found = better;
            if !beside.is_empty() {
                hum = beside;
            }
        }
        let mut clean = self.sound.clone();
        mains::take_out(&mut clean, self.span.rate, &hum);
        let all = Drawing {
            sound: &clean,
            span: self.span,
            hum: &hum,
            most: PARTIALS,
            top: self.top,
            grid: WHOLE,
        };
        let (found, tracks) = all.pass(found.hz, found.stiffness)?;
        Ok((found, tracks, clean))
    }

    /// What hums beside a note, at a rate that holds the multiples of the mains and no more; and the note by its partials among them.
    fn hum_beside(&self, found: Fit) -> (Fit, Vec<mains::Steady>) {
        let step = ((HOLDS * self.span.rate / mains::HIGHEST) as usize).max(1);
        let mut left = lower(&self.sound, step);
        let span = Span {
            rate: self.span.rate / step as f64,
            from: self.span.from.div_ceil(step),
            until: left.len(),
            noise: self.span.noise / step as f64,
        };
        let mut clean = left.clone();
        mains::take_out(&mut clean, span.rate, &self.hum);
        let among = Drawing {
            sound: &clean,
            span,
            hum: &self.hum,
            most: PARTIALS,
            top: mains::HIGHEST,
            grid: ROUGH,
        };
        // A high note has none among them.
        let drawn = among.pass(found.hz, found.stiffness).ok();
        let (better, tracks) = drawn.unwrap_or((found.clone(), Vec::new()));
        let note = resound(&tracks, &energy(&tracks), better.glide, span, left.len());
        for (all, note) in left.iter_mut().zip(&note) {
            *all -= note;
        }
        let beside = mains::after(&left, span.from, span.rate, span.noise);
        // Of a few partials a stiffness is less well known than it was.
        let known = if tracks.len() as f64 >= FEW {
            better
        } else {
            found
        };
        (known, beside)
    }

    /// How loud it was at first, in decibels. What rang before is not taken off: a string that is struck again rings no more as it did.
    /// Only what hisses and hums is, up to what there was of it before.
    fn level(&self, piece: &Piece<'_>) -> f64 {
        let power = |part: &[f64]| marks::loudness(part).powi(2);
        let until = (piece.from + (FIRST * piece.rate) as usize).min(piece.samples.len());
        let all = power(&piece.samples[piece.from..until]);
        let quiet = piece
            .from
            .saturating_sub(((PLUCK + PIECE) * piece.rate) as usize);
        let hiss = self.span.noise * piece.rate / self.span.rate;
        let hum: f64 = self.hum.iter().map(mains::Steady::power).sum();
        let own = all - (hiss + hum).min(power(&piece.samples[..quiet]));
        10.0 * own.max(1e-18).log10()
    }

    /// What a touch left between the partials.
    fn trace(&self, found: &Fit, clean: &[f64]) -> Option<Trace> {
        let base = found.hz / (1.0 + found.stiffness).sqrt();
        trace(clean, self.span, base, found.stiffness)
    }
}

/// A note that is drawn through its partials in a sound.
struct Drawing<'a> {
    /// Without what hums, and that.
    sound: &'a [f64],
    hum: &'a [mains::Steady],
    span: Span,
    /// So many partials, and none above this, Hz.
    most: f64,
    top: f64,
    grid: Grid,
}

impl Drawing<'_> {
    fn pass(&self, hz: f64, stiffness: f64) -> Result<(Fit, Vec<Track>), Refusal> {
        let base = hz / (1.0 + stiffness).sqrt();
        let apart = |place: f64| {
            let mut lines = self.hum.iter();
            lines.all(|line| (line.hz - place).abs() > mains::APART)
        };
        let places: Vec<(f64, f64)> = (1..=self.most as u32)
            .map(f64::from)
            .map(|k| (k, k * base * (1.0 + stiffness * k * k).sqrt()))
            .take_while(|(_, place)| *place < self.top)
            .filter(|(_, place)| apart(*place))
            .collect();
        let mut tracks = follow(self.sound, self.span, hz, &places);
        tracks.retain(audible);
        let typical = typical_stiffness(hz);
        // What the first look saw counts: a thick string touched at its middle is ten times as stiff as most.
        let doubt = (3.0 * typical).max(1.5e-4).max(stiffness);
        let thought = (typical, doubt);
        let found = fit(&tracks, hz, stiffness, thought, self.grid).ok_or(Refusal::Noise)?;
        Ok((found, tracks))
    }
}

/// Whether a partial stands out of the noise long enough to be followed.
fn audible(track: &Track) -> bool {
    let good = track.doubt.iter().filter(|doubt| **doubt < 0.3).count();
    good * 2 > track.doubt.len() && good >= 4
}
