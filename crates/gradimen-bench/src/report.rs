//! The computed state and plan of a job, for other programs: what `gradimen plan` prints.

mod setup;

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use schemars::{JsonSchema, Schema, schema_for};
use serde::Serialize;

use crate::job::Job;
use crate::plan::{Move, Plan, SaddlePlan, Verdict};
use crate::scale::{ScaleCheck, scale_checks};
use crate::strings;
use crate::whole::WholePlan;

/// Version of the report's form.
pub const REPORT_VERSION: u32 = 2;

/// Everything computed about a job.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Report {
    /// Always `gradimen-plan`.
    pub format: &'static str,
    /// Version of the report's form, 2 today.
    pub version: u32,
    /// Last entry of the journal it was worked out from.
    pub seq: u64,
    /// The instrument's number and name.
    pub instrument: String,
    /// Below this an intonation error cannot be told from nothing, in cents.
    pub threshold_cents: f64,
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
    /// How it is read, where there are schools: `hold 1 and 12, read 6`, `open`, `held at 3`.
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
    /// Where on the bench: `balance`, `relief`, `nut`, `height`, `intonation`, `pickups`.
    pub station: &'static str,
    /// What is turned or filed.
    pub adjuster: String,
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// How far in millimetres: a saddle away from the neck, a string or slot up, the neck's gap wider.
    pub distance_mm: Option<f64>,
    /// The same in turns: a saddle screw positive away from the neck, a height screw positive up, the
    /// rod positive when tightened.
    pub turns: Option<f64>,
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
    /// In words.
    pub text: String,
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

/// Which way to turn a saddle screw, in words.
pub fn direction(job: &Job, step: &Move) -> String {
    format!(
        "{} {}, seen from {}, {} the neck",
        print::turns_with_word(step.turns),
        step.rotation,
        job.instrument().bridge.intonation.head.name(),
        if step.distance >= Length::ZERO {
            "away from"
        } else {
            "toward"
        }
    )
}

impl Report {
    /// Works a job out.
    pub fn of(job: &Job) -> Self {
        let plan = Plan::of(job);
        let whole = WholePlan::of(job, &plan);
        let mut quantities = tension_quantities(job);
        quantities.extend(
            plan.balance
                .as_ref()
                .map(|balance| setup::balance(job, balance)),
        );
        quantities.extend(setup::quantities(job, &plan.setup));
        quantities.extend(scale_checks(job, &plan.saddles).iter().map(scale_quantity));
        for saddle in &plan.saddles {
            quantities.extend(saddle_quantities(saddle));
            quantities.extend(other_frets(job, saddle));
        }
        quantities.sort_by_key(|quantity| quantity.string);
        Self {
            format: "gradimen-plan",
            version: REPORT_VERSION,
            seq: job.seq(),
            instrument: job.instrument().title(),
            threshold_cents: rounded(plan.threshold.value()),
            intonation_done: plan.intonation_done(),
            quantities,
            moves: plan
                .balance
                .as_ref()
                .and_then(|balance| setup::claw(job, balance))
                .into_iter()
                .chain(setup::moves(job, &plan.setup))
                .chain(plan.saddles.iter().filter_map(|saddle| {
                    let step = saddle.next_move()?;
                    Some(move_report(job, saddle, step))
                }))
                .collect(),
            whole: whole.moves.iter().map(setup::whole_move).collect(),
            wanted: whole
                .waiting
                .into_iter()
                .map(|line| Wanted {
                    station: line.station.key(),
                    text: line.says,
                })
                .collect(),
            findings: plan
                .findings
                .iter()
                .map(|finding| FindingReport {
                    kind: finding.kind(),
                    severity: finding.severity().word(),
                    string: finding.string(),
                    text: finding.sentence(),
                    ways_out: finding.ways(),
                })
                .collect(),
        }
    }
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
        Verdict::Within => "within",
        Verdict::Above => "above",
        Verdict::Below => "below",
        Verdict::Recheck => "recheck",
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
fn other_frets(job: &Job, saddle: &SaddlePlan) -> Vec<Quantity> {
    let mut found = Vec::new();
    for string in &saddle.estimate.strings {
        let Ok(state) = job.string_state(string.string) else {
            continue;
        };
        for fret in (1..=job.instrument().frets).filter(|fret| *fret != 12) {
            let Some(reading) = job.last_reading(string.string, fret) else {
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

fn move_report(job: &Job, saddle: &SaddlePlan, step: &Move) -> MoveReport {
    MoveReport {
        station: "intonation",
        adjuster: "saddle screw".to_owned(),
        strings: saddle.strings().collect(),
        distance_mm: Some(mm(step.distance)),
        turns: Some(rounded(step.turns.value())),
        direction: direction(job, step),
        rounds: 1,
        expected: saddle
            .strings()
            .zip(&step.expected)
            .map(|(string, expected)| Expected {
                string,
                fret: 12,
                unit: "cents",
                value: rounded(expected.value.value()),
                uncertainty: rounded(expected.sigma.value()),
            })
            .collect(),
        travel_behind_mm: Some(mm(step.behind_after.value)),
    }
}

/// The JSON Schema of the report.
pub fn schema() -> Schema {
    schema_for!(Report)
}
