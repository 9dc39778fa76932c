//! Drawings of deliveries, take by take, and what the checks found.

use eddymist_check::{
    DrawingCheck, LineGuide, Manifest, WeighedDrawing, WeighedLine,
    summary::{DrawingState, Summary},
    takes::Dismissal,
};
use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::{
    model::{DecisionBrief, DrawingSummary, Handed},
    pictures::Pictures,
};

/// How a drawing stands, from its row and its last decision.
fn standing(state: &str, decision: Option<&str>, summary: Option<&Summary>) -> DrawingState {
    use eddymist_check::HandOn;
    match (state, decision, summary.and_then(|s| s.hand_on)) {
        ("waiting", _, _) => DrawingState::Waiting,
        (_, Some("return"), _) => DrawingState::Returned,
        ("failed", _, _) => DrawingState::Failed,
        (_, Some("ready"), _) => DrawingState::HandedOn,
        (_, _, Some(HandOn::Return)) => DrawingState::GoesBack,
        (_, _, Some(HandOn::Ready)) => DrawingState::MayGoOn,
        (_, _, Some(HandOn::NotChecked)) => DrawingState::NotChecked,
        _ => DrawingState::Open,
    }
}

/// The current take of every drawing of a delivery, in short, unordered.
pub async fn summaries(pool: &PgPool, delivery: Uuid, guide: &LineGuide) -> Result<Vec<DrawingSummary>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT w.id, w.file, w.state, w.message, w.manifest, w.summary, cardinality(w.asks) > 0 AS "asked!", CASE WHEN w.summary IS NULL THEN w.result END AS result, w.sha256,
                  c.number AS "number?", c.state AS "decision?", m.name AS "by?", c.note AS "note?",
                  EXISTS (SELECT FROM takes WHERE later = w.id) AS "again!", EXISTS (SELECT FROM takes WHERE earlier = w.id) AS "came_again!"
           FROM drawings w
           LEFT JOIN LATERAL (SELECT * FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) c ON true
           LEFT JOIN members m ON m.id = c.by_id WHERE w.delivery_id = $1 AND NOT w.superseded"#,
        delivery
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            let mut summary: Option<Summary> = r.summary.map(document).transpose()?;
            if let Some(result) = r.result {
                summary = Some(Summary::new(guide, &document::<DrawingCheck>(result)?));
            }
            let decision = match (r.number, r.decision, r.by) {
                (Some(number), Some(state), Some(by)) => Some(DecisionBrief { number, state, by, note: r.note.unwrap_or_default() }),
                _ => None,
            };
            let standing = standing(&r.state, decision.as_ref().map(|d| d.state.as_str()), summary.as_ref());
            Ok(DrawingSummary {
                id: r.id,
                file: r.file,
                message: r.message,
                manifest: document(r.manifest)?,
                summary,
                standing,
                decision,
                asked: r.asked,
                again: r.again,
                came_again: r.came_again,
                sha256: r.sha256,
            })
        })
        .collect()
}

/// A drawing with all that the check found, what is called meant left as it was found.
pub struct Checked {
    pub id: Uuid,
    pub file: String,
    pub manifest: Manifest,
    pub check: Option<DrawingCheck>,
    pub message: Option<String>,
    /// The file could not be taken in: a check has nothing to look at.
    pub refused: bool,
}

/// The current takes of a delivery with their findings, unordered.
pub async fn checks(pool: &PgPool, delivery: Uuid) -> Result<Vec<Checked>, sqlx::Error> {
    let rows = sqlx::query!("SELECT id, file, message, refused, manifest, result FROM drawings WHERE delivery_id = $1 AND NOT superseded", delivery)
        .fetch_all(pool)
        .await?;
    rows.into_iter()
        .map(|r| {
            Ok(Checked {
                id: r.id,
                file: r.file,
                manifest: document(r.manifest)?,
                check: r.result.map(document).transpose()?,
                message: r.message,
                refused: r.refused,
            })
        })
        .collect()
}

/// What a check needs.
pub struct Task {
    pub guide: LineGuide,
    pub delivery: Uuid,
    /// The run of the check that it belongs to.
    pub run: i32,
    pub file: String,
    pub bytes: Vec<u8>,
    pub manifest: Manifest,
}

/// The task of a drawing that waits, unless its check is stopped.
pub async fn task(pictures: &Pictures, drawing: Uuid) -> Result<Option<Task>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT w.file, w.sha256, w.manifest, i.bytes, g.guide, d.id, d.run FROM drawings w JOIN deliveries d ON d.id = w.delivery_id JOIN images i ON i.sha256 = w.sha256
         JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version WHERE w.id = $1 AND w.state = 'waiting' AND NOT d.stopped",
        drawing
    )
    .fetch_optional(&pictures.pool)
    .await?;
    let Some(r) = row else { return Ok(None) };
    let bytes = pictures.bytes(&r.sha256, r.bytes).await?;
    let mut guide: LineGuide = document(r.guide)?;
    guide.left_out.extend(super::regions::of(&pictures.pool, drawing).await?.into_iter().map(|r| r.region));
    Ok(Some(Task { guide, delivery: r.id, run: r.run, file: r.file, bytes, manifest: document(r.manifest)? }))
}

