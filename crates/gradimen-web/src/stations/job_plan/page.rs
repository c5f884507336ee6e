//! The whole-job plan: one list for the bench.

use askama::Template;
use gradimen_bench::text::next::job_plan as says;

use crate::components::{FindingView, Head, findings};
use crate::filters;
use crate::pages::layout::JobLayout;
use crate::vocabulary::*;

struct Line {
    first: bool,
    station: &'static str,
    query: String,
    adjuster: String,
    direction: String,
    expect: String,
}

#[derive(Template)]
#[template(path = "stations/job_plan/page.html")]
pub(crate) struct Whole {
    head: Head,
    frame: JobLayout,
    headline: String,
    targets: String,
    targets_usual: bool,
    moves: Vec<Line>,
    waiting: Vec<(&'static str, String)>,
    found: Vec<FindingView>,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan) -> Whole {
    let whole = JobPlan::of(job, plan);
    let mut before: Option<StationId> = None;
    let moves = whole
        .moves
        .iter()
        .map(|step| {
            let first = before != Some(step.station);
            before = Some(step.station);
            line(job, step, first)
        })
        .collect();
    Whole {
        head: Head::new(),
        headline: says::headline(&whole),
        targets: says::targets(&plan.targets),
        targets_usual: !job.targets_told(),
        moves,
        waiting: text::moves::pending_lines(job, &whole.pending)
            .into_iter()
            .map(|(station, line)| (station.key(), line))
            .collect(),
        found: findings(plan, |_| true),
        frame,
    }
}

fn line(job: &Known, line: &JobMove, first: bool) -> Line {
    let string = line.strings.first();
    Line {
        first,
        station: line.station.key(),
        query: string.map_or_else(String::new, |string| format!("?string={string}")),
        adjuster: says::adjuster(job, line),
        direction: text::moves::whole(job, &line.step),
        expect: says::expected(job, line),
    }
}
