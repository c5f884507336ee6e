//! Sound as it comes.
/// A.
pub struct Listener;
/// A.
pub struct Said;
