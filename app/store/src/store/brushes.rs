//! Brushes: immutable versions, a pointer to the current one, and a draft.

use eddymist_ink::Brush;
use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, BrushSummary, BrushVersion, BrushView, PAGE, Part, StandInRef};

/// A trimmed brush: a new version of the artist's own, or a brush of their own.
pub async fn keep_trimmed(
    tx: &mut sqlx::PgConnection,
    access: &Access,
    brush: &Brush,
    own: Option<(Uuid, i32)>,
    profile: Option<Uuid>,
    says: &str,
) -> Result<Uuid, sqlx::Error> {
    let id = own.map_or_else(Uuid::new_v4, |o| o.0);
    let version = match own {
        Some(_) => {
            let next =
                sqlx::query_scalar!(r#"SELECT coalesce(max(version), 0) + 1 AS "n!" FROM brush_versions WHERE brush_id = $1"#, id).fetch_one(&mut *tx).await?;
            sqlx::query!("UPDATE brushes SET current_version = $2 WHERE id = $1", id, next).execute(&mut *tx).await?;
            next
        }
        None => {
            sqlx::query!(
                "INSERT INTO brushes (id, production_id, name, profile_id, current_version) VALUES ($1, $2, $3, $4, 1)",
                id,
                access.production,
                brush.name,
                profile
            )
            .execute(&mut *tx)
            .await?;
            1
        }
    };
    sqlx::query!(
        "INSERT INTO brush_versions (brush_id, version, brush, says, created_by) VALUES ($1, $2, $3, $4, $5)",
        id,
        version,
        value(brush)?,
        says,
        access.member.id
    )
    .execute(&mut *tx)
    .await?;
    Ok(id)
}

/// A brush with its first version.
pub async fn create(db: &mut PgConnection, access: &Access, brush: &Brush, pen: Option<Uuid>, profile: Option<Uuid>, says: &str) -> Result<Uuid, sqlx::Error> {
    let id = Uuid::new_v4();
    let mut tx = db.begin().await?;
    sqlx::query!(
        "INSERT INTO brushes (id, production_id, name, pen_id, profile_id, current_version) VALUES ($1, $2, $3, $4, $5, 1)",
        id,
        access.production,
        brush.name,
        pen,
        profile
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "INSERT INTO brush_versions (brush_id, version, brush, says, created_by) VALUES ($1, 1, $2, $3, $4)",
        id,
        value(brush)?,
        says,
        access.member.id
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(id)
}

/// The rack, and on which of its brushes a member has unsaved work.
pub async fn list(pool: &PgPool, production: Uuid, member: Uuid, part: Part) -> Result<Vec<BrushSummary>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT b.id, b.name, b.current_version, EXISTS (SELECT FROM brush_drafts d WHERE d.brush_id = b.id AND d.member_id = $2) AS "unsaved!", v.brush, p.name AS "pen?", f.artist || ' on the ' || f.tablet AS profile,
                  b.tags, b.tags_version, b.used_at, ARRAY(SELECT r.role FROM pen_roll r WHERE r.brush_id = b.id ORDER BY r.place) AS "used_in!"
           FROM brushes b JOIN brush_versions v ON v.brush_id = b.id AND v.version = b.current_version
           LEFT JOIN pens p ON p.id = b.pen_id LEFT JOIN profiles f ON f.id = b.profile_id
           WHERE b.production_id = $1 AND b.archived_at IS NULL
             AND ($3::uuid IS NULL OR (b.created_at, b.id) > (SELECT l.created_at, l.id FROM brushes l WHERE l.id = $3 AND l.production_id = $1))
           ORDER BY b.created_at, b.id LIMIT $4"#,
        production,
        member,
        part.after,
        part.most
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(BrushSummary {
                id: r.id,
                name: r.name,
                current_version: r.current_version,
                unsaved: r.unsaved,
                brush: document(r.brush)?,
                pen: r.pen,
                profile: r.profile,
                tags: r.tags,
                tags_version: r.tags_version,
                used_at: r.used_at.map(iso),
                used_in: r.used_in,
            })
        })
        .collect()
}

/// How many of these brushes the production holds.
pub async fn held(pool: &PgPool, production: Uuid, ids: &[Uuid]) -> Result<i64, sqlx::Error> {
    sqlx::query_scalar!(r#"SELECT count(*) AS "n!" FROM brushes WHERE production_id = $1 AND id = ANY($2)"#, production, ids).fetch_one(pool).await
}

/// A brush with its versions, and a member's unsaved work on it.
pub async fn one(pool: &PgPool, production: Uuid, member: Uuid, id: Uuid) -> Result<Option<BrushView>, sqlx::Error> {
    let row = sqlx::query!(
        r#"SELECT b.name, b.current_version, b.tags, b.tags_version, d.draft AS "draft?", d.from_version AS "from_version?", b.pen_id, (SELECT count(*) FROM brush_versions v WHERE v.brush_id = b.id) AS "versions_in_all!", b.profile_id, p.name AS "pen?", f.artist || ' on the ' || f.tablet AS profile, f.profile->'response' AS response
           FROM brushes b LEFT JOIN pens p ON p.id = b.pen_id LEFT JOIN profiles f ON f.id = b.profile_id
           LEFT JOIN brush_drafts d ON d.brush_id = b.id AND d.member_id = $3 WHERE b.production_id = $1 AND b.id = $2"#,
        production, id, member
    )
    .fetch_optional(pool)
    .await?;
    let Some(r) = row else { return Ok(None) };
    let mut versions = versions(pool, production, id, None).await?;
    for needed in [r.current_version, r.from_version.unwrap_or(r.current_version)] {
        if versions.iter().all(|v| v.version != needed) {
            versions.extend(version(pool, production, id, needed).await?);
        }
    }
    Ok(Some(BrushView {
        id,
        name: r.name,
        current_version: r.current_version,
        draft: r.draft.map(document).transpose()?,
        draft_from_version: r.from_version,
        tags: r.tags,
        tags_version: r.tags_version,
        versions,
        versions_in_all: r.versions_in_all,
        pen: r.pen_id.zip(r.pen).map(|(id, name)| StandInRef { id, name }),
        profile: r.profile_id.zip(r.profile).map(|(id, name)| StandInRef { id, name }),
        response: r.response.map(document).transpose()?,
    }))
}

/// A brush's versions, the newest first, so many at a time: those older than one of them.
pub async fn versions(pool: &PgPool, production: Uuid, id: Uuid, before: Option<i32>) -> Result<Vec<BrushVersion>, sqlx::Error> {
    newest(pool, production, id, before, PAGE as i64).await
}

async fn newest(pool: &PgPool, production: Uuid, id: Uuid, before: Option<i32>, most: i64) -> Result<Vec<BrushVersion>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT v.version, v.brush, v.says, v.created_at, m.name FROM brush_versions v JOIN brushes b ON b.id = v.brush_id JOIN members m ON m.id = v.created_by
         WHERE b.production_id = $1 AND b.id = $2 AND ($3::int IS NULL OR v.version < $3) ORDER BY v.version DESC LIMIT $4",
        production,
        id,
        before,
        most
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter().map(|v| Ok(BrushVersion { version: v.version, brush: document(v.brush)?, says: v.says, by: v.name, at: iso(v.created_at) })).collect()
}

