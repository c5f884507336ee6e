//! The nut station: the slots.

use crate::vocabulary::*;
use askama::Template;
use gradimen_core::units::print;

use super::{
    FindingView, FormAction, LaneField, Next, found, last_read, next_station, note, small, spread,
    string_in_hand, typed,
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
    moves: bool,
    action: String,
    first_fret: String,
}

#[derive(Template)]
#[template(path = "nut.html")]
pub(crate) struct Nut {
    tools: Vec<Choice>,
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
    let drawing = svg::setup::lanes(job, plan, string, 1, |on| {
        field(&frame, plan, &fields, on, held)
    });
    let rows = plan
        .nut
        .strings
        .iter()
        .map(|slot| row(job, slot, string, frame.id, held))
        .collect();
    Nut {
        tools: super::tools(&frame, &fields, &[Tool::Feeler, Tool::Dial]),
        head: Head::new(),
        drawing,
        next: next(job, plan, string),
        found: found(plan, |finding| matches!(finding, Finding::NutTooLow(_))),
        rows,
        blades: super::relief::BLADES
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

/// Whether the action has to be known before a slot can be judged.
fn wants_action(places: &[Place]) -> bool {
    places
        .iter()
        .any(|place| matches!(place, Place::Action { .. }))
}

fn slot_of(plan: &Plan, string: u8) -> Option<&NutString> {
    plan.nut.strings.iter().find(|slot| slot.string == string)
}

fn field(frame: &JobLayout, plan: &Plan, fields: &Fields, string: u8, held: u8) -> String {
    let Some(slot) = slot_of(plan, string) else {
        return String::new();
    };
    let (value, wrong) = typed(fields, "nut", "gap", &string.to_string());
    let shown = if slot.quantity.last.is_some() {
        format!("{} mm", words::mm(slot.quantity.now.value, 2))
    } else {
        String::new()
    };
    LaneField {
        job: frame.id,
        seq: frame.seq,
        station: "nut",
        what: "nut",
        id: format!("nut-{string}"),
        lane: string.to_string(),
        hidden: vec![
            ("tool", fields.text("tool").to_owned()),
            ("string", string.to_string()),
            ("held", held.to_string()),
        ],
        mark: svg::inline_mark(slot.quantity.verdict),
        label: format!(
            "String {string}, gap at fret 1. {} {shown}",
            text::gap_verdict(slot.quantity.verdict)
        ),
        shown,
        value,
        wrong,
        placeholder: "thou",
        limits: "gap",
    }
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
        now: spread(quantity.now),
        mark: svg::inline_mark(quantity.verdict),
        verdict: text::gap_verdict(quantity.verdict),
        out: quantity.verdict.is_out(),
        moves: slot.action.next_move().is_some(),
        action: match &slot.action {
            Action::Measure(places) if wants_action(places) => "measure action first".to_owned(),
            Action::Measure(_) if quantity.last.is_some() => "measure again".to_owned(),
            Action::Measure(_) => "measure".to_owned(),
            Action::Adjust(_) => format!("file {} mm", words::mm(slot.total, 2)),
            Action::Stop(Stop::TooLow { by }) => format!("{} mm too low", words::mm(*by, 2)),
            Action::Stop(_) => "stopped".to_owned(),
            Action::Leave => "leave".to_owned(),
        },
        first_fret: slot.first_fret(job).map_or(String::new(), |(now, after)| {
            if (now - after).abs().value() < 0.05 {
                format!("{} c", print::cents(now))
            } else {
                format!("{} c, then {}", print::cents(now), print::cents(after))
            }
        }),
    }
}

fn next(job: &Known, plan: &Plan, string: u8) -> Next {
    let mut next = Next {
        caution: "A slot filed too deep cannot be put back. Small strokes, the file falling toward the tuners, and measure again. Glasses on; keep filings off the pickups, they are magnetic.".to_owned(),
        ..Next::default()
    };
    let Some(slot) = slot_of(plan, string) else {
        next.big = vec!["No such string".to_owned()];
        return next;
    };
    next.kicker = format!(
        "String {string} \u{b7} {} \u{b7} gap at fret 1, target {}",
        note(job, string),
        small(slot.quantity.target)
    );
    match &slot.action {
        Action::Measure(places) if wants_action(places) => {
            next.big = vec![
                "Measure the action first:".to_owned(),
                format!("string {string} at fret {}", plan.action.fret),
            ];
            next.expect = vec![
                "Open, the gap at fret 1 hangs on the action. What is filed for a string that only lies too high cannot be put back.".to_owned(),
            ];
            next.onward = Some((
                format!("action?string={string}&focus=action-{string}"),
                format!("To the action of string {string}"),
            ));
        }
        Action::Measure(_) => {
            next.big = vec![
                if slot.quantity.last.is_some() {
                    "Measure again at fret 1,"
                } else {
                    "Measure the gap at fret 1,"
                }
                .to_owned(),
                format!("string {string}"),
            ];
            next.expect = vec![format!("Expect {} mm.", spread(slot.quantity.now))];
        }
        Action::Adjust(step) => {
            let (first, total) = (step.distance.abs(), slot.total);
            next.is_move = true;
            next.big = vec![
                format!("File {} mm off slot {string},", words::mm(first, 2)),
                "then measure again".to_owned(),
            ];
            next.expect = vec![
                format!(
                    "That is {}. {} in all; the last {} only after measuring again.",
                    print::thou(first),
                    small(total),
                    print::thou(FILE_MARGIN)
                ),
                format!(
                    "Expect {} mm at fret 1 once neck and action are set.",
                    words::mm(slot.quantity.after + FILE_MARGIN, 2)
                ),
            ];
            if plan.nut.as_one {
                next.expect
                    .push("A locking nut moves as one: take the same off its shims.".to_owned());
            }
            let strings = if plan.nut.as_one {
                "all".to_owned()
            } else {
                string.to_string()
            };
            let line = |name: &str, value: String| (name.to_owned(), value);
            next.why = vec![
                line(
                    "at fret 1 now, from all readings",
                    format!("{} mm", spread(slot.quantity.now)),
                ),
                line(
                    "target",
                    format!("{} mm", words::mm(slot.quantity.target, 2)),
                ),
                line(
                    "once neck and action are set, unfiled",
                    format!(
                        "{} mm",
                        words::mm(slot.quantity.after + total * slot.lever(job), 2)
                    ),
                ),
                line(
                    "of a slot's depth shows at fret 1",
                    format!("{:.0} %", slot.lever(job) * 100.0),
                ),
                line("depth in all", format!("{} mm", words::mm(total, 3))),
                line(
                    "left standing in the first pass",
                    format!("{} mm", words::mm(FILE_MARGIN, 2)),
                ),
            ];
            next.acts = vec![FormAction::done(
                "nut_moved",
                "Filed, measure again",
                vec![
                    ("string", string.to_string()),
                    ("strings", strings),
                    ("nut_move", format!("-{:.3} mm", first.mm())),
                ],
            )];
        }
        Action::Stop(Stop::TooLow { by }) => {
            next.is_out = true;
            next.big = vec![
                format!("{} mm too low", words::mm(*by, 2)),
                "and cannot be filed back".to_owned(),
            ];
        }
        Action::Stop(_) => next.is_out = true,
        Action::Leave => {
            let all = |stands: fn(&NutString) -> bool| plan.nut.strings.iter().all(stands);
            let headline = if all(|slot| slot.quantity.verdict == Verdict::InSpec) {
                "Every slot is right"
            } else if all(|slot| slot.action == Action::Leave) {
                "Leave every slot"
            } else {
                "Leave this slot"
            };
            next.big = vec![headline.to_owned()];
            let within = if slot.quantity.verdict == Verdict::InSpec {
                format!(": within {} mm", words::mm(slot.quantity.allowed(), 2))
            } else {
                String::new()
            };
            next.expect = vec![format!(
                "{} mm now, {} after all adjustments{within}.",
                spread(slot.quantity.now),
                words::mm(slot.quantity.after, 2),
            )];
        }
    }
    if next.onward.is_some() {
        return next;
    }
    if let Some(other) = plan.nut.next_string().filter(|other| *other != string) {
        next.onward = Some((
            format!("nut?string={other}&focus=nut-{other}"),
            format!("Next: string {other} {}", note(job, other)),
        ));
    }
    if next.onward.is_none() && !next.is_move {
        next.onward = next_station(job, plan, StationId::Nut);
    }
    next
}
