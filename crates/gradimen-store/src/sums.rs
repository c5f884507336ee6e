//! Sums over what is never changed: every entry over itself and the sum before it, every version of a record over itself.

use sha2::{Digest, Sha256};
use sqlx::SqliteConnection;

use crate::StoreError;

/// A sum: SHA-256.
pub(crate) type Sum = [u8; 32];

/// What the first entry of a journal goes on from.
pub(crate) const BEGINNING: Sum = [0; 32];

/// What an entry consists of, as the file holds it.
#[derive(Debug, Clone, Copy)]
pub(crate) struct Parts<'a> {
    pub(crate) job: i64,
    pub(crate) seq: i64,
    pub(crate) at: &'a [u8],
    pub(crate) version: i64,
    pub(crate) stroke: Option<i64>,
    pub(crate) body: &'a [u8],
    /// Who told it, where that is known.
    pub(crate) by: Option<&'a [u8]>,
}

fn with_length(hash: &mut Sha256, bytes: &[u8]) {
    hash.update((bytes.len() as u64).to_le_bytes());
    hash.update(bytes);
}

/// The sum of an entry, given the one before it.
pub(crate) fn of_entry(before: &Sum, parts: &Parts<'_>) -> Sum {
    let mut hash = Sha256::new();
    hash.update(before);
    hash.update(parts.job.to_le_bytes());
    hash.update(parts.seq.to_le_bytes());
    hash.update(parts.version.to_le_bytes());
    hash.update(parts.stroke.unwrap_or(-1).to_le_bytes());
    with_length(&mut hash, parts.at);
    with_length(&mut hash, parts.body);
    // What was written before anybody could sign in keeps its sum.
    if let Some(by) = parts.by {
        with_length(&mut hash, by);
    }
    hash.finalize().into()
}

/// The sum of a version of a record.
pub(crate) fn of_version(instrument: i64, version: i64, at: &[u8], body: &[u8]) -> Sum {
    let mut hash = Sha256::new();
    hash.update(instrument.to_le_bytes());
    hash.update(version.to_le_bytes());
    with_length(&mut hash, at);
    with_length(&mut hash, body);
    hash.finalize().into()
}

/// A sum over words, as it is written.
pub(crate) fn of_words<'a>(words: impl Iterator<Item = &'a str>) -> String {
    let mut hash = Sha256::new();
    for word in words {
        with_length(&mut hash, word.as_bytes());
    }
    let sum: Sum = hash.finalize().into();
    sum.iter().map(|byte| format!("{byte:02x}")).collect()
}

/// The sum that a journal stands at.
pub(crate) async fn last(connection: &mut SqliteConnection, job: i64) -> Result<Sum, StoreError> {
    let found: Option<Vec<u8>> =
        sqlx::query_scalar("SELECT sum FROM entry_sum WHERE job_id = ? ORDER BY seq DESC LIMIT 1")
            .bind(job)
            .fetch_optional(connection)
            .await?;
    Ok(found
        .and_then(|sum| sum.try_into().ok())
        .unwrap_or(BEGINNING))
}

/// Writes the sum of an entry.
pub(crate) async fn write(
    connection: &mut SqliteConnection,
    job: i64,
    seq: i64,
    sum: &Sum,
) -> Result<(), StoreError> {
    sqlx::query("INSERT INTO entry_sum (job_id, seq, sum) VALUES (?, ?, ?)")
        .bind(job)
        .bind(seq)
        .bind(&sum[..])
        .execute(connection)
        .await?;
    Ok(())
}

/// Writes the sum of a version.
pub(crate) async fn write_version(
    connection: &mut SqliteConnection,
    instrument: i64,
    version: i64,
    at: &str,
    body: &str,
) -> Result<(), StoreError> {
    let sum = of_version(instrument, version, at.as_bytes(), body.as_bytes());
    sqlx::query("INSERT INTO version_sum (instrument_id, version, sum) VALUES (?, ?, ?)")
        .bind(instrument)
        .bind(version)
        .bind(&sum[..])
        .execute(connection)
        .await?;
    Ok(())
}

/// Sums what was written before there were sums.
pub(crate) async fn catch_up(connection: &mut SqliteConnection) -> Result<(), StoreError> {
    type Row = (i64, i64, String, i64, Option<i64>, String);
    let rows: Vec<Row> = sqlx::query_as(
        "SELECT job_id, seq, at, version, stroke, body FROM entry WHERE NOT EXISTS (SELECT 1 FROM entry_sum WHERE entry_sum.job_id = entry.job_id AND entry_sum.seq = entry.seq) ORDER BY job_id, seq",
    )
    .fetch_all(&mut *connection)
    .await?;
    let mut before = (0, BEGINNING);
    for (job, seq, at, version, stroke, body) in rows {
        if before.0 != job {
            before = (job, last(connection, job).await?);
        }
        let parts = Parts {
            job,
            seq,
            at: at.as_bytes(),
            version,
            stroke,
            body: body.as_bytes(),
            by: None,
        };
        before.1 = of_entry(&before.1, &parts);
        write(connection, job, seq, &before.1).await?;
    }
    let rows: Vec<(i64, i64, String, String)> = sqlx::query_as(
        "SELECT instrument_id, version, at, body FROM instrument_version WHERE NOT EXISTS (SELECT 1 FROM version_sum WHERE version_sum.instrument_id = instrument_version.instrument_id AND version_sum.version = instrument_version.version)",
    )
    .fetch_all(&mut *connection)
    .await?;
    for (instrument, version, at, body) in rows {
        write_version(connection, instrument, version, &at, &body).await?;
    }
    Ok(())
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn an_entry_is_summed_as_another_program_would() {
        // Python: hashlib.sha256(bytes(32) + struct.pack('<qqqq', 1, 1, 2, 1) + struct.pack('<Q', 1) + b't'
        //         + struct.pack('<Q', 2) + b'{}').hexdigest()
        let parts = Parts {
            job: 1,
            seq: 1,
            at: b"t",
            version: 2,
            stroke: Some(1),
            body: b"{}",
            by: None,
        };
        let sum = of_entry(&BEGINNING, &parts);
        let hex: String = sum.iter().map(|byte| format!("{byte:02x}")).collect();
        assert_eq!(
            hex,
            "0a6821c50c1b900e79607c3351f4bf030405c8973460e6d63702fb3f977f2744"
        );
        // Each hangs on the one before it, and on every part of itself.
        assert_ne!(of_entry(&sum, &parts), sum);
        assert_ne!(of_entry(&BEGINNING, &Parts { at: b"u", ..parts }), sum);
        assert_ne!(
            of_entry(
                &BEGINNING,
                &Parts {
                    stroke: None,
                    ..parts
                }
            ),
            sum
        );
        let by = Some(&b"mira"[..]);
        assert_ne!(of_entry(&BEGINNING, &Parts { by, ..parts }), sum);
    }
}
