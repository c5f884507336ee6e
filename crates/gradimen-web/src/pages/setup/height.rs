//! The height station: screws and posts.

use askama::Template;
use gradimen_bench::event::{HeightAdjuster, HeightEnd};
use gradimen_bench::findings::SetupFinding;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::setup::{AdjusterPlan, HeightAction, HeightMove, HeightString};
use gradimen_bench::whole::Station;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{
    Act, Found, LaneField, Next, found, last_read, next_station, note, sixty_fourths, spread,
    string_in_hand, typed,
};
use crate::forms::Fields;
use crate::pages::Head;
use crate::pages::job::{Frame, View};
use crate::{filters, svg, words};

struct Row {
    string: u8,
    note: String,
    href: String,
    in_hand: bool,
    read: String,
    now: String,
    mark: String,
    verdict: &'static str,
    out: bool,
    target: String,
    moves: bool,
    action: String,
    arrow: String,
    schools: String,
    remains: String,
}

#[derive(Template)]
#[template(path = "height.html")]
pub(crate) struct Height {
    head: Head,
    frame: Frame,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<Found>,
    rows: Vec<Row>,
    rule: Vec<String>,
    string: u8,
    adjuster: String,
    fret: u8,
    fixed: bool,
    arc: String,
    relief_first: bool,
    vibrato_first: bool,
    bolted: bool,
}

pub(crate) fn station(frame: Frame, job: &Job, plan: &Plan, view: &View) -> Height {
    let mut fields = view.fields.clone();
    let targets = &plan.setup.targets;
    fields.suggest("action_treble", targets.action_treble.written.clone());
    fields.suggest("action_bass", targets.action_bass.written.clone());
    fields.suggest("action_fret", targets.action_fret.to_string());
    fields.suggest("inner", targets.inner.key());
    let height = &plan.setup.height;
    let wanting = height
        .next_adjuster()
        .and_then(|adjuster| match &adjuster.action {
            HeightAction::Read(strings) => strings.first().copied(),
            _ => adjuster.strings.first().copied(),
        });
    let string = string_in_hand(&fields, job, wanting);
    let frame = frame.with_string(string);
    let drawing = svg::setup::lanes(job, plan, string, height.fret, |on| {
        field(&frame, plan, &fields, on)
    });
    let adjuster = height.adjuster_of(string);
    Height {
        head: Head::new(),
        drawing,
        next: next(job, plan, string),
        found: found(plan, |finding| {
            matches!(finding, SetupFinding::HeightSpent { .. })
        }),
        rows: height
            .strings
            .iter()
            .map(|on| row(job, plan, on, string, frame.id))
            .collect(),
        rule: (5..=19)
            .map(|halves| (f64::from(halves) / 2.0).to_string())
            .collect(),
        adjuster: adjuster.map_or(string.to_string(), |plan| plan.adjuster.key()),
        string,
        fret: height.fret,
        fixed: height.fixed,
        arc: arc(plan),
        relief_first: plan.setup.relief.next_move().is_some(),
        vibrato_first: plan
            .balance
            .as_ref()
            .is_some_and(|balance| balance.next_move().is_some()),
        bolted: job.instrument().neck.bolted,
        frame,
        fields,
    }
}

fn arc(plan: &Plan) -> String {
    let radius = |arc: Option<Length>| {
        arc.map_or("straight".to_owned(), |arc| {
            format!("{} mm ({:.2} in)", words::mm(arc, 0), arc.inches())
        })
    };
    let height = &plan.setup.height;
    let lean = height
        .strings
        .first()
        .map(|string| string.lean)
        .filter(|lean| *lean > Length::ZERO)
        .map_or(String::new(), |lean| {
            format!(
                " An outer saddle leans with the arc when its outer screw stands {} mm lower than its inner.",
                words::mm(lean, 1)
            )
        });
    format!(
        "Crowns at the bridge: radius {} now, {} when done. The board carried on to the bridge: {}.{lean}",
        radius(height.arc.0),
        radius(height.arc.1),
        radius(Some(height.gauge))
    )
}

