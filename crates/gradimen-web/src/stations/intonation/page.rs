//! The intonation station: the one next move, and where its numbers come from.

use askama::Template;
use gradimen_bench::text::next;
use gradimen_core::quantity::Length;
use gradimen_core::units::print;

use crate::commands::What;
use crate::components::{
    Choice, FieldMark, FindingView, FormAction, Head, LaneField, Next, Tools, tools,
};
use crate::forms::{Field, Fields};
use crate::pages::layout::{JobLayout, View};
use crate::vocabulary::*;
use crate::words::{self, note};
use crate::{filters, svg};

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

/// Where a saddle belongs, for the rule.
struct Place {
    string: u8,
    note: String,
    setback: String,
    rule: String,
    ends: String,
    out: bool,
    place: Field,
    room: Field,
}

#[derive(Template)]
#[template(path = "stations/intonation/page.html")]
pub(crate) struct Intonation {
    tools: Tools,
    head: Head,
    frame: JobLayout,
    fields: Fields,
    drawing: String,
    rows: Vec<Row>,
    string: u8,
    next: Next,
    /// Whether the move goes away from the neck; it does unless it says otherwise.
    away: bool,
    /// Whether its saddles are slid by hand.
    slid: bool,
    /// Whether one bar carries all strings.
    bar: bool,
    shared: Vec<Choice>,
    found: Vec<FindingView>,
    notices: Vec<FindingView>,
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
        Reference::from_key(fields.text("against")).unwrap_or_else(|| usual_reference(job))
    } else {
        Reference::Open
    };
    let drawing = super::drawing::draw(job, plan, string, fret, |string| {
        field(&frame, job, plan, &fields, (string, fret, against)).html()
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
    let (found, notices) = notices(plan, string);
    let step = plan
        .intonation
        .saddle_of(string)
        .and_then(SaddlePlan::next_move);
    Intonation {
        tools: tools(&frame, &fields, &[]),
        head: Head::new(),
        drawing,
        rows: rows(plan, job, string, link),
        string,
        next: next(job, plan, string),
        bar: job.instrument().bridge.details.drive == SaddleDrive::Bar,
        slid: job.instrument().bridge.details.drive == SaddleDrive::Clamped,
        away: step.is_none_or(|step| step.distance >= Length::ZERO),
        shared: shared(job, plan, string),
        found,
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
        setup_first: job.state().read_any()
            && plan
                .next_station(job)
                .is_some_and(|station| station < StationId::Intonation),

        frame,
        fields,
    }
}

/// The field of a reading, standing on its lane.
fn field<'a>(
    frame: &'a JobLayout,
    job: &Known,
    plan: &Plan,
    fields: &Fields,
    (string, fret, against): (u8, u8, Reference),
) -> LaneField<'a> {
    let mark = match plan.intonation.saddle_of(string) {
        Some(saddle) if fret == 12 => {
            let index = saddle.strings().position(|on| on == string).unwrap_or(0);
            FieldMark {
                verdict: saddle.verdicts[index],
                word: text::note_verdict(saddle.verdicts[index]),
                shown: mean_reading(saddle, index),
            }
        }
        _ => {
            let last = job.last_reading(string, fret).map(print::cents);
            FieldMark {
                verdict: last.as_ref().map_or(Verdict::Unread, |_| Verdict::InSpec),
                word: "",
                shown: last.unwrap_or_default(),
            }
        }
    };
    // What was read here before may be told by one key, in the steps of the tuner in hand.
    let read = |saddle: &SaddlePlan| {
        let mut on = saddle.estimate.strings.iter();
        on.any(|on| on.string == string && on.count > 0)
    };
    let read_before = plan.intonation.saddle_of(string).is_some_and(read);
    let expected = (fret == 12 && read_before)
        .then(|| job.state().note_now(string, against))
        .flatten()
        .map(|cents| print::plain_cents(cents, job.tuner().resolution_cents));
    LaneField::new(frame, What::Read, usize::from(string))
        .at(vec![
            ("string", string.to_string()),
            ("fret", fret.to_string()),
            ("against", against.key().to_owned()),
        ])
        .cents(fields, expected)
        .showing(&format!("String {string}, fret {fret}, cents"), mark)
        .typed(fields)
}

/// What a fretted twelfth is read against where nobody says: what it is to be true to.
pub(super) fn usual_reference(job: &Known) -> Reference {
    let wanted = job.targets().intonation_reference;
    wanted.unwrap_or(IntonationReference::Harmonic).reading()
}

