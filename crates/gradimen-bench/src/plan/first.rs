//! Before the first screw: a few quick checks that could make the job impossible, and what they found.
//!
//! At most six, each a minute's work with a rule or a key, each to be skipped at will: a check that was skipped leaves
//! its question to the readings that come later. They are asked for until something is turned.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! // Something was turned already: it is too late for first checks.
//! assert!(Plan::of(&known).first.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;

use crate::decision::Rule;
use crate::estimate::Estimate;
use crate::finding::Finding;
use crate::journal::Event;
use crate::model::hardware::VibratoKind;
use crate::model::{End, Place, RodFeel, Side, Targets};
use crate::stations::relief;

/// Checks there are at most (a sheet that is longer is not read).
pub const MOST: usize = 6;
/// A finding that stops needs so many standard deviations.
const TWO_SIGMA: f64 = 2.0;
/// A nut is tried by so much.
const TRIED: f64 = 0.25;
/// A rod that has less than this left is hard whatever was felt.
const NOTHING_LEFT: f64 = 0.05;

/// What a check would tell.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Subject {
    /// Nut to fret 12 and fret 12 to saddle, on the outer strings: scale, foreign neck, place of the bridge.
    Scale,
    /// Room behind the outer saddles.
    Room,
    /// Whether the rod's nut turns, and how far it still goes.
    Rod,
    /// Relief on both sides: a wound neck.
    Relief,
    /// The claw's ends.
    Claw,
    /// A rocker where something buzzed.
    Frets,
}

/// One quick check.
#[derive(Debug, Clone, PartialEq)]
pub struct Check {
    /// What it would tell.
    pub subject: Subject,
    /// What is still to be read for it.
    pub places: Vec<Place>,
}

fn anything_turned(known: &Estimate) -> bool {
    let mut facts = known.facts().iter();
    facts.any(|entry| matches!(entry.event, Event::Adjusted { .. }))
}

/// The checks that were not made yet; none once anything was turned.
pub(crate) fn checks(known: &Estimate, rule: Rule) -> Vec<Check> {
    if rule.assumed || anything_turned(known) {
        return Vec::new();
    }
    let instrument = known.instrument();
    let read = |place: Place| {
        let mut facts = known.facts().iter();
        facts.any(
            |entry| matches!(&entry.event, Event::Read { place: at, .. } if at.any_method() == place.any_method()),
        )
    };
    let outer = [1, instrument.strings];
    let span = known.targets().relief_span;
    let scale = outer
        .iter()
        .map(|&string| Place::Scale { string })
        .chain(outer.iter().map(|&string| Place::Saddle { string }))
        .collect();
    let mut found = vec![
        (Subject::Scale, scale),
        (
            Subject::Room,
            outer.map(|string| Place::Room { string }).to_vec(),
        ),
        (Subject::Rod, vec![Place::RodCheck]),
        (
            Subject::Relief,
            Side::ALL.map(|side| Place::Relief { side, span }).to_vec(),
        ),
    ];
    let vibrato = instrument.bridge.vibrato.as_ref();
    if vibrato.is_some_and(|record| record.kind == VibratoKind::BodySprings) {
        found.push((Subject::Claw, vec![Place::ClawEnds]));
    }
    let rocks: Vec<Place> = known
        .buzzes()
        .iter()
        .filter(|buzz| buzz.held + 2 < instrument.frets)
        .map(|buzz| Place::Rock {
            string: buzz.string,
            fret: (buzz.held + 1).max(2),
        })
        .take(MOST)
        .collect();
    if !rocks.is_empty() {
        found.push((Subject::Frets, rocks));
    }
    // Where the rule says that a saddle may not reach and is not sure of it, the note itself is: it is played first.
    for (subject, places) in &mut found {
        if *subject == Subject::Room {
            let unsure = beyond(known).into_iter().filter(|end| end.by <= end.doubt);
            places.extend(unsure.map(|end| Place::Intonation {
                string: end.string,
                fret: 12,
            }));
        }
    }
    found
        .into_iter()
        .map(|(subject, places)| Check {
            subject,
            places: places.into_iter().filter(|place| !read(*place)).collect(),
        })
        .filter(|check| !check.places.is_empty())
        .take(MOST)
        .collect()
}

/// What makes the job impossible, by what was read: nothing is turned before it is settled.
pub(crate) fn verdict(known: &Estimate, targets: &Targets) -> Vec<Finding> {
    let mut found = Vec::new();
    found.extend(foreign_neck(known));
    if found.is_empty() {
        found.extend(bridge_place(known));
    }
    found.extend(rod_spent(known, targets));
    found.extend(relief::wound(known, targets));
    found
}

/// Frets of another scale than the bridge stands for, unless the saddles reach all the same.
fn foreign_neck(known: &Estimate) -> Option<Finding> {
    let checks = crate::stations::intonation::scale_checks(known);
    let off = checks.into_iter().find(|check| !check.agrees)?;
    (!reaches_all(known)).then_some(Finding::Scale(off))
}

/// Whether every saddle surely reaches its place.
fn reaches_all(known: &Estimate) -> bool {
    let saddles = known.known_saddles().iter().flatten();
    let mut strings = saddles.flat_map(|saddle| &saddle.strings);
    strings.all(|string| string.left.value > string.left.sigma * TWO_SIGMA)
}

/// A saddle that may not reach its place: by how much, negative at its front end, and the doubt of that.
struct Beyond {
    string: u8,
    by: Length,
    behind: bool,
    doubt: Length,
}

/// The saddles that may not reach, by a rule behind the outer ones.
fn beyond(known: &Estimate) -> Vec<Beyond> {
    let saddles = known.known_saddles().iter().flatten();
    let read = saddles.filter(|saddle| saddle.room_read && saddle.measured.is_some());
    read.flat_map(|saddle| {
        saddle.strings.iter().filter_map(|string| {
            let behind = -string.left.value;
            let front = saddle.nearest - string.ideal.value;
            let by = behind.max(front);
            (by > Length::ZERO).then_some(Beyond {
                string: string.string,
                by,
                behind: behind > front,
                doubt: string.left.sigma * TWO_SIGMA,
            })
        })
    })
    .collect()
}

/// A bridge that stands where its saddles surely cannot reach their places. Once the work has begun, one saddle that is
/// short stops itself alone: turned round or without its spring it may reach yet.
fn bridge_place(known: &Estimate) -> Option<Finding> {
    let mut short = beyond(known);
    short.retain(|end| end.by > end.doubt);
    if short.len() == 1 && anything_turned(known) {
        return None;
    }
    let worst = short
        .iter()
        .max_by(|a, b| a.by.mm().total_cmp(&b.by.mm()))?;
    if known.is_pulled_up() {
        return None;
    }
    Some(Finding::BridgePlace {
        by: if worst.behind { worst.by } else { -worst.by },
        strings: short.iter().map(|end| end.string).collect(),
    })
}

/// A rod that has less left than the neck needs, whatever it gives a turn.
fn rod_spent(known: &Estimate, targets: &Targets) -> Option<Finding> {
    let (left, how) = known.rod_check()?;
    let need = relief::need(known, targets)?;
    let hard = how == RodFeel::Hard || left < NOTHING_LEFT;
    let least = need.turns * (-TWO_SIGMA * need.doubt).exp();
    // Who feels a nut with a key tries a quarter turn and no more: that much is no end.
    let ends = left < TRIED && least > left;
    let spent = need.surely && least > 0.0 && (hard || ends);
    spent.then_some(Finding::RodSpent {
        needed: true,
        how: if hard { End::Hard } else { End::Bottom },
    })
}
