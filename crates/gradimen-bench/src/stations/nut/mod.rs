//! The nut station: what is left to file in every slot, on the neck and at the heights to come.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/seven-string-heights.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let slot = plan.nut.slot_of(1).ok_or("string 1 has its slot")?;
//! assert!(slot.lever(&known) > 0.5, "most of a slot's depth shows at fret 1");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::clearance::Pluck;
use gradimen_core::intonation::Heights;
use gradimen_core::quantity::{Cents, Estimate, Length, Turns};
use gradimen_core::units::LengthUnit;

use crate::decision::Finish;
use crate::decision::{
    Action, CLOSED, Decision, Expectation, Expected, Judged, Mark, Move, Quantity, Rule, Station,
    StationId, Stop, Sum, Task, mark_of, settled,
};
use crate::estimate::Estimate as Known;
use crate::estimate::state::State;
use crate::finding::Finding;
use crate::model::instrument::NutKind;
use crate::model::{Adjuster, Amount, Measurement, Place, StringSet, Targets};
use crate::stations::clearance;

/// What a pass with the file leaves standing, a thousandth of an inch: it cannot be put back
/// (common practice). Less than the tolerance, so that mostly one pass will do.
pub const FILE_MARGIN: Length = Length::from_mm(0.03);

/// Share of a deep cut that is left for a second pass: a file by hand does not go to a tenth of what was meant, and what
/// it took too much cannot be put back (common practice: short of it, measure, and again).
const FILE_SHORT: f64 = 0.25;

/// One pass takes no more (common practice), and one of less than this is a stroke that nobody controls.
const MOST_PASS: Length = Length::from_mm(0.1);
const LEAST_PASS: Length = Length::from_mm(0.015);

/// Fret 1 may play so sharp with the 12th right; beyond it chords low on the board are heard to be out (from memory; common
/// practice says a few cents, and a gap of .020 makes two to five).
const CEILING: Cents = Cents::new(7.0);

/// One slot.
#[derive(Debug, Clone, PartialEq)]
pub struct NutString {
    /// Which string.
    pub string: u8,
    /// The gap over fret 1.
    pub quantity: Quantity,
    /// What to do.
    pub action: Action,
    /// All that is to come off, where something is.
    pub total: Length,
    /// It is not filed as far as its target asks: lower, the open string touches at this player's hardest stroke.
    pub at_its_floor: bool,
    /// How far it may still come down before that.
    room: Option<Length>,
    /// Height of the slot when the plan is done.
    filed: Length,
}

/// A slot that was read and is right with so much certainty is let be (from memory).
const LET_BE: f64 = 0.95;

/// The odds with which a slot is let be: unread it has to be right beyond doubt.
fn let_be(quantity: &Quantity) -> f64 {
    if quantity.last.is_none() {
        CLOSED
    } else {
        LET_BE
    }
}

/// The nut station.
#[derive(Debug, Clone, PartialEq)]
pub struct NutPlan {
    /// Slot by slot.
    pub strings: Vec<NutString>,
    /// Whether it is a locking nut, which moves as one.
    pub as_one: bool,
}

/// Whether the action has to be known before a slot can be judged.
pub fn awaits_action(places: &[Place]) -> bool {
    places
        .iter()
        .any(|place| matches!(place, Place::Action { .. }))
}

/// A slot that has been filed is let alone for the last thousandth that a pass leaves standing.
fn slack(state: &State, string: u8) -> Length {
    if state.filed[state.index(string)] {
        FILE_MARGIN
    } else {
        Length::ZERO
    }
}

/// How low a slot may be, as the target's method shows it: no further below its target than this share of it, or its
/// tolerance. Less than usual is a choice (common practice: down to .014 open where .020 is usual).
fn low_side(target: Length, tolerance: Length) -> Length {
    tolerance.max(target * LOW_IS_CHOSEN)
}

/// ... so that at two fifths of the target a slot is too low.
const LOW_IS_CHOSEN: f64 = 0.6;

