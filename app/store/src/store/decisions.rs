//! What people decided: ready or return, what they call meant, and what they pinned.

use eddymist_check::{Finding, takes::Dismissal};
use sqlx::PgPool;
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, Decide, DecisionView, DismissalView, PinView};

/// Decides on drawings, all or none. The error is the drawing that somebody decided on since it was looked at.
pub async fn decide(pool: &PgPool, access: &Access, delivery: Uuid, d: &Decide) -> Result<Result<Vec<i32>, Uuid>, sqlx::Error> {
    let mut tx = pool.begin().await?;
    let mut out = Vec::new();
    for one in &d.drawings {
        // The row is held, so that two leads come one after the other.
        let row = sqlx::query_scalar!("SELECT id FROM drawings WHERE id = $1 AND delivery_id = $2 AND state = 'done' FOR UPDATE", one.id, delivery)
            .fetch_optional(&mut *tx)
            .await?;
        let last = sqlx::query_scalar!(r#"SELECT coalesce(max(number), 0) AS "n!" FROM decisions WHERE drawing_id = $1"#, one.id).fetch_one(&mut *tx).await?;
        if row.is_none() || last != one.seen {
            return Ok(Err(one.id));
        }
        sqlx::query!(
            "INSERT INTO decisions (drawing_id, number, state, note, strokes, by_id) VALUES ($1, $2, $3, $4, $5, $6)",
            one.id,
            last + 1,
            d.state.name(),
            d.note.trim(),
            value(&d.strokes)?,
            access.member.id
        )
        .execute(&mut *tx)
        .await?;
        out.push(last + 1);
    }
    tx.commit().await?;
    Ok(Ok(out))
}

/// The decisions on a drawing, the first first.
pub async fn decisions(pool: &PgPool, drawing: Uuid) -> Result<Vec<DecisionView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT c.number, c.state, c.note, c.strokes, c.at, m.name FROM decisions c JOIN members m ON m.id = c.by_id WHERE c.drawing_id = $1 ORDER BY c.number",
        drawing
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| Ok(DecisionView { number: r.number, state: r.state, note: r.note, strokes: document(r.strokes)?, by: r.name, at: iso(r.at) }))
        .collect()
}

/// What is called meant on a drawing, the first first.
pub async fn dismissals(pool: &PgPool, drawing: Uuid) -> Result<Vec<(DismissalView, Dismissal)>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT d.id, d.finding, d.why, d.at, d.carried_from, m.name FROM dismissals d JOIN members m ON m.id = d.by_id
         WHERE d.drawing_id = $1 AND d.undone_at IS NULL ORDER BY d.at, d.id",
        drawing
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            let dismissal = Dismissal { finding: document(r.finding)?, by: r.name.clone(), why: r.why.clone() };
            let view = DismissalView { id: r.id, finding: None, by: r.name, why: r.why, at: iso(r.at), carried: r.carried_from.is_some() };
            Ok((view, dismissal))
        })
        .collect()
}

pub async fn dismiss(pool: &PgPool, access: &Access, drawing: Uuid, finding: &Finding, why: &str) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO dismissals (id, drawing_id, finding, why, by_id) VALUES ($1, $2, $3, $4, $5) RETURNING id",
        Uuid::new_v4(),
        drawing,
        value(finding)?,
        why,
        access.member.id
    )
    .fetch_one(pool)
    .await
}

pub async fn pins(pool: &PgPool, drawing: Uuid) -> Result<Vec<PinView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT p.id, p.x, p.y, p.text, p.at, m.name FROM pins p JOIN members m ON m.id = p.by_id WHERE p.drawing_id = $1 AND p.undone_at IS NULL ORDER BY p.at, p.id",
        drawing
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|r| PinView { id: r.id, x: r.x, y: r.y, text: r.text, by: r.name, at: iso(r.at) }).collect())
}

pub async fn pin(pool: &PgPool, access: &Access, drawing: Uuid, at: [f64; 2], text: &str) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO pins (id, drawing_id, x, y, text, by_id) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id",
        Uuid::new_v4(),
        drawing,
        at[0],
        at[1],
        text,
        access.member.id
    )
    .fetch_one(pool)
    .await
}

/// What a member may take back of what was put on a drawing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Put {
    Dismissal,
    Pin,
}

/// Takes one back; false when it is not there, or was taken back already.
pub async fn undo(pool: &PgPool, access: &Access, drawing: Uuid, id: Uuid, what: Put) -> Result<bool, sqlx::Error> {
    let done = sqlx::query_scalar!(
        r#"WITH d AS (UPDATE dismissals SET undone_at = now(), undone_by = $3 WHERE $4 AND id = $1 AND drawing_id = $2 AND undone_at IS NULL RETURNING id),
                p AS (UPDATE pins SET undone_at = now(), undone_by = $3 WHERE NOT $4 AND id = $1 AND drawing_id = $2 AND undone_at IS NULL RETURNING id)
           SELECT count(*) AS "n!" FROM (SELECT id FROM d UNION ALL SELECT id FROM p) both_of_them"#,
        id,
        drawing,
        access.member.id,
        what == Put::Dismissal
    )
    .fetch_one(pool)
    .await?;
    Ok(done > 0)
}
