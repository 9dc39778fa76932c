//! The log of a production: who changed what, when, from which version.

use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::iso;
use crate::model::{Access, LogRow};

/// Writes one row.
pub async fn log(db: &mut PgConnection, access: &Access, action: &str, subject: &str) -> Result<(), sqlx::Error> {
    versions(db, access, action, subject, None, None).await
}

/// Writes one row of a change from a version to another. Work that is kept again and again, such as a trial page's, stands once for
/// ten minutes of it, with the last version.
pub async fn versions(db: &mut PgConnection, access: &Access, action: &str, subject: &str, from: Option<i32>, to: Option<i32>) -> Result<(), sqlx::Error> {
    if action == "trial page saved" {
        let again = sqlx::query!(
            "UPDATE audit SET to_version = $5 WHERE id = (SELECT id FROM audit WHERE production_id = $1 AND member_id = $2 AND action = $3 AND subject = $4
               AND at > now() - interval '10 minutes' ORDER BY id DESC LIMIT 1)",
            access.production,
            access.member.id,
            action,
            subject,
            to
        )
        .execute(&mut *db)
        .await?;
        if again.rows_affected() > 0 {
            return Ok(());
        }
    }
    sqlx::query!(
        "INSERT INTO audit (production_id, member_id, action, subject, from_version, to_version) VALUES ($1, $2, $3, $4, $5, $6)",
        access.production,
        access.member.id,
        action,
        subject,
        from,
        to
    )
    .execute(&mut *db)
    .await
    .map(|_| ())
}

/// A hundred rows before a row, the last first.
pub async fn read(pool: &PgPool, production: Uuid, before: Option<i64>) -> Result<Vec<LogRow>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT a.id, a.at, a.action, a.subject, a.from_version, a.to_version, m.name AS "by?" FROM audit a LEFT JOIN members m ON m.id = a.member_id
           WHERE a.production_id = $1 AND ($2::bigint IS NULL OR a.id < $2) ORDER BY a.id DESC LIMIT 100"#,
        production,
        before
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| LogRow {
            id: r.id,
            at: iso(r.at),
            by: r.by.unwrap_or_else(|| "the program".into()),
            action: r.action,
            subject: r.subject,
            from_version: r.from_version,
            to_version: r.to_version,
        })
        .collect())
}
