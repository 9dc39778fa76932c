//! Sign-ins of a member: where they are signed in, and which of them were ended.

use sqlx::PgPool;
use uuid::Uuid;

use super::iso;
use crate::model::SignInView;

pub async fn begin(pool: &PgPool, member: Uuid, agent: &str) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!("INSERT INTO sign_ins (id, member_id, agent) VALUES ($1, $2, $3) RETURNING id", Uuid::new_v4(), member, agent).fetch_one(pool).await
}

/// Whether a sign-in holds.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Holds {
    Yes,
    /// It does, and it was noted that it was seen: once a minute at most.
    SeenAgain,
    No,
}

/// Whether a sign-in of a member still holds.
pub async fn holds(pool: &PgPool, id: Uuid, member: Uuid) -> Result<Holds, sqlx::Error> {
    let row = sqlx::query!(r#"SELECT ended_at, seen_at < now() - interval '1 minute' AS "stale!" FROM sign_ins WHERE id = $1 AND member_id = $2"#, id, member)
        .fetch_optional(pool)
        .await?;
    match row {
        Some(r) if r.ended_at.is_none() && r.stale => {
            sqlx::query!("UPDATE sign_ins SET seen_at = now() WHERE id = $1", id).execute(pool).await?;
            Ok(Holds::SeenAgain)
        }
        Some(r) if r.ended_at.is_none() => Ok(Holds::Yes),
        _ => Ok(Holds::No),
    }
}

/// Those that hold, the last seen first; older than their session's life are none.
pub async fn list(pool: &PgPool, member: Uuid, this: Option<Uuid>) -> Result<Vec<SignInView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT id, at, seen_at, agent FROM sign_ins WHERE member_id = $1 AND ended_at IS NULL AND seen_at > now() - interval '14 days' ORDER BY seen_at DESC",
        member
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|r| SignInView { id: r.id, at: iso(r.at), seen_at: iso(r.seen_at), agent: r.agent, this: Some(r.id) == this }).collect())
}

/// Ends one of a member's; false where there is none that holds.
pub async fn end(pool: &PgPool, member: Uuid, id: Uuid) -> Result<bool, sqlx::Error> {
    let done = sqlx::query!("UPDATE sign_ins SET ended_at = now() WHERE id = $1 AND member_id = $2 AND ended_at IS NULL", id, member).execute(pool).await?;
    Ok(done.rows_affected() > 0)
}

/// Ends all of a member's but one.
pub async fn end_others(pool: impl sqlx::PgExecutor<'_>, member: Uuid, but: Option<Uuid>) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE sign_ins SET ended_at = now() WHERE member_id = $1 AND ended_at IS NULL AND id IS DISTINCT FROM $2", member, but)
        .execute(pool)
        .await
        .map(drop)
}

/// Ends every sign-in of everybody.
pub async fn end_all(pool: &PgPool) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE sign_ins SET ended_at = now() WHERE ended_at IS NULL").execute(pool).await.map(drop)
}
