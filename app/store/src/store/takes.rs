//! Drawings that come in: each is a drawing of its own, the next take of one that is there, or asked about; what is set aside and restored.

use eddymist_check::{
    Manifest,
    subject::{self, Subject, There, Whose, whose},
};
use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, AsideView, Returned, TakeCandidate, WhyAside};

/// What became of a file that came in.
#[derive(Debug, Clone, PartialEq, Eq)]
pub enum Added {
    New(Uuid),
    /// A later take of the drawing whose file had this name.
    Take(Uuid, String),
    /// It may be a later take of several: it stands by itself until somebody says which.
    Asked(Uuid),
    /// The same content is there already.
    There,
}

/// A file that comes in.
pub struct New<'a> {
    pub delivery: Uuid,
    pub file: &'a str,
    pub sha: &'a str,
    pub manifest: &'a Manifest,
    /// Why it could not be taken in, if it could not: it stands in the delivery with its reason.
    pub failed: Option<&'a str>,
    /// Handed in as the next take of this drawing, whatever it is called.
    pub of: Option<Uuid>,
    pub note: &'a str,
}

/// A drawing that is there.
struct Row {
    id: Uuid,
    delivery: Uuid,
    subject: Subject,
    file: String,
    sha256: String,
    manifest: Manifest,
    superseded: bool,
    awaited: bool,
}

/// What a file may be a take of: what is in its delivery, and in its place of the production, with this number in its name.
async fn there(db: &mut PgConnection, access: &Access, delivery: Uuid, file: &str, manifest: &Manifest) -> Result<Vec<Row>, sqlx::Error> {
    let (place, drawing) = subject::place(manifest).unzip();
    let number = drawing.and_then(|d| d.number).or_else(|| subject::file_named(file).number).unwrap_or_default();
    let rows = sqlx::query!(
        r#"SELECT w.id, w.delivery_id, w.subject, w.by_name, w.file, w.sha256, w.manifest, w.superseded,
                coalesce((SELECT state FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) = 'return', false) AS "awaited!"
         FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
         WHERE d.production_id = $1 AND w.aside IS NULL AND (w.delivery_id = $2 OR w.place = $3 AND NOT w.by_name)
           AND (w.file = $5 OR w.file LIKE '%' || $4 || '%' OR w.manifest->>'drawing' LIKE '%' || $4 || '%') ORDER BY w.added_at"#,
        access.production,
        delivery,
        place,
        number,
        file
    )
    .fetch_all(&mut *db)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(Row {
                id: r.id,
                delivery: r.delivery_id,
                subject: Subject { key: r.subject, by_name: r.by_name },
                file: r.file,
                sha256: r.sha256,
                manifest: document(r.manifest)?,
                superseded: r.superseded,
                awaited: r.awaited && !r.superseded,
            })
        })
        .collect()
}

