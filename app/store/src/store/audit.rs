//! The log of a production: who changed what, when, from which version.

use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::iso;
use crate::model::{Access, LogRow, Shows, Subject};

/// So many drawings of one act are shown in its row.
const PICTURES: usize = 3;

/// Writes one row.
pub async fn log(db: &mut PgConnection, access: &Access, action: &str, subject: &str) -> Result<(), sqlx::Error> {
    versions(db, access, action, subject, None, [None; 2]).await
}

/// Writes one row of what can be shown as pictures.
pub async fn pictured(db: &mut PgConnection, access: &Access, action: &str, subject: &str, shows: Subject, ids: &[Uuid]) -> Result<(), sqlx::Error> {
    versions(db, access, action, subject, Some((shows, ids)), [None; 2]).await
}

/// Writes one row of a change from a version to another. Work that is kept again and again, such as a trial page's, stands once for
/// ten minutes of it, with the last version.
pub async fn versions(
    db: &mut PgConnection,
    access: &Access,
    action: &str,
    subject: &str,
    shows: Option<(Subject, &[Uuid])>,
    [from, to]: [Option<i32>; 2],
) -> Result<(), sqlx::Error> {
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
    let ids = shows.map_or(&[][..], |(_, ids)| &ids[..ids.len().min(PICTURES)]);
    sqlx::query!(
        "INSERT INTO audit (production_id, member_id, action, subject, from_version, to_version, shows, shown) VALUES ($1, $2, $3, $4, $5, $6, $7, $8)",
        access.production,
        access.member.id,
        action,
        subject,
        from,
        to,
        shows.map(|s| s.0.name()),
        ids
    )
    .execute(&mut *db)
    .await
    .map(|_| ())
}

/// Writes one row of drawings that came into a delivery. An upload comes in parts: while nothing else is written, ten minutes of it are one row.
pub async fn added(db: &mut PgConnection, access: &Access, delivery: &str, drawings: &[Uuid]) -> Result<(), sqlx::Error> {
    let (action, to) = ("drawings added", format!(" to {delivery}"));
    let more = sqlx::query!(
        "UPDATE audit SET subject = (split_part(subject, ' ', 1)::bigint + $5)::text || $4, shown = (shown || $6::uuid[])[1:$7]
         WHERE id = (SELECT id FROM audit WHERE production_id = $1 ORDER BY id DESC LIMIT 1) AND member_id = $2 AND action = $3
           AND subject ~ '^[0-9]{1,9} ' AND substr(subject, position(' ' in subject)) = $4 AND at > now() - interval '10 minutes'",
        access.production,
        access.member.id,
        action,
        to,
        drawings.len() as i64,
        drawings,
        PICTURES as i32
    )
    .execute(&mut *db)
    .await?;
    if more.rows_affected() > 0 {
        return Ok(());
    }
    pictured(db, access, action, &format!("{}{to}", drawings.len()), Subject::Drawing, drawings).await
}

/// A hundred rows before a row, the last first.
pub async fn read(pool: &PgPool, production: Uuid, before: Option<i64>) -> Result<Vec<LogRow>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT a.id, a.at, a.action, a.subject, a.from_version, a.to_version, a.shows, a.shown,
             ARRAY(SELECT w.id FROM drawings w WHERE w.id = ANY(a.shown) ORDER BY array_position(a.shown, w.id)) AS "drawings!",
             ARRAY(SELECT w.sha256 FROM drawings w WHERE w.id = ANY(a.shown) ORDER BY array_position(a.shown, w.id)) AS "pictures!",
             m.name AS "by?" FROM audit a LEFT JOIN members m ON m.id = a.member_id
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
            shows: r.shows.and_then(|s| Subject::from_name(&s)).map(|what| Shows {
                what,
                ids: if what == Subject::Drawing { r.drawings } else { r.shown },
                pictures: r.pictures,
            }),
        })
        .collect())
}