/// Counts that a drawing's check is begun, and says for which time since it was last asked for.
pub async fn tried(pool: &PgPool, drawing: Uuid) -> Result<i32, sqlx::Error> {
    sqlx::query_scalar!("UPDATE drawings SET tries = tries + 1 WHERE id = $1 RETURNING tries", drawing).fetch_one(pool).await
}

/// What was found on a drawing, and what is called meant on it.
pub struct Found {
    pub weighed: WeighedDrawing,
    /// On this take already.
    pub meant: Vec<Dismissal>,
    /// From the take before, by their rows.
    pub carried: Vec<(Uuid, Dismissal)>,
}

/// Writes down what was found, unless the check was begun anew meanwhile: then the drawing waits still.
pub async fn finish(pool: &PgPool, drawing: Uuid, task: &Task, result: Result<Found, String>) -> Result<(), sqlx::Error> {
    let mut tx = pool.begin().await?;
    let holds = sqlx::query_scalar!("SELECT run FROM deliveries WHERE id = $1 FOR SHARE", task.delivery).fetch_one(&mut *tx).await? == task.run;
    if !holds {
        return Ok(());
    }
    match result {
        Ok(Found { weighed: w, mut meant, carried }) => {
            let mut check = w.check.clone();
            meant.extend(carried.iter().map(|c| c.1.clone()));
            eddymist_check::takes::dismiss(&task.guide, &mut check, &meant);
            let stored = DrawingCheck { hand_on: check.hand_on, why: check.why.clone(), ..w.check };
            sqlx::query!(
                "UPDATE drawings SET state = 'done', message = NULL, result = $2, lines = $3, summary = $4, measured = $5 WHERE id = $1 AND state = 'waiting'",
                drawing,
                value(&stored)?,
                value(&w.lines)?,
                value(&Summary::new(&task.guide, &check))?,
                value(&eddymist_check::team::Measured::new(&task.guide, &stored, &w.lines))?
            )
            .execute(&mut *tx)
            .await?;
            for (from, d) in carried {
                sqlx::query!(
                    "INSERT INTO dismissals (id, drawing_id, finding, why, by_id, carried_from)
                     SELECT $1, $2, $3, why, by_id, id FROM dismissals o WHERE id = $4
                       AND NOT EXISTS (SELECT FROM dismissals WHERE drawing_id = $2 AND carried_from = o.id)",
                    Uuid::new_v4(),
                    drawing,
                    value(&d.finding)?,
                    from
                )
                .execute(&mut *tx)
                .await?;
            }
        }
        Err(message) => {
            sqlx::query!(
                "UPDATE drawings SET state = 'failed', message = $2, result = NULL, lines = NULL, summary = NULL, measured = NULL WHERE id = $1 AND state = 'waiting'",
                drawing,
                message
            )
            .execute(&mut *tx)
            .await?;
        }
    }
    tx.commit().await
}

/// Holds a drawing for one worker for as long as the transaction lives: it ends with the worker. None where another holds it.
pub async fn hold(pool: &PgPool, drawing: Uuid) -> Result<Option<sqlx::Transaction<'static, sqlx::Postgres>>, sqlx::Error> {
    let mut tx = pool.begin().await?;
    let key = drawing.as_u64_pair().0 as i64;
    let mine = sqlx::query_scalar!(r#"SELECT pg_try_advisory_xact_lock($1) AS "mine!""#, key).fetch_one(&mut *tx).await?;
    Ok(mine.then_some(tx))
}

/// Drawings that wait and are in no queue, and those that have been in one longest, for twenty seconds and more: their worker, or the
/// queue, may have been lost. They are marked as queued.
pub async fn to_queue(pool: &PgPool, at_once: bool) -> Result<Vec<Uuid>, sqlx::Error> {
    sqlx::query_scalar!(
        "UPDATE drawings SET queued_at = clock_timestamp() WHERE id IN (
           SELECT w.id FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
           WHERE w.state = 'waiting' AND NOT w.superseded AND NOT d.stopped AND ($1 OR w.queued_at IS NULL)
           UNION (SELECT w.id FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
           WHERE w.state = 'waiting' AND NOT w.superseded AND NOT d.stopped AND w.queued_at < clock_timestamp() - interval '20 seconds'
           ORDER BY w.queued_at LIMIT 64)) RETURNING id",
        at_once
    )
    .fetch_all(pool)
    .await
}