fn field(frame: &Frame, plan: &Plan, fields: &Fields, string: u8) -> String {
    let Some(on) = plan
        .setup
        .height
        .strings
        .iter()
        .find(|on| on.string == string)
    else {
        return String::new();
    };
    let (value, wrong) = typed(fields, "action", "gap", &string.to_string());
    let shown = if on.quantity.last.is_some() {
        format!("{} mm", words::mm(on.quantity.now.value, 2))
    } else {
        String::new()
    };
    let fret = plan.setup.height.fret;
    LaneField {
        job: frame.id,
        seq: frame.seq,
        station: "height",
        what: "action",
        id: format!("action-{string}"),
        lane: string.to_string(),
        hidden: vec![("string", string.to_string()), ("fret", fret.to_string())],
        mark: svg::inline_mark(on.quantity.verdict),
        label: format!(
            "String {string}, height over fret {fret}. {} {shown}",
            on.quantity.verdict.gap_word()
        ),
        shown,
        value,
        wrong,
        placeholder: "64ths",
        limits: "action",
    }
    .html()
}

fn row(job: &Job, plan: &Plan, on: &HeightString, in_hand: u8, id: i64) -> Row {
    let quantity = &on.quantity;
    let adjuster = plan.setup.height.adjuster_of(on.string);
    let step = adjuster.and_then(step_of);
    let action = adjuster.map_or(String::new(), action_words);
    let apart = on.schools.1 - on.schools.0;
    Row {
        string: on.string,
        note: note(job, on.string),
        href: format!("/jobs/{id}/height?string={}", on.string),
        in_hand: on.string == in_hand,
        read: last_read(quantity),
        now: spread(quantity.now),
        mark: svg::inline_mark(quantity.verdict),
        verdict: quantity.verdict.gap_word(),
        out: quantity.verdict.is_out(),
        target: words::mm(quantity.target, 2),
        moves: step.is_some(),
        action,
        arrow: step.map_or(String::new(), |step| svg::inline_turn_arrow(step.rotation)),
        schools: print::signed(apart.mm(), 2),
        remains: if on.remains.abs() > Length::from_mm(0.02) {
            format!(
                "{} {} mm",
                if on.remains > Length::ZERO {
                    "raise"
                } else {
                    "cut"
                },
                words::mm(on.remains.abs(), 2)
            )
        } else {
            "fits".to_owned()
        },
    }
}

const fn step_of(adjuster: &AdjusterPlan) -> Option<&HeightMove> {
    match &adjuster.action {
        HeightAction::Turn(step) => Some(step),
        _ => None,
    }
}

fn action_words(adjuster: &AdjusterPlan) -> String {
    match &adjuster.action {
        HeightAction::Read(_) => "read".to_owned(),
        HeightAction::Leave => "leave".to_owned(),
        HeightAction::AtEnd { short_by, .. } => {
            format!("at its end, {} short", print::tenths(*short_by))
        }
        HeightAction::Turn(step) => {
            format!("{} \u{b7} {}", up_or_down(step), words::turns(step.turns))
        }
    }
}

fn up_or_down(step: &HeightMove) -> String {
    format!(
        "{} {} mm",
        if step.distance > Length::ZERO {
            "up"
        } else {
            "down"
        },
        words::mm(step.distance.abs(), 2)
    )
}

