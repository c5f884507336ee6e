//! Sound as it comes, cut into notes.

use crate::burst::{Burst, burst};
use crate::marks;
use crate::measure::{damped, measure_from, roughly};
use crate::note::{Note, Refusal};

/// What is said while one plays.
#[derive(Debug, Clone, PartialEq)]
pub enum Said {
    /// A note began to ring and this is what is known of it so far.
    First(Note),
    /// All that it says.
    Note(Note),
    /// How a note was struck, where bursts are listened for.
    Struck(Struck),
    /// Nothing can be said of what was played then (seconds from the start of the stream), and why.
    Refused(f64, Refusal),
}

/// A note that was struck: roughly which, how loud, and what rattled along.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Struck {
    /// When, seconds from the start of the stream.
    pub at: f64,
    /// Its lowest partial, Hz: enough to tell one fret from the next.
    pub hz: f64,
    /// How loud it was over its first third of a second, decibels below full scale.
    pub level: f64,
    /// What stands between its partials; nothing where it was too short to say.
    pub burst: Option<Burst>,
}

/// Listens to a stream in blocks of any length.
#[derive(Debug, Clone)]
pub struct Listener {
    rate: f64,
    expected: Vec<f64>,
    /// What is kept of the sound, and the number of its first sample.
    kept: Vec<f64>,
    first: usize,
    /// Loudness of the last pieces, and the sample up to which they were looked at.
    pieces: Vec<[f64; 2]>,
    looked: usize,
    ringing: Option<Ringing>,
    /// Whether it is bursts that are listened for, rather than pitch.
    bursts: bool,
    /// Whether it is a recording: it may begin with the note, and has an end, at which something is to be said.
    recording: bool,
    /// Whether anything was said already.
    said: bool,
    /// Why nothing was heard so far, if nothing was.
    nothing: Refusal,
}

/// A note that rings.
#[derive(Debug, Clone, Copy)]
struct Ringing {
    /// The sample at which it was plucked.
    pluck: usize,
    /// Whether something was said of it already.
    told: bool,
    /// Whether it is only taken for one, since the recording begins loudly: that may be a room, too.
    opening: bool,
}

/// Seconds after the pluck at which something is said first, and all is said.
const SOON: f64 = 0.4;
const ALL: f64 = 1.5;
/// So long before a string is still what damps it may touch it, seconds.
const FINGER: f64 = 0.15;
/// What is kept before a pluck, to know what hummed there.
const LEAD: f64 = 0.3;
/// Length of the pieces whose loudness is compared.
const PIECE: f64 = 0.005;
/// Pieces that are the background.
const BACKGROUND: usize = 12;
/// Before so many nothing can rise: there is nothing to rise from.
const SETTLED: usize = BACKGROUND / 2;
/// A recording begins to be loud where it has this share of the most that its first moments have.
const OPENS: f64 = 0.02;
/// A pluck is so many times as loud as what was there.
const RISES: f64 = 8.0;
/// What is softer is nothing: mean square of the samples, and of their differences.
const SOFTEST: [f64; 2] = [3e-7, 3e-9];

impl Listener {
    /// For a stream of that rate; `expected` are pitches that may come, or none.
    pub fn new(rate: f64, expected: &[f64]) -> Self {
        Self {
            rate,
            expected: expected.to_vec(),
            kept: Vec::new(),
            first: 0,
            pieces: Vec::new(),
            looked: 0,
            ringing: None,
            bursts: false,
            recording: false,
            said: false,
            nothing: Refusal::Quiet,
        }
    }

    /// For a stream of that rate in which a buzz is listened for. A string that buzzes has no pitch to a hundredth of a cent, and needs none here.
    pub fn for_bursts(rate: f64, expected: &[f64]) -> Self {
        Self {
            bursts: true,
            ..Self::new(rate, expected)
        }
    }

    /// For a recording, which whoever made it began where he pleased: often with the pluck itself. One in which nothing is heard says so at its end.
    #[must_use]
    pub fn of_recording(self) -> Self {
        Self {
            recording: true,
            ..self
        }
    }

    /// Hears more, and says what that settles.
    pub fn hear(&mut self, block: &[f64]) -> Vec<Said> {
        let finite = |sample: &f64| {
            if sample.is_finite() {
                sample.clamp(-4.0, 4.0)
            } else {
                0.0
            }
        };
        self.kept.extend(block.iter().map(finite));
        let mut said = Vec::new();
        let length = ((PIECE * self.rate) as usize).max(2);
        while self.looked + length <= self.end() {
            if self.rises(length) {
                said.extend(self.ended(self.looked));
                self.ringing = Some(Ringing {
                    pluck: self.looked,
                    told: false,
                    opening: false,
                });
            } else if self.recording && self.looked == (SETTLED - 1) * length {
                self.ringing = self.opening(length);
            }
            self.looked += length;
            said.extend(self.due());
        }
        self.forget();
        self.said |= !said.is_empty();
        said
    }

    /// The end of the stream: what rings is measured as far as it came.
    pub fn finish(&mut self) -> Vec<Said> {
        let end = self.end();
        let mut last = self.ended(end);
        if self.recording && !self.said && last.is_none() {
            last = Some(Said::Refused(0.0, self.nothing));
        }
        last.into_iter().collect()
    }

