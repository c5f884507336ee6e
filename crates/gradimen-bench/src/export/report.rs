//! The computed state and plan of a job, for other programs: what `gradimen plan` prints.
//!
//! ```
//! use gradimen_bench::{export::report::Report, job::Job, journal::Document};
//!
//! let text = include_str!("../../../../docs/formats/examples/twisted-neck.json");
//! let report = Report::of(&Job::fold(&Document::parse(text)?.events)?)?;
//! assert!(!report.done);
//! assert_eq!(report.findings[0].kind, "twist");
//! # Ok::<(), Box<dyn std::error::Error>>(())
//! ```

mod setup;

use std::sync::Arc;

use gradimen_core::quantity::{Length, Turns};
use schemars::{JsonSchema, Schema, schema_for};
use serde::Serialize;

use crate::decision::{Move, StationId, Sum, Verdict};
use crate::estimate::learned::{self, Learned};
use crate::estimate::{Estimate, EstimateError};
use crate::finding::ScaleCheck;
use crate::job::Job;
use crate::model::{Adjuster, Amount, Behaviour, Place};
use crate::plan::Plan;
use crate::plan::job_plan::{JobPlan, Pending};
use crate::plan::reading_check;
use crate::stations::intonation::{SaddlePlan, scale_checks};
use crate::stations::strings;
use crate::text;

/// Version of the report's form.
pub const REPORT_VERSION: u32 = 3;

/// Everything computed about a job.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Report {
    /// Always `gradimen-plan`.
    pub format: &'static str,
    /// Version of the report's form, 3 today.
    pub version: u32,
    /// Last entry of the journal it was worked out from.
    pub seq: u64,
    /// The instrument's number and name.
    pub instrument: String,
    /// Below this an intonation error is let be, in cents: what the job allows, or what this tuner can show.
    pub threshold_cents: f64,
    /// Whether nothing is left to measure or to turn, nothing stops, and every target has its probability.
    pub done: bool,
    /// Whether every saddle can be left alone.
    pub intonation_done: bool,
    /// Every quantity.
    pub quantities: Vec<Quantity>,
    /// The next move of every adjuster, on the instrument as it is.
    pub moves: Vec<MoveReport>,
    /// The whole job: every move in the order of the bench, each worked out on the instrument as
    /// the moves before it leave it.
    pub whole: Vec<MoveReport>,
    /// Readings that are wanted before the rest of the whole job is known.
    pub wanted: Vec<Wanted>,
    /// Everything found.
    pub findings: Vec<FindingReport>,
    /// Readings among the last hundred entries that look off, and were not confirmed.
    pub questions: Vec<QuestionReport>,
    /// What is let be although it may be out: neither a reading nor a turn makes it surer.
    pub in_doubt: Vec<DoubtReport>,
    /// What this instrument taught of its own ways, kept for its next visit.
    pub learned: Vec<LearnedReport>,
}

/// A target that may be out.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct DoubtReport {
    /// Where it is read.
    pub place: Place,
    /// How probable it is that it is in spec.
    pub within: f64,
    /// In words.
    pub text: String,
}

/// A number that an instrument taught.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct LearnedReport {
    /// About what.
    pub of: Behaviour,
    /// Unit of the numbers.
    pub unit: &'static str,
    /// How much.
    pub value: f64,
    /// One standard deviation of that.
    pub uncertainty: f64,
    /// What is usual, and how much instruments differ.
    pub usual: f64,
    /// One standard deviation of that.
    pub usual_uncertainty: f64,
    /// In words.
    pub text: String,
}

/// A quantity with what is known of it.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Quantity {
    /// What it is: `scale`, `unit_weight`, `tension`, `stress`, `vibrato_gap`, `relief`, `nut`, `action`,
    /// `intonation`, `setback`, `travel_behind`, `pickup_gap`, `margin` (what a string leaves over the fret it
    /// comes nearest to, at the player's hardest stroke).
    pub quantity: &'static str,
    /// Which string; for relief the one along which that side is read.
    pub string: u8,
    /// At or over which fret, where it is read at one.
    pub fret: Option<u8>,
    /// How it is read, where there are several methods: `hold 1 and 12, read 6`, `open`, `held at 3`.
    pub method: Option<String>,
    /// Unit of the numbers.
    pub unit: &'static str,
    /// The last reading, where there is one.
    pub last_reading: Option<f64>,
    /// What it is now, as estimated.
    pub predicted: f64,
    /// One standard deviation of that, where it is an estimate.
    pub uncertainty: Option<f64>,
    /// What it is to be, where there is a target.
    pub target: Option<f64>,
    /// How it stands to that.
    pub verdict: &'static str,
}

