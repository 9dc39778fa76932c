//! Pictures, stored once by their SHA-256, and what was made of them for a page.

use sqlx::PgPool;
use uuid::Uuid;

use super::sha256;
use crate::pictures::Pictures;

/// What became of a picture that came.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Kept {
    /// Its SHA-256, and whether the production has it only now.
    As(String, bool),
    /// The production's share of the disk is used up.
    OverQuota { quota: i64 },
}

/// Stores a picture for a production whose pictures take so many bytes so far.
pub async fn keep(pictures: &Pictures, production: Uuid, used: i64, media_type: &str, bytes: &[u8]) -> Result<Kept, sqlx::Error> {
    let sha = sha256(bytes);
    let mut tx = pictures.pool.begin().await?;
    // It is as if it came now: what is swept away is what nothing refers to for a day.
    let there = sqlx::query!("UPDATE production_images SET at = now() WHERE production_id = $1 AND sha256 = $2", production, sha).execute(&mut *tx).await?;
    if there.rows_affected() > 0 {
        tx.commit().await?;
        return Ok(Kept::As(sha, false));
    }
    let quota = sqlx::query_scalar!("SELECT quota_bytes FROM productions WHERE id = $1", production).fetch_one(&mut *tx).await?;
    if used + bytes.len() as i64 > quota {
        return Ok(Kept::OverQuota { quota });
    }
    // Bytes before the row that refers to them. What is there already is locked against a sweep; what is being swept is written again.
    pictures.put(&sha, bytes).await?;
    sqlx::query!(
        "INSERT INTO images (sha256, media_type, bytes, size) VALUES ($1, $2, $3, $4) ON CONFLICT (sha256) DO UPDATE SET media_type = images.media_type",
        sha,
        media_type,
        (!pictures.are_elsewhere()).then_some(bytes),
        bytes.len() as i64
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "INSERT INTO production_images (production_id, sha256, size) VALUES ($1, $2, $3) ON CONFLICT (production_id, sha256) DO UPDATE SET at = now()",
        production,
        sha,
        bytes.len() as i64
    )
    .execute(&mut *tx)
    .await?;
    pictures.put_again(&sha, bytes).await?;
    tx.commit().await?;
    Ok(Kept::As(sha, true))
}

/// Media type and bytes of a picture that the production holds.
pub async fn read(pictures: &Pictures, production: Uuid, sha: &str) -> Result<Option<(String, Vec<u8>)>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT i.media_type, i.bytes FROM images i JOIN production_images p USING (sha256) WHERE p.production_id = $1 AND i.sha256 = $2",
        production,
        sha
    )
    .fetch_optional(&pictures.pool)
    .await?;
    match row {
        Some(r) => Ok(Some((r.media_type, pictures.bytes(sha, r.bytes).await?))),
        None => Ok(None),
    }
}

/// The media type of a picture that the production holds, without reading it.
pub async fn media_type(pool: &PgPool, production: Uuid, sha: &str) -> Result<Option<String>, sqlx::Error> {
    sqlx::query_scalar!(
        "SELECT i.media_type FROM images i JOIN production_images p USING (sha256) WHERE p.production_id = $1 AND i.sha256 = $2",
        production,
        sha
    )
    .fetch_optional(pool)
    .await
}

/// How many of these pictures the production holds.
pub async fn held(pool: &PgPool, production: Uuid, shas: &[String]) -> Result<i64, sqlx::Error> {
    sqlx::query_scalar!(r#"SELECT count(*) AS "n!" FROM production_images WHERE production_id = $1 AND sha256 = ANY($2)"#, production, shas)
        .fetch_one(pool)
        .await
}

/// What was made of a picture before, by what it is.
pub async fn derived(pool: &PgPool, sha: &str, kind: &str) -> Result<Option<Vec<u8>>, sqlx::Error> {
    sqlx::query_scalar!("SELECT bytes FROM derived_images WHERE sha256 = $1 AND kind = $2", sha, kind).fetch_optional(pool).await
}

/// Keeps what was made of a picture, for as long as the picture is kept.
pub async fn keep_derived(pool: &PgPool, sha: &str, kind: &str, bytes: &[u8]) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "INSERT INTO derived_images (sha256, kind, bytes) SELECT sha256, $2, $3 FROM images WHERE sha256 = $1 ON CONFLICT DO NOTHING",
        sha,
        kind,
        bytes
    )
    .execute(pool)
    .await
    .map(drop)
}
