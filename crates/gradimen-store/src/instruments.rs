//! Instruments: the record as it is and as it ever was.

use std::sync::Arc;

use gradimen_bench::journal::{Corrected, Event};
use gradimen_bench::model::Keyed;
use gradimen_bench::model::instrument::{Instrument, PutRight};
use jiff::Timestamp;
use sqlx::sqlite::SqliteRow;
use sqlx::{FromRow, Row};

use crate::sums;
use crate::{Store, StoreError};

/// One version of an instrument's record.
#[derive(Debug, Clone, PartialEq)]
pub struct Version {
    /// The instrument.
    pub id: i64,
    /// Counted from 1.
    pub version: u32,
    /// When it was written.
    pub at: Timestamp,
    /// The record, read as it is meant today; what is stored stays as it was written.
    pub instrument: Instrument,
    /// What an old default of ours had wrong in what is stored.
    pub put_right: Vec<PutRight>,
}

struct VersionRow {
    instrument_id: i64,
    version: i64,
    at: String,
    body: String,
}

impl FromRow<'_, SqliteRow> for VersionRow {
    fn from_row(row: &SqliteRow) -> sqlx::Result<Self> {
        Ok(Self {
            instrument_id: row.try_get("instrument_id")?,
            version: row.try_get("version")?,
            at: row.try_get("at")?,
            body: row.try_get("body")?,
        })
    }
}

impl TryFrom<VersionRow> for Version {
    type Error = StoreError;

    fn try_from(row: VersionRow) -> Result<Self, StoreError> {
        let mut instrument: Instrument = serde_json::from_str(&row.body)?;
        let put_right = instrument.put_right();
        Ok(Self {
            id: row.instrument_id,
            version: u32::try_from(row.version).unwrap_or(u32::MAX),
            at: row.at.parse()?,
            instrument,
            put_right,
        })
    }
}

fn search_text(instrument: &Instrument) -> String {
    format!("{} {}", instrument.title(), instrument.kind.key()).to_lowercase()
}

impl Store {
    /// Records a new instrument and gives its number in the file.
    ///
    /// # Errors
    /// [`StoreError::Instrument`] for what cannot be.
    pub async fn add_instrument(
        &self,
        instrument: &Instrument,
        at: Timestamp,
    ) -> Result<i64, StoreError> {
        instrument.validate()?;
        self.write(async |transaction| {
            insert_instrument(transaction, self.first, instrument, at).await
        })
        .await
    }

    /// Writes a new version of a record whose version `seen` was edited.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when another version came between.
    pub async fn change_instrument(
        &self,
        id: i64,
        seen: u32,
        instrument: &Instrument,
        at: Timestamp,
    ) -> Result<u32, StoreError> {
        instrument.validate()?;
        self.write(async |transaction| {
            let now: i64 = sqlx::query_scalar("SELECT version FROM instrument WHERE id = ?")
                .bind(id)
                .fetch_optional(&mut *transaction)
                .await?
                .ok_or(StoreError::NoSuchInstrument(id))?;
            if now != i64::from(seen) {
                return Err(StoreError::Conflict {
                    seen: u64::from(seen),
                    now: now.unsigned_abs(),
                });
            }
            let next = seen + 1;
            write_version(transaction, id, next, instrument, at).await?;
            Ok(next)
        })
        .await
    }

    /// Takes the record as it is now to the jobs that are still open on it, as an event that says so. A job in which something
    /// was recorded that the record as it is now would not have keeps its own: what it holds is never lost for a correction.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read or written.
    pub async fn correct_open_jobs(&self, id: i64, at: Timestamp) -> Result<(), StoreError> {
        let newest = self.instrument(id).await?;
        for listed in self.jobs_of(id).await? {
            if !listed.summary.stage.is_open() {
                continue;
            }
            self.correct_job(listed.id, &newest, at).await?;
        }
        Ok(())
    }

