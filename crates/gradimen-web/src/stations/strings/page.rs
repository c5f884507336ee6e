//! The strings station: what pulls how hard, and what would.

use std::sync::Arc;

use askama::Template;
use gradimen_bench::text::next::strings::headline;
use gradimen_core::tension::{Load, REFUSE_SHARE, WARN_SHARE};
use gradimen_core::units::{parse_force, print};

use super::form;
use crate::commands::What;
use crate::components::{Choice, Head, SetField};
use crate::forms::{Fields, set};
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::{svg, words};

struct Row {
    string: u8,
    label: String,
    unit_weight: String,
    source: &'static str,
    newtons: String,
    pounds: String,
    kilograms: String,
    share: String,
    stress: String,
    load: Load,
    load_word: String,
    mark: String,
    change: String,
    core: String,
}

impl Row {
    fn is_fine(&self) -> bool {
        self.load == Load::Fine
    }
}

/// A set or tuning that answers a wish, ready to be put on.
struct Proposal {
    says: String,
    total: String,
    change: String,
    fields: Vec<(String, String)>,
}

#[derive(Template)]
#[template(path = "stations/strings/page.html")]
pub(crate) struct Strings {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    caution: String,
    steps: Vec<String>,
    stretched: String,
    rows: Vec<Row>,
    total: String,
    total_pounds: String,
    total_kilograms: String,
    headline: [String; 2],
    presets: Vec<Choice>,
    usual_sets: Vec<Choice>,
    wishes: Vec<Choice>,
    strings: Vec<Choice>,
    trying: bool,
    proposal: Option<Proposal>,
    old_strings: bool,
    warn: String,
    refuse: String,
    has_before: bool,
}

/// The set in the fields, worked out without putting it on; what is on when nothing is tried.
fn tried(job: &Known, fields: &mut Fields) -> Option<Strung> {
    let on = job.strung();
    let name = |preset: &str| {
        tunings(job.instrument().kind, job.instrument().strings)
            .into_iter()
            .find(|found| found.name == preset)
    };
    match fields.text("try") {
        "tuning" => {
            let preset = name(fields.text("preset"))?;
            Some(Strung {
                tuning: Tuning::of(preset.name, on.tuning.a4_hz, &preset.pitches),
                ..on
            })
        }
        "set" => {
            let wanted = fields.text("usual_set");
            let usual = sets(job.instrument().kind, job.instrument().strings)
                .into_iter()
                .find(|usual| usual.name == wanted)?;
            Some(Strung {
                set: usual.strings,
                ..on
            })
        }
        "fields" => form::strung(job, fields),
        _ => None,
    }
}

pub(crate) fn station(frame: JobLayout, job: &Known, view: &View) -> Strings {
    let mut fields = view.fields.clone();
    let refused = What::of(&fields) == Some(What::Strung);
    let attempt = if refused {
        None
    } else {
        tried(job, &mut fields)
    };
    let shown = attempt.clone().unwrap_or_else(|| job.strung());
    let keep_typed = refused || (fields.text("try") == "fields" && attempt.is_none());
    if !keep_typed {
        set::fill(&mut fields, &shown);
    }
    // A trial is a job that never gets written: the same fold, one event further.
    let trial = attempt
        .as_ref()
        .and_then(|strung| trial(job, strung, &mut fields));
    let worked = trial.as_ref().unwrap_or(job);
    let pull = pulls::pull(worked);
    let proposal = proposal(job, &mut fields);
    let drawing = super::drawing::draw(
        worked,
        &pull,
        |string| set_field(&fields, "note", string, "limits=note".to_owned()),
        |string| {
            let now = job.string_state(string);
            let now = now.map_or(String::new(), |now| set::gauge_text(&now.record));
            let asks = format!("limits=string_gauge&now={now}");
            set_field(&fields, "gauge", string, asks)
        },
    );
    Strings {
        head: Head::new(),
        drawing,
        caution: text::cautions::strings(job.instrument()),
        steps: text::restring::steps(job.instrument()),
        stretched: text::restring::stretched(job.stretches()),
        headline: headline(&pull, trial.is_some()),
        rows: rows(worked, &pull),
        total: words::newtons(pull.total),
        total_pounds: format!("{:.1}", pull.total.pounds()),
        total_kilograms: format!("{:.1}", pull.total.kilograms()),
        presets: tunings(job.instrument().kind, job.instrument().strings)
            .into_iter()
            .map(|preset| Choice::of(preset.name, preset.name, preset.name == shown.tuning.name))
            .collect(),
        usual_sets: sets(job.instrument().kind, job.instrument().strings)
            .into_iter()
            .map(|usual| {
                let gauges: Vec<String> =
                    usual.strings.iter().map(|string| string.label()).collect();
                Choice::of(
                    usual.name,
                    &format!("{}: {}", usual.name, gauges.join(" ")),
                    fields.text("usual_set") == usual.name,
                )
            })
            .collect(),
        wishes: WISHES
            .iter()
            .map(|(key, label)| Choice::of(key, label, fields.text("wish") == *key))
            .collect(),
        strings: (1..)
            .zip(job.strings())
            .map(|(string, state)| {
                let label = format!("{string} {}", state.record.label());
                Choice::of(
                    &string.to_string(),
                    &label,
                    fields.text("string") == string.to_string(),
                )
            })
            .collect(),
        trying: trial.is_some(),
        proposal,
        old_strings: job.old_strings(),
        warn: format!("{:.0}", WARN_SHARE * 100.0),
        refuse: format!("{:.0}", REFUSE_SHARE * 100.0),
        has_before: pull.before.is_some(),
        fields,
        frame,
    }
}

