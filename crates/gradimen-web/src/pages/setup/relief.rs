//! The relief station: the rod.

use crate::vocabulary::*;
use askama::Template;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{FindingView, FormAction, LaneField, Next, found, next_station, small, spread, typed};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::pages::{Choice, Head};
use crate::{filters, svg, words};

struct SchoolLine {
    name: &'static str,
    href: String,
    used: bool,
    is_target: bool,
    now: [String; 2],
    target: String,
}

#[derive(Template)]
#[template(path = "relief.html")]
pub(crate) struct Relief {
    tools: Vec<Choice>,
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    schools: Vec<SchoolLine>,
    blades: Vec<String>,
    target_schools: Vec<Choice>,
    stops: Vec<Choice>,
    rod: String,
}

/// Feelers in a set, in thousandths (common practice).
pub(super) const BLADES: [&str; 18] = [
    "1.5", "2", "3", "4", "5", "6", "7", "8", "9", "10", "11", "12", "14", "16", "18", "20", "22",
    "25",
];

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Relief {
    let mut fields = view.fields.clone();
    fields.suggest("relief", plan.targets.relief.written.clone());
    let side = Side::from_key(fields.text("side")).unwrap_or_else(|| wanting(plan));
    let frame = frame.with_place("side", side.key());
    let schools = relief_schools(job.instrument());
    let target_span = plan.targets.relief_span;
    let used = schools
        .iter()
        .find(|school| school.key == fields.text("school"))
        .or_else(|| schools.iter().find(|school| school.span == target_span));
    let (span, school) = used.map_or((target_span, ""), |school| (school.span, school.key));
    let drawing = svg::setup::relief(job, plan, side, span, |side| {
        field(&frame, job, plan, &fields, side, school)
    });
    Relief {
        tools: super::tools(&frame, &fields, &[Tool::Feeler, Tool::Dial, Tool::Caliper]),
        head: Head::new(),
        drawing,
        next: next(job, plan, side),
        found: found(plan, |finding| {
            matches!(
                finding,
                Finding::Twist { .. }
                    | Finding::TrebleMore { .. }
                    | Finding::BackBow
                    | Finding::RodSpent(_)
                    | Finding::OffLoad
            )
        }),
        schools: plan
            .relief
            .schools
            .iter()
            .map(|row| SchoolLine {
                name: row.name,
                href: format!(
                    "/jobs/{}/relief?side={}&school={}",
                    frame.id,
                    side.key(),
                    row.key
                ),
                used: row.key == school,
                is_target: row.span == target_span,
                now: [spread(row.now[0]), spread(row.now[1])],
                target: words::mm(row.wanted(), 2),
            })
            .collect(),
        blades: BLADES.map(str::to_owned).to_vec(),
        target_schools: schools
            .iter()
            .map(|school| Choice::of(school.key, school.name, school.span == target_span))
            .collect(),
        stops: End::OF_ROD
            .into_iter()
            .map(|stop| {
                let name = text::events::end(stop);
                Choice::of(
                    stop.key(),
                    name,
                    job.ended(Adjuster::TrussRod) == Some(stop),
                )
            })
            .collect(),
        rod: format!(
            "{}, {}",
            job.instrument().neck.rod.name(),
            job.instrument().neck.rod_at.name()
        ),
        frame,
        fields,
    }
}

/// The side that wants a reading, or the bass.
fn wanting(plan: &Plan) -> Side {
    match &plan.relief.action {
        Action::Measure(places) => sides_of(places).first().copied().unwrap_or(Side::Bass),
        _ => Side::Bass,
    }
}

/// The sides of places of relief.
fn sides_of(places: &[Place]) -> Vec<Side> {
    let side = |place: &Place| match place {
        Place::Relief { side, .. } => Some(*side),
        _ => None,
    };
    places.iter().filter_map(side).collect()
}

fn field(
    frame: &JobLayout,
    job: &Known,
    plan: &Plan,
    fields: &Fields,
    side: Side,
    school: &str,
) -> String {
    let quantity = &plan.relief.sides[side.index()];
    let (value, wrong) = typed(fields, "relief", "gap", side.key());
    let shown = if quantity.last.is_some() {
        format!("{} mm", words::mm(quantity.now.value, 2))
    } else {
        String::new()
    };
    LaneField {
        job: frame.id,
        seq: frame.seq,
        station: "relief",
        what: "relief",
        id: format!("relief-{}", side.index() + 1),
        lane: (side.index() + 1).to_string(),
        hidden: vec![
            ("tool", fields.text("tool").to_owned()),
            ("side", side.key().to_owned()),
            ("school", school.to_owned()),
        ],
        mark: svg::inline_mark(quantity.verdict),
        label: format!(
            "Relief, {} side along string {}. {} {shown}",
            side.key(),
            job.geometry().string_of(side),
            text::gap_verdict(quantity.verdict)
        ),
        shown,
        value,
        wrong,
        placeholder: "thou, none",
        limits: "relief",
    }
    .html()
}