fn next(job: &Known, plan: &Plan, string: u8) -> Next {
    let mut next = Next::of(next::intonation::headline(job, plan, string));
    let Some(saddle) = plan.intonation.saddle_of(string) else {
        return next;
    };
    let on = || vec![("string", string.to_string())];
    let gain = job.instrument().bridge.intonation.turn_round;
    match &saddle.action {
        Action::Adjust(_) if plan.waits_for_the_claw(StationId::Intonation) => {
            return next.with_claw_first();
        }
        Action::Adjust(step) => {
            let (by, way) = (by(step), way(step));
            if let Amount::Ends { treble, bass } = &step.amount {
                let ends = vec![
                    ("bar_treble", treble.written.clone()),
                    ("bar_bass", bass.written.clone()),
                ];
                next.acts = vec![FormAction::done(What::Bar, "Done, measure again", ends)];
                return next;
            }
            let turned = vec![by, ("way", way.to_owned())];
            let stopped = vec![("way", way.to_owned())];
            next.acts = vec![
                FormAction::done(What::Move, "Done, measure again", [on(), turned].concat()),
                FormAction::plain(
                    What::Stuck,
                    if step.is_slid() {
                        "It is stuck"
                    } else {
                        "Screw is stuck"
                    },
                    on(),
                ),
                FormAction::plain(What::SaddleEnd, "Goes no further", [on(), stopped].concat()),
            ];
        }
        Action::Stop(Stop::Stuck) => {
            next.acts = vec![FormAction::main(What::Loose, "It turns after all", on())];
        }
        Action::Stop(Stop::OutOfTravel { .. }) if gain > Length::ZERO => {
            let says = format!("Saddle reversed: gains {}", print::with_unit(gain));
            next.acts = vec![FormAction::plain(What::Round, &says, on())];
        }
        Action::Stop(_) | Action::Measure(_) | Action::Leave => {}
    }
    let other = plan.intonation.next_string();
    let other = other.filter(|other| saddle.strings().all(|on| on != *other));
    next.onward = other.map(|other| {
        (
            format!("intonation?string={other}&focus=reading-{other}"),
            format!("Next: string {other} {}", note(job, other)),
        )
    });
    next.or_station(job, plan, StationId::Intonation)
}

/// How far a saddle is to go, as it is told.
fn by(step: &Move) -> (&'static str, String) {
    if step.is_slid() {
        ("slide", format!("{:.1} mm", step.distance.abs().mm()))
    } else {
        ("turns", step.turns().value().abs().to_string())
    }
}

fn way(step: &Move) -> &'static str {
    if step.distance >= Length::ZERO {
        "away"
    } else {
        "toward"
    }
}

/// The form that tells that the move of this saddle was made as it was ordered; a bar's two ends are told by hand.
pub(crate) fn done(saddle: &SaddlePlan, string: u8) -> Option<Vec<(&'static str, String)>> {
    let step = saddle.next_move()?;
    if matches!(step.amount, Amount::Ends { .. }) {
        return None;
    }
    let what: &'static str = What::Move.into();
    Some(vec![
        ("what", what.to_owned()),
        ("station", "intonation".to_owned()),
        ("string", string.to_string()),
        by(step),
        ("way", way(step).to_owned()),
    ])
}

/// Which string of a shared saddle matters more; nothing where it carries one.
fn shared(job: &Known, plan: &Plan, string: u8) -> Vec<Choice> {
    let Some(saddle) = plan.intonation.saddle_of(string) else {
        return Vec::new();
    };
    if saddle.strings().count() < 2 {
        return Vec::new();
    }
    let mut choices = vec![Choice::of("", "share evenly", saddle.preferred.is_none())];
    choices.extend(saddle.strings().map(|on| {
        let label = format!("{on} {} exactly", note(job, on));
        Choice::of(&on.to_string(), &label, saddle.preferred == Some(on))
    }));
    choices
}

/// The mean of the readings since the last move; the last one before it when there is none.
fn mean_reading(saddle: &SaddlePlan, index: usize) -> String {
    let string = &saddle.estimate.strings[index];
    string
        .mean()
        .or(string.last)
        .map_or(String::new(), print::cents)
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
                action: next::intonation::in_short(saddle, index),
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
    words::in_unit(saddle.left_behind(), 1)
}

/// What was found: first what stops this string or the whole job, then all the rest.
fn notices(plan: &Plan, string: u8) -> (Vec<FindingView>, Vec<FindingView>) {
    let here = |finding: &&Finding| {
        finding.severity() == Severity::Stop
            && (finding.string() == Some(string) || matches!(finding, Finding::Scale(_)))
    };
    let (stops, rest): (Vec<&Finding>, Vec<&Finding>) = plan.findings.iter().partition(here);
    let show = |found: Vec<&Finding>| found.into_iter().map(FindingView::from).collect();
    (show(stops), show(rest))
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
                    words::in_unit(string.ideal.value, 1),
                    words::in_unit(string.ideal.sigma, 1)
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
