//! Opening the file: look before touching, lock, migrate.

use std::fs::{self, File, OpenOptions, TryLockError};
use std::io::Read;
use std::path::{Path, PathBuf};
use std::sync::Arc;
use std::sync::atomic::{AtomicU64, Ordering};
use std::time::{Duration, SystemTime};

use sqlx::migrate::{Migration, MigrationType, Migrator};
use sqlx::sqlite::{
    SqliteConnectOptions, SqliteConnection, SqliteJournalMode, SqlitePool, SqlitePoolOptions,
    SqliteSynchronous,
};
use sqlx::{ConnectOptions, Connection};

use crate::StoreError;
use crate::files::{FILE, private, private_folder, take_place};
use crate::sums;
use crate::worked::Cache;

/// The steps that make a file what it is today; one that was taken is never changed.
const MIGRATIONS: [(i64, &str, &str); 7] = [
    (1, "start", include_str!("../migrations/0001_start.sql")),
    (2, "groups", include_str!("../migrations/0002_groups.sql")),
    (3, "words", include_str!("../migrations/0003_words.sql")),
    (4, "shop", include_str!("../migrations/0004_shop.sql")),
    (5, "due", include_str!("../migrations/0005_due.sql")),
    (6, "sums", include_str!("../migrations/0006_sums.sql")),
    (
        7,
        "accounts",
        include_str!("../migrations/0007_accounts.sql"),
    ),
];

fn migrator() -> Migrator {
    let step = |(version, name, sql): (i64, &'static str, &'static str)| {
        let sql = sqlx::SqlStr::from_static(sql);
        Migration::new(version, name.into(), MigrationType::Simple, sql, false)
    };
    Migrator {
        migrations: MIGRATIONS.into_iter().map(step).collect::<Vec<_>>().into(),
        ..Migrator::DEFAULT
    }
}

/// From this form on every entry has its sum.
const SUMMED: i64 = 6;
/// First bytes of every SQLite file.
const MAGIC: &[u8; 16] = b"SQLite format 3\0";
/// 'GRAD' in the header's application id.
const APPLICATION_ID: [u8; 4] = *b"GRAD";
const APPLICATION_ID_AT: usize = 68;
const HEADER: usize = 100;
/// Held while a process has the data open; released by the system however the process ends.
const LOCK: &str = "gradimen.lock";
/// What SQLite appends to the name of the file that holds what is not folded into it yet.
const WAL: &str = "-wal";
/// Readers of a bench are few, and a busy writer must not keep them waiting: they have connections of
/// their own.
const READERS: u32 = 4;

/// How far the data have come: see [`Store::mark`].
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Mark {
    writes: u64,
    log: Option<(Option<SystemTime>, u64)>,
}

/// The open data file.
#[derive(Debug, Clone)]
pub struct Store {
    pub(crate) readers: SqlitePool,
    writer: SqlitePool,
    pub(crate) cache: Cache,
    pub(crate) folder: PathBuf,
    /// How often this process has written.
    writes: Arc<AtomicU64>,
    /// In whose hands it is, where somebody signed in.
    pub(crate) by: Option<Arc<str>>,
    /// The first number of its instruments and jobs.
    pub(crate) first: i64,
    _lock: Arc<File>,
}

impl Store {
    /// Opens (or begins) the data in a folder. A file that is damaged, foreign or newer than this
    /// program is refused and left untouched.
    ///
    /// # Errors
    /// [`StoreError`] with the reason.
    pub async fn open(folder: &Path) -> Result<Self, StoreError> {
        Self::open_from(folder, 1).await
    }

