//! Members, productions and who is what in them.

use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use crate::model::{Member, MemberAccess, ProductionView};

pub async fn count(pool: &PgPool) -> Result<i64, sqlx::Error> {
    Ok(sqlx::query_scalar!("SELECT count(*) FROM members").fetch_one(pool).await?.unwrap_or(0))
}

pub async fn by_email(pool: &PgPool, email: &str) -> Result<Option<Member>, sqlx::Error> {
    sqlx::query_as!(Member, "SELECT id, name, email, password_hash AS hash, stamp FROM members WHERE email = lower($1) AND disabled_at IS NULL", email.trim())
        .fetch_optional(pool)
        .await
}

pub async fn by_id(pool: impl sqlx::PgExecutor<'_>, id: Uuid) -> Result<Option<Member>, sqlx::Error> {
    sqlx::query_as!(Member, "SELECT id, name, email, password_hash AS hash, stamp FROM members WHERE id = $1 AND disabled_at IS NULL", id)
        .fetch_optional(pool)
        .await
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

/// What the console prints while there is no member.
pub async fn add_setup_code(pool: &PgPool, code_sha256: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("INSERT INTO setup_codes (sha256) VALUES ($1) ON CONFLICT DO NOTHING", code_sha256).execute(pool).await.map(drop)
}

pub async fn is_setup_code(pool: &PgPool, code_sha256: &str) -> Result<bool, sqlx::Error> {
    sqlx::query_scalar!(r#"SELECT EXISTS (SELECT FROM setup_codes WHERE sha256 = $1) AS "is!""#, code_sha256).fetch_one(pool).await
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
    sqlx::query!("DELETE FROM setup_codes").execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(Some(member))
}

pub async fn create_production(db: &mut PgConnection, name: &str, demo: bool) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!("INSERT INTO productions (id, name, demo) VALUES ($1, $2, $3) RETURNING id", Uuid::new_v4(), name, demo).fetch_one(&mut *db).await
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

/// Whether a production is archived: looked at, and not changed.
pub async fn is_archived(pool: &PgPool, production: Uuid) -> Result<bool, sqlx::Error> {
    sqlx::query_scalar!(r#"SELECT EXISTS (SELECT FROM productions WHERE id = $1 AND archived_at IS NOT NULL) AS "is!""#, production).fetch_one(pool).await
}

/// Archives a production, or restores it; false where it is so already.
pub async fn archive_production(db: &mut PgConnection, production: Uuid, archived: bool) -> Result<bool, sqlx::Error> {
    let done = sqlx::query!(
        "UPDATE productions SET archived_at = CASE WHEN $2 THEN now() END WHERE id = $1 AND (archived_at IS NOT NULL) <> $2",
        production,
        archived
    );
    Ok(done.execute(db).await?.rows_affected() > 0)
}

pub async fn productions(pool: &PgPool, member: Uuid) -> Result<Vec<ProductionView>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT p.id, p.name, m.part, p.archived_at IS NOT NULL AS "archived!",
                  (SELECT count(*) FROM memberships o WHERE o.production_id = p.id) > 1
                  OR EXISTS (SELECT FROM invitations v WHERE v.production_id = p.id)
                  OR (SELECT count(DISTINCT w.artist) FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = p.id) > 1 AS "team!"
           FROM productions p JOIN memberships m ON m.production_id = p.id WHERE m.member_id = $1 ORDER BY p.archived_at IS NOT NULL, p.created_at"#,
        member
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| ProductionView { id: r.id, name: r.name, part: MemberAccess::from_name(&r.part), team: r.team, archived: r.archived })
        .collect())
}

/// Says that a production is the demo, whole.
pub async fn mark_demo(db: &mut PgConnection, production: Uuid) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE productions SET demo = true WHERE id = $1", production).execute(&mut *db).await.map(|_| ())
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
        "SELECT m.id, m.name, m.email, m.password_hash AS hash, m.stamp FROM members m JOIN memberships p ON p.member_id = m.id
         WHERE p.production_id = $1 AND p.part = 'lead' AND m.disabled_at IS NULL ORDER BY m.name LIMIT 1",
        production
    )
    .fetch_optional(pool)
    .await
}

