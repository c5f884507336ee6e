//! Poles and levels, string by string.

use crate::vocabulary::*;
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;

use crate::pages::Choice;
use crate::pages::setup::note;
use crate::words;

pub(super) struct PoleLine {
    pub(super) string: u8,
    pub(super) note: String,
    pub(super) read: String,
    pub(super) gap: String,
    pub(super) proud: String,
    pub(super) follows: String,
    pub(super) louder: String,
    pub(super) action: String,
    pub(super) turns: String,
    pub(super) way: &'static str,
}

pub(super) struct LevelRow {
    pub(super) name: String,
    pub(super) level: String,
    pub(super) louder: String,
    pub(super) further: String,
}

pub(super) fn level_row(known: &PickupPlan) -> Option<LevelRow> {
    let LevelDifference {
        level,
        by,
        further,
        equal,
        fitted,
    } = known.louder?;
    Some(LevelRow {
        name: known.name.clone(),
        level: format!("{} dB", print::signed(level.decibels(), 1)),
        louder: if by.decibels() < 0.05 {
            "the quietest".to_owned()
        } else {
            format!("{:.1} dB louder", by.decibels())
        },
        further: if equal {
            "as loud, to the ear".to_owned()
        } else {
            format!(
                "{} mm further off on both sides, by {} fall-off",
                words::mm(further, 1),
                if fitted { "its own" } else { "the usual" }
            )
        },
    })
}

/// Pole by pole of the pickup in hand.
pub(super) fn pole_lines(job: &Known, known: &PickupPlan) -> Vec<PoleLine> {
    let proud = |height: Length| print::signed(height.mm(), 2);
    known
        .poles
        .iter()
        .map(|pole| {
            let turns = pole.action.next_move().map_or(Turns::ZERO, Move::turns);
            let nearer = turns > Turns::ZERO;
            PoleLine {
                string: pole.string,
                note: note(job, pole.string),
                read: pole.read.written.clone(),
                gap: words::mm(pole.gap, 2),
                proud: proud(pole.protrudes),
                follows: proud(pole.follows),
                louder: format!("{} dB", print::signed(pole.louder.decibels(), 1)),
                action: match &pole.action {
                    _ if pole.stale => "measure again".to_owned(),
                    _ if !pole.screw => "fixed".to_owned(),
                    Action::Adjust(_) => format!(
                        "{} {}",
                        if nearer { "raise" } else { "lower" },
                        words::turns(turns)
                    ),
                    _ => "leave".to_owned(),
                },
                turns: if turns == Turns::ZERO || pole.stale {
                    String::new()
                } else {
                    turns.abs().value().to_string()
                },
                way: if nearer { "nearer" } else { "away" },
            }
        })
        .collect()
}

/// The strings, the first that has no pole read chosen.
pub(super) fn pole_strings(job: &Known, plan: &Plan, pickup: usize) -> Vec<Choice> {
    let read = |string: u8| {
        plan.pickups
            .pickups
            .get(pickup)
            .is_some_and(|known| known.poles.iter().any(|pole| pole.string == string))
    };
    let next = (1..=job.instrument().strings).find(|string| !read(*string));
    (1..=job.instrument().strings)
        .map(|string| {
            let label = format!("{string} {}", note(job, string));
            Choice::of(&string.to_string(), &label, Some(string) == next)
        })
        .collect()
}

/// How a pickup hears its strings against one another.
pub(super) fn across_line(known: &PickupPlan) -> Option<String> {
    let across = known.across.as_ref()?;
    let louder = across.treble_louder.decibels();
    let side = if louder > 0.0 { "treble" } else { "bass" };
    let mut line = if across.equal {
        format!("{}: as loud on both sides, to the ear", known.name)
    } else {
        let [treble, bass] = across.further.map(|further| {
            format!(
                "{} mm {}",
                words::mm(further.abs(), 1),
                if further > Length::ZERO {
                    "further off"
                } else {
                    "nearer"
                }
            )
        });
        format!(
            "{}: the {side} side {:.1} dB louder; even with the treble side {treble}, the bass side {bass}",
            known.name,
            louder.abs()
        )
    };
    if !across.odd.is_empty() {
        let odd: Vec<String> = across
            .odd
            .iter()
            .map(|(string, off)| format!("{string} by {} dB", print::signed(off.decibels(), 1)))
            .collect();
        line += &format!(
            "; out of that line: string {}, a matter of its pole piece",
            odd.join(", ")
        );
    }
    Some(line + ".")
}