/// Works the station out, and files the slots of the finished state `end`.
pub(crate) fn plan(known: &Known, targets: &Targets, rule: Rule, end: &mut Finish) -> NutPlan {
    let state = known.state();
    let as_one = known.instrument().locking_nut;
    let mut strings = Vec::new();
    let mut ends = Vec::new();
    let stroke = clearance::hardest_stroke(known);
    for string in 1..=known.instrument().strings {
        let index = state.index(string);
        let share = state.share(index);
        let target = targets.nut(string, share);
        let height = targets.action(string, share).value;
        let over = Place::Action {
            string,
            fret: targets.action_fret,
            held: 0,
        };
        let high = target.tolerance + slack(state, string);
        let allowed = (low_side(target.value, target.tolerance), high);
        let quantity = Quantity::allowing(state, target, allowed);
        // With the saddle following, so much of a slot's depth shows over fret 1.
        let own = state.nut_lever(string, targets.nut_held);
        let (at, crown) = (state.at.nut(index), state.at.crown(index));
        let follow = {
            let lever = |x: usize, place| {
                state
                    .sight(place)
                    .map_or(0.0, |sight: crate::estimate::state::Sight| sight.slope[x])
            };
            let saddle = lever(crown, over);
            if saddle == 0.0 {
                0.0
            } else {
                -lever(at, over) / saddle * lever(crown, target.place)
            }
        };
        let lever = own + follow;
        let mut laid = end.clone();
        let rises = state.lever_of(string, targets.action_fret);
        laid.x[crown] += (height - state.look(over, &laid.x, &laid.lie)).mm() / rises;
        let off = (state.look(target.place, &laid.x, &laid.lie) - target.value).mm();
        // What may be filed: no more than is too high already, nor than will be once the saddle is set. A slot that is right
        // under a low string is not filed for a saddle that has yet to come up.
        let standing = quantity.off().mm() / own;
        let to_file = (off / lever).min(standing);
        let off = if off > 0.0 {
            to_file.max(0.0)
        } else {
            (off / lever).max(standing.min(0.0))
        };
        ends.push((at, off, action_first(known, targets, over)));
        strings.push(NutString {
            string,
            action: Action::Leave,
            total: Length::ZERO,
            quantity,
            at_its_floor: false,
            room: room(known, &stroke, string, &laid),
            filed: Length::ZERO,
        });
    }
    if as_one && !ends.is_empty() {
        let mean = ends.iter().map(|(_, off, _)| off).sum::<f64>() / ends.len() as f64;
        ends.iter_mut().for_each(|(_, off, _)| *off = mean);
        shimmed(known, targets, rule, &mut strings, &ends, end);
        return NutPlan { strings, as_one };
    }
    if known.instrument().construction.nut == NutKind::ZeroFret {
        zero_fret(known, targets, rule, &mut strings, &ends);
        return NutPlan { strings, as_one };
    }
    for (string, (at, off, action_first)) in strings.iter_mut().zip(ends) {
        let quantity = &string.quantity;
        // Judged by what its depth shows over fret 1.
        let shown = off * state.nut_lever(string.string, targets.nut_held);
        let judged = Judged {
            // A slot is never filed unread, and not let be unread either while it may well be out; one that was read is
            // not chased beyond this.
            closed: let_be(quantity),
            ..quantity.judged(Length::from_mm(shown))
        };
        let tolerated = quantity.allowed.1.mm();
        string.action = match judged.decide(rule) {
            Decision::Measure => Action::Measure(vec![quantity.place]),
            Decision::Leave => Action::Leave,
            Decision::Move if off > 0.0 && action_first.is_some() => {
                Action::Measure(action_first.into_iter().collect())
            }
            // What is filed cannot be put back: it is more likely too high than not, and every pass leaves twice the width of
            // what was read. A slot that was filed is not let be at its edge: the last pass fell short on purpose.
            Decision::Move if shown > 0.0 => {
                let again = judged.fresh == 0 || (shown <= tolerated && judged.can_tell());
                if again {
                    // What the file took is not known by what was meant.
                    Action::Measure(vec![quantity.place])
                } else if shown > tolerated || state.filed[state.index(string.string)] {
                    let wanted = Length::from_mm(off);
                    string.total = string.room.map_or(wanted, |room| wanted.min(room));
                    string.at_its_floor = string.total < wanted;
                    let doubt = quantity.now.sigma * (2.0 * off / shown);
                    let action = file(string.string, string.total, doubt);
                    if action.next_move().is_some() {
                        end.x[at] -= string.total.mm();
                    } else {
                        string.total = Length::ZERO;
                    }
                    action
                } else {
                    Action::Leave
                }
            }
            // A nut is condemned by a reading of its slot alone, never by what other readings make probable.
            Decision::Move if quantity.last.is_none() => Action::Measure(vec![quantity.place]),
            Decision::Move if action_first.is_some() => {
                Action::Measure(action_first.into_iter().collect())
            }
            Decision::Move if -shown - quantity.now.sigma.mm() > quantity.allowed.0.mm() => {
                Action::Stop(Stop::TooLow {
                    by: Length::from_mm(-off),
                })
            }
            Decision::Move => Action::Leave,
        };
    }
    NutPlan { strings, as_one }
}

