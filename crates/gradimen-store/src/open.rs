//! Opening the file: look before touching, lock, migrate.

use std::fs::{File, TryLockError, create_dir_all};
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::time::Duration;

use sqlx::migrate::Migrator;
use sqlx::sqlite::{
    SqliteConnectOptions, SqliteJournalMode, SqlitePool, SqlitePoolOptions, SqliteSynchronous,
};
use sqlx::{ConnectOptions, Connection};

use crate::StoreError;

static MIGRATOR: Migrator = sqlx::migrate!();

/// First bytes of every SQLite file.
const MAGIC: &[u8; 16] = b"SQLite format 3\0";
/// 'GRAD' in the header's application id.
const APPLICATION_ID: [u8; 4] = *b"GRAD";
const APPLICATION_ID_AT: usize = 68;
const HEADER: usize = 100;
/// Name of the one file of data.
const FILE: &str = "gradimen.db";
/// Held while a process has the data open; released by the system however the process ends.
const LOCK: &str = "gradimen.lock";
/// Readers of a bench are few; writers queue inside SQLite.
const CONNECTIONS: u32 = 4;

/// The open data file.
#[derive(Debug, Clone)]
pub struct Store {
    pub(crate) pool: SqlitePool,
    _lock: Arc<File>,
}

impl Store {
    /// Opens (or begins) the data in a folder. A file that is damaged, foreign or newer than this
    /// program is refused and left untouched.
    ///
    /// # Errors
    /// [`StoreError`] with the reason.
    pub async fn open(folder: &Path) -> Result<Self, StoreError> {
        create_dir_all(folder).map_err(|error| StoreError::File {
            path: folder.to_owned(),
            error,
        })?;
        let path = folder.join(FILE);
        let lock = lock(&folder.join(LOCK))?;
        look(&path).await?;
        let options = SqliteConnectOptions::new()
            .filename(&path)
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            .foreign_keys(true)
            .busy_timeout(Duration::from_secs(5));
        let pool = SqlitePoolOptions::new()
            .max_connections(CONNECTIONS)
            .connect_with(options)
            .await?;
        MIGRATOR
            .run(&pool)
            .await
            .map_err(|error| StoreError::Damaged {
                path,
                what: error.to_string(),
            })?;
        Ok(Self {
            pool,
            _lock: Arc::new(lock),
        })
    }

    /// Closes the file; pending readers are waited for.
    pub async fn close(self) {
        self.pool.close().await;
    }
}

fn lock(path: &Path) -> Result<File, StoreError> {
    let of = |error| StoreError::File {
        path: path.to_owned(),
        error,
    };
    let file = File::create(path).map_err(of)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(StoreError::InUse(path.with_file_name(FILE))),
        Err(TryLockError::Error(error)) => Err(of(error)),
    }
}

/// Looks at an existing file read-only: is it ours, sound, and not from the future?
async fn look(path: &PathBuf) -> Result<(), StoreError> {
    let Ok(mut file) = File::open(path) else {
        return Ok(());
    };
    let mut header = [0_u8; HEADER];
    let read = file.read(&mut header).map_err(|error| StoreError::File {
        path: path.clone(),
        error,
    })?;
    if read == 0 {
        return Ok(());
    }
    let ours = header[APPLICATION_ID_AT..APPLICATION_ID_AT + 4] == APPLICATION_ID;
    if read < HEADER || &header[..16] != MAGIC {
        return Err(StoreError::Foreign(path.clone()));
    }
    let mut connection = SqliteConnectOptions::new()
        .filename(path)
        .read_only(true)
        .connect()
        .await
        .map_err(|error| damaged(path, &error))?;
    // The id may still stand in the write-ahead log when the first start was cut short.
    if !ours {
        let id: i64 = sqlx::query_scalar("PRAGMA application_id")
            .fetch_one(&mut connection)
            .await
            .map_err(|error| damaged(path, &error))?;
        if id != i64::from(u32::from_be_bytes(APPLICATION_ID)) {
            return Err(StoreError::Foreign(path.clone()));
        }
    }
    let verdict: String = sqlx::query_scalar("PRAGMA quick_check(1)")
        .fetch_one(&mut connection)
        .await
        .map_err(|error| damaged(path, &error))?;
    if verdict != "ok" {
        return Err(StoreError::Damaged {
            path: path.clone(),
            what: verdict,
        });
    }
    let found: Option<i64> = sqlx::query_scalar("SELECT max(version) FROM _sqlx_migrations")
        .fetch_one(&mut connection)
        .await
        .map_err(|error| damaged(path, &error))?;
    connection
        .close()
        .await
        .map_err(|error| damaged(path, &error))?;
    let known = MIGRATOR
        .iter()
        .map(|migration| migration.version)
        .max()
        .unwrap_or(0);
    match found {
        Some(found) if found > known => Err(StoreError::Newer {
            path: path.clone(),
            found,
            known,
        }),
        _ => Ok(()),
    }
}

fn damaged(path: &Path, error: &sqlx::Error) -> StoreError {
    StoreError::Damaged {
        path: path.to_owned(),
        what: error.to_string(),
    }
}