/// Takes an account's sign-in away, or gives it back; their sessions end. False where nobody has the address.
pub async fn disable(db: &mut PgConnection, member: Uuid, disabled: bool) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE members SET disabled_at = CASE WHEN $2 THEN now() END, stamp = gen_random_uuid() WHERE id = $1", member, disabled)
        .execute(db)
        .await
        .map(drop)
}

/// An account by its address, disabled or not: its row, its name, whether it is disabled.
pub async fn account(pool: &PgPool, email: &str) -> Result<Option<(Uuid, String, bool)>, sqlx::Error> {
    let row = sqlx::query!(r#"SELECT id, name, disabled_at IS NOT NULL AS "disabled!" FROM members WHERE email = lower($1)"#, email.trim())
        .fetch_optional(pool)
        .await?;
    Ok(row.map(|r| (r.id, r.name, r.disabled)))
}

/// The productions of which a member is the only lead.
pub async fn only_lead_of(db: &mut PgConnection, member: Uuid) -> Result<Vec<String>, sqlx::Error> {
    sqlx::query_scalar!(
        "SELECT p.name FROM productions p JOIN memberships m ON m.production_id = p.id AND m.member_id = $1 AND m.part = 'lead'
         WHERE NOT EXISTS (SELECT FROM memberships o WHERE o.production_id = p.id AND o.member_id <> $1 AND o.part = 'lead')
           AND EXISTS (SELECT FROM memberships o WHERE o.production_id = p.id AND o.member_id <> $1)",
        member
    )
    .fetch_all(db)
    .await
}

/// Takes what is personal of an account away: name, address, password, sign-ins, unsaved work, memberships. What they did stays, of nobody.
pub async fn erase(db: &mut PgConnection, member: Uuid) -> Result<(), sqlx::Error> {
    let mut tx = db.begin().await?;
    sqlx::query!(
        "UPDATE members SET name = 'a former member', email = 'erased-' || id::text, password_hash = '', stamp = gen_random_uuid(), disabled_at = now() WHERE id = $1",
        member
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("DELETE FROM sign_ins WHERE member_id = $1", member).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM password_resets WHERE member_id = $1 OR by_id = $1", member).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM brush_drafts WHERE member_id = $1", member).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM artist_members WHERE member_id = $1", member).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM invitations WHERE by_id = $1 AND accepted_by IS NULL", member).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM memberships WHERE member_id = $1", member).execute(&mut *tx).await?;
    tx.commit().await
}

/// A production with a lead.
pub async fn found_production(db: &mut PgConnection, name: &str, lead: Uuid) -> Result<Uuid, sqlx::Error> {
    let mut tx = db.begin().await?;
    let id = create_production(&mut tx, name.trim(), false).await?;
    join(&mut *tx, id, lead, MemberAccess::Lead).await?;
    tx.commit().await?;
    Ok(id)
}

pub async fn production_name(pool: &PgPool, production: Uuid) -> Result<String, sqlx::Error> {
    sqlx::query_scalar!("SELECT name FROM productions WHERE id = $1", production).fetch_one(pool).await
}

pub async fn rename_production(db: &mut PgConnection, production: Uuid, name: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE productions SET name = $2 WHERE id = $1", production, name).execute(db).await.map(|_| ())
}

/// A member among those of a production.
pub struct Listed {
    pub member: Member,
    pub part: MemberAccess,
    pub disabled: bool,
}

/// The members of a production, leads first.
pub async fn of_production(pool: &PgPool, production: Uuid) -> Result<Vec<Listed>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT m.id, m.name, m.email, p.part, m.disabled_at IS NOT NULL AS "disabled!" FROM members m JOIN memberships p ON p.member_id = m.id
           WHERE p.production_id = $1 ORDER BY array_position(ARRAY['lead', 'artist', 'viewer'], p.part), m.name"#,
        production
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| Listed {
            member: Member { id: r.id, name: r.name, email: r.email, hash: String::new(), stamp: Uuid::nil() },
            part: MemberAccess::from_name(&r.part),
            disabled: r.disabled,
        })
        .collect())
}

pub async fn name(pool: &PgPool, member: Uuid) -> Result<Option<String>, sqlx::Error> {
    sqlx::query_scalar!("SELECT name FROM members WHERE id = $1", member).fetch_optional(pool).await
}

