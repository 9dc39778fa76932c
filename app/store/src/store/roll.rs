//! The pen roll, tags and use of brushes, and blind proofs.

use eddymist_calibrate::blind::BlindResult;
use sqlx::{Connection, PgConnection, PgPool};
use uuid::Uuid;

use super::iso;
use crate::model::{Access, BlindKept, RollItem};

/// The roll in the order of its passes.
pub async fn read(pool: impl sqlx::PgExecutor<'_>, production: Uuid) -> Result<Vec<RollItem>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT r.role, r.brush_id, r.version, r.colour, r.weight_factor, b.name, b.current_version
           FROM pen_roll r JOIN brushes b ON b.id = r.brush_id WHERE r.production_id = $1 ORDER BY r.place"#,
        production
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| RollItem {
            role: r.role,
            brush_id: r.brush_id,
            brush: r.name,
            version: r.version,
            current_version: r.current_version,
            colour: r.colour,
            weight_factor: r.weight_factor,
        })
        .collect())
}

/// Puts the roll as a whole; false, and nothing is changed, where it is no longer the one that was seen.
pub async fn put(db: &mut PgConnection, production: Uuid, roll: &[RollItem], seen: Option<&[RollItem]>) -> Result<bool, sqlx::Error> {
    let mut tx = db.begin().await?;
    // Two leads come one after the other.
    sqlx::query!("SELECT id FROM productions WHERE id = $1 FOR UPDATE", production).fetch_one(&mut *tx).await?;
    if let Some(seen) = seen {
        let now = read(&mut *tx, production).await?;
        let same = |a: &RollItem, b: &RollItem| {
            (&a.role, a.brush_id, a.version, &a.colour, a.weight_factor) == (&b.role, b.brush_id, b.version, &b.colour, b.weight_factor)
        };
        if now.len() != seen.len() || !now.iter().zip(seen).all(|(a, b)| same(a, b)) {
            return Ok(false);
        }
    }
    sqlx::query!("DELETE FROM pen_roll WHERE production_id = $1", production).execute(&mut *tx).await?;
    for (place, r) in roll.iter().enumerate() {
        sqlx::query!(
            "INSERT INTO pen_roll (production_id, role, place, brush_id, version, colour, weight_factor) VALUES ($1, $2, $3, $4, $5, $6, $7)",
            production,
            r.role,
            place as i32,
            r.brush_id,
            r.version,
            r.colour,
            r.weight_factor
        )
        .execute(&mut *tx)
        .await?;
    }
    tx.commit().await?;
    Ok(true)
}

/// Sets tags; the new version of them, or none where they were changed meanwhile or there is no such thing.
pub async fn tag(db: &mut PgConnection, production: Uuid, id: Uuid, from: i32, tags: &[String]) -> Result<Option<i32>, sqlx::Error> {
    sqlx::query_scalar!(
        "UPDATE brushes SET tags = $4, tags_version = tags_version + 1 WHERE production_id = $1 AND id = $2 AND tags_version = $3 RETURNING tags_version",
        production,
        id,
        from,
        tags
    )
    .fetch_optional(&mut *db)
    .await
}

/// Brushes were inked with. Not written more than once a minute.
pub async fn used(pool: &PgPool, production: Uuid, ids: &[Uuid]) -> Result<(), sqlx::Error> {
    sqlx::query!(
        "UPDATE brushes SET used_at = now() WHERE production_id = $1 AND id = ANY($2) AND (used_at IS NULL OR used_at < now() - interval '1 minute')",
        production,
        ids
    )
    .execute(pool)
    .await
    .map(drop)
}

pub async fn begin_blind(pool: &PgPool, access: &Access, brush: Uuid, version: i32, of_pen: &[bool]) -> Result<Uuid, sqlx::Error> {
    let id = Uuid::new_v4();
    sqlx::query!(
        "INSERT INTO blind_proofs (id, brush_id, version, of_pen, created_by) VALUES ($1, $2, $3, $4, $5)",
        id,
        brush,
        version,
        of_pen,
        access.member.id
    )
    .execute(pool)
    .await?;
    Ok(id)
}

/// Keeps the answers once; gives what is true. None where there is no such proof that waits for them.
pub async fn answer_blind(db: &mut PgConnection, production: Uuid, brush: Uuid, id: Uuid, answers: &[bool]) -> Result<Option<Vec<bool>>, sqlx::Error> {
    sqlx::query_scalar!(
        r#"UPDATE blind_proofs p SET answers = $4 FROM brushes b
           WHERE p.id = $3 AND p.brush_id = $2 AND b.id = p.brush_id AND b.production_id = $1 AND p.answers IS NULL
             AND cardinality(p.of_pen) = cardinality($4::boolean[]) RETURNING p.of_pen"#,
        production,
        brush,
        id,
        answers
    )
    .fetch_optional(&mut *db)
    .await
}

/// Proofs of a brush that were answered, the last first.
pub async fn blinds(pool: &PgPool, production: Uuid, brush: Uuid) -> Result<Vec<BlindKept>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT p.version, p.of_pen, p.answers AS "answers!", p.created_at, m.name FROM blind_proofs p
           JOIN brushes b ON b.id = p.brush_id JOIN members m ON m.id = p.created_by
           WHERE b.production_id = $1 AND p.brush_id = $2 AND p.answers IS NOT NULL ORDER BY p.created_at DESC"#,
        production,
        brush
    )
    .fetch_all(pool)
    .await?;
    Ok(rows
        .into_iter()
        .map(|r| {
            let right = r.of_pen.iter().zip(&r.answers).filter(|(a, b)| a == b).count() as u32;
            BlindKept { version: r.version, result: BlindResult::new(right, r.of_pen.len() as u32), by: r.name, at: iso(r.created_at) }
        })
        .collect())
}
