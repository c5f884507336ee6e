//! Clearance: where strings touch under this hand.

mod drawing;
pub(crate) mod form;
mod page;

pub(crate) use page::station;
