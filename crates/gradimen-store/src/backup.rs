//! Copies of the whole file while it is in use, kept beside it by the day; and putting one back.
//!
//! A copy is made by SQLite itself (`VACUUM INTO`: one consistent state, read beside writers), brought to the disk, and only then
//! given its name.

use std::fs::{self, File};
use std::path::{Path, PathBuf};

use jiff::civil::{Date, Weekday};
use sqlx::{AssertSqlSafe, Connection};

use crate::files::{self, FILE, NEXT, failed};
use crate::open;
use crate::verify::{Contents, Verdict, contents, reading, verify};
use crate::{Store, StoreError};

/// The folder of the daily copies, beside the data file.
const FOLDER: &str = "backups";
/// So many days are kept, and so many weeks by their Monday, or the first day of the week that there was.
const DAYS: usize = 7;
const WEEKS: usize = 4;

/// A copy.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct Backup {
    /// Of which day.
    pub day: Date,
    /// Where.
    pub path: PathBuf,
    /// How large, in bytes.
    pub size: u64,
}

/// Copies a data file as it stands to a new one, whoever has it open.
///
/// # Errors
/// [`StoreError`] when there is something at the target already, no room, or no data.
pub async fn copy(from: &Path, to: &Path) -> Result<Contents, StoreError> {
    if to.exists() {
        return Err(StoreError::Taken(to.to_owned()));
    }
    let unfinished = to.with_extension("unfinished");
    fs::remove_file(&unfinished).ok();
    let done = copied(from, &unfinished).await;
    match done {
        Ok(found) => {
            fs::rename(&unfinished, to).map_err(failed(to))?;
            files::durable(to.parent().unwrap_or(Path::new(".")));
            Ok(found)
        }
        Err(error) => {
            fs::remove_file(&unfinished).ok();
            Err(error)
        }
    }
}

async fn copied(from: &Path, unfinished: &Path) -> Result<Contents, StoreError> {
    files::private(unfinished)?;
    let mut connection = reading(from).await?;
    let target = unfinished.to_string_lossy().replace('\'', "''");
    // An empty file of our own is there already, with nobody else's permissions: SQLite fills it.
    let into = AssertSqlSafe(format!("VACUUM INTO '{target}'"));
    sqlx::query(into).execute(&mut connection).await?;
    connection.close().await?;
    // What the copy holds, not what was written since.
    let mut connection = reading(unfinished).await?;
    let found = contents(&mut connection).await?;
    connection.close().await?;
    let file = File::open(unfinished).map_err(failed(unfinished))?;
    file.sync_all().map_err(failed(unfinished))?;
    Ok(found)
}

/// The data file of a folder.
pub fn file_of(folder: &Path) -> PathBuf {
    folder.join(FILE)
}

/// The daily copies beside a data file, the newest first.
pub fn backups(folder: &Path) -> Vec<Backup> {
    let Ok(found) = fs::read_dir(folder.join(FOLDER)) else {
        return Vec::new();
    };
    let mut all: Vec<Backup> = found
        .flatten()
        .filter_map(|entry| {
            let name = entry.file_name();
            let day = name
                .to_str()?
                .strip_prefix("gradimen-")?
                .strip_suffix(".db")?;
            Some(Backup {
                day: day.parse().ok()?,
                path: entry.path(),
                size: entry.metadata().ok()?.len(),
            })
        })
        .collect();
    all.sort_by_key(|backup| std::cmp::Reverse(backup.day));
    all
}

/// Which days are kept, of those that there are, the newest first: the last seven, and one of each of the four weeks before.
fn kept(days: &[Date]) -> Vec<Date> {
    let monday = |day: Date| {
        let since = i64::from(day.weekday().since(Weekday::Monday));
        let monday = day.checked_sub(jiff::Span::new().days(since));
        monday.unwrap_or(day)
    };
    let (daily, older) = days.split_at(days.len().min(DAYS));
    // The last of a week's days, the newest first, is the first that there was.
    let of_weeks = older.chunk_by(|one, other| monday(*one) == monday(*other));
    let weekly = of_weeks.filter_map(|week| week.last()).take(WEEKS);
    daily.iter().chain(weekly).copied().collect()
}

