//! The saddles, along the string.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//!
//! let text = include_str!("../../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let says = gradimen_bench::text::next::intonation::headline(&known, &plan, 3);
//! assert!(says.kicker.contains("String") && !says.caution.is_empty());
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use super::{Headline, Tone, line};
use crate::decision::{Action, Move, StationId, Stop, Sum};
use crate::estimate::Estimate;
use crate::model::hardware::SaddleDrive;
use crate::plan::Plan;
use crate::stations::intonation::SaddlePlan;
use crate::text::{self, moves, numbers};

const CAUTION: &str = "Tune up to pitch. Press the string down just behind the nut and before the saddle so that it leaves straight. Playing position; press lightly, straight down, right behind the fret.";

const FRETLESS: &str = "Tune up to pitch. No frets: press the string straight down onto the line of fret 12 with the edge of a card or a rule, and read that; a finger stops it anywhere within two millimetres.";

fn sharpness(saddle: &SaddlePlan, index: usize) -> String {
    let mean = saddle.estimate.strings[index]
        .mean()
        .map_or(0.0, |cents| cents.value());
    let size = format!("{:.1}", mean.abs());
    match (size.as_str(), mean > 0.0) {
        ("0.0", _) => "true".to_owned(),
        (_, true) => format!("{size} cents sharp"),
        (_, false) => format!("{size} cents flat"),
    }
}

/// A stroke that sharpens a note by so many cents is named beside its reading.
const WORTH_SAYING: f64 = 0.3;

/// The one next move of the saddle under a string.
pub fn headline(known: &Estimate, plan: &Plan, string: u8) -> Headline {
    let note = numbers::note(known, string);
    let mut next = Headline {
        kicker: format!("String {string} \u{b7} {note}"),
        caution: if known.instrument().construction.fretless {
            FRETLESS
        } else {
            CAUTION
        }
        .to_owned(),
        ..Headline::default()
    };
    let Some(saddle) = plan.intonation.saddle_of(string) else {
        next.big = vec!["The model has no answer for this string".to_owned()];
        return next;
    };
    let index = saddle.strings().position(|on| on == string).unwrap_or(0);
    let here = &saddle.estimate.strings[index];
    if !here.fresh.is_empty() {
        let times = match here.fresh.len() {
            1 => String::new(),
            count => format!(", mean of {count}"),
        };
        next.kicker += &format!(
            " \u{b7} fretted 12th reads {}{times}",
            sharpness(saddle, index)
        );
        if here.plucked.value.value() >= WORTH_SAYING {
            let by = here.plucked.value.value();
            next.kicker += &format!("; {by:.1} of that is the stroke");
        }
    }
    match &saddle.action {
        Action::Adjust(_) if plan.waits_for_the_claw(StationId::Intonation) => {
            super::claw_first(&mut next, "every saddle goes with the plate");
        }
        Action::Adjust(step) => {
            next.big = moves::big(step).to_vec();
            next.tone = Tone::Move;
            next.expect = expectations(known, saddle, step, &note);
            next.why = why(step);
        }
        Action::Measure(places) => {
            next.asks = true;
            let strings: Vec<u8> = places.iter().filter_map(|place| place.string()).collect();
            let of = |on: u8| saddle.strings().position(|string| string == on);
            let unread = |on: u8| of(on).is_some_and(|at| saddle.estimate.strings[at].count == 0);
            // Of two strings on one saddle the one that nobody has read yet comes first.
            let other = !unread(string) && strings.iter().any(|on| unread(*on));
            let read_here = strings.contains(&string) && !other;
            next.big = if read_here && here.count == 0 {
                vec![
                    "Tune up, read fretted 12".to_owned(),
                    "against its reference".to_owned(),
                ]
            } else if read_here && !here.fresh.is_empty() {
                vec!["Read it once more".to_owned()]
            } else if read_here {
                vec!["Retune and measure again".to_owned()]
            } else {
                let others = strings.iter().filter(|on| **on != string);
                let others: Vec<String> = others.map(u8::to_string).collect();
                let on = match known.instrument().bridge.details.drive {
                    SaddleDrive::Bar => "bar",
                    _ => "saddle",
                };
                vec![format!(
                    "Read string {} on the same {on}",
                    others.join(", ")
                )]
            };
            next.expect = vec![if here.fresh.is_empty() {
                format!("Expect {} cents.", numbers::estimate(here.error))
            } else {
                format!(
                    "{} cents so far: one more reading decides.",
                    numbers::estimate(here.error)
                )
            }];
        }
        Action::Leave => {
            let done = plan.intonation.is_done();
            next.big = vec![if done {
                "Intonation is in spec".to_owned()
            } else {
                "Leave this saddle".to_owned()
            }];
            let left = saddle.remaining[index];
            let bar = known.instrument().bridge.details.drive == SaddleDrive::Bar;
            next.expect = vec![if bar && left.abs() > plan.intonation.threshold {
                format!(
                    "{} cents stay on this string: the best that one bar can do for all of them.",
                    print::cents(left)
                )
            } else if saddle.strings().count() > 1 {
                format!(
                    "{} cents stay on this string: the best its shared saddle can do.",
                    print::cents(left)
                )
            } else {
                let allowed = format!("{:.1}", plan.intonation.threshold.value());
                format!(
                    "{} cents: {}.",
                    numbers::estimate(here.error),
                    crate::text::stands(saddle.odds[index], &allowed)
                )
            }];
            if known.old_strings() {
                next.expect
                    .push("Provisional: the strings are old.".to_owned());
            }
        }
        Action::Stop(Stop::Stuck) => {
            next.tone = Tone::Out;
            next.big = vec!["Stop: do not force the screw".to_owned()];
            next.expect = vec!["Slacken the string first. If it stays seized or the head is damaged, hand it to a specialist.".to_owned()];
        }
        Action::Stop(Stop::NoDrive { by }) => {
            next.tone = Tone::Out;
            next.big = vec![
                "No drive of its own".to_owned(),
                format!("it would go {}", numbers::way(*by)),
            ];
            next.expect = vec!["The record says that this saddle is fixed. A new or filed saddle is the only way; a specialist makes one.".to_owned()];
        }
        Action::Stop(_) => {
            next.tone = Tone::Out;
            let short = saddle.short_by.unwrap_or(Length::ZERO);
            let end = if short > Length::ZERO {
                "back"
            } else {
                "front"
            };
            next.big = vec![
                format!(
                    "Out of travel, {} {UNIT} short",
                    numbers::in_unit(short.abs(), 1)
                ),
                format!("at the {end} of the saddle"),
            ];
            next.expect = vec![format!(
                "It should be at {} {UNIT}; its travel ends at {} {UNIT}.",
                numbers::in_unit(saddle.target.value, 1),
                numbers::in_unit(saddle.nearer_end(), 1)
            )];
        }
    }
    next
}

