//! The balance station: plate, springs and claw, or a tail and its spring.

use askama::Template;
use gradimen_bench::text::next::Headline;
use gradimen_bench::text::next::balance::{self as says, Names};
use gradimen_core::quantity::{Cents, Turns};
use gradimen_core::units::print;
use gradimen_core::units::print::UNIT;

use crate::commands::What;
use crate::components::{
    Choice, FieldMark, FindingView, FormAction, Head, LaneField, Next, findings,
};
use crate::filters;
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::words::{self, note};

struct Row {
    string: u8,
    note: String,
    up: String,
    dive: String,
    bent: String,
}

struct HookRow {
    number: usize,
    length: String,
    pull: String,
    share: String,
    at_end: bool,
}

#[derive(Template)]
#[template(path = "stations/balance/page.html")]
pub(crate) struct Balance {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    none: bool,
    claw: bool,
    washers: bool,
    columns: [&'static str; 2],
    rows: Vec<Row>,
    hooks: Vec<HookRow>,
    schools: Vec<Choice>,
    springs: Vec<Choice>,
    converging: bool,
    facts: Vec<String>,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Balance {
    let fields = view.fields.clone();
    let Some(balance) = &plan.balance else {
        return nothing(frame, job, plan, fields);
    };
    let kind = balance.record.kind;
    let names = says::names(kind);
    let drawing = super::drawing::draw(
        balance,
        job.instrument().left_handed,
        &field(&frame, balance, names, &fields),
    );
    Balance {
        head: Head::new(),
        drawing,
        next: next(job, plan, balance),
        found: findings(plan, |finding| {
            finding.station() == Some(StationId::Balance)
        }),
        none: false,
        claw: kind == VibratoKind::BodySprings,
        washers: kind == VibratoKind::ArmSpring,
        columns: [names.up, names.dive],
        rows: balance.ranges.iter().map(|range| row(job, range)).collect(),
        hooks: hooks(balance),
        schools: BalanceSchool::all()
            .map(|school| Choice::of(school.key(), school.name(), school == balance.school))
            .collect(),
        springs: (1..=5)
            .map(|count: u8| {
                let count_now = count == balance.record.springs;
                Choice::of(&count.to_string(), &count.to_string(), count_now)
            })
            .collect(),
        converging: balance.record.converging,
        facts: says::facts(balance),
        frame,
        fields,
    }
}

/// The station of a bridge without a vibrato.
fn nothing(frame: JobLayout, job: &Known, plan: &Plan, fields: Fields) -> Balance {
    Balance {
        head: Head::new(),
        drawing: String::new(),
        next: Next::of(Headline {
            kicker: "Balance".to_owned(),
            big: vec!["Nothing to balance".to_owned()],
            expect: vec!["This bridge has no vibrato on its record.".to_owned()],
            ..Headline::default()
        })
        .or_station(job, plan, StationId::Balance),
        found: Vec::new(),
        none: true,
        claw: false,
        washers: false,
        columns: ["", ""],
        rows: Vec::new(),
        hooks: Vec::new(),
        schools: Vec::new(),
        springs: Vec::new(),
        converging: false,
        facts: Vec::new(),
        frame,
        fields,
    }
}

fn row(job: &Known, range: &Range) -> Row {
    let cents = |value: Cents, decimals| format!("{} c", print::signed(value.value(), decimals));
    Row {
        string: range.string,
        note: note(job, range.string),
        up: cents(range.up, 0),
        dive: range
            .dive
            .map_or("slack".to_owned(), |value| cents(value, 0)),
        bent: cents(range.bent, 1),
    }
}

fn hooks(balance: &BalancePlan) -> Vec<HookRow> {
    balance
        .hooks
        .iter()
        .enumerate()
        .map(|(index, hook)| HookRow {
            number: index + 1,
            length: words::in_unit(hook.length, 1),
            pull: words::newtons(hook.pull),
            share: format!("{:.0} %", hook.share * 100.0),
            at_end: hook.at_end,
        })
        .collect()
}

fn field(frame: &JobLayout, balance: &BalancePlan, names: Names, fields: &Fields) -> String {
    let shown = if balance.last.is_some() {
        format!("{} {UNIT}", words::in_unit(balance.now.value, 1))
    } else {
        String::new()
    };
    let expected = balance.last.as_ref().map(|_| balance.now.value);
    let placeholder = if balance.record.kind == VibratoKind::BodySprings {
        "mm, or flat"
    } else {
        "mm"
    };
    LaneField::new(frame, What::Balance, 1)
        .length(fields, "vibrato_gap", placeholder, expected)
        .showing(
            &format!("Gap {}, at pitch", names.under),
            FieldMark {
                verdict: balance.verdict,
                word: text::gap_verdict(balance.verdict),
                shown,
            },
        )
        .typed(fields)
        .html()
}

fn next(job: &Known, plan: &Plan, balance: &BalancePlan) -> Next {
    let mut next = Next::of(says::headline(balance));
    match &balance.action {
        Action::Adjust(step) => next.acts = vec![turned(balance.record.kind, step)],
        Action::Stop(Stop::Springs {
            enough: Some(count),
        }) => {
            let run = if balance.record.converging {
                "yes"
            } else {
                "no"
            };
            next.acts = vec![FormAction::done(
                What::Springs,
                &format!("{count} springs are on"),
                vec![("count", count.to_string()), ("converging", run.to_owned())],
            )];
        }
        Action::Leave => next = next.or_station(job, plan, StationId::Balance),
        // Heights that are wanted first are read at their own station: the way there is one press.
        Action::Measure(places) if !places.contains(&Place::Gap) => {
            let string = places.iter().find_map(|place| place.string());
            next.onward = string.map(|string| {
                (
                    format!("action?string={string}&focus=action-{string}"),
                    format!("To the action of string {string}"),
                )
            });
        }
        Action::Measure(_) | Action::Stop(_) => {}
    }
    next
}

/// The move was made as it stands.
fn turned(kind: VibratoKind, step: &Move) -> FormAction {
    let (stronger, weaker) = kind.ways();
    let turns = step.turns();
    let way = if turns >= Turns::ZERO {
        stronger
    } else {
        weaker
    };
    let apart = match step.amount {
        Amount::Apart { apart, .. } => apart,
        _ => 0.0,
    };
    let what = if kind == VibratoKind::BodySprings {
        What::Claw
    } else {
        What::Seat
    };
    FormAction::done(
        what,
        "Done, measure again",
        vec![
            ("turns", turns.value().abs().to_string()),
            ("way", way.to_owned()),
            ("apart", apart.to_string()),
        ],
    )
}
