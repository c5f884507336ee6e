//! The nut station: the slots.

use askama::Template;
use gradimen_bench::findings::SetupFinding;
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::setup::{FILE_MARGIN, NutAction, NutString};
use gradimen_bench::whole::Station;
use gradimen_core::units::print;

use super::{
    Act, Found, LaneField, Next, found, last_read, next_station, note, small, spread,
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
    moves: bool,
    action: String,
    first_fret: String,
}

#[derive(Template)]
#[template(path = "nut.html")]
pub(crate) struct Nut {
    head: Head,
    frame: Frame,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<Found>,
    rows: Vec<Row>,
    blades: Vec<String>,
    string: u8,
    held: u8,
}

pub(crate) fn station(frame: Frame, job: &Job, plan: &Plan, view: &View) -> Nut {
    let mut fields = view.fields.clone();
    fields.suggest("nut_treble", plan.setup.targets.nut_treble.written.clone());
    fields.suggest("nut_bass", plan.setup.targets.nut_bass.written.clone());
    let string = string_in_hand(&fields, job, plan.setup.nut.next_string());
    let frame = frame.with_string(string);
    let held = match fields.text("held") {
        "0" => 0,
        "3" => 3,
        _ => plan.setup.targets.nut_held,
    };
    let drawing = svg::setup::lanes(job, plan, string, 1, |on| {
        field(&frame, plan, &fields, on, held)
    });
    let rows = plan
        .setup
        .nut
        .strings
        .iter()
        .map(|slot| row(job, slot, string, frame.id, held))
        .collect();
    Nut {
        head: Head::new(),
        drawing,
        next: next(job, plan, string),
        found: found(plan, |finding| {
            matches!(finding, SetupFinding::NutTooLow(_))
        }),
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

fn slot_of(plan: &Plan, string: u8) -> Option<&NutString> {
    plan.setup
        .nut
        .strings
        .iter()
        .find(|slot| slot.string == string)
}

fn field(frame: &Frame, plan: &Plan, fields: &Fields, string: u8, held: u8) -> String {
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
        hidden: vec![("string", string.to_string()), ("held", held.to_string())],
        mark: svg::inline_mark(slot.quantity.verdict),
        label: format!(
            "String {string}, gap over fret 1. {} {shown}",
            slot.quantity.verdict.gap_word()
        ),
        shown,
        value,
        wrong,
        placeholder: "thou",
        limits: "gap",
    }
    .html()
}

fn row(job: &Job, slot: &NutString, in_hand: u8, id: i64, held: u8) -> Row {
    let quantity = &slot.quantity;
    Row {
        string: slot.string,
        note: note(job, slot.string),
        href: format!("/jobs/{id}/nut?string={}&held={held}", slot.string),
        in_hand: slot.string == in_hand,
        read: last_read(quantity),
        now: spread(quantity.now),
        mark: svg::inline_mark(quantity.verdict),
        verdict: quantity.verdict.gap_word(),
        out: quantity.verdict.is_out(),
        moves: matches!(slot.action, NutAction::File { .. }),
        action: match &slot.action {
            NutAction::Read if quantity.last.is_some() => "read again".to_owned(),
            NutAction::Read => "read".to_owned(),
            NutAction::File { total, .. } => format!("file {} mm", words::mm(*total, 2)),
            NutAction::TooLow { by } => format!("{} mm too low", words::mm(*by, 2)),
            NutAction::Leave => "leave".to_owned(),
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

fn next(job: &Job, plan: &Plan, string: u8) -> Next {
    let mut next = Next {
        caution: "A slot filed too deep cannot be put back. Small strokes, the file falling toward the tuners, and read again. Glasses on; keep filings off the pickups, they are magnetic.".to_owned(),
        ..Next::default()
    };
    let Some(slot) = slot_of(plan, string) else {
        next.big = vec!["No such string".to_owned()];
        return next;
    };
    next.kicker = format!(
        "String {string} \u{b7} {} \u{b7} over fret 1 wanted {}",
        note(job, string),
        small(slot.quantity.target)
    );
    match &slot.action {
        NutAction::Read => {
            next.big = vec![
                if slot.quantity.last.is_some() {
                    "Read again over fret 1,"
                } else {
                    "Read the gap over fret 1,"
                }
                .to_owned(),
                format!("string {string}"),
            ];
            next.expect = vec![format!("Expect {} mm.", spread(slot.quantity.now))];
        }
        NutAction::File { first, total } => {
            next.is_move = true;
            next.big = vec![
                format!("File {} mm off slot {string},", words::mm(*first, 2)),
                "then read again".to_owned(),
            ];
            next.expect = vec![
                format!(
                    "That is {}. {} in all; the last {} only after reading again.",
                    print::thou(*first),
                    small(*total),
                    print::thou(FILE_MARGIN)
                ),
                format!(
                    "Expect {} mm over fret 1 on the neck and at the heights to come.",
                    words::mm(slot.quantity.after + FILE_MARGIN, 2)
                ),
            ];
            if plan.setup.nut.as_one {
                next.expect
                    .push("A locking nut moves as one: take the same off its shims.".to_owned());
            }
            let strings = if plan.setup.nut.as_one {
                "all".to_owned()
            } else {
                string.to_string()
            };
            let line = |name: &str, value: String| (name.to_owned(), value);
            next.why = vec![
                line(
                    "over fret 1 now, from all readings",
                    format!("{} mm", spread(slot.quantity.now)),
                ),
                line(
                    "wanted",
                    format!("{} mm", words::mm(slot.quantity.target, 2)),
                ),
                line(
                    "and when neck and height are right, unfiled",
                    format!(
                        "{} mm",
                        words::mm(slot.quantity.after + *total * slot.lever(job), 2)
                    ),
                ),
                line(
                    "of a slot's depth shows over fret 1",
                    format!("{:.0} %", slot.lever(job) * 100.0),
                ),
                line("depth in all", format!("{} mm", words::mm(*total, 3))),
                line(
                    "left standing in the first pass",
                    format!("{} mm", words::mm(FILE_MARGIN, 2)),
                ),
            ];
            next.acts = vec![Act::done(
                "nut_moved",
                "Filed, read again",
                vec![
                    ("string", string.to_string()),
                    ("strings", strings),
                    ("nut_move", format!("-{:.3} mm", first.mm())),
                ],
            )];
        }
        NutAction::TooLow { by } => {
            next.is_out = true;
            next.big = vec![
                format!("{} mm too low", words::mm(*by, 2)),
                "and cannot be filed back".to_owned(),
            ];
        }
        NutAction::Leave => {
            let done = plan
                .setup
                .nut
                .strings
                .iter()
                .all(|slot| slot.action == NutAction::Leave);
            next.big = vec![
                if done {
                    "Every slot is right"
                } else {
                    "Leave this slot"
                }
                .to_owned(),
            ];
            next.expect = vec![format!(
                "{} mm now, {} when the plan is done: within {} mm.",
                spread(slot.quantity.now),
                words::mm(slot.quantity.after, 2),
                words::mm(slot.quantity.allowed(), 2)
            )];
        }
    }
    if let Some(other) = plan
        .setup
        .nut
        .next_string()
        .filter(|other| *other != string)
    {
        next.onward = Some((
            format!("nut?string={other}&focus=nut-{other}"),
            format!("Next: string {other} {}", note(job, other)),
        ));
    }
    if next.onward.is_none() && !next.is_move {
        next.onward = next_station(plan, Station::Nut);
    }
    next
}
