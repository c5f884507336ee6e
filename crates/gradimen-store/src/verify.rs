//! Looks through a whole file: is it sound, does every sum hold, can every job be worked out?
//!
//! It reads only, beside whoever has the file open.

use std::path::Path;

use sqlx::sqlite::{SqliteConnectOptions, SqliteConnection};
use sqlx::{ConnectOptions, Connection};

use crate::sums::{self, BEGINNING, Parts, Sum};
use crate::worked::work;
use crate::{StoreError, journal};

/// Something that does not hold, and where.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Problem {
    /// In which job, where it is in one.
    pub job: Option<i64>,
    /// At which entry, where it is at one.
    pub entry: Option<i64>,
    /// What.
    pub what: String,
}

impl Problem {
    fn of_file(what: impl Into<String>) -> Self {
        Self {
            job: None,
            entry: None,
            what: what.into(),
        }
    }

    fn of_job(job: i64, entry: Option<i64>, what: impl Into<String>) -> Self {
        Self {
            job: Some(job),
            entry,
            what: what.into(),
        }
    }
}

impl std::fmt::Display for Problem {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        match (self.job, self.entry) {
            (Some(job), Some(entry)) => write!(to, "job {job}, entry {entry}: {}", self.what),
            (Some(job), None) => write!(to, "job {job}: {}", self.what),
            _ => write!(to, "{}", self.what),
        }
    }
}

/// What a file holds.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Contents {
    /// How many jobs.
    pub jobs: i64,
    /// How many instruments.
    pub instruments: i64,
    /// How many entries in all journals.
    pub entries: i64,
    /// When the last of them was recorded.
    pub last: Option<String>,
}

impl std::fmt::Display for Contents {
    fn fmt(&self, to: &mut std::fmt::Formatter<'_>) -> std::fmt::Result {
        let counted = |count: i64, one: &str| match count {
            1 => format!("1 {one}"),
            0 => format!("no {one}s"),
            count => format!("{count} {one}s"),
        };
        let entries = match self.entries {
            1 => "1 entry".to_owned(),
            count => format!("{count} entries"),
        };
        let (jobs, of) = (
            counted(self.jobs, "job"),
            counted(self.instruments, "instrument"),
        );
        write!(to, "{jobs} of {of}, {entries}")
    }
}

/// What was found.
#[derive(Debug, Clone, Default, PartialEq, Eq)]
pub struct Verdict {
    /// What it holds.
    pub contents: Contents,
    /// What does not hold; nothing where all is well.
    pub problems: Vec<Problem>,
}

pub(crate) async fn reading(path: &Path) -> Result<SqliteConnection, StoreError> {
    let options = SqliteConnectOptions::new().filename(path).read_only(true);
    let mut connection = options.connect().await?;
    // In a copy of the form before accounts nobody told anything by name: entries are read as today's with nobody's name.
    let told: Result<(i64, i64), _> = sqlx::query_as(
        "SELECT count(*), coalesce(sum(name = 'told_by'), 0) FROM pragma_table_info('entry')",
    )
    .fetch_one(&mut connection)
    .await;
    if let Ok((1.., 0)) = told {
        sqlx::query("CREATE TEMP VIEW entry AS SELECT *, NULL AS told_by FROM main.entry")
            .execute(&mut connection)
            .await?;
    }
    Ok(connection)
}

/// What a file holds, counted.
pub(crate) async fn contents(connection: &mut SqliteConnection) -> Result<Contents, StoreError> {
    // Journals have no gaps: where one has, looking it through says so, and counting need not read them all.
    let (jobs, instruments, entries, last): (i64, i64, i64, Option<String>) = sqlx::query_as(
        "SELECT (SELECT count(*) FROM job), (SELECT count(*) FROM instrument), (SELECT coalesce(sum(seq), 0) FROM job), (SELECT max(changed_at) FROM job)",
    )
    .fetch_one(connection)
    .await?;
    Ok(Contents {
        jobs,
        instruments,
        entries,
        last,
    })
}

/// Looks through the file at a path.
///
/// # Errors
/// [`StoreError`] when it cannot be opened at all; what is wrong inside it is in the verdict.
pub async fn verify(path: &Path) -> Result<Verdict, StoreError> {
    let mut connection = reading(path).await?;
    let mut verdict = Verdict::default();
    let said: Result<Vec<String>, sqlx::Error> = sqlx::query_scalar("PRAGMA integrity_check(20)")
        .fetch_all(&mut connection)
        .await;
    match said {
        Ok(lines) if lines == ["ok"] => {}
        Ok(lines) => verdict.problems.extend(
            lines
                .into_iter()
                .map(|line| Problem::of_file(format!("the file: {line}"))),
        ),
        Err(error) => verdict.problems.push(Problem::of_file(format!(
            "the file cannot be read: {error}"
        ))),
    }
    match contents(&mut connection).await {
        Ok(found) => verdict.contents = found,
        Err(error) => {
            let what = format!("what it holds cannot be counted: {error}");
            verdict.problems.push(Problem::of_file(what));
        }
    }
    let jobs: Result<Vec<(i64, i64)>, sqlx::Error> =
        sqlx::query_as("SELECT id, seq FROM job ORDER BY id")
            .fetch_all(&mut connection)
            .await;
    match jobs {
        Ok(jobs) => {
            for (job, seq) in jobs {
                look_at(&mut connection, job, seq, &mut verdict.problems).await;
            }
        }
        Err(error) => {
            let what = format!("the list of jobs cannot be read: {error}");
            verdict.problems.push(Problem::of_file(what));
        }
    }
    if let Err(error) = records(&mut connection, &mut verdict.problems).await {
        let what = format!("the records of instruments cannot be read: {error}");
        verdict.problems.push(Problem::of_file(what));
    }
    connection.close().await.ok();
    Ok(verdict)
}