    /// The same for data whose instruments and jobs are numbered from here on, so that a number tells whose it is.
    ///
    /// # Errors
    /// As [`Self::open`].
    pub async fn open_from(folder: &Path, first: i64) -> Result<Self, StoreError> {
        private_folder(folder)?;
        let path = folder.join(FILE);
        orphaned(&path)?;
        let lock = lock(&folder.join(LOCK))?;
        let put_back = take_place(folder, jiff::Timestamp::now())?.is_some();
        let form = look(&path).await?;
        private(&path)?;
        let options = SqliteConnectOptions::new()
            .filename(&path)
            .create_if_missing(true)
            .journal_mode(SqliteJournalMode::Wal)
            .synchronous(SqliteSynchronous::Full)
            .foreign_keys(true)
            .busy_timeout(Duration::from_secs(5));
        let writer = SqlitePoolOptions::new()
            .max_connections(1)
            .connect_with(options.clone())
            .await?;
        migrator()
            .run(&writer)
            .await
            .map_err(|error| StoreError::Damaged {
                path,
                what: error.to_string(),
            })?;
        if form.is_some_and(|form| form < SUMMED) {
            let mut connection = writer.acquire().await?;
            in_transaction(&mut connection, sums::catch_up).await?;
        }
        if put_back {
            // Who was signed in when the copy was made may have been signed out since.
            let mut connection = writer.acquire().await?;
            in_transaction(&mut connection, end_sessions).await?;
        }
        let readers = SqlitePoolOptions::new()
            .max_connections(READERS)
            .connect_lazy_with(options.create_if_missing(false).read_only(true));
        Ok(Self {
            readers,
            writer,
            cache: Cache::new(),
            folder: folder.to_owned(),
            writes: Arc::default(),
            by: None,
            first,
            _lock: Arc::new(lock),
        })
    }

    /// Whether these are the data of what is only practised on.
    pub const fn is_practice(&self) -> bool {
        self.first >= crate::journal::PRACTICE
    }

    /// Does some work in one transaction: all of it is written, or nothing.
    ///
    /// A connection on which anything failed is thrown away. SQLite takes a transaction back by itself
    /// when the disk is full, and a connection that still counts itself inside it can never write again.
    ///
    /// # Errors
    /// What the work or the commit gives.
    pub(crate) async fn write<T>(
        &self,
        work: impl AsyncFnOnce(&mut SqliteConnection) -> Result<T, StoreError>,
    ) -> Result<T, StoreError> {
        let mut connection = self.writer.acquire().await?;
        let done = in_transaction(&mut connection, work).await;
        if done.is_err() {
            connection.close_on_drop();
        }
        // Before anybody is told that it was written.
        self.writes.fetch_add(1, Ordering::Release);
        done
    }

    /// A mark that is another one once anything was written: by this process, or beside it into the same data.
    ///
    /// Asked before something is read, it tells later whether that still stands, for the price of looking at a file's age and length.
    pub fn mark(&self) -> Mark {
        let log = self.folder.join(format!("{FILE}{WAL}"));
        Mark {
            writes: self.writes.load(Ordering::Acquire),
            log: fs::metadata(log)
                .ok()
                .map(|log| (log.modified().ok(), log.len())),
        }
    }

    /// Folds everything into the one file and closes it; pending readers are waited for.
    ///
    /// # Errors
    /// [`StoreError::Database`] when the file cannot be folded; nothing is lost then, it stands in the
    /// file beside it.
    pub async fn close(self) -> Result<(), StoreError> {
        self.readers.close().await;
        let folded = sqlx::query("PRAGMA wal_checkpoint(TRUNCATE)")
            .execute(&self.writer)
            .await;
        self.writer.close().await;
        folded?;
        Ok(())
    }
}

async fn in_transaction<T>(
    connection: &mut SqliteConnection,
    work: impl AsyncFnOnce(&mut SqliteConnection) -> Result<T, StoreError>,
) -> Result<T, StoreError> {
    let mut transaction = connection.begin_with("BEGIN IMMEDIATE").await?;
    let done = work(&mut transaction).await?;
    transaction.commit().await?;
    Ok(done)
}

/// Ends every session there is, and every code that would begin one.
async fn end_sessions(file: &mut SqliteConnection) -> Result<(), StoreError> {
    for query in ["DELETE FROM session", "DELETE FROM pairing"] {
        sqlx::query(query).execute(&mut *file).await?;
    }
    Ok(())
}

