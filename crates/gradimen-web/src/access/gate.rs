//! The way of every request where somebody has to sign in: who it is, whether the role may, whether the form is one of ours.

use actix_session::SessionExt;
use actix_web::body::{BoxBody, MessageBody, to_bytes};
use actix_web::dev::{Payload, ServiceRequest, ServiceResponse};
use actix_web::http::Method;
use actix_web::http::header::CONTENT_TYPE;
use actix_web::middleware::Next;
use actix_web::web::{self, Bytes};
use actix_web::{Error, HttpMessage, HttpResponse};
use askama::Template;
use gradimen_store::Store;
use gradimen_store::accounts::{Account, Deed};
use percent_encoding::{NON_ALPHANUMERIC, utf8_percent_encode};

use super::{Access, Hand, sessions};
use crate::errors::Failure;
use crate::pages::redirect;
use crate::{FORM_LIMIT, UPLOAD_LIMIT};

/// The page on which one signs in.
pub(crate) const SIGN_IN: &str = "/sign-in";
/// Where a page names who is signed in.
const WHO: &str = "<!--who-->";

#[derive(Template)]
#[template(
    source = "<a class=\"btn btn-plain\" href=\"/account\">{{ name }}</a>",
    ext = "html"
)]
struct Who<'a> {
    name: &'a str,
}

/// Whether that account may do that.
///
/// # Errors
/// [`Failure::Forbidden`] with who may.
pub(crate) fn allowed(account: &Account, deed: Deed) -> Result<(), Failure> {
    if account.role.may(deed) {
        return Ok(());
    }
    let who = match deed {
        Deed::Look | Deed::TakeIn => "whoever takes instruments in, or a technician",
        Deed::Work => "a technician",
    };
    Err(Failure::Forbidden(format!(
        "{} is signed in as {}: this is for {who}",
        account.name,
        account.role.key()
    )))
}

/// What nobody has to sign in for; whoever watches from this machine itself sees that all is well.
fn open_to_all(request: &ServiceRequest) -> bool {
    let path = request.path();
    let from_here = request
        .peer_addr()
        .is_some_and(|peer| peer.ip().is_loopback());
    path == SIGN_IN || path.starts_with("/assets/") || (path == "/health" && from_here)
}

/// What a request does, as far as its address tells; what is told of a job is looked at where the form is read.
fn deed(method: &Method, path: &str) -> Deed {
    // Whoever has come in may practise.
    let own = path.starts_with("/account") || super::is_practice(path);
    let takes_in = path.starts_with("/instruments") || path.ends_with("/tell");
    match *method {
        _ if own => Deed::Look,
        Method::GET | Method::HEAD if path.starts_with("/data") => Deed::Work,
        Method::GET | Method::HEAD => Deed::Look,
        Method::POST if takes_in => Deed::TakeIn,
        _ => Deed::Work,
    }
}

/// Lets a request through, or says what is missing.
pub(crate) async fn gate(
    access: web::Data<Access>,
    store: web::Data<Store>,
    mut request: ServiceRequest,
    next: Next<impl MessageBody + 'static>,
) -> Result<ServiceResponse<BoxBody>, Error> {
    if !access.asks || open_to_all(&request) {
        return Ok(next.call(request).await?.map_into_boxed_body());
    }
    let Some(hand) = hand(&store, &request).await? else {
        return Ok(signed_out(request));
    };
    let passed = passes(&hand, &mut request).await;
    if let Err(failure) = passed {
        return Ok(request.error_response(failure).map_into_boxed_body());
    }
    request.extensions_mut().insert(hand.clone());
    let answer = next.call(request).await?;
    marked(answer.map_into_boxed_body(), &hand).await
}

async fn hand(store: &Store, request: &ServiceRequest) -> Result<Option<Hand>, Failure> {
    let name: Option<String> = request.get_session().get(sessions::ACCOUNT).ok().flatten();
    let Some(name) = name else { return Ok(None) };
    let found = store.account(&name).await?;
    Ok(found.map(|(account, word)| Hand { account, word }))
}

