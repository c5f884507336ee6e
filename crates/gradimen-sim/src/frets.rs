//! The frets as they stand: what a rocker tells of them, what gives under a stick, where a string touches them, and what
//! a file and a hammer do.

use gradimen_bench::model::instrument::Kind;
use gradimen_bench::model::{Fretwork, Note, Rocking};

use crate::SimulatedInstrument;
use crate::path;

/// A rocker is felt from here on, and seen from there, in millimetres; no two fingers are alike.
const FELT: f64 = 0.016;
const SEEN: f64 = 0.042;
/// How well frets stand on a board that was dressed, as a share of one that was not.
const DRESSED: f64 = 0.2;
/// A levelled fret stands within so much of its neighbours.
const LEVEL: f64 = 0.004;
/// A medium stroke across the board, in newtons, and how far before the saddle (common practice): guitars and basses.
const STROKE: [(f64, f64); 2] = [(0.4, 130.0), (1.3, 110.0)];

impl SimulatedInstrument {
    /// The same with a board that was dressed.
    #[must_use]
    pub fn with_frets_dressed(mut self) -> Self {
        for course in &mut self.courses {
            for fret in &mut course.uneven {
                *fret *= DRESSED;
            }
        }
        self
    }

    /// The same with a fret that stands so much too high, in millimetres: loose, or simply high.
    #[must_use]
    pub fn with_fret(mut self, fret: u8, up: f64, loose: bool) -> Self {
        for course in &mut self.courses {
            if let Some(stands) = course.uneven.get_mut(usize::from(fret)) {
                *stands += up;
            }
        }
        if loose {
            self.loose.insert(fret, up);
        }
        self
    }

    /// How far a fret stands over the line from the one before it to the one after, truly.
    pub fn stands(&self, note: Note) -> Option<f64> {
        let index = usize::from(note.string.checked_sub(1)?);
        let course = self.courses.get(index)?;
        let at = usize::from(note.fret);
        if at < 2 || at + 1 >= course.frets.len() {
            return None;
        }
        let tops = self.tops(index);
        let share = (course.frets[at] - course.frets[at - 1])
            / (course.frets[at + 1] - course.frets[at - 1]);
        Some(tops[at] - tops[at - 1] - share * (tops[at + 1] - tops[at - 1]))
    }

    pub(crate) fn rocks(&mut self, note: Note) -> Option<Rocking> {
        let stands = self.stands(note)?;
        let finger = self.hand.chance.factor(0.12);
        Some(match stands {
            high if high > SEEN * finger => Rocking::Clear,
            high if high > FELT * finger => Rocking::Slight,
            _ => Rocking::None,
        })
    }

    /// Whether a fret gives when it is pressed with a stick.
    pub fn gives(&self, fret: u8) -> bool {
        self.loose.contains_key(&fret)
    }

    /// How far a string that is held at a fret clears what is nearest to it in a medium stroke, in millimetres: below nought it
    /// touches.
    pub fn clears(&self, note: Note) -> Option<f64> {
        let (clear, swings) = self.nearest(note)?;
        Some(clear - swings)
    }

    /// How far a string that is held at a fret lies over what it comes nearest to in a medium stroke, and how far it swings down there, in
    /// millimetres. The envelope of a plucked string is the pluck and its mirror image (any textbook of vibrations).
    pub(crate) fn nearest(&self, note: Note) -> Option<(f64, f64)> {
        let index = usize::from(note.string.checked_sub(1)?);
        let course = self.courses.get(index)?;
        let tops = self.tops(index);
        let (from, crown) = (usize::from(note.fret), self.crown(index));
        let start = match from {
            0 => (0.0, tops[0] + course.slot),
            _ => (*course.frets.get(from)?, tops[from]),
        };
        let line = [start, crown];
        let (force, before) = STROKE[usize::from(self.record.kind == Kind::Bass)];
        let long = crown.0 - start.0;
        let top = force * before * (long - before) / (course.pull * long);
        // Plucked `before` the saddle, it swings down as far behind the fret.
        let swing = |x: f64| {
            let along = x - start.0;
            top * (along / before).min((long - along) / (long - before))
        };
        let beyond = course.frets.iter().zip(&tops).skip(from + 1);
        beyond
            .map(|(x, top)| (path::height_at(&line, *x) - top, swing(*x)))
            .min_by(|one, other| (one.0 - one.1).total_cmp(&(other.0 - other.1)))
    }

    /// Work on frets: one, or all of them.
    pub fn fretwork(&mut self, work: Fretwork, fret: Option<u8>) {
        match (work, fret) {
            (Fretwork::Seated, Some(fret)) => {
                if let Some(up) = self.loose.remove(&fret) {
                    self.lower(fret, up);
                }
            }
            (Fretwork::Spot, Some(fret)) => {
                for index in 0..self.courses.len() {
                    let string = u8::try_from(index + 1).unwrap_or(1);
                    let over = self.stands(Note { string, fret }).unwrap_or(0.0);
                    self.courses[index].uneven[usize::from(fret)] -= over.max(0.0);
                }
            }
            (Fretwork::Levelled | Fretwork::Refretted, _) => {
                self.loose.clear();
                for index in 0..self.courses.len() {
                    for at in 0..self.courses[index].uneven.len() {
                        self.courses[index].uneven[at] = self.hand.chance.normal(LEVEL);
                    }
                }
            }
            (Fretwork::Seated | Fretwork::Spot, None) => {}
        }
        self.tune();
    }

    fn lower(&mut self, fret: u8, by: f64) {
        for course in &mut self.courses {
            if let Some(stands) = course.uneven.get_mut(usize::from(fret)) {
                *stands -= by;
            }
        }
    }
}
