//! The nut station: the slots.

use askama::Template;
use gradimen_bench::stations::nut::awaits_action;
use gradimen_bench::text::next;

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
    moves: bool,
    action: String,
    first_fret: String,
}

#[derive(Template)]
#[template(path = "stations/nut/page.html")]
pub(crate) struct Nut {
    tools: Tools,
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    rows: Vec<Row>,
    blades: Vec<String>,
    string: u8,
    held: u8,
}

impl Nut {
    /// Whether any reading is carried from before something moved.
    fn carried(&self) -> bool {
        self.rows.iter().any(|row| row.carried)
    }
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Nut {
    let mut fields = view.fields.clone();
    fields.suggest("nut_treble", plan.targets.nut_treble.written.clone());
    fields.suggest("nut_bass", plan.targets.nut_bass.written.clone());
    let string = string_in_hand(&fields, job, plan.nut.next_string());
    let frame = frame.with_string(string);
    let held = match fields.text("held") {
        "0" => 0,
        "3" => 3,
        _ => plan.targets.nut_held,
    };
    let drawing = svg::views::lanes(job, plan, string, 1, |on| {
        field(&frame, plan, &fields, on, held)
    });
    let rows = plan
        .nut
        .strings
        .iter()
        .map(|slot| row(job, slot, string, frame.id, held))
        .collect();
    Nut {
        tools: tools(&frame, &fields, &[Tool::Feeler, Tool::Dial]),
        head: Head::new(),
        drawing,
        next: next(job, plan, string),
        found: findings(plan, |finding| finding.station() == Some(StationId::Nut)),
        rows,
        blades: crate::stations::relief::BLADES
            .iter()
            .skip(8)
            .map(|blade| (*blade).to_owned())
            .collect(),
        string,
        held,
        frame,
        fields,
    }
}

fn field(frame: &JobLayout, plan: &Plan, fields: &Fields, string: u8, held: u8) -> String {
    let Some(slot) = plan.nut.slot_of(string) else {
        return String::new();
    };
    let quantity = &slot.quantity;
    LaneField::new(frame, What::Nut, usize::from(string))
        .at(vec![
            ("string", string.to_string()),
            ("held", held.to_string()),
        ])
        .length(
            fields,
            "gap",
            "thou",
            quantity
                .expected()
                .filter(|_| held == plan.targets.nut_held),
        )
        .showing(
            &format!("String {string}, gap at fret 1"),
            FieldMark {
                verdict: quantity.verdict,
                word: text::gap_verdict(quantity.verdict),
                shown: words::now(quantity, 2),
            },
        )
        .typed(fields)
        .html()
}

fn row(job: &Known, slot: &NutString, in_hand: u8, id: i64, held: u8) -> Row {
    let quantity = &slot.quantity;
    Row {
        string: slot.string,
        note: note(job, slot.string),
        href: format!("/jobs/{id}/nut?string={}&held={held}", slot.string),
        in_hand: slot.string == in_hand,
        read: last_read(quantity),
        carried: quantity.is_carried(),
        now: spread(quantity.now),
        mark: svg::inline_mark(quantity.verdict),
        verdict: text::gap_verdict(quantity.verdict),
        out: quantity.verdict.is_out(),
        moves: slot.action.next_move().is_some(),
        action: next::nut::in_short(slot),
        first_fret: next::nut::first_fret(job, slot),
    }
}

fn next(job: &Known, plan: &Plan, string: u8) -> Next {
    let mut next = Next::of(next::nut::headline(job, plan, string));
    match plan.nut.slot_of(string).map(|slot| &slot.action) {
        Some(Action::Measure(places)) if awaits_action(places) => {
            next.onward = Some((
                format!("action?string={string}&focus=action-{string}"),
                format!("To the action of string {string}"),
            ));
        }
        Some(Action::Adjust(step)) => {
            let strings = if plan.nut.as_one {
                "all".to_owned()
            } else {
                string.to_string()
            };
            let by = format!("{:.3} mm", step.distance.mm());
            let fields = vec![
                ("string", string.to_string()),
                ("strings", strings),
                ("nut_move", by),
            ];
            next.acts = vec![FormAction::done(
                What::NutMoved,
                if plan.nut.as_one {
                    "Shimmed, measure again"
                } else {
                    "Filed, measure again"
                },
                fields,
            )];
        }
        _ => {}
    }
    let other = plan.nut.next_string().filter(|other| *other != string);
    if let (None, Some(other)) = (&next.onward, other) {
        next.onward = Some((
            format!("nut?string={other}&focus=nut-{other}"),
            format!("Next: string {other} {}", note(job, other)),
        ));
    }
    next.or_station(job, plan, StationId::Nut)
}
