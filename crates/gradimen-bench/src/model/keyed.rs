//! Choices with one word each: the word of documents, forms and texts.

use std::str::FromStr;

use strum::VariantArray;

/// A choice that is written as one word. The words come from the variants themselves (`strum`), so that
/// no table of them can forget one.
///
/// ```
/// use gradimen_bench::model::{Keyed, Side};
///
/// assert_eq!(Side::Treble.key(), "treble");
/// assert_eq!(Side::from_key("bass"), Some(Side::Bass));
/// assert_eq!(Side::from_key("left"), None);
/// ```
pub trait Keyed: Copy + PartialEq + Into<&'static str> + FromStr + VariantArray {
    /// Its word.
    fn key(self) -> &'static str {
        self.into()
    }

    /// Every choice, in the order of its list.
    fn all() -> impl Iterator<Item = Self> {
        Self::VARIANTS.iter().copied()
    }

    /// From that word.
    fn from_key(key: &str) -> Option<Self> {
        key.parse().ok()
    }
}

impl<T> Keyed for T where T: Copy + PartialEq + Into<&'static str> + FromStr + VariantArray {}
