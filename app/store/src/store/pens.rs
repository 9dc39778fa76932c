//! Pens.

use eddymist_calibrate::{
    PenCard,
    lanes::{PenLine, mean_autocorrelation},
};
use eddymist_measure::scan::LineMeasurement;
use serde::{Deserialize, Serialize};
use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, KeptSheet, KnownPen, Part, PenSummary, PenView};

/// What was measured of a pen's lines.
#[derive(Serialize, Deserialize)]
pub struct PenLines {
    /// Absent where the pen came from a sampler sheet.
    #[serde(default)]
    pub measurement: Option<LineMeasurement>,
    pub lines: Vec<PenLine>,
}

pub async fn keep(db: &mut PgConnection, access: &Access, card: &PenCard, lines: &PenLines, sha: &str, sheet: Option<&KeptSheet>) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO pens (id, production_id, name, card, lines, scan_sha256, created_by, sheet, sheet_number) VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9) RETURNING id",
        Uuid::new_v4(),
        access.production,
        card.name,
        value(card)?,
        value(lines)?,
        sha,
        access.member.id,
        sheet.map(value).transpose()?,
        sheet.map(|s| s.reading.plan.number.as_str())
    )
    .fetch_one(&mut *db)
    .await
}

/// The drawer, in the order in which its pens came in.
pub async fn list(pool: &PgPool, production: Uuid, part: Part) -> Result<Vec<PenSummary>, sqlx::Error> {
    let rows = sqlx::query!(
        // One line of each, that at normal effort, and the card without the strip's picture: the rest stays with the pen.
        r#"SELECT id, name, card - 'strip_png' AS "card!", tags, sheet_number, created_at,
             (SELECT l FROM jsonb_array_elements(lines->'lines') WITH ORDINALITY AS of (l, n) ORDER BY abs(coalesce((l->>'effort')::float8, 0.5) - 0.5), n LIMIT 1) AS line
           FROM pens p WHERE production_id = $1 AND archived_at IS NULL
           AND ($2::uuid IS NULL OR (created_at, id) > (SELECT l.created_at, l.id FROM pens l WHERE l.id = $2 AND l.production_id = $1))
         ORDER BY created_at, id LIMIT $3"#,
        production,
        part.after,
        part.most
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            let line = r.line.map(document).transpose()?;
            Ok(PenSummary { id: r.id, name: r.name, card: document(r.card)?, line, tags: r.tags, sheet_number: r.sheet_number, kept_at: iso(r.created_at) })
        })
        .collect()
}

pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<PenView>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT p.id, p.name, p.card, p.lines, p.scan_sha256, p.created_at, p.sheet, p.tags, p.tags_version, m.name AS by FROM pens p JOIN members m ON m.id = p.created_by WHERE p.production_id = $1 AND p.id = $2",
        production, id
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| {
        let lines: PenLines = document(r.lines)?;
        let card: PenCard = document(r.card)?;
        Ok(PenView {
            id: r.id,
            name: r.name,
            figures: card.figures(),
            card,
            measurement: lines.measurement,
            autocorrelation: mean_autocorrelation(&lines.lines),
            lines: lines.lines,
            sheet: r.sheet.map(document).transpose()?,
            tags: r.tags,
            tags_version: r.tags_version,
            scan_sha256: r.scan_sha256,
            kept_by: r.by,
            kept_at: iso(r.created_at),
        })
    })
    .transpose()
}

/// Pens that were kept from the sheet of this number, newest first.
pub async fn from_sheet(pool: &PgPool, production: Uuid, number: &str) -> Result<Vec<KnownPen>, sqlx::Error> {
    let rows = sqlx::query!("SELECT id, name FROM pens WHERE production_id = $1 AND sheet_number = $2 ORDER BY created_at DESC", production, number)
        .fetch_all(pool)
        .await?;
    Ok(rows.into_iter().map(|r| KnownPen { id: r.id, name: r.name }).collect())
}

/// Gives a pen another name; the name that it had, none where it is not there.
pub async fn rename(db: &mut PgConnection, production: Uuid, id: Uuid, name: &str) -> Result<Option<String>, sqlx::Error> {
    let before = sqlx::query_scalar!("SELECT name FROM pens WHERE production_id = $1 AND id = $2 FOR UPDATE", production, id).fetch_optional(&mut *db).await?;
    sqlx::query!("UPDATE pens SET name = $3, card = jsonb_set(card, '{name}', to_jsonb($3::text)) WHERE production_id = $1 AND id = $2", production, id, name)
        .execute(db)
        .await?;
    Ok(before)
}

/// Sets tags; the new version of them, or none where they were changed meanwhile or there is no such thing.
pub async fn tag(db: &mut PgConnection, production: Uuid, id: Uuid, from: i32, tags: &[String]) -> Result<Option<i32>, sqlx::Error> {
    sqlx::query_scalar!(
        "UPDATE pens SET tags = $4, tags_version = tags_version + 1 WHERE production_id = $1 AND id = $2 AND tags_version = $3 RETURNING tags_version",
        production,
        id,
        from,
        tags
    )
    .fetch_optional(&mut *db)
    .await
}