/// On to the page on which one signs in; what was typed stays where it is.
fn signed_out(request: ServiceRequest) -> ServiceResponse<BoxBody> {
    let looks = matches!(*request.method(), Method::GET | Method::HEAD);
    if !looks {
        return request
            .error_response(Failure::SignedOut)
            .map_into_boxed_body();
    }
    let to = request.uri().to_string();
    let to = utf8_percent_encode(&to, NON_ALPHANUMERIC);
    let place = format!("{SIGN_IN}?to={to}");
    let sent = |name: &str| request.headers().contains_key(name);
    let answer = match (sent("hx-request"), sent("hx-boosted")) {
        (false, _) => redirect(&place),
        (true, true) => HttpResponse::Unauthorized()
            .insert_header(("HX-Redirect", place))
            .finish(),
        // A word on what is being typed: the page stays, and so does what is typed.
        (true, false) => HttpResponse::Unauthorized()
            .insert_header(("HX-Reswap", "none"))
            .finish(),
    };
    request.into_response(answer).map_into_boxed_body()
}

/// Whether the role may, and for a change whether the word of the page came with it: what is sent is looked at and handed on.
async fn passes(hand: &Hand, request: &mut ServiceRequest) -> Result<(), Failure> {
    // The path as it is routed: what is written with % in it is the same page.
    let path = request.match_info().as_str().to_owned();
    allowed(&hand.account, deed(request.method(), &path))?;
    if matches!(*request.method(), Method::GET | Method::HEAD) {
        return Ok(());
    }
    let sent = request.extract::<web::Payload>().await;
    let sent = sent.map_err(|error| Failure::Form(error.to_string()))?;
    let sent = sent.to_bytes_limited(UPLOAD_LIMIT + FORM_LIMIT).await;
    let sent: Bytes = sent
        .map_err(|_| Failure::Form("it is too large".to_owned()))?
        .map_err(|error| Failure::Form(error.to_string()))?;
    // Nobody who cannot read a page of this account's knows the word, wherever in the form it stands.
    let word = hand.word.as_bytes();
    if !sent.windows(word.len()).any(|part| part == word) {
        let text =
            "this form did not come from a page of this account: load the page again, then send it";
        return Err(Failure::Forbidden(text.to_owned()));
    }
    request.set_payload(Payload::from(sent));
    Ok(())
}

/// Puts the account's word into every form of a page, and its name where pages name it.
async fn marked(
    answer: ServiceResponse<BoxBody>,
    hand: &Hand,
) -> Result<ServiceResponse<BoxBody>, Error> {
    let kind = answer.headers().get(CONTENT_TYPE);
    if !kind.is_some_and(|kind| kind.as_bytes().starts_with(b"text/html")) {
        return Ok(answer);
    }
    let (request, answer) = answer.into_parts();
    let (answer, body) = answer.into_parts();
    let body = to_bytes(body).await?;
    let page = String::from_utf8_lossy(&body);
    let who = Who {
        name: &hand.account.name,
    };
    let page = page.replace(WHO, &who.render().map_err(Failure::Template)?);
    let marked = with_word(&page, &hand.word);
    let answer = answer.set_body(BoxBody::new(marked));
    Ok(ServiceResponse::new(request, answer))
}

/// The page with the word in every form that changes something. What users wrote is escaped in pages: only a form of ours begins so.
fn with_word(page: &str, word: &str) -> String {
    let mut marked = String::with_capacity(page.len() + 4096);
    for (at, part) in page.split("<form").enumerate() {
        if at > 0 {
            marked.push_str("<form");
        }
        match part.split_once('>') {
            Some((tag, inside)) if at > 0 && tag.contains("method=\"post\"") => {
                marked.push_str(tag);
                marked.push_str("><input type=\"hidden\" name=\"word\" value=\"");
                marked.push_str(word);
                marked.push_str("\">");
                marked.push_str(inside);
            }
            _ => marked.push_str(part),
        }
    }
    marked
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn every_form_that_changes_something_gets_the_word_and_no_other() {
        let page = "a > b <form xmlns=\"http://www.w3.org/1999/xhtml\" method=\"post\" action=\"/x\"><p>1</p></form>\
            <form method=\"get\"><p>2</p></form><form method=\"post\" id=\"y\"></form><formula>";
        let marked = with_word(page, "w");
        assert_eq!(marked.matches("name=\"word\" value=\"w\"").count(), 2);
        assert!(marked.contains("action=\"/x\"><input") && marked.contains("id=\"y\"><input"));
        let taken_out = marked.replace("<input type=\"hidden\" name=\"word\" value=\"w\">", "");
        assert_eq!(taken_out, page);
    }
}
