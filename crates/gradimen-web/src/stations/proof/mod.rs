//! The proof: check lists before and after the work, and the play test.

mod drawing;
pub(crate) mod form;
mod page;

pub(super) use page::in_hand;
pub(crate) use page::station;
