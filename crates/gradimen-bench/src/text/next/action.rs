//! Height screws and posts.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let says = gradimen_bench::text::next::action::headline(&known, &plan, 1);
//! assert!(says.kicker.contains("String") && !says.caution.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone, line};
use crate::decision::{Action, Move, StationId, Stop, Sum};
use crate::estimate::Estimate;
use crate::model::{Adjuster, Keyed};
use crate::plan::Plan;
use crate::stations::action::{AdjusterPlan, HeightString};
use crate::text::numbers::{self, note, spread};
use crate::text::{cautions, events, moves};

/// The one next move of the adjuster under a string.
pub fn headline(known: &Estimate, plan: &Plan, string: u8) -> Headline {
    let height = &plan.action;
    let mut next = Headline {
        caution: cautions::action(known.instrument()),
        ..Headline::default()
    };
    let Some((on, adjuster)) = height
        .strings
        .iter()
        .find(|on| on.string == string)
        .zip(height.adjuster_of(string))
    else {
        next.big = vec!["No such string".to_owned()];
        return next;
    };
    let name = match adjuster.adjuster {
        Adjuster::SaddleHeight { string: _ } => {
            format!("String {string} \u{b7} {}", note(known, string))
        }
        other => format!("The {}", moves::adjuster(other)),
    };
    next.kicker = format!(
        "{name} \u{b7} action at fret {}, target {} {UNIT} ({})",
        height.fret,
        numbers::in_unit(on.quantity.target, 2),
        numbers::sixty_fourths(on.quantity.target)
    );
    match &adjuster.action {
        Action::Adjust(_) if plan.waits_for_the_claw(StationId::Action) => {
            super::claw_first(&mut next, "every height goes with the plate");
        }
        Action::Measure(places) => {
            next.asks = true;
            let names: Vec<u8> = places.iter().filter_map(|place| place.string()).collect();
            next.big = vec![
                format!("Measure action at fret {}:", height.fret),
                match names[..] {
                    _ if names.len() == height.strings.len() && names.len() > 1 => {
                        "every string".to_owned()
                    }
                    [one] => format!("string {one}"),
                    _ => format!("strings {}", crate::text::list(&names, ", ")),
                },
            ];
            next.expect = vec![format!("Expect {} {UNIT}.", spread(on.quantity.now))];
        }
        Action::Adjust(step) => {
            turn(adjuster, step, height.fret, &mut next);
            let first = cautions::before(known.instrument(), adjuster.adjuster);
            if let Some(first) = first {
                next.expect.insert(0, first.to_owned());
            }
        }
        Action::Leave
            if let Some(other) =
                plan.asked_elsewhere(known, StationId::Action, on.quantity.place) =>
        {
            next.asks = true;
            next.big = vec![
                format!("Measure action at fret {}:", height.fret),
                format!("string {string}, for the {}", other.key()),
            ];
            next.expect = vec![format!("Expect {} {UNIT}.", spread(on.quantity.now))];
        }
        Action::Leave => {
            let done = height
                .adjusters
                .iter()
                .all(|adjuster| adjuster.action == Action::Leave);
            next.big = vec![
                if done {
                    "Action is in spec"
                } else {
                    "Leave this string"
                }
                .to_owned(),
            ];
            next.expect = vec![format!(
                "{} {UNIT} now, {} after all adjustments: {}.",
                spread(on.quantity.now),
                numbers::in_unit(on.quantity.after, 2),
                numbers::stands(&on.quantity)
            )];
        }
        Action::Stop(Stop::AtEnd { end, short_by, .. }) => {
            next.tone = Tone::Out;
            next.big = vec![
                format!("{} short", print::tenths(*short_by)),
                format!("and {}", events::end(*end)),
            ];
        }
        Action::Stop(Stop::NoLift { by }) => {
            next.tone = Tone::Out;
            next.big = vec![
                "No screw lifts it:".to_owned(),
                format!(
                    "{} the saddle {} {UNIT}",
                    if *by > Length::ZERO { "shim" } else { "cut" },
                    numbers::in_unit(by.abs(), 2)
                ),
            ];
            next.expect = vec![
                "What is cut cannot be put back: less than that, measure again, and the rest. Then say below what was cut or shimmed.".to_owned(),
            ];
        }
        Action::Stop(_) => next.tone = Tone::Out,
    }
    next
}

