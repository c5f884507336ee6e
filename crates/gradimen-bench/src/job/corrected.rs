//! A record put right in an open job: what was turned before it was turned by the clock, as the screen said then. Where the record
//! now says that the screw goes the other way, so did it.

use std::borrow::Cow;
use std::sync::Arc;

use super::JobError;
use crate::journal::{Corrected, Entry, Event};
use crate::model::instrument::Instrument;
use crate::model::{Adjuster, Amount, Place};

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

/// Refuses a record on which a pickup that was read or turned in this job is another one: its readings would be believed of that.
pub(super) fn keeps_its_pickups(
    opened: &Instrument,
    corrected: Option<&Corrected>,
    facts: &[Arc<Entry>],
) -> Result<(), JobError> {
    let Some(corrected) = corrected else {
        return Ok(());
    };
    let name = |record: &Instrument, pickup: u8| {
        let pickup = record.pickups.get(usize::from(pickup));
        pickup.map(|pickup| pickup.name.clone())
    };
    let moved = facts
        .iter()
        .filter_map(|entry| pickup_of(&entry.event))
        .any(|pickup| name(opened, pickup) != name(&corrected.instrument, pickup));
    if moved {
        return Err(JobError::NotHere {
            what: "this record",
            why: "a pickup that was read or turned in this job is another one on it",
        });
    }
    Ok(())
}

const fn pickup_of(event: &Event) -> Option<u8> {
    match event {
        Event::Read {
            place:
                Place::Pickup { pickup, .. }
                | Place::PolePiece { pickup, .. }
                | Place::Level { pickup, .. },
            ..
        }
        | Event::Adjusted {
            adjuster: Adjuster::PickupScrew { pickup, .. } | Adjuster::PolePiece { pickup, .. },
            ..
        } => Some(*pickup),
        _ => None,
    }
}
