//! Journals to test with.
#![allow(dead_code, unreachable_pub, clippy::unwrap_used)] // no test needs all of it

use std::sync::Arc;

use gradimen_bench::estimate::StringState;
use gradimen_bench::estimate::state::State;
use gradimen_core::quantity::{Cents, Estimate as Value, Length};
use jiff::Timestamp;
use prelude::*;

/// What tests of the bench speak of.
pub(crate) mod prelude {
    #![allow(unused_imports)] // no test needs all of it

    pub(crate) use gradimen_bench::decision::{
        Action, Decision, Expectation, Mark, Move, Quantity, Station, StationId, Stop, Sum, Verdict,
    };
    pub(crate) use gradimen_bench::estimate::Estimate;
    pub(crate) use gradimen_bench::export::report::Report;
    pub(crate) use gradimen_bench::export::summary::Summary;
    pub(crate) use gradimen_bench::finding::{Finding, Remedy, Severity};
    pub(crate) use gradimen_bench::job::{Job, JobError};
    pub(crate) use gradimen_bench::journal::{Document, DocumentError, Entry, Event, Opened};
    pub(crate) use gradimen_bench::model::defaults::{self, pickup_target, tolerance};
    pub(crate) use gradimen_bench::model::hardware::{
        Bridge, BridgeFamily, Lifts, PickupFamily, PickupRecord, VibratoKind, VibratoRecord,
    };
    pub(crate) use gradimen_bench::model::instrument::{Instrument, Kind, Rod, RodAt};
    pub(crate) use gradimen_bench::model::{
        Adjuster, Amount, BalanceSchool, Buzz, End, HeightsGiven, Inner, IntonationReference,
        Keyed, Measurement, Observation, Place, Player, Reading, Reference, ReliefSpan, Shim, Side,
        Stage, StringConstruction, StringEntry, StringSet, Strung, Targets, Tolerances, Tool,
        Touch, Tuner, Tuning, Wanted, Weighing,
    };
    pub(crate) use gradimen_bench::plan::Plan;
    pub(crate) use gradimen_bench::plan::job_plan::{JobPlan, Pending};
    pub(crate) use gradimen_bench::plan::reading_check::{Cause, Question, question};
    pub(crate) use gradimen_bench::plan::what_if::{Change, PINCHES, WhatIf};
    pub(crate) use gradimen_bench::stations::balance::{BalancePlan, turns_of_side};
    pub(crate) use gradimen_bench::stations::clearance::{BuzzRemedy, ClearancePlan};
    pub(crate) use gradimen_bench::stations::strings::{self as pulls, TensionGoal};
    pub(crate) use gradimen_bench::text;

    pub(crate) use super::{Bench as _, ask, known, next_of, plan_of, report_of, summary_of};
}

pub(crate) fn known(job: &Job) -> Estimate {
    Estimate::of(Arc::new(job.clone())).unwrap()
}

pub(crate) fn plan_of(job: &Job) -> Plan {
    Plan::of(&known(job))
}

pub(crate) fn summary_of(job: &Job) -> Summary {
    Summary::of(&known(job), &plan_of(job))
}

pub(crate) fn report_of(job: &Job) -> Report {
    Report::of(job).unwrap()
}

/// The station that the work stands at.
pub(crate) fn next_of(job: &Job) -> Option<StationId> {
    let known = known(job);
    Plan::of(&known).next_station(&known)
}

/// The question a reading raises.
pub(crate) fn ask(job: &Job, event: &Event) -> Option<Question> {
    question(&known(job), || plan_of(job), event)
}

/// An opening on an instrument that differs from the usual one.
pub(crate) fn opened_as(
    kind: Kind,
    strings: u8,
    family: BridgeFamily,
    change: impl FnOnce(&mut Instrument),
) -> Event {
    let mut event = opened(kind, strings, family);
    if let Event::Opened(opened) = &mut event {
        change(&mut opened.instrument);
    }
    event
}

/// A job with one thing more.
pub(crate) trait Bench: Sized {
    fn state(&self) -> State;
    fn strings(&self) -> Vec<StringState>;
    fn plus(&self, event: Event) -> Result<Self, JobError>;
    fn accepts(&self, event: &Event) -> Result<(), JobError>;
}

impl Bench for Job {
    fn state(&self) -> State {
        known(self).state().clone()
    }

