//! The record: everything that was told, and the ways out of the program.

use askama::Template;
use gradimen_bench::job::Job;

use super::Head;
use super::job::{Frame, View};
use crate::forms::Fields;

struct Line {
    seq: u64,
    at: String,
    text: String,
    live: bool,
}

#[derive(Template)]
#[template(path = "record.html")]
pub(crate) struct Record {
    head: Head,
    frame: Frame,
    fields: Fields,
    lines: Vec<Line>,
}

pub(crate) fn station(frame: Frame, job: &Job, view: &View) -> Record {
    Record {
        head: Head::new(),
        frame,
        fields: view.fields.clone(),
        lines: job
            .lines()
            .iter()
            .rev()
            .map(|line| Line {
                seq: line.seq,
                at: line.at.strftime("%-d %b, %H:%M").to_string(),
                text: line.event.sentence(),
                live: line.live,
            })
            .collect(),
    }
}
