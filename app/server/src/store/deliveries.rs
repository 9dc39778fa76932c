//! Deliveries, their drawings and what the checks found.

use eddymist_check::{LineGuide, Manifest, WeighedDrawing};
use sqlx::PgPool;
use uuid::Uuid;

use super::{document, iso, value};
use crate::{
    access::Access,
    views::{DeliverySummary, DrawingSummary, DrawingView, NewDelivery},
};

pub async fn create(pool: &PgPool, access: &Access, new: &NewDelivery, guide_version: i32) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO deliveries (id, production_id, name, pattern, guide_id, guide_version, created_by) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id",
        Uuid::new_v4(),
        access.production,
        new.name.trim(),
        new.pattern.trim(),
        new.guide_id,
        guide_version,
        access.member.id
    )
    .fetch_one(pool)
    .await
}

pub async fn list(pool: &PgPool, production: Uuid) -> Result<Vec<DeliverySummary>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT d.id, d.name, d.created_at, count(w.id) AS "drawings!", count(w.id) FILTER (WHERE w.state = 'done') AS "done!",
                  count(w.id) FILTER (WHERE w.state = 'failed') AS "failed!", count(w.id) FILTER (WHERE w.result->>'hand_on' = 'return') AS "to_return!"
           FROM deliveries d LEFT JOIN drawings w ON w.delivery_id = d.id WHERE d.production_id = $1 GROUP BY d.id ORDER BY d.created_at"#,
        production
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| DeliverySummary {
            id: r.id,
            name: r.name,
            drawings: r.drawings,
            done: r.done,
            failed: r.failed,
            to_return: r.to_return,
            at: iso(r.created_at),
        })
        .collect())
}

/// A delivery's own row.
pub struct Delivery {
    pub name: String,
    pub pattern: String,
    pub guide_id: Uuid,
    pub guide_version: i32,
    pub guide: LineGuide,
}

pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<Delivery>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT d.name, d.pattern, d.guide_id, d.guide_version, g.guide FROM deliveries d JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version WHERE d.production_id = $1 AND d.id = $2",
        production, id
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| Ok(Delivery { name: r.name, pattern: r.pattern, guide_id: r.guide_id, guide_version: r.guide_version, guide: document(r.guide)? })).transpose()
}

/// The drawings of a delivery, unordered.
pub async fn drawings(pool: &PgPool, delivery: Uuid) -> Result<Vec<DrawingSummary>, sqlx::Error> {
    let rows = sqlx::query!("SELECT id, file, state, message, manifest, result FROM drawings WHERE delivery_id = $1", delivery).fetch_all(pool).await?;
    rows.into_iter()
        .map(|r| {
            Ok(DrawingSummary {
                id: r.id,
                file: r.file,
                state: r.state,
                message: r.message,
                manifest: document(r.manifest)?,
                check: r.result.map(document).transpose()?,
            })
        })
        .collect()
}

/// How many are waiting, done and failed.
pub async fn progress(pool: &PgPool, delivery: Uuid) -> Result<(i64, i64, i64), sqlx::Error> {
    let r = sqlx::query!(
        r#"SELECT count(*) FILTER (WHERE state = 'waiting') AS "waiting!", count(*) FILTER (WHERE state = 'done') AS "done!", count(*) FILTER (WHERE state = 'failed') AS "failed!" FROM drawings WHERE delivery_id = $1"#,
        delivery
    )
    .fetch_one(pool)
    .await?;
    Ok((r.waiting, r.done, r.failed))
}

/// Adds a drawing; one of the same name takes the earlier one's place and is weighed again.
pub async fn add_drawing(pool: &PgPool, delivery: Uuid, file: &str, sha: &str, manifest: &Manifest) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO drawings (id, delivery_id, file, sha256, manifest) VALUES ($1, $2, $3, $4, $5)
         ON CONFLICT (delivery_id, file) DO UPDATE SET sha256 = excluded.sha256, manifest = excluded.manifest, state = 'waiting', message = NULL, result = NULL, lines = NULL RETURNING id",
        Uuid::new_v4(), delivery, file, sha, value(manifest)?
    )
    .fetch_one(pool)
    .await
}

