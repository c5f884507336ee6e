//! The balance station: plate, springs and claw.

use askama::Template;
use gradimen_bench::balance::{BalanceAction, BalancePlan, ClawMove, TOLERANCE};
use gradimen_bench::event::BalanceSchool;
use gradimen_bench::findings::SetupFinding;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::whole::Station;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{Act, Found, LaneField, Next, found, next_station, note, spread};
use crate::forms::Fields;
use crate::pages::job::{Frame, View};
use crate::pages::{Choice, Head};
use crate::{filters, svg, words};

struct Row {
    string: u8,
    note: String,
    up: String,
    bent: String,
}

#[derive(Template)]
#[template(path = "balance.html")]
pub(crate) struct Balance {
    head: Head,
    frame: Frame,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<Found>,
    none: bool,
    rows: Vec<Row>,
    schools: Vec<Choice>,
    springs: Vec<Choice>,
    converging: bool,
    facts: Vec<String>,
}

pub(crate) fn station(frame: Frame, job: &Job, plan: &Plan, view: &View) -> Balance {
    let fields = view.fields.clone();
    let Some(balance) = &plan.balance else {
        return Balance {
            head: Head::new(),
            drawing: String::new(),
            next: Next {
                kicker: "Balance".to_owned(),
                big: vec!["Nothing to balance".to_owned()],
                expect: vec![
                    "This bridge has no vibrato with springs in the body on its record.".to_owned(),
                ],
                onward: next_station(plan, Station::Balance),
                ..Next::default()
            },
            found: Vec::new(),
            none: true,
            rows: Vec::new(),
            schools: Vec::new(),
            springs: Vec::new(),
            converging: false,
            facts: Vec::new(),
            frame,
            fields,
        };
    };
    let drawing = svg::balance::draw(
        balance,
        job.instrument().left_handed,
        &field(&frame, balance, &fields),
    );
    Balance {
        head: Head::new(),
        drawing,
        next: next(plan, balance),
        found: found(plan, |finding| {
            matches!(
                finding,
                SetupFinding::Springs { .. } | SetupFinding::PulledUp(_)
            )
        }),
        none: false,
        rows: balance
            .ranges
            .iter()
            .map(|range| Row {
                string: range.string,
                note: note(job, range.string),
                up: format!("{} c", print::signed(range.up.value(), 0)),
                bent: format!("{} c", print::signed(range.bent.value(), 1)),
            })
            .collect(),
        schools: BalanceSchool::ALL
            .into_iter()
            .map(|school| Choice::of(school.key(), school.name(), school == balance.school))
            .collect(),
        springs: (1..=5)
            .map(|count: u8| {
                let count_now = count == balance.record.springs;
                Choice::of(&count.to_string(), &count.to_string(), count_now)
            })
            .collect(),
        converging: balance.record.converging,
        facts: facts(balance),
        frame,
        fields,
    }
}

fn field(frame: &Frame, balance: &BalancePlan, fields: &Fields) -> String {
    let typed = fields.field("gap");
    let here = fields.text("what") == "balance";
    let wrong = here && !typed.error.is_empty();
    let shown = if balance.last.is_some() {
        format!("{} mm", words::mm(balance.now.value, 1))
    } else {
        String::new()
    };
    LaneField {
        job: frame.id,
        seq: frame.seq,
        station: "balance",
        what: "balance",
        id: "balance-1".to_owned(),
        lane: "1".to_owned(),
        hidden: Vec::new(),
        mark: svg::inline_mark(balance.verdict),
        label: format!(
            "Gap under the tail of the plate, at pitch. {} {shown}",
            balance.verdict.gap_word()
        ),
        shown,
        value: if wrong { typed.value } else { String::new() },
        wrong,
        placeholder: "mm, or flat",
        limits: "vibrato_gap",
    }
    .html()
}

