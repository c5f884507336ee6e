//! One's own account: where it is signed in, a code for another device, and the way out.

use actix_session::Session;
use actix_web::http::StatusCode;
use actix_web::{HttpResponse, web};
use askama::Template;
use gradimen_store::accounts::Deed;
use jiff::Timestamp;
use jiff::tz::TimeZone;

use super::{page, redirect};
use crate::access::gate::SIGN_IN;
use crate::access::{Access, Hand, Kept};
use crate::components::Head;
use crate::errors::Failure;

struct Device {
    name: String,
    began: String,
    seen: String,
}

struct Other {
    name: String,
    role: &'static str,
}

#[derive(Template)]
#[template(path = "pages/account.html")]
struct AccountPage {
    head: Head,
    name: String,
    role: &'static str,
    devices: Vec<Device>,
    code: Option<String>,
    others: Vec<Other>,
    fingerprint: Option<String>,
}

fn hand(store: &Kept) -> Result<&Hand, Failure> {
    // Where nobody signs in there is no account to look at.
    store.hand.as_ref().ok_or(Failure::NotFound)
}

async fn sheet(
    store: &Kept,
    access: &Access,
    code: Option<String>,
) -> Result<HttpResponse, Failure> {
    let account = &hand(store)?.account;
    let day = |at: Timestamp| {
        at.to_zoned(TimeZone::system())
            .strftime("%-d %b, %H:%M")
            .to_string()
    };
    let devices = store.sessions(&account.name, Timestamp::now()).await?;
    let others = if account.role.may(Deed::Work) {
        store.accounts().await?
    } else {
        Vec::new()
    };
    let shown = AccountPage {
        head: Head::new(),
        name: account.name.clone(),
        role: account.role.key(),
        devices: devices
            .into_iter()
            .map(|session| Device {
                name: session.device,
                began: day(session.began),
                seen: day(session.seen),
            })
            .collect(),
        code,
        others: others
            .into_iter()
            .map(|other| Other {
                name: other.name,
                role: other.role.key(),
            })
            .collect(),
        fingerprint: access.fingerprint.clone(),
    };
    page(StatusCode::OK, &shown)
}

/// The page.
pub(crate) async fn show(access: web::Data<Access>, store: Kept) -> Result<HttpResponse, Failure> {
    sheet(&store, &access, None).await
}

/// A code for another device.
pub(crate) async fn pair(access: web::Data<Access>, store: Kept) -> Result<HttpResponse, Failure> {
    let name = hand(&store)?.account.name.clone();
    let code = store.pairing_code(&name, Timestamp::now()).await?;
    let code = format!("{} {}", &code[..4], &code[4..]);
    sheet(&store, &access, Some(code)).await
}

/// Signs this device out.
pub(crate) async fn leave(store: Kept, session: Session) -> Result<HttpResponse, Failure> {
    hand(&store)?;
    session.purge();
    Ok(redirect(SIGN_IN))
}

/// Signs every device of this account out.
pub(crate) async fn leave_everywhere(
    store: Kept,
    session: Session,
) -> Result<HttpResponse, Failure> {
    store
        .sign_out_everywhere(&hand(&store)?.account.name)
        .await?;
    session.purge();
    Ok(redirect(SIGN_IN))
}