/// What is done with a bar, and what every string will read then.
fn bar_expectations(step: &Move) -> Vec<String> {
    let each = step.expected.iter().filter_map(|expected| {
        let (string, cents) = (expected.place.string()?, expected.value.cents()?);
        Some(format!("{string}: {}", print::cents(cents.value)))
    });
    vec![
        "Under the outer strings, measured along a rule. Slacken all strings until the bar just slides, mark where its feet stand, shift its ends, and see that it stands upright. Tune up, measure again.".to_owned(),
        format!(
            "Expect by string, in cents: {}. What stays is the best that one bar can do.",
            each.collect::<Vec<_>>().join(", ")
        ),
    ]
}

fn expectations(known: &Estimate, saddle: &SaddlePlan, step: &Move, note: &str) -> Vec<String> {
    if matches!(step.sum, Sum::Bar { .. }) {
        return bar_expectations(step);
    }
    let head = known.instrument().bridge.intonation.head.name();
    let expected: Vec<String> = saddle
        .strings()
        .zip(&step.expected)
        .map(|(string, expected)| {
            let Some(expected) = expected.value.cents() else {
                return String::new();
            };
            if saddle.strings().count() > 1 {
                format!("{} cents on string {string}", numbers::estimate(expected))
            } else {
                format!("{} cents", numbers::estimate(expected))
            }
        })
        .collect();
    let left = if saddle.tight {
        " Less than a turn."
    } else {
        ""
    };
    vec![
        by_drive(known, head, note),
        format!("Expect {}.", expected.join(", ")),
        format!(
            "{} {UNIT} of travel left behind the saddle after this.{left}",
            numbers::in_unit(behind_after(step), 1)
        ),
    ]
}

/// What is done with hands, in order, by how the saddle is driven.
fn by_drive(known: &Estimate, head: &str, note: &str) -> String {
    let bridge = &known.instrument().bridge;
    let unlock = if known.instrument().locking_nut {
        "Unlock the nut. "
    } else {
        ""
    };
    let fine = if bridge.details.fine_tuners {
        "set its fine tuner to mid travel, "
    } else {
        ""
    };
    match bridge.details.drive {
        SaddleDrive::Clamped => format!(
            "{unlock}Slacken the string fully. Loosen the bolt that clamps the saddle, slide it along a rule, tighten the bolt, {fine}tune up to {note}, measure again. Never touch the screw at the tail under tension: it clamps the string."
        ),
        SaddleDrive::LockedScrew => format!(
            "Seen from {head}. Slacken the string a little, loosen the lock screw, turn, tighten the lock, tune up to {note}, measure again."
        ),
        // A bar has its own order, and a fixed saddle is not moved.
        SaddleDrive::Screw | SaddleDrive::Bar | SaddleDrive::Fixed => format!(
            "Seen from {head}. Slacken the string a little, turn, tune up to {note}, measure again."
        ),
    }
}

