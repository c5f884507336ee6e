//! Intake: whose instrument, how it lies, where it stands in the shop.

pub(crate) mod form;
mod page;

pub(crate) use page::station;