/// A move of one adjuster.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct MoveReport {
    /// Where on the bench: `balance`, `relief`, `nut`, `action`, `intonation`, `pickups`.
    pub station: &'static str,
    /// What is turned or filed.
    pub adjuster: String,
    /// The same for a program, as an entry of the journal has it.
    pub adjuster_id: Adjuster,
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// How far in millimetres: a saddle away from the neck, a string or slot up, the neck's gap wider.
    pub distance_mm: Option<f64>,
    /// The same in turns: a saddle screw positive away from the neck, a height screw positive up, the
    /// rod positive when tightened.
    pub turns: Option<f64>,
    /// The same where a saddle is slid by hand: positive away from the neck.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub slide_mm: Option<f64>,
    /// The same where one bar carries all strings: what goes under string 1 and under the last.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub slide_ends_mm: Option<[f64; 2]>,
    /// The same where a slot is filed: what comes off.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub depth_mm: Option<f64>,
    /// The same where a locking nut is shimmed: positive up.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub shim_mm: Option<f64>,
    /// Which way, in words.
    pub direction: String,
    /// How many rounds it is expected to take.
    pub rounds: u32,
    /// What the next readings will be.
    pub expected: Vec<Expected>,
    /// Way left behind the saddle afterwards, in millimetres.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub travel_behind_mm: Option<f64>,
}

/// A reading to expect.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Expected {
    /// Along which string.
    pub string: u8,
    /// At or over which fret.
    pub fret: u8,
    /// `mm`, or `cents` (sharp positive).
    pub unit: &'static str,
    /// How much.
    pub value: f64,
    /// One standard deviation of that.
    pub uncertainty: f64,
}

/// A reading that is wanted.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Wanted {
    /// Where on the bench.
    pub station: &'static str,
    /// Where to read; nothing where it cannot go on.
    #[serde(skip_serializing_if = "Option::is_none")]
    pub place: Option<Place>,
    /// In words.
    pub text: String,
}

/// A reading that looks off.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct QuestionReport {
    /// Its entry in the journal.
    pub seq: u64,
    /// Where it was read.
    pub place: Place,
    /// How many standard deviations lie between it and what was expected.
    pub deviations: f64,
    /// In words.
    pub text: String,
    /// The likely slips, in words.
    pub slips: Vec<String>,
}

/// Something found.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct FindingReport {
    /// What kind of finding.
    pub kind: &'static str,
    /// `note`, `warning` or `stop`.
    pub severity: &'static str,
    /// The string it speaks of, if of one.
    pub string: Option<u8>,
    /// In words.
    pub text: String,
    /// What can be done.
    pub ways_out: Vec<String>,
}

/// To a millionth: what lies below is noise of arithmetic, and reports should compare equal.
fn rounded(value: f64) -> f64 {
    // Adding nought turns a negative nought into a plain one.
    (value * 1e6).round() / 1e6 + 0.0
}

fn mm(length: Length) -> f64 {
    rounded(length.mm())
}

impl Report {
    /// Works a job out.
    ///
    /// # Errors
    /// [`EstimateError`] for records that got past the fold.
    pub fn of(job: &Job) -> Result<Self, EstimateError> {
        let job = Arc::new(job.clone());
        let known = Estimate::of(Arc::clone(&job))?;
        let plan = Plan::of(&known);
        let questions = reading_check::questions(&job)?;
        Ok(Self::from(&known, &plan, &questions))
    }

