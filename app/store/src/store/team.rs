//! What the team is looked at by, and the trims that were offered.

use eddymist_check::team::{Entry, Measured, trim::Trim};
use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, Onto, TrimView};

/// Which takes are looked at.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Takes {
    /// Each drawing's first in the production: how an artist draws. What comes back mended says nothing of the hand.
    First,
    /// The current ones, of a delivery or of all.
    Current,
}

/// What differs when any drawing, delivery or guide of a production has changed.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub struct Mark {
    drawings: i64,
    changes: i64,
    deliveries: i64,
    guides: i64,
}

/// The mark of a production as it is now: row versions summed.
pub async fn mark(pool: &PgPool, production: Uuid) -> Result<Mark, sqlx::Error> {
    sqlx::query_as!(
        Mark,
        r#"SELECT count(w.id) AS "drawings!", coalesce(sum(w.xmin::text::bigint), 0)::bigint AS "changes!",
             (SELECT coalesce(sum(d.xmin::text::bigint), 0)::bigint FROM deliveries d WHERE d.production_id = $1) AS "deliveries!",
             (SELECT coalesce(sum(g.xmin::text::bigint), 0)::bigint FROM guides g WHERE g.production_id = $1) AS "guides!"
           FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = $1"#,
        production
    )
    .fetch_one(pool)
    .await
}

/// The weighed drawings of the deliveries held against a guide.
pub async fn entries(pool: &PgPool, production: Uuid, guide: Uuid, delivery: Option<Uuid>, takes: Takes) -> Result<Vec<Entry>, sqlx::Error> {
    fill(pool, production, guide).await?;
    let rows = sqlx::query!(
        r#"SELECT w.id, w.file, w.manifest, w.measured AS "measured!", w.added_at, d.name FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
           WHERE d.production_id = $1 AND d.guide_id = $2 AND d.archived_at IS NULL AND ($3::uuid IS NULL OR d.id = $3)
             AND w.state = 'done' AND w.measured IS NOT NULL AND w.aside IS NULL
             AND CASE WHEN $4 THEN NOT EXISTS (SELECT FROM takes WHERE later = w.id AND earlier_archived_at IS NULL AND earlier_state = 'done')
               ELSE NOT w.superseded END
           ORDER BY w.added_at"#,
        production,
        guide,
        delivery,
        takes == Takes::First
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            let measured = document(r.measured)?;
            Ok(Entry { id: r.id.to_string(), file: r.file, delivery: r.name, manifest: document(r.manifest)?, added_at: iso(r.added_at), measured })
        })
        .collect()
}

/// Drawings that were weighed before they kept anything for the team get it from their lines, a hundred at a time.
async fn fill(pool: &PgPool, production: Uuid, guide: Uuid) -> Result<(), sqlx::Error> {
    loop {
        let rows = sqlx::query!(
            r#"SELECT w.id, w.result AS "result!", w.lines AS "lines!", g.guide FROM drawings w JOIN deliveries d ON d.id = w.delivery_id
               JOIN guide_versions g ON g.guide_id = d.guide_id AND g.version = d.guide_version
               WHERE d.production_id = $1 AND d.guide_id = $2 AND w.state = 'done' AND w.measured IS NULL
                 AND w.result IS NOT NULL AND w.lines IS NOT NULL LIMIT 100"#,
            production,
            guide
        )
        .fetch_all(pool)
        .await?;
        if rows.is_empty() {
            return Ok(());
        }
        for r in rows {
            let lines: Vec<eddymist_check::WeighedLine> = document(r.lines)?;
            let measured = Measured::new(&document(r.guide)?, &document(r.result)?, &lines);
            sqlx::query!("UPDATE drawings SET measured = $2 WHERE id = $1", r.id, value(&measured)?).execute(pool).await?;
        }
    }
}

/// A trim to be offered.
pub struct Offer<'a> {
    pub artist: &'a str,
    pub role: &'a str,
    pub guide: Uuid,
    pub trim: &'a Trim,
    pub onto: Onto,
    pub brush: (Uuid, i32),
    pub profile: Option<Uuid>,
    pub curve: &'a [[f64; 2]],
    pub says: &'a str,
}

