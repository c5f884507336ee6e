//! The fret survey's page.

use askama::Template;
use gradimen_bench::plan::frets::{Advice, Frets};
use gradimen_bench::text::{frets as says, triage};

use super::drawing;
use crate::components::{Choice, Head};
use crate::forms::Fields;
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;

#[derive(Template)]
#[template(path = "stations/frets/page.html")]
pub(crate) struct FretsPage {
    head: Head,
    frame: JobLayout,
    drawing: String,
    headline: Vec<String>,
    why: Vec<String>,
    /// What it takes and costs here.
    offer: Option<String>,
    /// Where the rocker lies now, and whether it was laid there before.
    ask: String,
    string: u8,
    fret: u8,
    rocked: Option<&'static str>,
    high: Vec<String>,
    /// How the strings lie after a levelling; nothing where none is advised.
    after: Vec<String>,
    /// What goes from each fret and what stays.
    cut_heads: [String; 4],
    cuts: Vec<[String; 4]>,
    pressed: Option<&'static str>,
    crown: Option<String>,
    works: Vec<Choice>,
    fields: Fields,
    fixed: bool,
}

/// The fret that was named, where a rocker can lie.
fn named(job: &Known, view: &View) -> Option<Note> {
    let named = view.string(job).zip(view.fields.text("fret").parse().ok());
    named
        .map(|(string, fret)| Note { string, fret })
        .filter(|note| (2..job.instrument().frets).contains(&note.fret))
}

/// Where a rock tells most; where that is kept back, the fret that touches where something was heard.
fn first(job: &Known, frets: &Frets) -> Note {
    let start = Note { string: 1, fret: 2 };
    if !job.keeps_hints_back() {
        return frets.next.unwrap_or(start);
    }
    let heard = job.play_test().map(|(note, _)| Note {
        fret: note.fret + 1,
        ..note
    });
    let mut lies = heard.filter(|note| (2..job.instrument().frets).contains(&note.fret));
    lies.next().unwrap_or(start)
}

/// The fret in hand.
pub(in crate::stations) fn in_hand(job: &Known, view: &View) -> Note {
    named(job, view).unwrap_or_else(|| first(job, &Frets::of(job)))
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> FretsPage {
    let mut fields = view.fields.clone();
    let frets = Frets::of(job).for_play(job, plan);
    let named = named(job, view);
    let seated = frets
        .loose
        .first()
        .or(frets.high.first().map(|top| &top.note.fret));
    if let Some(fret) = seated {
        fields.suggest("worked_fret", fret.to_string());
    }
    let note = named.unwrap_or_else(|| first(job, &frets));
    let at = frets.tops.iter().find(|top| top.note == note);
    let offer = says::work(frets.advice).and_then(|work| {
        let offered = view.offers.work.iter().find(|offer| offer.work == work)?;
        Some(triage::offered(offered, &view.offers.currency))
    });
    FretsPage {
        head: Head::new(),
        drawing: drawing::draw(job, &frets, frame.id, note),
        headline: says::headline(frets.advice, frets.frets),
        why: says::why(&frets),
        offer,
        ask: says::ask(note),
        string: note.string,
        fret: note.fret,
        rocked: at.and_then(|top| top.rocked).map(says::rocked),
        high: frets.high.iter().map(says::high).collect(),
        after: match frets.advice {
            Advice::Level | Advice::Refret => {
                let (strings, relief) = frets.after_level(job, plan);
                let relief = relief.iter().map(says::relief_after_level);
                relief
                    .chain(strings.iter().map(says::after_level))
                    .collect()
            }
            _ => Vec::new(),
        },
        cut_heads: says::cut_heads(),
        cuts: frets.to_play.iter().map(says::cut).collect(),
        pressed: job.pressed(note).map(says::pressed),
        crown: job.crown().map(|crown| crown.written.clone()),
        works: Fretwork::all()
            .map(|work| {
                let chosen = fields.text("fretwork") == work.key();
                Choice::of(work.key(), work.name(), chosen)
            })
            .collect(),
        fixed: named.is_some(),
        fields,
        frame,
    }
}