    fn from(known: &Estimate, plan: &Plan, questions: &[(u64, reading_check::Question)]) -> Self {
        let whole = JobPlan::of(known, plan);
        Self {
            format: "gradimen-plan",
            version: REPORT_VERSION,
            seq: known.seq(),
            instrument: known.instrument().title(),
            threshold_cents: rounded(plan.intonation.threshold.value()),
            done: plan.done(known),
            intonation_done: plan.intonation.is_done(),
            quantities: quantities(known, plan),
            moves: plan
                .bench()
                .iter()
                .flat_map(|station| {
                    let tasks = station.tasks(known).into_iter();
                    tasks.map(move |task| (station.id(), task))
                })
                .filter_map(|(station, task)| {
                    let step = task.next.next_move()?;
                    let way = (step.turns(), text::moves::direction(known, step));
                    Some(move_report(known, station, &task.strings, step, way))
                })
                .collect(),
            whole: whole
                .moves
                .iter()
                .map(|line| {
                    let way = (line.step.total, text::moves::whole(known, &line.step));
                    move_report(known, line.station, &line.strings, &line.step, way)
                })
                .collect(),
            wanted: whole
                .pending
                .iter()
                .map(|(station, line)| Wanted {
                    station: station_key(*station),
                    place: match line {
                        Pending::Reading(place) => Some(*place),
                        Pending::Stopped { .. } => None,
                    },
                    text: text::moves::pending(known, line),
                })
                .collect(),
            findings: plan
                .findings
                .iter()
                .map(|finding| FindingReport {
                    kind: finding.kind(),
                    severity: finding.severity().key(),
                    string: finding.string(),
                    text: text::findings::sentence(finding),
                    ways_out: text::findings::options(finding),
                })
                .collect(),
            questions: questions
                .iter()
                .map(|(seq, question)| QuestionReport {
                    seq: *seq,
                    place: question.place,
                    deviations: rounded(question.deviations),
                    text: text::questions::sentence(question),
                    slips: question.slips.iter().map(text::questions::slip).collect(),
                })
                .collect(),
            in_doubt: plan
                .in_doubt()
                .into_iter()
                // Before the end what is in doubt is still to be read or turned.
                .filter(|_| plan.next_station(known).is_none())
                .map(|doubt| DoubtReport {
                    place: doubt.place,
                    within: rounded(doubt.odds.within),
                    text: text::next::job_plan::doubt(known, &doubt),
                })
                .collect(),
            learned: learned::of(known)
                .iter()
                .filter(|learned| learned.is_own())
                .map(learned_report)
                .collect(),
        }
    }
}

fn learned_report(learned: &Learned) -> LearnedReport {
    LearnedReport {
        of: learned.of,
        unit: learned.of.unit(),
        value: rounded(learned.value),
        uncertainty: rounded(learned.sigma),
        usual: rounded(learned.usual),
        usual_uncertainty: rounded(learned.usual_sigma),
        text: format!(
            "{} {}",
            text::learned::name(learned.of),
            text::learned::known(learned)
        ),
    }
}

fn station_key(station: StationId) -> &'static str {
    station.into()
}

fn quantities(known: &Estimate, plan: &Plan) -> Vec<Quantity> {
    let mut found = tension_quantities(known);
    found.extend(
        plan.balance
            .as_ref()
            .map(|balance| setup::balance(known, balance)),
    );
    found.extend(setup::quantities(known, plan));
    let checks = scale_checks(known);
    found.extend(checks.iter().map(scale_quantity));
    for saddle in &plan.intonation.saddles {
        found.extend(saddle_quantities(saddle));
        found.extend(other_frets(known, saddle));
    }
    found.sort_by_key(|quantity| quantity.string);
    found
}

fn tension_quantities(job: &Job) -> Vec<Quantity> {
    let mut found = Vec::new();
    for row in strings::pull(job).rows {
        let of = |quantity, unit, value, verdict| Quantity {
            quantity,
            string: row.string,
            fret: None,
            method: None,
            unit,
            last_reading: None,
            predicted: rounded(value),
            uncertainty: None,
            target: None,
            verdict,
        };
        let load = match row.load {
            gradimen_core::tension::Load::Fine => "within",
            gradimen_core::tension::Load::High => "near_breaking",
            gradimen_core::tension::Load::TooMuch => "would_break",
        };
        let source = if row.weighed { "weighed" } else { "computed" };
        found.push(of(
            "unit_weight",
            "g/m",
            row.unit_weight.grams_per_metre(),
            source,
        ));
        found.push(of("tension", "N", row.pull.newtons(), "computed"));
        found.push(of("stress", "share of strength", row.stress, load));
    }
    found
}

const fn verdict_key(verdict: Verdict) -> &'static str {
    match verdict {
        Verdict::Unread => "unread",
        Verdict::InSpec => "within",
        Verdict::TooHigh => "above",
        Verdict::TooLow => "below",
        Verdict::MeasureAgain => "recheck",
        Verdict::Blocked => "blocked",
    }
}

