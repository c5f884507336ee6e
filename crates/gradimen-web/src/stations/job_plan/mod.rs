//! The job plan: every adjustment, in order.

pub(crate) mod form;
mod page;

pub(crate) use page::station;
