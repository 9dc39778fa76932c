//! Invitations into a production: the link's secret is known to its receiver alone, its hash is kept.

use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::{iso, members};
use crate::model::{Access, InvitationView, MemberAccess};

/// Invites an address; one that waits already is replaced, so that its old link ends.
pub async fn invite(db: &mut PgConnection, access: &Access, email: &str, part: MemberAccess, secret_sha256: &str) -> Result<Uuid, sqlx::Error> {
    let mut tx = db.begin().await?;
    sqlx::query!(
        "UPDATE invitations SET withdrawn_at = now() WHERE production_id = $1 AND email = lower($2) AND accepted_by IS NULL AND withdrawn_at IS NULL",
        access.production,
        email.trim()
    )
    .execute(&mut *tx)
    .await?;
    let id = sqlx::query_scalar!(
        "INSERT INTO invitations (id, production_id, email, part, secret_sha256, by_id) VALUES ($1, $2, lower($3), $4, $5, $6) RETURNING id",
        Uuid::new_v4(),
        access.production,
        email.trim(),
        part.name(),
        secret_sha256,
        access.member.id
    )
    .fetch_one(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(id)
}

/// Those that wait.
pub async fn open(pool: &PgPool, production: Uuid) -> Result<Vec<InvitationView>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT i.id, i.email, i.part, i.at, i.expires_at, i.expires_at < now() AS "expired!", m.name FROM invitations i JOIN members m ON m.id = i.by_id
           WHERE i.production_id = $1 AND i.accepted_by IS NULL AND i.withdrawn_at IS NULL ORDER BY i.at"#,
        production
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| InvitationView {
            id: r.id,
            email: r.email,
            part: MemberAccess::from_name(&r.part),
            by: r.name,
            at: iso(r.at),
            expires_at: iso(r.expires_at),
            expired: r.expired,
        })
        .collect())
}

/// Takes one back; gives its address, none where it no longer waits.
pub async fn withdraw(db: &mut PgConnection, production: Uuid, id: Uuid) -> Result<Option<String>, sqlx::Error> {
    sqlx::query_scalar!(
        "UPDATE invitations SET withdrawn_at = now() WHERE production_id = $1 AND id = $2 AND accepted_by IS NULL AND withdrawn_at IS NULL RETURNING email",
        production,
        id
    )
    .fetch_optional(&mut *db)
    .await
}

/// An invitation that holds, by its secret's hash.
pub struct Opened {
    pub id: Uuid,
    pub production: Uuid,
    pub production_name: String,
    pub email: String,
    pub part: MemberAccess,
    pub by: String,
    pub member: Option<Uuid>,
}

pub async fn opened(pool: &PgPool, secret_sha256: &str) -> Result<Option<Opened>, sqlx::Error> {
    let row = sqlx::query!(
        r#"SELECT i.id, i.production_id, p.name AS production, i.email, i.part, m.name, a.id AS "member?" FROM invitations i
           JOIN productions p ON p.id = i.production_id JOIN members m ON m.id = i.by_id LEFT JOIN members a ON a.email = i.email
           WHERE i.secret_sha256 = $1 AND i.accepted_by IS NULL AND i.withdrawn_at IS NULL AND i.expires_at > now()"#,
        secret_sha256
    )
    .fetch_optional(pool)
    .await?;
    Ok(row.map(|r| Opened {
        id: r.id,
        production: r.production_id,
        production_name: r.production,
        email: r.email,
        part: MemberAccess::from_name(&r.part),
        by: r.name,
        member: r.member,
    }))
}

/// Accepts an invitation, with a new account where the member is none yet. None where it was accepted or withdrawn meanwhile, or the
/// address got an account.
pub async fn accept(db: &mut PgConnection, o: &Opened, member: Result<Uuid, (&str, &str)>) -> Result<Option<Uuid>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let member = match member {
        Ok(id) => id,
        Err((name, hash)) => {
            let Some(id) = members::create(&mut *tx, name, &o.email, hash).await? else { return Ok(None) };
            id
        }
    };
    let done = sqlx::query!("UPDATE invitations SET accepted_by = $2 WHERE id = $1 AND accepted_by IS NULL AND withdrawn_at IS NULL", o.id, member)
        .execute(&mut *tx)
        .await?;
    if done.rows_affected() == 0 {
        return Ok(None);
    }
    // A member already keeps the part that they have.
    sqlx::query!("INSERT INTO memberships (production_id, member_id, part) VALUES ($1, $2, $3) ON CONFLICT DO NOTHING", o.production, member, o.part.name())
        .execute(&mut *tx)
        .await?;
    tx.commit().await?;
    Ok(Some(member))
}
