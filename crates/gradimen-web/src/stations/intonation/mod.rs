//! Intonation: the saddles along the string.

mod drawing;
pub(crate) mod form;
mod page;

pub(crate) use page::{done, station};