    /// Takes a record to one job. What another window records meanwhile comes first, and it is tried again.
    async fn correct_job(
        &self,
        id: i64,
        newest: &Version,
        at: Timestamp,
    ) -> Result<(), StoreError> {
        loop {
            let job = Arc::clone(&self.worked(id).await?.job);
            if *job.instrument() == newest.instrument {
                return Ok(());
            }
            let corrected = Event::Corrected(Box::new(Corrected {
                instrument: newest.instrument.clone(),
                instrument_version: newest.version,
            }));
            match self.append(id, job.seq(), vec![corrected], at).await {
                Err(StoreError::Conflict { .. }) => {}
                Ok(_) | Err(StoreError::Job(_) | StoreError::Estimate(_)) => return Ok(()),
                Err(other) => return Err(other),
            }
        }
    }

    /// The record as it is.
    ///
    /// # Errors
    /// [`StoreError::NoSuchInstrument`].
    pub async fn instrument(&self, id: i64) -> Result<Version, StoreError> {
        let versions = self.instrument_versions(id).await?;
        versions
            .into_iter()
            .next()
            .ok_or(StoreError::NoSuchInstrument(id))
    }

    /// The record as it ever was, newest first.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn instrument_versions(&self, id: i64) -> Result<Vec<Version>, StoreError> {
        let rows: Vec<VersionRow> = sqlx::query_as(
            "SELECT instrument_id, version, at, body FROM instrument_version WHERE instrument_id = ? ORDER BY version DESC",
        )
        .bind(id)
        .fetch_all(&self.readers)
        .await?;
        rows.into_iter().map(Version::try_from).collect()
    }
}

/// Writes the first version of a record inside a transaction.
/// A later version of a record that is there.
pub(crate) async fn write_version(
    transaction: &mut sqlx::SqliteConnection,
    id: i64,
    next: u32,
    instrument: &Instrument,
    at: Timestamp,
) -> Result<(), StoreError> {
    let body = serde_json::to_string(instrument)?;
    sqlx::query(
        "INSERT INTO instrument_version (instrument_id, version, at, body) VALUES (?, ?, ?, ?)",
    )
    .bind(id)
    .bind(i64::from(next))
    .bind(at.to_string())
    .bind(&body)
    .execute(&mut *transaction)
    .await?;
    sums::write_version(transaction, id, i64::from(next), &at.to_string(), &body).await?;
    sqlx::query(
            "UPDATE instrument SET stock_number = ?, name = ?, version = ?, changed_at = ?, search = ? WHERE id = ?",
        )
        .bind(&instrument.stock_number)
        .bind(&instrument.name)
        .bind(i64::from(next))
        .bind(at.to_string())
        .bind(search_text(instrument))
        .bind(id)
        .execute(&mut *transaction)
        .await?;
    Ok(())
}

pub(crate) async fn insert_instrument(
    transaction: &mut sqlx::SqliteConnection,
    first: i64,
    instrument: &Instrument,
    at: Timestamp,
) -> Result<i64, StoreError> {
    let id = sqlx::query(
        "INSERT INTO instrument (id, stock_number, name, version, changed_at, search) VALUES ((SELECT max(coalesce(max(id), 0) + 1, ?) FROM instrument), ?, ?, 1, ?, ?)",
    )
    .bind(first)
    .bind(&instrument.stock_number)
    .bind(&instrument.name)
    .bind(at.to_string())
    .bind(search_text(instrument))
    .execute(&mut *transaction)
    .await?
    .last_insert_rowid();
    let body = serde_json::to_string(instrument)?;
    sqlx::query(
        "INSERT INTO instrument_version (instrument_id, version, at, body) VALUES (?, 1, ?, ?)",
    )
    .bind(id)
    .bind(at.to_string())
    .bind(&body)
    .execute(&mut *transaction)
    .await?;
    sums::write_version(transaction, id, 1, &at.to_string(), &body).await?;
    Ok(id)
}