fn next(job: &Known, plan: &Plan, side: Side) -> Next {
    let relief = &plan.relief;
    let quantity = &relief.sides[side.index()];
    let target = plan.targets.relief.middle();
    let mut next = Next {
        kicker: format!(
            "Neck \u{b7} target {}, {}",
            small(target),
            plan.targets.relief_span.words()
        ),
        caution: "Tuned to pitch, in playing position, before every reading. Right key, fully seated. Back off a little first if it is stiff, end on a tightening turn. Never force a truss rod: a broken one can cost the neck.".to_owned(),
        ..Next::default()
    };
    match &relief.action {
        Action::Measure(places) => {
            let names: Vec<&str> = sides_of(places).into_iter().map(Keyed::key).collect();
            let again = relief.sides.iter().any(|side| side.last.is_some());
            next.big = vec![
                if again {
                    "Tune up and measure again,"
                } else {
                    "Tune up and measure relief,"
                }
                .to_owned(),
                format!("{} side", names.join(" and ")),
            ];
            next.expect = vec![format!(
                "Expect {} mm on the {} side.",
                spread(quantity.now),
                side.key()
            )];
        }
        Action::Adjust(step) => turn(job, plan, step, &mut next),
        Action::Leave => {
            next.big = vec!["Leave the truss rod".to_owned()];
            let both = relief
                .sides
                .iter()
                .all(|side| side.verdict == Verdict::InSpec);
            next.expect = vec![format!(
                "Treble {}, bass {} mm: {} within {} mm of the target{}.",
                spread(relief.sides[0].now),
                spread(relief.sides[1].now),
                if both { "both" } else { "their mean is" },
                words::mm(quantity.tolerance, 2),
                if both { "" } else { "; one rod turns both" }
            )];
            next.onward = next_station(job, plan, StationId::Relief);
        }
        Action::Stop(_) => {
            next.is_out = true;
            next.big = vec![
                "Stop: a setup cannot".to_owned(),
                "put this neck right".to_owned(),
            ];
        }
    }
    next
}

fn turn(job: &Known, plan: &Plan, step: &Move, next: &mut Next) {
    let tighten = step.turns().value() > 0.0;
    let at = job.instrument().neck.rod_at;
    next.is_move = true;
    next.big = vec![
        format!(
            "{} {} turn:",
            if tighten { "Tighten" } else { "Loosen" },
            print::turns(step.turns())
        ),
        step.rotation
            .map_or_else(String::new, |way| way.to_string()),
    ];
    next.expect = vec![
        format!(
            "Seen at its nut. Retune, then measure both sides again: expect treble {}, bass {} mm.",
            expected_on(step, Side::Treble),
            expected_on(step, Side::Bass)
        ),
        match step.rounds {
            1 => "One round.".to_owned(),
            rounds => format!("About {rounds} rounds, never more than a quarter turn at once."),
        },
    ];
    if at == RodAt::Heel {
        next.expect.push(format!(
            "The key goes in at the heel: the neck comes off for each of {} round{}. Slacken the strings first and mark where the neck sat.",
            step.rounds,
            if step.rounds == 1 { "" } else { "s" }
        ));
    }
    if job.instrument().kind == Kind::Bass && !tighten {
        next.expect
            .push("Loosening under load is harmless.".to_owned());
    }
    let turns = vec![
        ("turns", step.turns().value().abs().to_string()),
        ("way", if tighten { "tighten" } else { "loosen" }.to_owned()),
    ];
    next.acts = vec![FormAction::done("rod", "Done, measure again", turns)];
    let line = |name: &str, value: String| (name.to_owned(), value);
    let relief = &plan.relief;
    let Sum::Rod {
        off,
        per_turn,
        doubt,
    } = step.sum
    else {
        return;
    };
    next.why = vec![
        line(
            "relief now, treble and bass",
            format!(
                "{} and {} mm",
                spread(relief.sides[0].now),
                spread(relief.sides[1].now)
            ),
        ),
        line(
            "target",
            format!("{} mm", words::mm(relief.sides[0].target, 2)),
        ),
        line(
            "off, as the mean of both sides",
            format!("{} mm", words::mm(off, 2)),
        ),
        line(
            "a whole turn of this truss rod takes away",
            format!(
                "{} mm, within {:.0} %",
                words::mm(per_turn, 2),
                doubt * 100.0
            ),
        ),
        line("turns in all", format!("{:.2}", step.total.value())),
        line(
            "at once, at most",
            "a quarter; an eighth when near".to_owned(),
        ),
        line(
            "raises the action at fret 12 by",
            format!("{} mm", words::mm(twelfth_change(job, plan), 2)),
        ),
    ];
}

/// What the whole move of the rod does to the action at the twelfth, nut coming up with the neck.
fn twelfth_change(job: &Known, plan: &Plan) -> Length {
    plan.relief.twelfth_change(job.geometry())
}

/// What a side will read after the round.
fn expected_on(step: &Move, side: Side) -> String {
    let on = |place: &Place| matches!(place, Place::Relief { side: at, .. } if *at == side);
    let expected = step.expected.iter().find(|expected| on(&expected.place));
    let value = expected.and_then(|expected| expected.value.length());
    value.map_or_else(String::new, spread)
}
