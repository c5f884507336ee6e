//! What is found about neck, nut and heights.

use gradimen_core::quantity::{Force, Length, Rate};
use gradimen_core::units::print;

use super::Severity;
use crate::balance::{BalanceAction, BalancePlan};
use crate::event::{HeightEnd, RodStop, Side};
use crate::hardware::VibratoKind;
use crate::instrument::Kind;
use crate::job::Job;
use crate::setup::{HeightAction, NeckFault, NutAction, PickupAction, SetupPlan};

/// Something about neck, nut or heights.
#[derive(Debug, Clone, PartialEq)]
pub enum SetupFinding {
    /// The neck.
    Neck(NeckFault),
    /// Slots are too low: which strings, and by how much over fret 1.
    NutTooLow(Vec<(u8, Length)>),
    /// An adjuster of height is at its end.
    HeightSpent {
        /// Which, in words.
        adjuster: String,
        /// A string it carries.
        string: u8,
        /// Which end.
        end: HeightEnd,
        /// How far it would have to go on.
        short_by: Length,
        /// A wedge that helps.
        wedge: Option<Length>,
        /// A full shim that helps.
        shim: Option<Length>,
    },
    /// Pickups so near that their magnets pull on the strings: which, in words.
    TooNear(Vec<String>),
    /// The springs of a vibrato cannot hold it where it is wanted; so many could.
    Springs {
        /// How many are on.
        on: u8,
        /// How many could.
        wanted: Option<u8>,
    },
    /// A plate that is pulled far up at rest.
    PulledUp(Length),
    /// The claw would stand at its wall or out of its thread, or a seat beyond its travel.
    ClawSpent {
        /// How far it would have to go; positive makes the springs stronger.
        by: Length,
        /// Whether that is a claw.
        claw: bool,
        /// The rate of a spring that would do where it stands.
        rate: Option<Rate>,
    },
    /// A float that would run away where it is wanted.
    RunsAway,
    /// A spring hangs loose, or is stretched to twice its length and more.
    SpringsAtEnd {
        /// Whether it hangs loose.
        loose: bool,
    },
    /// A side of a pickup is at its end.
    PickupSpent {
        /// Which, in words.
        which: String,
        /// Which end.
        end: HeightEnd,
        /// How far it would have to go on.
        short_by: Length,
    },
    /// A long neck that has to be tightened far: off load.
    OffLoad,
}

impl SetupFinding {
    pub(super) const fn severity(&self) -> Severity {
        match self {
            Self::Neck(NeckFault::Twist { .. } | NeckFault::RodSpent(_))
            | Self::HeightSpent { .. } => Severity::Stop,
            Self::Neck(NeckFault::TrebleMore { .. } | NeckFault::BackBow) | Self::NutTooLow(_) => {
                Severity::Warning
            }
            Self::TooNear(_)
            | Self::PulledUp(_)
            | Self::RunsAway
            | Self::SpringsAtEnd { .. }
            | Self::PickupSpent { .. } => Severity::Warning,
            Self::Springs { .. } | Self::ClawSpent { .. } => Severity::Stop,
            Self::OffLoad => Severity::Note,
        }
    }