/// Adds a drawing, or says that the same is there. The take before it stays. The error is a sentence for who sent it.
pub async fn add(pool: &PgPool, access: &Access, new: &New<'_>) -> Result<Result<Added, String>, sqlx::Error> {
    let mut tx = pool.begin().await?;
    // One file at a time in a delivery: two uploads of one name do not meet.
    sqlx::query!("SELECT id FROM deliveries WHERE id = $1 FOR UPDATE", new.delivery).fetch_one(&mut *tx).await?;
    let mut rows = there(&mut tx, access, new.delivery, new.file, new.manifest).await?;
    let mut whose = Whose::New;
    let mut before = None;
    if let Some(of) = new.of {
        let handed =
            sqlx::query!("SELECT subject, by_name, file, sha256, manifest, superseded FROM drawings WHERE id = $1 AND delivery_id = $2", of, new.delivery)
                .fetch_one(&mut *tx)
                .await?;
        if handed.superseded {
            return Ok(Err(format!("{} has a later take already, or was removed: nothing was changed. Reload the page", handed.file)));
        }
        let subject = Subject { key: handed.subject, by_name: handed.by_name };
        whose = Whose::Takes(subject.clone());
        let manifest = document(handed.manifest)?;
        rows = vec![Row { id: of, delivery: new.delivery, subject, file: handed.file, sha256: handed.sha256, manifest, superseded: false, awaited: true }];
    } else if let Some(same) = rows.iter().find(|r| r.delivery == new.delivery && !r.superseded && r.file == new.file) {
        whose = Whose::Takes(same.subject.clone());
        before = Some(same.id);
    } else {
        let all: Vec<There> = rows.iter().map(|r| There { subject: &r.subject, file: &r.file, manifest: &r.manifest, awaited: r.awaited }).collect();
        if let found @ (Whose::Takes(_) | Whose::Asked(_)) = eddymist_check::subject::whose(new.file, new.manifest, &all) {
            whose = found;
        }
    }
    // Of what it is a take of, what is current in this delivery gives way.
    let here = match &whose {
        Whose::Takes(s) => rows.iter().find(|r| before.map_or(r.delivery == new.delivery && !r.superseded && r.subject == *s, |b| r.id == b)),
        _ => None,
    };
    if here.is_some_and(|r| r.sha256 == new.sha) {
        return Ok(Ok(Added::There));
    }
    // A drawing handed in for another keeps its name, and what is known of it; another name gets what is known of the take before.
    let (mut file, mut manifest) = (new.file.to_string(), new.manifest.clone());
    if let Some(r) = here {
        for (k, v) in &r.manifest {
            manifest.entry(k.clone()).or_insert_with(|| v.clone());
        }
        if new.of.is_some() {
            file.clone_from(&r.file);
        } else if r.file != file {
            let rows = std::collections::BTreeMap::from([(file.clone(), manifest.clone())]);
            super::deliveries::add_rows(&mut tx, new.delivery, &rows).await?;
        }
        sqlx::query!("UPDATE drawings SET superseded = true WHERE id = $1", r.id).execute(&mut *tx).await?;
    }
    let own = subject::subject(&file, &manifest);
    let (subject, asks) = match &whose {
        Whose::New => (&own, Vec::new()),
        Whose::Takes(s) => (s, Vec::new()),
        // The newest take of each.
        Whose::Asked(of) => (&own, of.iter().filter_map(|s| rows.iter().rev().find(|r| r.subject == *s).map(|r| r.id)).collect()),
    };
    sqlx::query!("UPDATE deliveries SET sequence = NULL WHERE id = $1", new.delivery).execute(&mut *tx).await?;
    let id = sqlx::query_scalar!(
        "INSERT INTO drawings (id, delivery_id, file, sha256, manifest, subject, by_name, state, message, refused, queued_at, asks, note, added_by)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, clock_timestamp(), $11, $12, $13) RETURNING id",
        Uuid::new_v4(),
        new.delivery,
        file,
        new.sha,
        value(&manifest)?,
        subject.key,
        subject.by_name,
        if new.failed.is_some() { "failed" } else { "waiting" },
        new.failed.map(|f| format!("not taken in: {f}")),
        new.failed.is_some(),
        &asks,
        new.note,
        access.member.id
    )
    .fetch_one(&mut *tx)
    .await?;
    // What was left out of the newest take before is left out of this one.
    if let Whose::Takes(s) = &whose
        && let Some(r) = rows.iter().rev().find(|r| r.subject == *s)
    {
        super::regions::follow(&mut tx, r.id, id).await?;
    }
    let became = match here {
        Some(r) => Added::Take(id, r.file.clone()),
        None if !asks.is_empty() => Added::Asked(id),
        None => Added::New(id),
    };
    tx.commit().await?;
    Ok(Ok(became))
}

/// By what drawings of a delivery are known once their manifests say this: what is known by what it was keeps it.
pub async fn known_by(pool: &PgPool, access: &Access, delivery: Uuid, drawing: Uuid, file: &str, manifest: &Manifest) -> Result<Subject, sqlx::Error> {
    let was = sqlx::query!("SELECT subject, by_name, manifest FROM drawings WHERE id = $1", drawing).fetch_one(pool).await?;
    if subject::place(&document(was.manifest)?) == subject::place(manifest) {
        return Ok(Subject { key: was.subject, by_name: was.by_name });
    }
    // Most places are of this delivery alone.
    let elsewhere = sqlx::query_scalar!(
        r#"SELECT EXISTS (SELECT FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
                          WHERE d.production_id = $1 AND w.delivery_id <> $2 AND w.place = $3 AND NOT w.by_name AND w.aside IS NULL) AS "there!""#,
        access.production,
        delivery,
        subject::place(manifest).map(|p| p.0)
    )
    .fetch_one(pool)
    .await?;
    if !elsewhere {
        return Ok(subject::subject(file, manifest));
    }
    let mut db = pool.acquire().await?;
    let rows = there(&mut db, access, delivery, file, manifest).await?;
    // Drawings of one delivery are not joined by what is said of them.
    let others: Vec<There> = rows
        .iter()
        .filter(|r| r.delivery != delivery)
        .map(|r| There { subject: &r.subject, file: &r.file, manifest: &r.manifest, awaited: r.awaited })
        .collect();
    Ok(match whose(file, manifest, &others) {
        Whose::Takes(s) => s,
        _ => subject::subject(file, manifest),
    })
}

