//! Trial pages: one document each, with a revision that grows.

use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, Part, TrialPage, TrialSummary, TrialView};

/// The last changed first.
pub async fn list(pool: &PgPool, production: Uuid, part: Part) -> Result<Vec<TrialSummary>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT t.id, t.name, t.changed_at, m.name AS by, t.strokes AS "strokes!"
           FROM trial_pages t JOIN members m ON m.id = t.created_by WHERE t.production_id = $1 AND t.archived_at IS NULL
             AND ($2::uuid IS NULL OR (t.changed_at, t.id) < (SELECT l.changed_at, l.id FROM trial_pages l WHERE l.id = $2 AND l.production_id = $1))
           ORDER BY t.changed_at DESC, t.id DESC LIMIT $3"#,
        production,
        part.after,
        part.most
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|r| TrialSummary { id: r.id, name: r.name, by: r.by, at: iso(r.changed_at), strokes: r.strokes }).collect())
}

pub async fn create(db: &mut PgConnection, access: &Access, name: &str, page: &TrialPage) -> Result<Uuid, sqlx::Error> {
    let id = Uuid::new_v4();
    sqlx::query!(
        "INSERT INTO trial_pages (id, production_id, name, page, brushes, pictures, revision, created_by) VALUES ($1, $2, $3, $4, $6, $7, 1, $5)",
        id,
        access.production,
        name,
        value(page)?,
        access.member.id,
        &page.brushes(),
        &page.pictures()
    )
    .execute(&mut *db)
    .await?;
    Ok(id)
}

pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<TrialView>, sqlx::Error> {
    let row = sqlx::query!("SELECT name, page, revision FROM trial_pages WHERE production_id = $1 AND id = $2", production, id).fetch_optional(pool).await?;
    row.map(|r| Ok(TrialView { id, name: r.name, revision: r.revision, page: document(r.page)? })).transpose()
}

/// The new revision; none where it was changed meanwhile.
pub async fn put(db: &mut PgConnection, production: Uuid, id: Uuid, from: i32, page: &TrialPage) -> Result<Option<i32>, sqlx::Error> {
    sqlx::query_scalar!(
        "UPDATE trial_pages SET page = $4, brushes = $5, pictures = $6, revision = revision + 1, changed_at = now() WHERE production_id = $1 AND id = $2 AND revision = $3 RETURNING revision",
        production,
        id,
        from,
        value(page)?,
        &page.brushes(),
        &page.pictures()
    )
    .fetch_optional(&mut *db)
    .await
}
