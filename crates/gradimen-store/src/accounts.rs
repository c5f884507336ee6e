//! Who may sign in: accounts with a role and an argon2id hash, how often signing in may fail, and codes that pair a device.
//!
//! Argon2id with the parameters of its crate (19 MiB, two passes: the first recommendation of the password storage cheat sheet of
//! OWASP, from memory). A failed attempt is counted before the hash is worked out, so that attempts side by side count too.

use std::net::IpAddr;
use std::path::Path;
use std::str::FromStr;
use std::sync::OnceLock;

use argon2::Argon2;
use argon2::password_hash::{PasswordHasher, PasswordVerifier, phc::PasswordHash};
use jiff::Timestamp;
use sqlx::sqlite::SqliteConnectOptions;
use sqlx::{ConnectOptions, Connection, SqliteConnection};

use crate::attempts::{counted, counts, forgiven};
use crate::files::FILE;
use crate::{Store, StoreError, open, sums};

/// What somebody may do.
#[derive(
    Debug,
    Clone,
    Copy,
    PartialEq,
    Eq,
    Hash,
    strum::EnumString,
    strum::IntoStaticStr,
    strum::VariantArray,
)]
#[strum(serialize_all = "snake_case")]
pub enum Role {
    /// Everything.
    Technician,
    /// Take in, look, hand over; no readings, no moves.
    Counter,
    /// Look.
    Viewer,
}

/// What is done, as far as roles go.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord)]
pub enum Deed {
    /// Looking at jobs, records, sheets.
    Look,
    /// Taking an instrument in, its record, and what is handed over.
    TakeIn,
    /// Readings and moves, the shop's own settings, all of the data, other people's accounts.
    Work,
}

impl Role {
    /// All there are.
    pub fn all() -> &'static [Self] {
        <Self as strum::VariantArray>::VARIANTS
    }

    /// As it is written: `technician`.
    pub fn key(self) -> &'static str {
        self.into()
    }

    /// Whether it may do that.
    pub fn may(self, deed: Deed) -> bool {
        let most = match self {
            Self::Technician => Deed::Work,
            Self::Counter => Deed::TakeIn,
            Self::Viewer => Deed::Look,
        };
        deed <= most
    }
}

/// Somebody who may sign in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Account {
    /// What stands beside every entry.
    pub name: String,
    /// What for.
    pub role: Role,
}

/// What came of signing in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum SignIn {
    /// It is this one.
    In(Account),
    /// No such name, or another password; which of them is not told.
    Wrong,
    /// Too often wrong: refused for so many seconds, whatever is typed.
    Wait(i64),
}

/// A shorter password is guessed.
pub const SHORTEST: usize = 10;
/// A longer one is no password.
const LONGEST: usize = 200;
/// A name is shown beside every entry.
const LONGEST_NAME: usize = 40;
/// A code is worth this long, in seconds.
pub const CODE_LASTS: i64 = 300;
/// Letters of a code: none that look like another.
const LETTERS: &[u8; 32] = b"23456789ABCDEFGHJKLMNPQRSTUVWXYZ";

fn checked(name: &str, password: &str) -> Result<(), StoreError> {
    let fits = (1..=LONGEST_NAME).contains(&name.chars().count());
    if !fits
        || name.trim() != name
        || name
            .chars()
            .any(|letter| letter.is_control() || letter == '|')
    {
        return Err(StoreError::Account(format!(
            "name: read \"{}\", expected 1 to {LONGEST_NAME} letters without a space at its ends",
            name.chars().take(LONGEST_NAME).collect::<String>()
        )));
    }
    let length = password.chars().count();
    if !(SHORTEST..=LONGEST).contains(&length) {
        return Err(StoreError::Account(format!(
            "password: read {length} letters, expected {SHORTEST} to {LONGEST}"
        )));
    }
    Ok(())
}

/// So many random bytes, in hexadecimal.
///
/// # Errors
/// [`StoreError::Account`] where the system gives none.
pub fn random_word(bytes: usize) -> Result<String, StoreError> {
    let drawn = drawn(bytes)?;
    Ok(drawn.iter().map(|byte| format!("{byte:02x}")).collect())
}

fn drawn(bytes: usize) -> Result<Vec<u8>, StoreError> {
    let mut drawn = vec![0; bytes];
    getrandom::fill(&mut drawn).map_err(|error| {
        StoreError::Account(format!("the system gives no random numbers: {error}"))
    })?;
    Ok(drawn)
}

