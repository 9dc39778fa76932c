//! Deliveries: what they are called, what they are held against, and how far their checks are.

use std::collections::BTreeMap;

use eddymist_check::{LineGuide, Manifest, document::SequenceFinding, subject::Subject};
use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, DeliverySummary, NewDelivery, SequenceSeen};

pub async fn create(db: &mut PgConnection, access: &Access, new: &NewDelivery, guide_version: i32) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO deliveries (id, production_id, name, pattern, guide_id, guide_version, created_by) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id",
        Uuid::new_v4(),
        access.production,
        new.name.trim(),
        new.pattern.trim(),
        new.guide_id,
        guide_version,
        access.member.id
    )
    .fetch_one(&mut *db)
    .await
}

pub async fn list(pool: &PgPool, production: Uuid) -> Result<Vec<DeliverySummary>, sqlx::Error> {
    page(pool, production, None, None).await
}

/// The newest deliveries that came before one of them, as many as that at most, the oldest first.
pub async fn page(pool: &PgPool, production: Uuid, before: Option<Uuid>, most: Option<i64>) -> Result<Vec<DeliverySummary>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT d.id, d.name, d.created_at, count(w.id) AS "drawings!", count(w.id) FILTER (WHERE w.state = 'done') AS "done!",
                  count(w.id) FILTER (WHERE w.state = 'failed') AS "failed!",
                  count(w.id) FILTER (WHERE w.hand_on = 'return' AND coalesce(c.state, 'open') = 'open') AS "to_return!",
                  count(w.id) FILTER (WHERE w.state = 'done' AND coalesce(c.state, 'open') = 'open') AS "undecided!"
           FROM (SELECT id, name, created_at FROM deliveries WHERE production_id = $1 AND archived_at IS NULL
                   AND ($2::uuid IS NULL OR (created_at, id) < (SELECT b.created_at, b.id FROM deliveries b WHERE b.id = $2 AND b.production_id = $1))
                 ORDER BY created_at DESC, id DESC LIMIT $3) d
           LEFT JOIN drawings w ON w.delivery_id = d.id AND NOT w.superseded
           LEFT JOIN LATERAL (SELECT state FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) c ON true
           GROUP BY d.id, d.name, d.created_at ORDER BY d.created_at, d.id"#,
        production,
        before,
        most
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| DeliverySummary {
            id: r.id,
            name: r.name,
            drawings: r.drawings,
            done: r.done,
            failed: r.failed,
            to_return: r.to_return,
            undecided: r.undecided,
            at: iso(r.created_at),
        })
        .collect())
}

/// What a manifest says of files, by their names.
pub type Rows = BTreeMap<String, Manifest>;

/// A delivery's own row.
pub struct Delivery {
    pub name: String,
    pub pattern: String,
    pub rows: Rows,
    pub manifest_version: i32,
    pub guide_id: Uuid,
    pub guide_version: i32,
    /// The guide's version that is current by now.
    pub current_version: i32,
    pub guide: LineGuide,
    pub stopped: bool,
    /// What only the drawings together show, once all are weighed.
    pub sequence: Option<Vec<SequenceFinding>>,
}

pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<Delivery>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT d.name, d.pattern, d.rows, d.manifest_version, d.guide_id, d.guide_version, d.stopped, g.guide, c.current_version,
                CASE WHEN d.sequence_run = d.run THEN d.sequence END AS sequence
         FROM deliveries d JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version JOIN guides c ON c.id = d.guide_id
         WHERE d.production_id = $1 AND d.id = $2",
        production,
        id
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| {
        Ok(Delivery {
            name: r.name,
            pattern: r.pattern,
            rows: document(r.rows)?,
            manifest_version: r.manifest_version,
            guide_id: r.guide_id,
            guide_version: r.guide_version,
            current_version: r.current_version,
            guide: document(r.guide)?,
            stopped: r.stopped,
            sequence: r.sequence.map(document).transpose()?,
        })
    })
    .transpose()
}

