//! What pages speak of: the vocabulary of the bench, in one import.

pub(crate) use gradimen_bench::decision::{Action, Mark, Move, Station, StationId, Stop, Verdict};
pub(crate) use gradimen_bench::estimate::Estimate as Known;
pub(crate) use gradimen_bench::export::Summary;
pub(crate) use gradimen_bench::finding::{Finding, Severity};
pub(crate) use gradimen_bench::job::{Job, JobError};
pub(crate) use gradimen_bench::journal::{Corrected, Document, Event, Opened};
pub(crate) use gradimen_bench::model::Shop;
pub(crate) use gradimen_bench::model::defaults::{
    self, TUNERS, relief_schools, sets, tunings, usual_heights, usual_instrument, usual_pickup,
};
pub(crate) use gradimen_bench::model::hardware::{
    Bridge, BridgeDetails, BridgeFamily, HeadAt, HeightScrews, IntonationScrews, PickupFamily,
    PickupMounting, PickupRecord, SaddleDrive, SaddleWay, VibratoKind, VibratoRecord,
};
pub(crate) use gradimen_bench::model::instrument::{
    Construction, Instrument, InstrumentError, Kind, NeckRecord, NutKind, Rod, RodAt,
};
pub(crate) use gradimen_bench::model::limits;
pub(crate) use gradimen_bench::model::shop::{Offered, Work};
pub(crate) use gradimen_bench::model::{
    Adjuster, Amount, BalanceSchool, Buzz, CheckLine, Complaint, Condition, End, Fretwork, Heard,
    HeightsGiven, Inner, IntonationReference, Keyed, Measurement, Note, Observation, Picks, Place,
    Player, Reading, Reference, ReliefSpan, Rocking, RodFeel, Round, Shim, Side, Stage,
    StringConstruction, StringEntry, Strung, Symptom, Targets, Tolerances, Tool, Touch, Tuner,
    Tuning, Wanted, Weighing,
};
pub(crate) use gradimen_bench::plan::Plan;
pub(crate) use gradimen_bench::plan::first::{Check, Subject};
pub(crate) use gradimen_bench::plan::job_plan::{JobMove, JobPlan};
pub(crate) use gradimen_bench::plan::reading_check::{self, Question};
pub(crate) use gradimen_bench::plan::what_if::{Change, StringChange, WhatIf};
pub(crate) use gradimen_bench::stations::action::{AdjusterPlan, HeightString};
pub(crate) use gradimen_bench::stations::balance::{BalancePlan, Range};
pub(crate) use gradimen_bench::stations::clearance::ClearancePlan;
pub(crate) use gradimen_bench::stations::intonation::SaddlePlan;
pub(crate) use gradimen_bench::stations::nut::NutString;
pub(crate) use gradimen_bench::stations::pickups::{PickupPlan, PickupSide};
pub(crate) use gradimen_bench::stations::strings::{self as pulls, Pull, TensionGoal};
pub(crate) use gradimen_bench::text;