fn facts(balance: &BalancePlan) -> Vec<String> {
    let mut facts = vec![format!(
        "All strings pull {} N; {} springs answer.",
        words::newtons(balance.pull),
        balance.record.springs
    )];
    if balance.school == BalanceSchool::Decked {
        facts.push(format!(
            "Held down by {} N beyond the strings; a whole step on the hardest string takes {} N.",
            words::newtons(balance.spare),
            words::newtons(balance.spare_wanted)
        ));
    }
    if let Some(broken) = balance.broken {
        facts.push(format!(
            "When the thickest string breaks the others go {} cents.",
            print::signed(broken.value(), 0)
        ));
    }
    facts
}

fn next(plan: &Plan, balance: &BalancePlan) -> Next {
    let mut next = Next {
        kicker: format!(
            "Vibrato \u{b7} {} \u{b7} wanted {} mm under its tail",
            balance.school.name(),
            words::mm(balance.target, 1)
        ),
        caution: "Springs and strings are under load and can fly: glasses on, strings slack before a spring is hooked on or off. Both screws of the claw alike. Every gap is read at pitch.".to_owned(),
        ..Next::default()
    };
    match &balance.action {
        BalanceAction::Read => {
            let again = balance.last.is_some();
            next.big = vec![
                if again {
                    "Tune up to pitch,"
                } else {
                    "At pitch, read the gap"
                }
                .to_owned(),
                if again {
                    "read the gap again"
                } else {
                    "under the tail"
                }
                .to_owned(),
            ];
            next.expect = vec![format!("Expect {} mm.", spread(balance.now))];
        }
        BalanceAction::Turn(step) => turn(balance, step, &mut next),
        BalanceAction::Leave => {
            next.big = vec!["Leave the claw".to_owned()];
            next.expect = vec![format!(
                "{} mm: within {} mm of what is wanted.",
                spread(balance.now),
                words::mm(TOLERANCE, 1)
            )];
            next.onward = next_station(plan, Station::Balance);
        }
        BalanceAction::Springs(wanted) => {
            next.is_out = true;
            next.big = match wanted {
                Some(count) => vec![
                    format!("{} springs cannot:", balance.record.springs),
                    format!("hook on {count}"),
                ],
                None => vec![
                    "These springs cannot".to_owned(),
                    "hold this set".to_owned(),
                ],
            };
            if let Some(count) = wanted {
                next.acts = vec![Act::done(
                    "springs",
                    &format!("{count} springs are on"),
                    vec![
                        ("count", count.to_string()),
                        (
                            "converging",
                            if balance.record.converging {
                                "yes"
                            } else {
                                "no"
                            }
                            .to_owned(),
                        ),
                    ],
                )];
            }
        }
    }
    next
}

fn turn(balance: &BalancePlan, step: &ClawMove, next: &mut Next) {
    let inward = step.turns.value() > 0.0;
    next.is_move = true;
    next.big = vec![
        format!("Claw {}: both screws", if inward { "in" } else { "out" }),
        format!("{} {}", words::turns(step.turns), step.rotation),
    ];
    next.expect = vec![
        format!("Retune, then read: expect {} mm.", spread(step.expected)),
        match step.rounds {
            1 => "One round.".to_owned(),
            rounds => format!("About {rounds} rounds of at most a turn."),
        },
    ];
    next.acts = vec![Act::done(
        "claw",
        "Done, read again",
        vec![
            ("turns", step.turns.value().abs().to_string()),
            ("way", if inward { "in" } else { "out" }.to_owned()),
        ],
    )];
    let line = |name: &str, value: String| (name.to_owned(), value);
    next.why = vec![
        line("gap now, at pitch", format!("{} mm", spread(balance.now))),
        line("wanted", format!("{} mm", words::mm(balance.target, 1))),
        line(
            "the claw is to go",
            format!(
                "{} mm {}",
                words::mm(step.distance.abs(), 2),
                if step.distance > Length::ZERO {
                    "in"
                } else {
                    "out"
                }
            ),
        ),
        line("turns in all", format!("{:.2}", step.total.value())),
        line(
            "a turn moves the gap, at pitch, by",
            format!("{} mm", words::mm(step.per_turn, 1)),
        ),
        line(
            "all strings pull",
            format!("{} N", words::newtons(balance.pull)),
        ),
    ];
}
