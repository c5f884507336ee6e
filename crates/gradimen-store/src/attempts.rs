//! How often signing in may fail, by whom and from where, before whoever tries has to wait.

use std::net::IpAddr;

use sqlx::SqliteConnection;

use crate::StoreError;

/// This long after its last refusal a count begins anew, and longer than that nobody waits.
const FORGOTTEN: i64 = 3600;

/// Who tries, and how often each may fail before it waits: this name from there, anything from there, this name from anywhere.
pub(crate) fn counted(name: Option<&str>, from: IpAddr) -> Vec<(String, i64)> {
    // One household has a whole network of these.
    let from = match from {
        IpAddr::V4(from) => from.to_string(),
        IpAddr::V6(from) => {
            let [a, b, c, d, ..] = from.segments();
            format!("{a:x}:{b:x}:{c:x}:{d:x}")
        }
    };
    let by_name = name.map(|name| [(format!("{name}|{from}"), 5), (name.to_owned(), 50)]);
    std::iter::once((format!("|{from}"), 20))
        .chain(by_name.into_iter().flatten())
        .collect()
}

/// Seconds that are waited after so many failures: half a minute, and twice as long each time.
fn waits(failed: i64, allowed: i64) -> i64 {
    match u32::try_from(failed - allowed) {
        Ok(beyond) => 30_i64.saturating_mul(1 << beyond.min(20)).min(FORGOTTEN),
        Err(_) => 0,
    }
}

/// Counts an attempt as failed before it is looked at; how long is to be waited, where it is refused.
pub(crate) async fn counts(
    connection: &mut SqliteConnection,
    tried: &[(String, i64)],
    now: i64,
) -> Result<Option<i64>, StoreError> {
    let mut refused = 0;
    for (who, allowed) in tried {
        let found: Option<(i64, i64)> =
            sqlx::query_as("SELECT failed, until FROM attempt WHERE who = ?")
                .bind(who)
                .fetch_optional(&mut *connection)
                .await?;
        let (failed, until) = found.unwrap_or((0, now));
        refused = refused.max(until - now);
        let failed = if now - until > FORGOTTEN {
            1
        } else {
            failed + 1
        };
        if refused == 0 {
            sqlx::query("INSERT INTO attempt (who, failed, until) VALUES (?1, ?2, ?3) ON CONFLICT DO UPDATE SET failed = ?2, until = ?3")
                .bind(who)
                .bind(failed)
                .bind(now + waits(failed, *allowed))
                .execute(&mut *connection)
                .await?;
        }
    }
    Ok((refused > 0).then_some(refused))
}

/// What succeeded was no failure.
pub(crate) async fn forgiven(
    connection: &mut SqliteConnection,
    tried: &[(String, i64)],
    now: i64,
) -> Result<(), StoreError> {
    for (who, _) in tried {
        let query = if who.contains('|') && !who.starts_with('|') {
            "DELETE FROM attempt WHERE who = ?"
        } else {
            "UPDATE attempt SET failed = max(failed - 1, 0), until = 0 WHERE who = ?"
        };
        sqlx::query(query)
            .bind(who)
            .execute(&mut *connection)
            .await?;
    }
    sqlx::query("DELETE FROM attempt WHERE until < ? OR failed = 0")
        .bind(now - 24 * FORGOTTEN)
        .execute(&mut *connection)
        .await?;
    Ok(())
}
