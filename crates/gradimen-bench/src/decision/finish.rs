//! The instrument as the moves that are planned leave it: what the stations build up, one after the other.

use nalgebra::DVector;

use crate::estimate::state::{Lie, State};

/// The instrument as the moves that are planned leave it.
#[derive(Debug, Clone, PartialEq)]
pub(crate) struct Finish {
    pub(crate) x: DVector<f64>,
    pub(crate) lie: Lie,
}

impl Finish {
    /// Before any move.
    pub(crate) fn of(state: &State) -> Self {
        Self {
            x: state.mean().clone(),
            lie: state.lie().clone(),
        }
    }
}
