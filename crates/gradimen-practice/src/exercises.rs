//! The graded exercises, and what each teaches.

use gradimen_bench::model::{Difficulty, Hints, PracticeFault as Fault};

use crate::order::{Like, Order};

/// One of them.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct Exercise {
    /// Its word in documents and addresses.
    pub key: &'static str,
    /// Its name.
    pub name: &'static str,
    /// What it teaches.
    pub teaches: &'static str,
    /// What its owner says of it, where the name would give away what is to be found.
    complaint: Option<&'static str>,
    /// The kind of instrument.
    pub kind: &'static str,
    /// What is wrong with it.
    pub faults: &'static [Fault],
    /// How far off it comes.
    pub difficulty: Difficulty,
    /// Chances that make an instrument for it on which the plan leaves nothing undone (`examples/variants.rs`).
    variants: [u64; VARIANTS],
}

/// Said in place of what an exercise teaches, where that would give it away.
const UNTOLD: &str =
    "What its owner says. What it is and what it teaches is told once it is handed in.";

/// So many instruments there are for each.
pub const VARIANTS: usize = 4;

/// From the first saddle to what no screw puts right.
pub const ALL: [Exercise; 12] = [
    Exercise {
        key: "first_intonation",
        name: "First intonation",
        teaches: "A note that is sharp goes back, a flat one forward; every saddle once, for what a turn does is known after the first.",
        complaint: None,
        kind: "fixed plate",
        faults: &[Fault::Saddles],
        difficulty: Difficulty::Easy,
        variants: [1, 2, 3, 4],
    },
    Exercise {
        key: "season",
        name: "A bass at the season's turn",
        teaches: "Damp air bends a neck, and the strings come up with it: the rod first, a minute's rest, and only then a look at the heights.",
        complaint: None,
        kind: "bass of four",
        faults: &[Fault::Relief],
        difficulty: Difficulty::Easy,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "nut_slots",
        name: "Slots that were never cut down",
        teaches: "A file takes away and does not give back: pass by pass, read after each, and stop a little short.",
        complaint: None,
        kind: "fixed plate",
        faults: &[Fault::Nut],
        difficulty: Difficulty::Easy,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "whole_setup",
        name: "A whole setup, in order",
        teaches: "Rod, slots, heights, saddles, pickups: each moves what comes after it, so that none is set before its turn.",
        complaint: None,
        kind: "fixed plate",
        faults: &[Fault::Relief, Fault::Action, Fault::Saddles, Fault::Pickups],
        difficulty: Difficulty::Usual,
        variants: [0, 1, 3, 4],
    },
    Exercise {
        key: "two_posts",
        name: "Two posts",
        teaches: "Two screws carry all strings, and each lifts the other side a little: both are worked out together, not one after the other.",
        complaint: None,
        kind: "two posts",
        faults: &[Fault::Action, Fault::Saddles],
        difficulty: Difficulty::Usual,
        variants: [2, 3, 4, 5],
    },
    Exercise {
        key: "barrels",
        name: "Three barrels",
        teaches: "Two strings share a saddle, and neither comes right alone: the mean of both is what can be had.",
        complaint: None,
        kind: "three barrels",
        faults: &[Fault::Saddles, Fault::Action],
        difficulty: Difficulty::Usual,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "float_after_gauge",
        name: "A float after heavier strings",
        teaches: "Heavier strings pull a plate up: claw first, then every string in an order in which all of them land.",
        complaint: None,
        kind: "level float on posts",
        faults: &[Fault::Gauge],
        difficulty: Difficulty::Usual,
        variants: [5, 0, 9, 1],
    },
    Exercise {
        key: "high_fret",
        name: "A high fret",
        teaches: "Where it buzzed is one fret before what stands high: a few rocks there, the stick, and the file only where both say so.",
        complaint: Some("It buzzes where it is played most"),
        kind: "fixed plate",
        faults: &[Fault::HighFret],
        difficulty: Difficulty::Easy,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "loose_fret",
        name: "A fret that was only loose",
        teaches: "It rocks like a high one: the stick tells them apart, and what is filed while it stands up is a dip once it sits.",
        complaint: Some("Since the winter it buzzes in one place"),
        kind: "fixed plate",
        faults: &[Fault::LooseFret],
        difficulty: Difficulty::Easy,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "spent_rod",
        name: "A rod with nothing left",
        teaches: "A quarter turn by hand before it is relied on: where it does not go, nothing behind it is worth setting to these targets.",
        complaint: Some("A bass that lies too high"),
        kind: "bass of four",
        faults: &[Fault::RodSpent],
        difficulty: Difficulty::Usual,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "wound_neck",
        name: "A wound neck",
        teaches: "Read both sides: a rod bends both alike, and what lies between them no turn takes away.",
        complaint: Some("Buzzing on one side, high on the other"),
        kind: "fixed plate",
        faults: &[Fault::Wound],
        difficulty: Difficulty::Usual,
        variants: [0, 1, 2, 3],
    },
    Exercise {
        key: "foreign_neck",
        name: "A foreign neck",
        teaches: "Two lengths by a rule before the first saddle: frets of another scale are in tune nowhere, however long one turns.",
        complaint: Some("In tune open, and nowhere else"),
        kind: "fixed plate",
        faults: &[Fault::ForeignNeck, Fault::Saddles],
        difficulty: Difficulty::Usual,
        variants: [0, 1, 2, 3],
    },
];

/// The one of that word.
pub fn of(key: &str) -> Option<&'static Exercise> {
    ALL.iter().find(|exercise| exercise.key == key)
}

impl Exercise {
    /// What it is called, and what is said of what it teaches; `found` is whether it was handed in before, so that nothing is given away any more.
    pub fn told(&self, found: bool) -> (&'static str, &'static str) {
        match self.complaint {
            Some(complaint) if !found => (complaint, UNTOLD),
            _ => (self.name, self.teaches),
        }
    }

    /// One of its instruments, for the so many-th time that it is practised.
    pub fn again(&self, times: usize, hints: Hints) -> Order {
        self.order(self.variants[times % VARIANTS], hints)
    }

    /// An instrument for it, of any chance.
    pub fn order(&self, seed: u64, hints: Hints) -> Order {
        Order {
            exercise: Some(self.key.to_owned()),
            like: Like::Kind(self.kind.to_owned()),
            faults: self.faults.to_vec(),
            difficulty: self.difficulty,
            hints,
            seed,
        }
    }
}