/// What a drawing may be the next take of.
pub async fn candidates(pool: &PgPool, drawing: Uuid) -> Result<Vec<TakeCandidate>, sqlx::Error> {
    sqlx::query_as!(
        TakeCandidate,
        "SELECT c.id, c.file, c.sha256, d.name AS delivery_name FROM drawings w JOIN drawings c ON c.id = ANY(w.asks) JOIN deliveries d ON d.id = c.delivery_id
         WHERE w.id = $1 ORDER BY c.file",
        drawing
    )
    .fetch_all(pool)
    .await
}

/// Says whose next take a drawing is, or that it is a drawing of its own; false where that is not asked any more.
pub async fn answer(db: &mut PgConnection, drawing: Uuid, of: Option<Uuid>) -> Result<bool, sqlx::Error> {
    let mut tx = db.begin().await?;
    let asked = sqlx::query!(
        r#"SELECT delivery_id, asks FROM drawings WHERE id = $1 AND NOT superseded AND cardinality(asks) > 0 AND ($2::uuid IS NULL OR $2 = ANY(asks)) FOR UPDATE"#,
        drawing,
        of
    )
    .fetch_optional(&mut *tx)
    .await?;
    let Some(asked) = asked else { return Ok(false) };
    if let Some(of) = of {
        sqlx::query!(
            "UPDATE drawings SET superseded = true FROM drawings o
             WHERE o.id = $1 AND drawings.delivery_id = $2 AND drawings.subject = o.subject AND drawings.by_name = o.by_name AND NOT drawings.superseded",
            of,
            asked.delivery_id
        )
        .execute(&mut *tx)
        .await?;
        // It is checked again: what was marked as intended on the take before may hold.
        let known = sqlx::query!(
            "UPDATE drawings w SET subject = o.subject, by_name = o.by_name, manifest = o.manifest || w.manifest, queued_at = NULL,
                    state = CASE WHEN w.refused THEN w.state ELSE 'waiting' END FROM drawings o WHERE w.id = $1 AND o.id = $2 RETURNING w.file, w.manifest",
            drawing,
            of
        )
        .fetch_one(&mut *tx)
        .await?;
        let rows = std::collections::BTreeMap::from([(known.file, document(known.manifest)?)]);
        super::deliveries::add_rows(&mut tx, asked.delivery_id, &rows).await?;
    }
    if let Some(of) = of {
        super::regions::follow(&mut tx, of, drawing).await?;
    }
    sqlx::query!("UPDATE drawings SET asks = '{}' WHERE id = $1", drawing).execute(&mut *tx).await?;
    sqlx::query!("UPDATE deliveries SET sequence = NULL WHERE id = $1", asked.delivery_id).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(true)
}

/// Sets drawings of a delivery aside: the take before each is current again. The files that were set aside: what is no current drawing of
/// it, or was added by somebody else where only one's own may be, is left.
pub async fn set_aside(
    db: &mut PgConnection,
    access: &Access,
    delivery: Uuid,
    ids: &[Uuid],
    why: WhyAside,
    own_only: bool,
) -> Result<Vec<String>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let rows = sqlx::query!(
        "UPDATE drawings SET superseded = true, aside = $3, aside_by = $4, aside_at = now()
         WHERE delivery_id = $1 AND id = ANY($2) AND NOT superseded AND (NOT $5 OR added_by = $4) RETURNING id, file, subject, by_name",
        delivery,
        ids,
        why.name(),
        access.member.id,
        own_only
    )
    .fetch_all(&mut *tx)
    .await?;
    for r in &rows {
        sqlx::query!(
            "UPDATE drawings SET superseded = false WHERE id = (
               SELECT e.id FROM drawings e WHERE e.delivery_id = $1 AND e.subject = $2 AND e.by_name = $3 AND e.aside IS NULL ORDER BY e.added_at DESC LIMIT 1)
             AND NOT EXISTS (SELECT FROM drawings c WHERE c.delivery_id = $1 AND NOT c.superseded AND c.file = drawings.file)",
            delivery,
            r.subject,
            r.by_name
        )
        .execute(&mut *tx)
        .await?;
    }
    sqlx::query!("UPDATE deliveries SET sequence = NULL WHERE id = $1", delivery).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(rows.into_iter().map(|r| r.file).collect())
}

