//! The action station: height screws and posts.

use askama::Template;
use gradimen_bench::text::next;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::form::key_of;
use crate::commands::What;
use crate::components::{
    FieldMark, FindingView, FormAction, Head, LaneField, Next, Tools, findings, string_in_hand,
    tools,
};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::words::{self, last_read, note, spread};
use crate::{filters, svg};

struct Row {
    string: u8,
    note: String,
    href: String,
    in_hand: bool,
    read: String,
    carried: bool,
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
#[template(path = "stations/action/page.html")]
pub(crate) struct ActionPage {
    tools: Tools,
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    rows: Vec<Row>,
    rule: Vec<String>,
    adjuster: String,
    in_hand: u8,
    fret: u8,
    fixed: bool,
    arc: String,
    relief_first: bool,
    vibrato_first: bool,
    bolted: bool,
}

impl ActionPage {
    /// Whether any reading is carried from before something moved.
    fn carried(&self) -> bool {
        self.rows.iter().any(|row| row.carried)
    }
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> ActionPage {
    let mut fields = view.fields.clone();
    let targets = &plan.targets;
    fields.suggest("action_treble", targets.action_treble.written.clone());
    fields.suggest("action_bass", targets.action_bass.written.clone());
    fields.suggest("action_fret", targets.action_fret.to_string());
    fields.suggest("inner", targets.inner.key());
    let height = &plan.action;
    let wanting = height.next_adjuster().and_then(AdjusterPlan::wanting);
    let string = string_in_hand(&fields, job, wanting);
    let frame = frame.with_string(string);
    let drawing = svg::views::lanes(job, plan, string, height.fret, |on| {
        field(&frame, plan, &fields, on)
    });
    let adjuster = height.adjuster_of(string);
    ActionPage {
        tools: tools(
            &frame,
            &fields,
            &[Tool::Rule64, Tool::Rule32, Tool::RuleHalfMm, Tool::Dial],
        ),
        head: Head::new(),
        drawing,
        next: next(job, plan, string),
        found: findings(plan, |finding| finding.station() == Some(StationId::Action)),
        rows: height
            .strings
            .iter()
            .map(|on| row(job, plan, on, string, frame.id))
            .collect(),
        rule: (5..=19)
            .map(|halves| (f64::from(halves) / 2.0).to_string())
            .collect(),
        adjuster: adjuster.map_or(string.to_string(), |plan| key_of(plan.adjuster)),
        in_hand: string,
        fret: height.fret,
        fixed: height.fixed,
        arc: next::action::arc(plan),
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

fn field(frame: &JobLayout, plan: &Plan, fields: &Fields, string: u8) -> String {
    let Some(on) = plan.action.strings.iter().find(|on| on.string == string) else {
        return String::new();
    };
    let (quantity, fret) = (&on.quantity, plan.action.fret);
    LaneField::new(frame, What::Action, usize::from(string))
        .at(vec![
            ("string", string.to_string()),
            ("fret", fret.to_string()),
        ])
        .length(fields, "action", "64ths", quantity.expected())
        .showing(
            &format!("String {string}, action at fret {fret}"),
            FieldMark {
                verdict: quantity.verdict,
                word: text::gap_verdict(quantity.verdict),
                shown: words::now(quantity, 2),
            },
        )
        .typed(fields)
        .html()
}

fn row(job: &Known, plan: &Plan, on: &HeightString, in_hand: u8, id: i64) -> Row {
    let quantity = &on.quantity;
    let adjuster = plan.action.adjuster_of(on.string);
    let step = adjuster.and_then(|adjuster| adjuster.action.next_move());
    let action = adjuster.map_or(String::new(), next::action::in_short);
    let apart = on.schools.1 - on.schools.0;
    Row {
        string: on.string,
        note: note(job, on.string),
        href: format!("/jobs/{id}/action?string={}", on.string),
        in_hand: on.string == in_hand,
        read: last_read(quantity),
        carried: quantity.is_carried(),
        now: spread(quantity.now),
        mark: svg::inline_mark(quantity.verdict),
        verdict: text::gap_verdict(quantity.verdict),
        out: quantity.verdict.is_out(),
        target: words::in_unit(quantity.target, 2),
        moves: step.is_some(),
        action,
        arrow: step
            .and_then(|step| step.rotation)
            .map_or_else(String::new, svg::inline_turn_arrow),
        schools: print::signed(apart.mm(), 2),
        remains: next::action::remains(on),
    }
}

fn next(job: &Known, plan: &Plan, string: u8) -> Next {
    let mut next = Next::of(next::action::headline(job, plan, string));
    let Some(adjuster) = plan.action.adjuster_of(string) else {
        return next;
    };
    if let Some(step) = adjuster.action.next_move() {
        if plan.waits_for_the_claw(StationId::Action) {
            return next.with_claw_first();
        }
        next.acts = acts(adjuster, step);
    }
    let other = plan.action.next_adjuster();
    let other = other.filter(|other| other.adjuster != adjuster.adjuster);
    next.onward = other.and_then(AdjusterPlan::wanting).map(|other| {
        (
            format!("action?string={other}&focus=action-{other}"),
            format!("Next: string {other} {}", note(job, other)),
        )
    });
    next.or_station(job, plan, StationId::Action)
}

/// What can be told of a move: that it was made, or that the screw is at its end.
fn acts(adjuster: &AdjusterPlan, step: &Move) -> Vec<FormAction> {
    let up = step.distance > Length::ZERO;
    let on = || {
        let first = adjuster.strings.first().copied().unwrap_or(1);
        vec![
            ("string", first.to_string()),
            ("adjuster", key_of(adjuster.adjuster)),
        ]
    };
    let (way, end, says) = if up {
        ("up", "top", "It is all the way up")
    } else {
        ("down", "bottom", "It is all the way down")
    };
    let turned = vec![
        ("turns", step.turns().value().abs().to_string()),
        ("way", way.to_owned()),
    ];
    vec![
        FormAction::done(What::Height, "Done, measure again", [on(), turned].concat()),
        FormAction::plain(
            What::HeightEnd,
            says,
            [on(), vec![("end", end.to_owned())]].concat(),
        ),
    ]
}
