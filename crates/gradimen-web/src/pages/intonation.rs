//! The intonation station: the one next move, and where its numbers come from.

mod hand;

use crate::vocabulary::*;
use askama::Template;
use gradimen_core::units::print;

use super::layout::{JobLayout, View};
use super::{Choice, Head};
use crate::forms::Fields;
use crate::{filters, svg, words};
use hand::{InHand, in_hand};

/// Frets that are read besides the twelfth.
const FRETS: [u8; 8] = [3, 5, 7, 9, 12, 15, 17, 19];

struct Row {
    string: u8,
    note: String,
    href: String,
    reading: String,
    mark: String,
    verdict: &'static str,
    out: bool,
    action: String,
    arrow: String,
    moves: bool,
    travel: String,
    in_hand: bool,
}

struct Notice {
    class: &'static str,
    word: &'static str,
    text: String,
    ways: Vec<String>,
}

/// Where a saddle belongs, for the rule.
struct Place {
    string: u8,
    note: String,
    setback: String,
    rule: String,
    ends: String,
    out: bool,
    place: crate::forms::Field,
    room: crate::forms::Field,
}

#[derive(Template)]
#[template(path = "intonation.html")]
pub(crate) struct Intonation {
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    rows: Vec<Row>,
    hand: InHand,
    stops: Vec<Notice>,
    notices: Vec<Notice>,
    fret: u8,
    against: &'static str,
    frets: Vec<Choice>,
    tuners: Vec<Choice>,
    tuner: String,
    tuner_assumed: bool,
    panel: &'static str,
    places: Vec<Place>,

    scale_hint: String,
    old_strings: bool,
    threshold: String,
    setup_first: bool,
}

pub(crate) fn station(frame: JobLayout, job: &Known, plan: &Plan, view: &View) -> Intonation {
    let fields = view.fields.clone();
    let string = view
        .string(job)
        .or(plan.intonation.next_string())
        .unwrap_or(1);
    let frame = frame.with_string(string);
    let frets_there = FRETS
        .into_iter()
        .filter(|fret| *fret <= job.instrument().frets);
    let fret = fields
        .text("fret")
        .parse()
        .ok()
        .filter(|fret| FRETS.contains(fret))
        .unwrap_or(12);
    let against = if fret == 12 {
        Reference::from_key(fields.text("against")).unwrap_or(Reference::Harmonic)
    } else {
        Reference::Open
    };
    let drawing = svg::intonation::draw(job, plan, string, fret, |string| {
        reading_field(&frame, job, plan, &fields, string, fret, against)
    });
    let link = |string: u8| {
        format!(
            "/jobs/{}/intonation?string={string}&fret={fret}&against={}",
            frame.id,
            against.key()
        )
    };
    let panel = if fields.text("panel") == "places" {
        "places"
    } else {
        "readings"
    };
    let (stops, notices) = notices(plan, string);
    Intonation {
        head: Head::new(),
        drawing,
        rows: rows(plan, job, string, link),
        hand: in_hand(job, plan, string),
        stops,
        notices,
        fret,
        against: against.key(),
        frets: frets_there
            .map(|at| Choice::of(&at.to_string(), &at.to_string(), at == fret))
            .collect(),
        tuners: TUNERS
            .iter()
            .map(|(name, resolution)| {
                let label = format!("{name}, {} c", resolution.value());
                Choice::of(
                    name,
                    &label,
                    job.tuner_chosen() && job.tuner().name == *name,
                )
            })
            .collect(),
        tuner: format!("{}, {} c", job.tuner().name, job.tuner().resolution_cents),
        tuner_assumed: !job.tuner_chosen(),
        panel,
        places: places(job, plan, &fields),

        scale_hint: words::both(job.instrument().nut_to_twelfth(string)),
        old_strings: job.old_strings(),
        threshold: format!("{:.1}", plan.intonation.threshold.value()),
        setup_first: job.geometry().read_any()
            && plan
                .next_station(job)
                .is_some_and(|station| station < StationId::Intonation),

        frame,
        fields,
    }
}

/// The field of a reading, standing on its lane: what is known at the left, what is typed at the right.
fn reading_field(
    frame: &JobLayout,
    job: &Known,
    plan: &Plan,
    fields: &Fields,
    string: u8,
    fret: u8,
    against: Reference,
) -> String {
    let typed_here = fields.text("what") == "read" && fields.text("string") == string.to_string();
    let wrong = typed_here && !fields.field("cents").error.is_empty();
    let value = if typed_here && (wrong || frame.conflict.is_some()) {
        fields.text("cents")
    } else {
        ""
    };
    let (mark, shown, spoken) = match plan.intonation.saddle_of(string) {
        Some(saddle) if fret == 12 => {
            let index = saddle.strings().position(|on| on == string).unwrap_or(0);
            let verdict = saddle.verdicts[index];
            let shown = mean_reading(saddle, index);
            (
                svg::inline_mark(verdict),
                shown.clone(),
                format!("{} {shown}", text::note_verdict(verdict)),
            )
        }
        _ => {
            let last = last_at(job, string, fret).unwrap_or_default();
            let verdict = if last.is_empty() {
                Verdict::Unread
            } else {
                Verdict::InSpec
            };
            (svg::inline_mark(verdict), last.clone(), last)
        }
    };
    format!(
        r#"<form xmlns="http://www.w3.org/1999/xhtml" method="post" action="/jobs/{id}/tell" class="lane-field{class}"><input type="hidden" name="what" value="read"><input type="hidden" name="station" value="intonation"><input type="hidden" name="seen" value="{seq}"><input type="hidden" name="string" value="{string}"><input type="hidden" name="fret" value="{fret}"><input type="hidden" name="against" value="{against}">{mark}<span class="font-bold whitespace-nowrap" aria-hidden="true">{shown}</span><input id="reading-{string}" data-lane="{string}" name="cents" value="{value}" placeholder="cents" aria-label="String {string}, fret {fret}, cents. {spoken}" aria-invalid="{wrong}" autocomplete="off" inputmode="text" enterkeyhint="next"></form>"#,
        id = frame.id,
        class = if wrong { " is-wrong" } else { "" },
        seq = frame.seq,
        against = against.key(),
        value = svg::escaped(value),
    )
}

