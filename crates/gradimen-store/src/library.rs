//! The job list and the stock: what is found, by stage and by search.

use gradimen_bench::export::Summary;
use gradimen_bench::model::Stage;
use jiff::Timestamp;
use sqlx::sqlite::SqliteRow;
use sqlx::{FromRow, Row};

use crate::{Store, StoreError};

/// As many rows as one page shows.
pub const PAGE: i64 = 20;

/// What the job list is asked for.
#[derive(Debug, Clone, Default, PartialEq)]
pub struct Search {
    /// Words to look for in number, name, purpose and player; all must occur.
    pub words: String,
    /// Only this stage; without one, everything but what was returned, or with words, everything.
    pub stage: Option<Stage>,
    /// Which page, from 0.
    pub page: u32,
}

/// A job in the list.
#[derive(Debug, Clone, PartialEq)]
pub struct Listed {
    /// Its number in the file.
    pub id: i64,
    /// When it last changed.
    pub changed_at: Timestamp,
    /// Its line.
    pub summary: Summary,
}

/// An instrument in the stock list.
#[derive(Debug, Clone, PartialEq)]
pub struct Stock {
    /// Its number in the file.
    pub id: i64,
    /// Stock number.
    pub stock_number: String,
    /// Name.
    pub name: String,
    /// How many jobs it has had.
    pub jobs: i64,
}

pub(crate) struct ListedRow {
    id: i64,
    changed_at: String,
    summary: String,
}

impl FromRow<'_, SqliteRow> for Stock {
    fn from_row(row: &SqliteRow) -> sqlx::Result<Self> {
        Ok(Self {
            id: row.try_get("id")?,
            stock_number: row.try_get("stock_number")?,
            name: row.try_get("name")?,
            jobs: row.try_get("jobs")?,
        })
    }
}

impl FromRow<'_, SqliteRow> for ListedRow {
    fn from_row(row: &SqliteRow) -> sqlx::Result<Self> {
        Ok(Self {
            id: row.try_get("id")?,
            changed_at: row.try_get("changed_at")?,
            summary: row.try_get("summary")?,
        })
    }
}

impl Store {
    /// Lines of the list; one that is not of today's form is made again from its journal, and one that cannot be
    /// says so and keeps the others in the list.
    pub(crate) async fn listed(&self, rows: Vec<ListedRow>) -> Result<Vec<Listed>, StoreError> {
        let mut listed = Vec::with_capacity(rows.len());
        for row in rows {
            let kept = serde_json::from_str(&row.summary).ok();
            let summary = match kept.filter(Summary::is_current) {
                Some(summary) => summary,
                None => self.summarised(row.id).await,
            };
            listed.push(Listed {
                id: row.id,
                changed_at: row.changed_at.parse()?,
                summary,
            });
        }
        Ok(listed)
    }
}

/// The words of a search in lower case, as the search columns are; at most six are looked for.
fn sought(words: &str) -> Vec<String> {
    // The index ends what it is asked at a NUL, and no name has one.
    let words = words.replace(
        |letter: char| letter.is_control() && !letter.is_whitespace(),
        "",
    );
    words
        .to_lowercase()
        .split_whitespace()
        .map(|word| word.trim_start_matches("no.").trim_start_matches('#'))
        .filter(|word| !word.is_empty() && *word != "no")
        .take(6)
        // No name is longer, and SQLite refuses patterns that are.
        .map(|word| word.chars().take(60).collect())
        .collect()
}

/// One word more that has to stand somewhere in the search column.
fn with_word(sql: &mut sqlx::QueryBuilder<sqlx::Sqlite>, word: &str) {
    let mut pattern = String::from("%");
    for letter in word.chars() {
        if matches!(letter, '%' | '_' | '\\') {
            pattern.push('\\');
        }
        pattern.push(letter);
    }
    pattern.push('%');
    sql.push(" AND search LIKE ")
        .push_bind(pattern)
        .push(" ESCAPE '\\'");
}

/// The index of words knows threes of letters; what is shorter is looked for job by job.
const INDEXED: usize = 3;

/// As many jobs as are quickly taken from the index.
#[cfg(not(test))]
const FEW: i64 = 500;
/// Few enough for a test to pass them.
#[cfg(test)]
const FEW: i64 = 3;

/// The words that the index finds, as one expression of it: each a phrase, all of them to occur.
fn indexed(words: &[String]) -> Option<String> {
    let long = words.iter().filter(|word| word.chars().count() >= INDEXED);
    let phrases: Vec<String> = long
        .map(|word| format!("\"{}\"", word.replace('"', "\"\"")))
        .collect();
    (!phrases.is_empty()).then(|| phrases.join(" "))
}

