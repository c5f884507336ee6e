//! Pages as they were shown last: while nothing is written a page is not made again, only given another word for its forms.

use std::num::NonZeroUsize;
use std::sync::{Mutex, PoisonError};

use actix_web::HttpResponse;
use actix_web::body::MessageBody;
use actix_web::http::header::{ContentType, HeaderValue};
use gradimen_store::Mark;
use jiff::civil::Date;
use lru::LruCache;

use super::layout::fresh;

/// Some strings and fields in hand at every station of a few jobs; a page is some tens of kilobytes.
const KEPT: NonZeroUsize = NonZeroUsize::new(256).expect("256 is not nought");

/// What a page is true of: the address with all that is asked for, the data, and the day that its head names.
#[derive(Debug, Clone, PartialEq, Eq)]
pub(crate) struct Of {
    address: String,
    data: Mark,
    day: Date,
}

impl Of {
    pub(crate) fn new(address: &str, data: Mark) -> Self {
        Self {
            address: address.to_owned(),
            data,
            day: jiff::Zoned::now().date(),
        }
    }
}

/// A page in the pieces between which its forms' word stands.
#[derive(Debug)]
struct Pieces {
    of: Of,
    between: Vec<String>,
}

/// The pages shown last.
#[derive(Debug)]
pub(crate) struct Shown(Mutex<LruCache<String, Pieces>>);

impl Default for Shown {
    fn default() -> Self {
        Self(Mutex::new(LruCache::new(KEPT)))
    }
}

impl Shown {
    /// The page, where it still stands as it was.
    pub(crate) fn again(&self, of: &Of) -> Option<HttpResponse> {
        let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
        let pieces = kept.get(&of.address).filter(|pieces| pieces.of == *of)?;
        let page = pieces.between.join(&fresh());
        drop(kept);
        let mut response = HttpResponse::Ok();
        response.content_type(ContentType::html());
        response.insert_header(("Cache-Control", HeaderValue::from_static("no-store")));
        Some(response.body(page))
    }

    /// Keeps a page that was made with this word in its forms, and hands it on.
    pub(crate) fn keep(&self, of: Of, press: &str, response: HttpResponse) -> HttpResponse {
        let (head, body) = response.into_parts();
        let body = match body.try_into_bytes() {
            Ok(body) => body,
            Err(body) => return head.set_body(body),
        };
        if let Ok(text) = std::str::from_utf8(&body) {
            let between = text.split(press).map(str::to_owned).collect();
            let mut kept = self.0.lock().unwrap_or_else(PoisonError::into_inner);
            kept.put(of.address.clone(), Pieces { of, between });
        }
        head.set_body(body).map_into_boxed_body()
    }
}