fn turn(adjuster: &AdjusterPlan, step: &Move, fret: u8, next: &mut Headline) {
    let up = step.distance > Length::ZERO;
    next.tone = Tone::Move;
    let what = match adjuster.adjuster {
        Adjuster::SaddleHeight { string: _ } => "both screws",
        _ => "the post",
    };
    next.big = vec![
        format!(
            "{} {} {UNIT}: {what}",
            if up { "Up" } else { "Down" },
            numbers::in_unit(step.distance.abs(), 2)
        ),
        numbers::turning(step),
    ];
    let expected: Vec<String> = step
        .expected
        .iter()
        .filter_map(|expected| {
            let (string, value) = (expected.place.string()?, expected.value.length()?);
            Some(format!("{} {UNIT} on string {string}", spread(value)))
        })
        .collect();
    next.expect = vec![format!(
        "Expect {} at fret {fret}, once neck and nut are set.",
        expected.join(", ")
    )];
    let Sum::Screw {
        turns_exact,
        pitch,
        response,
    } = step.sum
    else {
        return;
    };
    next.why = vec![
        line(
            "the break point is to go",
            format!("{} {UNIT}", numbers::in_unit(step.distance, 2)),
        ),
        line(
            "this screw really lifts",
            format!(
                "{} {UNIT} a turn: thread {} \u{d7} {:.2} \u{b1} {:.2}",
                numbers::in_unit(pitch * response.value, 3),
                print::with_unit(pitch),
                response.value,
                response.sigma
            ),
        ),
        line(
            "turns",
            format!(
                "{:.2}, set to an eighth: {}",
                turns_exact.value().abs(),
                numbers::turns(step.turns())
            ),
        ),
    ];
}

/// What is to be done to an adjuster, in a row of the table.
pub fn in_short(adjuster: &AdjusterPlan) -> String {
    match &adjuster.action {
        Action::Measure(_) => "measure".to_owned(),
        Action::Leave => "leave".to_owned(),
        Action::Stop(Stop::AtEnd { short_by, .. }) => {
            format!("at its end, {} short", print::tenths(*short_by))
        }
        Action::Stop(Stop::NoLift { by }) => format!(
            "{} {} {UNIT}",
            if *by > Length::ZERO { "shim" } else { "cut" },
            numbers::in_unit(by.abs(), 2)
        ),
        Action::Adjust(step) => {
            format!(
                "{} \u{b7} {}",
                up_or_down(step),
                numbers::turns(step.turns())
            )
        }
        Action::Stop(_) => "stopped".to_owned(),
    }
}

fn up_or_down(step: &Move) -> String {
    format!(
        "{} {} {UNIT}",
        if step.distance > Length::ZERO {
            "up"
        } else {
            "down"
        },
        numbers::in_unit(step.distance.abs(), 2)
    )
}

/// The arc of the break points, now and then.
pub fn arc(plan: &Plan) -> String {
    let radius = |arc: Option<Length>| {
        arc.map_or("straight".to_owned(), |arc| {
            format!("{:.0} mm ({:.2} in)", arc.mm(), arc.inches())
        })
    };
    let height = &plan.action;
    let lean = height
        .strings
        .first()
        .map(|string| string.lean)
        .filter(|lean| *lean > Length::ZERO)
        .map_or(String::new(), |lean| {
            format!(
                " An outer saddle leans with the arc when its outer screw stands {} {UNIT} lower than its inner.",
                numbers::in_unit(lean, 1)
            )
        });
    format!(
        "Break points: radius {} now, {} after all adjustments. The board carried on to the bridge: {}.{lean}",
        radius(height.arc.0),
        radius(height.arc.1),
        radius(Some(height.gauge))
    )
}

/// What stays of a string's height once its adjuster cannot follow: `raise 0.12 mm`, or that it fits.
pub fn remains(on: &HeightString) -> String {
    if on.remains.abs() > Length::from_mm(0.02) {
        let way = if on.remains > Length::ZERO {
            "raise"
        } else {
            "cut"
        };
        format!("{way} {} {UNIT}", numbers::in_unit(on.remains.abs(), 2))
    } else {
        "fits".to_owned()
    }
}
