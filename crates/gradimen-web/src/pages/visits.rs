//! An instrument over its visits: plots and the table behind them.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_bench::export::handover;
use gradimen_bench::export::visits::Visit;
use gradimen_core::quantity::Length;
use gradimen_core::units::print::on_bench;
use gradimen_store::{StoreError, Worked};

use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;
use crate::pages::page;
use crate::svg::visits::{Plot, plots};
use crate::vocabulary::*;
use crate::words;

/// As many visits are shown: with two a year, a decade.
const SHOWN: usize = 20;

struct Row {
    id: i64,
    day: String,
    purpose: String,
    values: [String; 6],
}

#[derive(Template)]
#[template(path = "pages/visits.html")]
struct VisitsPage {
    head: Head,
    id: i64,
    title: String,
    drawing: String,
    names: [&'static str; 6],
    rows: Vec<Row>,
    /// What the seasons do to it.
    seasons: Vec<String>,
}

const NAMES: [&str; 6] = [
    "humidity",
    "relief, bass side",
    "nut, mean",
    "action, string 1",
    "action, last string",
    "worst cents at 12",
];

fn values(visit: &Visit) -> [Option<(f64, String)>; 6] {
    let length =
        |length: Option<Length>| length.map(|length| (length.mm(), words::in_unit(length, 2)));
    [
        visit
            .air
            .map(|air| (air.percent, text::season::humidity(air.percent))),
        length(visit.relief),
        length(visit.nut),
        length(visit.treble),
        length(visit.bass),
        visit
            .cents
            .map(|cents| (cents, format!("{cents:+.1}").replace('-', "\u{2212}"))),
    ]
}

fn seasons(latest: &Worked) -> Vec<String> {
    let forecast = handover::forecast(&latest.known, &latest.plan);
    forecast.iter().flat_map(text::season::sentences).collect()
}

/// The page.
pub(crate) async fn show(store: Kept, id: web::Path<i64>) -> Result<HttpResponse, Failure> {
    let record = store.instrument(*id).await?;
    let shop = store.shop().await?.shop;
    let mut visits = Vec::new();
    let mut latest = None;
    for listed in store.jobs_of(*id).await?.into_iter().take(SHOWN) {
        match store.worked(listed.id).await {
            Ok(worked) => {
                visits.push((listed, Visit::of(&worked.known, &worked.plan)));
                // The newest comes first.
                latest.get_or_insert(worked);
            }
            // One that cannot be worked out says so on its own page.
            Err(StoreError::Job(_) | StoreError::Estimate(_)) => {}
            Err(other) => return Err(other.into()),
        }
    }
    visits.sort_by_key(|(_, visit)| visit.days);
    on_bench(shop.shown.bench(), || {
        let first = visits.first().map(|(_, visit)| visit.days.1);
        let day = |visit: &Visit| {
            let since = first.and_then(|first| visit.days.1.since(first).ok());
            since.map_or(0.0, |span| f64::from(span.get_days()))
        };
        let drawn: Vec<Plot> = NAMES
            .iter()
            .enumerate()
            .map(|(at, &name)| Plot {
                name,
                points: visits
                    .iter()
                    .filter_map(|(_, visit)| {
                        let (value, written) = values(visit)[at].clone()?;
                        Some((day(visit), value, written))
                    })
                    .collect(),
            })
            .collect();
        let title = record.instrument.title();
        page(
            StatusCode::OK,
            &VisitsPage {
                head: Head::new(),
                id: *id,
                drawing: plots(&drawn, &format!("{title} over its visits")),
                title,
                seasons: latest.as_ref().map_or(Vec::new(), |latest| seasons(latest)),
                names: NAMES,
                rows: visits
                    .iter()
                    .rev()
                    .map(|(listed, visit)| Row {
                        id: listed.id,
                        day: visit.days.1.strftime("%-d %b %Y").to_string(),
                        purpose: listed.summary.purpose.clone(),
                        values: values(visit).map(|value| {
                            value.map_or_else(|| "\u{2013}".to_owned(), |(_, written)| written)
                        }),
                    })
                    .collect(),
            },
        )
    })
}
