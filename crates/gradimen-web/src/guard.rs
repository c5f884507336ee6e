//! Who may speak to the server: its own pages, nobody else's.
//!
//! Any page in a browser can send requests here, also where only this machine can. A request must name this server by one of its
//! names (against rebound names), and a change must come from a page of the same origin. Who that is, is asked in [`crate::access`].

use std::time::Duration;

use actix_web::body::MessageBody;
use actix_web::dev::{ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::{HOST, HeaderName, ORIGIN, UPGRADE};
use actix_web::middleware::{DefaultHeaders, Next};
use actix_web::{Error, web};

use crate::access::Access;
use crate::errors::Failure;
use crate::headers::HEADERS;

const FETCH_SITE: HeaderName = HeaderName::from_static("sec-fetch-site");

/// Headers of every answer.
pub(crate) fn headers() -> DefaultHeaders {
    let add = |all: DefaultHeaders, header: (&'static str, &'static str)| all.add(header);
    HEADERS.into_iter().fold(DefaultHeaders::new(), add)
}

/// As long as any request may take, what it sends included: a press that comes in drops is let go.
const LONGEST: Duration = Duration::from_secs(30);
/// All data of a large shop are looked through, or written out, in minutes.
const LONGEST_OF_ALL_DATA: Duration = Duration::from_secs(600);

/// Answers HEAD as GET: what is shown is left out by the server itself. And gives a request that does not end up.
pub(crate) async fn patient(
    mut request: ServiceRequest,
    next: Next<impl MessageBody>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    if request.method() == Method::HEAD {
        request.head_mut().method = Method::GET;
    }
    let (method, path) = (request.method().clone(), request.path().to_owned());
    let began = std::time::Instant::now();
    let longest = if path.starts_with("/data/") {
        LONGEST_OF_ALL_DATA
    } else {
        LONGEST
    };
    // What is given up is no answer that passes through here: it brings its headers itself.
    let answer = actix_web::rt::time::timeout(longest, next.call(request))
        .await
        .unwrap_or_else(|_| Err(Failure::Slow.into()));
    // Neither what was typed nor what was looked for: no form, no query.
    let status = answer.as_ref().map_or(0, |answer| answer.status().as_u16());
    tracing::info!(%method, path, status, ms = began.elapsed().as_millis());
    answer
}

/// Refuses foreign hosts, and changes that do not come from a page of our own. The refusal is an answer like any
/// other, so that it carries the headers of every answer.
pub(crate) async fn same_origin(
    access: web::Data<Access>,
    request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<impl MessageBody>, Error> {
    if let Some(refused) = refusal(&access, &request) {
        let answer = request.error_response(Failure::Forbidden(refused.to_owned()));
        return Ok(answer.map_into_right_body());
    }
    Ok(next.call(request).await?.map_into_left_body())
}

/// Why a request is not answered, where it is not.
fn refusal(access: &Access, request: &ServiceRequest) -> Option<&'static str> {
    let header = |name: HeaderName| {
        request
            .headers()
            .get(name)
            .and_then(|value| value.to_str().ok())
    };
    let host = header(HOST).unwrap_or_default();
    if !access.knows(host) {
        return Some("this server answers to its own names only");
    }
    // What is spoken to from a page of somebody else's would be listened to as well.
    let talks = request.headers().contains_key(UPGRADE);
    let changes = talks || !matches!(*request.method(), Method::GET | Method::HEAD);
    let origin = header(ORIGIN);
    let same = match (header(FETCH_SITE), origin) {
        (Some(site), _) => site == "same-origin",
        (None, Some(origin)) => origin == access.origin(host),
        (None, None) => false,
    };
    (changes && !same).then_some("this change did not come from a page of this program")
}
