//! Jobs: opening, growing and reading their journals.

use std::sync::Arc;

use gradimen_bench::export::Summary;
use gradimen_bench::job::{Job, JobError};
use gradimen_bench::journal::{Document, Entry, Event, Opened, wire};
use jiff::Timestamp;
use serde_json::value::RawValue;
use sqlx::sqlite::SqliteRow;
use sqlx::{FromRow, Row, SqliteConnection};

use crate::sums;
use crate::worked::{Worked, work};
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

pub(crate) struct EntryRow {
    seq: i64,
    at: String,
    version: i64,
    stroke: Option<i64>,
    by: Option<String>,
    body: String,
}

impl FromRow<'_, SqliteRow> for EntryRow {
    fn from_row(row: &SqliteRow) -> sqlx::Result<Self> {
        Ok(Self {
            seq: row.try_get("seq")?,
            at: row.try_get("at")?,
            version: row.try_get("version")?,
            stroke: row.try_get("stroke")?,
            by: row.try_get("told_by")?,
            body: row.try_get("body")?,
        })
    }
}

impl EntryRow {
    fn seq(&self) -> u64 {
        self.seq.unsigned_abs()
    }

    fn group(&self) -> u64 {
        self.stroke.unwrap_or(self.seq).unsigned_abs()
    }

    fn version(&self) -> u32 {
        u32::try_from(self.version).unwrap_or(u32::MAX)
    }
}

impl TryFrom<EntryRow> for Entry {
    type Error = StoreError;

    fn try_from(row: EntryRow) -> Result<Self, StoreError> {
        let (seq, group) = (row.seq(), row.group());
        let raw = serde_json::from_str(&row.body)?;
        Ok(Self {
            group,
            ..Self::new(seq, row.at.parse()?, wire::event(seq, row.version(), raw)?)
                .by(row.by.as_deref())
        })
    }
}

/// An entry as it is stored, for a document of a job that cannot be worked out.
#[derive(serde::Serialize)]
struct AsStored<'a> {
    seq: u64,
    at: &'a str,
    version: u32,
    group: u64,
    #[serde(skip_serializing_if = "Option::is_none")]
    by: Option<&'a str>,
    event: &'a RawValue,
}

/// One press of a form: the page it stood on and everything it sent.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Press(String);

