//! The next move at the balance station, in words.

use gradimen_bench::balance::{BalanceAction, BalancePlan, ClawMove, TOLERANCE};
use gradimen_bench::event::Side;
use gradimen_bench::hardware::VibratoKind;
use gradimen_bench::plan::Plan;
use gradimen_bench::whole::Station;
use gradimen_core::quantity::{Length, Turns};
use gradimen_core::units::print;

use super::Names;
use crate::pages::setup::{Act, Next, next_station, spread};
use crate::words;

pub(super) fn next(plan: &Plan, balance: &BalancePlan, names: Names) -> Next {
    let school = if balance.record.kind == VibratoKind::BodySprings {
        balance.school.name()
    } else {
        "bar level"
    };
    let mut next = Next {
        kicker: format!(
            "{} \u{b7} {school} \u{b7} wanted {} mm {}",
            names.subject,
            words::mm(balance.target, 1),
            names.under
        ),
        caution: names.caution.to_owned(),
        ..Next::default()
    };
    match &balance.action {
        BalanceAction::Read if balance.last.is_some() => {
            next.big = vec![
                "Tune up to pitch,".to_owned(),
                "read the gap again".to_owned(),
            ];
        }
        BalanceAction::Read => {
            next.big = vec!["At pitch, read the gap".to_owned(), names.under.to_owned()];
        }
        BalanceAction::Turn(step) => turn(balance, step, &mut next),
        BalanceAction::Leave => {
            next.big = vec![
                match balance.record.kind {
                    VibratoKind::BodySprings => "Leave the claw",
                    VibratoKind::TailSpring | VibratoKind::ArmSpring => "Leave the spring",
                }
                .to_owned(),
            ];
            next.expect = vec![if balance.off().abs() <= TOLERANCE {
                format!(
                    "{} mm: within {} mm of what is wanted.",
                    spread(balance.now),
                    words::mm(TOLERANCE, 1)
                )
            } else {
                format!(
                    "{} mm: as near as whole washers bring it.",
                    spread(balance.now)
                )
            }];
            next.onward = next_station(plan, Station::Balance);
        }
        BalanceAction::Springs(wanted) => springs(balance, *wanted, &mut next),
    }
    if balance.action == BalanceAction::Read {
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
    next.acts = vec![Act::done(
        "springs",
        &format!("{count} springs are on"),
        vec![("count", count.to_string()), ("converging", run.to_owned())],
    )];
}

/// The big sentence of a move.
fn sentence(balance: &BalancePlan, step: &ClawMove) -> Vec<String> {
    let kind = balance.record.kind;
    let stronger = step.turns >= Turns::ZERO;
    match kind {
        VibratoKind::BodySprings if step.apart != Turns::ZERO => Side::ALL
            .map(|side| {
                let turns = step.turns_of(side);
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
            format!("{} {}", words::turns(step.turns), step.rotation),
        ],
        VibratoKind::TailSpring => vec![
            format!("Spring {}:", if stronger { "tighter" } else { "looser" }),
            format!("{} {}", words::turns(step.turns), step.rotation),
        ],
        VibratoKind::ArmSpring => {
            let washers = step.turns.abs().value();
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

fn turn(balance: &BalancePlan, step: &ClawMove, next: &mut Next) {
    let kind = balance.record.kind;
    let (stronger, weaker) = kind.ways();
    let way = if step.turns >= Turns::ZERO {
        stronger
    } else {
        weaker
    };
    next.is_move = true;
    next.big = sentence(balance, step);
    next.expect = vec![
        format!("Retune, then read: expect {} mm.", spread(step.expected)),
        match step.rounds {
            1 => "One round.".to_owned(),
            rounds => format!("About {rounds} rounds, the strings at pitch between them."),
        },
    ];
    let claw = kind == VibratoKind::BodySprings;
    next.acts = vec![Act::done(
        if claw { "claw" } else { "seat" },
        "Done, read again",
        vec![
            ("turns", step.turns.value().abs().to_string()),
            ("way", way.to_owned()),
            ("apart", step.apart.value().to_string()),
        ],
    )];
    let line = |name: &str, value: String| (name.to_owned(), value);
    next.why = vec![
        line("gap now, at pitch", format!("{} mm", spread(balance.now))),
        line("wanted", format!("{} mm", words::mm(balance.target, 1))),
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
            format!("{} mm", words::mm(step.per_turn, 1)),
        ),
        line(
            "all strings pull",
            format!("{} N", words::newtons(balance.pull)),
        ),
        line("a spring is", print::rate(balance.rate.value)),
    ];
    if let Some([treble, bass]) = balance.ends {
        next.why.push(line(
            "claw to wall, treble and bass",
            format!("{}, {} mm", words::mm(treble, 1), words::mm(bass, 1)),
        ));
    }
}
