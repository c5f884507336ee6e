//! The record: everything that was told.

mod page;

pub(crate) use page::station;
