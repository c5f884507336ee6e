//! What an interval that was heard says of the saddle under it.

use gradimen_core::quantity::Cents;

use super::{IntonationPlan, SaddlePlan};
use crate::estimate::Estimate;
use crate::model::Reference;

/// A change below this many widths is none.
const PLAIN: f64 = 3.0;
/// No finer step is told: what is below it nobody sets a saddle by.
const FINEST: f64 = 0.1;

/// A string as an ear stands to it: against its harmonic, with nothing of the pluck in it.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct ByEar {
    /// What it would read now.
    pub now: Cents,
    /// What it is meant to read.
    pub aim: Cents,
}

/// The step of a tuner that scatters as this width does: a step is spread evenly over itself, so a twelfth of its square is the variance.
pub fn step_of(width: Cents) -> Cents {
    Cents::new((width.value() * 12f64.sqrt()).max(FINEST))
}

impl IntonationPlan {
    /// How an ear stands to a string; nothing for one that has no saddle here.
    pub fn by_ear(&self, known: &Estimate, string: u8) -> Option<ByEar> {
        let strings = &self.saddle_of(string)?.estimate.strings;
        let on = strings.iter().find(|on| on.string == string)?;
        let now = known.state().note_now(string, Reference::Harmonic)? - on.plucked.value;
        Some(ByEar {
            now,
            aim: now - on.error.value,
        })
    }
}

impl SaddlePlan {
    /// Whether a reading of a string is what the move ordered here gives, rather than what stood before it: whoever listens with both hands
    /// on the instrument turns the screw as it was said and plays again, without a word.
    ///
    /// `before` is what the string would read if nothing had been turned, in the same reckoning as `read`. Neither is known better than its
    /// width: a reading that the doubt about the one before explains as well tells of no move.
    pub fn seems_moved(&self, string: u8, before: Cents, read: Cents, width: Cents) -> bool {
        let Some(index) = self.strings().position(|on| on == string) else {
            return false;
        };
        if self.next_move().is_none() {
            return false;
        }
        let error = &self.estimate.strings[index].error;
        let by = self.remaining[index].value() - error.value.value();
        let stayed = read.value() - before.value();
        let spread = width.value().max(FINEST).hypot(error.sigma.value());
        (stayed - by).abs() < stayed.abs() && stayed.abs() > PLAIN * spread
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::job::Job;
    use crate::journal::Document;
    use crate::plan::Plan;

    #[test]
    fn a_reading_near_what_the_move_promised_tells_of_the_move_and_one_near_the_old_does_not() {
        let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
        let document = Document::parse(text).unwrap();
        let known = Estimate::of(Arc::new(Job::fold(&document.events).unwrap())).unwrap();
        let plan = Plan::of(&known);
        let mut seen = 0;
        for saddle in &plan.intonation.saddles {
            for (index, string) in saddle.strings().enumerate() {
                let before = plan.intonation.by_ear(&known, string).unwrap().now;
                let off = saddle.estimate.strings[index].error.value;
                let moved = |read: f64, width: f64| {
                    saddle.seems_moved(string, before, Cents::new(read), Cents::new(width))
                };
                let after = before.value() - off.value() + saddle.remaining[index].value();
                if saddle.next_move().is_none() {
                    assert!(!moved(after, 0.1) && !moved(before.value() + 9.0, 0.1));
                    continue;
                }
                seen += 1;
                assert!(moved(after, 0.1), "string {string}: {before:?} {after}");
                assert!(!moved(before.value(), 0.1));
                // Further the wrong way is no move that was ordered; and what cannot be told from nothing is none.
                assert!(!moved(before.value() + off.value(), 0.1));
                assert!(!moved(after, off.value().abs()));
            }
        }
        assert!(seen > 0, "the example has no saddle to move");
    }
}
