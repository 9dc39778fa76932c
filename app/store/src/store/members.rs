//! Members, productions and who is what in them.

use sqlx::PgPool;
use uuid::Uuid;

use crate::model::{Member, MemberAccess, ProductionView};

pub async fn count(pool: &PgPool) -> Result<i64, sqlx::Error> {
    Ok(sqlx::query_scalar!("SELECT count(*) FROM members").fetch_one(pool).await?.unwrap_or(0))
}

pub async fn by_email(pool: &PgPool, email: &str) -> Result<Option<Member>, sqlx::Error> {
    sqlx::query_as!(Member, "SELECT id, name, email, password_hash AS hash FROM members WHERE email = lower($1)", email.trim()).fetch_optional(pool).await
}

pub async fn by_id(pool: &PgPool, id: Uuid) -> Result<Option<Member>, sqlx::Error> {
    sqlx::query_as!(Member, "SELECT id, name, email, password_hash AS hash FROM members WHERE id = $1", id).fetch_optional(pool).await
}

/// Makes a member; none when the address is taken.
pub async fn create(pool: impl sqlx::PgExecutor<'_>, name: &str, email: &str, hash: &str) -> Result<Option<Uuid>, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO members (id, name, email, password_hash) VALUES ($1, $2, lower($3), $4) ON CONFLICT (email) DO NOTHING RETURNING id",
        Uuid::new_v4(),
        name.trim(),
        email.trim(),
        hash
    )
    .fetch_optional(pool)
    .await
}

/// The first member and their production, in one; none when there is a member already.
pub async fn create_first(pool: &PgPool, name: &str, email: &str, hash: &str, production: &str) -> Result<Option<Uuid>, sqlx::Error> {
    let mut tx = pool.begin().await?;
    sqlx::query!("LOCK TABLE members IN EXCLUSIVE MODE").execute(&mut *tx).await?;
    if sqlx::query_scalar!("SELECT count(*) FROM members").fetch_one(&mut *tx).await?.unwrap_or(0) > 0 {
        return Ok(None);
    }
    let (member, id) = (Uuid::new_v4(), Uuid::new_v4());
    sqlx::query!("INSERT INTO members (id, name, email, password_hash) VALUES ($1, $2, lower($3), $4)", member, name.trim(), email.trim(), hash)
        .execute(&mut *tx)
        .await?;
    sqlx::query!("INSERT INTO productions (id, name) VALUES ($1, $2)", id, production.trim()).execute(&mut *tx).await?;
    sqlx::query!("INSERT INTO memberships (production_id, member_id, part) VALUES ($1, $2, 'lead')", id, member).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(Some(member))
}

pub async fn create_production(pool: &PgPool, name: &str, demo: bool) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!("INSERT INTO productions (id, name, demo) VALUES ($1, $2, $3) RETURNING id", Uuid::new_v4(), name, demo).fetch_one(pool).await
}

pub async fn demo_production(pool: &PgPool) -> Result<Option<Uuid>, sqlx::Error> {
    sqlx::query_scalar!("SELECT id FROM productions WHERE demo").fetch_optional(pool).await
}

pub async fn join(pool: impl sqlx::PgExecutor<'_>, production: Uuid, member: Uuid, part: MemberAccess) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "INSERT INTO memberships (production_id, member_id, part) VALUES ($1, $2, $3) ON CONFLICT (production_id, member_id) DO UPDATE SET part = excluded.part",
        production, member, part.name()
    )
    .execute(pool)
    .await
    .map(|_| ())
}

pub async fn part(pool: &PgPool, production: Uuid, member: Uuid) -> Result<Option<MemberAccess>, sqlx::Error> {
    let part = sqlx::query_scalar!("SELECT part FROM memberships WHERE production_id = $1 AND member_id = $2", production, member).fetch_optional(pool).await?;
    Ok(part.map(|p| MemberAccess::from_name(&p)))
}

pub async fn productions(pool: &PgPool, member: Uuid) -> Result<Vec<ProductionView>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT p.id, p.name, m.part,
                  (SELECT count(*) FROM memberships o WHERE o.production_id = p.id) > 1
                  OR EXISTS (SELECT FROM invitations v WHERE v.production_id = p.id)
                  OR (SELECT count(DISTINCT w.manifest->>'artist') FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = p.id) > 1 AS "team!"
           FROM productions p JOIN memberships m ON m.production_id = p.id WHERE m.member_id = $1 ORDER BY p.created_at"#,
        member
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|r| ProductionView { id: r.id, name: r.name, part: MemberAccess::from_name(&r.part), team: r.team }).collect())
}

