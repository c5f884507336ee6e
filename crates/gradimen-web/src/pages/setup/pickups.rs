//! The pickups station: gaps and levels.

mod strings;

use strings::{LevelRow, PoleLine, across_line, level_row, pole_lines, pole_strings};

use askama::Template;
use gradimen_bench::event::{HeightEnd, Side};
use gradimen_bench::job::Job;
use gradimen_bench::plan::Plan;
use gradimen_bench::setup::{PickupAction, PickupMove, PickupPlan, PickupSide};
use gradimen_bench::whole::Station;
use gradimen_core::quantity::Length;

use super::{Act, LaneField, Next, last_read, next_station, note, sixty_fourths, spread};
use crate::forms::Fields;
use crate::pages::job::{Frame, View};
use crate::pages::setup::Found;
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
    head: Head,
    frame: Frame,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<Found>,
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
    let pickups = &plan.setup.pickups;
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
                .find(|side| side.action != PickupAction::Leave)?;
            Some((index, side.side))
        })
    };
    named.or_else(wanting).unwrap_or((0, Side::Bass))
}

fn side_of(pickup: &PickupPlan, side: Side) -> &PickupSide {
    &pickup.sides[usize::from(side == Side::Bass)]
}

pub(crate) fn station(frame: Frame, job: &Job, plan: &Plan, view: &View) -> Pickups {
    let fields = view.fields.clone();
    let (pickup, side) = in_hand(&fields, plan);
    let frame = frame
        .with_place("pickup", &(pickup + 1).to_string())
        .with_place("side", side.key());
    let drawing = svg::setup::pickups(job, plan, pickup, side, |index, at| {
        field(&frame, plan, &fields, index, at)
    });
    let rows = plan
        .setup
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
        head: Head::new(),
        drawing,
        next: next(job, plan, pickup, side),
        found: found(plan),
        rows,
        levels: plan.setup.pickups.iter().filter_map(level_row).collect(),
        across: plan.setup.pickups.iter().filter_map(across_line).collect(),
        poles: plan
            .setup
            .pickups
            .get(pickup)
            .map_or_else(Vec::new, |known| pole_lines(job, known)),
        in_hand: plan
            .setup
            .pickups
            .get(pickup)
            .map_or_else(String::new, |known| known.name.clone()),
        pole_strings: pole_strings(job, plan, pickup),
        rule: (5..=19)
            .map(|halves| (f64::from(halves) / 2.0).to_string())
            .collect(),
        names: plan
            .setup
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
        none: plan.setup.pickups.is_empty(),
        pickup: pickup + 1,
        side: side.key(),
        frame,
        fields,
    }
}

fn field(frame: &Frame, plan: &Plan, fields: &Fields, index: usize, side: Side) -> String {
    let Some(known) = plan
        .setup
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
        hidden: vec![("pickup", number), ("side", side.key().to_owned())],
        mark: svg::inline_mark(known.quantity.verdict),
        label: format!(
            "Gap of pickup {}, {} side. {} {shown}",
            index + 1,
            side.key(),
            known.quantity.verdict.gap_word()
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
        verdict: quantity.verdict.gap_word(),
        out: quantity.verdict.is_out(),
        target: words::mm(quantity.target, 2),
        moves: step.is_some(),
        action: match &at.action {
            PickupAction::Read => "read".to_owned(),
            PickupAction::Leave => "leave".to_owned(),
            PickupAction::AtEnd { short_by, .. } => {
                format!("at its end, {} mm short", words::mm(*short_by, 1))
            }
            PickupAction::Turn(step) => {
                format!("{} \u{b7} {}", way(step), words::turns(step.turns))
            }
        },
        arrow: step.map_or(String::new(), |step| svg::inline_turn_arrow(step.rotation)),
    }
}

const fn step_of(at: &PickupSide) -> Option<&PickupMove> {
    match &at.action {
        PickupAction::Turn(step) => Some(step),
        _ => None,
    }
}

fn way(step: &PickupMove) -> String {
    format!(
        "{} {} mm",
        if step.distance > Length::ZERO {
            "nearer"
        } else {
            "away"
        },
        words::mm(step.distance.abs(), 2)
    )
}

fn found(plan: &Plan) -> Vec<Found> {
    use gradimen_bench::findings::SetupFinding;
    super::found(plan, |finding| {
        matches!(
            finding,
            SetupFinding::TooNear(_) | SetupFinding::PickupSpent { .. }
        )
    })
}

fn next(job: &Job, plan: &Plan, pickup: usize, side: Side) -> Next {
    let mut next = Next {
        caution: "Hold the string down at the last fret. Bridge nearer than neck, treble nearer than bass. Do not force a screw whose foam or spring is fully squeezed: covers crack.".to_owned(),
        ..Next::default()
    };
    let Some(known) = plan.setup.pickups.get(pickup) else {
        next.big = vec!["No pickups on record".to_owned()];
        return next;
    };
    let at = side_of(known, side);
    next.kicker = format!(
        "The {} pickup, {} side \u{b7} wanted {} mm ({})",
        known.name,
        side.key(),
        words::mm(at.quantity.target, 2),
        sixty_fourths(at.quantity.target)
    );
    match &at.action {
        PickupAction::Read => {
            next.big = vec![
                format!("Hold fret {}, read the gap:", job.instrument().frets),
                format!("{}, {} side", known.name, side.key()),
            ];
            if at.quantity.last.is_some() {
                next.expect = vec![format!("Expect {} mm.", spread(at.quantity.now))];
            }
        }
        PickupAction::Turn(step) => {
            let nearer = step.distance > Length::ZERO;
            next.is_move = true;
            let mut way = way(step);
            if let Some(first) = way.get_mut(..1) {
                first.make_ascii_uppercase();
            }
            next.big = vec![
                format!("{way}:"),
                format!("{} {}", words::turns(step.turns), step.rotation),
            ];
            next.expect = vec![format!(
                "Expect {} mm at the heights to come.",
                spread(step.expected)
            )];
            next.acts = vec![Act::done(
                "pickup_turned",
                "Done, read again",
                vec![
                    ("pickup", (pickup + 1).to_string()),
                    ("side", side.key().to_owned()),
                    ("turns", step.turns.value().abs().to_string()),
                    ("way", if nearer { "nearer" } else { "away" }.to_owned()),
                ],
            )];
            next.acts.push(Act::plain(
                "pickup_end",
                if nearer {
                    "No thread left"
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
                line("wanted", format!("{} mm", words::mm(at.quantity.target, 2))),
                line(
                    "when the heights are done, untouched",
                    format!("{} mm", words::mm(step.expected.value + step.distance, 2)),
                ),
                line(
                    "turns",
                    format!("{}, set to an eighth", words::turns(step.turns)),
                ),
            ];
        }
        PickupAction::AtEnd { end, short_by } => {
            next.is_out = true;
            next.big = vec![
                match end {
                    HeightEnd::Bottom => "Squeezed: leave it,",
                    HeightEnd::Top => "No thread left:",
                }
                .to_owned(),
                format!("{} mm short", words::mm(*short_by, 1)),
            ];
        }
        PickupAction::Leave => {
            next.big = vec!["Leave this side".to_owned()];
            next.expect = vec![format!(
                "{} mm now, {} at the heights to come: within {} mm.",
                spread(at.quantity.now),
                words::mm(at.quantity.after, 2),
                words::mm(at.quantity.tolerance, 2)
            )];
        }
    }
    if !next.is_move {
        next.onward = next_station(plan, Station::Pickups);
    }
    next
}