impl Press {
    /// Of a form on a page; every page shown has a word of its own.
    pub fn of<'a>(page: &str, fields: impl Iterator<Item = (&'a str, &'a str)>) -> Self {
        let mut all: Vec<(&str, &str)> = fields.collect();
        all.sort_unstable();
        let words = all.into_iter().flat_map(|(name, value)| [name, value]);
        Self(sums::of_words(std::iter::once(page).chain(words)))
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
        self.open_with(instrument_id, opened, Vec::new(), at).await
    }

    /// The same, with what is recorded in the same stroke: the tuner, the stage. All of it is written, or nothing.
    ///
    /// # Errors
    /// [`StoreError::Job`] when it cannot be folded.
    pub async fn open_with(
        &self,
        instrument_id: i64,
        opened: Opened,
        events: Vec<Event>,
        at: Timestamp,
    ) -> Result<i64, StoreError> {
        let mut entries = vec![Entry::new(1, at, Event::Opened(Box::new(opened)))];
        entries.extend(Entry::group(2, at, events));
        let entries = self.told(entries);
        let worked = work(Job::fold(&entries)?).await?;
        self.write(async |transaction| {
            insert_job(transaction, self.first, instrument_id, &worked, &entries).await
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

    /// A job folded, estimated and planned; what nothing was added to since is not worked out again.
    ///
    /// # Errors
    /// [`StoreError::NoSuchJob`], [`StoreError::Job`] for a journal that is no job.
    pub async fn worked(&self, id: i64) -> Result<Arc<Worked>, StoreError> {
        let seq: i64 = sqlx::query_scalar("SELECT seq FROM job WHERE id = ?")
            .bind(id)
            .fetch_optional(&self.readers)
            .await?
            .ok_or(StoreError::NoSuchJob(id))?;
        if let Some(worked) = self.cache.get(id, seq.unsigned_abs()) {
            return Ok(worked);
        }
        let stored = self.job(id).await?;
        let instrument_id = stored.instrument_id;
        let worked = Worked {
            instrument_id,
            ..work(Job::fold(&stored.entries)?).await?
        };
        Ok(self.cache.put(id, worked))
    }

    /// Adds events behind the entry their writer saw, as one stroke. All of them are written, or none.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when something came between, [`StoreError::Job`] for what cannot be.
    pub async fn append(
        &self,
        id: i64,
        seen: u64,
        events: Vec<Event>,
        at: Timestamp,
    ) -> Result<Arc<Worked>, StoreError> {
        self.appended(id, seen, None, events, at).await
    }

    async fn appended(
        &self,
        id: i64,
        seen: u64,
        press: Option<&Press>,
        events: Vec<Event>,
        at: Timestamp,
    ) -> Result<Arc<Worked>, StoreError> {
        let before = self.worked(id).await?;
        let now = before.job.seq();
        if now != seen {
            return Err(StoreError::Conflict { seen, now });
        }
        let entries = self.told(Entry::group(now + 1, at, events));
        let worked = Worked {
            instrument_id: before.instrument_id,
            ..work(before.job.extended(entries.clone())?).await?
        };
        let summary = worked.summary();
        self.write(async |transaction| {
            // Another writer may have come between since it was looked at.
            let now: i64 = sqlx::query_scalar("SELECT seq FROM job WHERE id = ?")
                .bind(id)
                .fetch_optional(&mut *transaction)
                .await?
                .ok_or(StoreError::NoSuchJob(id))?;
            if now.unsigned_abs() != seen {
                let now = now.unsigned_abs();
                return Err(StoreError::Conflict { seen, now });
            }
            write_entries(transaction, id, &entries).await?;
            if let Some(press) = press {
                write_press(transaction, id, worked.job.seq(), press).await?;
            }
            write_summary(transaction, id, worked.job.seq(), &summary).await?;
            sqlx::query("UPDATE job SET changed_at = ? WHERE id = ?")
                .bind(at.to_string())
                .bind(id)
                .execute(&mut *transaction)
                .await?;
            Ok(())
        })
        .await?;
        Ok(self.cache.put(id, worked))
    }

    /// The same for a press of a form: sent twice, by a hand or by a line that failed, it is recorded once, also across a restart.
    /// The second time the job is handed out as it stands.
    ///
    /// # Errors
    /// As [`Self::append`].
    pub async fn append_once(
        &self,
        id: i64,
        seen: u64,
        press: &Press,
        events: Vec<Event>,
        at: Timestamp,
    ) -> Result<Arc<Worked>, StoreError> {
        if let Some(worked) = self.pressed(id, press).await? {
            return Ok(worked);
        }
        match self.appended(id, seen, Some(press), events, at).await {
            // The other of the two came in between.
            Err(conflict @ StoreError::Conflict { .. }) => {
                self.pressed(id, press).await?.ok_or(conflict)
            }
            done => done,
        }
    }

    /// The job as it stands, where this press was recorded and still counts: one that was taken back meets what came since.
    async fn pressed(&self, id: i64, press: &Press) -> Result<Option<Arc<Worked>>, StoreError> {
        let found: Option<i64> =
            sqlx::query_scalar("SELECT seq FROM press WHERE press = ? AND job_id = ?")
                .bind(&press.0)
                .bind(id)
                .fetch_optional(&self.readers)
                .await?;
        let Some(seq) = found else { return Ok(None) };
        let worked = self.worked(id).await?;
        let mut entries = worked.job.entries().iter();
        let counts = entries
            .find(|entry| entry.seq == seq.unsigned_abs())
            .is_some_and(|entry| worked.job.counts(entry));
        Ok(counts.then_some(worked))
    }

    /// The document of a job exactly as it is stored, whether it can be worked out or not.
    ///
    /// # Errors
    /// [`StoreError::NoSuchJob`].
    pub async fn as_stored(&self, id: i64) -> Result<String, StoreError> {
        let mut connection = self.readers.acquire().await?;
        instrument_of(&mut connection, id).await?;
        let rows = rows(&mut connection, id).await?;
        let entries: Result<Vec<AsStored<'_>>, StoreError> = rows
            .iter()
            .map(|row| {
                Ok(AsStored {
                    seq: row.seq(),
                    at: &row.at,
                    version: row.version(),
                    group: row.group(),
                    by: row.by.as_deref(),
                    event: serde_json::from_str(&row.body)?,
                })
            })
            .collect();
        Ok(Document::text_of(&entries?)?)
    }

    /// Makes the line of a job in the list again, from its journal.
    pub(crate) async fn summarised(&self, id: i64) -> Summary {
        match self.worked(id).await {
            Ok(worked) => {
                let summary = worked.summary();
                let seq = worked.job.seq();
                let written = self
                    .write(async |transaction| write_summary(transaction, id, seq, &summary).await)
                    .await;
                // The line is shown all the same; it is made again the next time.
                drop(written);
                summary
            }
            Err(error) => Summary::broken(format!("job {id}"), error.to_string()),
        }
    }

    /// The job worked on last, on whatever instrument, where there is one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn latest_job(&self) -> Result<Option<Arc<Worked>>, StoreError> {
        let found: Option<i64> =
            sqlx::query_scalar("SELECT id FROM job ORDER BY changed_at DESC LIMIT 1")
                .fetch_optional(&self.readers)
                .await?;
        match found {
            Some(id) => Ok(Some(self.worked(id).await?)),
            None => Ok(None),
        }
    }

    /// The last job of an instrument, where there is one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn last_job(&self, instrument_id: i64) -> Result<Option<Arc<Worked>>, StoreError> {
        let found: Option<i64> =
            sqlx::query_scalar("SELECT max(id) FROM job WHERE instrument_id = ?")
                .bind(instrument_id)
                .fetch_one(&self.readers)
                .await?;
        match found {
            Some(id) => Ok(Some(self.worked(id).await?)),
            None => Ok(None),
        }
    }
}