/// What was written last may stand in the log beside the file. Where the file itself is gone or empty,
/// SQLite would begin anew and throw that log away.
fn orphaned(path: &Path) -> Result<(), StoreError> {
    let size = |path: &Path| std::fs::metadata(path).map_or(0, |found| found.len());
    let mut log = path.as_os_str().to_owned();
    log.push(WAL);
    if size(path) == 0 && size(Path::new(&log)) > 0 {
        return Err(StoreError::Orphaned(path.to_owned()));
    }
    Ok(())
}

fn lock(path: &Path) -> Result<File, StoreError> {
    let of = |error| StoreError::File {
        path: path.to_owned(),
        error,
    };
    private(path)?;
    let file = OpenOptions::new().write(true).open(path).map_err(of)?;
    match file.try_lock() {
        Ok(()) => Ok(file),
        Err(TryLockError::WouldBlock) => Err(StoreError::InUse(path.with_file_name(FILE))),
        Err(TryLockError::Error(error)) => Err(of(error)),
    }
}

/// Looks at an existing file read-only: is it ours, sound, and not from the future? Which form it is of, where there is one.
pub(crate) async fn look(path: &PathBuf) -> Result<Option<i64>, StoreError> {
    let mut file = match File::open(path) {
        Ok(file) => file,
        Err(error) if error.kind() == std::io::ErrorKind::NotFound => return Ok(None),
        Err(error) => {
            return Err(StoreError::File {
                path: path.clone(),
                error,
            });
        }
    };
    let mut header = [0_u8; HEADER];
    let read = file.read(&mut header).map_err(|error| StoreError::File {
        path: path.clone(),
        error,
    })?;
    if read == 0 {
        return Ok(None);
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
    let known = migrator()
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
        found => Ok(found),
    }
}