/// How many are waiting, done and failed, and whether the check is stopped.
pub async fn progress(pool: &PgPool, delivery: Uuid) -> Result<(i64, i64, i64, bool), sqlx::Error> {
    let r = sqlx::query!(
        r#"SELECT count(w.id) FILTER (WHERE w.state = 'waiting') AS "waiting!", count(w.id) FILTER (WHERE w.state = 'done') AS "done!",
                  count(w.id) FILTER (WHERE w.state = 'failed') AS "failed!", d.stopped
           FROM deliveries d LEFT JOIN drawings w ON w.delivery_id = d.id AND NOT w.superseded WHERE d.id = $1 GROUP BY d.id"#,
        delivery
    )
    .fetch_one(pool)
    .await?;
    Ok((r.waiting, r.done, r.failed, r.stopped))
}

/// A drawing's manifest with its subject.
pub struct Known {
    pub id: Uuid,
    pub manifest: Manifest,
    pub subject: Subject,
    /// The shot's size has changed: it must be weighed again.
    pub again: bool,
}

/// Reads the drawings anew: sets pattern, rows and every drawing's manifest. False, and nothing is changed, where the manifest is no longer
/// the version that was started from.
pub async fn set_manifest(db: &mut PgConnection, delivery: Uuid, from: i32, pattern: &str, rows: &Rows, known: &[Known]) -> Result<bool, sqlx::Error> {
    let mut tx = db.begin().await?;
    let done = sqlx::query!(
        "UPDATE deliveries SET pattern = $3, rows = $4, sequence = NULL, sequence_run = NULL, manifest_version = manifest_version + 1
         WHERE id = $1 AND manifest_version = $2",
        delivery,
        from,
        pattern,
        value(rows)?
    )
    .execute(&mut *tx)
    .await?;
    if done.rows_affected() == 0 {
        return Ok(false);
    }
    let ids: Vec<Uuid> = known.iter().map(|k| k.id).collect();
    let manifests = known.iter().map(|k| value(&k.manifest)).collect::<Result<Vec<_>, _>>()?;
    let subjects: Vec<String> = known.iter().map(|k| k.subject.key.clone()).collect();
    let (again, by_name): (Vec<bool>, Vec<bool>) = known.iter().map(|k| (k.again, k.subject.by_name)).unzip();
    // The takes before follow what they are known by.
    sqlx::query!(
        "UPDATE drawings p SET subject = k.subject, by_name = k.by_name
         FROM unnest($1::uuid[], $2::text[], $3::bool[]) AS k(id, subject, by_name) JOIN drawings w ON w.id = k.id
         WHERE p.delivery_id = w.delivery_id AND p.superseded AND p.subject = w.subject AND p.by_name = w.by_name
           AND (w.subject <> k.subject OR w.by_name <> k.by_name)",
        &ids,
        &subjects,
        &by_name
    )
    .execute(&mut *tx)
    .await?;
    sqlx::query!(
        "UPDATE drawings w SET manifest = k.manifest, subject = k.subject, by_name = k.by_name, queued_at = NULL,
                result = CASE WHEN k.again THEN NULL ELSE jsonb_set(w.result, '{manifest}', k.manifest) END,
                state = CASE WHEN k.again THEN 'waiting' ELSE w.state END
         FROM unnest($1::uuid[], $2::jsonb[], $3::text[], $4::bool[], $5::bool[]) AS k(id, manifest, subject, again, by_name) WHERE w.id = k.id",
        &ids,
        &manifests,
        &subjects,
        &again,
        &by_name
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(true)
}

/// Adds to what a delivery's manifest says of files.
pub async fn add_rows(db: &mut PgConnection, delivery: Uuid, rows: &Rows) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE deliveries SET rows = rows || $2::jsonb WHERE id = $1", delivery, value(rows)?).execute(db).await.map(|_| ())
}