    fn strings(&self) -> Vec<StringState> {
        known(self).strings().to_vec()
    }

    fn plus(&self, event: Event) -> Result<Self, JobError> {
        self.with(vec![event])
    }

    fn accepts(&self, event: &Event) -> Result<(), JobError> {
        self.with(vec![event.clone()]).map(drop)
    }
}

/// The first reading a move expects, as a length or as cents.
pub(crate) fn first_length(step: &Move) -> Value<Length> {
    step.expected[0].value.length().unwrap()
}

pub(crate) fn first_cents(step: &Move) -> Value<Cents> {
    step.expected[0].value.cents().unwrap()
}

pub(crate) fn strung(kind: Kind, strings: u8) -> Strung {
    Strung {
        set: defaults::sets(kind, strings)[0].strings.clone(),
        tuning: Tuning::of(
            "standard",
            440.0,
            &defaults::tunings(kind, strings)[0].pitches,
        ),
    }
}

/// A usual set of six strings.
pub(crate) fn usual_set(index: usize) -> Vec<StringEntry> {
    defaults::sets(Kind::Guitar, 6)[index].strings.clone()
}

/// That set put on, in standard tuning.
pub(crate) fn put_on(index: usize) -> Event {
    Event::Restrung {
        strung: Strung {
            set: usual_set(index),
            ..strung(Kind::Guitar, 6)
        },
    }
}

/// Relief right where a medium hand wants it, both sides.
pub(crate) fn straight() -> [Event; 2] {
    Side::ALL.map(|side| {
        Event::read(
            Place::Relief {
                side,
                span: ReliefSpan {
                    low: 1,
                    high: 12,
                    at: 6,
                },
            },
            Reading::Length {
                length: Measurement::mm(0.1524),
            },
        )
    })
}

pub(crate) fn opened(kind: Kind, strings: u8, family: BridgeFamily) -> Event {
    Event::Opened(Box::new(Opened {
        instrument: Instrument {
            stock_number: "27".into(),
            name: "Heron".into(),
            bridge: Bridge::profile(family, strings),
            ..defaults::usual_instrument(kind, strings)
        },
        instrument_version: 1,
        purpose: "before loan".into(),
        player: Player {
            touch: Touch::Medium,
            style: "dance band".into(),
        },
        strung: strung(kind, strings),
        arrived: None,
        heights: defaults::usual_heights(&defaults::usual_instrument(kind, strings)),
        old_strings: false,
        taught: Vec::new(),
        last_time: None,
        practice: None,
    }))
}

/// The same guitar on a fixed plate, its record changed.
pub(crate) fn opened_with(change: impl FnOnce(&mut Instrument)) -> Event {
    let mut event = opened(Kind::Guitar, 6, BridgeFamily::FixedPlate);
    if let Event::Opened(opened) = &mut event {
        change(&mut opened.instrument);
    }
    event
}

/// Numbers events into entries a second apart.
pub(crate) fn journal(events: Vec<Event>) -> Vec<Entry> {
    events
        .into_iter()
        .zip(1..)
        .map(|(event, seq)| {
            Entry::new(
                seq,
                Timestamp::from_second(1_790_000_000 + seq as i64).unwrap(),
                event,
            )
        })
        .collect()
}

pub(crate) fn fold(events: Vec<Event>) -> Job {
    Job::fold(&journal(events)).unwrap()
}

pub(crate) fn read(string: u8, cents: f64) -> Event {
    read_at(string, 12, cents)
}

pub(crate) fn read_at(string: u8, fret: u8, cents: f64) -> Event {
    Event::read(
        Place::Intonation { string, fret },
        Reading::Note {
            cents,
            against: if fret == 12 {
                Reference::Harmonic
            } else {
                Reference::Open
            },
            resolution_cents: None,
            by_ear: false,
        },
    )
}

pub(crate) fn tuner(resolution_cents: f64) -> Event {
    Event::Observed {
        what: Observation::Tuner {
            tuner: Tuner {
                name: "strobe".into(),
                resolution_cents,
            },
        },
    }
}

/// A six-string guitar on a fixed plate with these events behind its opening.
pub(crate) fn guitar(events: Vec<Event>) -> Job {
    fold(
        [
            vec![opened(Kind::Guitar, 6, BridgeFamily::FixedPlate)],
            events,
        ]
        .concat(),
    )
}
