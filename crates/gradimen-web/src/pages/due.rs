//! What is due back: instruments whose recheck has come, or comes within four weeks, and that have not been here since.

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use askama::Template;
use jiff::civil::Date;
use jiff::{Span, Zoned};

use crate::access::Kept;
use crate::components::Head;
use crate::errors::Failure;
use crate::pages::page;

/// So far ahead somebody is called.
const AHEAD: i64 = 4;

struct Row {
    id: i64,
    title: String,
    describes: String,
    purpose: String,
    due: String,
    late: bool,
}

#[derive(Template)]
#[template(path = "pages/due.html")]
struct DuePage {
    head: Head,
    rows: Vec<Row>,
}

/// The last day that is soon.
pub(super) fn soon() -> Date {
    let today = Zoned::now().date();
    let ahead = today.checked_add(Span::new().weeks(AHEAD));
    ahead.unwrap_or(today)
}

/// The list.
pub(crate) async fn show(store: Kept) -> Result<HttpResponse, Failure> {
    let today = Zoned::now().date();
    let listed = store.due(soon()).await?;
    let rows = listed.into_iter().map(|listed| {
        let due = listed.summary.due.unwrap_or(today);
        Row {
            id: listed.id,
            title: listed.summary.title,
            describes: listed.summary.describes,
            purpose: listed.summary.purpose,
            due: due.strftime("%-d %B %Y").to_string(),
            late: due < today,
        }
    });
    page(
        StatusCode::OK,
        &DuePage {
            head: Head::new(),
            rows: rows.collect(),
        },
    )
}
