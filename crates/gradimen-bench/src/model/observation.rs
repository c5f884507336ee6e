//! What is seen, heard or known at the bench and is no reading of a place.
//!
//! ```
//! use gradimen_bench::model::{Buzz, Observation};
//!
//! let heard = Observation::Buzz { buzz: Buzz { string: 4, held: 5, attack: 0.6, doubt: None } };
//! let written = serde_json::to_value(&heard)?;
//! assert_eq!(written["of"], "buzz");
//! # Ok::<(), serde_json::Error>(())
//! ```

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::complaint::{CheckLine, Complaint, Condition, Heard, Note, Round};
use super::fretwork::Fretwork;
use super::measurement::Measurement;
use super::player::{HeightsGiven, Tuner};
use super::practice::Practised;

/// A buzz that was heard.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Buzz {
    /// Which string.
    pub string: u8,
    /// Held at this fret; 0 is the open string.
    pub held: u8,
    /// How hard it was played, as a share of this player's hardest stroke.
    pub attack: f64,
    /// One standard deviation of that, where strokes on both sides of it were listened to.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub doubt: Option<f64>,
}

/// Something observed.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(tag = "of", rename_all = "snake_case", deny_unknown_fields)]
pub enum Observation {
    /// A string buzzed.
    Buzz {
        /// Where, and how hard it was played.
        buzz: Buzz,
    },
    /// The strings were found old, or are new again.
    Strings {
        /// Old or not.
        old: bool,
    },
    /// The action as it came; the one told last counts.
    AsItCame {
        /// The heights.
        heights: HeightsGiven,
    },
    /// What the player told at the counter; what was told last counts.
    Complaint {
        /// What.
        complaint: Complaint,
    },
    /// A line of the check list was looked at.
    Checked {
        /// Before the work or after it.
        round: Round,
        /// Which line.
        line: CheckLine,
        /// How it was found.
        condition: Condition,
    },
    /// A note of the play test: what is heard there, or that nothing is any more.
    Played {
        /// Which.
        note: Note,
        /// What; nothing where it plays clean.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        heard: Option<Heard>,
        /// How likely it is so, where it was heard by ear.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        sure: Option<f64>,
    },
    /// Every note of the play test was played.
    PlayedThrough,
    /// The strings were stretched, and the worst of them fell by so many cents.
    Stretched {
        /// How far.
        cents: f64,
    },
    /// A fret was pressed with a stick where a string crosses it.
    Pressed {
        /// Where.
        note: Note,
        /// Whether it gives: it is loose, not high.
        moves: bool,
    },
    /// A straightedge laid along a string rests on two frets, and a blade goes under it over a third.
    Edged {
        /// Over which fret, under which string.
        note: Note,
        /// It rests on this fret near the nut.
        low: u8,
        /// It rests on this fret near the body.
        high: u8,
        /// What goes under it.
        gap: Measurement,
    },
    /// A string has worn a groove into a fret.
    Worn {
        /// Where.
        note: Note,
        /// How deep.
        depth: Measurement,
    },
    /// The lowest crown of the board.
    Crown {
        /// From the board to its top.
        height: Measurement,
    },
    /// Frets were worked on.
    Fretwork {
        /// How.
        work: Fretwork,
        /// Which fret, where it was one.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        fret: Option<u8>,
        /// What went where most went, where it was measured.
        #[serde(default, skip_serializing_if = "Option::is_none")]
        taken: Option<Measurement>,
    },
    /// How damp the room is.
    Humidity {
        /// Relative humidity, per cent.
        percent: f64,
    },
    /// What pitches are read with from here on.
    Tuner {
        /// Which.
        tuner: Tuner,
    },
    /// Something of a practice bench.
    Practised {
        /// What.
        what: Practised,
    },
}