/// Offers a trim; none where one of this artist and role waits for an answer.
pub async fn offer(db: &mut PgConnection, access: &Access, o: &Offer<'_>) -> Result<Option<Uuid>, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO trims (id, production_id, artist, role, guide_id, trim, onto, brush_id, brush_version, profile_id, curve, says, offered_by)
         VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10, $11, $12, $13) ON CONFLICT DO NOTHING RETURNING id",
        Uuid::new_v4(),
        access.production,
        o.artist,
        o.role,
        o.guide,
        value(o.trim)?,
        o.onto.name(),
        o.brush.0,
        o.brush.1,
        o.profile,
        value(&o.curve)?,
        o.says,
        access.member.id
    )
    .fetch_optional(&mut *db)
    .await
}

/// The trims of a production, the last first.
pub async fn trims(pool: &PgPool, production: Uuid) -> Result<Vec<TrimView>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT t.id, t.artist, t.role, t.guide_id, t.trim, t.onto, t.brush_id, t.brush_version, t.profile_id, t.curve, t.says, t.state, t.offered_at,
                  t.answered_at, t.made, o.name AS by, a.name AS "answered_by?", b.name AS brush, f.tablet AS "tablet?"
           FROM trims t JOIN members o ON o.id = t.offered_by JOIN brushes b ON b.id = t.brush_id LEFT JOIN members a ON a.id = t.answered_by
           LEFT JOIN profiles f ON f.id = t.profile_id WHERE t.production_id = $1 ORDER BY t.offered_at DESC"#,
        production
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(TrimView {
                id: r.id,
                artist: r.artist,
                role: r.role,
                guide_id: r.guide_id,
                trim: document(r.trim)?,
                onto: Onto::from_name(&r.onto),
                brush_id: r.brush_id,
                brush: r.brush,
                brush_version: r.brush_version,
                profile_id: r.profile_id,
                tablet: r.tablet,
                curve: document(r.curve)?,
                says: r.says,
                state: r.state,
                by: r.by,
                at: iso(r.offered_at),
                answered_by: r.answered_by,
                answered_at: r.answered_at.map(iso),
                made: r.made,
                mine: false,
                outcome: None,
                outcome_says: None,
            })
        })
        .collect()
}

/// Answers a trim that waits; false where it no longer does.
pub async fn answer(tx: &mut sqlx::PgConnection, access: &Access, id: Uuid, state: &str, made: Option<Uuid>) -> Result<bool, sqlx::Error> {
    let done = sqlx::query!(
        "UPDATE trims SET state = $4, made = $5, answered_by = $3, answered_at = now() WHERE production_id = $1 AND id = $2 AND state = 'offered'",
        access.production,
        id,
        access.member.id,
        state,
        made
    )
    .execute(tx)
    .await?;
    Ok(done.rows_affected() > 0)
}

/// A profile with another response, as a new one of the same artist and tablet.
pub async fn trimmed_profile(
    tx: &mut sqlx::PgConnection,
    access: &Access,
    from: Uuid,
    response: &[[f64; 2]],
    advice: &str,
) -> Result<Option<Uuid>, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO profiles (id, production_id, artist, tablet, profile, used, warmup, created_by)
         SELECT $3, production_id, artist, tablet,
                jsonb_set(jsonb_set(profile, '{response}', $4), '{advice}', coalesce(profile->'advice', '[]') || jsonb_build_array($5::text)), used, warmup, $6
         FROM profiles WHERE production_id = $1 AND id = $2 RETURNING id",
        access.production,
        from,
        Uuid::new_v4(),
        value(&response)?,
        advice,
        access.member.id
    )
    .fetch_optional(tx)
    .await
}

/// The brush of this name that an artist has from an earlier trim.
pub async fn own_brush(pool: &PgPool, production: Uuid, name: &str) -> Result<Option<(Uuid, i32)>, sqlx::Error> {
    let row = sqlx::query!(
        "SELECT id, current_version FROM brushes WHERE production_id = $1 AND name = $2 AND archived_at IS NULL ORDER BY created_at LIMIT 1",
        production,
        name
    )
    .fetch_optional(pool)
    .await?;
    Ok(row.map(|r| (r.id, r.current_version)))
}
