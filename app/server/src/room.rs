//! What each production's pictures take of the disk: added up now and then, since adding up ten thousand sizes for each picture that comes
//! would take longer than keeping it. Several servers may let a production over its share by what comes in a minute.

use std::{
    collections::HashMap,
    sync::{Mutex, PoisonError},
    time::{Duration, Instant},
};

use sqlx::PgPool;
use uuid::Uuid;

/// Added up again after so long.
const HOLDS: Duration = Duration::from_secs(60);

#[derive(Default)]
pub struct Room(Mutex<HashMap<Uuid, (Instant, i64)>>);

impl Room {
    /// Bytes that a production's pictures take.
    pub async fn used(&self, pool: &PgPool, production: Uuid) -> Result<i64, sqlx::Error> {
        let known = self.0.lock().unwrap_or_else(PoisonError::into_inner).get(&production).copied();
        if let Some((at, used)) = known
            && at.elapsed() < HOLDS
        {
            return Ok(used);
        }
        let used = eddymist_store::store::keeping::space(pool, production).await?.used_bytes;
        self.0.lock().unwrap_or_else(PoisonError::into_inner).insert(production, (Instant::now(), used));
        Ok(used)
    }

    /// A picture was added.
    pub fn add(&self, production: Uuid, bytes: i64) {
        if let Some((_, used)) = self.0.lock().unwrap_or_else(PoisonError::into_inner).get_mut(&production) {
            *used += bytes;
        }
    }
}