/// The job as it would be with these strings, for looking at.
fn trial(job: &Known, strung: &Strung, fields: &mut Fields) -> Option<Known> {
    let restrung = Event::Restrung {
        strung: strung.clone(),
    };
    let tried = job.with(vec![restrung]).map_err(|error| error.to_string());
    let tried = fields.keep("set", tried)?;
    let known = Known::of(Arc::new(tried)).map_err(|error| error.to_string());
    fields.keep("set", known)
}

fn rows(job: &Known, pull: &Pull) -> Vec<Row> {
    pull.rows
        .iter()
        .zip(job.strings())
        .map(|(row, state)| Row {
            string: row.string,
            label: format!("{} {}", state.pitch, state.record.label()),
            unit_weight: format!("{:.3}", row.unit_weight.grams_per_metre()),
            source: if row.weighed { "weighed" } else { "" },
            newtons: words::newtons(row.pull),
            pounds: format!("{:.1}", row.pull.pounds()),
            kilograms: format!("{:.2}", row.pull.kilograms()),
            share: format!("{:.0} %", row.share * 100.0),
            stress: format!("{:.0} %", row.stress * 100.0),
            load: row.load,
            load_word: row.load.to_string(),
            mark: svg::inline_mark(if row.load == Load::Fine {
                Verdict::InSpec
            } else {
                Verdict::TooHigh
            }),
            change: row.change.map_or(String::new(), words::change),
            core: match (state.spec.construction().is_wound(), row.core_is_estimate) {
                (false, _) => "plain".to_owned(),
                (true, true) => format!("about {}", print::thou(row.core)),
                (true, false) => print::thou(row.core),
            },
        })
        .collect()
}

/// A field standing on a lane that belongs to the form below.
fn set_field(fields: &Fields, name: &str, string: u8, understood: String) -> String {
    SetField {
        field: fields.field(&format!("{name}{string}")),
        label: format!("{name} of string {string}"),
        understood,
    }
    .html()
}

/// Wishes and how they are asked for.
const WISHES: [(&str, &str); 4] = [
    ("set_total", "gauges for a total pull"),
    ("set_each", "gauges for a pull on every string"),
    ("tuning_total", "a tuning for a total pull"),
    (
        "keep_feel",
        "gauges that keep today's tension in the tuning above",
    ),
];

/// Answers a wish in the fields.
fn proposal(job: &Known, fields: &mut Fields) -> Option<Proposal> {
    let wish = fields.text("wish").to_owned();
    let wanted = match wish.as_str() {
        "" => return None,
        "keep_feel" => None,
        _ => {
            let read = parse_force(fields.text("pull"));
            Some(fields.keep("pull", read)?)
        }
    };
    let strung = match (wish.as_str(), wanted) {
        ("keep_feel", _) => {
            let aim = form::strung(job, fields)?;
            pulls::set_for(job, &aim.tuning, TensionGoal::KeepFeel)
        }
        ("set_total", Some(wanted)) => {
            pulls::set_for(job, job.tuning(), TensionGoal::Total(wanted))
        }
        ("set_each", Some(wanted)) => pulls::set_for(job, job.tuning(), TensionGoal::Even(wanted)),
        ("tuning_total", Some(wanted)) => {
            pulls::tuning_for(job, wanted).map(|(tuning, _)| Strung {
                tuning,
                ..job.strung()
            })
        }
        _ => return None,
    };
    let strung = fields.keep("pull", strung)?;
    let there = trial(job, &strung, fields)?;
    let pull = pulls::pull(&there);
    let gauges: Vec<String> = strung.set.iter().map(set::gauge_text).collect();
    let mut send = Fields::default();
    set::fill(&mut send, &strung);
    Some(Proposal {
        says: format!("{} in {}", gauges.join(" "), strung.tuning.notes.join(" ")),
        total: words::newtons(pull.total),
        change: pull.change().map_or(String::new(), words::change),
        fields: send
            .all()
            .map(|(name, value)| (name.clone(), value.clone()))
            .collect(),
    })
}
