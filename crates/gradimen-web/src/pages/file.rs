//! Styles, fonts and scripts, for as long as a browser likes to keep them: their path names their contents.

use actix_web::http::header::{CacheControl, CacheDirective, ContentType};
use actix_web::{HttpResponse, web};

use crate::assets;
use crate::errors::Failure;

/// Answers for one asset.
pub(crate) async fn asset(place: web::Path<(String, String)>) -> Result<HttpResponse, Failure> {
    let (_, name) = place.into_inner();
    let (kind, bytes) = assets::find(&name).ok_or(Failure::NotFound)?;
    Ok(HttpResponse::Ok()
        .insert_header(ContentType(kind))
        .insert_header(CacheControl(vec![
            CacheDirective::Public,
            CacheDirective::MaxAge(31_536_000),
            CacheDirective::Extension("immutable".into(), None),
        ]))
        .body(bytes))
}