impl Store {
    /// The same store in somebody's hands: what is recorded through it carries that name.
    #[must_use]
    pub fn in_hands_of(&self, who: &str) -> Self {
        let mut held = self.clone();
        held.by = Some(who.into());
        held
    }

    fn told(&self, entries: Vec<Entry>) -> Vec<Entry> {
        let who = self.by.as_deref();
        entries.into_iter().map(|entry| entry.by(who)).collect()
    }
}

/// Sequence numbers are small; SQLite's integers are signed.
fn signed(seq: u64) -> i64 {
    i64::try_from(seq).unwrap_or(i64::MAX)
}

async fn instrument_of(connection: &mut SqliteConnection, id: i64) -> Result<i64, StoreError> {
    sqlx::query_scalar("SELECT instrument_id FROM job WHERE id = ?")
        .bind(id)
        .fetch_optional(&mut *connection)
        .await?
        .ok_or(StoreError::NoSuchJob(id))
}

pub(crate) async fn rows(
    connection: &mut SqliteConnection,
    id: i64,
) -> Result<Vec<EntryRow>, StoreError> {
    Ok(sqlx::query_as(
        "SELECT seq, at, version, stroke, told_by, body FROM entry WHERE job_id = ? ORDER BY seq",
    )
    .bind(id)
    .fetch_all(&mut *connection)
    .await?)
}

