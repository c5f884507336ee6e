//! The checks before the first screw: what each one is, and what it would tell.
//!
//! ```
//! use gradimen_bench::plan::first::Subject;
//! use gradimen_bench::text::first;
//!
//! assert!(first::tells(Subject::Rod).contains("rod"));
//! ```

use crate::plan::first::Subject;

/// What is done, in a few words.
pub const fn name(subject: Subject) -> &'static str {
    match subject {
        Subject::Scale => "Nut to fret 12, and fret 12 to the saddle",
        Subject::Room => "Room behind the outer saddles",
        Subject::Rod => "The nut of the truss rod, felt with its key",
        Subject::Relief => "Relief, both sides",
        Subject::Claw => "From the claw to its wall, both ends",
        Subject::Frets => "A rocker over the frets that buzzed",
    }
}

/// How it is read.
pub const fn how(subject: Subject) -> &'static str {
    match subject {
        Subject::Scale => "a rule along both outer strings, to half a millimetre",
        Subject::Room => "a rule behind the two outer saddles",
        Subject::Rod => "a quarter turn there and back, and the thread that shows",
        Subject::Relief => "blades at both outer strings, at pitch",
        Subject::Claw => "a rule in the cavity",
        Subject::Frets => "a short straightedge over three frets",
    }
}

/// What it would tell, and so what stays open where it is skipped.
pub const fn tells(subject: Subject) -> &'static str {
    match subject {
        Subject::Scale => "a neck of another scale, or a bridge in the wrong place",
        Subject::Room => "whether every saddle can reach its place",
        Subject::Rod => "whether the rod has anything left to give",
        Subject::Relief => "a neck that is wound, or in back-bow",
        Subject::Claw => "whether the claw has room, and hangs straight",
        Subject::Frets => "a high fret, which no screw cures",
    }
}