async fn hashed(password: &str) -> Result<String, StoreError> {
    let password = password.to_owned();
    let hash = tokio::task::spawn_blocking(move || {
        let hash = Argon2::default().hash_password(password.as_bytes());
        hash.map(|hash| hash.to_string())
    });
    let hash = hash
        .await
        .map_err(|error| StoreError::Account(error.to_string()))?;
    hash.map_err(|error| StoreError::Account(error.to_string()))
}

/// A hash of nothing, so that a name that is not there takes as long.
static NOBODY: OnceLock<String> = OnceLock::new();

fn nobody() -> String {
    let hash = || {
        Argon2::default()
            .hash_password(b"nobody")
            .map(|hash| hash.to_string())
    };
    NOBODY.get_or_init(|| hash().unwrap_or_default()).clone()
}

async fn fits(password: &str, secret: Option<String>) -> bool {
    let password = password.to_owned();
    let known = secret.is_some();
    let check = tokio::task::spawn_blocking(move || {
        let secret = secret.unwrap_or_else(nobody);
        let hash = PasswordHash::new(&secret);
        hash.is_ok_and(|hash| {
            Argon2::default()
                .verify_password(password.as_bytes(), &hash)
                .is_ok()
        })
    });
    check.await.unwrap_or(false) && known
}

/// The file of a folder, to change its accounts while the program may be running.
///
/// # Errors
/// [`StoreError`] where there is no data, or of a form that has no accounts yet and cannot be brought up to it.
pub async fn beside(folder: &Path) -> Result<SqliteConnection, StoreError> {
    let file = folder.join(FILE);
    match Store::open(folder).await {
        // Nobody has it open: it is there now, and in today's form.
        Ok(store) => store.close().await?,
        Err(StoreError::InUse(_)) => {
            open::look(&file).await?;
        }
        Err(other) => return Err(other),
    }
    let options = SqliteConnectOptions::new()
        .filename(&file)
        .foreign_keys(true)
        .busy_timeout(std::time::Duration::from_secs(5));
    Ok(options.connect().await?)
}

/// Adds an account.
///
/// # Errors
/// [`StoreError::Account`] for a name that is taken, or what is no name or password.
pub async fn add(
    connection: &mut SqliteConnection,
    name: &str,
    role: Role,
    password: &str,
    now: Timestamp,
) -> Result<(), StoreError> {
    checked(name, password)?;
    let secret = hashed(password).await?;
    let done = sqlx::query(
        "INSERT INTO account (name, role, secret, made_at) VALUES (?, ?, ?, ?) ON CONFLICT DO NOTHING",
    )
    .bind(name)
    .bind(role.key())
    .bind(secret)
    .bind(now.to_string())
    .execute(connection)
    .await?;
    if done.rows_affected() == 0 {
        return Err(StoreError::Account(format!(
            "there is an account \"{name}\" already"
        )));
    }
    Ok(())
}

/// Removes an account; who was signed in with it is signed out.
///
/// # Errors
/// [`StoreError::Account`] where there is none of that name.
pub async fn remove(connection: &mut SqliteConnection, name: &str) -> Result<(), StoreError> {
    let done = sqlx::query("DELETE FROM account WHERE name = ?")
        .bind(name)
        .execute(connection)
        .await?;
    named(done.rows_affected(), name)
}

/// Gives an account another password; who was signed in with it is signed out.
///
/// # Errors
/// [`StoreError::Account`] where there is none of that name, or for what is no password.
pub async fn reset(
    connection: &mut SqliteConnection,
    name: &str,
    password: &str,
) -> Result<(), StoreError> {
    checked(name, password)?;
    let secret = hashed(password).await?;
    let mut transaction = connection.begin().await?;
    let done = sqlx::query("UPDATE account SET secret = ? WHERE name = ?")
        .bind(secret)
        .bind(name)
        .execute(&mut *transaction)
        .await?;
    named(done.rows_affected(), name)?;
    sqlx::query("DELETE FROM session WHERE account = ?")
        .bind(name)
        .execute(&mut *transaction)
        .await?;
    sqlx::query("DELETE FROM pairing WHERE account = ?")
        .bind(name)
        .execute(&mut *transaction)
        .await?;
    // Whoever locked it out is let in with the new one.
    sqlx::query("DELETE FROM attempt WHERE who = ?1 OR who LIKE ?1 || '|%'")
        .bind(name)
        .execute(&mut *transaction)
        .await?;
    Ok(transaction.commit().await?)
}

