//! What the trade writes, read and printed.
//!
//! A technician writes `5/64`, `3.5/32`, `.010"`, `10 thou`, `1,75 mm` or `6-8 thou` in one
//! conversation. [`Entry`] keeps what was written beside what was understood; a bare number
//! takes the unit of its field and says so.
//!
//! - [`parse_length`] and [`LengthField`]: lengths, exact or as a go/no-go interval.
//! - [`parse_cents`]: one or several tuner readings. [`parse_turns`], [`parse_mass`],
//!   [`parse_force`], [`parse_frequency`], [`parse_decibels`]: what their names say.
//! - [`print`]: the other direction.
//!
//! ```
//! use gradimen_core::units::{parse_length, LengthUnit};
//!
//! let sixteenth = parse_length("5/64", LengthUnit::Millimetre)?;
//! assert!((sixteenth.middle().mm() - 1.984).abs() < 0.001);
//! assert!(parse_length("about five", LengthUnit::Millimetre).is_err());
//! # Ok::<(), gradimen_core::units::UnitError>(())
//! ```

mod field;
mod length;
mod number;
mod other;
pub mod print;
mod rate;
mod written;

pub use field::LengthField;
pub use length::{Entry, LengthUnit, parse_length};
pub use other::{
    parse_cents, parse_decibels, parse_force, parse_frequency, parse_mass, parse_turns,
};
pub use rate::parse_rate;

use thiserror::Error;

/// What was wrong with something typed. Each message says what was read, what was expected and
/// how to write it.
#[derive(Debug, Clone, PartialEq, Error)]
pub enum UnitError {
    /// Nothing was typed.
    #[error("nothing was entered; write {expected}")]
    Empty {
        /// How to write it.
        expected: &'static str,
    },
    /// Part of it is no number.
    #[error("\"{read}\" is not understood; write {expected}")]
    NotANumber {
        /// What was typed.
        read: String,
        /// How to write it.
        expected: &'static str,
    },
    /// The unit is not one that is known here.
    #[error(
        "\"{read}\" is not understood: the unit \"{unit}\" is not known here; write {expected}"
    )]
    UnknownUnit {
        /// What was typed.
        read: String,
        /// The part taken for a unit.
        unit: String,
        /// How to write it.
        expected: &'static str,
    },
    /// A denominator no rule is divided in.
    #[error(
        "\"{read}\": rules are divided in halves, 4ths, 8ths, 16ths, 32nds, 64ths or 128ths, not in {denominator}"
    )]
    Denominator {
        /// What was typed.
        read: String,
        /// The denominator found.
        denominator: f64,
    },
    /// It can be read in two ways.
    #[error("\"{read}\" can mean two things; write {first} or {second}")]
    Ambiguous {
        /// What was typed.
        read: String,
        /// One way to write it.
        first: String,
        /// The other way.
        second: String,
    },
    /// An interval that does not go up.
    #[error("\"{read}\": the blade that passes comes first and is thinner, as in 6-8 thou")]
    Interval {
        /// What was typed.
        read: String,
    },
    /// An interval where one value is needed.
    #[error("\"{read}\" is an interval; one value is wanted here")]
    NotExact {
        /// What was typed.
        read: String,
    },
    /// A value that cannot be right.
    #[error("\"{read}\" would be {understood}; {what} lies between {low} and {high}")]
    Absurd {
        /// What was typed.
        read: String,
        /// What it would mean.
        understood: String,
        /// The lower limit, printed.
        low: String,
        /// The upper limit, printed.
        high: String,
        /// What is being measured.
        what: String,
    },
}
