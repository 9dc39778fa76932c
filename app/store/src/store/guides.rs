//! Line guides: immutable versions and a pointer to the current one.

use eddymist_check::LineGuide;
use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, GuideView, PAGE};

pub async fn create(db: &mut PgConnection, access: &Access, guide: &LineGuide) -> Result<Uuid, sqlx::Error> {
    let id = Uuid::new_v4();
    let mut tx = db.begin().await?;
    sqlx::query!("INSERT INTO guides (id, production_id, current_version) VALUES ($1, $2, 1)", id, access.production).execute(&mut *tx).await?;
    sqlx::query!("INSERT INTO guide_versions (guide_id, version, guide, created_by) VALUES ($1, 1, $2, $3)", id, value(guide)?, access.member.id)
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    Ok(id)
}

pub async fn list(pool: &PgPool, production: Uuid) -> Result<Vec<GuideView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT g.id, v.version, v.guide, v.note, v.created_at, m.name FROM guides g JOIN guide_versions v ON v.guide_id = g.id AND v.version = g.current_version JOIN members m ON m.id = v.created_by
         JOIN guide_versions f ON f.guide_id = g.id AND f.version = 1 WHERE g.production_id = $1 AND g.archived_at IS NULL ORDER BY f.created_at",
        production
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| Ok(GuideView { id: r.id, version: r.version, guide: document(r.guide)?, by: r.name, at: iso(r.created_at), note: r.note }))
        .collect()
}

/// The current version.
pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<GuideView>, sqlx::Error> {
    Ok(list(pool, production).await?.into_iter().find(|g| g.id == id))
}

/// Adds a version; the error is the version that is current, where the edit was stale.
pub async fn save(db: &mut PgConnection, access: &Access, id: Uuid, from: i32, guide: &LineGuide, note: &str) -> Result<Result<i32, i32>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let current = sqlx::query_scalar!("SELECT current_version FROM guides WHERE production_id = $1 AND id = $2 FOR UPDATE", access.production, id)
        .fetch_one(&mut *tx)
        .await?;
    if current != from {
        return Ok(Err(current));
    }
    let next = current + 1;
    sqlx::query!(
        "INSERT INTO guide_versions (guide_id, version, guide, created_by, note) VALUES ($1, $2, $3, $4, $5)",
        id,
        next,
        value(guide)?,
        access.member.id,
        note
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("UPDATE guides SET current_version = $2 WHERE id = $1", id, next).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(Ok(next))
}

/// Its versions, the newest first, so many at a time: those older than one of them.
pub async fn versions(pool: &PgPool, production: Uuid, id: Uuid, before: Option<i32>) -> Result<Vec<GuideView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT g.id, v.version, v.guide, v.note, v.created_at, m.name FROM guides g JOIN guide_versions v ON v.guide_id = g.id JOIN members m ON m.id = v.created_by
         WHERE g.production_id = $1 AND g.id = $2 AND ($3::int IS NULL OR v.version < $3) ORDER BY v.version DESC LIMIT $4",
        production,
        id,
        before,
        PAGE as i64
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| Ok(GuideView { id: r.id, version: r.version, guide: document(r.guide)?, by: r.name, at: iso(r.created_at), note: r.note }))
        .collect()
}

/// The newest delivery that was checked against a guide: which, its name.
pub async fn newest_delivery(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<(Uuid, String)>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT d.id, d.name FROM deliveries d WHERE d.production_id = $1 AND d.guide_id = $2 AND d.archived_at IS NULL
           AND EXISTS (SELECT FROM drawings WHERE delivery_id = d.id AND NOT superseded AND state = 'done') ORDER BY d.created_at DESC LIMIT 1",
        production,
        id
    )
    .fetch_optional(pool)
    .await?;
    Ok(row.map(|r| (r.id, r.name)))
}