fn next(job: &Job, plan: &Plan, string: u8) -> Next {
    let height = &plan.setup.height;
    let mut next = Next {
        caution: "Slacken the string before raising, both screws of a saddle alike and both carrying. A quarter turn is a lot. Retune before reading.".to_owned(),
        ..Next::default()
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
        HeightAdjuster::String(_) => format!("String {string} \u{b7} {}", note(job, string)),
        HeightAdjuster::Post(side) => format!("The {} post", side.key()),
    };
    next.kicker = format!(
        "{name} \u{b7} over fret {} wanted {} mm ({})",
        height.fret,
        words::mm(on.quantity.target, 2),
        sixty_fourths(on.quantity.target)
    );
    match &adjuster.action {
        HeightAction::Read(strings) => {
            let names: Vec<String> = strings.iter().map(u8::to_string).collect();
            next.big = vec![
                format!("Read over fret {}:", height.fret),
                format!("string {}", names.join(" and ")),
            ];
            next.expect = vec![format!("Expect {} mm.", spread(on.quantity.now))];
        }
        HeightAction::Turn(step) => turn(adjuster, step, height.fret, &mut next),
        HeightAction::Leave => {
            let done = height
                .adjusters
                .iter()
                .all(|adjuster| adjuster.action == HeightAction::Leave);
            next.big = vec![
                if done {
                    "Every height is right"
                } else {
                    "Leave this height"
                }
                .to_owned(),
            ];
            next.expect = vec![format!(
                "{} mm now, {} when the plan is done: within {} mm.",
                spread(on.quantity.now),
                words::mm(on.quantity.after, 2),
                words::mm(on.quantity.tolerance, 2)
            )];
        }
        HeightAction::AtEnd { end, short_by, .. } => {
            next.is_out = true;
            next.big = vec![
                format!("{} short", print::tenths(*short_by)),
                match end {
                    HeightEnd::Bottom => "and all the way down",
                    HeightEnd::Top => "and all the way up",
                }
                .to_owned(),
            ];
        }
    }
    let other = height
        .next_adjuster()
        .filter(|other| other.adjuster != adjuster.adjuster);
    if let Some(other) = other.and_then(|other| match &other.action {
        HeightAction::Read(strings) => strings.first(),
        _ => other.strings.first(),
    }) {
        next.onward = Some((
            format!("height?string={other}&focus=action-{other}"),
            format!("Next: string {other} {}", note(job, *other)),
        ));
    }
    if next.onward.is_none() && !next.is_move {
        next.onward = next_station(plan, Station::Height);
    }
    next
}

fn turn(adjuster: &AdjusterPlan, step: &HeightMove, fret: u8, next: &mut Next) {
    let up = step.distance > Length::ZERO;
    next.is_move = true;
    let what = match adjuster.adjuster {
        HeightAdjuster::String(_) => "both screws",
        HeightAdjuster::Post(_) => "the post",
    };
    next.big = vec![
        format!(
            "{} {} mm: {what}",
            if up { "Up" } else { "Down" },
            words::mm(step.distance.abs(), 2)
        ),
        format!("{} {}", words::turns(step.turns), step.rotation),
    ];
    let expected: Vec<String> = step
        .expected
        .iter()
        .map(|(string, value)| format!("{} mm on string {string}", spread(*value)))
        .collect();
    next.expect = vec![format!(
        "Expect {} over fret {fret}, on the neck and nut to come.",
        expected.join(", ")
    )];
    next.acts = vec![
        Act::done(
            "height",
            "Done, read again",
            vec![
                (
                    "string",
                    adjuster.strings.first().copied().unwrap_or(1).to_string(),
                ),
                ("adjuster", adjuster.adjuster.key()),
                ("turns", step.turns.value().abs().to_string()),
                ("way", if up { "up" } else { "down" }.to_owned()),
            ],
        ),
        Act::plain(
            "height_end",
            if up {
                "It is all the way up"
            } else {
                "It is all the way down"
            },
            vec![
                (
                    "string",
                    adjuster.strings.first().copied().unwrap_or(1).to_string(),
                ),
                ("adjuster", adjuster.adjuster.key()),
                ("end", if up { "top" } else { "bottom" }.to_owned()),
            ],
        ),
    ];
    let line = |name: &str, value: String| (name.to_owned(), value);
    next.why = vec![
        line(
            "the crown is to go",
            format!("{} mm", words::mm(step.distance, 2)),
        ),
        line(
            "this screw really lifts",
            format!(
                "{} mm a turn: thread {} \u{d7} {:.2} \u{b1} {:.2}",
                words::mm(step.pitch * step.response.value, 3),
                print::mm(step.pitch),
                step.response.value,
                step.response.sigma
            ),
        ),
        line(
            "turns",
            format!(
                "{:.2}, set to an eighth: {}",
                step.turns_exact.value().abs(),
                words::turns(step.turns)
            ),
        ),
    ];
}
