//! The fret survey: a rocker over every fret, and what to do about those that stand high.

mod drawing;
pub(crate) mod form;
mod page;

pub(super) use page::in_hand;
pub(crate) use page::station;
