//! What was done to frets, and what a press or a look told of them.
//!
//! ```
//! use gradimen_bench::model::{Fretwork, Keyed};
//!
//! assert_eq!(Fretwork::from_key("levelled"), Some(Fretwork::Levelled));
//! assert!(Fretwork::Levelled.is_of_all() && !Fretwork::Seated.is_of_all());
//! ```

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A piece of fretwork.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    Serialize,
    Deserialize,
    JsonSchema,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[serde(rename_all = "snake_case")]
#[strum(serialize_all = "snake_case")]
pub enum Fretwork {
    /// A loose fret pressed home and glued.
    Seated,
    /// One fret brought down to its neighbours, crowned and polished.
    Spot,
    /// All frets levelled, crowned and polished.
    Levelled,
    /// New frets.
    Refretted,
}

impl Fretwork {
    /// Whether it is done to all frets at once.
    pub const fn is_of_all(self) -> bool {
        matches!(self, Self::Levelled | Self::Refretted)
    }

    /// Its name.
    pub const fn name(self) -> &'static str {
        match self {
            Self::Seated => "seated and glued",
            Self::Spot => "spot-levelled and crowned",
            Self::Levelled => "all levelled, crowned and polished",
            Self::Refretted => "new frets",
        }
    }
}
