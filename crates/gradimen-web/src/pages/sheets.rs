//! Sheets for the customer: the estimate before the work, the handover after it, and the day to come back for a calendar.

use std::sync::Arc;

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::export::handover::{Compared, Handover};
use gradimen_bench::export::summary;
use gradimen_bench::text::triage as says;
use gradimen_bench::triage::{Outcome, Triage, evidence};
use gradimen_core::units::print::on_bench;
use gradimen_store::{Store, Worked};
use icalendar::{Calendar, Component, Property};

use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;
use crate::pages::data::{attachment, csv_file};
use crate::pages::page;
use crate::vocabulary::*;

/// What is common to both: whose, of which instrument, for whom.
struct About {
    shop: String,
    today: String,
    title: String,
    describes: String,
    purpose: String,
    strung: String,
    player: String,
}

impl About {
    fn of(job: &Known, shop: &Shop) -> Self {
        let player = job.player();
        Self {
            shop: shop.name.clone(),
            today: jiff::Zoned::now().strftime("%-d %B %Y").to_string(),
            title: job.instrument().title(),
            describes: summary::describes(job),
            purpose: job.purpose().to_owned(),
            strung: summary::strung(job),
            player: format!("{} touch, {}", player.touch.key(), player.style),
        }
    }
}

async fn job_and_shop(store: &Store, id: i64) -> Result<(Arc<Worked>, Shop), Failure> {
    Ok((store.worked(id).await?, store.shop().await?.shop))
}

/// One kind of work on the estimate.
struct Line {
    name: &'static str,
    share: String,
    offers: Vec<String>,
}

#[derive(Template)]
#[template(path = "pages/estimate.html")]
struct EstimatePage {
    head: Head,
    id: i64,
    about: About,
    says: String,
    lines: Vec<Line>,
}

/// The estimate: what will be done, what may come, and what is asked first.
pub(crate) async fn estimate(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let (worked, shop) = job_and_shop(&store, *id).await?;
    on_bench(shop.shown.bench(), || {
        let triage = Triage::of(&evidence(&worked.known, &worked.plan));
        let offers = |outcome: Outcome| {
            let offered = outcome
                .works()
                .iter()
                .filter_map(|work| shop.offered(*work));
            offered
                .map(|offer| says::offered(offer, &shop.currency))
                .collect()
        };
        let lines: Vec<Line> = triage
            .shown()
            .map(|chance| Line {
                name: says::outcome(chance.outcome),
                share: says::share(chance.share),
                offers: offers(chance.outcome),
            })
            .collect();
        page(
            StatusCode::OK,
            &EstimatePage {
                head: Head::new(),
                id: *id,
                about: About::of(&worked.known, &shop),
                says: text::events::complained(worked.job.complaint()),
                lines,
            },
        )
    })
}

#[derive(Template)]
#[template(path = "pages/handover.html")]
struct HandoverPage {
    head: Head,
    id: i64,
    about: About,
    says: String,
    readings: Vec<Compared>,
    /// Whether any place was read on the visit before.
    knows_last: bool,
    parts: Vec<(&'static str, Vec<String>)>,
    /// Who told what is on it, where anybody had signed in.
    hands: String,
    worked: String,
    back: String,
}

/// The handover sheet, with a label for the case.
pub(crate) async fn handover(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let (worked, shop) = job_and_shop(&store, *id).await?;
    on_bench(shop.shown.bench(), || {
        let sheet = Handover::of(&worked.known, &worked.plan);
        page(
            StatusCode::OK,
            &HandoverPage {
                head: Head::new(),
                id: *id,
                about: About::of(&worked.known, &shop),
                says: text::events::complained(worked.job.complaint()),
                knows_last: sheet.readings.iter().any(|line| line.last_time.is_some()),
                readings: sheet.readings,
                parts: vec![
                    ("Done", sheet.done),
                    ("Found", sheet.found),
                    ("Left as it is", sheet.left),
                    ("To watch", sheet.watch),
                    ("Notes", worked.job.notes().to_vec()),
                ],
                hands: sheet.hands.join(", "),
                worked: sheet.worked.strftime("%-d %B %Y").to_string(),
                back: sheet.back.strftime("%-d %B %Y").to_string(),
            },
        )
    })
}

/// The handover for other programs: everything that the sheet says, as it says it.
pub(crate) async fn handover_json(
    store: Kept,
    id: web::Path<i64>,
) -> Result<HttpResponse, Failure> {
    let (worked, shop) = job_and_shop(&store, *id).await?;
    let sheet = on_bench(shop.shown.bench(), || {
        Handover::of(&worked.known, &worked.plan)
    });
    let body =
        serde_json::to_string_pretty(&sheet).map_err(|error| Failure::Other(error.to_string()))?;
    Ok(HttpResponse::Ok()
        .content_type("application/json")
        .insert_header(attachment(format!("handover-{id}.json")))
        .body(body))
}

/// Its readings as a table.
pub(crate) async fn handover_csv(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let (worked, shop) = job_and_shop(&store, *id).await?;
    let sheet = on_bench(shop.shown.bench(), || {
        Handover::of(&worked.known, &worked.plan)
    });
    let heading = [
        "place",
        "last time",
        "as it came",
        "as it is",
        "target",
        "verdict",
    ];
    let rows = sheet.readings.into_iter().map(|line| {
        vec![
            line.place,
            line.last_time.unwrap_or_default(),
            line.came.unwrap_or_default(),
            line.now,
            line.target,
            line.verdict.to_owned(),
        ]
    });
    csv_file(format!("handover-{id}.csv"), &heading, rows)
}

/// The day to come back, for any calendar.
pub(crate) async fn recheck(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let (worked, shop) = job_and_shop(&store, *id).await?;
    let sheet = Handover::of(&worked.known, &worked.plan);
    let title = worked.job.instrument().title();
    let mut event = icalendar::Event::new();
    // The same job is the same event, however often it is fetched.
    event
        .uid(&format!("recheck-{id}-{}@gradimen", worked.job.seq()))
        .summary(&format!("Recheck: {title}"))
        .description(&format!(
            "Set up for {}. {}",
            summary::strung(&worked.known),
            sheet.watch.join(" ")
        ))
        .append_property(stamp(&sheet))
        .append_property(whole_day("DTSTART", sheet.back))
        .append_property(whole_day(
            "DTEND",
            sheet.back.tomorrow().unwrap_or(sheet.back),
        ));
    let mut calendar = Calendar::new();
    if !shop.name.is_empty() {
        calendar.name(&shop.name);
    }
    calendar.push(event.done());
    Ok(HttpResponse::Ok()
        .content_type("text/calendar; charset=utf-8")
        .insert_header((
            "Content-Disposition",
            format!("attachment; filename=\"recheck-{id}.ics\""),
        ))
        .body(calendar.to_string()))
}

fn whole_day(name: &str, day: jiff::civil::Date) -> Property {
    let mut property = Property::new(name, day.strftime("%Y%m%d").to_string());
    property.add_parameter("VALUE", "DATE");
    property.done()
}

/// When it was written: the day of the last entry, so that the same job gives the same file.
fn stamp(sheet: &Handover) -> Property {
    Property::new(
        "DTSTAMP",
        format!("{}T000000Z", sheet.worked.strftime("%Y%m%d")),
    )
}
