//! The relief station: the rod.

use askama::Template;
use gradimen_bench::event::{RodStop, Side};
use gradimen_bench::findings::SetupFinding;
use gradimen_bench::instrument::{Kind, RodAt};
use gradimen_bench::job::Job;
use gradimen_bench::methods::relief_schools;
use gradimen_bench::plan::Plan;
use gradimen_bench::setup::{ReliefAction, RodMove};
use gradimen_bench::whole::Station;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use super::{Act, Found, LaneField, Next, found, next_station, small, spread, typed};
use crate::forms::Fields;
use crate::pages::job::{Frame, View};
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
    head: Head,
    frame: Frame,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<Found>,
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

pub(crate) fn station(frame: Frame, job: &Job, plan: &Plan, view: &View) -> Relief {
    let mut fields = view.fields.clone();
    fields.suggest("relief", plan.setup.targets.relief.written.clone());
    let side = Side::from_key(fields.text("side")).unwrap_or_else(|| wanting(plan));
    let frame = frame.with_place("side", side.key());
    let schools = relief_schools(job.instrument());
    let target_span = plan.setup.targets.relief_span;
    let used = schools
        .iter()
        .find(|school| school.key == fields.text("school"))
        .or_else(|| schools.iter().find(|school| school.span == target_span));
    let (span, school) = used.map_or((target_span, ""), |school| (school.span, school.key));
    let drawing = svg::setup::relief(job, plan, side, span, |side| {
        field(&frame, job, plan, &fields, side, school)
    });
    Relief {
        head: Head::new(),
        drawing,
        next: next(job, plan, side),
        found: found(plan, |finding| {
            matches!(finding, SetupFinding::Neck(_) | SetupFinding::OffLoad)
        }),
        schools: plan
            .setup
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
        stops: RodStop::ALL
            .into_iter()
            .map(|stop| Choice::of(stop.key(), stop.name(), job.rod_stop() == Some(stop)))
            .collect(),
        rod: format!(
            "{}, key {}",
            job.instrument().neck.rod.name(),
            job.instrument().neck.rod_at.name()
        ),
        frame,
        fields,
    }
}

/// The side that wants a reading, or the bass.
fn wanting(plan: &Plan) -> Side {
    match &plan.setup.relief.action {
        ReliefAction::Read(sides) => sides.first().copied().unwrap_or(Side::Bass),
        _ => Side::Bass,
    }
}

fn index(side: Side) -> usize {
    match side {
        Side::Treble => 0,
        Side::Bass => 1,
    }
}

fn field(
    frame: &Frame,
    job: &Job,
    plan: &Plan,
    fields: &Fields,
    side: Side,
    school: &str,
) -> String {
    let quantity = &plan.setup.relief.sides[index(side)];
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
        id: format!("relief-{}", index(side) + 1),
        lane: (index(side) + 1).to_string(),
        hidden: vec![
            ("side", side.key().to_owned()),
            ("school", school.to_owned()),
        ],
        mark: svg::inline_mark(quantity.verdict),
        label: format!(
            "Relief, {} side along string {}. {} {shown}",
            side.key(),
            job.geometry().string_of(side),
            quantity.verdict.gap_word()
        ),
        shown,
        value,
        wrong,
        placeholder: "thou, none",
        limits: "relief",
    }
    .html()
}

fn next(job: &Job, plan: &Plan, side: Side) -> Next {
    let relief = &plan.setup.relief;
    let quantity = &relief.sides[index(side)];
    let target = plan.setup.targets.relief.middle();
    let mut next = Next {
        kicker: format!(
            "Neck \u{b7} wanted {}, {}",
            small(target),
            plan.setup.targets.relief_span.words()
        ),
        caution: "Tuned to pitch, in playing position, before every reading. Right key, fully seated. Back off a little first if it is stiff, end on a tightening turn. Never force a rod: a broken one can cost the neck.".to_owned(),
        ..Next::default()
    };
    match &relief.action {
        ReliefAction::Read(sides) => {
            let names: Vec<&str> = sides.iter().map(|side| side.key()).collect();
            let again = relief.sides.iter().any(|side| side.last.is_some());
            next.big = vec![
                if again {
                    "Tune up and read again,"
                } else {
                    "Tune up and read relief,"
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
        ReliefAction::Turn(step) => turn(job, plan, step, &mut next),
        ReliefAction::Leave => {
            next.big = vec!["Leave the rod".to_owned()];
            next.expect = vec![format!(
                "Treble {}, bass {} mm: within {} mm of what is wanted.",
                spread(relief.sides[0].now),
                spread(relief.sides[1].now),
                words::mm(quantity.tolerance, 2)
            )];
            next.onward = next_station(plan, Station::Relief);
        }
        ReliefAction::Blocked => {
            next.is_out = true;
            next.big = vec![
                "Stop: a setup cannot".to_owned(),
                "put this neck right".to_owned(),
            ];
        }
    }
    next
}

fn turn(job: &Job, plan: &Plan, step: &RodMove, next: &mut Next) {
    let tighten = step.turns.value() > 0.0;
    let at = job.instrument().neck.rod_at;
    next.is_move = true;
    next.big = vec![
        format!(
            "{} {} turn:",
            if tighten { "Tighten" } else { "Loosen" },
            print::turns(step.turns)
        ),
        step.rotation.to_string(),
    ];
    next.expect = vec![
        format!(
            "Seen at the nut of the rod. Retune, then read both sides again: expect treble {}, bass {} mm.",
            spread(step.expected[0]),
            spread(step.expected[1])
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
        ("turns", step.turns.value().abs().to_string()),
        ("way", if tighten { "tighten" } else { "loosen" }.to_owned()),
    ];
    next.acts = vec![Act::done("rod", "Done, read again", turns)];
    let line = |name: &str, value: String| (name.to_owned(), value);
    let relief = &plan.setup.relief;
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
            "wanted",
            format!("{} mm", words::mm(relief.sides[0].target, 2)),
        ),
        line(
            "off, as the mean of both sides",
            format!("{} mm", words::mm(step.off, 2)),
        ),
        line(
            "a whole turn of this rod takes away",
            format!(
                "{} mm, within {:.0} %",
                words::mm(step.per_turn, 2),
                step.doubt * 100.0
            ),
        ),
        line("turns in all", format!("{:.2}", step.total.value())),
        line(
            "at once, at most",
            "a quarter; an eighth when near".to_owned(),
        ),
        line(
            "lifts the strings over fret 12 by",
            format!("{} mm", words::mm(twelfth_change(job, plan), 2)),
        ),
    ];
}

/// What the whole move of the rod does to the action at the twelfth, nut coming up with the neck.
fn twelfth_change(job: &Job, plan: &Plan) -> Length {
    plan.setup.relief.twelfth_change(job.geometry())
}
