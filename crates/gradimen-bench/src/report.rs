//! The computed state and plan of a job, for other programs: what `gradimen plan` prints.

use gradimen_core::quantity::Length;
use gradimen_core::units::print;
use schemars::{JsonSchema, Schema, schema_for};
use serde::Serialize;

use crate::job::Job;
use crate::plan::{Move, Plan, SaddlePlan, Verdict};
use crate::scale::{ScaleCheck, scale_checks};
use crate::strings;

/// Version of the report's form.
pub const REPORT_VERSION: u32 = 1;

/// Everything computed about a job.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Report {
    /// Always `gradimen-plan`.
    pub format: &'static str,
    /// Version of the report's form, 1 today.
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
    /// Every move.
    pub moves: Vec<MoveReport>,
    /// Everything found.
    pub findings: Vec<FindingReport>,
}

/// A quantity with what is known of it.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Quantity {
    /// What it is: `scale`, `unit_weight`, `tension`, `stress`, `intonation`, `setback`, `travel_behind`.
    pub quantity: &'static str,
    /// Which string.
    pub string: u8,
    /// At which fret, for a fretted note.
    pub fret: Option<u8>,
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
    /// What is turned.
    pub adjuster: &'static str,
    /// The strings it carries.
    pub strings: Vec<u8>,
    /// How far, away from the neck, in millimetres.
    pub distance_mm: f64,
    /// The same in turns; positive drives away from the neck.
    pub turns: f64,
    /// Which way to turn.
    pub direction: String,
    /// What the next reading at fret 12 will be, string by string.
    pub expected: Vec<Expected>,
    /// Way left behind the saddle afterwards, in millimetres.
    pub travel_behind_mm: f64,
}

/// A reading to expect.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Expected {
    /// Which string.
    pub string: u8,
    /// Cents at fret 12, sharp positive.
    pub cents: f64,
    /// One standard deviation of that.
    pub uncertainty: f64,
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
        let mut quantities = tension_quantities(job);
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
                .saddles
                .iter()
                .filter_map(|saddle| {
                    saddle
                        .next_move()
                        .map(|step| move_report(job, saddle, step))
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
        adjuster: "saddle screw",
        strings: saddle.strings().collect(),
        distance_mm: mm(step.distance),
        turns: rounded(step.turns.value()),
        direction: direction(job, step),
        expected: saddle
            .strings()
            .zip(&step.expected)
            .map(|(string, expected)| Expected {
                string,
                cents: rounded(expected.value.value()),
                uncertainty: rounded(expected.sigma.value()),
            })
            .collect(),
        travel_behind_mm: mm(step.behind_after.value),
    }
}

/// The JSON Schema of the report.
pub fn schema() -> Schema {
    schema_for!(Report)
}
