//! Pictures, stored once by their SHA-256.

use sha2::{Digest, Sha256};
use sqlx::PgPool;
use uuid::Uuid;

/// Stores a picture for a production and returns its hash.
pub async fn keep(pool: &PgPool, production: Uuid, media_type: &str, bytes: &[u8]) -> Result<String, sqlx::Error> {
    let sha: String = Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect();
    sqlx::query!("INSERT INTO images (sha256, media_type, bytes) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING", sha, media_type, bytes).execute(pool).await?;
    sqlx::query!("INSERT INTO production_images (production_id, sha256) VALUES ($1, $2) ON CONFLICT DO NOTHING", production, sha).execute(pool).await?;
    Ok(sha)
}

/// Media type and bytes of a picture that the production holds.
pub async fn read(pool: &PgPool, production: Uuid, sha: &str) -> Result<Option<(String, Vec<u8>)>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT i.media_type, i.bytes FROM images i JOIN production_images p USING (sha256) WHERE p.production_id = $1 AND i.sha256 = $2",
        production,
        sha
    )
    .fetch_optional(pool)
    .await?;
    Ok(row.map(|r| (r.media_type, r.bytes)))
}
