//! The next move at the balance station, in words.

use crate::vocabulary::*;
use gradimen_bench::stations::balance::turns_of_side;
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;

use super::Names;
use crate::pages::setup::{FormAction, Next, expected, next_station, spread};
use crate::words;

pub(super) fn next(job: &Known, plan: &Plan, balance: &BalancePlan, names: Names) -> Next {
    let school = if balance.record.kind == VibratoKind::BodySprings {
        balance.school.name()
    } else {
        "bar level"
    };
    let mut next = Next {
        kicker: format!(
            "{} \u{b7} {school} \u{b7} target {} mm {}",
            names.subject,
            words::mm(balance.target, 1),
            names.under
        ),
        caution: names.caution.to_owned(),
        ..Next::default()
    };
    match &balance.action {
        Action::Measure(_) if balance.last.is_some() => {
            next.big = vec![
                "Tune up to pitch,".to_owned(),
                "measure the gap again".to_owned(),
            ];
        }
        Action::Measure(_) => {
            next.big = vec![
                "At pitch, measure the gap".to_owned(),
                names.under.to_owned(),
            ];
        }
        Action::Adjust(step) => turn(balance, step, &mut next),
        Action::Leave => {
            next.big = vec![
                match balance.record.kind {
                    VibratoKind::BodySprings => "Leave the claw",
                    VibratoKind::TailSpring | VibratoKind::ArmSpring => "Leave the spring",
                }
                .to_owned(),
            ];
            next.expect = vec![if balance.off().abs() <= balance.tolerance {
                format!(
                    "{} mm: within {} mm of the target.",
                    spread(balance.now),
                    words::mm(balance.tolerance, 1)
                )
            } else {
                format!(
                    "{} mm: as near as whole washers bring it.",
                    spread(balance.now)
                )
            }];
            next.onward = next_station(job, plan, StationId::Balance);
        }
        Action::Stop(Stop::Springs { enough }) => springs(balance, *enough, &mut next),
        Action::Stop(_) => next.is_out = true,
    }
    if matches!(balance.action, Action::Measure(_)) {
        next.expect = vec![format!("Expect {} mm.", spread(balance.now))];
    }
    next
}

fn springs(balance: &BalancePlan, wanted: Option<u8>, next: &mut Next) {
    next.is_out = true;
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
    let run = if balance.record.converging {
        "yes"
    } else {
        "no"
    };
    next.acts = vec![FormAction::done(
        "springs",
        &format!("{count} springs are on"),
        vec![("count", count.to_string()), ("converging", run.to_owned())],
    )];
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
                    words::turns(turns),
                    if turns >= Turns::ZERO { "in" } else { "out" }
                )
            })
            .to_vec(),
        VibratoKind::BodySprings => vec![
            format!("Claw {}: both screws", if stronger { "in" } else { "out" }),
            words::turning(step),
        ],
        VibratoKind::TailSpring => vec![
            format!("Spring {}:", if stronger { "tighter" } else { "looser" }),
            words::turning(step),
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

fn turn(balance: &BalancePlan, step: &Move, next: &mut Next) {
    let kind = balance.record.kind;
    let (stronger, weaker) = kind.ways();
    let turns = step.turns();
    let way = if turns >= Turns::ZERO {
        stronger
    } else {
        weaker
    };
    next.is_move = true;
    next.big = sentence(balance, step);
    next.expect = vec![
        format!("Retune, then read: expect {} mm.", expected(step)),
        match step.rounds {
            1 => "One round.".to_owned(),
            rounds => format!("About {rounds} rounds, the strings at pitch between them."),
        },
    ];
    let claw = kind == VibratoKind::BodySprings;
    next.acts = vec![FormAction::done(
        if claw { "claw" } else { "seat" },
        "Done, measure again",
        vec![
            ("turns", turns.value().abs().to_string()),
            ("way", way.to_owned()),
            ("apart", apart(step).to_string()),
        ],
    )];
    let line = |name: &str, value: String| (name.to_owned(), value);
    next.why = vec![
        line("gap now, at pitch", format!("{} mm", spread(balance.now))),
        line("target", format!("{} mm", words::mm(balance.target, 1))),
        line(
            "the adjuster is to go",
            format!(
                "{} mm, {}",
                words::mm(step.distance.abs(), 2),
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
            format!("{} mm", words::mm(per_turn(step), 1)),
        ),
        line("total tension", text::tension(balance.pull)),
        line("a spring is", print::rate(balance.rate.value)),
    ];
    if let Some([treble, bass]) = balance.ends {
        next.why.push(line(
            "claw to wall, treble and bass",
            format!("{}, {} mm", words::mm(treble, 1), words::mm(bass, 1)),
        ));
    }
}