/// How far a slot may come down: as the string lies now, and as it will lie. What touches already is not filed in the hope
/// that it is raised.
fn room(known: &Known, stroke: &Pluck, string: u8, laid: &Finish) -> Option<Length> {
    let state = known.state();
    let will = state.line_in(string, &laid.x, &laid.lie);
    let now = clearance::open_room(known, stroke, string, &state.line(string))?;
    Some(now.min(clearance::open_room(known, stroke, string, &will)?))
}

/// A zero fret carries the strings, the nut only guides them: nothing is filed, and what is off is said (common practice).
fn zero_fret(
    known: &Known,
    targets: &Targets,
    rule: Rule,
    strings: &mut [NutString],
    ends: &[(usize, f64, Option<Place>)],
) {
    let state = known.state();
    for (string, (_, off, action_first)) in strings.iter_mut().zip(ends) {
        let shown = off * state.nut_lever(string.string, targets.nut_held);
        let judged = string.quantity.judged(Length::from_mm(shown));
        string.action = match (judged.decide(rule), action_first) {
            (Decision::Leave, _) => Action::Leave,
            (Decision::Measure, _) => Action::Measure(vec![string.quantity.place]),
            (Decision::Move, _) if string.quantity.last.is_none() => {
                Action::Measure(vec![string.quantity.place])
            }
            (Decision::Move, Some(first)) => Action::Measure(vec![*first]),
            (Decision::Move, None) => Action::Stop(Stop::ZeroFret {
                by: Length::from_mm(*off),
            }),
        };
    }
}

/// A locking nut is shimmed or planed as a whole, down or up; its slots are not filed (common practice). One order for all.
fn shimmed(
    known: &Known,
    targets: &Targets,
    rule: Rule,
    strings: &mut [NutString],
    ends: &[(usize, f64, Option<Place>)],
    end: &mut Finish,
) {
    let state = known.state();
    let decisions: Vec<Decision> = strings
        .iter()
        .zip(ends)
        .map(|(string, (_, off, _))| {
            let shown = off * state.nut_lever(string.string, targets.nut_held);
            let judged = Judged {
                closed: let_be(&string.quantity),
                // A shim goes in as well as out: too low is no worse than too high.
                allowed: (
                    string.quantity.tolerance.mm(),
                    string.quantity.tolerance.mm(),
                ),
                ..string.quantity.judged(Length::from_mm(shown))
            };
            judged.decide(rule)
        })
        .collect();
    let mut needed = false;
    for ((string, decision), (_, _, action_first)) in strings.iter_mut().zip(&decisions).zip(ends) {
        let own = string.quantity.place;
        string.action = match (decision, action_first) {
            (Decision::Measure, _) => Action::Measure(vec![own]),
            // What the height of its string may be wrong by shows here too.
            (Decision::Move, Some(first)) => Action::Measure(vec![*first]),
            // What a shim did is read before there is another.
            (Decision::Move, None) if string.quantity.fresh() == 0 && !rule.assumed => {
                Action::Measure(vec![own])
            }
            _ => Action::Leave,
        };
        needed |= !string.action.is_leave();
    }
    let Some((_, mean, _)) = ends.first().copied().filter(|_| !needed) else {
        return;
    };
    let by = (mean / SHIM_STEP).round() * SHIM_STEP;
    if by == 0.0 || !decisions.contains(&Decision::Move) {
        return;
    }
    let all: StringSet = strings.iter().map(|string| string.string).collect();
    for (string, (at, ..)) in strings.iter_mut().zip(ends) {
        end.x[*at] -= by;
        string.total = Length::from_mm(by);
        // One order, seen from every string.
        string.action = Action::Adjust(Box::new(Move {
            adjuster: Adjuster::NutSlots { strings: all },
            ..slot_move(string.string, string.total, string.total)
        }));
    }
}

