//! The pickups station: gaps and levels.

use askama::Template;
use gradimen_bench::text::next;
use gradimen_core::quantity::Length;

use super::rows::{LevelRow, PoleLine, level_row, pole_lines, pole_strings};
use crate::commands::What;
use crate::components::{
    Choice, FieldMark, FindingView, FormAction, Head, LaneField, Next, Tools, findings, tools,
};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::words::{self, last_read, note, spread};
use crate::{filters, svg};

struct Row {
    name: String,
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
    /// The field of its gap.
    field: String,
}

#[derive(Template)]
#[template(path = "stations/pickups/page.html")]
pub(crate) struct Pickups {
    tools: Tools,
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
    /// For what the ear can listen, the words on its button, and what is said when it begins.
    listens: Vec<(String, String, String)>,
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
    named
        .or_else(|| plan.pickups.wanting())
        .unwrap_or((0, Side::Bass))
}

impl Pickups {
    /// Whether any reading is carried from before something moved.
    fn carried(&self) -> bool {
        self.rows.iter().any(|row| row.carried)
    }
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Pickups {
    let fields = view.fields.clone();
    let (pickup, side) = in_hand(&fields, plan);
    let frame = frame
        .with_place("pickup", &(pickup + 1).to_string())
        .with_place("side", side.key());
    let drawing = super::drawing::draw(job, plan, pickup, side, |index, at| {
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
        tools: tools(
            &frame,
            &fields,
            &[Tool::Rule64, Tool::Rule32, Tool::RuleHalfMm, Tool::Caliper],
        ),
        head: Head::new(),
        drawing,
        next: next(job, plan, pickup, side),
        found: findings(plan, |finding| {
            finding.station() == Some(StationId::Pickups)
        }),
        rows,
        levels: plan.pickups.pickups.iter().filter_map(level_row).collect(),
        across: plan
            .pickups
            .pickups
            .iter()
            .filter_map(next::pickups::across)
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
        listens: listens(plan),
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

/// The levels of each pickup, by ear.
fn listens(plan: &Plan) -> Vec<(String, String, String)> {
    let one = |(index, known): (usize, &PickupPlan)| {
        let name = &known.name;
        (
            format!("level-{}", index + 1),
            format!("Levels by ear: {name}"),
            format!(
                "Listening to the {name} pickup alone, straight into the input: strike the open strings, each several times alike, the others damped."
            ),
        )
    };
    plan.pickups.pickups.iter().enumerate().map(one).collect()
}

fn field(frame: &JobLayout, plan: &Plan, fields: &Fields, index: usize, side: Side) -> String {
    let Some(pickup) = plan.pickups.pickups.get(index) else {
        return String::new();
    };
    let quantity = &pickup.side(side).quantity;
    LaneField::new(frame, What::Pickup, index * 2 + side.index() + 1)
        .at(vec![
            ("pickup", (index + 1).to_string()),
            ("side", side.key().to_owned()),
        ])
        .length(fields, "pickup_gap", "64ths", quantity.expected())
        .showing(
            &format!("Gap of pickup {}, {} side", index + 1, side.key()),
            FieldMark {
                verdict: quantity.verdict,
                word: text::pickup_verdict(quantity.verdict),
                shown: words::now(quantity, 2),
            },
        )
        .typed(fields)
        .html()
}

fn row(id: i64, index: usize, known: &PickupPlan, at: &PickupSide, in_hand: bool) -> Row {
    let quantity = &at.quantity;
    let step = at.action.next_move();
    Row {
        name: format!("{}, {}", known.name, at.side.key()),
        href: format!(
            "/jobs/{id}/pickups?pickup={}&side={}",
            index + 1,
            at.side.key()
        ),
        in_hand,
        field: format!("pickup-{}", index * 2 + at.side.index() + 1),
        read: last_read(quantity),
        carried: quantity.is_carried(),
        now: if quantity.last.is_some() {
            spread(quantity.now)
        } else {
            "\u{2013}".to_owned()
        },
        mark: svg::inline_mark(quantity.verdict),
        verdict: text::pickup_verdict(quantity.verdict),
        out: quantity.verdict.is_out(),
        target: words::in_unit(quantity.target, 2),
        moves: step.is_some(),
        action: next::pickups::in_short(at),
        arrow: step
            .and_then(|step| step.rotation)
            .map_or_else(String::new, svg::inline_turn_arrow),
    }
}

fn next(job: &Known, plan: &Plan, pickup: usize, side: Side) -> Next {
    let mut next = Next::of(next::pickups::headline(job, plan, pickup, side));
    let at = plan.pickups.pickups.get(pickup).map(|on| on.side(side));
    if let Some(step) = at.and_then(|at| at.action.next_move()) {
        let nearer = step.distance > Length::ZERO;
        let (way, end, how) = if nearer {
            ("nearer", "up", End::Top)
        } else {
            ("away", "down", End::Bottom)
        };
        let record = job.instrument().pickups.get(pickup);
        let squeezed = record.is_some_and(|record| record.squeezed_at(how));
        let says = if squeezed {
            "Foam or spring is squeezed"
        } else {
            "Out of thread"
        };
        let on = || {
            vec![
                ("pickup", (pickup + 1).to_string()),
                ("side", side.key().to_owned()),
            ]
        };
        let turned = vec![
            ("turns", step.turns().value().abs().to_string()),
            ("way", way.to_owned()),
        ];
        next.acts = vec![
            FormAction::done(
                What::PickupTurned,
                "Done, measure again",
                [on(), turned].concat(),
            ),
            FormAction::plain(
                What::PickupEnd,
                says,
                [on(), vec![("end", end.to_owned())]].concat(),
            ),
        ];
    }
    // The next side that wants something, of whichever pickup.
    let waits = at.is_some_and(|at| match &at.action {
        Action::Measure(places) => !places.iter().any(|place| place.side() == Some(side)),
        _ => false,
    });
    let other = if waits {
        Some((pickup, side.across()))
    } else {
        plan.pickups
            .wanting()
            .filter(|other| *other != (pickup, side))
    };
    next.onward = other.and_then(|(index, side)| {
        let name = &plan.pickups.pickups.get(index)?.name;
        let (number, lane) = (index + 1, index * 2 + side.index() + 1);
        Some((
            format!(
                "pickups?pickup={number}&side={}&focus=pickup-{lane}",
                side.key()
            ),
            format!("Next: {name}, {} side", side.key()),
        ))
    });
    next.or_station(job, plan, StationId::Pickups)
}
