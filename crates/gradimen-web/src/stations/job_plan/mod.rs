//! The job plan: every adjustment, in order.

mod page;

pub(crate) use page::station;