/// One job: every sum, the end of its journal, and whether it folds.
async fn look_at(
    connection: &mut SqliteConnection,
    job: i64,
    seq: i64,
    problems: &mut Vec<Problem>,
) {
    let before = problems.len();
    if let Err(error) = summed(connection, job, seq, problems).await {
        let what = format!("its journal cannot be read: {error}");
        problems.push(Problem::of_job(job, None, what));
    }
    if problems.len() > before {
        return;
    }
    let folded = async {
        let entries = journal::rows(connection, job).await?;
        let entries: Result<Vec<_>, StoreError> =
            entries.into_iter().map(TryInto::try_into).collect();
        work(gradimen_bench::job::Job::fold(&entries?)?).await
    };
    if let Err(error) = folded.await {
        let what = format!("it cannot be worked out: {error}");
        problems.push(Problem::of_job(job, None, what));
    }
}

async fn summed(
    connection: &mut SqliteConnection,
    job: i64,
    seq: i64,
    problems: &mut Vec<Problem>,
) -> Result<(), StoreError> {
    type Row = (
        i64,
        Vec<u8>,
        i64,
        Option<i64>,
        Vec<u8>,
        Option<Vec<u8>>,
        Option<Vec<u8>>,
    );
    let rows: Vec<Row> = sqlx::query_as(
        "SELECT entry.seq, CAST(entry.at AS BLOB), entry.version, entry.stroke, CAST(entry.body AS BLOB), CAST(entry.told_by AS BLOB), entry_sum.sum FROM entry LEFT JOIN entry_sum ON entry_sum.job_id = entry.job_id AND entry_sum.seq = entry.seq WHERE entry.job_id = ? ORDER BY entry.seq",
    )
    .bind(job)
    .fetch_all(&mut *connection)
    .await?;
    let mut last: Sum = BEGINNING;
    for (expected, (at_seq, at, version, stroke, body, by, sum)) in (1_i64..).zip(&rows) {
        if *at_seq != expected {
            let what = format!("entry {expected} is missing");
            problems.push(Problem::of_job(job, Some(expected), what));
            return Ok(());
        }
        let parts = Parts {
            job,
            seq: *at_seq,
            at,
            version: *version,
            stroke: *stroke,
            body,
            by: by.as_deref(),
        };
        let is = sums::of_entry(&last, &parts);
        match sum {
            None => {
                let what = "it has no sum";
                problems.push(Problem::of_job(job, Some(*at_seq), what));
                return Ok(());
            }
            Some(sum) if sum[..] != is => {
                let what = "it is not what was written, or its sum is not";
                problems.push(Problem::of_job(job, Some(*at_seq), what));
                return Ok(());
            }
            Some(_) => last = is,
        }
    }
    let sums: i64 = sqlx::query_scalar("SELECT count(*) FROM entry_sum WHERE job_id = ?")
        .bind(job)
        .fetch_one(&mut *connection)
        .await?;
    let entries = i64::try_from(rows.len()).unwrap_or(i64::MAX);
    if entries < seq.max(sums) {
        let what = format!(
            "its journal ends at entry {entries}, and {} were written",
            seq.max(sums)
        );
        problems.push(Problem::of_job(job, Some(entries + 1), what));
    }
    Ok(())
}

/// Every version of every record of an instrument.
async fn records(
    connection: &mut SqliteConnection,
    problems: &mut Vec<Problem>,
) -> Result<(), StoreError> {
    type Row = (i64, i64, Vec<u8>, Vec<u8>, Option<Vec<u8>>);
    let rows: Vec<Row> = sqlx::query_as(
        "SELECT v.instrument_id, v.version, CAST(v.at AS BLOB), CAST(v.body AS BLOB), s.sum FROM instrument_version AS v LEFT JOIN version_sum AS s ON s.instrument_id = v.instrument_id AND s.version = v.version",
    )
    .fetch_all(&mut *connection)
    .await?;
    for (instrument, version, at, body, sum) in &rows {
        let is = sums::of_version(*instrument, *version, at, body);
        if sum.as_deref() != Some(&is[..]) {
            let what = format!(
                "instrument {instrument}, version {version} of its record: it is not what was written"
            );
            problems.push(Problem::of_file(what));
        }
    }
    let (sums, newest): (i64, Option<i64>) = sqlx::query_as(
        "SELECT (SELECT count(*) FROM version_sum), (SELECT sum(version) FROM instrument)",
    )
    .fetch_one(connection)
    .await?;
    let versions = i64::try_from(rows.len()).unwrap_or(i64::MAX);
    if versions < sums.max(newest.unwrap_or(0)) {
        problems.push(Problem::of_file(
            "versions of records of instruments are missing",
        ));
    }
    Ok(())
}
