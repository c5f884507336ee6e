//! In which order, and how far off, the strings are tuned after the claw was turned, so that all land.

use gradimen_core::quantity::{Angle, Cents, Length};
use gradimen_core::vibrato::{Held, Hooked};

use super::BalancePlan;
use crate::decision::Action;
use crate::estimate::Estimate as Known;
use crate::estimate::balance::Balance;
use crate::journal::Event;
use crate::model::{Adjuster, Place};

/// A plate this near to the body may touch it on the way (from memory).
const CLEAR: Length = Length::from_mm(0.3);

/// No string is tuned sharper than this on the way: a bend of a whole step takes it further (common practice), and beyond
/// that it may break. The claw is then turned, and the strings are brought up, in smaller steps.
const MOST_SHARP: Cents = Cents::new(150.0);

/// Thickest string first: it moves the plate most, and what comes after it has the finer pegs to land with (common
/// practice).
pub(super) fn landing(
    plan: &BalancePlan,
    known: &Known,
    balance: &Balance,
    strings: &[Held],
) -> Vec<(u8, Cents)> {
    let Some((from, to, springs)) = ways(plan, known, balance) else {
        return Vec::new();
    };
    let mut order: Vec<(u8, Held)> = (1..).zip(strings.iter().copied()).collect();
    order.reverse();
    let held: Vec<Held> = order.iter().map(|(_, held)| *held).collect();
    let offs = balance.plate.landing((from, to), &springs, &held);
    let offs = offs.unwrap_or_default();
    if offs.iter().any(|off| *off > MOST_SHARP) {
        return Vec::new();
    }
    order
        .iter()
        .zip(offs)
        .map(|((string, _), off)| (*string, off))
        .collect()
}

impl BalancePlan {
    /// The strings as they are tuned now, each so far off its pitch, so that all land; nothing while the claw is still to be turned, for
    /// from there no string lands.
    pub fn lands_now(&self) -> &[(u8, Cents)] {
        if self.next_move().is_some() {
            return &[];
        }
        &self.landing
    }
}

/// Whether nothing but the claw was turned since the gap was read.
fn only_the_claw(known: &Known) -> bool {
    let since = known.facts().iter().rev().map(|entry| &entry.event);
    let since = since.take_while(|event| {
        !matches!(
            event,
            Event::Read {
                place: Place::Gap,
                ..
            }
        )
    });
    let mut turned =
        since.filter(|event| matches!(event, Event::Adjusted { .. } | Event::Restrung { .. }));
    let claw = |event: &Event| {
        matches!(
            event,
            Event::Adjusted {
                adjuster: Adjuster::Claw,
                ..
            }
        )
    };
    turned.next().is_some_and(claw) && turned.all(claw)
}

/// From where to where the plate goes, and its springs as they will be: before the turn that is asked for, or after the
/// one that was made and not read yet.
fn ways(
    plan: &BalancePlan,
    known: &Known,
    balance: &Balance,
) -> Option<(Angle, Angle, Vec<Hooked>)> {
    if !balance.has_claw() {
        return None;
    }
    let (from, to, springs) = match &plan.action {
        Action::Adjust(step) if step.adjuster == Adjuster::Claw && !plan.teaches(step) => {
            let after = step.expected.first()?.value.length()?.value;
            let to = balance.angle_of(after);
            let further = balance
                .plate
                .claw_for(balance.pull, &balance.springs, to)
                .ok()?;
            let springs = balance.springs.iter().map(|hooked| Hooked {
                claw_in: hooked.claw_in + further,
                ..*hooked
            });
            (plan.now.value, after, springs.collect())
        }
        Action::Measure(_) if known.gap_reads() == 0 && only_the_claw(known) => {
            let unsure = plan.now.sigma > plan.tolerance * super::LOST;
            let before = plan.last_gap.filter(|_| !unsure)?;
            (before, plan.now.value, balance.springs.clone())
        }
        _ => return None,
    };
    let floats = from > CLEAR && to > CLEAR;
    floats.then(|| (balance.angle_of(from), balance.angle_of(to), springs))
}
