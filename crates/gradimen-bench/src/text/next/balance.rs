//! The vibrato: claw, seat or washers.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/floating-vibrato.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let balance = plan.balance.as_ref().ok_or("a vibrato with springs")?;
//! let says = gradimen_bench::text::next::balance::headline(balance);
//! assert!(says.caution.contains("glasses on"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone, line};
use crate::decision::{Action, Move, Stop, Sum};
use crate::model::hardware::VibratoKind;
use crate::model::{Adjuster, Amount, BalanceSchool, Keyed, Place, Side};
use crate::stations::balance::{BalancePlan, turns_of_side};
use crate::text::cautions;
use crate::text::numbers::{self, spread};

/// What the station calls things, by what answers the strings.
#[derive(Debug, Clone, Copy)]
pub struct Names {
    /// What it is.
    pub subject: &'static str,
    /// Where its gap is read.
    pub under: &'static str,
    /// Its way up.
    pub up: &'static str,
    /// Its way down.
    pub dive: &'static str,
    /// The usual caution.
    pub caution: &'static str,
}

/// The words of a kind of vibrato.
pub const fn names(kind: VibratoKind) -> Names {
    match kind {
        VibratoKind::BodySprings => Names {
            subject: "Vibrato",
            under: "at the back of the plate",
            up: "pulled up until it is down",
            dive: "dived, tail 5 mm higher",
            caution: "Springs and strings are under load and can fly: glasses on, strings slack before a spring is hooked on or off. Every gap is read at pitch.",
        },
        VibratoKind::TailSpring => Names {
            subject: "Tail",
            under: "under the bar",
            up: "pulled up until the spring is loose",
            dive: "dived to the end",
            caution: "The spring is under load: glasses on, strings slack before it is taken out. Stand the rocking bridge upright before every reading; every gap is read at pitch.",
        },
        VibratoKind::ArmSpring => Names {
            subject: "Arm tailpiece",
            under: "under the arm",
            up: "pulled up until the spring is loose",
            dive: "dived to the end",
            caution: "The spring is under load and can fly: glasses on, strings slack before washers go in or out. Every gap is read at pitch.",
        },
    }
}

/// The one next move of plate or tail.
pub fn headline(balance: &BalancePlan) -> Headline {
    let names = names(balance.record.kind);
    let school = if balance.record.kind == VibratoKind::BodySprings {
        balance.school.name()
    } else {
        "bar level"
    };
    let mut next = Headline {
        kicker: format!(
            "{} \u{b7} {school} \u{b7} target {} {UNIT} {}",
            names.subject,
            numbers::in_unit(balance.target, 1),
            names.under
        ),
        caution: names.caution.to_owned(),
        ..Headline::default()
    };
    match &balance.action {
        Action::Measure(places) if !places.contains(&Place::Gap) => {
            let strings: Vec<u8> = places.iter().filter_map(|place| place.string()).collect();
            next.big = vec![
                "Measure the action first:".to_owned(),
                format!("string {}", crate::text::list(&strings, ", ")),
            ];
            next.expect = vec![
                "On a float heights and gap are one: claw and saddles are worked out together, and turned once."
                    .to_owned(),
            ];
        }
        Action::Measure(_) if balance.last.is_some() => {
            next.asks = true;
            next.big = vec![
                "Tune up to pitch,".to_owned(),
                "measure the gap again".to_owned(),
            ];
            next.expect.extend(landing(balance));
        }
        Action::Measure(_) => {
            next.asks = true;
            next.big = vec![
                "At pitch, measure the gap".to_owned(),
                names.under.to_owned(),
            ];
        }
        Action::Adjust(step) => {
            turn(balance, step, &mut next);
            if step.adjuster == Adjuster::Claw && step.turns() > Turns::ZERO {
                next.expect.insert(0, cautions::CLAW.to_owned());
            }
        }
        Action::Leave => {
            next.big = vec![
                match balance.record.kind {
                    VibratoKind::BodySprings => "Leave the claw",
                    VibratoKind::TailSpring | VibratoKind::ArmSpring => "Leave the spring",
                }
                .to_owned(),
            ];
            let near = balance.off().abs() <= balance.tolerance;
            let stands = match balance.record.kind {
                _ if near => {
                    let allowed = format!("{} {UNIT}", numbers::in_unit(balance.tolerance, 1));
                    crate::text::stands(balance.odds, &allowed)
                }
                VibratoKind::BodySprings => {
                    "it goes with every saddle; set the heights, then read it again".to_owned()
                }
                VibratoKind::TailSpring => "as near as an eighth of a turn brings it".to_owned(),
                VibratoKind::ArmSpring => "as near as whole washers bring it".to_owned(),
            };
            next.expect = vec![format!("{} {UNIT}: {stands}.", spread(balance.now))];
        }
        Action::Stop(Stop::Springs { enough }) => springs(balance, *enough, &mut next),
        Action::Stop(_) => next.tone = Tone::Out,
    }
    if balance.action.places().contains(&Place::Gap) {
        next.expect
            .insert(0, format!("Expect {} {UNIT}.", spread(balance.now)));
    }
    next
}

fn springs(balance: &BalancePlan, wanted: Option<u8>, next: &mut Headline) {
    next.tone = Tone::Out;
    let Some(count) = wanted else {
        next.big = vec![
            if balance.record.springs == 1 {
                "This spring cannot"
            } else {
                "These springs cannot"
            }
            .to_owned(),
            "hold this set".to_owned(),
        ];
        return;
    };
    next.big = vec![
        format!("{} springs cannot:", balance.record.springs),
        format!("hook on {count}"),
    ];
}

/// How much further in the bass side goes than the middle.
const fn apart(step: &Move) -> f64 {
    match step.amount {
        Amount::Apart { apart, .. } => apart,
        _ => 0.0,
    }
}

