//! The pickups station: gaps and levels.

mod strings;

use crate::vocabulary::*;
use strings::{LevelRow, PoleLine, across_line, level_row, pole_lines, pole_strings};

use askama::Template;
use gradimen_core::quantity::Length;

use super::{
    FormAction, LaneField, Next, expected, last_read, next_station, note, sixty_fourths, spread,
};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::pages::setup::FindingView;
use crate::pages::{Choice, Head};
use crate::{filters, svg, words};

struct Row {
    name: String,
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
}

#[derive(Template)]
#[template(path = "pickups.html")]
pub(crate) struct Pickups {
    tools: Vec<Choice>,
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    rows: Vec<Row>,
    levels: Vec<LevelRow>,
    across: Vec<String>,
    poles: Vec<PoleLine>,
    in_hand: String,
    pole_strings: Vec<Choice>,
    rule: Vec<String>,
    names: Vec<Choice>,
    strings: Vec<Choice>,
    fret: u8,
    none: bool,
    pickup: usize,
    side: &'static str,
}

/// The pickup and side in hand: named, or the first that wants something.
fn in_hand(fields: &Fields, plan: &Plan) -> (usize, Side) {
    let pickups = &plan.pickups.pickups;
    let named = fields
        .text("pickup")
        .parse::<usize>()
        .ok()
        .filter(|number| (1..=pickups.len()).contains(number))
        .map(|number| number - 1)
        .zip(Side::from_key(fields.text("side")));
    let wanting = || {
        pickups.iter().enumerate().find_map(|(index, pickup)| {
            let side = pickup
                .sides
                .iter()
                .find(|side| side.action != Action::Leave)?;
            Some((index, side.side))
        })
    };
    named.or_else(wanting).unwrap_or((0, Side::Bass))
}

