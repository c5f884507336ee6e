//! Instruments: the form, the record, its history.

mod facts;

use crate::vocabulary::*;
use facts::{Fact, facts};

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_store::instruments::Version;
use gradimen_store::library::Listed;
use gradimen_store::{Store, StoreError};
use jiff::Timestamp;
use serde::Deserialize;

use super::{open, page, redirect};
use crate::access::Kept;
use crate::components::{Choice, Head};
use crate::errors::Failure;
use crate::forms::instrument as form;
use crate::forms::{Field, Fields};
use crate::svg;
use gradimen_core::thread::COMMON_THREADS;
use gradimen_core::units::print;

#[derive(Template)]
#[template(path = "pages/instrument_form.html")]
struct FormPage {
    head: Head,
    heading: String,
    action: String,
    button: &'static str,
    seen: String,
    fields: Fields,
    kinds: Vec<Choice>,
    families: Vec<Choice>,
    rods: Vec<Choice>,
    rod_places: Vec<Choice>,
    pickups: Vec<PickupRow>,
    threads: Vec<(&'static str, String)>,
    nuts: Vec<Choice>,
    drives: Vec<Choice>,
    unusual: bool,
    vibrato: form::vibrato::Sheet,
    conflict: bool,
    /// Whether a job can be opened at once: on a record that is new.
    opens: bool,
    /// The instrument as far as it is understood.
    drawing: String,
    /// What was said of it, and what is only typical.
    known: Vec<Fact>,
    assumed: Vec<Fact>,
}

impl FormPage {
    fn new(fields: Fields, existing: Option<(i64, u32)>) -> Self {
        fn choices<T: Keyed>(
            fields: &Fields,
            field: &str,
            name: fn(T) -> &'static str,
        ) -> Vec<Choice> {
            let chosen = fields.text(field);
            T::all()
                .map(|each| Choice::of(each.key(), name(each), each.key() == chosen))
                .collect()
        }
        let (heading, action, button, seen) = match existing {
            None => (
                "New instrument".to_owned(),
                "/instruments".to_owned(),
                "Save instrument",
                String::new(),
            ),
            Some((id, version)) => (
                format!("Change the record of {}", title(&fields)),
                format!("/instruments/{id}"),
                "Save instrument",
                version.to_string(),
            ),
        };
        let typical = form::typical_of(&fields);
        // A name is not needed to be drawn.
        let mut understood = fields.clone();
        understood.suggest("name", "-");
        let read = form::read(&mut understood);
        let (assumed, known) = read.iter().flat_map(facts).zip(facts(&typical)).fold(
            (Vec::new(), Vec::new()),
            |(mut assumed, mut known), (fact, usual)| {
                let said =
                    fact.value != usual.value || matches!(fact.name, "kind" | "bridge" | "scale");
                if said {
                    known.push(fact)
                } else {
                    assumed.push(fact)
                }
                (assumed, known)
            },
        );
        let drawn = read.as_ref().and_then(crate::forms::job::as_usual);
        Self {
            head: Head::new(),
            opens: existing.is_none(),
            drawing: drawn.map_or_else(String::new, |known| svg::record::draw(&known)),
            known,
            assumed,
            vibrato: form::vibrato::sheet(fields.text("family")),
            heading,
            action,
            button,
            seen,
            kinds: choices(&fields, "kind", Kind::key),
            families: choices(&fields, "family", BridgeFamily::name),
            rods: choices(&fields, "rod", Rod::name),
            rod_places: choices(&fields, "rod_at", RodAt::name),
            pickups: (1..=form::pickups::rows(&fields))
                .map(|row| PickupRow::new(&fields, row))
                .collect(),
            threads: threads(),
            nuts: choices(&fields, "nut", NutKind::name),
            drives: choices(&fields, "drive", SaddleDrive::name),
            unusual: form::construction::is_unusual(&fields),
            conflict: false,
            fields,
        }
    }
}

/// A row of the form for a pickup.
struct PickupRow {
    number: usize,
    name: Field,
    place: Field,
    family: Field,
    families: Vec<Choice>,
    held: Field,
    mountings: Vec<Choice>,
    pitch: Field,
    raises: Field,
    ways: Vec<Choice>,
    travel: Field,
    poles: Field,
}

impl PickupRow {
    fn new(fields: &Fields, row: usize) -> Self {
        let field = |part: &str| fields.field(&form::pickups::name(row, part));
        let chosen = |part: &str| field(part).value;
        let unsaid = Choice::of("", "not recorded", chosen("held").is_empty());
        let mountings = PickupMounting::all()
            .map(|each| Choice::of(each.key(), each.name(), each.key() == chosen("held")));
        Self {
            number: row,
            name: field("name"),
            place: field("place"),
            family: field("family"),
            families: PickupFamily::all()
                .map(|each| Choice::of(each.key(), each.name(), each.key() == chosen("family")))
                .collect(),
            held: field("held"),
            mountings: std::iter::once(unsaid).chain(mountings).collect(),
            pitch: field("pitch"),
            raises: field("raises"),
            ways: [
                ("clockwise", "clockwise"),
                ("counterclockwise", "counter-clockwise"),
            ]
            .map(|(key, name)| Choice::of(key, name, key == chosen("raises")))
            .into(),
            travel: field("travel"),
            poles: field("poles"),
        }
    }
}

/// Threads by name, with what they move in a turn.
fn threads() -> Vec<(&'static str, String)> {
    COMMON_THREADS
        .iter()
        .map(|(name, pitch)| (*name, format!("{} a turn", print::with_unit(*pitch))))
        .collect()
}

fn title(fields: &Fields) -> String {
    format!("{} {}", fields.text("stock_number"), fields.text("name"))
        .trim()
        .to_owned()
}

/// An empty form with what is usual, or the form as filled so far with a choice applied to it.
pub(crate) async fn new(query: web::Query<Vec<(String, String)>>) -> Result<HttpResponse, Failure> {
    let mut fields = Fields::from(query.into_inner());
    if fields.text("kind").is_empty() {
        form::fill(&mut fields, &usual_instrument(Kind::Guitar, 6));
        form::settle(&mut fields);
    }
    follow(&mut fields);
    page(StatusCode::OK, &FormPage::new(fields, None))
}

/// What stands blank or as it was typical follows the choices; whether only that was asked for.
fn follow(fields: &mut Fields) -> bool {
    if fields.has("typical_kind") {
        form::follow(fields);
    }
    !fields.text("apply").is_empty()
}

/// Asks where another instrument has the stock number already; sent once more with the same number it is meant so.
async fn numbered_twice(
    store: &Store,
    fields: &mut Fields,
    instrument: &Instrument,
    but: Option<i64>,
) -> Result<bool, Failure> {
    let number = instrument.stock_number.as_str();
    if fields.text("number_meant") == number {
        return Ok(false);
    }
    let Some(other) = store.numbered(number, but).await? else {
        return Ok(false);
    };
    fields.set("number_meant", number.to_owned());
    let name = if other.name.is_empty() {
        "another instrument"
    } else {
        &other.name
    };
    fields.wrong(
        "stock_number",
        format!("No. {number} is on record already: {name}. Another number, or save once more if both carry it"),
    );
    Ok(true)
}

/// Records a new instrument, and opens a job on it where that was pressed.
pub(crate) async fn add(
    store: Kept,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let mut fields = Fields::from(sent.into_inner());
    if follow(&mut fields) {
        return page(StatusCode::OK, &FormPage::new(fields, None));
    }
    let opens = fields.text("then") == "open";
    match form::read(&mut fields) {
        Some(instrument) if numbered_twice(&store, &mut fields, &instrument, None).await? => page(
            StatusCode::UNPROCESSABLE_ENTITY,
            &FormPage::new(fields, None),
        ),
        Some(instrument) => {
            let id = store.add_instrument(&instrument, Timestamp::now()).await?;
            if opens {
                return open::at_once(&store, id).await;
            }
            Ok(redirect(&format!("/instruments/{id}")))
        }
        None => page(
            StatusCode::UNPROCESSABLE_ENTITY,
            &FormPage::new(fields, None),
        ),
    }
}

/// The form of an existing record.
pub(crate) async fn edit(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let version = store.instrument(*id).await?;
    let mut fields = Fields::default();
    form::fill(&mut fields, &version.instrument);
    form::settle(&mut fields);
    // What is on record is meant so.
    fields.set("number_meant", version.instrument.stock_number.clone());
    page(
        StatusCode::OK,
        &FormPage::new(fields, Some((*id, version.version))),
    )
}

/// Writes a new version of a record.
pub(crate) async fn change(
    store: Kept,
    id: web::Path<i64>,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let mut fields = Fields::from(sent.into_inner());
    let seen = fields.text("seen").parse().unwrap_or(0);
    if follow(&mut fields) {
        return page(StatusCode::OK, &FormPage::new(fields, Some((*id, seen))));
    }
    let Some(instrument) = form::read(&mut fields) else {
        return page(
            StatusCode::UNPROCESSABLE_ENTITY,
            &FormPage::new(fields, Some((*id, seen))),
        );
    };
    if numbered_twice(&store, &mut fields, &instrument, Some(*id)).await? {
        return page(
            StatusCode::UNPROCESSABLE_ENTITY,
            &FormPage::new(fields, Some((*id, seen))),
        );
    }
    match store
        .change_instrument(*id, seen, &instrument, Timestamp::now())
        .await
    {
        Ok(_) => {
            store.correct_open_jobs(*id, Timestamp::now()).await?;
            Ok(redirect(&format!("/instruments/{id}")))
        }
        Err(StoreError::Conflict { now, .. }) => {
            let version = u32::try_from(now).unwrap_or(u32::MAX);
            let mut form = FormPage::new(fields, Some((*id, version)));
            form.conflict = true;
            page(StatusCode::CONFLICT, &form)
        }
        Err(other) => Err(other.into()),
    }
}

/// What is sent to put an older version back.
#[derive(Debug, Deserialize)]
pub(crate) struct Restore {
    version: u32,
    seen: u32,
}

/// Puts an older version of a record back, as a new version.
pub(crate) async fn restore(
    store: Kept,
    id: web::Path<i64>,
    sent: web::Form<Restore>,
) -> Result<HttpResponse, Failure> {
    let versions = store.instrument_versions(*id).await?;
    let wanted = versions
        .iter()
        .find(|version| version.version == sent.version)
        .ok_or(Failure::NotFound)?;
    store
        .change_instrument(*id, sent.seen, &wanted.instrument, Timestamp::now())
        .await?;
    store.correct_open_jobs(*id, Timestamp::now()).await?;
    Ok(redirect(&format!("/instruments/{id}")))
}

struct Change {
    version: u32,
    newest: bool,
    at: String,
    facts: Vec<String>,
}

#[derive(Template)]
#[template(path = "pages/instrument.html")]
struct ShowPage {
    head: Head,
    id: i64,
    title: String,
    facts: Vec<Fact>,
    note: String,
    version: u32,
    /// What an old default of ours had wrong in the record, in words.
    put_right: Vec<String>,
    history: Vec<Change>,
    jobs: Vec<JobLine>,
}

struct JobLine {
    id: i64,
    at: String,
    purpose: String,
    stage: &'static str,
    strung: String,
    /// Of an open job: which version of the record it works with, and why not the newest.
    record: String,
}

/// A record with its history and its jobs.
pub(crate) async fn show(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let versions = store.instrument_versions(*id).await?;
    let jobs = store.jobs_of(*id).await?;
    let newest = versions.first().ok_or(StoreError::NoSuchInstrument(*id))?;
    let mut lines = Vec::with_capacity(jobs.len());
    for listed in jobs {
        lines.push(job_line(&store, listed, newest).await?);
    }
    page(
        StatusCode::OK,
        &ShowPage {
            head: Head::new(),
            id: *id,
            title: newest.instrument.title(),
            facts: facts(&newest.instrument),
            note: newest.instrument.note.clone(),
            version: newest.version,
            put_right: newest
                .put_right
                .iter()
                .map(|wrong| text::findings::sentence(&Finding::RecordPutRight(*wrong)))
                .collect(),
            history: history(&versions),
            jobs: lines,
        },
    )
}

async fn job_line(store: &Store, listed: Listed, newest: &Version) -> Result<JobLine, Failure> {
    let record = if listed.summary.stage.is_open() {
        let worked = store.worked(listed.id).await;
        // A job that cannot be worked out says so on its own page.
        worked.map_or_else(|_| String::new(), |worked| record_of(&worked.job, newest))
    } else {
        String::new()
    };
    Ok(JobLine {
        id: listed.id,
        at: listed.changed_at.strftime("%-d %b %Y").to_string(),
        purpose: listed.summary.purpose,
        stage: listed.summary.stage.name(),
        strung: listed.summary.strung,
        record,
    })
}

/// Which version of the record an open job works with; where it is not the newest and cannot be, why.
fn record_of(job: &Job, newest: &Version) -> String {
    if *job.instrument() == newest.instrument {
        return "with this record".to_owned();
    }
    let corrected = Event::Corrected(Box::new(Corrected {
        instrument: newest.instrument.clone(),
        instrument_version: newest.version,
    }));
    let keeps = format!("keeps version {}", job.instrument_version());
    match job.with(vec![corrected]) {
        Ok(_) => keeps,
        Err(why) => format!("{keeps}: {why}"),
    }
}

/// What changed from version to version, newest first.
fn history(versions: &[Version]) -> Vec<Change> {
    versions
        .iter()
        .enumerate()
        .map(|(index, version)| {
            let now = facts(&version.instrument);
            let changed = match versions.get(index + 1) {
                None => vec!["recorded".to_owned()],
                Some(before) => now
                    .iter()
                    .zip(facts(&before.instrument))
                    .filter(|(now, before)| now.value != before.value)
                    .map(|(now, before)| {
                        format!("{}: {} \u{2013} was {}", now.name, now.value, before.value)
                    })
                    .collect(),
            };
            Change {
                version: version.version,
                newest: index == 0,
                at: version.at.strftime("%-d %b %Y, %H:%M").to_string(),
                facts: if changed.is_empty() {
                    vec!["number, name or note".to_owned()]
                } else {
                    changed
                },
            }
        })
        .collect()
}