fn saddle_quantities(saddle: &SaddlePlan) -> Vec<Quantity> {
    let known = &saddle.estimate;
    let mut found = Vec::new();
    for ((string, remaining), verdict) in known
        .strings
        .iter()
        .zip(&saddle.remaining)
        .zip(&saddle.verdicts)
    {
        let verdict = verdict_key(*verdict);
        found.push(Quantity {
            quantity: "intonation",
            string: string.string,
            fret: Some(12),
            method: None,
            unit: "cents",
            last_reading: string.last.map(|cents| rounded(cents.value())),
            predicted: rounded(string.error.value.value()),
            uncertainty: Some(rounded(string.error.sigma.value())),
            target: Some(rounded(remaining.value())),
            verdict,
        });
        found.push(Quantity {
            quantity: "setback",
            string: string.string,
            fret: None,
            method: None,
            unit: "mm",
            last_reading: known.measured.map(mm),
            predicted: mm(known.setback.value),
            uncertainty: Some(mm(known.setback.sigma)),
            target: Some(mm(saddle.target.value)),
            verdict: if known.placed { verdict } else { "unread" },
        });
        found.push(Quantity {
            quantity: "travel_behind",
            string: string.string,
            fret: None,
            method: None,
            unit: "mm",
            last_reading: None,
            predicted: mm(known.behind.value),
            uncertainty: Some(mm(known.behind.sigma)),
            target: None,
            verdict: if saddle.short_by.is_some() {
                "blocked"
            } else {
                "within"
            },
        });
    }
    found
}

fn scale_quantity(check: &ScaleCheck) -> Quantity {
    Quantity {
        quantity: "scale",
        string: check.string,
        fret: None,
        method: None,
        unit: "mm",
        last_reading: Some(mm(check.measured)),
        predicted: mm(check.measured),
        uncertainty: None,
        target: Some(mm(check.named)),
        verdict: match (check.agrees, check.difference() > Length::ZERO) {
            (true, _) => "within",
            (false, true) => "above",
            (false, false) => "below",
        },
    }
}

/// Frets read besides the twelfth, with what the model says of them now.
fn other_frets(known: &Estimate, saddle: &SaddlePlan) -> Vec<Quantity> {
    let mut found = Vec::new();
    for string in &saddle.estimate.strings {
        let Some(state) = known.string_state(string.string) else {
            continue;
        };
        for fret in (1..=known.instrument().frets).filter(|fret| *fret != 12) {
            let Some(reading) = known.last_reading(string.string, fret) else {
                continue;
            };
            let place = saddle.estimate.setback.value - string.bias;
            let Ok(now) = state.speaking.error(fret, place) else {
                continue;
            };
            found.push(Quantity {
                quantity: "intonation",
                string: string.string,
                fret: Some(fret),
                method: None,
                unit: "cents",
                last_reading: Some(rounded(reading.value())),
                predicted: rounded(now.value()),
                uncertainty: None,
                target: None,
                verdict: "read",
            });
        }
    }
    found
}

fn move_report(
    known: &Estimate,
    station: StationId,
    strings: &[u8],
    step: &Move,
    (turns, direction): (Turns, String),
) -> MoveReport {
    let filed = matches!(step.adjuster, Adjuster::NutSlots { .. });
    let shim = known.instrument().locking_nut;
    let turned = !filed && !step.is_slid();
    let ends = match &step.amount {
        Amount::Ends { treble, bass } => Some([mm(treble.middle()), mm(bass.middle())]),
        _ => None,
    };
    MoveReport {
        station: station_key(station),
        adjuster: text::moves::adjuster_of(known, step.adjuster),
        adjuster_id: step.adjuster,
        strings: strings.to_vec(),
        distance_mm: Some(mm(step.distance)),
        turns: turned.then(|| rounded(turns.value())),
        slide_mm: (step.is_slid() && ends.is_none()).then(|| mm(step.distance)),
        slide_ends_mm: ends,
        depth_mm: (filed && !shim).then(|| mm(step.distance.abs())),
        shim_mm: (filed && shim).then(|| mm(step.distance)),
        direction,
        rounds: step.rounds,
        expected: step
            .expected
            .iter()
            .map(|expected| setup::expected(known, expected))
            .collect(),
        travel_behind_mm: match &step.sum {
            Sum::Saddle(sum) => Some(mm(sum.behind_after.value)),
            _ => None,
        },
    }
}

/// The JSON Schema of the report.
pub fn schema() -> Schema {
    schema_for!(Report)
}
