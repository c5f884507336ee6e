//! Who comes in, from where, and what for: nothing of it is asked on this machine alone, all of it beyond.
//!
//! [`gate`] is the way every request takes; [`sessions`] keeps who is signed in; [`tls`] is what other machines are spoken to with.

pub(crate) mod gate;
pub(crate) mod sessions;
pub(crate) mod tls;

use std::future::{Ready, ready};
use std::net::Ipv6Addr;
use std::ops::Deref;

use actix_web::dev::Payload;
use actix_web::http::uri::Authority;
use actix_web::{FromRequest, HttpMessage, HttpRequest, web};
use gradimen_store::accounts::{Account, Deed};
use gradimen_store::journal::PRACTICE;
use gradimen_store::shop::KeptShop;
use gradimen_store::{Store, StoreError};

use crate::errors::Failure;

/// How the server may be spoken to.
#[derive(Debug, Clone, Default)]
pub struct Access {
    /// Whether anybody has to sign in.
    pub asks: bool,
    /// Names and addresses it answers to beside this machine's own.
    pub names: Vec<String>,
    /// The fingerprint of its certificate, where what is said is encrypted.
    pub fingerprint: Option<String>,
}

impl Access {
    /// Whether a Host header names this server.
    pub(crate) fn knows(&self, host: &str) -> bool {
        // Nobody signs in by an address: a name before the host is a disguise.
        let named = |host: &str| {
            matches!(host, "localhost" | "127.0.0.1" | "[::1]")
                || self
                    .names
                    .iter()
                    .any(|name| name.eq_ignore_ascii_case(host))
        };
        !host.contains('@')
            && host
                .parse::<Authority>()
                .is_ok_and(|authority| named(authority.host()))
    }

    /// Where a page of its own comes from.
    pub(crate) fn origin(&self, host: &str) -> String {
        let scheme = if self.fingerprint.is_some() {
            "https"
        } else {
            "http"
        };
        format!("{scheme}://{host}")
    }
}

/// Names and addresses as they stand in a Host header.
///
/// # Errors
/// For one that can stand in none.
pub(crate) fn names(given: &[String]) -> anyhow::Result<Vec<String>> {
    let host = |name: &String| {
        let written = match name.parse::<Ipv6Addr>() {
            Ok(_) => format!("[{name}]"),
            Err(_) => name.clone(),
        };
        let alone = written
            .parse::<Authority>()
            .is_ok_and(|authority| authority.host() == written && !written.contains('@'));
        anyhow::ensure!(
            alone,
            "--name: read \"{name}\", expected a name or an address alone, such as bench.local or 192.168.7.2"
        );
        Ok(written)
    };
    given.iter().map(host).collect()
}

/// Who is signed in, where somebody has to be.
#[derive(Debug, Clone)]
pub(crate) struct Hand {
    pub(crate) account: Account,
    /// The word that its forms carry.
    pub(crate) word: String,
}

/// The store in the hands of whoever asks: what is recorded through it carries the name. What is numbered as practice is kept in
/// data of its own.
pub(crate) struct Kept {
    store: Store,
    /// The shop's, whatever is in hand.
    shop: Store,
    /// Who that is; nobody where nobody is asked.
    pub(crate) hand: Option<Hand>,
}

impl Kept {
    /// Goes on where whoever asks may do that.
    ///
    /// # Errors
    /// [`Failure::Forbidden`] for a role that may not.
    pub(crate) fn may(&self, deed: Deed) -> Result<(), Failure> {
        let hand = self.hand.as_ref();
        // Whoever has come in may practise.
        let hand = hand.filter(|_| !self.is_practice());
        hand.map_or(Ok(()), |hand| gate::allowed(&hand.account, deed))
    }

    /// Whether what is in hand is only practised on.
    pub(crate) fn is_practice(&self) -> bool {
        self.store.is_practice()
    }

    /// What the shop keeps of itself, at the practice bench too.
    pub(crate) async fn shop(&self) -> Result<KeptShop, StoreError> {
        self.shop.shop().await
    }

    /// The jobs of the shop, where a practice job is in hand.
    pub(crate) const fn of_the_shop(&self) -> &Store {
        &self.shop
    }
}

impl Deref for Kept {
    type Target = Store;

    fn deref(&self) -> &Store {
        &self.store
    }
}

impl FromRequest for Kept {
    type Error = Failure;
    type Future = Ready<Result<Self, Failure>>;

    fn from_request(request: &HttpRequest, _: &mut Payload) -> Self::Future {
        let hand = request.extensions().get::<Hand>().cloned();
        let shop = request.app_data::<web::Data<Store>>();
        let practice = request.app_data::<web::Data<PracticeData>>();
        let held = |store: &Store| match &hand {
            Some(hand) => store.in_hands_of(&hand.account.name),
            None => store.clone(),
        };
        let kept = shop.zip(practice).map(|(shop, practice)| Self {
            store: if is_practice(request.match_info().as_str()) {
                held(&practice.0)
            } else {
                held(shop)
            },
            shop: held(shop),
            hand: hand.clone(),
        });
        ready(kept.ok_or_else(|| Failure::Other("the data are not open".to_owned())))
    }
}

/// The data of what is only practised on.
#[derive(Debug)]
pub(crate) struct PracticeData(pub(crate) Store);

/// Whether an address is of something that is only practised on.
pub(crate) fn is_practice(path: &str) -> bool {
    let mut parts = path.split('/').skip(1);
    match parts.next() {
        Some("practice") => true,
        Some("jobs" | "instruments") => parts
            .next()
            .and_then(|id| id.parse().ok())
            .is_some_and(|id: i64| id >= PRACTICE),
        _ => false,
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_address_tells_whether_it_is_practice() {
        for practice in [
            "/practice",
            "/practice/card",
            "/jobs/1000000001/relief",
            "/instruments/1000000002/open",
        ] {
            assert!(is_practice(practice), "{practice}");
        }
        for shop in [
            "/",
            "/jobs/1",
            "/jobs/practice",
            "/instruments/999",
            "/shop",
            "/jobs/-1",
        ] {
            assert!(!is_practice(shop), "{shop}");
        }
    }

    #[test]
    fn knows_its_own_names() {
        let here = Access::default();
        for own in [
            "localhost",
            "localhost:8626",
            "127.0.0.1:1",
            "[::1]:8626",
            "[::1]",
        ] {
            assert!(here.knows(own), "{own}");
        }
        for foreign in [
            "",
            "example.org",
            "localhost.example.org:8626",
            "127.0.0.1.example.org",
            "10.0.0.3:80",
            "me@localhost",
            "localhost:8626/evil",
            "[::2]:8626",
            "127.0.0.1:1:2",
        ] {
            assert!(!here.knows(foreign), "{foreign}");
        }
        let shop = Access {
            names: vec!["bench.local".to_owned(), "10.0.0.3".to_owned()],
            ..Access::default()
        };
        assert!(
            shop.knows("bench.local:8626")
                && shop.knows("BENCH.local")
                && shop.knows("10.0.0.3:8626")
        );
        let written = |name: &str| names(&[name.to_owned()]);
        assert_eq!(written("fe80::1").unwrap(), ["[fe80::1]"]);
        for wrong in ["bench.local:8626", "https://bench", "", "me@bench", "a b"] {
            assert!(written(wrong).is_err(), "{wrong}");
        }
        assert!(
            !shop.knows("10.0.0.31:8626")
                && !shop.knows("evil.bench.local")
                && !shop.knows("me@bench.local")
        );
    }
}