fn per_turn(step: &Move) -> Length {
    match step.sum {
        Sum::Claw { per_turn } => per_turn,
        _ => Length::ZERO,
    }
}

/// The big sentence of a move.
fn sentence(balance: &BalancePlan, step: &Move) -> Vec<String> {
    let kind = balance.record.kind;
    let turns = step.turns();
    let stronger = turns >= Turns::ZERO;
    match kind {
        VibratoKind::BodySprings if apart(step) != 0.0 => Side::ALL
            .map(|side| {
                let turns = turns_of_side(step, side);
                format!(
                    "Claw, {} side: {} {}",
                    side.key(),
                    numbers::turns(turns),
                    if turns >= Turns::ZERO { "in" } else { "out" }
                )
            })
            .to_vec(),
        VibratoKind::BodySprings => vec![
            format!("Claw {}: both screws", if stronger { "in" } else { "out" }),
            numbers::turning(step),
        ],
        VibratoKind::TailSpring => vec![
            format!("Spring {}:", if stronger { "tighter" } else { "looser" }),
            numbers::turning(step),
        ],
        VibratoKind::ArmSpring => {
            let washers = turns.abs().value();
            let word = if washers == 1.0 { "washer" } else { "washers" };
            vec![
                if stronger {
                    format!("Put {washers} {word} under")
                } else {
                    format!("Take {washers} {word} out under")
                },
                "the arm's spring".to_owned(),
            ]
        }
    }
}

/// How each string is tuned once, so that all land.
fn landing(balance: &BalancePlan) -> Option<String> {
    let ((last, _), before) = balance.landing.split_last()?;
    let each = before.iter().map(|(string, off)| {
        let off = off.value().round();
        let sign = if off < 0.0 { "\u{2212}" } else { "+" };
        format!("{string} to {sign}{} c", off.abs())
    });
    let each = each.collect::<Vec<_>>().join(", ");
    Some(format!(
        "Tune each once, in this order, and all land near pitch: {each}, {last} to pitch."
    ))
}

fn turn(balance: &BalancePlan, step: &Move, next: &mut Headline) {
    let kind = balance.record.kind;
    next.tone = Tone::Move;
    next.big = sentence(balance, step);
    let expect = if balance.teaches(step) {
        // A number as wide as the plate's whole way helps nobody.
        "Retune, then read: this first turn tells what a turn does on this plate.".to_owned()
    } else {
        format!(
            "Retune, then read: expect {} {UNIT}.",
            numbers::expected(step)
        )
    };
    next.expect = vec![
        expect,
        match step.rounds {
            _ if balance.teaches(step) => String::new(),
            1 => "One round.".to_owned(),
            rounds => format!("About {rounds} rounds, the strings at pitch between them."),
        },
    ];
    next.expect.retain(|line| !line.is_empty());
    next.expect.extend(landing(balance));
    next.why = vec![
        line(
            "gap now, at pitch",
            format!("{} {UNIT}", spread(balance.now)),
        ),
        line(
            "target",
            format!("{} {UNIT}", numbers::in_unit(balance.target, 1)),
        ),
        line(
            "the adjuster is to go",
            format!(
                "{} {UNIT}, {}",
                numbers::in_unit(step.distance.abs(), 2),
                if step.distance > Length::ZERO {
                    "springs stronger"
                } else {
                    "springs weaker"
                }
            ),
        ),
        line(
            if kind == VibratoKind::ArmSpring {
                "washers in all"
            } else {
                "turns in all"
            },
            print::signed(step.total.value(), 2),
        ),
        line(
            if kind == VibratoKind::ArmSpring {
                "a washer moves the gap, at pitch, by"
            } else {
                "a turn moves the gap, at pitch, by"
            },
            format!("{} {UNIT}", numbers::in_unit(per_turn(step), 1)),
        ),
        line("total tension", numbers::tension(balance.pull)),
        line("a spring is", print::rate(balance.rate.value)),
    ];
    if let Some([treble, bass]) = balance.ends {
        next.why.push(line(
            "claw to wall, treble and bass",
            format!(
                "{}, {} {UNIT}",
                numbers::in_unit(treble, 1),
                numbers::in_unit(bass, 1)
            ),
        ));
    }
}

/// What the numbers come from, a sentence each.
pub fn facts(balance: &BalancePlan) -> Vec<String> {
    let mut facts = vec![format!(
        "Total tension {}; {}. {} is {}, \u{b1} {:.0} %, by {}.",
        numbers::tension(balance.pull),
        match balance.record.springs {
            1 => "one spring fitted".to_owned(),
            count => format!("{count} springs fitted"),
        },
        if balance.record.springs == 1 {
            "It"
        } else {
            "A spring"
        },
        print::rate(balance.rate.value),
        balance.rate.sigma.ratio(balance.rate.value) * 100.0,
        if balance.last.is_some() {
            "its record and what was read"
        } else {
            "its record"
        }
    )];
    if balance.record.kind == VibratoKind::BodySprings && balance.school == BalanceSchool::Decked {
        facts.push(format!(
            "Held down by {} N beyond the strings; a whole step on the hardest string takes {} N.",
            numbers::newtons(balance.spare),
            numbers::newtons(balance.spare_wanted)
        ));
    }
    if let Some([treble, bass]) = balance.ends {
        facts.push(format!(
            "The claw stands {} {UNIT} from its wall at the treble side, {} {UNIT} at the bass side.",
            numbers::in_unit(treble, 1),
            numbers::in_unit(bass, 1)
        ));
    }
    if let Some(broken) = balance.broken {
        facts.push(format!(
            "If the lowest string breaks, the others rise {} cents.",
            print::signed(broken.value(), 0)
        ));
    }
    facts
}
