//! Regions that are left out of one drawing: a slate, lettering, a logo. They go with its takes.

use eddymist_check::limits::LeftOut;
use sqlx::{Connection, PgConnection};
use uuid::Uuid;

use super::{document, value};
use crate::model::{Access, RegionView};

/// What is left out of a drawing, the first first.
pub async fn of(pool: impl sqlx::PgExecutor<'_>, drawing: Uuid) -> Result<Vec<RegionView>, sqlx::Error> {
    let rows =
        sqlx::query!("SELECT r.id, r.region, m.name FROM regions r JOIN members m ON m.id = r.by_id WHERE r.drawing_id = $1 ORDER BY r.at, r.id", drawing)
            .fetch_all(pool)
            .await?;
    rows.into_iter().map(|r| Ok(RegionView { id: r.id, region: document(r.region)?, by: r.name })).collect()
}

/// The drawing waits for its check: what is left out of it has changed.
async fn again(db: &mut PgConnection, drawing: Uuid) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE drawings SET state = 'waiting', queued_at = NULL, tries = 0 WHERE id = $1 AND NOT refused", drawing).execute(&mut *db).await?;
    sqlx::query!("UPDATE deliveries SET sequence = NULL WHERE id = (SELECT delivery_id FROM drawings WHERE id = $1)", drawing).execute(db).await.map(|_| ())
}

pub async fn add(db: &mut PgConnection, access: &Access, drawing: Uuid, region: &LeftOut) -> Result<Uuid, sqlx::Error> {
    let mut tx = db.begin().await?;
    let id = sqlx::query_scalar!(
        "INSERT INTO regions (id, drawing_id, region, by_id) VALUES ($1, $2, $3, $4) RETURNING id",
        Uuid::new_v4(),
        drawing,
        value(region)?,
        access.member.id
    )
    .fetch_one(&mut *tx)
    .await?;
    again(&mut tx, drawing).await?;
    tx.commit().await?;
    Ok(id)
}

/// Removes one; false where it is not there.
pub async fn remove(db: &mut PgConnection, drawing: Uuid, id: Uuid) -> Result<bool, sqlx::Error> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!("DELETE FROM regions WHERE id = $1 AND drawing_id = $2", id, drawing).execute(&mut *tx).await?.rows_affected() > 0;
    if done {
        again(&mut tx, drawing).await?;
    }
    tx.commit().await?;
    Ok(done)
}

/// What was left out of a take is left out of the next.
pub async fn follow(db: &mut PgConnection, from: Uuid, to: Uuid) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "INSERT INTO regions (id, drawing_id, region, by_id, at) SELECT gen_random_uuid(), $2, region, by_id, at FROM regions r WHERE drawing_id = $1
           AND NOT EXISTS (SELECT FROM regions o WHERE o.drawing_id = $2 AND o.region = r.region)",
        from,
        to
    )
    .execute(db)
    .await
    .map(|_| ())
}
