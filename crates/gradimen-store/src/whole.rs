//! Documents in, and the whole shop as one document: every record with its history, every job with its journal, as they are stored.

use gradimen_bench::export::difference::{Difference, between};
use gradimen_bench::job::Job;
use gradimen_bench::journal::Document;
use gradimen_bench::model::Shop;
use gradimen_bench::model::instrument::Instrument;
use jiff::Timestamp;
use serde::{Deserialize, Serialize};

use crate::instruments::{insert_instrument, write_version};
use crate::journal::insert_job;
use crate::shop::write_shop;
use crate::worked::work;
use crate::{Store, StoreError};

/// What marks such a document.
const FORMAT: &str = "gradimen shop";
const VERSION: u32 = 1;

/// Under which record a job is imported.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Under {
    /// That of the same number and name, whatever it says; a new one where there is none.
    SameName,
    /// One of its own, as the document has it.
    Another,
}

/// A version of a record.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct VersionOut {
    at: Timestamp,
    record: Instrument,
}

/// An instrument with its history and its jobs.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct InstrumentOut {
    /// The oldest first.
    versions: Vec<VersionOut>,
    jobs: Vec<Document>,
}

/// All of it.
#[derive(Debug, Clone, Serialize, Deserialize)]
struct Whole {
    format: String,
    version: u32,
    shop: Shop,
    instruments: Vec<InstrumentOut>,
}

impl Store {
    /// How the record on file differs from that of a document, where there is one of its number and name and it differs.
    ///
    /// # Errors
    /// [`StoreError::Job`] when its journal is no job.
    pub async fn differs(&self, document: &Document) -> Result<Vec<Difference>, StoreError> {
        let job = Job::fold(&document.events)?;
        let wanted = job.instrument();
        let found: Option<i64> = sqlx::query_scalar(
            "SELECT id FROM instrument WHERE stock_number = ? AND name = ? ORDER BY id LIMIT 1",
        )
        .bind(&wanted.stock_number)
        .bind(&wanted.name)
        .fetch_optional(&self.readers)
        .await?;
        match found {
            Some(id) => Ok(between(&self.instrument(id).await?.instrument, wanted)),
            None => Ok(Vec::new()),
        }
    }

    /// Imports a document: the same job again, under the instrument of the same number and name,
    /// which is saved as the document has it when there is none.
    ///
    /// # Errors
    /// [`StoreError::Job`] when its journal is no job.
    pub async fn import(&self, document: &Document) -> Result<i64, StoreError> {
        self.import_under(document, Under::SameName).await
    }

    /// Imports a document: the same job again.
    ///
    /// # Errors
    /// [`StoreError::Job`] when its journal is no job.
    pub async fn import_under(&self, document: &Document, under: Under) -> Result<i64, StoreError> {
        let worked = work(Job::fold(&document.events)?).await?;
        let job = &worked.job;
        let mut entries = document.events.clone();
        entries.sort_by_key(|entry| entry.seq);
        let at = entries
            .first()
            .map_or(Timestamp::UNIX_EPOCH, |entry| entry.at);
        self.write(async |transaction| {
            let found: Option<i64> = match under {
                Under::Another => None,
                Under::SameName => {
                    sqlx::query_scalar(
                        "SELECT id FROM instrument WHERE stock_number = ? AND name = ? ORDER BY id LIMIT 1",
                    )
                    .bind(&job.instrument().stock_number)
                    .bind(&job.instrument().name)
                    .fetch_optional(&mut *transaction)
                    .await?
                }
            };
            let instrument_id = match found {
                Some(id) => id,
                None => insert_instrument(transaction, self.first, job.instrument(), at).await?,
            };
            insert_job(transaction, self.first, instrument_id, &worked, &entries).await
        })
        .await
    }

    /// The whole shop as one document. A job that cannot be read is left out and named: its entries go out by themselves.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn whole(&self) -> Result<(String, Vec<i64>), StoreError> {
        let ids: Vec<i64> = sqlx::query_scalar("SELECT id FROM instrument ORDER BY id")
            .fetch_all(&self.readers)
            .await?;
        let mut instruments = Vec::with_capacity(ids.len());
        let mut left = Vec::new();
        for id in ids {
            let mut versions: Vec<VersionOut> = self
                .instrument_versions(id)
                .await?
                .into_iter()
                .map(|version| VersionOut {
                    at: version.at,
                    record: version.instrument,
                })
                .collect();
            versions.reverse();
            let jobs: Vec<i64> =
                sqlx::query_scalar("SELECT id FROM job WHERE instrument_id = ? ORDER BY id")
                    .bind(id)
                    .fetch_all(&self.readers)
                    .await?;
            let mut documents = Vec::with_capacity(jobs.len());
            for job in jobs {
                match self.job(job).await {
                    Ok(stored) => documents.push(Document::of(stored.entries)),
                    Err(_) => left.push(job),
                }
            }
            instruments.push(InstrumentOut {
                versions,
                jobs: documents,
            });
        }
        let whole = Whole {
            format: FORMAT.to_owned(),
            version: VERSION,
            shop: self.shop().await?.shop,
            instruments,
        };
        let mut text = serde_json::to_string_pretty(&whole)?;
        text.push('\n');
        Ok((text, left))
    }

    /// Takes a whole shop in, on a bench that has none yet; how many jobs it had.
    ///
    /// # Errors
    /// [`StoreError::NotEmpty`] where there are instruments already, [`StoreError::NoShop`] for another document.
    pub async fn take_in(&self, text: &str) -> Result<usize, StoreError> {
        let whole: Whole =
            serde_json::from_str(text).map_err(|error| StoreError::NoShop(error.to_string()))?;
        if whole.format != FORMAT || whole.version != VERSION {
            let found = format!("{} {}", whole.format, whole.version);
            return Err(StoreError::NoShop(format!("it says \"{found}\"")));
        }
        let contents = self.contents().await?;
        if contents.instruments > 0 {
            return Err(StoreError::NotEmpty(contents.instruments));
        }
        // Everything is looked at before anything is written.
        for instrument in &whole.instruments {
            for version in &instrument.versions {
                version.record.validate()?;
            }
        }
        whole.shop.validate().map_err(StoreError::Shop)?;
        // All of it, or nothing; one job after the other, for a shop has many.
        let jobs = self
            .write(async |transaction| {
                let mut jobs = 0;
                for instrument in &whole.instruments {
                    let Some((first, later)) = instrument.versions.split_first() else {
                        let what = "an instrument has no record".to_owned();
                        return Err(StoreError::NoShop(what));
                    };
                    let id =
                        insert_instrument(transaction, self.first, &first.record, first.at).await?;
                    for (next, version) in (2..).zip(later) {
                        write_version(transaction, id, next, &version.record, version.at).await?;
                    }
                    for document in &instrument.jobs {
                        let worked = work(Job::fold(&document.events)?).await?;
                        insert_job(transaction, self.first, id, &worked, &document.events).await?;
                        jobs += 1;
                    }
                }
                let now: Option<i64> = sqlx::query_scalar("SELECT version FROM shop WHERE id = 1")
                    .fetch_optional(&mut *transaction)
                    .await?;
                write_shop(
                    transaction,
                    now.unwrap_or(0) + 1,
                    &whole.shop,
                    Timestamp::now(),
                )
                .await?;
                Ok(jobs)
            })
            .await?;
        Ok(jobs)
    }
}
