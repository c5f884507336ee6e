//! One line of the job list: what is kept beside a journal so that the list need not fold it. It is derived, carries
//! a version, and is made again from the journal whenever that is not today's.
//!
//! ```
//! use std::sync::Arc;
//! use gradimen_bench::{estimate::Estimate, job::Job, journal::Document, plan::Plan};
//! use gradimen_bench::export::Summary;
//!
//! let text = include_str!("../../../../docs/formats/examples/six-string-mid-work.json");
//! let known = Estimate::of(Arc::new(Job::fold(&Document::parse(text)?.events)?))?;
//! let plan = Plan::of(&known);
//! let line = Summary::of(&known, &plan);
//! assert!(line.broken.is_none() && line.within.0 <= line.within.1);
//! assert!(line.search_text().contains("six-string"));
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

use jiff::Timestamp;
use jiff::civil::Date;
use serde::{Deserialize, Serialize};

use crate::decision::{Mark, Station, Verdict};
use crate::estimate::Estimate;
use crate::export::handover::Handover;
use crate::export::time;
use crate::finding::Severity;
use crate::job::Job;
use crate::journal::{Entry, Event};
use crate::model::{Adjuster, Hints, Keyed, Stage, StringEntry, Symptom, Toll};
use crate::plan::Plan;
use crate::stations::strings;
use crate::text;

/// Version of the line's form and of what is worked out for it.
pub const SUMMARY_VERSION: u32 = 5;

/// One line of the job list.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct Summary {
    /// Version it was worked out by.
    pub version: u32,
    /// Number and name of the instrument.
    pub title: String,
    /// What sort it is, in words.
    pub describes: String,
    /// Why it is here.
    pub purpose: String,
    /// Whose touch and style.
    pub player: String,
    /// Outer gauges and tuning.
    pub strung: String,
    /// Where it stands.
    pub stage: Stage,
    /// The strings station.
    pub strings: Mark,
    /// Relief, nut and action.
    pub setup: [Mark; 3],
    /// The vibrato, where there is one.
    pub balance: Option<Mark>,
    /// The pickups, where there are any.
    pub pickups: Option<Mark>,
    /// The intonation station.
    pub intonation: Mark,
    /// How many strings are in spec, of how many.
    pub within: (u8, u8),
    /// What else it is found by: notes, and what was found on it.
    #[serde(default)]
    pub words: String,
    /// Until when it is left to settle, where it rests.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub rests_until: Option<Timestamp>,
    /// When it is to come back, once it is ready.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub due: Option<Date>,
    /// Where its time went, in minutes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub minutes: Vec<(String, u32)>,
    /// What the player complained of.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub symptoms: Vec<Symptom>,
    /// What was practised, where it is no real instrument.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub practice: Option<PracticeLine>,
    /// Why it cannot be worked out, where it cannot.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub broken: Option<String>,
}

/// What was practised, in one line.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize)]
pub struct PracticeLine {
    /// Who began it, where accounts are kept.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub by: Option<String>,
    /// The graded exercise, by its word.
    pub exercise: Option<String>,
    /// How much was told.
    pub hints: Hints,
    /// What the plan took.
    pub plan: Took,
    /// What it took when it was handed in first; nothing before.
    pub handed_in: Option<HandedIn>,
}

/// What some work took, in whole minutes.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct Took {
    /// Moves.
    pub moves: u32,
    /// Minutes.
    pub minutes: u32,
}

impl From<Toll> for Took {
    fn from(toll: Toll) -> Self {
        Self {
            moves: toll.moves,
            minutes: toll.minutes.round() as u32,
        }
    }
}

/// Work that was handed in.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize)]
pub struct HandedIn {
    /// What it took.
    pub took: Took,
    /// Targets that were truly out.
    pub out: u32,
    /// Whether it was at par.
    pub par: bool,
}

impl PracticeLine {
    fn of(job: &Job) -> Option<Self> {
        let practice = job.practice()?;
        let handed_in = job.handed_in().map(|(toll, par)| HandedIn {
            took: toll.into(),
            out: toll.out,
            par,
        });
        Some(Self {
            by: job.entries().first().and_then(|first| first.by.clone()),
            exercise: practice.exercise.clone(),
            hints: practice.hints,
            plan: practice.plan.into(),
            handed_in,
        })
    }
}

/// A neck whose rod was turned, and strings that are new, are left overnight (common practice).
const REST: i64 = 12;

/// Until when a job that rests is left: half a day after the rod was turned or the strings were changed last, or after it was laid by.
fn rests_until(job: &Job) -> Option<Timestamp> {
    if job.stage() != Stage::Resting {
        return None;
    }
    let settles = |entry: &&std::sync::Arc<Entry>| {
        matches!(
            entry.event,
            Event::Restrung { .. }
                | Event::Adjusted {
                    adjuster: Adjuster::TrussRod,
                    ..
                }
        )
    };
    let moved = job.facts().iter().rev().find(settles);
    let laid_by = job.entries().iter().rev().find(|entry| {
        let resting = Event::Staged {
            stage: Stage::Resting,
        };
        entry.event == resting
    });
    let from = moved.or(laid_by)?.at;
    from.checked_add(jiff::Span::new().hours(REST)).ok()
}

