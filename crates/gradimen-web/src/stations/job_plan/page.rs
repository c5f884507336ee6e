//! The whole-job plan: one list for the bench.

use askama::Template;
use gradimen_bench::estimate::learned::{self, Learned};
use gradimen_bench::text::next::job_plan as says;

use crate::commands::What;
use crate::components::{Choice, FindingView, FormAction, Head, findings};
use crate::filters;
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;

struct Line {
    first: bool,
    station: &'static str,
    query: String,
    adjuster: String,
    direction: String,
    expect: String,
    /// Whether it can be ticked here.
    now: bool,
}

/// A check before the first screw.
struct First {
    name: &'static str,
    how: &'static str,
    tells: &'static str,
    /// What of it is still to be read.
    left: String,
    /// Where it is written down; nothing where that is here.
    at: Option<&'static str>,
    rod: bool,
    /// Where the rocker is laid first.
    rock: Option<(u8, u8)>,
}

#[derive(Template)]
#[template(path = "stations/job_plan/page.html")]
pub(crate) struct Whole {
    head: Head,
    frame: JobLayout,
    headline: String,
    targets: String,
    targets_usual: bool,
    allowed: String,
    vibrato: bool,
    pickups: bool,
    references: Vec<Choice>,
    specs: Vec<Choice>,
    moves: Vec<Line>,
    first: Vec<First>,
    closing: bool,
    /// What is let be in doubt, once nothing else is left.
    doubts: Vec<String>,
    stops: Vec<FindingView>,
    fields: Fields,
    waiting: Vec<(&'static str, String)>,
    found: Vec<FindingView>,
    learned: Vec<LearnedRow>,
    end: Option<End>,
}

/// The end of the work: the proof, then ready, then returned.
struct End {
    title: &'static str,
    says: String,
    acts: Vec<FormAction>,
    /// Whether it is still to be played.
    proof: bool,
}

/// A number that this instrument taught.
struct LearnedRow {
    name: &'static str,
    known: String,
    usual: String,
    /// Whether this instrument said anything about it.
    own: bool,
    /// Whether an earlier visit did.
    before: bool,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Whole {
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
    let left = !whole.moves.is_empty() || !whole.pending.is_empty() || !plan.hurt.is_empty();
    let end = (!left || matches!(job.stage(), Stage::Ready | Stage::Returned)).then(|| end(job));
    let mut fields = view.fields.clone();
    suggest_allowed(&mut fields, &plan.targets);
    let wanted = plan.targets.intonation_reference;
    let wanted = wanted.unwrap_or(IntonationReference::Harmonic);
    Whole {
        head: Head::new(),
        allowed: says::allowed(plan),
        vibrato: plan.balance.is_some(),
        pickups: !plan.pickups.pickups.is_empty(),
        references: IntonationReference::all()
            .map(|to| Choice::of(to.key(), to.name(), to == wanted))
            .collect(),
        specs: view
            .specs
            .iter()
            .map(|name| Choice::of(name, name, plan.targets.spec.as_ref() == Some(name)))
            .collect(),
        headline: says::headline(&whole, plan),
        targets: says::targets(&plan.targets),
        targets_usual: !job.targets_told(),
        moves,
        first: plan.first.iter().map(|check| first(job, check)).collect(),
        closing: plan.closing,
        doubts: if whole.moves.is_empty() && whole.pending.is_empty() {
            let doubts = plan.in_doubt();
            doubts.iter().map(|doubt| says::doubt(job, doubt)).collect()
        } else {
            Vec::new()
        },
        stops: findings(plan, |finding| finding.severity() == Severity::Stop),
        fields,
        waiting: text::moves::pending_lines(job, &whole.pending)
            .into_iter()
            .filter(|(station, _)| *station != StationId::First)
            .map(|(station, line)| (station.key(), line))
            .collect(),
        found: findings(plan, |finding| finding.severity() != Severity::Stop),
        learned: learned::of(job).iter().map(learned_row).collect(),
        end,
        frame,
    }
}

/// What is pressed when nothing is left: where the job stands says which.
fn end(job: &Known) -> End {
    let to = |stage: Stage, label: &str| {
        let fields = vec![("stage", stage.key().to_owned())];
        FormAction::done(What::Stage, label, fields)
    };
    let (title, acts) = match job.stage() {
        Stage::Ready => (
            "Ready",
            vec![to(Stage::Returned, "Fetched: it is returned")],
        ),
        Stage::Returned => ("Returned", Vec::new()),
        _ => ("Proof", vec![to(Stage::Ready, "Played: it is ready")]),
    };
    End {
        title,
        says: says::end(job),
        acts,
        proof: !matches!(job.stage(), Stage::Ready | Stage::Returned),
    }
}

/// What was told of it, in its fields; what is as the house has it stays empty.
fn suggest_allowed(fields: &mut Fields, targets: &Targets) {
    // What was just typed and refused stays as it was typed, the empty fields too.
    if fields.text("what") == "allowed" {
        return;
    }
    let given = &targets.tolerances;
    for (name, told) in [
        ("within_relief", &given.relief),
        ("within_nut", &given.nut),
        ("within_action", &given.action),
        ("within_gap", &given.gap),
        ("within_pickup", &given.pickup),
    ] {
        if let Some(told) = told {
            fields.suggest(name, told.written.clone());
        }
    }
    for (name, told) in [
        ("within_cents", given.intonation_cents),
        ("aim", targets.intonation_aim_cents),
    ] {
        if let Some(told) = told {
            fields.suggest(name, told.to_string());
        }
    }
}

fn learned_row(learned: &Learned) -> LearnedRow {
    LearnedRow {
        name: text::learned::name(learned.of),
        known: text::learned::known(learned),
        usual: text::learned::usual(learned),
        own: learned.is_own(),
        before: learned.before,
    }
}

fn first(job: &Known, check: &Check) -> First {
    let places = check
        .places
        .iter()
        .map(|place| text::moves::place(job, *place));
    First {
        name: text::first::name(check.subject),
        how: text::first::how(check.subject),
        tells: text::first::tells(check.subject),
        left: places.collect::<Vec<_>>().join(", "),
        at: match check.subject {
            Subject::Scale | Subject::Room => Some("intonation?panel=places"),
            Subject::Relief => Some("relief"),
            Subject::Claw => Some("balance"),
            Subject::Rod | Subject::Frets => None,
        },
        rod: check.subject == Subject::Rod,
        rock: check.places.iter().find_map(|place| match place {
            Place::Rock { string, fret } => Some((*string, *fret)),
            _ => None,
        }),
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
        now: line.now,
    }
}
