//! Styles, fonts and scripts from inside the binary, under a path that names their contents.

use std::sync::LazyLock;

use actix_web::http::header::{CacheControl, CacheDirective, ContentType};
use actix_web::{HttpResponse, web};
use rust_embed::RustEmbed;

use crate::errors::Failure;

#[derive(RustEmbed)]
#[folder = "assets/"]
struct Assets;

/// Short fingerprint of all assets together: one changes, all are fetched anew.
static PRINT: LazyLock<String> = LazyLock::new(|| {
    let mut sum = 0_u64;
    for name in Assets::iter() {
        if let Some(file) = Assets::get(&name) {
            for byte in file.metadata.sha256_hash() {
                sum = sum.rotate_left(5) ^ u64::from(byte).wrapping_mul(0x9e37_79b9_7f4a_7c15);
            }
        }
    }
    format!("{sum:016x}")
});

/// Where an asset is fetched from.
pub(crate) fn path(name: &str) -> String {
    format!("/assets/{}/{name}", *PRINT)
}

/// Answers for one asset.
pub(crate) async fn asset(place: web::Path<(String, String)>) -> Result<HttpResponse, Failure> {
    let (_, name) = place.into_inner();
    let file = Assets::get(&name).ok_or(Failure::NotFound)?;
    let kind = mime_guess::from_path(&name).first_or_octet_stream();
    Ok(HttpResponse::Ok()
        .insert_header(ContentType(kind))
        .insert_header(CacheControl(vec![
            CacheDirective::Public,
            CacheDirective::MaxAge(31_536_000),
            CacheDirective::Extension("immutable".into(), None),
        ]))
        .body(file.data.into_owned()))
}
