//! Opening a job on an instrument.

use crate::vocabulary::*;
use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::export::visits;
use gradimen_bench::journal::Entry;
use gradimen_bench::model::shop::AS_IT_CAME;
use gradimen_bench::plan::as_it_came::named;
use gradimen_bench::text::next::job_plan as says;
use gradimen_core::ladder::gauges;
use gradimen_store::{Store, StoreError, Worked};
use jiff::Timestamp;

use super::{page, redirect};
use crate::access::Kept;
use crate::components::{Choice, Head};
use crate::errors::Failure;
use crate::forms::set::gauge_text;
use crate::forms::{Fields, job as form};

struct StringRow {
    string: u8,
    note: crate::forms::Field,
    gauge: crate::forms::Field,
}

#[derive(Template)]
#[template(path = "pages/open_job.html")]
struct OpenPage {
    head: Head,
    id: i64,
    title: String,
    fields: Fields,
    hands: Vec<Choice>,
    presets: Vec<Choice>,
    sets: Vec<Choice>,
    strings: Vec<StringRow>,
    ladder: Vec<String>,
    knows_last: bool,
    refused: String,
    specs: Vec<Choice>,
}

/// The targets that the last visit was set up to.
const AS_LAST_TIME: &str = "as last time";

fn open_page(
    id: i64,
    instrument: &Instrument,
    fields: Fields,
    earlier: Option<&Worked>,
    shop: &Shop,
) -> OpenPage {
    let (kind, strings) = (instrument.kind, instrument.strings);
    OpenPage {
        head: Head::new(),
        id,
        title: instrument.title(),
        hands: Touch::all()
            .map(|hand| Choice::of(hand.key(), hand.key(), fields.text("touch") == hand.key()))
            .collect(),
        presets: tunings(kind, strings)
            .into_iter()
            .map(|preset| {
                Choice::of(
                    preset.name,
                    preset.name,
                    fields.text("preset") == preset.name,
                )
            })
            .collect(),
        sets: sets(kind, strings)
            .into_iter()
            .map(|set| {
                let gauges: Vec<String> = set.strings.iter().map(|string| string.label()).collect();
                let label = format!("{}: {}", set.name, gauges.join(" "));
                Choice::of(set.name, &label, fields.text("usual_set") == set.name)
            })
            .collect(),
        strings: (1..=strings)
            .map(|string| StringRow {
                string,
                note: fields.field(&format!("note{string}")),
                gauge: fields.field(&format!("gauge{string}")),
            })
            .collect(),
        ladder: ladder(kind),
        specs: specs(instrument, &fields, shop, earlier),
        fields,
        knows_last: left_on(earlier, instrument).is_some(),
        refused: String::new(),
    }
}

/// What it can be set up to: what is typical, the shop's own sets for its kind, and what it came with.
fn specs(
    instrument: &Instrument,
    fields: &Fields,
    shop: &Shop,
    earlier: Option<&Worked>,
) -> Vec<Choice> {
    let now = fields.text("spec");
    let touch = Touch::from_key(fields.text("touch")).unwrap_or(Touch::Medium);
    let typical = Choice::of("", "typical for this touch", now.is_empty());
    let named = shop
        .specs_for(instrument.kind, touch)
        .into_iter()
        .map(|spec| {
            let label = format!("{}, {} touch", spec.name, spec.touch.key());
            Choice::of(&spec.name, &label, now == spec.name)
        });
    let came = Choice::of(
        AS_IT_CAME,
        "as it came: put back what it has",
        now == AS_IT_CAME,
    );
    let last = earlier.map(|earlier| {
        let label = format!("as last time: {}", says::values(&earlier.job.targets()));
        Choice::of(AS_LAST_TIME, &label, now == AS_LAST_TIME)
    });
    std::iter::once(typical)
        .chain(last)
        .chain(named)
        .chain([came])
        .collect()
}

/// The targets that were chosen; nothing for what is typical.
fn chosen(
    fields: &mut Fields,
    opened: &Opened,
    shop: &Shop,
    earlier: Option<&Worked>,
    now: Timestamp,
) -> Option<Option<Targets>> {
    let name = fields.text("spec").to_owned();
    if name.is_empty() {
        return Some(None);
    }
    if let (AS_LAST_TIME, Some(earlier)) = (name.as_str(), earlier) {
        return Some(Some(earlier.job.targets()));
    }
    let entry = Entry::new(1, now, Event::Opened(Box::new(opened.clone())));
    let job = Job::fold(&[entry]);
    let job = fields.keep("spec", job)?;
    fields.keep("spec", named(shop, &name, &job)).map(Some)
}

