//! Nut: its slots.

pub(crate) mod form;
mod page;

pub(crate) use page::station;