/// Restores what was set aside; what came under its name or as its take meanwhile stays current, and the drawing is left aside. The files
/// that were restored.
pub async fn restore(db: &mut PgConnection, access: &Access, delivery: Uuid, ids: &[Uuid], own_only: bool) -> Result<Vec<String>, sqlx::Error> {
    let mut tx = db.begin().await?;
    let mut out = Vec::new();
    for id in ids {
        let back = sqlx::query!(
            "SELECT file, subject, by_name, added_at FROM drawings w WHERE id = $1 AND delivery_id = $2 AND aside IS NOT NULL AND (NOT $3 OR added_by = $4)
               AND NOT EXISTS (SELECT FROM drawings c WHERE c.delivery_id = $2 AND NOT c.superseded
                               AND (c.subject = w.subject AND c.by_name = w.by_name AND c.added_at > w.added_at
                                    OR c.file = w.file AND (c.subject <> w.subject OR c.by_name <> w.by_name)))",
            id,
            delivery,
            own_only,
            access.member.id
        )
        .fetch_optional(&mut *tx)
        .await?;
        let Some(b) = back else { continue };
        sqlx::query!(
            "UPDATE drawings SET superseded = true WHERE delivery_id = $1 AND subject = $2 AND by_name = $3 AND NOT superseded AND added_at < $4",
            delivery,
            b.subject,
            b.by_name,
            b.added_at
        )
        .execute(&mut *tx)
        .await?;
        sqlx::query!("UPDATE drawings SET superseded = false, aside = NULL, aside_by = NULL, aside_at = NULL WHERE id = $1", id).execute(&mut *tx).await?;
        out.push(b.file);
    }
    sqlx::query!("UPDATE deliveries SET sequence = NULL WHERE id = $1", delivery).execute(&mut *tx).await?;
    tx.commit().await?;
    Ok(out)
}

/// What of a delivery is set aside, the newest last.
pub async fn aside(pool: &PgPool, delivery: Uuid) -> Result<Vec<AsideView>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT w.id, w.file, w.sha256, w.aside AS "why!", w.aside_at AS "at!", m.name FROM drawings w JOIN members m ON m.id = w.aside_by
           WHERE w.delivery_id = $1 AND w.aside IS NOT NULL ORDER BY w.aside_at, w.file LIMIT 200"#,
        delivery
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| AsideView {
            id: r.id,
            file: r.file,
            sha256: r.sha256,
            why: if r.why == "removed" { WhyAside::Removed } else { WhyAside::NoDrawing },
            by: r.name,
            at: iso(r.at),
        })
        .collect())
}

/// Drawings returned to a member, as the artists whom a lead linked with them, that have not come again.
pub async fn returned_to(pool: &PgPool, production: Uuid, member: Uuid) -> Result<Vec<Returned>, sqlx::Error> {
    sqlx::query_as!(
        Returned,
        r#"SELECT w.id, w.file, w.sha256, w.delivery_id AS delivery, d.name AS delivery_name, c.note, m.name AS by FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
           JOIN artist_members a ON a.production_id = d.production_id AND a.artist = lower(w.artist) AND a.member_id = $2
           JOIN LATERAL (SELECT state, note, by_id FROM decisions WHERE drawing_id = w.id ORDER BY number DESC LIMIT 1) c ON c.state = 'return'
           JOIN members m ON m.id = c.by_id
           WHERE d.production_id = $1 AND d.archived_at IS NULL AND NOT w.superseded AND NOT EXISTS (SELECT FROM takes WHERE earlier = w.id)
           ORDER BY d.created_at, w.file"#,
        production,
        member
    )
    .fetch_all(pool)
    .await
}
