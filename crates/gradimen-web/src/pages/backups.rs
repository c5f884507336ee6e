//! Copies of the data: what there is, what one of them holds, and having it take the file's place.

use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_store::backup::{self, Backup};
use gradimen_store::verify::{Contents, verify};
use gradimen_store::{Store, StoreError};
use jiff::Zoned;
use jiff::civil::Date;

use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;
use crate::pages::page;

/// A copy as it is listed.
pub(super) struct Row {
    pub(super) day: String,
    pub(super) key: String,
    pub(super) age: String,
    pub(super) size: String,
}

/// `1.2 MB`.
fn size(bytes: u64) -> String {
    let kilo = bytes as f64 / 1000.0;
    if kilo < 1000.0 {
        format!("{kilo:.0} kB")
    } else {
        format!("{:.1} MB", kilo / 1000.0)
    }
}

fn age(day: Date) -> String {
    let today = Zoned::now().date();
    match day.until(today).map_or(0, |span| span.get_days()) {
        0 => "today".to_owned(),
        1 => "yesterday".to_owned(),
        days => format!("{days} days ago"),
    }
}

/// The copies beside the data, the newest first.
pub(super) fn rows(store: &Store) -> Vec<Row> {
    backup::backups(store.folder())
        .into_iter()
        .map(|backup| Row {
            day: backup.day.strftime("%-d %B %Y").to_string(),
            key: backup.day.to_string(),
            age: age(backup.day),
            size: size(backup.size),
        })
        .collect()
}

/// What a file holds, in words.
pub(crate) fn holds(contents: &Contents) -> String {
    let last = contents.last.as_deref().and_then(|last| last.get(..10));
    let last = last.and_then(|day| day.parse::<Date>().ok());
    let last = last.map_or(String::new(), |day| {
        format!(", the last of {}", day.strftime("%-d %b %Y"))
    });
    format!("{contents}{last}")
}

#[derive(Template)]
#[template(path = "pages/backup.html")]
struct BackupPage {
    head: Head,
    title: String,
    key: String,
    holds: String,
    now: String,
    problems: Vec<String>,
    waits: bool,
}

fn found(store: &Store, day: &str) -> Result<Backup, Failure> {
    let all = backup::backups(store.folder());
    let wanted = all
        .into_iter()
        .find(|backup| backup.day.to_string() == *day);
    wanted.ok_or(Failure::NotFound)
}

async fn look_page(store: &Store, day: &str, waits: bool) -> Result<HttpResponse, Failure> {
    let backup = found(store, day)?;
    let verdict = verify(&backup.path).await?;
    page(
        StatusCode::OK,
        &BackupPage {
            head: Head::new(),
            title: backup.day.strftime("%-d %B %Y").to_string(),
            key: backup.day.to_string(),
            holds: holds(&verdict.contents),
            now: holds(&store.contents().await?),
            problems: verdict.problems.iter().map(ToString::to_string).collect(),
            waits,
        },
    )
}

/// A look at a copy: what it holds, and whether all of it does.
pub(crate) async fn look(store: Kept, day: web::Path<String>) -> Result<HttpResponse, Failure> {
    look_page(&store, &day, false).await
}

/// Has a copy take the file's place at the next start.
pub(crate) async fn restore(store: Kept, day: web::Path<String>) -> Result<HttpResponse, Failure> {
    let backup = found(&store, &day)?;
    match backup::put_next(store.folder(), &backup.path).await {
        Ok(_) => look_page(&store, &day, true).await,
        // Its page names what does not hold.
        Err(StoreError::Unsound { .. }) => look_page(&store, &day, false).await,
        Err(other) => Err(other.into()),
    }
}

#[derive(Template)]
#[template(path = "pages/verified.html")]
struct VerifiedPage {
    head: Head,
    holds: String,
    problems: Vec<(String, Option<i64>)>,
}

/// Looks through all data as it stands.
pub(crate) async fn verified(store: Kept) -> Result<HttpResponse, Failure> {
    let verdict = verify(&backup::file_of(store.folder())).await?;
    page(
        StatusCode::OK,
        &VerifiedPage {
            head: Head::new(),
            holds: holds(&verdict.contents),
            problems: verdict
                .problems
                .iter()
                .map(|problem| (problem.to_string(), problem.job))
                .collect(),
        },
    )
}

/// What is asked by whoever watches over the machine: whether it works, and when it was copied last.
pub(crate) async fn health(store: Kept) -> HttpResponse {
    let copied = backup::backups(store.folder());
    let last = copied.first().map(|backup| backup.day.to_string());
    let writable = store.can_write().await;
    let mut answer = if writable {
        HttpResponse::Ok()
    } else {
        HttpResponse::ServiceUnavailable()
    };
    answer.json(serde_json::json!({
        "ready": true,
        "data_writable": writable,
        "last_backup": last,
    }))
}