/// `six-string guitar, 648 mm, fixed plate`.
pub fn describes(job: &Job) -> String {
    let instrument = job.instrument();
    let count = [
        "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve",
    ]
    .get(usize::from(instrument.strings.saturating_sub(3)))
    .copied()
    .unwrap_or("many");
    let scale = |string| format!("{:.0}", instrument.scale(string).mm());
    let scales = if instrument.is_multi_scale() {
        format!("{}\u{2013}{}", scale(1), scale(instrument.strings))
    } else {
        scale(1)
    };
    format!(
        "{count}-string {}, {scales} mm, {}",
        instrument.kind.key(),
        instrument.bridge.family.short_name()
    )
}

/// `.010\u{2013}.046, E A D G B E`.
pub fn strung(job: &Job) -> String {
    let gauge = |record: &StringEntry| record.label().trim_end_matches('w').to_owned();
    let strings = job.fitted();
    let ends = strings
        .first()
        .zip(strings.last())
        .map_or(String::new(), |(thin, thick)| {
            format!("{}\u{2013}{}", gauge(&thin.record), gauge(&thick.record))
        });
    let notes: Vec<String> = strings
        .iter()
        .rev()
        .map(|state| state.pitch.note().to_string())
        .map(|note| {
            note.trim_end_matches(|c: char| c.is_ascii_digit() || c == '-')
                .to_owned()
        })
        .collect();
    format!("{ends}, {}", notes.join(" "))
}

/// Notes, and what is found on it: by its kind, and where it stops by its sentence too.
fn words(job: &Job, plan: &Plan) -> String {
    let found = plan.findings.iter().map(|finding| {
        let kind = finding.kind().replace('_', " ");
        match finding.severity() {
            Severity::Stop => format!("{kind} {}", text::findings::sentence(finding)),
            _ => kind,
        }
    });
    let all: Vec<String> = job.notes().iter().cloned().chain(found).collect();
    all.join(" ")
}

impl Summary {
    /// Works the line out.
    pub fn of(known: &Estimate, plan: &Plan) -> Self {
        let job: &Job = known;
        let verdicts = plan
            .intonation
            .saddles
            .iter()
            .flat_map(|saddle| &saddle.verdicts);
        let within = verdicts
            .filter(|verdict| **verdict == Verdict::InSpec)
            .count();
        Self {
            version: SUMMARY_VERSION,
            title: job.instrument().title(),
            describes: describes(job),
            purpose: job.purpose().to_owned(),
            player: format!("{} touch, {}", job.player().touch.key(), job.player().style),
            strung: strung(job),
            stage: job.stage(),
            strings: strings::mark(job),
            setup: [plan.relief.mark(), plan.nut.mark(), plan.action.mark()],
            balance: plan.balance.as_ref().map(Station::mark),
            pickups: (!plan.pickups.pickups.is_empty()).then(|| plan.pickups.mark()),
            intonation: plan.intonation.mark(),
            within: (
                u8::try_from(within).unwrap_or(u8::MAX),
                job.instrument().strings,
            ),
            words: words(job, plan),
            rests_until: rests_until(job),
            due: (!job.stage().is_open()).then(|| Handover::of(known, plan).back),
            minutes: time::minutes(job)
                .into_iter()
                .map(|(part, minutes)| (part.to_owned(), minutes.round() as u32))
                .collect(),
            symptoms: job.complaint().symptoms.clone(),
            practice: PracticeLine::of(job),
            broken: None,
        }
    }

    /// The line of a job that cannot be worked out: it stays in the list, and says so.
    pub fn broken(title: String, why: String) -> Self {
        Self {
            version: SUMMARY_VERSION,
            title,
            describes: String::new(),
            purpose: String::new(),
            player: String::new(),
            strung: String::new(),
            stage: Stage::Waiting,
            strings: Mark::Unread,
            setup: [Mark::Unread; 3],
            balance: None,
            pickups: None,
            intonation: Mark::Unread,
            within: (0, 0),
            words: String::new(),
            rests_until: None,
            due: None,
            minutes: Vec::new(),
            symptoms: Vec::new(),
            practice: None,
            broken: Some(why),
        }
    }

    /// Whether it is of today's form; one of another version is made again.
    pub const fn is_current(&self) -> bool {
        self.version == SUMMARY_VERSION
    }

    /// What a search looks through, in lower case.
    pub fn search_text(&self) -> String {
        format!(
            "{} {} {} {} {} {}",
            self.title, self.describes, self.purpose, self.player, self.strung, self.words
        )
        .to_lowercase()
    }
}