    /// What a recording begins with, where that is loud: from the piece on in which it is.
    fn opening(&self, length: usize) -> Option<Ringing> {
        let loud = || self.pieces.iter().map(|piece| piece[0]);
        let most = loud().fold(0.0, f64::max);
        let begins = loud().position(|piece| piece > OPENS * most)?;
        (most > SOFTEST[0]).then_some(Ringing {
            pluck: begins * length,
            told: false,
            opening: true,
        })
    }

    /// What was made of the note that rings, if it ends here.
    fn ended(&mut self, at: usize) -> Option<Said> {
        let ringing = self.ringing.take()?;
        if at < ringing.pluck + (SOON * self.rate) as usize {
            self.nothing = Refusal::Short;
            return None;
        }
        let room = ringing.opening.then(|| self.room(ringing.pluck, at));
        if let Some(room) = room.flatten() {
            self.nothing = room;
            return None;
        }
        Some(if self.bursts {
            self.struck(ringing.pluck, at)
        } else {
            match self.measured(ringing.pluck, at) {
                Ok(note) => Said::Note(note),
                Err(refusal) => Said::Refused(ringing.pluck as f64 / self.rate, refusal),
            }
        })
    }

    fn end(&self) -> usize {
        self.first + self.kept.len()
    }

    /// Whether the next piece is a pluck's: much louder on the whole than what was there, or in its upper part, which a string that
    /// rings already has lost.
    fn rises(&mut self, length: usize) -> bool {
        let from = self.looked - self.first;
        let piece = &self.kept[from..from + length];
        let share = 1.0 / length as f64;
        let whole = piece.iter().map(|sample| sample * sample).sum::<f64>() * share;
        let upper = piece.windows(2).map(|pair| (pair[1] - pair[0]).powi(2));
        let loud = [whole, upper.sum::<f64>() * share];
        let rises = |part: usize| {
            let sum: f64 = self.pieces.iter().map(|piece| piece[part]).sum();
            let background = sum / self.pieces.len().max(1) as f64;
            loud[part] > SOFTEST[part] && loud[part] > RISES * background
        };
        let heard = self.pieces.len() >= SETTLED;
        // Not within what is still the same pluck.
        let soon = self.ringing.is_some_and(|ringing| {
            !ringing.opening && self.looked < ringing.pluck + (0.08 * self.rate) as usize
        });
        let plucked = heard && !soon && (rises(0) || rises(1));
        self.pieces.push(loud);
        if self.pieces.len() > BACKGROUND {
            self.pieces.remove(0);
        }
        plucked
    }

    /// Why what a recording begins with is no note at all, if it is none.
    fn room(&self, pluck: usize, until: usize) -> Option<Refusal> {
        use Refusal as R;
        let heard = self.measured(pluck, until).err();
        heard.filter(|why| matches!(why, R::Quiet | R::Short | R::Hum | R::Noise))
    }

    /// What is to be said by now of the note that rings.
    fn due(&mut self) -> Option<Said> {
        let ringing = self.ringing?;
        let past = |seconds: f64| self.looked >= ringing.pluck + (seconds * self.rate) as usize;
        if past(ALL) {
            return self.ended(self.looked);
        }
        if past(SOON) && !ringing.told && !self.bursts {
            self.ringing = Some(Ringing {
                told: true,
                ..ringing
            });
            // What cannot be said yet may be later.
            return self
                .measured(ringing.pluck, self.looked)
                .ok()
                .map(Said::First);
        }
        None
    }

    /// How the note was struck that was plucked there and rings until then.
    fn struck(&self, pluck: usize, until: usize) -> Said {
        let (rate, at) = (self.rate, pluck as f64 / self.rate);
        let (pluck, until) = (pluck - self.first, until - self.first);
        // A finger that damps the string is heard, too, and is no buzz.
        let damped = damped(&self.kept, rate, pluck, until);
        let until = damped.map_or(until, |at| at - at.min((FINGER * rate) as usize));
        let until = until.max(pluck);
        match roughly(&self.kept, rate, pluck, until, &self.expected) {
            Err(refusal) => Said::Refused(at, refusal),
            Ok(hz) => Said::Struck(Struck {
                at,
                hz,
                level: loud(&self.kept[pluck..until], rate),
                burst: burst(&self.kept, rate, pluck, until, hz),
            }),
        }
    }

    fn measured(&self, pluck: usize, until: usize) -> Result<Note, Refusal> {
        let from = self.first;
        let note = measure_from(
            &self.kept,
            self.rate,
            pluck - from,
            until - from,
            &self.expected,
        )?;
        Ok(Note {
            at: pluck as f64 / self.rate,
            ..note
        })
    }

    /// Lets go of what is not needed any more.
    fn forget(&mut self) {
        let needed = self.ringing.map_or(self.looked, |ringing| ringing.pluck);
        let needed = needed.saturating_sub((LEAD * self.rate) as usize);
        let old = needed.saturating_sub(self.first);
        if old > self.rate as usize / 4 {
            self.kept.drain(..old);
            self.first += old;
        }
    }
}

/// How loud a note is that begins there, decibels below full scale.
fn loud(samples: &[f64], rate: f64) -> f64 {
    let third = samples.len().min((rate / 3.0) as usize);
    20.0 * marks::loudness(&samples[..third]).max(1e-9).log10()
}
