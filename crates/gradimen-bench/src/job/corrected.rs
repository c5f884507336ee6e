//! A record put right in an open job: what was turned before it was turned by the clock, as the screen said then. Where the record
//! now says that the screw goes the other way, so did it.

use std::borrow::Cow;
use std::sync::Arc;

use crate::journal::{Corrected, Entry, Event};
use crate::model::instrument::Instrument;
use crate::model::{Adjuster, Amount};

/// Whether a clockwise turn counts as forward on an adjuster: tightens, lifts, drives away. Nothing where no record says it.
fn clockwise_counts(record: &Instrument, adjuster: Adjuster) -> Option<bool> {
    use crate::model::hardware::SaddleWay;

    match adjuster {
        Adjuster::TrussRod => Some(!record.neck.rod_reversed),
        Adjuster::SaddleHeight { .. } | Adjuster::Post { .. } => {
            Some(record.bridge.screws_of(adjuster).clockwise_raises)
        }
        Adjuster::SaddleDrive { .. } => Some(record.bridge.intonation.clockwise == SaddleWay::Away),
        Adjuster::PickupScrew { pickup, .. } => {
            let pickup = record.pickups.get(usize::from(pickup))?;
            Some(pickup.clockwise_raises)
        }
        _ => None,
    }
}

/// The record that held when an entry was written, and the one that holds.
#[derive(Debug, Clone, Copy)]
pub(super) struct Records<'a> {
    then: &'a Instrument,
    now: &'a Instrument,
}

impl<'a> Records<'a> {
    pub(super) const fn new(opened: &'a Instrument, corrected: Option<&'a Corrected>) -> Self {
        let now = match corrected {
            Some(corrected) => &corrected.instrument,
            None => opened,
        };
        Self { then: opened, now }
    }

    /// From here on another record held.
    pub(super) fn pass(&mut self, corrected: &'a Corrected) {
        self.then = &corrected.instrument;
    }

    /// An entry as it is meant by the record that holds.
    pub(super) fn meant(self, entry: &'a Arc<Entry>) -> Cow<'a, Arc<Entry>> {
        let Event::Adjusted {
            adjuster,
            amount: Amount::Turns { turns },
        } = entry.event
        else {
            return Cow::Borrowed(entry);
        };
        if clockwise_counts(self.then, adjuster) == clockwise_counts(self.now, adjuster) {
            return Cow::Borrowed(entry);
        }
        Cow::Owned(Arc::new(Entry {
            event: Event::Adjusted {
                adjuster,
                amount: Amount::Turns { turns: -turns },
            },
            ..entry.as_ref().clone()
        }))
    }
}