    pub(super) const fn kind(&self) -> &'static str {
        match self {
            Self::Neck(NeckFault::Twist { .. }) => "twist",
            Self::Neck(NeckFault::TrebleMore { .. }) => "treble_side",
            Self::Neck(NeckFault::BackBow) => "back_bow",
            Self::Neck(NeckFault::RodSpent(_)) => "rod_spent",
            Self::NutTooLow(_) => "nut_too_low",
            Self::HeightSpent { .. } => "height_spent",
            Self::TooNear(_) => "pickup_too_near",
            Self::PulledUp(_) => "pulled_up",
            Self::Springs { .. } => "springs",
            Self::ClawSpent { .. } => "claw_spent",
            Self::RunsAway => "runs_away",
            Self::SpringsAtEnd { .. } => "springs_at_end",
            Self::PickupSpent { .. } => "pickup_spent",
            Self::OffLoad => "off_load",
        }
    }

    pub(super) const fn string(&self) -> Option<u8> {
        match self {
            Self::HeightSpent { string, .. } => Some(*string),
            _ => None,
        }
    }

    pub(super) fn sentence(&self) -> String {
        let hundredths = |value: Length| format!("{:.2} mm", value.mm()).replace('-', "\u{2212}");
        match self {
            Self::Neck(NeckFault::Twist { backward, relief }) => {
                let other = match backward {
                    Side::Treble => "bass",
                    Side::Bass => "treble",
                };
                format!(
                    "The {} side is bent backward while the {other} side shows relief ({} treble, {} bass by hold 1 and last): a twist, or a one-sided back-bow. The rod bends both sides alike and cannot cure it: fretwork first.",
                    backward.key(),
                    hundredths(relief[0]),
                    hundredths(relief[1])
                )
            }
            Self::Neck(NeckFault::TrebleMore { by }) => format!(
                "The treble side has {} more relief than the bass side. A little more on the bass side is normal, on the treble side it is not: look along the board for a twist before going on.",
                hundredths(*by)
            ),
            Self::Neck(NeckFault::BackBow) => {
                "Both sides are bent backward: loosen the rod before anything else is read.".to_owned()
            }
            Self::Neck(NeckFault::RodSpent(how)) => {
                let felt = match how {
                    RodStop::Hard => "is very hard to turn",
                    RodStop::Rubbery => "springs back",
                    RodStop::NoEffect => "is slack or turns without effect",
                };
                format!(
                    "The rod {felt}. Stop and never force it: a stripped nut or a broken rod can cost the neck. Hand it to a specialist."
                )
            }
            Self::NutTooLow(slots) => {
                let each: Vec<String> = slots
                    .iter()
                    .map(|(string, by)| format!("string {string} by {}", hundredths(*by)))
                    .collect();
                format!(
                    "Lower over fret 1 than they should be, when the rest is right: {}. Filing cannot put that back.",
                    each.join(", ")
                )
            }
            Self::HeightSpent { adjuster, end, short_by, .. } => format!(
                "Height, {adjuster}: all the way {} and still {:.1} mm short.",
                match end {
                    HeightEnd::Bottom => "down",
                    HeightEnd::Top => "up",
                },
                short_by.mm()
            ),
            Self::PulledUp(gap) => format!(
                "The vibrato is pulled up: {:.1} mm under its tail. Every height and setback read now is of a tilted plate: bring it down before anything else is read.",
                gap.mm()
            ),
            Self::ClawSpent { by, claw, .. } => format!(
                "{} would have to go {:.1} mm {}, beyond its thread or its wall.",
                if *claw { "The claw" } else { "The seat of the spring" },
                by.abs().mm(),
                match (*claw, *by > Length::ZERO) {
                    (true, true) => "in",
                    (true, false) => "out",
                    (false, true) => "up",
                    (false, false) => "down",
                }
            ),
            Self::RunsAway => "Where it is wanted this float has no steady rest: lifted a little, the strings pull it up further than the springs bring it back, and it runs away as it is retuned.".to_owned(),
            Self::SpringsAtEnd { loose: true } => "A spring of the vibrato hangs loose at rest: it can come off its hook or rattle.".to_owned(),
            Self::SpringsAtEnd { loose: false } => "A spring of the vibrato is stretched to twice its length and more: it will not come back as it was.".to_owned(),
            Self::PickupSpent { which, end, short_by } => format!(
                "The {which}: {}, and still {:.1} mm short.",
                match end {
                    HeightEnd::Bottom => "foam or spring squeezed, no further down",
                    HeightEnd::Top => "no thread left, no further up",
                },
                short_by.mm()
            ),
            Self::Springs { on: 1, wanted: None } => "This spring cannot hold this set where it is wanted.".to_owned(),
            Self::Springs { on, wanted: Some(wanted) } => format!(
                "{on} springs cannot hold this set where it is wanted: {wanted} could, with the claw in its range."
            ),
            Self::Springs { on, wanted: None } => format!(
                "{on} springs cannot hold this set where it is wanted, and five of the same cannot either: stiffer springs, or lighter strings."
            ),
            Self::TooNear(which) => format!(
                "So near that the magnets pull on the strings: {}. Wound strings give double notes high up, and the intonation wavers there.",
                which.join(", ")
            ),
            Self::OffLoad => "A long neck asks much of its rod under full pull. Slacken the strings, tighten the rod a little past the turn, tune up, then back it off under load: loosening under load is harmless, tightening may be asking too much. A clamp and half an hour of rest is specialist work.".to_owned(),
        }
    }

    pub(super) fn ways(&self) -> Vec<String> {
        match self {
            Self::ClawSpent { claw, rate, .. } => {
                let mut ways = Vec::new();
                if let Some(rate) = rate {
                    ways.push(format!(
                        "springs of {} each hold it where the adjuster stands",
                        print::rate(*rate)
                    ));
                }
                if *claw {
                    ways.push("another number of springs".to_owned());
                }
                ways.push("strings that pull otherwise: see what another set would change".to_owned());
                ways
            }
            Self::RunsAway => vec![
                "more springs, each stretched less".to_owned(),
                "make sure of the sheet: how far the crowns lie behind the edge counts most".to_owned(),
                "or rest it on the body".to_owned(),
            ],
            Self::SpringsAtEnd { .. } => vec![
                "another number of springs, so that each works in the middle of its stretch"
                    .to_owned(),
            ],
            Self::PickupSpent { end, .. } => vec![
                match end {
                    HeightEnd::Bottom => "never force it: covers crack. Thinner foam or shorter springs, by someone who takes the pickup out",
                    HeightEnd::Top => "longer screws, or foam under the pickup",
                }
                .to_owned(),
                "or leave it, and even the others out to it by ear".to_owned(),
            ],
            Self::NutTooLow(_) => vec![
                "a new nut, or a shim under it".to_owned(),
                "fill the slot and cut it again: wear glasses, and keep the dust out of the lungs"
                    .to_owned(),
                "or leave it, if it does not buzz open under this hand".to_owned(),
            ],
            Self::HeightSpent {
                end: HeightEnd::Bottom,
                wedge,
                shim,
                ..
            } => {
                let mut ways = Vec::new();
                if let Some(wedge) = wedge {
                    ways.push(format!(
                        "a wedge of {} at the heel end of the pocket: brings the saddles to the middle of their range",
                        print::mm(Length::from_mm((wedge.mm() * 20.0).round() / 20.0))
                    ));
                }
                if let Some(shim) = shim {
                    ways.push(format!(
                        "or a full shim of {} under the heel",
                        print::tenths(*shim)
                    ));
                }
                ways.push(
                    "left so low, the string touches a second time behind the saddle and the screws stand proud under the hand".to_owned(),
                );
                ways.push(
                    "first make sure of the relief: too much of it lifts the strings".to_owned(),
                );
                ways
            }
            Self::HeightSpent {
                end: HeightEnd::Top,
                ..
            } => vec![
                "longer screws, or higher saddles".to_owned(),
                "take a wedge or shim out from under the neck, if there is one".to_owned(),
            ],
            _ => Vec::new(),
        }
    }
}

