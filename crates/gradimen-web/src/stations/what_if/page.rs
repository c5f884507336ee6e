//! The what-if sheet: today beside what another set, tuning or hand would make of it.

use askama::Template;
use gradimen_bench::text::next::what_if as says;
use gradimen_core::quantity::Length;
use gradimen_core::tension::Load;
use gradimen_core::units::parse_frequency;
use gradimen_core::units::print::UNIT;

use super::form;
use crate::components::{Choice, Head};
use crate::forms::{Fields, set};
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::{filters, words};

struct Line {
    string: u8,
    note: String,
    gauge: String,
    pull: String,
    stress: String,
    stress_out: bool,
    slot: String,
    slot_out: bool,
    nut: String,
    action: String,
    setback: String,
    left: String,
    left_out: bool,
    margin: String,
    margin_out: bool,
}

#[derive(Template)]
#[template(path = "stations/what_if/page.html")]
pub(crate) struct Sheet {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    headline: String,
    tunings: Vec<Choice>,
    sets: Vec<Choice>,
    hands: Vec<Choice>,
    claw: bool,
    schools: Vec<Choice>,
    springs: Vec<Choice>,
    now: [String; 3],
    cannot: String,
    refused: String,
    total: String,
    relief: [(String, String); 2],
    lines: Vec<Line>,
    pickups: Vec<String>,
    vibrato: String,
    costs: Vec<[String; 3]>,
    adopt: Vec<(String, String)>,
    changed: bool,
    fret: u8,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Sheet {
    let mut fields = view.fields.clone();
    fields.suggest("a4", job.tuning().a4_hz.to_string());
    let wanted = wanted(job, &mut fields);
    let change = form::read(job, &mut fields);
    let player = change
        .as_ref()
        .map_or_else(|| job.player().clone(), |change| change.player.clone());
    let worked = match (wanted, change) {
        (Err(error), _) => Err(error),
        (_, None) => Err("one of the fields cannot be read".to_owned()),
        (Ok(strung), Some(change)) => {
            let change = Change { strung, ..change };
            WhatIf::of(job, plan, &change)
                .map(|found| (found, change.strung))
                .map_err(|error| error.to_string())
        }
    };
    let kind = (job.instrument().kind, job.instrument().strings);
    let chosen = |name: &str, value: &str| fields.text(name) == value;
    let tunings = std::iter::once(Choice::of("", "as it is", chosen("preset", "")))
        .chain(
            tunings(kind.0, kind.1)
                .into_iter()
                .map(|preset| Choice::of(preset.name, preset.name, chosen("preset", preset.name))),
        )
        .collect();
    let sets = [
        ("", "as it is"),
        ("keep_feel", "gauges that keep today's tension"),
    ]
    .into_iter()
    .map(|(value, label)| Choice::of(value, label, chosen("usual_set", value)))
    .chain(
        sets(kind.0, kind.1)
            .into_iter()
            .map(|usual| Choice::of(usual.name, usual.name, chosen("usual_set", usual.name))),
    )
    .collect();
    let hands = Touch::all()
        .map(|hand| Choice::of(hand.key(), hand.key(), hand == player.touch))
        .collect();
    let vibrato = job.instrument().bridge.vibrato.as_ref();
    let school = fields.text("school").to_owned();
    let schools = std::iter::once(Choice::of("", "as it is", school.is_empty()))
        .chain(
            BalanceSchool::all()
                .map(|known| Choice::of(known.key(), known.name(), known.key() == school)),
        )
        .collect();
    let count = fields.text("springs").to_owned();
    let springs = std::iter::once(Choice::of("", "as they are", count.is_empty()))
        .chain((1..=5).map(|springs: u8| {
            let springs = springs.to_string();
            Choice::of(&springs, &springs, springs == count)
        }))
        .collect();
    let targets = job.targets();
    let mut sheet = Sheet {
        head: Head::new(),
        headline: "What if?".to_owned(),
        tunings,
        sets,
        hands,
        claw: vibrato.is_some_and(|record| record.kind == VibratoKind::BodySprings),
        schools,
        springs,
        now: [
            format!("Relief, else {}", targets.relief.written),
            format!("Action treble, else {}", targets.action_treble.written),
            format!("Bass, else {}", targets.action_bass.written),
        ],
        cannot: String::new(),
        refused: String::new(),
        total: String::new(),
        relief: [
            (String::new(), String::new()),
            (String::new(), String::new()),
        ],
        lines: Vec::new(),
        pickups: Vec::new(),
        vibrato: String::new(),
        costs: Vec::new(),
        adopt: Vec::new(),
        changed: false,
        fret: job.targets().action_fret,
        frame,
        fields,
    };
    match worked {
        Ok((found, strung)) => fill(&mut sheet, job, &found, &strung),
        Err(error) => sheet.refused = error,
    }
    sheet
}

/// The set and tuning that are asked about.
fn wanted(job: &Known, fields: &mut Fields) -> Result<Strung, String> {
    let on = job.strung();
    let kind = (job.instrument().kind, job.instrument().strings);
    let a4 = parse_frequency(fields.text("a4")).map_err(|error| error.to_string());
    let a4 = fields.keep("a4", a4).ok_or("A4 is not a frequency")?;
    let preset = tunings(kind.0, kind.1)
        .into_iter()
        .find(|preset| preset.name == fields.text("preset"));
    let tuning = match preset {
        Some(preset) => Tuning::of(preset.name, a4.hertz(), &preset.pitches),
        None => Tuning {
            a4_hz: a4.hertz(),
            ..on.tuning.clone()
        },
    };
    let usual = sets(kind.0, kind.1)
        .into_iter()
        .find(|usual| usual.name == fields.text("usual_set"));
    if !fields.text("gauges").is_empty() {
        let read = gauges(job, fields.text("gauges"));
        let set = fields
            .keep("gauges", read)
            .ok_or("the gauges cannot be read")?;
        return Ok(Strung { set, tuning });
    }
    if !fields.text("feel_scale").is_empty() {
        let scale = fields
            .exact("feel_scale", &limits::SCALE)
            .ok_or("the scale whose feel is wanted cannot be read")?;
        return pulls::set_for(job, &tuning, TensionGoal::FeelOf(scale.middle()))
            .map_err(|error| error.to_string());
    }
    if fields.text("usual_set") == "keep_feel" {
        return pulls::set_for(job, &tuning, TensionGoal::KeepFeel)
            .map_err(|error| error.to_string());
    }
    Ok(Strung {
        set: usual.map_or(on.set, |usual| usual.strings),
        tuning,
    })
}

/// Free gauges, string 1 first: `10 13 17 26w 36w 46w`.
fn gauges(job: &Known, text: &str) -> Result<Vec<StringEntry>, String> {
    let strings = usize::from(job.instrument().strings);
    let parts: Vec<&str> = text
        .split([' ', ';'])
        .map(|part| part.trim_matches(','))
        .filter(|part| !part.is_empty())
        .collect();
    if parts.len() != strings {
        return Err(format!(
            "read {} gauges, expected {strings} with spaces between, string 1 first: 10 13 17 26w 36w 46w",
            parts.len()
        ));
    }
    parts
        .into_iter()
        .map(|part| {
            let record = set::parse_gauge(part, None).map_err(|error| error.to_string())?;
            record.spec().map_err(|error| error.to_string())?;
            Ok(record)
        })
        .collect()
}

fn fill(sheet: &mut Sheet, job: &Known, found: &WhatIf, strung: &Strung) {
    sheet.changed = !found.events.is_empty();
    sheet.headline = says::headline(found);
    sheet.total = format!(
        "{} N now, {} N then ({:.1} lbf)",
        words::newtons(found.total.0),
        words::newtons(found.total.1),
        found.total.1.pounds()
    );
    sheet.relief = [0, 1].map(|side| {
        let pair = &found.relief[side];
        (["treble", "bass"][side].to_owned(), says::then(pair))
    });
    sheet.lines = found
        .strings
        .iter()
        .map(|change| line(change, strung))
        .collect();
    sheet.vibrato = found.vibrato.as_ref().map_or(String::new(), says::then);
    sheet.pickups = found
        .pickups
        .iter()
        .map(|(name, side, before, after)| {
            format!(
                "{name}, {}: {} {UNIT}, then {} untouched",
                side.key(),
                words::in_unit(*before, 2),
                words::in_unit(*after, 2)
            )
        })
        .collect();
    sheet.costs = found.costs.iter().map(|on| says::cost(job, on)).collect();
    let mut send = Fields::default();
    set::fill(&mut send, strung);
    sheet.adopt = send
        .all()
        .map(|(name, value)| (name.clone(), value.clone()))
        .chain(
            form::NAMES
                .into_iter()
                .map(|name| (name.to_owned(), sheet.fields.text(name).to_owned())),
        )
        .collect();
    sheet.cannot = found.springs.map_or_else(String::new, says::cannot);
}

fn line(change: &StringChange, strung: &Strung) -> Line {
    let gauge = strung
        .set
        .get(usize::from(change.string - 1))
        .map_or(String::new(), StringEntry::label);
    let arrow = |before: Length, after: Length, decimals| {
        format!(
            "{}, {}",
            words::in_unit(before, decimals),
            words::in_unit(after, decimals)
        )
    };
    Line {
        string: change.string,
        note: strung
            .tuning
            .notes
            .get(usize::from(change.string - 1))
            .cloned()
            .unwrap_or_default(),
        gauge,
        pull: format!(
            "{}, {}",
            words::newtons(change.pull.0),
            words::newtons(change.pull.1)
        ),
        stress: format!("{:.0} %", change.stress * 100.0),
        stress_out: change.load != Load::Fine,
        slot: says::slot(change.thicker),
        slot_out: change.binds(),
        nut: arrow(change.nut.before, change.nut.after.value, 2),
        action: arrow(change.action.before, change.action.after.value, 2),
        setback: format!(
            "{}, {} \u{b1} {}",
            words::in_unit(change.setback.0, 1),
            words::in_unit(change.setback.1.value, 1),
            words::in_unit(change.setback.1.sigma, 1)
        ),
        left: words::in_unit(change.left, 1),
        left_out: change.left < Length::ZERO,
        margin: arrow(change.margin.0, change.margin.1, 2),
        margin_out: change.margin.1 < Length::ZERO,
    }
}
