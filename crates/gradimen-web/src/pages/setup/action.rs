//! The action station: height screws and posts.

use crate::vocabulary::*;
use askama::Template;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{
    FindingView, FormAction, LaneField, Next, found, last_read, next_station, note, sixty_fourths,
    spread, string_in_hand, typed,
};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::pages::{Choice, Head};
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
#[template(path = "action.html")]
pub(crate) struct ActionPage {
    tools: Vec<Choice>,
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    rows: Vec<Row>,
    rule: Vec<String>,
    adjuster: String,
    fret: u8,
    fixed: bool,
    arc: String,
    relief_first: bool,
    vibrato_first: bool,
    bolted: bool,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> ActionPage {
    let mut fields = view.fields.clone();
    let targets = &plan.targets;
    fields.suggest("action_treble", targets.action_treble.written.clone());
    fields.suggest("action_bass", targets.action_bass.written.clone());
    fields.suggest("action_fret", targets.action_fret.to_string());
    fields.suggest("inner", targets.inner.key());
    let height = &plan.action;
    let wanting = height.next_adjuster().and_then(string_of);
    let string = string_in_hand(&fields, job, wanting);
    let frame = frame.with_string(string);
    let drawing = svg::setup::lanes(job, plan, string, height.fret, |on| {
        field(&frame, plan, &fields, on)
    });
    let adjuster = height.adjuster_of(string);
    ActionPage {
        tools: super::tools(
            &frame,
            &fields,
            &[Tool::Rule64, Tool::Rule32, Tool::RuleHalfMm, Tool::Dial],
        ),
        head: Head::new(),
        drawing,
        next: next(job, plan, string),
        found: found(plan, |finding| {
            matches!(finding, Finding::HeightSpent { .. })
        }),
        rows: height
            .strings
            .iter()
            .map(|on| row(job, plan, on, string, frame.id))
            .collect(),
        rule: (5..=19)
            .map(|halves| (f64::from(halves) / 2.0).to_string())
            .collect(),
        adjuster: adjuster.map_or(string.to_string(), |plan| adjuster_key(plan.adjuster)),
        fret: height.fret,
        fixed: height.fixed,
        arc: arc(plan),
        relief_first: plan.relief.next_move().is_some(),
        vibrato_first: plan
            .balance
            .as_ref()
            .is_some_and(|balance| balance.next_move().is_some()),
        bolted: job.instrument().neck.bolted,
        frame,
        fields,
    }
}

/// The string that wants attention on an adjuster: the first to be measured, or one that it carries.
fn string_of(adjuster: &AdjusterPlan) -> Option<u8> {
    let measured = adjuster.action.places().iter();
    let first = measured.filter_map(|place| place.string()).next();
    first.or_else(|| adjuster.strings.first().copied())
}

fn arc(plan: &Plan) -> String {
    let radius = |arc: Option<Length>| {
        arc.map_or("straight".to_owned(), |arc| {
            format!("{} mm ({:.2} in)", words::mm(arc, 0), arc.inches())
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
                " An outer saddle leans with the arc when its outer screw stands {} mm lower than its inner.",
                words::mm(lean, 1)
            )
        });
    format!(
        "Break points: radius {} now, {} after all adjustments. The board carried on to the bridge: {}.{lean}",
        radius(height.arc.0),
        radius(height.arc.1),
        radius(Some(height.gauge))
    )
}

fn field(frame: &JobLayout, plan: &Plan, fields: &Fields, string: u8) -> String {
    let Some(on) = plan.action.strings.iter().find(|on| on.string == string) else {
        return String::new();
    };
    let (value, wrong) = typed(fields, "action", "gap", &string.to_string());
    let shown = if on.quantity.last.is_some() {
        format!("{} mm", words::mm(on.quantity.now.value, 2))
    } else {
        String::new()
    };
    let fret = plan.action.fret;
    LaneField {
        job: frame.id,
        seq: frame.seq,
        station: "action",
        what: "action",
        id: format!("action-{string}"),
        lane: string.to_string(),
        hidden: vec![
            ("tool", fields.text("tool").to_owned()),
            ("string", string.to_string()),
            ("fret", fret.to_string()),
        ],
        mark: svg::inline_mark(on.quantity.verdict),
        label: format!(
            "String {string}, action at fret {fret}. {} {shown}",
            text::gap_verdict(on.quantity.verdict)
        ),
        shown,
        value,
        wrong,
        placeholder: "64ths",
        limits: "action",
    }
    .html()
}

fn row(job: &Known, plan: &Plan, on: &HeightString, in_hand: u8, id: i64) -> Row {
    let quantity = &on.quantity;
    let adjuster = plan.action.adjuster_of(on.string);
    let step = adjuster.and_then(step_of);
    let action = adjuster.map_or(String::new(), action_words);
    let apart = on.schools.1 - on.schools.0;
    Row {
        string: on.string,
        note: note(job, on.string),
        href: format!("/jobs/{id}/action?string={}", on.string),
        in_hand: on.string == in_hand,
        read: last_read(quantity),
        now: spread(quantity.now),
        mark: svg::inline_mark(quantity.verdict),
        verdict: text::gap_verdict(quantity.verdict),
        out: quantity.verdict.is_out(),
        target: words::mm(quantity.target, 2),
        moves: step.is_some(),
        action,
        arrow: step
            .and_then(|step| step.rotation)
            .map_or_else(String::new, svg::inline_turn_arrow),
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

fn step_of(adjuster: &AdjusterPlan) -> Option<&Move> {
    adjuster.action.next_move()
}

/// The word of an adjuster in a form: the number of a string, or a side.
pub(crate) fn adjuster_key(adjuster: Adjuster) -> String {
    match adjuster {
        Adjuster::SaddleHeight { string } => string.to_string(),
        Adjuster::Post { side } => side.key().to_owned(),
        _ => String::new(),
    }
}

fn action_words(adjuster: &AdjusterPlan) -> String {
    match &adjuster.action {
        Action::Measure(_) => "measure".to_owned(),
        Action::Leave => "leave".to_owned(),
        Action::Stop(Stop::AtEnd { short_by, .. }) => {
            format!("at its end, {} short", print::tenths(*short_by))
        }
        Action::Adjust(step) => {
            format!("{} \u{b7} {}", up_or_down(step), words::turns(step.turns()))
        }
        Action::Stop(_) => "stopped".to_owned(),
    }
}

fn up_or_down(step: &Move) -> String {
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

fn next(job: &Known, plan: &Plan, string: u8) -> Next {
    let height = &plan.action;
    let mut next = Next {
        caution: "Slacken the string before raising, both screws of a saddle alike and both bearing. A quarter turn is a lot. Retune before measuring.".to_owned(),
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
        Adjuster::SaddleHeight { string: _ } => {
            format!("String {string} \u{b7} {}", note(job, string))
        }
        other => format!("The {}", text::moves::adjuster(other)),
    };
    next.kicker = format!(
        "{name} \u{b7} action at fret {}, target {} mm ({})",
        height.fret,
        words::mm(on.quantity.target, 2),
        sixty_fourths(on.quantity.target)
    );
    match &adjuster.action {
        Action::Measure(places) => {
            let names: Vec<String> = places
                .iter()
                .filter_map(|place| place.string())
                .map(|string| string.to_string())
                .collect();
            next.big = vec![
                format!("Measure action at fret {}:", height.fret),
                format!("string {}", names.join(" and ")),
            ];
            next.expect = vec![format!("Expect {} mm.", spread(on.quantity.now))];
        }
        Action::Adjust(step) => turn(adjuster, step, height.fret, &mut next),
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
                "{} mm now, {} after all adjustments: within {} mm.",
                spread(on.quantity.now),
                words::mm(on.quantity.after, 2),
                words::mm(on.quantity.tolerance, 2)
            )];
        }
        Action::Stop(Stop::AtEnd { end, short_by, .. }) => {
            next.is_out = true;
            next.big = vec![
                format!("{} short", print::tenths(*short_by)),
                format!("and {}", text::events::end(*end)),
            ];
        }
        Action::Stop(_) => next.is_out = true,
    }
    let other = height
        .next_adjuster()
        .filter(|other| other.adjuster != adjuster.adjuster);
    if let Some(other) = other.and_then(string_of) {
        next.onward = Some((
            format!("action?string={other}&focus=action-{other}"),
            format!("Next: string {other} {}", note(job, other)),
        ));
    }
    if next.onward.is_none() && !next.is_move {
        next.onward = next_station(job, plan, StationId::Action);
    }
    next
}

fn turn(adjuster: &AdjusterPlan, step: &Move, fret: u8, next: &mut Next) {
    let up = step.distance > Length::ZERO;
    next.is_move = true;
    let what = match adjuster.adjuster {
        Adjuster::SaddleHeight { string: _ } => "both screws",
        _ => "the post",
    };
    next.big = vec![
        format!(
            "{} {} mm: {what}",
            if up { "Up" } else { "Down" },
            words::mm(step.distance.abs(), 2)
        ),
        words::turning(step),
    ];
    let expected: Vec<String> = step
        .expected
        .iter()
        .filter_map(|expected| {
            let (string, value) = (expected.place.string()?, expected.value.length()?);
            Some(format!("{} mm on string {string}", spread(value)))
        })
        .collect();
    next.expect = vec![format!(
        "Expect {} at fret {fret}, once neck and nut are set.",
        expected.join(", ")
    )];
    next.acts = vec![
        FormAction::done(
            "height",
            "Done, measure again",
            vec![
                (
                    "string",
                    adjuster.strings.first().copied().unwrap_or(1).to_string(),
                ),
                ("adjuster", adjuster_key(adjuster.adjuster)),
                ("turns", step.turns().value().abs().to_string()),
                ("way", if up { "up" } else { "down" }.to_owned()),
            ],
        ),
        FormAction::plain(
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
                ("adjuster", adjuster_key(adjuster.adjuster)),
                ("end", if up { "top" } else { "bottom" }.to_owned()),
            ],
        ),
    ];
    let line = |name: &str, value: String| (name.to_owned(), value);
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
            format!("{} mm", words::mm(step.distance, 2)),
        ),
        line(
            "this screw really lifts",
            format!(
                "{} mm a turn: thread {} \u{d7} {:.2} \u{b1} {:.2}",
                words::mm(pitch * response.value, 3),
                print::mm(pitch),
                response.value,
                response.sigma
            ),
        ),
        line(
            "turns",
            format!(
                "{:.2}, set to an eighth: {}",
                turns_exact.value().abs(),
                words::turns(step.turns())
            ),
        ),
    ];
}