/// The neutral ladder of gauges, as they are written in a field.
fn ladder(kind: Kind) -> Vec<String> {
    [
        StringConstruction::Plain,
        StringConstruction::RoundNickelPlated,
    ]
    .into_iter()
    .flat_map(|make| {
        gauges(kind.family(), make.construction())
            .into_iter()
            .map(move |spec| gauge_text(&StringEntry::of(&spec, make)))
    })
    .collect()
}

/// What the last job of this instrument left on it.
fn left_on(last: Option<&Worked>, instrument: &Instrument) -> Option<Strung> {
    let strung = last?.job.strung();
    (strung.set.len() == usize::from(instrument.strings)).then_some(strung)
}

/// The tuner the bench works with: chosen once, it goes from job to job.
async fn tuner_in_use(store: &Store) -> Result<Option<Tuner>, Failure> {
    let latest = store.latest_job().await?;
    Ok(latest.and_then(|worked| {
        worked
            .job
            .tuner_chosen()
            .then(|| worked.job.tuner().clone())
    }))
}

/// The form, with what is usual or what was on last; or as filled so far with a choice applied.
pub(crate) async fn new(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let version = store.instrument(*id).await?;
    let earlier = store.last_job(*id).await?;
    let last = left_on(earlier.as_deref(), &version.instrument);
    let mut fields = form::usual(&version.instrument, last.as_ref());
    // What was wanted of it is wanted again, until somebody says otherwise.
    if let Some(earlier) = earlier
        .as_deref()
        .filter(|earlier| earlier.job.targets_told())
    {
        fields.set("spec", AS_LAST_TIME);
        fields.set("touch", earlier.job.player().touch.key());
        fields.set("style", earlier.job.player().style.clone());
    }
    let shop = store.shop().await?.shop;
    page(
        StatusCode::OK,
        &open_page(*id, &version.instrument, fields, earlier.as_deref(), &shop),
    )
}

/// What every job begins with: it is on the bench, beside the tuner that lies there.
async fn at_first(store: &Store) -> Result<Vec<Event>, Failure> {
    let tuner = tuner_in_use(store).await?;
    let tuner = tuner.map(|tuner| Event::Observed {
        what: Observation::Tuner { tuner },
    });
    let stage = Event::Staged {
        stage: Stage::OnBench,
    };
    Ok(std::iter::once(stage).chain(tuner).collect())
}

/// Opens a job on an instrument that was just recorded, with what is usual on it, and goes to where the work is.
pub(super) async fn at_once(store: &Store, id: i64) -> Result<HttpResponse, Failure> {
    let version = store.instrument(id).await?;
    let mut fields = form::usual(&version.instrument, None);
    fields.set("purpose", "setup");
    let Some(opened) = form::read(&mut fields, &version.instrument, version.version, None) else {
        return Ok(redirect(&format!("/instruments/{id}/open")));
    };
    let first = at_first(store).await?;
    let job = store.open_with(id, opened, first, Timestamp::now()).await?;
    Ok(redirect(&format!("/jobs/{job}")))
}

/// Opens the job.
pub(crate) async fn open(
    store: Kept,
    id: web::Path<i64>,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    let version = store.instrument(*id).await?;
    let instrument = &version.instrument;
    let earlier = store.last_job(*id).await?;
    let last = left_on(earlier.as_deref(), instrument);
    let mut fields = Fields::from(sent.into_inner());
    let apply = fields.text("apply").to_owned();
    let shop = store.shop().await?.shop;
    let form = |fields| open_page(*id, instrument, fields, earlier.as_deref(), &shop);
    if !apply.is_empty() {
        form::refill(&mut fields, instrument, &apply);
        return page(StatusCode::OK, &form(fields));
    }
    let now = Timestamp::now();
    let read = form::read(&mut fields, instrument, version.version, last.as_ref());
    let read = read.and_then(|opened| {
        let targets = chosen(&mut fields, &opened, &shop, earlier.as_deref(), now)?;
        Some((opened, targets))
    });
    let Some((mut opened, targets)) = read else {
        return page(StatusCode::UNPROCESSABLE_ENTITY, &form(fields));
    };
    if let Some(earlier) = &earlier {
        visits::goes_on(&mut opened, &earlier.known, &earlier.plan);
    }
    let mut first = at_first(&store).await?;
    first.extend(targets.map(|targets| Event::Targeted {
        wanted: Wanted::Setup { targets },
    }));
    match store.open_with(*id, opened, first, now).await {
        Ok(job) => Ok(redirect(&format!("/jobs/{job}/strings"))),
        Err(StoreError::Job(error)) => {
            let mut shown = form(fields);
            shown.refused = error.to_string();
            page(StatusCode::UNPROCESSABLE_ENTITY, &shown)
        }
        Err(other) => Err(other.into()),
    }
}
