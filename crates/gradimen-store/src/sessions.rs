//! Who is signed in. The file holds a hash of what the browser holds: who reads the file cannot sign in with it.

use jiff::Timestamp;

use crate::accounts::{Account, account};
use crate::{Store, StoreError, sums};

/// Unused for so long, a session ends, in seconds: a bench is opened every morning.
pub const IDLE: i64 = 12 * 3600;
/// So long after it began it ends in any case.
pub const LONGEST: i64 = 7 * 24 * 3600;
/// How exactly it is known when one was used last: not every page is a write.
const NOTICED: i64 = 300;

/// A device that is signed in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Session {
    /// What it called itself.
    pub device: String,
    /// Since when.
    pub began: Timestamp,
    /// Used last, to within minutes.
    pub seen: Timestamp,
}

fn hashed(key: &str) -> String {
    sums::of_words(std::iter::once(key))
}

impl Store {
    /// The bytes that sign cookies: made once, kept with the data.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read or written.
    pub async fn cookie_key(&self) -> Result<Vec<u8>, StoreError> {
        let fresh = crate::accounts::random_word(64)?.into_bytes();
        self.write(async |file| {
            sqlx::query("INSERT INTO cookie_key (one, bytes) VALUES (1, ?) ON CONFLICT DO NOTHING")
                .bind(fresh)
                .execute(&mut *file)
                .await?;
            let kept = sqlx::query_scalar("SELECT bytes FROM cookie_key")
                .fetch_one(&mut *file)
                .await?;
            Ok(kept)
        })
        .await
    }

    /// Begins a session.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be written.
    pub async fn begin_session(
        &self,
        key: &str,
        name: &str,
        device: &str,
        state: &str,
        now: Timestamp,
    ) -> Result<(), StoreError> {
        self.write(async |file| {
            sqlx::query("DELETE FROM session WHERE began < ? OR seen < ?")
                .bind(now.as_second() - LONGEST)
                .bind(now.as_second() - IDLE)
                .execute(&mut *file)
                .await?;
            sqlx::query("INSERT INTO session (key_hash, account, state, device, began, seen) VALUES (?, ?, ?, ?, ?5, ?5)")
                .bind(hashed(key))
                .bind(name)
                .bind(state)
                .bind(device)
                .bind(now.as_second())
                .execute(&mut *file)
                .await?;
            Ok(())
        })
        .await
    }

    /// What a session holds, while it lasts.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn session(&self, key: &str, now: Timestamp) -> Result<Option<String>, StoreError> {
        let now = now.as_second();
        let found: Option<(String, i64)> = sqlx::query_as(
            "SELECT state, seen FROM session WHERE key_hash = ? AND began >= ? AND seen >= ?",
        )
        .bind(hashed(key))
        .bind(now - LONGEST)
        .bind(now - IDLE)
        .fetch_optional(&self.readers)
        .await?;
        let Some((state, seen)) = found else {
            return Ok(None);
        };
        if now - seen > NOTICED {
            // Where there is no room for it, looking goes on.
            let noticed = self.write(async |file| {
                sqlx::query("UPDATE session SET seen = ? WHERE key_hash = ?")
                    .bind(now)
                    .bind(hashed(key))
                    .execute(&mut *file)
                    .await?;
                Ok(())
            });
            drop(noticed.await);
        }
        Ok(Some(state))
    }

    /// Changes what a session holds.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be written.
    pub async fn change_session(&self, key: &str, state: &str) -> Result<(), StoreError> {
        self.write(async |file| {
            sqlx::query("UPDATE session SET state = ? WHERE key_hash = ?")
                .bind(state)
                .bind(hashed(key))
                .execute(&mut *file)
                .await?;
            Ok(())
        })
        .await
    }

    /// Ends a session.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be written.
    pub async fn end_session(&self, key: &str) -> Result<(), StoreError> {
        self.write(async |file| {
            sqlx::query("DELETE FROM session WHERE key_hash = ?")
                .bind(hashed(key))
                .execute(&mut *file)
                .await?;
            Ok(())
        })
        .await
    }

    /// Ends every session of an account, and any code that would begin one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be written.
    pub async fn sign_out_everywhere(&self, name: &str) -> Result<(), StoreError> {
        self.write(async |file| {
            for query in [
                "DELETE FROM session WHERE account = ?",
                "DELETE FROM pairing WHERE account = ?",
            ] {
                sqlx::query(query).bind(name).execute(&mut *file).await?;
            }
            Ok(())
        })
        .await
    }

    /// The account of that name as it is now, and the word that every form of its pages carries: it hangs on the account and its
    /// password, so that a page outlives its session, but not the account.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn account(&self, name: &str) -> Result<Option<(Account, String)>, StoreError> {
        let found: Option<(String, String, String, Vec<u8>)> = sqlx::query_as(
            "SELECT name, role, secret, (SELECT bytes FROM cookie_key) FROM account WHERE name = ?",
        )
        .bind(name)
        .fetch_optional(&self.readers)
        .await?;
        Ok(found.map(|(name, role, secret, key)| {
            let key = String::from_utf8_lossy(&key);
            let word = sums::of_words(["form", &key, &name, &secret].into_iter());
            (account((name, role)), word)
        }))
    }

    /// The devices an account is signed in on, the last used first.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn sessions(&self, name: &str, now: Timestamp) -> Result<Vec<Session>, StoreError> {
        let rows: Vec<(String, i64, i64)> = sqlx::query_as(
            "SELECT device, began, seen FROM session WHERE account = ? AND began >= ? AND seen >= ? ORDER BY seen DESC",
        )
        .bind(name)
        .bind(now.as_second() - LONGEST)
        .bind(now.as_second() - IDLE)
        .fetch_all(&self.readers)
        .await?;
        let at = |second| Timestamp::from_second(second).unwrap_or(Timestamp::UNIX_EPOCH);
        let sessions = rows.into_iter().map(|(device, began, seen)| Session {
            device,
            began: at(began),
            seen: at(seen),
        });
        Ok(sessions.collect())
    }
}
