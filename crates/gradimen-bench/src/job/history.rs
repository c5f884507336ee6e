//! Which entries of a journal count, and what undo and redo would reach.

use std::collections::BTreeSet;

use super::JobError;
use crate::event::{Entry, Event};

/// Which entries count, and what undo and redo would reach.
pub(super) struct History {
    pub(super) live: BTreeSet<u64>,
    pub(super) done: Vec<u64>,
    pub(super) undone: Vec<u64>,
}

impl History {
    pub(super) fn of(entries: &[&Entry]) -> Result<Self, JobError> {
        let mut history = Self {
            live: BTreeSet::new(),
            done: Vec::new(),
            undone: Vec::new(),
        };
        for entry in entries.iter().skip(1) {
            match entry.event {
                Event::Undone { target } => {
                    if history.done.pop() != Some(target) {
                        return Err(JobError::UndoTarget(target));
                    }
                    history.live.remove(&target);
                    history.undone.push(target);
                }
                Event::Redone { target } => {
                    if history.undone.pop() != Some(target) {
                        return Err(JobError::UndoTarget(target));
                    }
                    history.live.insert(target);
                    history.done.push(target);
                }
                _ => {
                    history.live.insert(entry.seq);
                    history.done.push(entry.seq);
                    history.undone.clear();
                }
            }
        }
        Ok(history)
    }
}