/// Begins the check anew with the guide's current version: every drawing waits.
pub async fn check_again(db: &mut PgConnection, delivery: Uuid) -> Result<i32, sqlx::Error> {
    let mut tx = db.begin().await?;
    let version = sqlx::query_scalar!(
        "UPDATE deliveries d SET guide_version = g.current_version, run = d.run + 1, stopped = false, sequence = NULL FROM guides g
         WHERE g.id = d.guide_id AND d.id = $1 RETURNING d.guide_version",
        delivery
    )
    .fetch_one(&mut *tx)
    .await?;
    sqlx::query!(
        "UPDATE drawings SET state = 'waiting', message = NULL, queued_at = NULL, tries = 0
         WHERE delivery_id = $1 AND NOT superseded AND NOT refused",
        delivery
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(version)
}

/// Stops the check, or lets it go on.
pub async fn stop(db: &mut PgConnection, delivery: Uuid, stopped: bool) -> Result<(), sqlx::Error> {
    let mut tx = db.begin().await?;
    sqlx::query!("UPDATE deliveries SET stopped = $2 WHERE id = $1", delivery, stopped).execute(&mut *tx).await?;
    sqlx::query!("UPDATE drawings SET queued_at = NULL WHERE delivery_id = $1 AND state = 'waiting'", delivery).execute(&mut *tx).await?;
    tx.commit().await
}

/// What the sequence's findings are made of: the guide and the run that they are of.
pub struct SequenceTask {
    pub guide: LineGuide,
    pub run: i32,
}

/// The sequence of a delivery whose drawings are all weighed and whose sequence is not looked at yet.
pub async fn sequence_task(pool: &PgPool, delivery: Uuid) -> Result<Option<SequenceTask>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT g.guide, d.run FROM deliveries d JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version
         WHERE d.id = $1 AND (d.sequence IS NULL OR d.sequence_run IS DISTINCT FROM d.run)
           AND NOT EXISTS (SELECT FROM drawings WHERE delivery_id = d.id AND NOT superseded AND state = 'waiting')",
        delivery
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| Ok(SequenceTask { guide: document(r.guide)?, run: r.run })).transpose()
}

pub async fn set_sequence(pool: &PgPool, delivery: Uuid, run: i32, findings: &[SequenceFinding]) -> Result<(), sqlx::Error> {
    sqlx::query!("UPDATE deliveries SET sequence = $3, sequence_run = $2 WHERE id = $1 AND run = $2", delivery, run, value(&findings)?)
        .execute(pool)
        .await
        .map(|_| ())
}

/// Deliveries that are weighed whole while nobody has looked at their sequence: a worker may have ended just before.
pub async fn without_sequence(pool: &PgPool) -> Result<Vec<Uuid>, sqlx::Error> {
    sqlx::query_scalar!(
        "SELECT d.id FROM deliveries d WHERE (d.sequence IS NULL OR d.sequence_run IS DISTINCT FROM d.run)
           AND EXISTS (SELECT FROM drawings WHERE delivery_id = d.id AND state = 'done')
           AND NOT EXISTS (SELECT FROM drawings WHERE delivery_id = d.id AND NOT superseded AND state = 'waiting')"
    )
    .fetch_all(pool)
    .await
}

/// The guide of the newest delivery; else the first guide.
pub async fn newest_guide(pool: &PgPool, production: Uuid) -> Result<Option<Uuid>, sqlx::Error> {
    let newest =
        sqlx::query_scalar!("SELECT guide_id FROM deliveries WHERE production_id = $1 AND archived_at IS NULL ORDER BY created_at DESC LIMIT 1", production)
            .fetch_optional(pool)
            .await?;
    match newest {
        Some(id) => Ok(Some(id)),
        None => sqlx::query_scalar!("SELECT id FROM guides WHERE production_id = $1 AND archived_at IS NULL LIMIT 1", production).fetch_optional(pool).await,
    }
}

/// What is wrong only in the sequences of a guide's deliveries, of one artist and role.
pub async fn sequence_of(pool: &PgPool, production: Uuid, guide: Uuid, artist: &str, role: &str) -> Result<Vec<SequenceSeen>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT d.id, d.name, d.sequence AS "sequence!" FROM deliveries d WHERE d.production_id = $1 AND d.guide_id = $2 AND d.archived_at IS NULL
             AND d.sequence IS NOT NULL AND d.sequence_run = d.run ORDER BY d.created_at"#,
        production,
        guide
    )
    .fetch_all(pool)
    .await?;
    let mut out = Vec::new();
    for r in rows {
        for f in document::<Vec<SequenceFinding>>(r.sequence)? {
            if f.role != role || f.artist.as_deref() != Some(artist) {
                continue;
            }
            let first = f.drawings.first().cloned().unwrap_or_default();
            let drawing = sqlx::query_scalar!("SELECT id FROM drawings WHERE delivery_id = $1 AND file = $2 AND NOT superseded", r.id, first)
                .fetch_optional(pool)
                .await?;
            out.push(SequenceSeen { delivery: r.id, delivery_name: r.name.clone(), kind: f.kind, message: f.message, drawing });
        }
    }
    Ok(out)
}