/// Shims come in steps of a twentieth of a millimetre (common practice: foil and card).
const SHIM_STEP: f64 = 0.05;

/// Where the action has to be measured before a slot is judged. Open, the gap at fret 1 hangs on it: a string that lies too
/// high looks like a slot to be filed, and what is filed for it cannot be put back.
fn action_first(known: &Known, targets: &Targets, over: Place) -> Option<Place> {
    let state = known.state();
    // A rule on the string has said where it lies, or nobody has; what was turned since is carried with it, well enough to
    // be judged by: a tenth of a millimetre there is a hundredth at fret 1.
    let carried = || {
        let known = state.predict(over);
        let well = known.is_ok_and(|now| now.sigma <= targets.action(1, 0.0).tolerance);
        // On a float whatever is turned moves every string: only the rule says where they lie.
        well && !state.floats()
    };
    let unread = match state.last(over) {
        None => true,
        Some(last) => last.fresh == 0 && !carried(),
    };
    let unread = unread && !state.is_assumed();
    (unread && targets.nut_held == 0).then_some(over)
}

/// The first pass: what is left standing can be taken off after reading again.
fn file(string: u8, total: Length, doubt: Length) -> Action {
    let margin = FILE_MARGIN.max(total * FILE_SHORT).max(doubt);
    let first = (total - margin).min(MOST_PASS);
    if first < LEAST_PASS {
        return Action::Leave;
    }
    Action::Adjust(Box::new(slot_move(string, first, total)))
}

fn slot_move(string: u8, off: Length, total: Length) -> Move {
    Move {
        adjuster: Adjuster::NutSlots {
            strings: StringSet::one(string),
        },
        amount: Amount::Distance {
            distance: Measurement::exact(rounded(-off), LengthUnit::Millimetre),
        },
        rotation: None,
        distance: -off,
        total: Turns::ZERO,
        rounds: 1,
        expected: Vec::new(),
        sum: Sum::Slot { total },
    }
}

/// To a thousandth of a millimetre: finer than any file.
fn rounded(length: Length) -> Length {
    Length::from_mm((length.mm() * 1000.0).round() / 1000.0)
}

impl NutPlan {
    /// What the slots will be in the finished state.
    pub(crate) fn finish(&mut self, known: &Known, end: &Finish) {
        let state = known.state();
        for string in &mut self.strings {
            let place = string.quantity.place;
            string.quantity.after = state.look(place, &end.x, &end.lie);
            string.filed = Length::from_mm(end.x[state.at.nut(state.index(string.string))]);
            let expected = Expected {
                place,
                value: Expectation::Length(Estimate::new(
                    string.quantity.after,
                    string.quantity.now.sigma,
                )),
            };
            if let Action::Adjust(step) = &mut string.action {
                step.expected = vec![expected];
            }
        }
    }

    /// The slot of a string.
    pub fn slot_of(&self, string: u8) -> Option<&NutString> {
        self.strings.iter().find(|slot| slot.string == string)
    }

    /// The string to attend to next.
    pub fn next_string(&self) -> Option<u8> {
        let rank = |string: &NutString| match string.action {
            Action::Adjust(_) => 0,
            Action::Measure(_) => 1,
            Action::Stop(_) => 2,
            Action::Leave => 3,
        };
        self.strings
            .iter()
            .filter(|string| !string.action.is_leave())
            .min_by_key(|string| rank(string))
            .map(|string| string.string)
    }
}

