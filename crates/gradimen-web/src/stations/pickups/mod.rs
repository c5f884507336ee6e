//! Pickups: gaps, pole pieces, levels.

mod drawing;
pub(crate) mod form;
mod page;
mod rows;

pub(crate) use page::station;
