//! The balance station: plate, springs and claw, or a tail and its spring.

mod next;

use crate::vocabulary::*;
use next::next;

use askama::Template;
use gradimen_core::quantity::Cents;
use gradimen_core::units::print;

use super::{FindingView, LaneField, Next, found, next_station, note};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::pages::{Choice, Head};
use crate::{filters, svg, words};

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

/// What the station calls things, by what answers the strings.
#[derive(Clone, Copy)]
struct Names {
    subject: &'static str,
    under: &'static str,
    up: &'static str,
    dive: &'static str,
    caution: &'static str,
}

const fn names(kind: VibratoKind) -> Names {
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

#[derive(Template)]
#[template(path = "balance.html")]
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
    let names = names(kind);
    let drawing = svg::balance::draw(
        balance,
        job.instrument().left_handed,
        &field(&frame, balance, names, &fields),
    );
    Balance {
        head: Head::new(),
        drawing,
        next: next(job, plan, balance, names),
        found: found(plan, |finding| {
            matches!(
                finding,
                Finding::Springs { .. }
                    | Finding::PulledUp(_)
                    | Finding::ClawSpent { .. }
                    | Finding::SpringsAtEnd { .. }
                    | Finding::RunsAway
            )
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
        facts: facts(balance),
        frame,
        fields,
    }
}

/// The station of a bridge without a vibrato.
fn nothing(frame: JobLayout, job: &Known, plan: &Plan, fields: Fields) -> Balance {
    Balance {
        head: Head::new(),
        drawing: String::new(),
        next: Next {
            kicker: "Balance".to_owned(),
            big: vec!["Nothing to balance".to_owned()],
            expect: vec!["This bridge has no vibrato on its record.".to_owned()],
            onward: next_station(job, plan, StationId::Balance),
            ..Next::default()
        },
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
            length: words::mm(hook.length, 1),
            pull: words::newtons(hook.pull),
            share: format!("{:.0} %", hook.share * 100.0),
            at_end: hook.at_end,
        })
        .collect()
}

fn field(frame: &JobLayout, balance: &BalancePlan, names: Names, fields: &Fields) -> String {
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
            "Gap {}, at pitch. {} {shown}",
            names.under,
            text::gap_verdict(balance.verdict)
        ),
        shown,
        value: if wrong { typed.value } else { String::new() },
        wrong,
        placeholder: if balance.record.kind == VibratoKind::BodySprings {
            "mm, or flat"
        } else {
            "mm"
        },
        limits: "vibrato_gap",
    }
    .html()
}

fn facts(balance: &BalancePlan) -> Vec<String> {
    let mut facts = vec![format!(
        "Total tension {}; {}. {} is {}, \u{b1} {:.0} %, by {}.",
        text::tension(balance.pull),
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
            words::newtons(balance.spare),
            words::newtons(balance.spare_wanted)
        ));
    }
    if let Some([treble, bass]) = balance.ends {
        facts.push(format!(
            "The claw stands {} mm from its wall at the treble side, {} mm at the bass side.",
            words::mm(treble, 1),
            words::mm(bass, 1)
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
