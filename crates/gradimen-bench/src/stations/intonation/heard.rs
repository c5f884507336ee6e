//! What an interval that was heard says of the saddle under it.

use gradimen_core::quantity::Cents;

use super::SaddlePlan;

/// A change below this many widths is none.
const PLAIN: f64 = 3.0;

impl SaddlePlan {
    /// Whether a reading of a string is what the move ordered here gives, rather than what stood before it: whoever listens with both hands
    /// on the instrument turns the screw as it was said and plays again, without a word.
    ///
    /// `before` is what the string would read if nothing had been turned, in the same reckoning as `read`.
    pub fn seems_moved(&self, string: u8, before: Cents, read: Cents, width: Cents) -> bool {
        let Some(index) = self.strings().position(|on| on == string) else {
            return false;
        };
        if self.next_move().is_none() {
            return false;
        }
        let by = self.remaining[index].value() - self.estimate.strings[index].error.value.value();
        let (stayed, changed) = (
            read.value() - before.value(),
            read.value() - before.value() - by,
        );
        changed.abs() < stayed.abs() && stayed.abs() > PLAIN * width.value()
    }
}

#[cfg(test)]
mod tests {
    use std::sync::Arc;

    use super::*;
    use crate::estimate::Estimate;
    use crate::job::Job;
    use crate::journal::Document;
    use crate::model::place::Reference;
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
                let before = known.state().note_now(string, Reference::Harmonic).unwrap();
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
