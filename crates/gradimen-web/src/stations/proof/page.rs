//! The proof's page.

use askama::Template;
use gradimen_bench::plan::proof::{Test, ahead, lead, rocked};
use gradimen_bench::text::{events, proof as says};

use super::drawing;
use crate::components::{Choice, Head};
use crate::pages::layout::{JobLayout, View, by_string};
use crate::vocabulary::*;

/// A line of the check lists.
struct Line {
    key: &'static str,
    name: &'static str,
    /// Before and after: which round, its name, and the choices.
    rounds: Vec<(&'static str, Vec<Choice>)>,
}

/// A note that is heard, and where it leads.
struct Open {
    note: String,
    heard: &'static str,
    leads: String,
    /// The page of the station.
    to: Option<(String, String)>,
    /// Where a rocker decides: the fret, and what it showed.
    rock: Option<(u8, String)>,
    string: u8,
    fret: u8,
}

#[derive(Template)]
#[template(path = "stations/proof/page.html")]
pub(crate) struct Proof {
    head: Head,
    frame: JobLayout,
    drawing: String,
    note: String,
    string: u8,
    fret: u8,
    heard: Vec<Choice>,
    open: Vec<Open>,
    lines: Vec<Line>,
    played_through: bool,
    headline: String,
    /// For what the ear can listen, the words on its button, and what is said when it begins.
    listens: Vec<(String, String, String)>,
}

/// The note in hand.
pub(in crate::stations) fn in_hand(job: &Known, view: &View) -> Note {
    let fret = view.fields.text("fret").parse().ok();
    Note {
        string: view.string(job).unwrap_or(1),
        fret: fret
            .filter(|fret| *fret <= job.instrument().frets)
            .unwrap_or(0),
    }
}

pub(crate) fn station(frame: JobLayout, job: &Known, view: &View) -> Proof {
    let note = in_hand(job, view);
    let (string, fret) = (note.string, note.fret);
    let all: Vec<(Note, Heard)> = job.play_test().collect();
    let here = all
        .iter()
        .find(|(at, _)| *at == note)
        .map(|(_, heard)| *heard);
    let frame = frame
        .with_string(string)
        .with_place("fret", &fret.to_string());
    let condition = |round: Round, line: CheckLine| {
        let found = job.checked(round, line);
        let choices = Condition::all();
        choices
            .map(|choice| Choice::of(choice.key(), choice.name(), choice == found))
            .collect()
    };
    Proof {
        head: Head::new(),
        drawing: drawing::draw(job, frame.id, note),
        note: events::note_of(note),
        string,
        fret,
        heard: Heard::all()
            .map(|heard| Choice::of(heard.key(), heard.name(), here == Some(heard)))
            .collect(),
        open: all
            .iter()
            .map(|(at, heard)| open(job, frame.id, (*at, *heard), &all))
            .collect(),
        lines: CheckLine::all()
            .map(|line| Line {
                key: line.key(),
                name: line.name(),
                rounds: Round::all()
                    .map(|round| (round.key(), condition(round, line)))
                    .collect(),
            })
            .collect(),
        played_through: job.played_through(),
        listens: by_string(
            job,
            "play",
            "Strike every fret of it in turn, at the player's touch: what buzzes is kept.",
        ),
        headline: says::headline(all.len(), job.played_through()),
        frame,
    }
}

fn open(job: &Known, id: i64, (note, heard): (Note, Heard), all: &[(Note, Heard)]) -> Open {
    let lead = lead(note, heard, all);
    let rock = (lead.test == Test::RockAhead).then(|| {
        let at = ahead(note, job.instrument().frets);
        let shown = rocked(job, at).map_or_else(String::new, |seen| says::rocks(at, seen));
        (at.fret, shown)
    });
    let to = lead.station.filter(|station| *station != StationId::First);
    let to = to.map(|station| {
        let key = station.key();
        (
            format!("/jobs/{id}/{key}?string={}", note.string),
            key.to_owned(),
        )
    });
    Open {
        note: events::note_of(note),
        heard: heard.name(),
        leads: says::leads(note, lead, job.instrument().frets),
        to,
        rock,
        string: note.string,
        fret: note.fret,
    }
}