async fn read_job(connection: &mut SqliteConnection, id: i64) -> Result<StoredJob, StoreError> {
    let instrument_id = instrument_of(connection, id).await?;
    let rows = rows(connection, id).await?;
    let entries: Result<Vec<Entry>, StoreError> = rows.into_iter().map(Entry::try_from).collect();
    Ok(StoredJob {
        id,
        instrument_id,
        entries: entries?,
    })
}

async fn write_summary(
    connection: &mut SqliteConnection,
    id: i64,
    seq: u64,
    summary: &Summary,
) -> Result<(), StoreError> {
    // A line that was made while another entry came does not put the job back.
    sqlx::query("UPDATE job SET seq = ?1, stage_order = ?2, search = ?3, summary = ?4, due = ?5 WHERE id = ?6 AND seq <= ?1")
        .bind(signed(seq))
        .bind(summary.stage as i64)
        .bind(summary.search_text())
        .bind(serde_json::to_string(summary)?)
        .bind(summary.due.map(|day| day.to_string()))
        .bind(id)
        .execute(&mut *connection)
        .await?;
    Ok(())
}

/// As many presses of a job are remembered; a page that is older tells of a conflict.
const PRESSES: i64 = 300;

async fn write_press(
    connection: &mut SqliteConnection,
    id: i64,
    seq: u64,
    press: &Press,
) -> Result<(), StoreError> {
    sqlx::query("INSERT INTO press (press, job_id, seq) VALUES (?, ?, ?)")
        .bind(&press.0)
        .bind(id)
        .bind(signed(seq))
        .execute(&mut *connection)
        .await?;
    sqlx::query("DELETE FROM press WHERE job_id = ? AND seq < ?")
        .bind(id)
        .bind(signed(seq) - PRESSES)
        .execute(&mut *connection)
        .await?;
    Ok(())
}

/// From here on instruments and jobs are numbered that are only practised on: no shop has so many.
pub const PRACTICE: i64 = 1_000_000_001;

pub(crate) async fn insert_job(
    connection: &mut SqliteConnection,
    first: i64,
    instrument_id: i64,
    worked: &Worked,
    entries: &[Entry],
) -> Result<i64, StoreError> {
    if worked.job.practice().is_some() != (first >= PRACTICE) {
        return Err(StoreError::Practised);
    }
    let changed = entries.last().ok_or(JobError::NotOpened)?.at;
    let summary = worked.summary();
    let id = sqlx::query(
        "INSERT INTO job (id, instrument_id, seq, stage_order, changed_at, search, summary, due) VALUES ((SELECT max(coalesce(max(id), 0) + 1, ?) FROM job), ?, ?, ?, ?, ?, ?, ?)",
    )
    .bind(first)
    .bind(instrument_id)
    .bind(signed(worked.job.seq()))
    .bind(summary.stage as i64)
    .bind(changed.to_string())
    .bind(summary.search_text())
    .bind(serde_json::to_string(&summary)?)
    .bind(summary.due.map(|day| day.to_string()))
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
    let mut sum = sums::last(connection, id).await?;
    for entry in entries {
        let (at, body) = (entry.at.to_string(), serde_json::to_string(&entry.event)?);
        let parts = sums::Parts {
            job: id,
            seq: signed(entry.seq),
            at: at.as_bytes(),
            version: i64::from(entry.version),
            stroke: Some(signed(entry.group)),
            body: body.as_bytes(),
            by: entry.by.as_deref().map(str::as_bytes),
        };
        sum = sums::of_entry(&sum, &parts);
        sqlx::query(
            "INSERT INTO entry (job_id, seq, at, version, stroke, told_by, body) VALUES (?, ?, ?, ?, ?, ?, ?)",
        )
        .bind(id)
        .bind(parts.seq)
        .bind(&at)
        .bind(parts.version)
        .bind(parts.stroke)
        .bind(&entry.by)
        .bind(&body)
        .execute(&mut *connection)
        .await?;
        sums::write(connection, id, parts.seq, &sum).await?;
    }
    Ok(())
}