/// Makes today's copy where there is none yet, and lets go of those that are no longer kept; whether one was made.
///
/// # Errors
/// [`StoreError`] as [`copy`] gives it.
pub async fn daily(folder: &Path, today: Date) -> Result<bool, StoreError> {
    let beside = folder.join(FOLDER);
    let to = beside.join(format!("gradimen-{today}.db"));
    if to.exists() {
        return Ok(false);
    }
    files::private_folder(&beside)?;
    copy(&file_of(folder), &to).await?;
    let all = backups(folder);
    let days: Vec<Date> = all.iter().map(|backup| backup.day).collect();
    let kept = kept(&days);
    for backup in all.iter().filter(|backup| !kept.contains(&backup.day)) {
        fs::remove_file(&backup.path).ok();
    }
    Ok(true)
}

/// Looks at a copy and, where it is sound, has it take the data file's place at the next start.
///
/// # Errors
/// [`StoreError::Unsound`] with the first thing that does not hold.
pub async fn put_next(folder: &Path, from: &Path) -> Result<Contents, StoreError> {
    let found = sound(from).await?;
    let next = folder.join(NEXT);
    fs::remove_file(&next).ok();
    copy(from, &next).await?;
    Ok(found)
}

/// A copy that can be put back: every part of it holds.
async fn sound(from: &Path) -> Result<Contents, StoreError> {
    open::look(&from.to_owned()).await?;
    let Verdict { contents, problems } = verify(from).await?;
    match problems.first() {
        None => Ok(contents),
        Some(first) => Err(StoreError::Unsound {
            path: from.to_owned(),
            what: first.to_string(),
        }),
    }
}

/// Whether a copy waits for the next start.
pub fn waits(folder: &Path) -> bool {
    folder.join(NEXT).exists()
}

impl Store {
    /// Copies the file as it stands.
    ///
    /// # Errors
    /// As [`copy`].
    pub async fn backup(&self, to: &Path) -> Result<Contents, StoreError> {
        copy(&file_of(&self.folder), to).await
    }

    /// The folder of the data file.
    pub fn folder(&self) -> &Path {
        &self.folder
    }

    /// How many jobs there are.
    ///
    /// # Errors
    /// [`StoreError`] when the file cannot be read.
    pub async fn job_count(&self) -> Result<i64, StoreError> {
        let jobs = sqlx::query_scalar("SELECT count(*) FROM job");
        Ok(jobs.fetch_one(&self.readers).await?)
    }

    /// Whether something could be written now.
    pub async fn can_write(&self) -> bool {
        self.write(async |_| Ok(())).await.is_ok()
    }

    /// The entries of a job as they stand in the file, byte for byte: a line of place, time and form before each.
    ///
    /// # Errors
    /// [`StoreError`] when there is none, or not even its bytes can be read.
    pub async fn bytes_of(&self, job: i64) -> Result<Vec<u8>, StoreError> {
        type Row = (i64, Vec<u8>, i64, Vec<u8>);
        let rows: Vec<Row> = sqlx::query_as(
            "SELECT seq, CAST(at AS BLOB), version, CAST(body AS BLOB) FROM entry WHERE job_id = ? ORDER BY seq",
        )
        .bind(job)
        .fetch_all(&self.readers)
        .await?;
        if rows.is_empty() {
            return Err(StoreError::NoSuchJob(job));
        }
        let mut all = Vec::new();
        for (seq, at, version, body) in rows {
            all.extend_from_slice(format!("-- entry {seq}, form {version}, ").as_bytes());
            all.extend_from_slice(&at);
            all.push(b'\n');
            all.extend_from_slice(&body);
            all.push(b'\n');
        }
        Ok(all)
    }

    /// What it holds.
    ///
    /// # Errors
    /// [`StoreError`] when it cannot be read.
    pub async fn contents(&self) -> Result<Contents, StoreError> {
        let mut connection = self.readers.acquire().await?;
        contents(&mut connection).await
    }
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn seven_days_and_four_weeks_are_kept() {
        let newest: Date = "2026-11-27".parse().unwrap();
        let day = |ago: i64| newest.checked_sub(jiff::Span::new().days(ago)).unwrap();
        let days: Vec<Date> = (0..60).map(day).collect();
        let kept: Vec<String> = kept(&days).iter().map(ToString::to_string).collect();
        assert_eq!(
            kept,
            [
                "2026-11-27",
                "2026-11-26",
                "2026-11-25",
                "2026-11-24",
                "2026-11-23",
                "2026-11-22",
                "2026-11-21", // and the Mondays of the four weeks before those
                "2026-11-16",
                "2026-11-09",
                "2026-11-02",
                "2026-10-26",
            ]
        );
        assert_eq!(super::kept(&[newest]), [newest]);
        assert!(super::kept(&[]).is_empty());
    }
}
