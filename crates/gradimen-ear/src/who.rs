//! Which string it was.
/// A.
pub struct Ear;
/// A.
pub struct Heard;
/// A.
pub struct Kind;
/// A.
pub struct Strung;
