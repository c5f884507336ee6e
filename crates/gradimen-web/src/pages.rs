//! Pages: handlers that parse, call and render.

pub(crate) mod bench;
pub(crate) mod clearance;
pub(crate) mod data;
pub(crate) mod file;
pub(crate) mod instrument;
pub(crate) mod intake;
pub(crate) mod intonation;
pub(crate) mod job;
pub(crate) mod layout;
pub(crate) mod open;
pub(crate) mod record;
pub(crate) mod setup;
pub(crate) mod strings;
pub(crate) mod tell;
pub(crate) mod understand;
pub(crate) mod what_if;
pub(crate) mod whole;

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use actix_web::http::header::{ContentType, LOCATION};
use askama::Template;

use crate::assets;
use crate::errors::Failure;

/// What every page needs from the binary.
#[derive(Debug, Clone)]
pub(crate) struct Head {
    pub(crate) style: String,
    pub(crate) htmx: String,
    pub(crate) changes: String,
    pub(crate) tools: String,
    pub(crate) keys: String,
    pub(crate) icon: String,
}

impl Head {
    pub(crate) fn new() -> Self {
        Self {
            style: assets::path("app.css"),
            htmx: assets::path("htmx.min.js"),
            changes: assets::path("changes.js"),
            tools: assets::path("tools.js"),
            keys: assets::path("keys.js"),
            icon: assets::path("favicon.svg"),
        }
    }
}

/// A page. One that answers a refused form keeps the address bar where it was.
pub(crate) fn page(status: StatusCode, template: &impl Template) -> Result<HttpResponse, Failure> {
    let mut response = HttpResponse::build(status);
    response.content_type(ContentType::html());
    response.insert_header(("Cache-Control", "no-store"));
    if !status.is_success() {
        response.insert_header(("HX-Push-Url", "false"));
    }
    Ok(response.body(template.render()?))
}

/// On to another page after a change.
pub(crate) fn redirect(place: &str) -> HttpResponse {
    HttpResponse::SeeOther()
        .insert_header((LOCATION, place))
        .finish()
}

/// A choice in a list.
#[derive(Debug, Clone)]
pub(crate) struct Choice {
    pub(crate) value: String,
    pub(crate) label: String,
    pub(crate) chosen: bool,
}

impl Choice {
    pub(crate) fn of(value: &str, label: &str, chosen: bool) -> Self {
        Self {
            value: value.to_owned(),
            label: label.to_owned(),
            chosen,
        }
    }
}
