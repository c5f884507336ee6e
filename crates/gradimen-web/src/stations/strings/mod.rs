//! Strings: what pulls how hard.

mod drawing;
pub(crate) mod form;
mod page;

pub(crate) use page::station;