/// One version of a brush.
pub async fn version(pool: &PgPool, production: Uuid, id: Uuid, version: i32) -> Result<Option<BrushVersion>, sqlx::Error> {
    Ok(newest(pool, production, id, version.checked_add(1), 1).await?.pop().filter(|v| v.version == version))
}

/// The response of the profile that a brush was matched through.
pub async fn response(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<Vec<[f64; 2]>>, sqlx::Error> {
    let kept = sqlx::query_scalar!(
        r#"SELECT f.profile->'response' AS "response?" FROM brushes b JOIN profiles f ON f.id = b.profile_id WHERE b.production_id = $1 AND b.id = $2"#,
        production,
        id
    );
    kept.fetch_optional(pool).await?.flatten().map(document).transpose()
}

/// Keeps a member's unsaved work, or takes it back with none; false where there is no such brush.
pub async fn set_draft(pool: &PgPool, access: &Access, id: Uuid, from: i32, draft: Option<&Brush>) -> Result<bool, sqlx::Error> {
    let done = match draft {
        Some(brush) => {
            sqlx::query!(
                "INSERT INTO brush_drafts (brush_id, member_id, draft, from_version)
                 SELECT id, $3, $4, $5 FROM brushes WHERE production_id = $1 AND id = $2
                 ON CONFLICT (brush_id, member_id) DO UPDATE SET draft = excluded.draft, from_version = excluded.from_version, at = now()",
                access.production,
                id,
                access.member.id,
                value(brush)?,
                from
            )
            .execute(pool)
            .await?
        }
        None => {
            sqlx::query!(
                "WITH gone AS (DELETE FROM brush_drafts WHERE brush_id = $2 AND member_id = $3) SELECT FROM brushes WHERE production_id = $1 AND id = $2",
                access.production,
                id,
                access.member.id
            )
            .execute(pool)
            .await?
        }
    };
    Ok(done.rows_affected() > 0)
}

/// Adds a version; the error is the version that is current, where the edit was stale.
pub async fn save(db: &mut PgConnection, access: &Access, id: Uuid, from: i32, brush: &Brush, says: &str) -> Result<Result<i32, i32>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let current = sqlx::query_scalar!("SELECT current_version FROM brushes WHERE production_id = $1 AND id = $2 FOR UPDATE", access.production, id)
        .fetch_one(&mut *tx)
        .await?;
    if current != from {
        return Ok(Err(current));
    }
    let next = sqlx::query_scalar!("SELECT max(version) + 1 FROM brush_versions WHERE brush_id = $1", id).fetch_one(&mut *tx).await?.unwrap_or(1);
    sqlx::query!(
        "INSERT INTO brush_versions (brush_id, version, brush, says, created_by) VALUES ($1, $2, $3, $4, $5)",
        id,
        next,
        value(brush)?,
        says,
        access.member.id
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!("UPDATE brushes SET current_version = $2, name = $3 WHERE id = $1", id, next, brush.name).execute(&mut *tx).await?;
    sqlx::query!("DELETE FROM brush_drafts WHERE brush_id = $1 AND member_id = $2", id, access.member.id).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(Ok(next))
}

/// Makes an earlier version current again.
pub async fn go_back(db: &mut PgConnection, access: &Access, id: Uuid, from: i32, version: i32) -> Result<Result<(), i32>, sqlx::Error> {
    let done = sqlx::query!(
        "UPDATE brushes b SET current_version = $4 FROM brush_versions v WHERE b.production_id = $1 AND b.id = $2 AND b.current_version = $3 AND v.brush_id = b.id AND v.version = $4",
        access.production, id, from, version
    )
    .execute(&mut *db)
    .await?;
    if done.rows_affected() > 0 {
        sqlx::query!("DELETE FROM brush_drafts WHERE brush_id = $1 AND member_id = $2", id, access.member.id).execute(&mut *db).await?;
        return Ok(Ok(()));
    }
    let current =
        sqlx::query_scalar!("SELECT current_version FROM brushes WHERE production_id = $1 AND id = $2", access.production, id).fetch_one(&mut *db).await?;
    Ok(Err(current))
}
