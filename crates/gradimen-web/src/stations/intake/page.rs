//! Intake: whose instrument, how it lies, where it stands in the shop.

use crate::vocabulary::*;
use askama::Template;
use gradimen_bench::export::handover;
use gradimen_bench::text::triage as says;
use gradimen_bench::triage::{Chance, Triage, evidence};

use super::form::field_of;

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
    /// How damp it is, and what that leads to.
    air: Vec<String>,
    /// What is left to do, in words.
    left: Option<String>,
    symptoms: Vec<Choice>,
    picks: Vec<Choice>,
    chances: Vec<ChanceRow>,
    /// The quick check that would tell most.
    next_check: Option<String>,
}

/// One kind of work with its chance.
struct ChanceRow {
    name: &'static str,
    share: String,
    width: String,
    offers: Vec<String>,
    why: String,
}

fn chance_row(chance: &Chance, view: &View) -> ChanceRow {
    let share = chance.share * 100.0;
    let offered = |work: &Work| {
        let found = view.offers.work.iter().find(|offer| offer.work == *work)?;
        Some(says::offered(found, &view.offers.currency))
    };
    ChanceRow {
        name: says::outcome(chance.outcome),
        share: says::share(chance.share),
        width: format!("{share:.0}"),
        offers: chance.outcome.works().iter().filter_map(offered).collect(),
        why: says::why(chance),
    }
}

fn air(job: &Known, plan: &Plan) -> Vec<String> {
    let forecast = handover::forecast(job, plan);
    if let Some(forecast) = &forecast {
        return text::season::sentences(forecast);
    }
    let before = job.last_time().and_then(|last| last.air.last());
    let before = before.map(|air| {
        let (was, day) = (
            text::season::humidity(air.percent),
            air.day.strftime("%-d %b %Y"),
        );
        format!("{was} on {day}. With today's, the neck's own movement is told from the rod's.")
    });
    before.into_iter().collect()
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
    if fields.text("what") != "complaint" {
        let told = job.complaint();
        fields.set("words", told.words.clone());
        fields.set("liked", told.liked.clone());
        fields.set("picks", told.picks.map_or("", Keyed::key));
        for symptom in &told.symptoms {
            fields.tick(&field_of(*symptom), true);
        }
    }
    let triage = Triage::of(&evidence(job, plan));
    let none = Choice::of("", "not said", fields.text("picks").is_empty());
    Intake {
        head: Head::new(),
        frame,
        symptoms: Symptom::all()
            .map(|symptom| {
                let name = field_of(symptom);
                let ticked = fields.ticked(&name);
                Choice::of(&name, symptom.name(), ticked)
            })
            .collect(),
        picks: std::iter::once(none)
            .chain(Picks::all().map(|picks| {
                Choice::of(
                    picks.key(),
                    picks.name(),
                    fields.text("picks") == picks.key(),
                )
            }))
            .collect(),
        chances: triage
            .shown()
            .map(|chance| chance_row(chance, view))
            .collect(),
        next_check: says::next(&triage),
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
        air: air(job, plan),
        left: gradimen_bench::text::next::job_plan::left(job, plan),
        fields,
    }
}
