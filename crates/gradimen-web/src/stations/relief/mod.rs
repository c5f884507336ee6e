//! Relief: the truss rod.

mod drawing;
pub(crate) mod form;
mod page;

pub(crate) use page::{BLADES, station};
