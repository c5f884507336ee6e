//! Failures as pages: what happened, and that nothing was lost.

use actix_web::http::StatusCode;
use actix_web::http::header::ContentType;
use actix_web::{HttpRequest, HttpResponse, ResponseError};
use askama::Template;
use gradimen_store::StoreError;
use thiserror::Error;

/// Why a request was not answered as asked.
#[derive(Debug, Error)]
pub(crate) enum Failure {
    /// No such page.
    #[error("page not found")]
    NotFound,
    /// Not from a page of our own.
    #[error("{0}")]
    Forbidden(String),
    /// Nobody is signed in any more; what was typed stays.
    #[error("you are signed out, and nothing was saved")]
    SignedOut,
    /// A form that could not be read at all.
    #[error("the form could not be read: {0}")]
    Form(String),
    /// It did not come to an end.
    #[error("what was sent took too long to come; nothing was saved")]
    Slow,
    /// The store.
    #[error("{0}")]
    Store(#[from] StoreError),
    /// A template.
    #[error("the page could not be written: {0}")]
    Template(#[from] askama::Error),
    /// Something else.
    #[error("{0}")]
    Other(String),
}

impl ResponseError for Failure {
    fn status_code(&self) -> StatusCode {
        match self {
            Self::NotFound
            | Self::Store(StoreError::NoSuchJob(_) | StoreError::NoSuchInstrument(_)) => {
                StatusCode::NOT_FOUND
            }
            Self::Forbidden(_) => StatusCode::FORBIDDEN,
            Self::SignedOut => StatusCode::UNAUTHORIZED,
            Self::Form(_) => StatusCode::BAD_REQUEST,
            Self::Slow => StatusCode::REQUEST_TIMEOUT,
            Self::Store(StoreError::NoRoom) => StatusCode::INSUFFICIENT_STORAGE,
            Self::Store(StoreError::Busy) => StatusCode::SERVICE_UNAVAILABLE,
            Self::Store(StoreError::Conflict { .. }) => StatusCode::CONFLICT,
            Self::Store(
                StoreError::Practised
                | StoreError::Job(_)
                | StoreError::Instrument(_)
                | StoreError::Shop(_),
            ) => StatusCode::UNPROCESSABLE_ENTITY,
            Self::Store(_) | Self::Template(_) | Self::Other(_) => {
                StatusCode::INTERNAL_SERVER_ERROR
            }
        }
    }

    fn error_response(&self) -> HttpResponse {
        if self.status_code().is_server_error() {
            tracing::error!("{self}");
        }
        let signed_out = matches!(self, Self::SignedOut);
        let page = FailurePage {
            icon: crate::assets::path("favicon.svg"),
            style: crate::assets::path("app.css"),
            text: self.to_string(),
            signed_out,
        };
        let mut answer = HttpResponse::build(self.status_code());
        if signed_out {
            // The page with what was typed stays, and says above its stations what to do.
            answer.insert_header(("HX-Retarget", "#stations"));
            answer.insert_header(("HX-Reswap", "beforebegin"));
            answer.insert_header(("HX-Reselect", "#signed-out"));
            answer.insert_header(("HX-Push-Url", "false"));
        }
        if matches!(self, Self::Slow) {
            for header in crate::headers::HEADERS {
                answer.insert_header(header);
            }
        }
        answer
            .content_type(ContentType::html())
            .body(page.render().unwrap_or_else(|_| self.to_string()))
    }
}

#[derive(Template)]
#[template(path = "pages/failure.html")]
struct FailurePage {
    icon: String,
    style: String,
    text: String,
    signed_out: bool,
}

/// A form that is too large or not a form.
pub(crate) fn form(error: actix_web::error::UrlencodedError, _: &HttpRequest) -> actix_web::Error {
    Failure::Form(error.to_string()).into()
}

/// Any page that does not exist.
pub(crate) async fn not_found() -> Result<HttpResponse, Failure> {
    Err(Failure::NotFound)
}
