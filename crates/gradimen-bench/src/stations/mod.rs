//! The stations of the bench, one folder each: what each makes of an estimate, and what it finds. Strings and
//! clearance turn nothing and so are no [`Station`](crate::decision::Station); they are worked out the same way.
//!
//! ```
//! use gradimen_bench::decision::StationId;
//!
//! // The order of the bench is data.
//! assert!(StationId::Relief < StationId::Nut && StationId::Nut < StationId::Action);
//! assert!(StationId::Action < StationId::Intonation);
//! ```

pub mod action;
pub mod balance;
pub mod clearance;
pub mod intonation;
pub mod nut;
pub mod pickups;
pub mod relief;
pub mod strings;
