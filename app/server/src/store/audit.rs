//! The log of a production: who changed what, when.

use sqlx::PgPool;

use crate::access::Access;

/// Writes one row.
pub async fn log(pool: &PgPool, access: &Access, action: &str, subject: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("INSERT INTO audit (production_id, member_id, action, subject) VALUES ($1, $2, $3, $4)", access.production, access.member.id, action, subject)
        .execute(pool)
        .await
        .map(|_| ())
}