/// A file that could not be taken stands in the delivery with its reason.
pub async fn add_failed(pool: &PgPool, delivery: Uuid, file: &str, sha: &str, message: &str) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "INSERT INTO drawings (id, delivery_id, file, sha256, manifest, state, message) VALUES ($1, $2, $3, $4, '{}', 'failed', $5)
         ON CONFLICT (delivery_id, file) DO UPDATE SET sha256 = excluded.sha256, state = 'failed', message = excluded.message, result = NULL, lines = NULL",
        Uuid::new_v4(),
        delivery,
        file,
        sha,
        message
    )
    .execute(pool)
    .await
    .map(|_| ())
}

/// Reads names anew: sets the pattern and every drawing's manifest.
pub async fn set_pattern(pool: &PgPool, delivery: Uuid, pattern: &str, manifests: &[(Uuid, Manifest)]) -> Result<(), sqlx::Error> {
    let mut tx = pool.begin().await?;
    sqlx::query!("UPDATE deliveries SET pattern = $2 WHERE id = $1", delivery, pattern).execute(&mut *tx).await?;
    for (id, manifest) in manifests {
        sqlx::query!("UPDATE drawings SET manifest = $2, result = jsonb_set(result, '{manifest}', $2) WHERE id = $1", id, value(manifest)?)
            .execute(&mut *tx)
            .await?;
    }
    tx.commit().await
}

/// What a check needs.
pub struct Task {
    pub guide: LineGuide,
    pub file: String,
    pub bytes: Vec<u8>,
    pub manifest: Manifest,
}

/// The task of a drawing that waits.
pub async fn task(pool: &PgPool, drawing: Uuid) -> Result<Option<Task>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT w.file, w.manifest, i.bytes, g.guide FROM drawings w JOIN deliveries d ON d.id = w.delivery_id JOIN images i ON i.sha256 = w.sha256
         JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version WHERE w.id = $1 AND w.state = 'waiting'",
        drawing
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| Ok(Task { guide: document(r.guide)?, file: r.file, bytes: r.bytes, manifest: document(r.manifest)? })).transpose()
}

/// Writes down what was found.
pub async fn finish(pool: &PgPool, drawing: Uuid, result: Result<WeighedDrawing, String>) -> Result<(), sqlx::Error> {
    match result {
        Ok(w) => {
            sqlx::query!(
                "UPDATE drawings SET state = 'done', message = NULL, result = $2, lines = $3 WHERE id = $1",
                drawing,
                value(&w.check)?,
                value(&w.lines)?
            )
            .execute(pool)
            .await?
        }
        Err(message) => sqlx::query!("UPDATE drawings SET state = 'failed', message = $2 WHERE id = $1", drawing, message).execute(pool).await?,
    };
    Ok(())
}

/// Drawings that wait, of all deliveries: after a restart their jobs may have been lost with the queue.
pub async fn waiting(pool: &PgPool, delivery: Uuid) -> Result<Vec<Uuid>, sqlx::Error> {
    sqlx::query_scalar!("SELECT id FROM drawings WHERE delivery_id = $1 AND state = 'waiting'", delivery).fetch_all(pool).await
}

/// One drawing with its lines.
pub async fn drawing(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<DrawingView>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT w.id, w.file, w.sha256, w.result, w.lines FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = $1 AND w.id = $2",
        production,
        id
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| {
        Ok(DrawingView {
            id: r.id,
            file: r.file,
            sha256: r.sha256,
            check: r.result.map(document).transpose()?,
            lines: r.lines.map(document).transpose()?.unwrap_or_default(),
        })
    })
    .transpose()
}
