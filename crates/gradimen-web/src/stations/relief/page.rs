//! The relief station: the rod.

use askama::Template;
use gradimen_bench::text::next;

use crate::commands::What;
use crate::components::{
    Choice, FieldMark, FindingView, FormAction, Head, LaneField, Next, Tools, findings, tools,
};
use crate::filters;
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::words::{self, spread};

struct SchoolLine {
    name: &'static str,
    href: String,
    used: bool,
    is_target: bool,
    now: [String; 2],
    target: String,
}

#[derive(Template)]
#[template(path = "stations/relief/page.html")]
pub(crate) struct Relief {
    tools: Tools,
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
pub(crate) const BLADES: [&str; 18] = [
    "1.5", "2", "3", "4", "5", "6", "7", "8", "9", "10", "11", "12", "14", "16", "18", "20", "22",
    "25",
];

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Relief {
    let mut fields = view.fields.clone();
    fields.suggest("relief", plan.targets.relief.written.clone());
    let side = Side::from_key(fields.text("side")).unwrap_or_else(|| plan.relief.wanting());
    let frame = frame.with_place("side", side.key());
    let schools = relief_schools(job.instrument());
    let target_span = plan.targets.relief_span;
    let used = schools
        .iter()
        .find(|school| school.key == fields.text("school"))
        .or_else(|| schools.iter().find(|school| school.span == target_span));
    let (span, school) = used.map_or((target_span, ""), |school| (school.span, school.key));
    let drawing = super::drawing::draw(job, plan, side, span, |side| {
        field(&frame, job, plan, &fields, side, school).html()
    });
    Relief {
        tools: tools(&frame, &fields, &[Tool::Feeler, Tool::Dial, Tool::Caliper]),
        head: Head::new(),
        drawing,
        next: next(job, plan, side),
        found: findings(plan, |finding| finding.station() == Some(StationId::Relief)),
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
                target: words::in_unit(row.wanted(), 2),
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

fn field<'a>(
    frame: &'a JobLayout,
    job: &Known,
    plan: &Plan,
    fields: &Fields,
    side: Side,
    school: &str,
) -> LaneField<'a> {
    let quantity = &plan.relief.sides[side.index()];
    // What is expected is known of the way it is wanted in.
    let wanted = relief_schools(job.instrument())
        .into_iter()
        .find(|known| known.span == plan.targets.relief_span);
    let expected = quantity
        .expected()
        .filter(|_| wanted.is_none_or(|wanted| wanted.key == school));
    let label = format!(
        "Relief, {} side along string {}",
        side.key(),
        job.state().string_of(side)
    );
    LaneField::new(frame, What::Relief, side.index() + 1)
        .at(vec![
            ("side", side.key().to_owned()),
            ("school", school.to_owned()),
        ])
        .length(fields, "relief", "thou, none", expected)
        .showing(
            &label,
            FieldMark {
                verdict: quantity.verdict,
                word: text::gap_verdict(quantity.verdict),
                shown: words::now(quantity, 2),
            },
        )
        .typed(fields)
}

fn next(job: &Known, plan: &Plan, side: Side) -> Next {
    let mut next = Next::of(next::relief::headline(job, plan, side));
    if let Some(step) = plan.relief.next_move() {
        let way = if step.turns().value() > 0.0 {
            "tighten"
        } else {
            "loosen"
        };
        let turns = step.turns().value().abs().to_string();
        let fields = vec![("turns", turns), ("way", way.to_owned())];
        next.acts = vec![FormAction::done(What::Rod, "Done, measure again", fields)];
    }
    if plan.relief.action.is_leave() {
        next = next.or_station(job, plan, StationId::Relief);
    }
    next
}
