//! Signing in: by name and password, or by a code that is shown at the bench.

use std::net::{IpAddr, Ipv4Addr};

use actix_session::Session;
use actix_web::http::StatusCode;
use actix_web::http::header::USER_AGENT;
use actix_web::{HttpRequest, HttpResponse, web};
use askama::Template;
use gradimen_store::Store;
use gradimen_store::accounts::SignIn;
use jiff::Timestamp;

use super::{page, redirect};
use crate::access::{Access, sessions};
use crate::components::Head;
use crate::errors::Failure;
use crate::forms::Fields;

#[derive(Template)]
#[template(path = "pages/sign_in.html")]
struct SignInPage {
    head: Head,
    fields: Fields,
    to: String,
    refused: String,
    fingerprint: Option<String>,
}

/// Where one goes on to: a page of ours, whatever stands there.
fn onward(fields: &Fields) -> String {
    let to = fields.text("to");
    let ours = to.starts_with('/') && !to.starts_with("//") && !to.contains(['\\', '\r', '\n']);
    if ours && !to.starts_with("/sign-in") {
        to
    } else {
        "/"
    }
    .to_owned()
}

fn sheet(
    status: StatusCode,
    access: &Access,
    fields: Fields,
    refused: String,
) -> Result<HttpResponse, Failure> {
    let shown = SignInPage {
        head: Head::new(),
        to: onward(&fields),
        fields,
        refused,
        fingerprint: access.fingerprint.clone(),
    };
    page(status, &shown)
}

/// The page.
pub(crate) async fn show(
    access: web::Data<Access>,
    query: web::Query<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    if !access.asks {
        return Ok(redirect("/"));
    }
    sheet(
        StatusCode::OK,
        &access,
        Fields::from(query.into_inner()),
        String::new(),
    )
}

/// What a browser says it runs on: `Linux; Android 14; tablet`.
fn device(request: &HttpRequest) -> String {
    let said = request
        .headers()
        .get(USER_AGENT)
        .and_then(|said| said.to_str().ok());
    let inside = said.and_then(|said| said.split_once('(')?.1.split_once(')'));
    let name = inside.map_or("a device", |(inside, _)| inside);
    name.chars().take(60).collect()
}

/// Signs in.
pub(crate) async fn enter(
    access: web::Data<Access>,
    store: web::Data<Store>,
    request: HttpRequest,
    session: Session,
    sent: web::Form<Vec<(String, String)>>,
) -> Result<HttpResponse, Failure> {
    if !access.asks {
        return Ok(redirect("/"));
    }
    let mut fields = Fields::from(sent.into_inner());
    let [name, password, code] =
        ["name", "password", "code"].map(|name| fields.text(name).to_owned());
    // It is not handed back with the page.
    fields.set("password", "");
    fields.set("code", "");
    let from = request
        .peer_addr()
        .map_or(IpAddr::V4(Ipv4Addr::UNSPECIFIED), |peer| peer.ip());
    let now = Timestamp::now();
    let tried = if code.trim().is_empty() {
        store.sign_in(name.trim(), &password, from, now).await?
    } else {
        store.pair(&code, from, now).await?
    };
    let refused = match tried {
        SignIn::In(account) => {
            // Whatever the browser held before, it holds no more: nobody gave it a session to be found in.
            session.clear();
            session.renew();
            let kept = session
                .insert(sessions::ACCOUNT, &account.name)
                .and_then(|()| session.insert(sessions::DEVICE, device(&request)));
            kept.map_err(|error| Failure::Other(error.to_string()))?;
            tracing::info!(account = account.name, "signed in");
            return Ok(redirect(&onward(&fields)));
        }
        SignIn::Wrong if code.trim().is_empty() => {
            "No account has this name and password.".to_owned()
        }
        SignIn::Wrong => {
            "This code signs nobody in: it is used once, within five minutes.".to_owned()
        }
        SignIn::Wait(seconds) => format!("Too often wrong: try again in {}.", waited(seconds)),
    };
    tracing::warn!("signing in was refused");
    sheet(StatusCode::UNPROCESSABLE_ENTITY, &access, fields, refused)
}

fn waited(seconds: i64) -> String {
    match seconds {
        ..=90 => format!("{seconds} seconds"),
        _ => format!("{} minutes", (seconds + 59) / 60),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn one_goes_on_to_a_page_of_ours_and_nowhere_else() {
        let to = |to: &str| onward(&Fields::from(vec![("to".to_owned(), to.to_owned())]));
        assert_eq!(to("/jobs/3/nut?string=2"), "/jobs/3/nut?string=2");
        for foreign in [
            "",
            "//example.org",
            "https://example.org",
            "/\\example.org",
            "javascript:alert(1)",
            "/x\r\nSet-Cookie: a=b",
            "/sign-in?to=/",
        ] {
            assert_eq!(to(foreign), "/", "{foreign}");
        }
    }
}
