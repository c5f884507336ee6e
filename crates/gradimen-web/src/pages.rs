//! Pages: handlers that parse, call and render.

pub(crate) mod account;
mod answer;
pub(crate) mod backups;
pub(crate) mod bench;
mod buzz;
pub(crate) mod data;
pub(crate) mod due;
pub(crate) mod figures;
pub(crate) mod file;
pub(crate) mod focus;
pub(crate) mod instrument;
pub(crate) mod job;
pub(crate) mod layout;
mod level;
pub(crate) mod listen;
pub(crate) mod open;
mod paired;
pub(crate) mod panel;
pub(crate) mod practice;
pub(crate) mod practised;
pub(crate) mod sheets;
pub(crate) mod shop;
pub(crate) mod shown;
pub(crate) mod sign_in;
pub(crate) mod tune;
pub(crate) mod understand;
pub(crate) mod visits;

use actix_web::HttpResponse;
use actix_web::http::StatusCode;
use actix_web::http::header::{ContentType, LOCATION};
use askama::Template;

use crate::errors::Failure;

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