/// The mean of the readings since the last move; the last one before it when there is none.
fn mean_reading(saddle: &SaddlePlan, index: usize) -> String {
    let string = &saddle.estimate.strings[index];
    string
        .mean()
        .or(string.last)
        .map_or(String::new(), print::cents)
}

fn last_at(job: &Known, string: u8, fret: u8) -> Option<String> {
    job.last_reading(string, fret).map(print::cents)
}

fn rows(plan: &Plan, job: &Known, in_hand: u8, link: impl Fn(u8) -> String) -> Vec<Row> {
    let mut rows = Vec::new();
    for saddle in &plan.intonation.saddles {
        for (index, string) in saddle.estimate.strings.iter().enumerate() {
            let verdict = saddle.verdicts[index];
            let step = saddle.next_move();
            let note = job
                .string_state(string.string)
                .map_or(String::new(), |state| state.pitch.to_string());
            rows.push(Row {
                string: string.string,
                note,
                href: link(string.string),
                reading: if string.count == 0 && !saddle.estimate.placed {
                    "not read".to_owned()
                } else {
                    words::estimate(string.error)
                },
                mark: svg::inline_mark(verdict),
                verdict: text::note_verdict(verdict),
                out: matches!(
                    verdict,
                    Verdict::TooHigh | Verdict::TooLow | Verdict::Blocked
                ),
                action: action_words(saddle, index),
                arrow: step
                    .and_then(|step| step.rotation)
                    .map_or_else(String::new, svg::inline_turn_arrow),
                moves: step.is_some(),
                travel: travel(saddle),
                in_hand: string.string == in_hand,
            });
        }
    }
    rows.sort_by_key(|row| row.string);
    rows
}

/// Way left behind the saddle where it belongs.
fn travel(saddle: &SaddlePlan) -> String {
    words::mm(saddle.left_behind(), 1)
}

fn action_words(saddle: &SaddlePlan, index: usize) -> String {
    let string = saddle.estimate.strings[index].string;
    match &saddle.action {
        Action::Adjust(step) => format!(
            "{}{} \u{b7} {}",
            if saddle.estimate.is_unread() {
                "start: "
            } else {
                ""
            },
            words::way(step.distance),
            words::turns(step.turns())
        ),
        Action::Measure(_) if saddle.start => {
            format!("start: set to {} mm", words::mm(saddle.target.value, 1))
        }
        Action::Measure(places) if places.iter().any(|place| place.string() == Some(string)) => {
            "measure again".to_owned()
        }
        Action::Measure(_) => "wait for the other string".to_owned(),
        Action::Leave if saddle.strings().count() > 1 => {
            format!("leave, {} c stays", print::cents(saddle.remaining[index]))
        }
        Action::Leave => "leave".to_owned(),
        Action::Stop(Stop::Stuck) => "screw is stuck".to_owned(),
        Action::Stop(_) => "out of travel: see options".to_owned(),
    }
}

/// What was found: first what stops this string or the whole job, then all the rest.
fn notices(plan: &Plan, string: u8) -> (Vec<Notice>, Vec<Notice>) {
    let here = |finding: &&Finding| {
        finding.severity() == Severity::Stop
            && (finding.string() == Some(string) || matches!(finding, Finding::Scale(_)))
    };
    let (stops, rest): (Vec<&Finding>, Vec<&Finding>) = plan.findings.iter().partition(here);
    let show = |found: Vec<&Finding>| found.into_iter().map(notice).collect();
    (show(stops), show(rest))
}

fn notice(finding: &Finding) -> Notice {
    let severity = finding.severity();
    Notice {
        class: match severity {
            Severity::Note => "notice",
            Severity::Warning => "notice notice-warning",
            Severity::Stop => "notice notice-stop",
        },
        word: severity.key(),
        text: text::findings::sentence(finding),
        ways: text::findings::options(finding),
    }
}

fn places(job: &Known, plan: &Plan, fields: &Fields) -> Vec<Place> {
    let mut places: Vec<Place> = plan
        .intonation
        .saddles
        .iter()
        .flat_map(|saddle| {
            saddle
                .estimate
                .strings
                .iter()
                .map(move |string| (saddle, string))
        })
        .map(|(saddle, string)| {
            let here = fields.text("string") == string.string.to_string();
            let of = |what: &str, name: &str| {
                let mut field = fields.field(name);
                if !here || fields.text("what") != what {
                    field.value.clear();
                    field.error.clear();
                }
                field
            };
            Place {
                string: string.string,
                note: job
                    .string_state(string.string)
                    .map_or(String::new(), |state| state.pitch.to_string()),
                setback: format!(
                    "{} \u{b1} {}",
                    words::mm(string.ideal.value, 1),
                    words::mm(string.ideal.sigma, 1)
                ),
                rule: words::both(job.twelfth_to_saddle(string.string, string.ideal.value)),
                ends: travel(saddle),
                out: saddle.short_by.is_some(),
                place: of("place", "twelfth_to_saddle"),
                room: of("room", "room"),
            }
        })
        .collect();
    places.sort_by_key(|place| place.string);
    places
}