impl Store {
    /// The jobs that fit, by stage and then newest first: a page and whether more follow.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn jobs(&self, search: &Search) -> Result<(Vec<Listed>, bool), StoreError> {
        let words = sought(&search.words);
        let mut sql = sqlx::QueryBuilder::new(
            "SELECT id, changed_at, summary FROM job WHERE id IN (SELECT id FROM job WHERE 1",
        );
        match search.stage {
            Some(stage) => {
                sql.push(" AND stage_order = ").push_bind(stage as i64);
            }
            None if words.is_empty() => {
                sql.push(" AND stage_order < ")
                    .push_bind(Stage::Returned as i64);
            }
            None => {}
        }
        let few = self.few(&words).await?;
        let rare = few.is_some();
        if let Some(expression) = few {
            sql.push(" AND id IN (SELECT rowid FROM job_words WHERE job_words MATCH ")
                .push_bind(expression)
                .push(")");
        }
        for word in &words {
            if !rare || word.chars().count() < INDEXED {
                with_word(&mut sql, word);
            }
        }
        // The inner query walks the covering index only; whole rows are read for one page.
        sql.push(" ORDER BY stage_order, changed_at DESC LIMIT ")
            .push_bind(PAGE + 1)
            .push(" OFFSET ")
            .push_bind(i64::from(search.page) * PAGE)
            .push(") ORDER BY stage_order, changed_at DESC");
        let mut rows: Vec<ListedRow> = sql.build_query_as().fetch_all(&self.readers).await?;
        let page = usize::try_from(PAGE).unwrap_or(0);
        let more = rows.len() > page;
        rows.truncate(page);
        Ok((self.listed(rows).await?, more))
    }

    /// The expression of the index for these words, where it finds few. What is found everywhere fills a page sooner when
    /// jobs are looked at in the order of the list.
    async fn few(&self, words: &[String]) -> Result<Option<String>, StoreError> {
        let Some(expression) = indexed(words) else {
            return Ok(None);
        };
        let (found,): (i64,) = sqlx::query_as(
            "SELECT count(*) FROM (SELECT 1 FROM job_words WHERE job_words MATCH ? LIMIT ?)",
        )
        .bind(&expression)
        .bind(FEW)
        .fetch_one(&self.readers)
        .await?;
        Ok((found < FEW).then_some(expression))
    }

    /// How many jobs stand at each stage, in the order of [`Stage::ALL`].
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn stage_counts(&self) -> Result<[u64; 5], StoreError> {
        let rows: Vec<(i64, i64)> =
            sqlx::query_as("SELECT stage_order, count(*) FROM job GROUP BY stage_order")
                .fetch_all(&self.readers)
                .await?;
        let mut counts = [0; 5];
        for (stage, count) in rows {
            if let Some(slot) = usize::try_from(stage)
                .ok()
                .and_then(|stage| counts.get_mut(stage))
            {
                *slot = count.unsigned_abs();
            }
        }
        Ok(counts)
    }

    /// The jobs of one instrument, newest first.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn jobs_of(&self, instrument_id: i64) -> Result<Vec<Listed>, StoreError> {
        let rows: Vec<ListedRow> = sqlx::query_as(
            "SELECT id, changed_at, summary FROM job WHERE instrument_id = ? ORDER BY id DESC LIMIT 200",
        )
        .bind(instrument_id)
        .fetch_all(&self.readers)
        .await?;
        self.listed(rows).await
    }

    /// The jobs opened last, whatever their stage: as many as a card of progress lists.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn latest(&self) -> Result<Vec<Listed>, StoreError> {
        let rows: Vec<ListedRow> =
            sqlx::query_as("SELECT id, changed_at, summary FROM job ORDER BY id DESC LIMIT 500")
                .fetch_all(&self.readers)
                .await?;
        self.listed(rows).await
    }

    /// Another instrument that has this stock number, and its name; capitals or not is all one.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn numbered(
        &self,
        stock_number: &str,
        but: Option<i64>,
    ) -> Result<Option<Stock>, StoreError> {
        if stock_number.is_empty() {
            return Ok(None);
        }
        let found = sqlx::query_as(
            "SELECT id, stock_number, name, 0 AS jobs FROM instrument WHERE stock_number = ? COLLATE NOCASE AND id <> ? LIMIT 1",
        )
        .bind(stock_number)
        .bind(but.unwrap_or(-1))
        .fetch_optional(&self.readers)
        .await?;
        Ok(found)
    }

    /// Instruments that fit the words, by stock number; at most 200.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn stock(&self, words: &str) -> Result<Vec<Stock>, StoreError> {
        let mut sql = sqlx::QueryBuilder::new(
            "SELECT id, stock_number, name, (SELECT count(*) FROM job WHERE instrument_id = instrument.id) AS jobs FROM instrument WHERE 1",
        );
        for word in sought(words) {
            with_word(&mut sql, &word);
        }
        sql.push(" ORDER BY length(stock_number), stock_number, name LIMIT 200");
        Ok(sql.build_query_as().fetch_all(&self.readers).await?)
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use gradimen_bench::journal::Document;

    #[tokio::test]
    async fn what_is_found_everywhere_is_found_too() {
        let folder = tempfile::tempdir().unwrap();
        let store = Store::open(folder.path()).await.unwrap();
        let text = include_str!("../../../docs/formats/examples/six-string-mid-work.json");
        let document = Document::parse(text).unwrap();
        let mut found = Vec::new();
        for count in 1..=5 {
            store.import(&document).await.unwrap();
            let search = Search {
                words: "heron".into(),
                ..Search::default()
            };
            let (jobs, _) = store.jobs(&search).await.unwrap();
            assert_eq!(jobs.len(), count);
            found.push(store.few(&sought("heron")).await.unwrap().is_some());
        }
        assert_eq!(found, [true, true, false, false, false]);
    }
}
