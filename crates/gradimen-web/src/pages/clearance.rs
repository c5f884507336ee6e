//! The clearance map: where strings touch under this hand, and how low they may lie.

use crate::vocabulary::*;
use askama::Template;
use gradimen_core::clearance::Tightest;
use gradimen_core::quantity::Length;

use super::layout::{JobLayout, View};
use super::setup::{FindingView, Next, note, small};
use super::{Choice, Head};
use crate::forms::Fields;
use crate::{filters, svg, words};

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
#[template(path = "clearance.html")]
pub(crate) struct Clearance {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    next: Next,
    found: Vec<FindingView>,
    rows: Vec<Row>,
    strings: Vec<Choice>,
    heard: Vec<(String, String, String)>,
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
            .unwrap_or_else(|| job.geometry().line(string))
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
        drawing: svg::setup::clearance(job, &map),
        next: says(job, &map),
        found: Vec::new(),
        rows,
        strings: (1..=job.instrument().strings)
            .map(|string| {
                let number = string.to_string();
                let label = format!("{string} {}", note(job, string));
                Choice::of(&number, &label, fields.text("string") == number)
            })
            .collect(),
        heard: map.heard.iter().map(heard_line).collect(),
        bends: map
            .bends
            .iter()
            .map(|bend| {
                let out = bend.tightest.margin < Length::ZERO;
                let text = format!(
                    "string {} bent a whole step at fret {}, {} mm aside: {} at fret {}",
                    bend.string,
                    bend.tightest.held,
                    words::mm(bend.shift, 0),
                    if out {
                        format!(
                            "chokes, {} mm too low",
                            words::mm(bend.tightest.margin.abs(), 2)
                        )
                    } else {
                        format!("{} mm left", words::mm(bend.tightest.margin, 2))
                    },
                    bend.tightest.fret
                );
                (text, out)
            })
            .collect(),
        hand: format!(
            "{} touch: hardest stroke {:.2} N at a right angle to the board, {} from the saddle{}. The first swing is the worst case.",
            job.player().touch.key(),
            map.attack.pluck.force.newtons(),
            gradimen_core::units::print::mm(map.attack.pluck.from_saddle),
            match map.attack.heard {
                0 => ", a usual value until a buzz is heard".to_owned(),
                count => format!(", learned from {count} heard"),
            }
        ),
        fret: job.targets().action_fret,
        frame,
        fields,
    }
}

fn held(fret: u8) -> String {
    if fret == 0 {
        "open".to_owned()
    } else {
        fret.to_string()
    }
}

fn row(job: &Known, string: u8, now: Tightest, after: Tightest, lowest: Length) -> Row {
    Row {
        string,
        note: note(job, string),
        held: held(now.held),
        fret: now.fret.to_string(),
        left: words::mm(now.margin, 2),
        after: words::mm(after.margin, 2),
        out: now.margin < Length::ZERO,
        out_after: after.margin < Length::ZERO,
        lowest: words::mm(lowest, 2),
    }
}

fn cure_words(cure: BuzzRemedy) -> String {
    match cure {
        BuzzRemedy::Rod { by } => format!("more relief: {} by hold 1 and last", small(by)),
        BuzzRemedy::Nut { by } => format!("a slot {} higher", small(by)),
        BuzzRemedy::Saddle { by } => format!("a height {} more", small(by)),
        BuzzRemedy::Fret(fret) => format!("fret {fret}: it stands high, or is not seated"),
        BuzzRemedy::None => "nothing: it clears".to_owned(),
    }
}

fn heard_line(heard: &BuzzDiagnosis) -> (String, String, String) {
    (
        format!(
            "string {} {}, at {:.0} %",
            heard.buzz.string,
            if heard.buzz.held == 0 {
                "open".to_owned()
            } else {
                format!("held at {}", heard.buzz.held)
            },
            heard.buzz.attack * 100.0
        ),
        match heard.cure {
            BuzzRemedy::Fret(fret) => format!("fret {fret}"),
            _ => format!("fret {}", heard.fret),
        },
        cure_words(heard.cure),
    )
}

fn says(job: &Known, map: &ClearancePlan) -> Next {
    let worst = map
        .now
        .iter()
        .filter_map(|on| on.worst().map(|worst| (on.string, worst)))
        .min_by(|a, b| a.1.margin.mm().total_cmp(&b.1.margin.mm()));
    let targets = job.targets();
    let mut next = Next {
        kicker: format!("Clearance \u{b7} {} touch, {}", job.player().touch.key(), job.player().style),
        caution: "A setup is right for one touch: it plays clean at a light touch and begins to grind at about three quarters of the hardest stroke. Raising the strings until the buzz stops hides a high fret and does not cure it.".to_owned(),
        ..Next::default()
    };
    if let Some((string, worst)) = worst {
        if worst.margin < Length::ZERO {
            next.is_out = true;
            next.big = vec![
                format!("String {string} touches fret {}", worst.fret),
                format!(
                    "held at {}, by {} mm",
                    held(worst.held),
                    words::mm(worst.margin.abs(), 2)
                ),
            ];
            next.expect = vec![format!(
                "The least that cures it is {}.",
                cure_words(map.cure)
            )];
        } else {
            next.big = vec!["Plays clean at this touch".to_owned()];
            next.expect = vec![format!(
                "Smallest clearance {} mm: string {string} held at {}, at fret {}.",
                words::mm(worst.margin, 2),
                held(worst.held),
                worst.fret
            )];
        }
    }
    if let Some((treble, bass)) = map.lowest.first().zip(map.lowest.last()) {
        next.expect.push(format!(
            "For this touch and set: lowest {} mm treble and {} mm bass at fret {}, with {} of relief ({}).",
            words::mm(*treble, 2),
            words::mm(*bass, 2),
            targets.action_fret,
            small(map.lowest_relief),
            targets.relief_span.words()
        ));
    }
    next
}
