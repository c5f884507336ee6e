//! The bench list: who is waiting, on the bench, resting, ready.

use crate::vocabulary::*;
use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_store::library::{Listed, Search, Stock};
use serde::Deserialize;

use super::layout::shape_of;
use super::page;
use crate::access::Kept;
use crate::components::{Choice, Head};
use crate::errors::Failure;
use crate::svg;

#[derive(Debug, Default, Deserialize)]
pub(crate) struct Query {
    #[serde(default)]
    q: String,
    #[serde(default)]
    stage: String,
    #[serde(default)]
    page: u32,
    /// Whether the only job that fits is opened at once.
    #[serde(default)]
    go: String,
}

/// What greets a newcomer, where anything does.
#[derive(Debug, Clone, Default)]
pub(crate) struct Greeting(pub(crate) bool);

struct Row {
    id: i64,
    /// Whether it is the first of the list: Enter opens it after a search.
    first: bool,
    summary: Summary,
    stage: &'static str,
    changed: String,
    /// Until when it is left to settle.
    rests: Option<String>,
    strings: Option<String>,
    setup: Vec<String>,
    intonation: String,
    intonation_word: String,
    balance: Option<String>,
    pickups: Option<String>,
}

struct Group {
    name: &'static str,
    rows: Vec<Row>,
}

#[derive(Template)]
#[template(path = "pages/bench.html")]
struct BenchPage {
    head: Head,
    q: String,
    stages: Vec<Choice>,
    groups: Vec<Group>,
    nothing_at_all: bool,
    nothing_found: bool,
    newer: Option<u32>,
    older: Option<u32>,
    stage: String,
    greets: bool,
    /// How many are to come back about now.
    due: usize,
    /// The marks, drawn once.
    symbols: String,
    /// Every mark, with its word.
    key: [(String, &'static str); 4],
}

fn marked(mark: Mark) -> String {
    svg::listed_mark(shape_of(mark), text::mark(mark))
}

/// One of the key, whose word stands beside it.
fn keyed(mark: Mark) -> (String, &'static str) {
    (svg::inline_mark(shape_of(mark)), text::mark(mark))
}

/// `rests until 18:40`, or that it has.
fn rests(until: jiff::Timestamp) -> String {
    let now = jiff::Zoned::now();
    if until <= now.timestamp() {
        return "has rested".to_owned();
    }
    let until = until.to_zoned(now.time_zone().clone());
    let day = if until.date() == now.date() {
        "%H:%M"
    } else {
        "%H:%M, %-d %b"
    };
    format!("rests until {}", until.strftime(day))
}

fn row((at, listed): (usize, Listed)) -> Row {
    let summary = listed.summary;
    let (within, all) = summary.within;
    Row {
        id: listed.id,
        first: at == 0,
        stage: summary.stage.name(),
        rests: summary.rests_until.map(rests),
        changed: listed.changed_at.strftime("%-d %b %Y").to_string(),
        strings: Some(svg::listed_mark(
            shape_of(summary.strings),
            if summary.strings == Mark::Within {
                "fine"
            } else {
                "near breaking"
            },
        )),
        setup: ["relief", "nut", "height"]
            .into_iter()
            .zip(summary.setup)
            .map(|(name, mark)| {
                let word = format!("{name}: {}", text::mark(mark));
                svg::listed_mark(shape_of(mark), &word)
            })
            .collect(),
        balance: summary.balance.map(marked),
        pickups: summary.pickups.map(marked),
        intonation: svg::inline_mark(shape_of(summary.intonation)),
        intonation_word: match summary.intonation {
            Mark::Unread => "not read".to_owned(),
            Mark::Within => "in spec".to_owned(),
            Mark::Working => format!("{within} of {all} in spec"),
            Mark::Blocked => "stopped".to_owned(),
        },
        summary,
    }
}

/// The bench list.
pub(crate) async fn list(
    store: Kept,
    query: web::Query<Query>,
    greeting: Option<web::Data<Greeting>>,
) -> Result<HttpResponse, Failure> {
    // A state is looked for by its name as by its button.
    let named = Stage::all().find(|stage| stage.name() == query.q.trim().to_lowercase());
    let stage = Stage::from_key(&query.stage).or(named);
    let search = Search {
        words: if named.is_some() {
            String::new()
        } else {
            query.q.clone()
        },
        stage,
        page: query.page,
    };
    let (listed, more) = store.jobs(&search).await?;
    if let ([one], "yes", false) = (&listed[..], query.go.as_str(), query.q.trim().is_empty()) {
        return Ok(super::redirect(&format!("/jobs/{}", one.id)));
    }
    let counts = store.stage_counts().await?;
    let mut groups: Vec<Group> = Vec::new();
    for row in listed.into_iter().enumerate().map(row) {
        match groups.last_mut() {
            Some(group) if group.name == row.stage => group.rows.push(row),
            _ => groups.push(Group {
                name: row.stage,
                rows: vec![row],
            }),
        }
    }
    let mut stages = vec![Choice::of("", "in the shop", stage.is_none())];
    for (stage_here, count) in Stage::all().zip(counts) {
        let label = format!("{} {count}", stage_here.name());
        stages.push(Choice::of(
            stage_here.key(),
            &label,
            stage == Some(stage_here),
        ));
    }
    let due = store.due(super::due::soon()).await?.len();
    let nothing_at_all = counts.iter().sum::<u64>() == 0;
    page(
        StatusCode::OK,
        &BenchPage {
            head: Head::new(),
            q: query.q.clone(),
            stages,
            nothing_at_all,
            nothing_found: groups.is_empty() && !nothing_at_all,
            groups,
            due,
            newer: query.page.checked_sub(1),
            older: more.then(|| query.page.saturating_add(1)),
            stage: query.stage.clone(),
            greets: greeting.is_some_and(|greeting| greeting.0) && query.q.is_empty(),
            symbols: svg::mark_symbols(),
            key: [Mark::Unread, Mark::Working, Mark::Within, Mark::Blocked].map(keyed),
        },
    )
}

#[derive(Template)]
#[template(path = "pages/stock.html")]
struct StockPage {
    head: Head,
    q: String,
    stock: Vec<Stock>,
}

/// The instruments on record.
pub(crate) async fn stock(store: Kept, query: web::Query<Query>) -> Result<HttpResponse, Failure> {
    let stock = store.stock(&query.q).await?;
    page(
        StatusCode::OK,
        &StockPage {
            head: Head::new(),
            q: query.q.clone(),
            stock,
        },
    )
}
