//! Lists for the shop's own eyes: what is due back, and the lines that its figures are made of.

use gradimen_bench::export::Summary;
use gradimen_bench::export::figures::Line;
use gradimen_bench::export::summary::SUMMARY_VERSION;
use jiff::civil::Date;

use crate::library::Listed;
use crate::{Store, StoreError};

/// As many are shown as due, and as many jobs the figures are made of: a busy year.
const DUE: i64 = 100;
const FIGURED: i64 = 1000;

impl Store {
    /// Instruments that are to come back by a day and have not been here since, the longest due first.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn due(&self, by: Date) -> Result<Vec<Listed>, StoreError> {
        let rows = sqlx::query_as(
            "SELECT id, changed_at, summary FROM job WHERE due IS NOT NULL AND due <= ? AND NOT EXISTS (SELECT 1 FROM job AS later WHERE later.instrument_id = job.instrument_id AND later.id > job.id) ORDER BY due, id LIMIT ?",
        )
        .bind(by.to_string())
        .bind(DUE)
        .fetch_all(&self.readers)
        .await?;
        self.listed(rows).await
    }

    /// The lines of the jobs that changed last, with whose they are.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn lines(&self) -> Result<Vec<Line>, StoreError> {
        let rows: Vec<(i64, i64, String, String, String)> = sqlx::query_as(
            "SELECT job.id, instrument_id, changed_at, entry.at, summary FROM job JOIN entry ON entry.job_id = job.id AND entry.seq = 1 WHERE job.id IN (SELECT id FROM job ORDER BY changed_at DESC LIMIT ?)",
        )
        .bind(FIGURED)
        .fetch_all(&self.readers)
        .await?;
        let mut lines = Vec::with_capacity(rows.len());
        for (id, instrument, changed_at, opened_at, summary) in rows {
            let kept: Option<Summary> = serde_json::from_str(&summary).ok();
            // One of an older form is made again when it is next looked at; it counts for nothing until then.
            let Some(summary) = kept.filter(Summary::is_current) else {
                continue;
            };
            lines.push(Line {
                id,
                instrument,
                changed_at: changed_at.parse()?,
                opened_at: opened_at.parse()?,
                summary,
            });
        }
        Ok(lines)
    }

    /// Makes some lines of an older form again, so that everything is found and due by today's; how many those were. Nothing is
    /// left to do when it is none.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn refresh_lines(&self, after: i64, most: i64) -> Result<Vec<i64>, StoreError> {
        let stale: Vec<i64> = sqlx::query_scalar(
            "SELECT id FROM job WHERE id > ? AND json_extract(summary, '$.version') IS NOT ? ORDER BY id LIMIT ?",
        )
        .bind(after)
        .bind(i64::from(SUMMARY_VERSION))
        .bind(most)
        .fetch_all(&self.readers)
        .await?;
        for id in &stale {
            self.summarised(*id).await;
        }
        Ok(stale)
    }
}
