//! The shop: one row, replaced as a whole by whoever saw it last.

use gradimen_bench::model::Shop;
use jiff::Timestamp;

use crate::{Store, StoreError};

/// The shop as it is kept, and how often it was changed.
#[derive(Debug, Clone, PartialEq)]
pub struct KeptShop {
    /// What is kept; what a shop begins with where nothing is.
    pub shop: Shop,
    /// Changes so far.
    pub version: u32,
}

impl Store {
    /// The shop.
    ///
    /// # Errors
    /// [`StoreError`] where it cannot be read.
    pub async fn shop(&self) -> Result<KeptShop, StoreError> {
        let kept: Option<(i64, String)> =
            sqlx::query_as("SELECT version, body FROM shop WHERE id = 1")
                .fetch_optional(&self.readers)
                .await?;
        Ok(match kept {
            Some((version, body)) => KeptShop {
                shop: serde_json::from_str(&body)?,
                version: u32::try_from(version).unwrap_or(u32::MAX),
            },
            None => KeptShop {
                shop: Shop::default(),
                version: 0,
            },
        })
    }

    /// Keeps the shop whose version `seen` was edited.
    ///
    /// # Errors
    /// [`StoreError::Conflict`] when somebody else was quicker, [`StoreError::Shop`] for what cannot be.
    pub async fn keep_shop(&self, seen: u32, shop: &Shop, at: Timestamp) -> Result<(), StoreError> {
        shop.validate().map_err(StoreError::Shop)?;
        self.write(async |transaction| {
            let now: i64 = sqlx::query_scalar("SELECT version FROM shop WHERE id = 1")
                .fetch_optional(&mut *transaction)
                .await?
                .unwrap_or(0);
            if now != i64::from(seen) {
                return Err(StoreError::Conflict {
                    seen: u64::from(seen),
                    now: now.unsigned_abs(),
                });
            }
            write_shop(transaction, now + 1, shop, at).await
        })
        .await
    }
}

/// What a shop keeps of itself, as its next version.
pub(crate) async fn write_shop(
    transaction: &mut sqlx::SqliteConnection,
    version: i64,
    shop: &Shop,
    at: Timestamp,
) -> Result<(), StoreError> {
    sqlx::query(
                "INSERT INTO shop (id, version, changed_at, body) VALUES (1, ?, ?, ?)
                 ON CONFLICT (id) DO UPDATE SET version = excluded.version, changed_at = excluded.changed_at, body = excluded.body",
            )
            .bind(version)
            .bind(at.to_string())
            .bind(serde_json::to_string(shop)?)
            .execute(&mut *transaction)
            .await?;
    Ok(())
}
