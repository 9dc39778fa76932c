//! What a machine keeps and what it sweeps away.

use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use crate::{model::Space, pictures::Pictures};

/// What a production takes of the disk for pictures, and may take.
pub async fn space(pool: &PgPool, production: Uuid) -> Result<Space, sqlx::Error> {
    let r = sqlx::query!(
        r#"SELECT p.quota_bytes, o.used AS "used!", o.pictures AS "pictures!" FROM productions p,
             LATERAL (SELECT coalesce(sum(size), 0)::bigint AS used, count(*) AS pictures FROM production_images WHERE production_id = p.id) o WHERE p.id = $1"#,
        production
    )
    .fetch_one(pool)
    .await?;
    Ok(Space { used_bytes: r.used, quota_bytes: r.quota_bytes, pictures: r.pictures })
}

pub async fn set_quota(db: &mut PgConnection, production: Uuid, bytes: i64) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE productions SET quota_bytes = $2 WHERE id = $1", production, bytes).execute(db).await.map(drop)
}

/// What was swept away.
#[derive(Debug, Default, PartialEq, Eq)]
pub struct Swept {
    pub pictures: u64,
    pub rows: u64,
}

/// Sweeps away what nothing refers to for a day, and what has ended: one process at a time. None where another is at it.
pub async fn sweep(pictures: &Pictures) -> Result<Option<Swept>, sqlx::Error> {
    let mut tx = pictures.pool.begin().await?;
    // Any number that nothing else holds by.
    if !sqlx::query_scalar!(r#"SELECT pg_try_advisory_xact_lock(7231064105) AS "mine!""#).fetch_one(&mut *tx).await? {
        return Ok(None);
    }
    let mut swept = Swept::default();
    sqlx::query!(
        "DELETE FROM production_images i WHERE i.at < now() - interval '1 day'
           AND NOT EXISTS (SELECT FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = i.production_id AND w.sha256 = i.sha256)
           AND NOT EXISTS (SELECT FROM pens p WHERE p.production_id = i.production_id AND p.scan_sha256 = i.sha256)
           AND NOT EXISTS (SELECT FROM trial_pages t WHERE t.production_id = i.production_id AND t.pictures @> ARRAY[i.sha256])"
    )
    .execute(&mut *tx)
    .await?;
    let gone = sqlx::query_scalar!(
        "DELETE FROM images m WHERE NOT EXISTS (SELECT FROM production_images i WHERE i.sha256 = m.sha256)
           AND NOT EXISTS (SELECT FROM drawings w WHERE w.sha256 = m.sha256) AND NOT EXISTS (SELECT FROM pens p WHERE p.scan_sha256 = m.sha256)
         RETURNING m.sha256"
    )
    .fetch_all(&mut *tx)
    .await?;
    // While their rows are locked: who brings one of them again waits, and then looks whether it is there.
    pictures.remove(&gone).await?;
    swept.pictures = gone.len() as u64;
    swept.rows += sqlx::query!("DELETE FROM sign_ins WHERE ended_at < now() - interval '30 days' OR seen_at < now() - interval '60 days'")
        .execute(&mut *tx)
        .await?
        .rows_affected();
    swept.rows += sqlx::query!("DELETE FROM sign_in_failures WHERE last_at < now() - interval '1 day'").execute(&mut *tx).await?.rows_affected();
    swept.rows += sqlx::query!("DELETE FROM setup_codes WHERE EXISTS (SELECT FROM members)").execute(&mut *tx).await?.rows_affected();
    // Tables of the queue and of the sessions, which are not ours: their queries are not checked when this is compiled.
    for sql in [
        "DELETE FROM apalis.jobs WHERE status IN ('Done', 'Failed', 'Killed') AND coalesce(done_at, run_at) < now() - interval '1 day'",
        "DELETE FROM tower_sessions.session WHERE expiry_date < now()",
    ] {
        swept.rows += sqlx::query(sql).execute(&mut *tx).await?.rows_affected();
    }
    tx.commit().await?;
    Ok(Some(swept))
}

/// How much there is of what is counted.
pub struct Counts {
    pub waiting: i64,
    pub pictures: i64,
    pub picture_bytes: i64,
}

pub async fn counts(pool: &PgPool) -> Result<Counts, sqlx::Error> {
    sqlx::query_as!(
        Counts,
        r#"SELECT (SELECT count(*) FROM drawings WHERE state = 'waiting' AND NOT superseded) AS "waiting!",
                  (SELECT count(*) FROM images) AS "pictures!", (SELECT coalesce(sum(size), 0) FROM images)::bigint AS "picture_bytes!""#
    )
    .fetch_one(pool)
    .await
}