/// Whether a lead leads every production that a member is of.
pub async fn governs(pool: &PgPool, lead: Uuid, member: Uuid) -> Result<bool, sqlx::Error> {
    sqlx::query_scalar!(
        r#"SELECT NOT EXISTS (SELECT FROM memberships m WHERE m.member_id = $2
             AND NOT EXISTS (SELECT FROM memberships l WHERE l.production_id = m.production_id AND l.member_id = $1 AND l.part = 'lead')) AS "all!""#,
        lead,
        member
    )
    .fetch_one(pool)
    .await
}

/// A link by which a member chooses a new password; one of before ends.
pub async fn add_reset(db: &mut PgConnection, member: Uuid, by: Uuid, secret_sha256: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("DELETE FROM password_resets WHERE member_id = $1 OR expires_at < now()", member).execute(&mut *db).await?;
    sqlx::query!("INSERT INTO password_resets (secret_sha256, member_id, by_id) VALUES ($1, $2, $3)", secret_sha256, member, by).execute(db).await.map(drop)
}

/// Whose password a link changes, and their name: while whoever made it still leads all of that member's productions.
pub async fn reset_of(pool: &PgPool, secret_sha256: &str) -> Result<Option<(Uuid, String)>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT m.id, m.name, r.by_id FROM password_resets r JOIN members m ON m.id = r.member_id
         WHERE r.secret_sha256 = $1 AND r.expires_at > now() AND m.disabled_at IS NULL",
        secret_sha256
    )
    .fetch_optional(pool)
    .await?;
    match row {
        Some(r) if governs(pool, r.by_id, r.id).await? => Ok(Some((r.id, r.name))),
        _ => Ok(None),
    }
}

/// Uses a link up; false where it was meanwhile.
pub async fn take_reset(db: &mut PgConnection, secret_sha256: &str) -> Result<bool, sqlx::Error> {
    let done = sqlx::query!("DELETE FROM password_resets WHERE secret_sha256 = $1 AND expires_at > now()", secret_sha256).execute(db).await?;
    Ok(done.rows_affected() > 0)
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
pub async fn set_part(
    db: &mut PgConnection,
    production: Uuid,
    member: Uuid,
    from: Option<MemberAccess>,
    to: Option<MemberAccess>,
) -> Result<Parted, sqlx::Error> {
    let mut tx = db.begin().await?;
    let all = sqlx::query!("SELECT member_id, part FROM memberships WHERE production_id = $1 FOR UPDATE", production).fetch_all(&mut *tx).await?;
    let own = all.iter().find(|r| r.member_id == member).map(|r| MemberAccess::from_name(&r.part));
    if own.is_none() || from.is_some_and(|f| Some(f) != own) {
        return Ok(Parted::Meanwhile(own));
    }
    let other_lead = all.iter().any(|r| r.member_id != member && r.part == "lead");
    if own == Some(MemberAccess::Lead) && to != Some(MemberAccess::Lead) && !other_lead {
        return Ok(Parted::LastLead);
    }
    // An invitation is worth what its lead may say.
    if own == Some(MemberAccess::Lead) && to != Some(MemberAccess::Lead) {
        sqlx::query!(
            "UPDATE invitations SET withdrawn_at = now() WHERE production_id = $1 AND by_id = $2 AND accepted_by IS NULL AND withdrawn_at IS NULL",
            production,
            member
        )
        .execute(&mut *tx)
        .await?;
    }
    match to {
        Some(part) => join(&mut *tx, production, member, part).await?,
        None => {
            sqlx::query!("DELETE FROM artist_members WHERE production_id = $1 AND member_id = $2", production, member).execute(&mut *tx).await?;
            sqlx::query!("DELETE FROM memberships WHERE production_id = $1 AND member_id = $2", production, member).execute(&mut *tx).await?;
        }
    }
    tx.commit().await?;
    Ok(Parted::Done)
}

pub async fn set_password(db: &mut PgConnection, member: Uuid, hash: &str) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE members SET password_hash = $2, stamp = gen_random_uuid() WHERE id = $1", member, hash).execute(&mut *db).await.map(|_| ())
}
