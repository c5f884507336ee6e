//! What a player complains of, in the player's words but countable; the lines of a check list; what is heard in the play test.
//!
//! ```
//! use gradimen_bench::model::{Complaint, Keyed, Symptom};
//!
//! let complaint = Complaint { symptoms: vec![Symptom::BuzzOpen], ..Complaint::default() };
//! assert_eq!(complaint.symptoms[0].name(), "open strings buzz");
//! assert_eq!(Symptom::from_key("buzz_open"), Some(Symptom::BuzzOpen));
//! ```

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// One word with a name in English, for choices of this module.
macro_rules! choice {
    ($(#[$doc:meta])* $name:ident { $($(#[$each:meta])* $variant:ident => $says:literal,)+ }) => {
        $(#[$doc])*
        #[derive(
            Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Hash, Serialize, Deserialize, JsonSchema,
            strum::VariantArray, strum::IntoStaticStr, strum::EnumString,
        )]
        #[serde(rename_all = "snake_case")]
        #[strum(serialize_all = "snake_case")]
        pub enum $name { $($(#[$each])* $variant,)+ }

        impl $name {
            /// Its name.
            pub const fn name(self) -> &'static str {
                match self { $(Self::$variant => $says,)+ }
            }
        }
    };
}

choice! {
    /// What a player complains of.
    Symptom {
        /// Open strings buzz.
        BuzzOpen => "open strings buzz",
        /// Buzz over the first five frets.
        BuzzLow => "buzz, frets 1 to 5",
        /// Buzz in the middle of the board.
        BuzzMiddle => "buzz, frets 6 to 12",
        /// Buzz beyond the twelfth.
        BuzzHigh => "buzz above fret 12",
        /// One note buzzes and its neighbours do not.
        BuzzOne => "one note buzzes alone",
        /// Hard on the hand.
        HardToPlay => "hard to play",
        /// Chords at the nut sound sour.
        SharpLow => "low frets play sharp",
        /// Out of tune up the neck.
        SourHigh => "out of tune up the neck",
        /// A note without life.
        DeadNotes => "dead notes",
        /// Bends die.
        ChokingBends => "bends choke",
        /// Does not stay in tune.
        WillNotStay => "will not stay in tune",
        /// Something rattles.
        Rattles => "something rattles",
        /// Crackle, cuts out.
        Crackle => "crackles or cuts out",
        /// Hum or squeal.
        Squeal => "hums or squeals",
        /// Strings run off the edge of the board.
        OffTheEdge => "strings run off the edge",
        /// Fret ends catch the hand.
        FretEnds => "fret ends are sharp",
    }
}

choice! {
    /// Where the right hand plays.
    Picks {
        /// Over the neck.
        OverTheNeck => "over the neck",
        /// Between the pickups.
        Middle => "in the middle",
        /// Near the bridge.
        NearTheBridge => "near the bridge",
    }
}

choice! {
    /// A line of the check list before and after the work.
    CheckLine {
        /// Volume and tone.
        Controls => "volume and tone, no crackle",
        /// The switch, in every position.
        Switch => "switch, every position",
        /// The output jack.
        Jack => "jack holds the plug",
        /// Hum, hands off and on.
        Hum => "hum, hands off and on",
        /// A battery.
        Battery => "battery, where there is one",
        /// Every pickup speaks.
        Pickups => "every pickup speaks",
        /// Screws and knobs.
        Screws => "screws and knobs tight",
        /// Strap buttons.
        StrapButtons => "strap buttons",
        /// Tuners.
        Tuners => "tuners and their bushings",
    }
}

choice! {
    /// How a line was found.
    Condition {
        /// Fine.
        Fine => "fine",
        /// A fault.
        Fault => "fault",
        /// Nobody looked.
        NotLooked => "not looked at",
    }
}

choice! {
    /// On which side of the work a check list is.
    Round {
        /// As it came.
        Before => "before",
        /// As it goes.
        After => "after",
    }
}

choice! {
    /// What is heard in the play test.
    Heard {
        /// A buzz against frets.
        Buzz => "buzz",
        /// A bend that dies.
        Choke => "bend chokes",
        /// A dead note.
        Dead => "dead note",
        /// Two pitches at once.
        Double => "double note",
        /// Something that is no fret.
        Rattle => "rattle, no fret",
        /// Sharp or flat.
        OutOfTune => "out of tune",
        /// It jumps in pitch while tuning, or does not come back to it.
        Jumps => "jumps, does not come back",
        /// A squeal.
        Squeal => "squeal",
    }
}

/// What a player told at the counter.
#[derive(Debug, Clone, Default, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Complaint {
    /// Of the list.
    pub symptoms: Vec<Symptom>,
    /// In the player's own words.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub words: String,
    /// What the player likes as it is.
    #[serde(default, skip_serializing_if = "String::is_empty")]
    pub liked: String,
    /// Where the right hand plays.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub picks: Option<Picks>,
}

/// A note of the play test: fret 0 is the open string.
#[derive(
    Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema,
)]
#[serde(deny_unknown_fields)]
pub struct Note {
    /// Which string.
    pub string: u8,
    /// Held at this fret.
    pub fret: u8,
}