fn named(rows: u64, name: &str) -> Result<(), StoreError> {
    match rows {
        0 => Err(StoreError::Account(format!(
            "there is no account \"{name}\""
        ))),
        _ => Ok(()),
    }
}

/// All accounts, by name.
///
/// # Errors
/// [`StoreError`] when the file cannot be read.
pub async fn all(connection: &mut SqliteConnection) -> Result<Vec<Account>, StoreError> {
    let rows: Vec<(String, String)> =
        sqlx::query_as("SELECT name, role FROM account ORDER BY name")
            .fetch_all(connection)
            .await?;
    Ok(rows.into_iter().map(account).collect())
}

/// A role that a later program may know is none of today's: it may look.
pub(crate) fn account((name, role): (String, String)) -> Account {
    Account {
        name,
        role: Role::from_str(&role).unwrap_or(Role::Viewer),
    }
}

impl Store {
    /// All accounts, by name.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn accounts(&self) -> Result<Vec<Account>, StoreError> {
        let mut connection = self.readers.acquire().await?;
        all(&mut connection).await
    }

    /// Signs somebody in from an address.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read or written.
    pub async fn sign_in(
        &self,
        name: &str,
        password: &str,
        from: IpAddr,
        now: Timestamp,
    ) -> Result<SignIn, StoreError> {
        // What can be nobody's name counts for the address alone.
        let named = ((1..=LONGEST_NAME).contains(&name.chars().count()) && !name.contains('|'))
            .then_some(name);
        let tried = counted(named, from);
        let now = now.as_second();
        let refused = self
            .write(async |file| counts(file, &tried, now).await)
            .await?;
        if let Some(seconds) = refused {
            return Ok(SignIn::Wait(seconds));
        }
        let found: Option<(String, String, String)> =
            sqlx::query_as("SELECT name, role, secret FROM account WHERE name = ?")
                .bind(name)
                .fetch_optional(&self.readers)
                .await?;
        let secret = found.as_ref().map(|(.., secret)| secret.clone());
        let right = password.chars().count() <= LONGEST && fits(password, secret).await;
        let Some((name, role, _)) = found.filter(|_| right) else {
            return Ok(SignIn::Wrong);
        };
        self.write(async |file| forgiven(file, &tried, now).await)
            .await?;
        Ok(SignIn::In(account((name, role))))
    }

    /// A code that signs one device in with this account, once, within a few minutes.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be written.
    pub async fn pairing_code(&self, name: &str, now: Timestamp) -> Result<String, StoreError> {
        let letters = drawn(8)?;
        let letters = letters.iter().map(|byte| LETTERS[usize::from(byte % 32)]);
        let code: String = letters.map(char::from).collect();
        let hash = sums::of_words(std::iter::once(code.as_str()));
        self.write(async |file| {
            sqlx::query("DELETE FROM pairing WHERE until < ? OR account = ?")
                .bind(now.as_second())
                .bind(name)
                .execute(&mut *file)
                .await?;
            sqlx::query("INSERT INTO pairing (code_hash, account, until) VALUES (?, ?, ?)")
                .bind(hash)
                .bind(name)
                .bind(now.as_second() + CODE_LASTS)
                .execute(&mut *file)
                .await?;
            Ok(())
        })
        .await?;
        Ok(code)
    }

    /// Signs a device in by such a code.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read or written.
    pub async fn pair(
        &self,
        code: &str,
        from: IpAddr,
        now: Timestamp,
    ) -> Result<SignIn, StoreError> {
        let tried = counted(None, from);
        let now = now.as_second();
        let typed = code.chars().filter(|letter| letter.is_ascii_alphanumeric());
        let typed: String = typed
            .map(|letter| letter.to_ascii_uppercase())
            .take(20)
            .collect();
        let hash = sums::of_words(std::iter::once(typed.as_str()));
        self.write(async |file| {
            if let Some(seconds) = counts(file, &tried, now).await? {
                return Ok(SignIn::Wait(seconds));
            }
            let found: Option<(String, String)> = sqlx::query_as(
                "DELETE FROM pairing WHERE code_hash = ? AND until >= ? RETURNING account, (SELECT role FROM account WHERE name = pairing.account)",
            )
            .bind(&hash)
            .bind(now)
            .fetch_optional(&mut *file)
            .await?;
            let Some(found) = found else {
                return Ok(SignIn::Wrong);
            };
            forgiven(file, &tried, now).await?;
            Ok(SignIn::In(account(found)))
        })
        .await
    }
}
