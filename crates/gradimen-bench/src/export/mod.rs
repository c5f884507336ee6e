//! What other programs get of a job: the report of its plan, its readings as a table, the line of the job list.

pub mod report;
pub mod summary;
pub mod table;

pub use summary::Summary;