impl NutString {
    /// Whether its move is one of the whole nut, by a shim.
    pub fn is_shim(&self) -> bool {
        let strings = self.action.next_move().map(|step| step.adjuster);
        matches!(strings, Some(Adjuster::NutSlots { strings }) if strings.iter().count() > 1)
    }

    /// How much of a slot's depth shows in the reading.
    pub fn lever(&self, known: &Known) -> f64 {
        known
            .state()
            .nut_lever(self.string, known.targets().nut_held)
    }

    /// How sharp fret 1 plays with its saddle right: as the string lies, and with only the slot as
    /// it will be. Nothing for strings the model has no answer for.
    pub fn first_fret(&self, known: &Known) -> Option<(Cents, Cents)> {
        let state = known.state();
        let speaking = known.string_state(self.string)?.speaking;
        let index = state.index(self.string);
        let mut filed = state.mean().clone();
        filed[state.at.nut(index)] = self.filed.mm();
        let sharp = |x| {
            let (first, twelfth) = state.heights_in(index, x, state.lie());
            let speaking = speaking.with_heights(Heights::bounded(first, twelfth));
            let setback = speaking.setback_for(12, Cents::ZERO).ok()?;
            speaking.error(1, setback).ok()
        };
        Some((sharp(state.mean())?, sharp(&filed)?))
    }
}

impl Station for NutPlan {
    fn id(&self) -> StationId {
        StationId::Nut
    }

    fn tasks(&self, _: &Known) -> Vec<Task> {
        // The outer strings first: what they read says most of the inner ones.
        let last = self.strings.len().saturating_sub(1);
        let outer = self.strings.iter().step_by(last.max(1)).take(2);
        let inner = self.strings.iter().take(last).skip(1);
        // A shim under all of them is one task.
        let once = |slot: &&NutString| !slot.is_shim() || slot.string == 1;
        outer
            .chain(inner)
            .filter(once)
            .map(|slot| {
                let whole = match &slot.action {
                    Action::Adjust(step) if !slot.is_shim() => Action::Adjust(Box::new(Move {
                        rounds: 2,
                        expected: step.expected.clone(),
                        ..slot_move(slot.string, slot.total, slot.total)
                    })),
                    other => other.clone(),
                };
                Task {
                    strings: vec![slot.string],
                    next: slot.action.clone(),
                    whole,
                }
            })
            .collect()
    }

    fn findings(&self, known: &Known) -> Vec<Finding> {
        let low: Vec<(u8, Length)> = self
            .strings
            .iter()
            .filter_map(|slot| match slot.action {
                Action::Stop(Stop::TooLow { by }) => Some((slot.string, by)),
                _ => None,
            })
            .collect();
        let floor: Vec<u8> = self
            .strings
            .iter()
            .filter(|slot| slot.at_its_floor)
            .map(|slot| slot.string)
            .collect();
        let mut found = Vec::new();
        if !low.is_empty() {
            found.push(Finding::NutTooLow(low));
        }
        if !floor.is_empty() {
            found.push(Finding::NutFloor(floor));
        }
        // Of slots that are to stay so; one that is still to be read or set first is not judged yet.
        let settled = self.strings.iter().filter(|slot| {
            let waits = matches!(slot.action, Action::Measure(_) | Action::Stop(_));
            slot.quantity.last.is_some() && !waits
        });
        let sharp: Vec<(u8, Cents)> = settled
            .filter_map(|slot| {
                let (_, after) = slot.first_fret(known)?;
                (after > CEILING).then_some((slot.string, after))
            })
            .collect();
        if !sharp.is_empty() {
            found.push(Finding::NutCeiling(sharp));
        }
        found
    }

    fn mark(&self) -> Mark {
        let quantities = self.strings.iter().map(|slot| &slot.quantity);
        let left = self.strings.iter().all(|slot| slot.action.is_leave());
        settled(mark_of(quantities, false), left)
    }
}
