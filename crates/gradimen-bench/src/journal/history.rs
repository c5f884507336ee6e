//! Which entries of a journal count, and what undo and redo would reach.

use std::collections::BTreeSet;

use thiserror::Error;

use super::event::{EVENT_VERSION, Entry, Event};
use crate::model::limits;

/// Why entries are no journal.
#[derive(Debug, Clone, PartialEq, Eq, Error)]
pub enum HistoryError {
    /// Sequence numbers with a gap, a repeat, or a wrong start.
    #[error("entry {found} of the journal stands where entry {expected} belongs")]
    Sequence {
        /// The number that belongs there.
        expected: u64,
        /// The number found.
        found: u64,
    },
    /// Written by a later version of the program.
    #[error("entry {seq} has version {version}; this program reads versions 1 to {EVENT_VERSION}")]
    Version {
        /// Where.
        seq: u64,
        /// Its version.
        version: u32,
    },
    /// A group that does not begin at an entry before, or is broken.
    #[error("entry {0} names a group that it cannot be part of")]
    Group(u64),
    /// Taking back what is not there, or twice.
    #[error("entry {0} cannot be undone or redone")]
    UndoTarget(u64),
    /// More entries than any job has.
    #[error("read {0} entries, expected at most {most}", most = limits::ENTRIES)]
    TooMany(usize),
}

/// Which entries count, and what undo and redo would reach.
#[derive(Debug, Clone, PartialEq, Eq, Default)]
pub struct History {
    live: BTreeSet<u64>,
    done: Vec<u64>,
    undone: Vec<u64>,
    last: u64,
    /// The group that the next entry may still be part of.
    group: u64,
    /// Whether that is the one that opened the job, which is never taken back.
    opening: bool,
}

impl History {
    /// Reads a journal, whose entries stand in their order.
    ///
    /// # Errors
    /// The first [`HistoryError`] found.
    pub fn of(entries: &[Entry]) -> Result<Self, HistoryError> {
        let mut history = Self::default();
        for entry in entries {
            history.push(entry)?;
        }
        Ok(history)
    }

    /// Takes one more entry in.
    ///
    /// # Errors
    /// A [`HistoryError`]; the history is then as it was.
    pub fn push(&mut self, entry: &Entry) -> Result<(), HistoryError> {
        let expected = self.last + 1;
        if entry.seq != expected {
            return Err(HistoryError::Sequence {
                expected,
                found: entry.seq,
            });
        }
        if self.last >= limits::ENTRIES as u64 {
            return Err(HistoryError::TooMany(limits::ENTRIES + 1));
        }
        if !(1..=EVENT_VERSION).contains(&entry.version) {
            return Err(HistoryError::Version {
                seq: entry.seq,
                version: entry.version,
            });
        }
        // A group goes on where the entry before belongs to it, or begins here.
        let goes_on = entry.group == self.group
            && (self.opening || self.group != 0 && self.done.last() == Some(&self.group));
        if entry.group != entry.seq && !goes_on {
            return Err(HistoryError::Group(entry.seq));
        }
        match entry.event {
            Event::Undone { target } => {
                if entry.group != entry.seq || self.done.last() != Some(&target) {
                    return Err(HistoryError::UndoTarget(target));
                }
                self.done.pop();
                self.undone.push(target);
                self.group = 0;
                self.opening = false;
            }
            Event::Redone { target } => {
                if entry.group != entry.seq || self.undone.last() != Some(&target) {
                    return Err(HistoryError::UndoTarget(target));
                }
                self.undone.pop();
                self.done.push(target);
                self.group = 0;
            }
            Event::Opened(_) if entry.seq == 1 => {
                self.group = entry.group;
                self.opening = true;
            }
            _ => {
                if entry.group == entry.seq {
                    self.done.push(entry.group);
                    self.undone.clear();
                    self.group = entry.group;
                    self.opening = false;
                }
                self.live.insert(entry.seq);
            }
        }
        self.last = entry.seq;
        Ok(())
    }

    /// Whether an entry counts: the groups that were taken back and not put again do not.
    pub fn counts(&self, entry: &Entry) -> bool {
        let stands = entry.group == 1 || self.done.binary_search(&entry.group).is_ok();
        self.live.contains(&entry.seq) && stands
    }

    /// The group that undo would take back.
    pub fn undo(&self) -> Option<u64> {
        self.done.last().copied()
    }

    /// The group that redo would put again.
    pub fn redo(&self) -> Option<u64> {
        self.undone.last().copied()
    }

    /// The last sequence number.
    pub const fn last(&self) -> u64 {
        self.last
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use jiff::Timestamp;

    fn note(seq: u64, group: u64) -> Entry {
        Entry {
            group,
            ..Entry::new(
                seq,
                Timestamp::UNIX_EPOCH,
                Event::Noted { text: "x".into() },
            )
        }
    }

    fn undone(seq: u64, target: u64) -> Entry {
        Entry::new(seq, Timestamp::UNIX_EPOCH, Event::Undone { target })
    }

    #[test]
    fn what_one_press_recorded_is_undone_as_one() {
        let entries = [note(1, 1), note(2, 2), note(3, 2), note(4, 2), undone(5, 2)];
        let before = History::of(&entries[..4]).unwrap();
        assert_eq!(before.undo(), Some(2));
        let history = History::of(&entries).unwrap();
        let counting: Vec<u64> = entries
            .iter()
            .filter(|entry| history.counts(entry))
            .map(|entry| entry.seq)
            .collect();
        assert_eq!(counting, [1]);
        assert_eq!((history.undo(), history.redo()), (Some(1), Some(2)));
    }

    #[test]
    fn groups_cannot_be_broken_or_invented() {
        for wrong in [
            vec![note(1, 1), note(2, 9)],
            vec![note(1, 1), note(2, 2), note(3, 1)],
            vec![note(1, 1), undone(2, 1), note(3, 1)],
        ] {
            assert!(matches!(History::of(&wrong), Err(HistoryError::Group(_))));
        }
        // Not the middle of a group, not twice, and nothing that never was.
        for wrong in [
            vec![note(1, 1), note(2, 2), note(3, 2), undone(4, 3)],
            vec![note(1, 1), undone(2, 1), undone(3, 1)],
            vec![note(1, 1), undone(2, 7)],
        ] {
            assert!(matches!(
                History::of(&wrong),
                Err(HistoryError::UndoTarget(_))
            ));
        }
        let gap = [note(1, 1), note(3, 3)];
        assert!(matches!(
            History::of(&gap),
            Err(HistoryError::Sequence { expected: 2, .. })
        ));
    }
}
