//! The record: everything that was told, and the ways out of the program.

use crate::vocabulary::*;
use askama::Template;

use crate::components::Head;
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};

/// As many entries as one page shows.
const PAGE: usize = 200;

struct Line {
    seq: u64,
    at: String,
    /// Who told it, where anybody had signed in.
    by: Option<String>,
    text: String,
    live: bool,
}

#[derive(Template)]
#[template(path = "stations/record/page.html")]
pub(crate) struct Record {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    lines: Vec<Line>,
    newer: Option<usize>,
    older: Option<usize>,
}

pub(crate) fn station(frame: JobLayout, job: &Known, view: &View) -> Record {
    let page: usize = view.fields.text("page").parse().unwrap_or(0);
    let pages = job.entries().len().div_ceil(PAGE);
    let page = page.min(pages.saturating_sub(1));
    Record {
        newer: page.checked_sub(1),
        older: (page + 1 < pages).then_some(page + 1),
        head: Head::new(),
        frame,
        fields: view.fields.clone(),
        lines: job
            .entries()
            .iter()
            .rev()
            .skip(page * PAGE)
            .take(PAGE)
            .map(|entry| Line {
                seq: entry.seq,
                at: entry.at.strftime("%-d %b, %H:%M").to_string(),
                text: text::events::sentence(&entry.event),
                by: entry.by.clone(),
                live: job.counts(entry),
            })
            .collect(),
    }
}
