//! Jobs: opening, growing and reading their journals.

use gradimen_bench::document::Document;
use gradimen_bench::event::{EVENT_VERSION, Entry, Event, Opened};
use gradimen_bench::job::{Job, JobError};
use gradimen_bench::summary::Summary;
use jiff::Timestamp;
use sqlx::{FromRow, SqliteConnection};

use crate::instruments::insert_instrument;
use crate::{Store, StoreError};

/// A job as the file holds it.
#[derive(Debug, Clone, PartialEq)]
pub struct StoredJob {
    /// Its number in the file.
    pub id: i64,
    /// The instrument it is a visit of.
    pub instrument_id: i64,
    /// Its journal.
    pub entries: Vec<Entry>,
}

#[derive(FromRow)]
struct EntryRow {
    seq: i64,
    at: String,
    version: i64,
    body: String,
}

impl TryFrom<EntryRow> for Entry {
    type Error = StoreError;

    fn try_from(row: EntryRow) -> Result<Self, StoreError> {
        Ok(Self {
            seq: row.seq.unsigned_abs(),
            at: row.at.parse()?,
            version: u32::try_from(row.version).unwrap_or(u32::MAX),
            event: serde_json::from_str(&row.body)?,
        })
    }
}

impl Store {
    /// Opens a job on an instrument of the file.
    ///
    /// # Errors
    /// [`StoreError::Job`] when the opening cannot be folded.
    pub async fn open_job(
        &self,
        instrument_id: i64,
        opened: Opened,
        at: Timestamp,
    ) -> Result<i64, StoreError> {
        let entries = vec![Entry {
            seq: 1,
            at,
            version: EVENT_VERSION,
            event: Event::Opened(Box::new(opened)),
        }];
        let job = Job::fold(&entries)?;
        self.write(async |transaction| insert_job(transaction, instrument_id, &job, &entries).await)
            .await
    }

    /// Takes in a document: the same job again, under the instrument of the same number and name,
    /// which is recorded as the document has it when there is none.
    ///
    /// # Errors
    /// [`StoreError::Job`] when its journal is no job.
    pub async fn import(&self, document: &Document) -> Result<i64, StoreError> {
        let job = Job::fold(&document.events)?;
        let mut entries = document.events.clone();
        entries.sort_by_key(|entry| entry.seq);
        let at = entries
            .first()
            .map_or(Timestamp::UNIX_EPOCH, |entry| entry.at);
        self.write(async |transaction| {
            let found: Option<i64> = sqlx::query_scalar(
                "SELECT id FROM instrument WHERE stock_number = ? AND name = ? ORDER BY id LIMIT 1",
            )
            .bind(&job.instrument().stock_number)
            .bind(&job.instrument().name)
            .fetch_optional(&mut *transaction)
            .await?;
            let instrument_id = match found {
                Some(id) => id,
                None => insert_instrument(transaction, job.instrument(), at).await?,
            };
            let id = insert_job(transaction, instrument_id, &job, &entries).await?;
            Ok(id)
        })
        .await
    }

    /// Reads a job with its journal.
    ///
    /// # Errors
    /// [`StoreError::NoSuchJob`].
    pub async fn job(&self, id: i64) -> Result<StoredJob, StoreError> {
        let mut connection = self.readers.acquire().await?;
        read_job(&mut connection, id).await
    }

