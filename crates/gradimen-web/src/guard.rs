//! Who may speak to the server: this machine's own pages, nobody else's.
//!
//! The server listens on loopback only, but any page in the browser can send requests there. A
//! request must name a loopback host (against rebound names), and a change must come from a page of
//! the same origin.

use actix_web::Error;
use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{HOST, HeaderName, ORIGIN};
use actix_web::middleware::{DefaultHeaders, Next};

use crate::errors::Failure;

const FETCH_SITE: HeaderName = HeaderName::from_static("sec-fetch-site");

/// Everything comes from this process: scripts, styles, fonts; nothing is framed or sent elsewhere.
const CONTENT_POLICY: &str = "default-src 'none'; script-src 'self'; style-src 'self'; font-src 'self'; \
    img-src 'self'; connect-src 'self'; form-action 'self'; base-uri 'none'; frame-ancestors 'none'";

/// Headers of every answer.
pub(crate) fn headers() -> DefaultHeaders {
    DefaultHeaders::new()
        .add(("Content-Security-Policy", CONTENT_POLICY))
        .add(("X-Content-Type-Options", "nosniff"))
        .add(("Referrer-Policy", "same-origin"))
        .add(("Cross-Origin-Opener-Policy", "same-origin"))
        .add(("Cross-Origin-Resource-Policy", "same-origin"))
        .add(("Permissions-Policy", "camera=(), geolocation=()"))
}

/// The host part of a Host header or an origin, without its port.
fn host_name(authority: &str) -> &str {
    match authority
        .strip_prefix('[')
        .and_then(|rest| rest.split_once(']'))
    {
        Some((inside, _)) => inside,
        None => authority
            .rsplit_once(':')
            .map_or(authority, |(name, _)| name),
    }
}

fn is_loopback(authority: &str) -> bool {
    matches!(host_name(authority), "localhost" | "127.0.0.1" | "::1")
}

/// Refuses foreign hosts, and changes that do not come from a page of our own.
pub(crate) async fn same_origin(
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    let header = |name: HeaderName| {
        request
            .headers()
            .get(name)
            .and_then(|value| value.to_str().ok())
    };
    let host = header(HOST).unwrap_or_default();
    if !is_loopback(host) {
        return Err(Failure::Forbidden(
            "this server answers to this machine's own name only".into(),
        )
        .into());
    }
    let changes = !matches!(*request.method(), Method::GET | Method::HEAD);
    let origin = header(ORIGIN);
    let same = match (header(FETCH_SITE), origin) {
        (Some(site), _) => site == "same-origin",
        (None, Some(origin)) => origin == format!("http://{host}"),
        (None, None) => false,
    };
    if changes && !same {
        return Err(Failure::Forbidden(
            "this change did not come from a page of this program".into(),
        )
        .into());
    }
    next.call(request).await
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn knows_its_own_names() {
        for own in ["localhost", "localhost:8626", "127.0.0.1:1", "[::1]:8626"] {
            assert!(is_loopback(own), "{own}");
        }
        for foreign in [
            "",
            "example.org",
            "localhost.example.org:8626",
            "127.0.0.1.example.org",
            "10.0.0.3:80",
        ] {
            assert!(!is_loopback(foreign), "{foreign}");
        }
    }
}
