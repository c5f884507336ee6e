//! Balance: vibrato or tail.

mod drawing;
pub(crate) mod form;
mod page;

pub(crate) use page::station;