fn behind_after(step: &Move) -> Length {
    match &step.sum {
        Sum::Saddle(sum) => sum.behind_after.value,
        _ => Length::ZERO,
    }
}

/// Where the numbers come from, term by term.
fn why(step: &Move) -> Vec<(String, String)> {
    if let Sum::Bar { treble, bass } = &step.sum {
        return vec![
            line(
                "least cents squared of all strings: treble end",
                format!("{} {UNIT}", numbers::in_unit(*treble, 2)),
            ),
            line("bass end", format!("{} {UNIT}", numbers::in_unit(*bass, 2))),
            line("shifted by hand, to a tenth", moves::ends(&step.amount)),
        ];
    }
    let Sum::Saddle(why) = &step.sum else {
        return Vec::new();
    };
    let mut lines = Vec::new();
    if let Some(mean) = why.mean {
        let all: Vec<String> = why
            .readings
            .iter()
            .map(|cents| print::cents(*cents))
            .collect();
        lines.push(line(
            "readings",
            format!("{}: mean {} c", all.join(", "), print::cents(mean)),
        ));
        lines.push(line(
            "the harmonic itself is sharp by",
            format!("{:.2} c", why.harmonic_excess.value()),
        ));
    }
    lines.push(line(
        "error to remove, from all readings",
        format!("{} c", numbers::estimate(why.error)),
    ));
    lines.push(line(
        &format!(
            "first order: error \u{d7} ln 2 / 1200 \u{d7} {}",
            print::with_unit(why.scale)
        ),
        format!("{} {UNIT}", numbers::in_unit(why.first_order, 2)),
    ));
    lines.push(line(
        "by the string's own model",
        format!("{} {UNIT}", numbers::in_unit(why.exact, 2)),
    ));
    if step.is_slid() {
        lines.push(line("slid by hand, to a tenth", numbers::by(step)));
        return lines;
    }
    lines.push(line(
        "this screw really moves",
        format!(
            "{} {UNIT} a turn: thread {} \u{d7} {:.2} \u{b1} {:.2}",
            numbers::in_unit(why.pitch * why.response.value, 3),
            print::with_unit(why.pitch),
            why.response.value,
            why.response.sigma
        ),
    ));
    lines.push(line(
        "turns",
        format!(
            "{:.2}, set to an eighth: {}",
            why.turns_exact.value().abs(),
            numbers::turns(step.turns())
        ),
    ));
    lines.push(line(
        "the tuner resolves",
        format!(
            "{} c; below {:.1} c is too small for it to show",
            why.resolution.value(),
            why.threshold.value()
        ),
    ));
    lines
}

/// What is to be done to a saddle, in the row of one of its strings.
pub fn in_short(saddle: &SaddlePlan, index: usize) -> String {
    let string = saddle.estimate.strings[index].string;
    match &saddle.action {
        Action::Adjust(step) => format!(
            "{}{} \u{b7} {}",
            if saddle.estimate.is_unread() {
                "start: "
            } else {
                ""
            },
            numbers::way(match &step.sum {
                // As far as the bar goes under this string.
                Sum::Bar { .. } => saddle.target.value - saddle.estimate.setback.value,
                _ => step.distance,
            }),
            if matches!(step.sum, Sum::Bar { .. }) {
                "the bar".to_owned()
            } else if step.is_slid() {
                "slide".to_owned()
            } else {
                numbers::turns(step.turns())
            }
        ),
        Action::Measure(places) if places.iter().any(|place| place.string() == Some(string)) => {
            if saddle.estimate.strings[index].count == 0 {
                "measure".to_owned()
            } else {
                "measure again".to_owned()
            }
        }
        Action::Measure(places) => {
            let others: Vec<u8> = places.iter().filter_map(|place| place.string()).collect();
            let many = if others.len() == 1 { "" } else { "s" };
            format!("wait for string{many} {}", text::list(&others, ", "))
        }
        Action::Leave if saddle.strings().count() > 1 => {
            format!("leave, {} c stays", print::cents(saddle.remaining[index]))
        }
        Action::Leave => "leave".to_owned(),
        Action::Stop(Stop::Stuck) => "screw is stuck".to_owned(),
        Action::Stop(Stop::NoDrive { by }) => format!("no drive: {}", numbers::way(*by)),
        Action::Stop(_) => "out of travel: see options".to_owned(),
    }
}
