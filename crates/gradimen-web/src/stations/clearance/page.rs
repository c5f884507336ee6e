//! The clearance map: where strings touch under this hand, and how low they may lie.

use askama::Template;
use gradimen_bench::text::next::clearance as says;
use gradimen_core::clearance::Tightest;
use gradimen_core::quantity::Length;

use crate::components::{Choice, FindingView, Head, Next};
use crate::filters;
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View, by_string};
use crate::vocabulary::*;
use crate::words::{self, held, note};

struct Row {
    string: u8,
    note: String,
    held: String,
    fret: String,
    left: String,
    after: String,
    out: bool,
    out_after: bool,
    lowest: String,
}

#[derive(Template)]
#[template(path = "stations/clearance/page.html")]
pub(crate) struct Clearance {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    rows: Vec<Row>,
    strings: Vec<Choice>,
    /// For what the ear can listen, the words on its button, and what is said when it begins.
    listens: Vec<(String, String, String)>,
    heard: Vec<(String, Vec<[String; 3]>)>,
    bends: Vec<(String, bool)>,
    hand: String,
    fret: u8,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Clearance {
    let fields = view.fields.clone();
    let lines = &plan.lines;
    let map = ClearancePlan::of(job, |string| {
        lines
            .get(usize::from(string.max(1) - 1))
            .copied()
            .unwrap_or_else(|| job.state().line(string))
    });
    let rows = map
        .now
        .iter()
        .zip(&map.after)
        .zip(&map.lowest)
        .filter_map(|((now, after), lowest)| {
            let (now, after) = (now.worst().zip(Some(now.string))?, after.worst()?);
            Some(row(job, now.1, now.0, after, *lowest))
        })
        .collect();
    Clearance {
        head: Head::new(),
        drawing: super::drawing::draw(job, &map),
        next: Next::of(says::headline(job, &map)),
        found: Vec::new(),
        rows,
        strings: (1..=job.instrument().strings)
            .map(|string| {
                let number = string.to_string();
                let label = format!("{string} {}", note(job, string));
                Choice::of(&number, &label, fields.text("string") == number)
            })
            .collect(),
        listens: by_string(
            job,
            "buzz",
            "Strike a note as hard as you ever play, then softer, step by step, until it is clean; then the next.",
        ),
        heard: map.heard.iter().rev().map(says::heard).collect(),
        bends: map.bends.iter().map(says::bend).collect(),
        hand: says::hand(job, &map),
        fret: job.targets().action_fret,
        frame,
        fields,
    }
}

fn row(job: &Known, string: u8, now: Tightest, after: Tightest, lowest: Length) -> Row {
    Row {
        string,
        note: note(job, string),
        held: held(now.held),
        fret: now.fret.to_string(),
        left: words::in_unit(now.margin, 2),
        after: words::in_unit(after.margin, 2),
        out: now.margin < Length::ZERO,
        out_after: after.margin < Length::ZERO,
        lowest: words::in_unit(lowest, 2),
    }
}
