//! Intake: whose instrument, how it lies, where it stands in the shop.

use crate::vocabulary::*;
use askama::Template;

use crate::components::{Choice, Head};
use crate::forms::{Fields, heights};
use crate::pages::layout::{JobLayout, View};

#[derive(Template)]
#[template(path = "stations/intake/page.html")]
pub(crate) struct Intake {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    hands: Vec<Choice>,
    stages: Vec<Choice>,
    old_strings: bool,
    stage: &'static str,
    version: u32,
    notes: Vec<String>,
    /// What is left to do, in words.
    left: Option<String>,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Intake {
    let mut fields = view.fields.clone();
    if fields.text("what") != "heights" {
        heights::fill(&mut fields, job.heights());
    }
    if fields.text("what") != "player" {
        fields.set("touch", job.player().touch.key());
        fields.set("style", job.player().style.clone());
    }
    Intake {
        head: Head::new(),
        frame,
        hands: Touch::all()
            .map(|hand| Choice::of(hand.key(), hand.key(), fields.text("touch") == hand.key()))
            .collect(),
        stages: Stage::all()
            .map(|stage| Choice::of(stage.key(), stage.name(), stage == job.stage()))
            .collect(),
        old_strings: job.old_strings(),
        stage: job.stage().name(),
        version: job.instrument_version(),
        notes: job.notes().to_vec(),
        left: gradimen_bench::text::next::job_plan::left(job, plan),
        fields,
    }
}
