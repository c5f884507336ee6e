//! Every reading and move of a job as a table: a line an entry, for a spreadsheet.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document};
//! use gradimen_bench::export::table::{HEADING, rows};
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let rows = rows(&known);
//! assert!(!rows.is_empty() && HEADING[2] == "quantity");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use crate::job::Job;
use crate::journal::Event;
use crate::model::{Adjuster, Amount, Keyed, Measurement, Place, Reading, Reference};
use crate::text;

/// The heading.
pub const HEADING: [&str; 9] = [
    "entry", "time", "quantity", "string", "fret", "value", "unit", "tool", "counts",
];

/// One line, in the order of the heading.
pub type Row = [String; 9];

/// The lines, in the order of the journal.
pub fn rows(job: &Job) -> Vec<Row> {
    let mut found = Vec::new();
    for entry in job.entries() {
        let cells = match &entry.event {
            Event::Read { place, value, .. } => read(job, *place, value),
            Event::Adjusted { adjuster, amount } => vec![adjusted(*adjuster, amount)],
            _ => continue,
        };
        for cell in cells {
            found.push([
                entry.seq.to_string(),
                entry.at.to_string(),
                cell.quantity,
                cell.string
                    .map_or_else(String::new, |string| string.to_string()),
                cell.fret.map_or_else(String::new, |fret| fret.to_string()),
                cell.value,
                cell.unit.to_owned(),
                cell.tool.to_owned(),
                if job.counts(entry) { "yes" } else { "undone" }.to_owned(),
            ]);
        }
    }
    found
}

#[derive(Default)]
struct Cell {
    quantity: String,
    string: Option<u8>,
    fret: Option<u8>,
    value: String,
    unit: &'static str,
    tool: &'static str,
}

fn mm(measured: &Measurement) -> String {
    format!("{:.4}", measured.middle().mm())
}

fn read(job: &Job, place: Place, value: &Reading) -> Vec<Cell> {
    let (quantity, string, fret) = whereabouts(job, place);
    let cell = |value: String, unit| Cell {
        quantity: quantity.clone(),
        string,
        fret,
        value,
        unit,
        tool: "",
    };
    match value {
        Reading::Length { length } => vec![Cell {
            tool: length.tool.map_or("", Keyed::key),
            ..cell(mm(length), "mm")
        }],
        Reading::Touches => vec![cell("touches".to_owned(), "")],
        Reading::Rocks => vec![cell("rocks".to_owned(), "")],
        Reading::Flat => vec![cell("flat on the body".to_owned(), "")],
        Reading::Note { cents, against, .. } => vec![Cell {
            quantity: match against {
                Reference::Open => "intonation against the open string",
                Reference::Harmonic => "intonation against the harmonic",
            }
            .to_owned(),
            ..cell(cents.to_string(), "cents")
        }],
        Reading::Level { decibels, .. } => vec![cell(decibels.to_string(), "dB")],
        Reading::Ends { treble, bass } => [("treble", treble), ("bass", bass)]
            .into_iter()
            .map(|(side, end)| Cell {
                quantity: format!("claw to wall, {side} side"),
                ..cell(mm(end), "mm")
            })
            .collect(),
        Reading::RodNut { turns_left, how } => vec![Cell {
            quantity: format!("nut of the truss rod, {}", how.key()),
            ..cell(turns_left.to_string(), "turns")
        }],
        Reading::Rock { seen } => vec![cell(seen.key().to_owned(), "")],
        Reading::Weighed { weighing } => vec![cell(
            format!("{:.5}", weighing.unit_weight().grams_per_metre()),
            "g/m",
        )],
    }
}

/// The name of a place, the string along which and the fret at which it is read.
fn whereabouts(job: &Job, place: Place) -> (String, Option<u8>, Option<u8>) {
    let outer = |side: crate::model::Side| Some(job.instrument().string_of(side));
    match place {
        Place::Relief { side, span } => (
            format!("relief, {} side, {}", text::side(side), span.words()),
            outer(side),
            Some(span.at),
        ),
        Place::Nut { string, held } => (
            format!("gap at fret 1, held at {held}"),
            Some(string),
            Some(1),
        ),
        Place::Action { string, fret, held } => {
            (format!("action, held at {held}"), Some(string), Some(fret))
        }
        Place::Intonation { string, fret } => ("intonation".to_owned(), Some(string), Some(fret)),
        Place::Gap => ("vibrato gap".to_owned(), None, None),
        Place::Spring => ("spring length, unhooked".to_owned(), None, None),
        Place::ClawEnds => ("claw to wall".to_owned(), None, None),
        Place::Pickup { pickup, side } => (
            format!("gap of pickup {}, {} side", pickup + 1, text::side(side)),
            outer(side),
            Some(job.instrument().frets),
        ),
        Place::PolePiece { pickup, string } => (
            format!("pole piece gap of pickup {}", pickup + 1),
            Some(string),
            Some(job.instrument().frets),
        ),
        Place::Level { pickup, string } => (
            format!("level of pickup {}", pickup + 1),
            Some(string),
            None,
        ),
        Place::Scale { string } => ("nut to fret 12".to_owned(), Some(string), None),
        Place::Saddle { string } => ("fret 12 to saddle".to_owned(), Some(string), None),
        Place::Room { string } => ("room behind the saddle".to_owned(), Some(string), None),
        Place::Core { string } => ("core".to_owned(), Some(string), None),
        Place::CutOff { string } => ("unit weight".to_owned(), Some(string), None),
        Place::RodCheck => ("nut of the truss rod".to_owned(), None, None),
        Place::Rock { string, fret } => ("rocker".to_owned(), Some(string), Some(fret)),
    }
}

fn adjusted(adjuster: Adjuster, amount: &Amount) -> Cell {
    let string = match adjuster {
        Adjuster::SaddleHeight { string }
        | Adjuster::SaddleDrive { string }
        | Adjuster::PolePiece { string, .. } => Some(string),
        _ => None,
    };
    let (value, unit) = match amount {
        Amount::Turns { turns } => (turns.to_string(), "turns"),
        Amount::Apart { turns, apart } => (format!("{turns} \u{b1} {apart}"), "turns"),
        Amount::Distance { distance } => (mm(distance), "mm"),
        Amount::Ends { treble, bass } => (format!("{} and {}", mm(treble), mm(bass)), "mm"),
        Amount::Springs { count, .. } => (count.to_string(), "springs"),
        Amount::Reversed => ("reversed".to_owned(), ""),
    };
    Cell {
        quantity: format!("moved: {}", text::moves::adjuster(adjuster)),
        string,
        value,
        unit,
        ..Cell::default()
    }
}
