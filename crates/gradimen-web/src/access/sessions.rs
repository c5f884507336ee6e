//! Sessions of the browser, kept in the data file. The cookie is encrypted and signed; the file holds only a hash of what is in it.

use std::collections::HashMap;

use actix_session::SessionMiddleware;
use actix_session::config::{CookieContentSecurity, PersistentSession, TtlExtensionPolicy};
use actix_session::storage::{LoadError, SaveError, SessionKey, SessionStore, UpdateError};
use actix_web::cookie::time::Duration;
use actix_web::cookie::{Key, SameSite};
use anyhow::anyhow;
use gradimen_store::{Store, accounts, sessions};
use jiff::Timestamp;

/// What a session holds: whose it is, and what the device calls itself.
pub(crate) const ACCOUNT: &str = "account";
pub(crate) const DEVICE: &str = "device";

/// Sessions in the data file.
pub(crate) struct InFile(Store);

type State = HashMap<String, String>;

/// A value of the state, which holds JSON.
fn value(state: &State, name: &str) -> String {
    let raw = state.get(name).map_or("\"\"", String::as_str);
    serde_json::from_str(raw).unwrap_or_default()
}

impl SessionStore for InFile {
    async fn load(&self, key: &SessionKey) -> Result<Option<State>, LoadError> {
        let found = self.0.session(key.as_ref(), Timestamp::now()).await;
        let found = found.map_err(|error| LoadError::Other(error.into()))?;
        let state = found.map(|state| serde_json::from_str(&state)).transpose();
        state.map_err(|error| LoadError::Deserialization(error.into()))
    }

    async fn save(&self, state: State, _: &Duration) -> Result<SessionKey, SaveError> {
        let text = serde_json::to_string(&state)
            .map_err(|error| SaveError::Serialization(error.into()))?;
        let key = accounts::random_word(32).map_err(|error| SaveError::Other(error.into()))?;
        let (name, device) = (value(&state, ACCOUNT), value(&state, DEVICE));
        self.0
            .begin_session(&key, &name, &device, &text, Timestamp::now())
            .await
            .map_err(|error| SaveError::Other(error.into()))?;
        let key = SessionKey::try_from(key);
        key.map_err(|error| SaveError::Other(anyhow!(error)))
    }

    async fn update(
        &self,
        key: SessionKey,
        state: State,
        _: &Duration,
    ) -> Result<SessionKey, UpdateError> {
        let text = serde_json::to_string(&state)
            .map_err(|error| UpdateError::Serialization(error.into()))?;
        let done = self.0.change_session(key.as_ref(), &text).await;
        done.map_err(|error| UpdateError::Other(error.into()))?;
        Ok(key)
    }

    async fn update_ttl(&self, _: &SessionKey, _: &Duration) -> Result<(), anyhow::Error> {
        // How long it lasts is the file's to say.
        Ok(())
    }

    async fn delete(&self, key: &SessionKey) -> Result<(), anyhow::Error> {
        Ok(self.0.end_session(key.as_ref()).await?)
    }
}

/// Sessions by a cookie that no script reads, no other site sends, and that goes over an encrypted line alone where there is one.
pub(crate) fn by_cookie(store: Store, key: &[u8], encrypted: bool) -> SessionMiddleware<InFile> {
    let lasts = PersistentSession::default()
        .session_ttl(Duration::seconds(sessions::LONGEST))
        .session_ttl_extension_policy(TtlExtensionPolicy::OnStateChanges);
    SessionMiddleware::builder(InFile(store), Key::from(key))
        .cookie_name(
            if encrypted {
                "__Host-gradimen"
            } else {
                "gradimen"
            }
            .to_owned(),
        )
        .cookie_secure(encrypted)
        .cookie_http_only(true)
        .cookie_same_site(SameSite::Strict)
        .cookie_content_security(CookieContentSecurity::Private)
        .session_lifecycle(lasts)
        .build()
}
