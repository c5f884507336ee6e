//! The stations of the bench.

/// A station of the bench that turns something, in the order of the work.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    PartialOrd,
    Ord,
    Hash,
    strum::VariantArray,
    strum::IntoStaticStr,
    strum::EnumString,
)]
#[strum(serialize_all = "snake_case")]
pub enum StationId {
    /// The checks before the first screw.
    First,
    /// The vibrato.
    Balance,
    /// The truss rod.
    Relief,
    /// The slots.
    Nut,
    /// The height screws.
    Action,
    /// The saddles.
    Intonation,
    /// The pickups.
    Pickups,
}