/// Seconds until the account may be tried again; 0 when it is not locked.
pub async fn locked_for(pool: &PgPool, email: &str) -> Result<i64, sqlx::Error> {
    let s = sqlx::query_scalar!("SELECT ceil(extract(epoch FROM locked_until - now()))::bigint FROM members WHERE email = lower($1)", email.trim())
        .fetch_optional(pool)
        .await?;
    Ok(s.flatten().unwrap_or(0).max(0))
}

/// Counts a wrong password; from the fifth on the account is locked, for a minute first and twice as long each time, up to a quarter
/// of an hour.
pub async fn sign_in_failed(pool: &PgPool, email: &str) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "UPDATE members SET failures = failures + 1, locked_until = CASE WHEN failures + 1 >= 5 THEN now() + interval '1 minute' * least(15, power(2, least(failures - 4, 10))) ELSE locked_until END WHERE email = lower($1)",
        email.trim()
    )
    .execute(pool)
    .await
    .map(|_| ())
}

pub async fn sign_in_worked(pool: &PgPool, member: Uuid) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE members SET failures = 0, locked_until = NULL WHERE id = $1", member).execute(pool).await.map(|_| ())
}

/// Says that a production is the demo, whole.
pub async fn mark_demo(pool: &PgPool, production: Uuid) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE productions SET demo = true WHERE id = $1", production).execute(pool).await.map(|_| ())
}

/// Every production with its name.
pub async fn all_productions(pool: &PgPool) -> Result<Vec<(Uuid, String)>, sqlx::Error> {
    let rows = sqlx::query!("SELECT id, name FROM productions ORDER BY created_at").fetch_all(pool).await?;
    Ok(rows.into_iter().map(|r| (r.id, r.name)).collect())
}

/// A lead of a production: the first.
pub async fn a_lead(pool: &PgPool, production: Uuid) -> Result<Option<Member>, sqlx::Error> {
    sqlx::query_as!(
        Member,
        "SELECT m.id, m.name, m.email, m.password_hash AS hash FROM members m JOIN memberships p ON p.member_id = m.id
         WHERE p.production_id = $1 AND p.part = 'lead' ORDER BY m.name LIMIT 1",
        production
    )
    .fetch_optional(pool)
    .await
}

pub async fn production_name(pool: &PgPool, production: Uuid) -> Result<String, sqlx::Error> {
    sqlx::query_scalar!("SELECT name FROM productions WHERE id = $1", production).fetch_one(pool).await
}

/// The members of a production, leads first.
pub async fn of_production(pool: &PgPool, production: Uuid) -> Result<Vec<(Member, MemberAccess)>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT m.id, m.name, m.email, p.part FROM members m JOIN memberships p ON p.member_id = m.id WHERE p.production_id = $1
         ORDER BY array_position(ARRAY['lead', 'artist', 'viewer'], p.part), m.name",
        production
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|r| (Member { id: r.id, name: r.name, email: r.email, hash: String::new() }, MemberAccess::from_name(&r.part))).collect())
}

/// What became of a change of a member's part.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Parted {
    Done,
    /// They are the last lead: a production keeps one.
    LastLead,
    /// It was changed meanwhile, to this; none: they are no member any more.
    Meanwhile(Option<MemberAccess>),
}

/// Changes a member's part, or takes them out with no part. The production's memberships are held, so that two leads cannot take one
/// another out.
pub async fn set_part(pool: &PgPool, production: Uuid, member: Uuid, from: Option<MemberAccess>, to: Option<MemberAccess>) -> Result<Parted, sqlx::Error> {
    let mut tx = pool.begin().await?;
    let all = sqlx::query!("SELECT member_id, part FROM memberships WHERE production_id = $1 FOR UPDATE", production).fetch_all(&mut *tx).await?;
    let own = all.iter().find(|r| r.member_id == member).map(|r| MemberAccess::from_name(&r.part));
    if own.is_none() || from.is_some_and(|f| Some(f) != own) {
        return Ok(Parted::Meanwhile(own));
    }
    let other_lead = all.iter().any(|r| r.member_id != member && r.part == "lead");
    if own == Some(MemberAccess::Lead) && to != Some(MemberAccess::Lead) && !other_lead {
        return Ok(Parted::LastLead);
    }
    match to {
        Some(part) => join(&mut *tx, production, member, part).await?,
        None => {
            sqlx::query!("DELETE FROM memberships WHERE production_id = $1 AND member_id = $2", production, member).execute(&mut *tx).await?;
        }
    }
    tx.commit().await?;
    Ok(Parted::Done)
}

pub async fn set_password(pool: &PgPool, member: Uuid, hash: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE members SET password_hash = $2, failures = 0, locked_until = NULL WHERE id = $1", member, hash).execute(pool).await.map(|_| ())
}
