//! Pens.

use eddymist_calibrate::{PenCard, lanes::PenLine};
use eddymist_measure::scan::LineMeasurement;
use serde::{Deserialize, Serialize};
use sqlx::PgPool;
use uuid::Uuid;

use super::{document, iso, value};
use crate::{
    access::Access,
    views::{PenSummary, PenView},
};

/// What was measured of a pen's lines.
#[derive(Serialize, Deserialize)]
pub struct PenLines {
    pub measurement: LineMeasurement,
    pub lines: Vec<PenLine>,
}

pub async fn keep(pool: &PgPool, access: &Access, card: &PenCard, lines: &PenLines, sha: &str) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO pens (id, production_id, name, card, lines, scan_sha256, created_by) VALUES ($1, $2, $3, $4, $5, $6, $7) RETURNING id",
        Uuid::new_v4(),
        access.production,
        card.name,
        value(card)?,
        value(lines)?,
        sha,
        access.member.id
    )
    .fetch_one(pool)
    .await
}

pub async fn list(pool: &PgPool, production: Uuid) -> Result<Vec<PenSummary>, sqlx::Error> {
    let rows = sqlx::query!("SELECT id, name, card, lines FROM pens WHERE production_id = $1", production).fetch_all(pool).await?;
    rows.into_iter()
        .map(|r| {
            let mut lines: PenLines = document(r.lines)?;
            lines.lines.sort_by(|a, b| (a.effort.unwrap_or(0.5) - 0.5).abs().total_cmp(&(b.effort.unwrap_or(0.5) - 0.5).abs()));
            Ok(PenSummary { id: r.id, name: r.name, card: document(r.card)?, line: lines.lines.into_iter().next() })
        })
        .collect()
}

pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<PenView>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT p.id, p.name, p.card, p.lines, p.scan_sha256, p.created_at, m.name AS by FROM pens p JOIN members m ON m.id = p.created_by WHERE p.production_id = $1 AND p.id = $2",
        production, id
    )
    .fetch_optional(pool)
    .await?;
    row.map(|r| {
        let lines: PenLines = document(r.lines)?;
        Ok(PenView {
            id: r.id,
            name: r.name,
            card: document(r.card)?,
            measurement: lines.measurement,
            lines: lines.lines,
            scan_sha256: r.scan_sha256,
            kept_by: r.by,
            kept_at: iso(r.created_at),
        })
    })
    .transpose()
}