/// A bass neck that is to be tightened by more than a round goes off load.
const FAR: u32 = 2;

/// Pulled up by more than a float asks for.
const PULLED_UP: Length = Length::from_mm(5.0);

pub(super) fn balance(balance: &BalancePlan) -> Vec<SetupFinding> {
    let mut found = Vec::new();
    if balance.claw_spent {
        found.push(SetupFinding::ClawSpent {
            by: balance.claw.1 - balance.claw.0,
            claw: balance.record.kind == VibratoKind::BodySprings,
            rate: balance.rate_wanted,
        });
    }
    if balance.runs_away {
        found.push(SetupFinding::RunsAway);
    }
    if balance.last.is_some()
        && let Some(hook) = balance.hooks.iter().find(|hook| hook.at_end)
    {
        found.push(SetupFinding::SpringsAtEnd {
            loose: hook.pull == Force::ZERO,
        });
    }
    if let BalanceAction::Springs(wanted) = balance.action {
        found.push(SetupFinding::Springs {
            on: balance.record.springs,
            wanted,
        });
    }
    if balance.last.is_some()
        && balance.record.kind == VibratoKind::BodySprings
        && balance.now.value > balance.target.max(PULLED_UP)
    {
        found.push(SetupFinding::PulledUp(balance.now.value));
    }
    found
}

pub(super) fn findings(job: &Job, setup: &SetupPlan) -> Vec<SetupFinding> {
    let mut found: Vec<SetupFinding> = setup
        .relief
        .faults
        .iter()
        .copied()
        .map(SetupFinding::Neck)
        .collect();
    if job.instrument().kind == Kind::Bass
        && setup
            .relief
            .next_move()
            .is_some_and(|step| step.total.value() > 0.0 && step.rounds >= FAR)
    {
        found.push(SetupFinding::OffLoad);
    }
    let low: Vec<(u8, Length)> = setup
        .nut
        .strings
        .iter()
        .filter_map(|slot| match slot.action {
            NutAction::TooLow { by } => Some((slot.string, by)),
            _ => None,
        })
        .collect();
    if !low.is_empty() {
        found.push(SetupFinding::NutTooLow(low));
    }
    let near: Vec<String> = setup
        .pickups
        .iter()
        .flat_map(|pickup| pickup.sides.iter().map(move |side| (pickup, side)))
        .filter(|(_, side)| side.too_near)
        .map(|(pickup, side)| format!("{} pickup, {} side", pickup.name, side.side.key()))
        .collect();
    if !near.is_empty() {
        found.push(SetupFinding::TooNear(near));
    }
    for pickup in &setup.pickups {
        for side in &pickup.sides {
            if let PickupAction::AtEnd { end, short_by } = side.action {
                found.push(SetupFinding::PickupSpent {
                    which: format!("{} pickup, {} side", pickup.name, side.side.key()),
                    end,
                    short_by,
                });
            }
        }
    }
    for adjuster in &setup.height.adjusters {
        if let HeightAction::AtEnd {
            end,
            short_by,
            wedge,
            shim,
        } = adjuster.action
        {
            found.push(SetupFinding::HeightSpent {
                adjuster: adjuster.adjuster.name(),
                string: adjuster.strings.first().copied().unwrap_or(1),
                end,
                short_by,
                wedge,
                shim,
            });
        }
    }
    found
}