fn side_of(pickup: &PickupPlan, side: Side) -> &PickupSide {
    &pickup.sides[usize::from(side == Side::Bass)]
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Pickups {
    let fields = view.fields.clone();
    let (pickup, side) = in_hand(&fields, plan);
    let frame = frame
        .with_place("pickup", &(pickup + 1).to_string())
        .with_place("side", side.key());
    let drawing = svg::setup::pickups(job, plan, pickup, side, |index, at| {
        field(&frame, plan, &fields, index, at)
    });
    let rows = plan
        .pickups
        .pickups
        .iter()
        .enumerate()
        .flat_map(|(index, known)| known.sides.iter().map(move |at| (index, known, at)))
        .map(|(index, known, at)| {
            row(
                frame.id,
                index,
                known,
                at,
                (index, at.side) == (pickup, side),
            )
        })
        .collect();
    Pickups {
        tools: super::tools(
            &frame,
            &fields,
            &[Tool::Rule64, Tool::Rule32, Tool::RuleHalfMm, Tool::Caliper],
        ),
        head: Head::new(),
        drawing,
        next: next(job, plan, pickup, side),
        found: found(plan),
        rows,
        levels: plan.pickups.pickups.iter().filter_map(level_row).collect(),
        across: plan
            .pickups
            .pickups
            .iter()
            .filter_map(across_line)
            .collect(),
        poles: plan
            .pickups
            .pickups
            .get(pickup)
            .map_or_else(Vec::new, |known| pole_lines(job, known)),
        in_hand: plan
            .pickups
            .pickups
            .get(pickup)
            .map_or_else(String::new, |known| known.name.clone()),
        pole_strings: pole_strings(job, plan, pickup),
        rule: (5..=19)
            .map(|halves| (f64::from(halves) / 2.0).to_string())
            .collect(),
        names: plan
            .pickups
            .pickups
            .iter()
            .enumerate()
            .map(|(index, known)| {
                Choice::of(&(index + 1).to_string(), &known.name, index == pickup)
            })
            .collect(),
        strings: (1..=job.instrument().strings)
            .map(|string| {
                let number = string.to_string();
                let label = format!("{string} {}", note(job, string));
                Choice::of(&number, &label, fields.text("string") == number)
            })
            .collect(),
        fret: job.instrument().frets,
        none: plan.pickups.pickups.is_empty(),
        pickup: pickup + 1,
        side: side.key(),
        frame,
        fields,
    }
}

fn field(frame: &JobLayout, plan: &Plan, fields: &Fields, index: usize, side: Side) -> String {
    let Some(known) = plan
        .pickups
        .pickups
        .get(index)
        .map(|pickup| side_of(pickup, side))
    else {
        return String::new();
    };
    let number = (index + 1).to_string();
    let here = fields.text("what") == "pickup"
        && fields.text("pickup") == number
        && fields.text("side") == side.key();
    let typed = fields.field("gap");
    let wrong = here && !typed.error.is_empty();
    let value = if wrong || (here && fields.text("asked") == "yes") {
        typed.value
    } else {
        String::new()
    };
    let shown = if known.quantity.last.is_some() {
        format!("{} mm", words::mm(known.quantity.now.value, 2))
    } else {
        String::new()
    };
    let lane = index * 2 + usize::from(side == Side::Bass) + 1;
    LaneField {
        job: frame.id,
        seq: frame.seq,
        station: "pickups",
        what: "pickup",
        id: format!("pickup-{lane}"),
        lane: lane.to_string(),
        hidden: vec![
            ("tool", fields.text("tool").to_owned()),
            ("pickup", number),
            ("side", side.key().to_owned()),
        ],
        mark: svg::inline_mark(known.quantity.verdict),
        label: format!(
            "Gap of pickup {}, {} side. {} {shown}",
            index + 1,
            side.key(),
            text::pickup_verdict(known.quantity.verdict)
        ),
        shown,
        value,
        wrong,
        placeholder: "64ths",
        limits: "pickup_gap",
    }
    .html()
}

fn row(id: i64, index: usize, known: &PickupPlan, at: &PickupSide, in_hand: bool) -> Row {
    let quantity = &at.quantity;
    let step = step_of(at);
    Row {
        name: format!("{}, {}", known.name, at.side.key()),
        href: format!(
            "/jobs/{id}/pickups?pickup={}&side={}",
            index + 1,
            at.side.key()
        ),
        in_hand,
        read: last_read(quantity),
        now: if quantity.last.is_some() {
            spread(quantity.now)
        } else {
            "\u{2013}".to_owned()
        },
        mark: svg::inline_mark(quantity.verdict),
        verdict: text::pickup_verdict(quantity.verdict),
        out: quantity.verdict.is_out(),
        target: words::mm(quantity.target, 2),
        moves: step.is_some(),
        action: match &at.action {
            Action::Measure(_) => "measure".to_owned(),
            Action::Leave => "leave".to_owned(),
            Action::Stop(Stop::AtEnd { short_by, .. }) => {
                format!("at its end, {} mm short", words::mm(*short_by, 1))
            }
            Action::Adjust(step) => {
                format!("{} \u{b7} {}", way(step), words::turns(step.turns()))
            }
            Action::Stop(_) => "stopped".to_owned(),
        },
        arrow: step
            .and_then(|step| step.rotation)
            .map_or_else(String::new, svg::inline_turn_arrow),
    }
}

fn step_of(at: &PickupSide) -> Option<&Move> {
    at.action.next_move()
}

fn way(step: &Move) -> String {
    format!(
        "{} {} mm",
        if step.distance > Length::ZERO {
            "raise"
        } else {
            "lower"
        },
        words::mm(step.distance.abs(), 2)
    )
}

fn found(plan: &Plan) -> Vec<FindingView> {
    super::found(plan, |finding| {
        matches!(finding, Finding::TooNear(_) | Finding::PickupSpent { .. })
    })
}

fn next(job: &Known, plan: &Plan, pickup: usize, side: Side) -> Next {
    let mut next = Next {
        caution: "Hold the string down at the last fret. Bridge nearer than neck, treble nearer than bass. Do not force a screw whose foam or spring is fully squeezed: covers crack.".to_owned(),
        ..Next::default()
    };
    let Some(known) = plan.pickups.pickups.get(pickup) else {
        next.big = vec!["No pickups on record".to_owned()];
        return next;
    };
    let at = side_of(known, side);
    next.kicker = format!(
        "The {} pickup, {} side \u{b7} target {} mm ({})",
        known.name,
        side.key(),
        words::mm(at.quantity.target, 2),
        sixty_fourths(at.quantity.target)
    );
    match &at.action {
        Action::Measure(_) => {
            next.big = vec![
                format!("Hold fret {}, measure the gap:", job.instrument().frets),
                format!("{}, {} side", known.name, side.key()),
            ];
            if at.quantity.last.is_some() {
                next.expect = vec![format!("Expect {} mm.", spread(at.quantity.now))];
            }
        }
        Action::Adjust(step) => {
            let nearer = step.distance > Length::ZERO;
            next.is_move = true;
            let mut way = way(step);
            if let Some(first) = way.get_mut(..1) {
                first.make_ascii_uppercase();
            }
            next.big = vec![format!("{way}:"), words::turning(step)];
            next.expect = vec![format!(
                "Expect {} mm once the action is set.",
                expected(step)
            )];
            next.acts = vec![FormAction::done(
                "pickup_turned",
                "Done, measure again",
                vec![
                    ("pickup", (pickup + 1).to_string()),
                    ("side", side.key().to_owned()),
                    ("turns", step.turns().value().abs().to_string()),
                    ("way", if nearer { "nearer" } else { "away" }.to_owned()),
                ],
            )];
            next.acts.push(FormAction::plain(
                "pickup_end",
                if nearer {
                    "Out of thread"
                } else {
                    "Foam is squeezed"
                },
                vec![
                    ("pickup", (pickup + 1).to_string()),
                    ("side", side.key().to_owned()),
                    ("end", if nearer { "up" } else { "down" }.to_owned()),
                ],
            ));
            let line = |name: &str, value: String| (name.to_owned(), value);
            next.why = vec![
                line(
                    "gap now, from all readings",
                    format!("{} mm", spread(at.quantity.now)),
                ),
                line("target", format!("{} mm", words::mm(at.quantity.target, 2))),
                line(
                    "once the action is set, untouched",
                    format!("{} mm", words::mm(at.quantity.after + step.distance, 2)),
                ),
                line(
                    "turns",
                    format!("{}, set to an eighth", words::turns(step.turns())),
                ),
            ];
        }
        Action::Stop(Stop::AtEnd { end, short_by, .. }) => {
            next.is_out = true;
            next.big = vec![
                if *end == End::Bottom {
                    "Squeezed: leave it,"
                } else {
                    "Out of thread:"
                }
                .to_owned(),
                format!("{} mm short", words::mm(*short_by, 1)),
            ];
        }
        Action::Stop(_) => next.is_out = true,
        Action::Leave => {
            next.big = vec!["Leave this side".to_owned()];
            next.expect = vec![format!(
                "{} mm now, {} once the action is set: within {} mm.",
                spread(at.quantity.now),
                words::mm(at.quantity.after, 2),
                words::mm(at.quantity.tolerance, 2)
            )];
        }
    }
    if !next.is_move {
        next.onward = next_station(job, plan, StationId::Pickups);
    }
    next
}