/// One drawing as it is stored.
pub struct Stored {
    pub id: Uuid,
    pub delivery: Uuid,
    pub delivery_name: String,
    pub file: String,
    pub sha256: String,
    pub manifest: Manifest,
    pub check: Option<DrawingCheck>,
    pub lines: Vec<WeighedLine>,
    pub guide: LineGuide,
    pub at: String,
    /// Who handed it in, where that is known, and with which note.
    pub handed: Option<Handed>,
}

/// One drawing with its lines.
pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<Stored>, sqlx::Error> {
    let row = sqlx::query!(
        r#"SELECT w.id, w.delivery_id, d.name, w.file, w.sha256, w.manifest, w.result, w.lines, w.added_at, g.guide, w.note, m.name AS "by?"
         FROM drawings w JOIN deliveries d ON d.id = w.delivery_id JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version
         LEFT JOIN members m ON m.id = w.added_by WHERE d.production_id = $1 AND w.id = $2"#,
        production,
        id
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| {
        Ok(Stored {
            handed: r.by.map(|by| Handed { by, note: r.note }),
            id: r.id,
            delivery: r.delivery_id,
            delivery_name: r.name,
            file: r.file,
            sha256: r.sha256,
            manifest: document(r.manifest)?,
            check: r.result.map(document).transpose()?,
            lines: r.lines.map(document).transpose()?.unwrap_or_default(),
            guide: document(r.guide)?,
            at: iso(r.added_at),
        })
    })
    .transpose()
}

/// The weighed lines of a drawing.
pub async fn lines(pool: &PgPool, drawing: Uuid) -> Result<Vec<WeighedLine>, sqlx::Error> {
    let row = sqlx::query_scalar!("SELECT lines FROM drawings WHERE id = $1", drawing).fetch_one(pool).await?;
    row.map(document).transpose().map(Option::unwrap_or_default)
}

/// The production of a drawing, and its latest take before it.
pub async fn earlier(pool: &PgPool, drawing: Uuid) -> Result<Option<(Uuid, Uuid)>, sqlx::Error> {
    let row = sqlx::query!(
        r#"SELECT production_id AS "production_id!", earlier AS "earlier!" FROM takes WHERE later = $1 ORDER BY earlier_at DESC LIMIT 1"#,
        drawing
    )
    .fetch_optional(pool)
    .await?;
    Ok(row.map(|r| (r.production_id, r.earlier)))
}

/// The first take after a drawing, if it came again.
pub async fn later(pool: &PgPool, drawing: Uuid) -> Result<Option<Uuid>, sqlx::Error> {
    sqlx::query_scalar!(r#"SELECT later AS "later!" FROM takes WHERE earlier = $1 ORDER BY later_at LIMIT 1"#, drawing).fetch_optional(pool).await
}

/// A drawing for this transaction alone, until it ends.
pub async fn lock(db: &mut PgConnection, id: Uuid) -> Result<(), sqlx::Error> {
    sqlx::query_scalar!("SELECT id FROM drawings WHERE id = $1 FOR UPDATE", id).fetch_optional(db).await.map(drop)
}

/// Sets what lanes show of a drawing and how it is handed on, after something was called meant.
pub async fn set_summary(db: &mut PgConnection, drawing: Uuid, guide: &LineGuide, check: &DrawingCheck) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "UPDATE drawings SET summary = $2, result = result || $3::jsonb WHERE id = $1 AND state = 'done'",
        drawing,
        value(&Summary::new(guide, check))?,
        serde_json::json!({"hand_on": check.hand_on, "why": check.why})
    )
    .execute(&mut *db)
    .await
    .map(|_| ())
}

/// Other files of the production with the same picture.
pub async fn same_picture(pool: &PgPool, production: Uuid, drawing: Uuid) -> Result<Vec<String>, sqlx::Error> {
    sqlx::query_scalar!(
        r#"SELECT o.file || ' in ' || od.name AS "said!" FROM drawings w JOIN drawings o ON o.sha256 = w.sha256 AND o.id <> w.id
           JOIN deliveries od ON od.id = o.delivery_id AND od.production_id = $1 WHERE w.id = $2 ORDER BY o.added_at LIMIT 5"#,
        production,
        drawing
    )
    .fetch_all(pool)
    .await
}

/// The drawings of a delivery that wait.
pub async fn waiting(pool: &PgPool, delivery: Uuid) -> Result<Vec<Uuid>, sqlx::Error> {
    sqlx::query_scalar!("SELECT id FROM drawings WHERE delivery_id = $1 AND NOT superseded AND state = 'waiting' ORDER BY file", delivery).fetch_all(pool).await
}
