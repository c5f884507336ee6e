//! Poles and levels, string by string.

use gradimen_bench::text::next::pickups;
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;

use crate::components::Choice;
use crate::vocabulary::*;
use crate::words::{self, note};

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
    let level = known.louder?;
    let [louder, further] = pickups::louder(&level);
    Some(LevelRow {
        name: known.name.clone(),
        level: format!("{} dB", print::signed(level.level.decibels(), 1)),
        louder,
        further,
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
                gap: words::in_unit(pole.gap, 2),
                proud: proud(pole.protrudes),
                follows: proud(pole.follows),
                louder: format!("{} dB", print::signed(pole.louder.decibels(), 1)),
                action: pickups::pole_in_short(pole),
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
