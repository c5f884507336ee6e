//! What if: another set, tuning or hand.

pub(crate) mod form;
mod page;

pub(crate) use page::station;
