//! Action: height screws and posts.

pub(crate) mod form;
mod page;

pub(crate) use page::station;