    /// Adds events behind the entry their writer saw. All of them are written, or none.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when something came between, [`StoreError::Job`] for what cannot be.
    pub async fn append(
        &self,
        id: i64,
        seen: u64,
        events: Vec<Event>,
        at: Timestamp,
    ) -> Result<Job, StoreError> {
        self.write(async |transaction| {
        let stored = read_job(transaction, id).await?;
        let mut entries = stored.entries;
        let now = entries.last().map_or(0, |entry| entry.seq);
        if now != seen {
            return Err(StoreError::Conflict { seen, now });
        }
        let first_new = entries.len();
        for (event, seq) in events.into_iter().zip(now + 1..) {
            entries.push(Entry {
                seq,
                at,
                version: EVENT_VERSION,
                event,
            });
        }
        let job = Job::fold(&entries)?;
        write_entries(transaction, id, &entries[first_new..]).await?;
        let summary = Summary::of(&job);
        sqlx::query("UPDATE job SET seq = ?, stage_order = ?, changed_at = ?, search = ?, summary = ? WHERE id = ?")
            .bind(signed(job.seq()))
            .bind(summary.stage as i64)
            .bind(at.to_string())
            .bind(summary.search_text())
            .bind(serde_json::to_string(&summary)?)
            .bind(id)
            .execute(&mut *transaction)
            .await?;
        Ok(job)
        })
        .await
    }

    /// The job worked on last, on whatever instrument, where there is one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn latest_job(&self) -> Result<Option<StoredJob>, StoreError> {
        let found: Option<i64> =
            sqlx::query_scalar("SELECT id FROM job ORDER BY changed_at DESC LIMIT 1")
                .fetch_optional(&self.readers)
                .await?;
        match found {
            Some(id) => Ok(Some(self.job(id).await?)),
            None => Ok(None),
        }
    }

    /// The last job of an instrument, where there is one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn last_job(&self, instrument_id: i64) -> Result<Option<StoredJob>, StoreError> {
        let found: Option<i64> =
            sqlx::query_scalar("SELECT max(id) FROM job WHERE instrument_id = ?")
                .bind(instrument_id)
                .fetch_one(&self.readers)
                .await?;
        match found {
            Some(id) => Ok(Some(self.job(id).await?)),
            None => Ok(None),
        }
    }
}

/// Sequence numbers are small; SQLite's integers are signed.
fn signed(seq: u64) -> i64 {
    i64::try_from(seq).unwrap_or(i64::MAX)
}

async fn read_job(connection: &mut SqliteConnection, id: i64) -> Result<StoredJob, StoreError> {
    let instrument_id: i64 = sqlx::query_scalar("SELECT instrument_id FROM job WHERE id = ?")
        .bind(id)
        .fetch_optional(&mut *connection)
        .await?
        .ok_or(StoreError::NoSuchJob(id))?;
    let rows: Vec<EntryRow> =
        sqlx::query_as("SELECT seq, at, version, body FROM entry WHERE job_id = ? ORDER BY seq")
            .bind(id)
            .fetch_all(&mut *connection)
            .await?;
    let entries: Result<Vec<Entry>, StoreError> = rows.into_iter().map(Entry::try_from).collect();
    Ok(StoredJob {
        id,
        instrument_id,
        entries: entries?,
    })
}

async fn insert_job(
    connection: &mut SqliteConnection,
    instrument_id: i64,
    job: &Job,
    entries: &[Entry],
) -> Result<i64, StoreError> {
    let changed = entries.last().ok_or(JobError::NotOpened)?.at;
    let summary = Summary::of(job);
    let id = sqlx::query(
        "INSERT INTO job (instrument_id, seq, stage_order, changed_at, search, summary) VALUES (?, ?, ?, ?, ?, ?)",
    )
    .bind(instrument_id)
    .bind(signed(job.seq()))
    .bind(summary.stage as i64)
    .bind(changed.to_string())
    .bind(summary.search_text())
    .bind(serde_json::to_string(&summary)?)
    .execute(&mut *connection)
    .await?
    .last_insert_rowid();
    write_entries(connection, id, entries).await?;
    Ok(id)
}

async fn write_entries(
    connection: &mut SqliteConnection,
    id: i64,
    entries: &[Entry],
) -> Result<(), StoreError> {
    for entry in entries {
        sqlx::query("INSERT INTO entry (job_id, seq, at, version, body) VALUES (?, ?, ?, ?, ?)")
            .bind(id)
            .bind(signed(entry.seq))
            .bind(entry.at.to_string())
            .bind(i64::from(entry.version))
            .bind(serde_json::to_string(&entry.event)?)
            .execute(&mut *connection)
            .await?;
    }
    Ok(())
}
