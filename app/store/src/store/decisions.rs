//! What people decided: ready or return, what they call meant, and what they pinned.

use std::collections::{HashMap, HashSet};

use eddymist_check::{Finding, takes::Dismissal};
use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, Decide, DecisionView, DismissalView, PinView};

/// Decides on drawings, all or none. The error is the drawing that somebody decided on since it was looked at.
pub async fn decide(db: &mut PgConnection, access: &Access, delivery: Uuid, d: &Decide) -> Result<Result<Vec<i32>, Uuid>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let ids: Vec<Uuid> = d.drawings.iter().map(|one| one.id).collect();
    // The rows are held, in one order, so that two leads come one after the other. What could not be read is returned, and never ready.
    let rows = sqlx::query!(
        r#"WITH held AS (SELECT id FROM drawings WHERE id = ANY($1) AND delivery_id = $2
                         AND (state = 'done' OR state = 'failed' AND $3 <> 'ready') ORDER BY id FOR UPDATE)
           SELECT h.id, (SELECT coalesce(max(number), 0) FROM decisions WHERE drawing_id = h.id) AS "last!" FROM held h"#,
        &ids,
        delivery,
        d.state.name()
    )
    .fetch_all(&mut *tx)
    .await?;
    let last: HashMap<Uuid, i32> = rows.into_iter().map(|r| (r.id, r.last)).collect();
    let mut seen = HashSet::new();
    if let Some(stale) = d.drawings.iter().find(|one| last.get(&one.id) != Some(&one.seen) || !seen.insert(one.id)) {
        return Ok(Err(stale.id));
    }
    let numbers: Vec<i32> = d.drawings.iter().map(|one| one.seen + 1).collect();
    sqlx::query!(
        "INSERT INTO decisions (drawing_id, number, state, note, strokes, by_id, fix)
         SELECT k.id, k.number, $3, $4, $5, $6, $7 FROM unnest($1::uuid[], $2::integer[]) AS k(id, number)",
        &ids,
        &numbers,
        d.state.name(),
        d.note.trim(),
        value(&d.strokes)?,
        access.member.id,
        d.fix.as_ref().map(value).transpose()?
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(Ok(numbers))
}

/// The decisions on a drawing, the first first.
pub async fn decisions(pool: &PgPool, drawing: Uuid) -> Result<Vec<DecisionView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT c.number, c.state, c.note, c.strokes, c.fix, c.at, m.name FROM decisions c JOIN members m ON m.id = c.by_id WHERE c.drawing_id = $1 ORDER BY c.number",
        drawing
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(DecisionView {
                number: r.number,
                state: r.state,
                note: r.note,
                strokes: document(r.strokes)?,
                fix: r.fix.map(document).transpose()?,
                by: r.name,
                at: iso(r.at),
            })
        })
        .collect()
}

/// What is called meant on a drawing, the first first.
pub async fn dismissals(pool: impl sqlx::PgExecutor<'_>, drawing: Uuid) -> Result<Vec<(DismissalView, Dismissal)>, sqlx::Error> {
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

pub async fn dismiss(db: &mut PgConnection, access: &Access, drawing: Uuid, finding: &Finding, why: &str) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO dismissals (id, drawing_id, finding, why, by_id) VALUES ($1, $2, $3, $4, $5) RETURNING id",
        Uuid::new_v4(),
        drawing,
        value(finding)?,
        why,
        access.member.id
    )
    .fetch_one(&mut *db)
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

pub async fn pin(db: &mut PgConnection, access: &Access, drawing: Uuid, at: [f64; 2], text: &str) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO pins (id, drawing_id, x, y, text, by_id) VALUES ($1, $2, $3, $4, $5, $6) RETURNING id",
        Uuid::new_v4(),
        drawing,
        at[0],
        at[1],
        text,
        access.member.id
    )
    .fetch_one(&mut *db)
    .await
}

/// What is called meant on the current takes of a delivery, by drawing.
pub async fn dismissals_of(pool: &PgPool, delivery: Uuid) -> Result<HashMap<Uuid, Vec<Dismissal>>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT d.drawing_id, d.finding, d.why, m.name FROM dismissals d JOIN members m ON m.id = d.by_id JOIN drawings w ON w.id = d.drawing_id
         WHERE w.delivery_id = $1 AND NOT w.superseded AND d.undone_at IS NULL ORDER BY d.at, d.id",
        delivery
    )
    .fetch_all(pool)
    .await?;
    let mut out: HashMap<Uuid, Vec<Dismissal>> = HashMap::new();
    for r in rows {
        out.entry(r.drawing_id).or_default().push(Dismissal { finding: document(r.finding)?, by: r.name, why: r.why });
    }
    Ok(out)
}

/// The pins on the current takes of a delivery, by drawing.
pub async fn pins_of(pool: &PgPool, delivery: Uuid) -> Result<HashMap<Uuid, Vec<PinView>>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT p.drawing_id, p.id, p.x, p.y, p.text, p.at, m.name FROM pins p JOIN members m ON m.id = p.by_id JOIN drawings w ON w.id = p.drawing_id
         WHERE w.delivery_id = $1 AND NOT w.superseded AND p.undone_at IS NULL ORDER BY p.at, p.id",
        delivery
    )
    .fetch_all(pool)
    .await?;
    let mut out: HashMap<Uuid, Vec<PinView>> = HashMap::new();
    for r in rows {
        out.entry(r.drawing_id).or_default().push(PinView { id: r.id, x: r.x, y: r.y, text: r.text, by: r.name, at: iso(r.at) });
    }
    Ok(out)
}

/// What a member may take back of what was put on a drawing.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Put {
    Dismissal,
    Pin,
}

/// Takes one back; false when it is not there, or was taken back already.
pub async fn undo(db: &mut PgConnection, access: &Access, drawing: Uuid, id: Uuid, what: Put) -> Result<bool, sqlx::Error> {
    let done = sqlx::query_scalar!(
        r#"WITH d AS (UPDATE dismissals SET undone_at = now(), undone_by = $3 WHERE $4 AND id = $1 AND drawing_id = $2 AND undone_at IS NULL RETURNING id),
                p AS (UPDATE pins SET undone_at = now(), undone_by = $3 WHERE NOT $4 AND id = $1 AND drawing_id = $2 AND undone_at IS NULL RETURNING id)
           SELECT count(*) AS "n!" FROM (SELECT id FROM d UNION ALL SELECT id FROM p) both_of_them"#,
        id,
        drawing,
        access.member.id,
        what == Put::Dismissal
    )
    .fetch_one(&mut *db)
    .await?;
    Ok(done > 0)
}