fn damaged(path: &Path, error: &sqlx::Error) -> StoreError {
    StoreError::Damaged {
        path: path.to_owned(),
        what: error.to_string(),
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    async fn note(store: &Store, text: &str) -> Result<(), StoreError> {
        store
            .write(async |transaction| {
                sqlx::query(
                    "INSERT INTO instrument (stock_number, name, version, changed_at, search) VALUES ('1', ?, 1, '', '')",
                )
                .bind(text)
                .execute(&mut *transaction)
                .await?;
                Ok(())
            })
            .await
    }

    #[tokio::test]
    async fn the_mark_is_another_one_after_every_change_and_only_then() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).await.unwrap();
        note(&store, "first").await.unwrap();
        let before = store.mark();
        store.job_count().await.unwrap();
        assert_eq!(store.mark(), before, "looking changes nothing");
        note(&store, "second").await.unwrap();
        let own = store.mark();
        assert_ne!(own, before, "written by this process");
        let mut beside = crate::accounts::beside(folder.path()).await.unwrap();
        crate::accounts::add(
            &mut beside,
            "anna",
            crate::accounts::Role::Viewer,
            "a password of some length",
            jiff::Timestamp::now(),
        )
        .await
        .unwrap();
        assert_ne!(store.mark(), own, "written beside it");
    }

    async fn most_pages(store: &Store, pages: u32) {
        let mut connection = store.writer.acquire().await.unwrap();
        sqlx::query(sqlx::AssertSqlSafe(format!(
            "PRAGMA max_page_count = {pages}"
        )))
        .execute(&mut *connection)
        .await
        .unwrap();
    }

    #[tokio::test]
    async fn after_a_full_disk_writing_goes_on_as_soon_as_there_is_room() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).await.unwrap();
        let pages: u32 = sqlx::query_scalar("PRAGMA page_count")
            .fetch_one(&store.writer)
            .await
            .unwrap();
        note(&store, "before").await.unwrap();
        // SQLite's own full disk: no page more than there are.
        most_pages(&store, pages).await;
        let large = "x".repeat(200_000);
        assert!(matches!(
            note(&store, &large).await,
            Err(StoreError::NoRoom)
        ));
        most_pages(&store, 1_000_000).await;
        note(&store, "after").await.unwrap();
        let names: Vec<String> = sqlx::query_scalar("SELECT name FROM instrument ORDER BY id")
            .fetch_all(&store.readers)
            .await
            .unwrap();
        assert_eq!(names, ["before", "after"]);
    }

    /// A hundred times over: what was acknowledged is there, what was refused is not, and there is never a half of anything.
    #[tokio::test]
    async fn a_hundred_full_disks_lose_nothing_that_was_acknowledged() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).await.unwrap();
        let (mut kept, mut refused) = (Vec::new(), 0);
        for round in 0_u32..100 {
            let pages: u32 = sqlx::query_scalar("PRAGMA page_count")
                .fetch_one(&store.writer)
                .await
                .unwrap();
            // Room for a little more each time, and never for all of it.
            most_pages(&store, pages + round % 5).await;
            for number in 0..6 {
                let size = 500 + 3000 * usize::try_from(round % 7).unwrap();
                let text = format!("{round} {number} {}", "x".repeat(size));
                match note(&store, &text).await {
                    Ok(()) => kept.push(text),
                    Err(StoreError::NoRoom) => refused += 1,
                    Err(other) => panic!("{other}"),
                }
                // The connection that failed is thrown away, and its limit with it.
                most_pages(&store, pages + round % 5).await;
            }
            most_pages(&store, 1_000_000).await;
            let after = format!("{round} after");
            note(&store, &after).await.unwrap();
            kept.push(after);
        }
        assert!(refused > 100, "{refused}");
        let names: Vec<String> = sqlx::query_scalar("SELECT name FROM instrument ORDER BY id")
            .fetch_all(&store.readers)
            .await
            .unwrap();
        assert_eq!(names, kept);
        let verdict: String = sqlx::query_scalar("PRAGMA integrity_check")
            .fetch_one(&store.readers)
            .await
            .unwrap();
        assert_eq!(verdict, "ok");
    }

    #[tokio::test]
    async fn a_file_that_may_not_be_written_says_so_and_not_that_it_is_full() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).await.unwrap();
        // SQLite's own: this connection may read only.
        sqlx::query("PRAGMA query_only = ON")
            .execute(&store.writer)
            .await
            .unwrap();
        let refused = note(&store, "nothing").await;
        assert!(
            matches!(refused, Err(StoreError::NoPermission)),
            "{refused:?}"
        );
        // The connection was thrown away, and the next one may.
        note(&store, "after").await.unwrap();
    }

    #[tokio::test]
    async fn a_clean_stop_leaves_everything_in_the_one_file() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).await.unwrap();
        note(&store, "kept").await.unwrap();
        store.close().await.unwrap();
        let copy = tempfile::tempdir().unwrap();
        std::fs::copy(folder.path().join(FILE), copy.path().join(FILE)).unwrap();
        let again = Store::open(copy.path()).await.unwrap();
        let name: String = sqlx::query_scalar("SELECT name FROM instrument")
            .fetch_one(&again.readers)
            .await
            .unwrap();
        assert_eq!(name, "kept");
    }

    #[tokio::test]
    async fn a_log_without_its_file_stops_the_start_and_stays() {
        for empty in [false, true] {
            let folder = tempfile::tempdir().unwrap();
            let file = folder.path().join(FILE);
            let log = folder.path().join(format!("{FILE}{WAL}"));
            std::fs::write(&log, b"what was written last").unwrap();
            if empty {
                std::fs::write(&file, b"").unwrap();
            }
            assert!(matches!(
                Store::open(folder.path()).await,
                Err(StoreError::Orphaned(_))
            ));
            assert_eq!(std::fs::read(&log).unwrap(), b"what was written last");
            assert_eq!(file.exists(), empty);
        }
    }
}
