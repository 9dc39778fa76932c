//! Archiving, its undoing, and real removal.

use sqlx::{Connection, PgConnection, PgPool, Row};
use uuid::Uuid;

use super::iso;
use crate::model::{Archived, Kind, Part, Removal};

impl Kind {
    pub const ALL: [Self; 6] = [Self::Pens, Self::Profiles, Self::Brushes, Self::Guides, Self::Deliveries, Self::Trials];

    fn table(self) -> &'static str {
        match self {
            Self::Pens => "pens",
            Self::Profiles => "profiles",
            Self::Brushes => "brushes",
            Self::Guides => "guides",
            Self::Deliveries => "deliveries",
            Self::Trials => "trial_pages",
        }
    }

    /// One of it, in words.
    pub fn one(self) -> &'static str {
        match self {
            Self::Pens => "pen",
            Self::Profiles => "profile",
            Self::Brushes => "brush",
            Self::Guides => "guide",
            Self::Deliveries => "delivery",
            Self::Trials => "trial page",
        }
    }

    /// The expression of its name in its table `t`.
    fn name(self) -> &'static str {
        match self {
            Self::Profiles => "t.artist || ' on the ' || t.tablet",
            Self::Guides => "(SELECT v.guide->>'name' FROM guide_versions v WHERE v.guide_id = t.id AND v.version = t.current_version)",
            _ => "t.name",
        }
    }

    /// What stands on it: a count with its words, of things that are not archived, or that cannot be without it.
    fn held_by(self) -> &'static [(&'static str, &'static str)] {
        match self {
            Self::Brushes => &[("SELECT count(*) FROM pen_roll WHERE brush_id = $1", "on the pen roll: take it off first")],
            Self::Guides => {
                &[("SELECT count(*) FROM deliveries WHERE guide_id = $1 AND archived_at IS NULL", "held against by deliveries: archive those first")]
            }
            _ => &[],
        }
    }

    /// What must be gone before it can be removed.
    fn needed_by(self) -> &'static [(&'static str, &'static str)] {
        match self {
            Self::Brushes => &[
                ("SELECT count(*) FROM trial_pages WHERE $1 = ANY(brushes)", "trial pages are inked with it"),
                ("SELECT count(*) FROM trims WHERE brush_id = $1", "trims are of it"),
            ],
            Self::Profiles => &[("SELECT count(*) FROM trims WHERE profile_id = $1", "trims are of it")],
            Self::Guides => &[
                ("SELECT count(*) FROM deliveries WHERE guide_id = $1", "deliveries, archived ones among them, are held against it"),
                ("SELECT count(*) FROM trims WHERE guide_id = $1", "trims are by it"),
            ],
            _ => &[],
        }
    }

    /// What goes with it: a count, its words, and the statement that removes it; in this order.
    fn goes(self) -> &'static [(&'static str, &'static str, &'static str)] {
        match self {
            Self::Pens => &[("SELECT count(*) FROM brushes WHERE pen_id = $1", "", "UPDATE brushes SET pen_id = NULL WHERE pen_id = $1")],
            Self::Profiles => &[("SELECT count(*) FROM brushes WHERE profile_id = $1", "", "UPDATE brushes SET profile_id = NULL WHERE profile_id = $1")],
            Self::Brushes => &[
                ("SELECT count(*) FROM blind_proofs WHERE brush_id = $1", "blind proofs", "DELETE FROM blind_proofs WHERE brush_id = $1"),
                ("SELECT count(*) FROM brush_versions WHERE brush_id = $1", "versions", "DELETE FROM brush_versions WHERE brush_id = $1"),
            ],
            Self::Guides => &[("SELECT count(*) FROM guide_versions WHERE guide_id = $1", "versions", "DELETE FROM guide_versions WHERE guide_id = $1")],
            Self::Deliveries => &[
                (
                    "SELECT count(*) FROM pins p JOIN drawings w ON w.id = p.drawing_id WHERE w.delivery_id = $1",
                    "pins",
                    "DELETE FROM pins p USING drawings w WHERE w.id = p.drawing_id AND w.delivery_id = $1",
                ),
                (
                    "SELECT count(*) FROM dismissals d JOIN drawings w ON w.id = d.drawing_id WHERE w.delivery_id = $1",
                    "findings called meant",
                    "WITH gone AS (SELECT d.id FROM dismissals d JOIN drawings w ON w.id = d.drawing_id WHERE w.delivery_id = $1),
                          free AS (UPDATE dismissals SET carried_from = NULL WHERE carried_from IN (SELECT id FROM gone) RETURNING id)
                     SELECT count(*) FROM free",
                ),
                ("SELECT 0::bigint", "", "DELETE FROM dismissals d USING drawings w WHERE w.id = d.drawing_id AND w.delivery_id = $1"),
                (
                    "SELECT count(*) FROM decisions c JOIN drawings w ON w.id = c.drawing_id WHERE w.delivery_id = $1",
                    "decisions",
                    "DELETE FROM decisions c USING drawings w WHERE w.id = c.drawing_id AND w.delivery_id = $1",
                ),
                ("SELECT count(*) FROM drawings WHERE delivery_id = $1", "drawings and takes", "DELETE FROM drawings WHERE delivery_id = $1"),
            ],
            Self::Trials => &[],
        }
    }
}

/// Archives a thing, or takes it back; false where it is not in the production, or is so already.
pub async fn set(db: &mut PgConnection, production: Uuid, kind: Kind, id: Uuid, archived: bool) -> Result<bool, sqlx::Error> {
    let sql =
        format!("UPDATE {} SET archived_at = CASE WHEN $3 THEN now() END WHERE production_id = $1 AND id = $2 AND (archived_at IS NULL) = $3", kind.table());
    let done = sqlx::query(&sql).bind(production).bind(id).bind(archived).execute(&mut *db).await?;
    Ok(done.rows_affected() > 0)
}

/// A thing's name, and whether it is archived.
pub async fn name(pool: &PgPool, production: Uuid, kind: Kind, id: Uuid) -> Result<Option<(String, bool)>, sqlx::Error> {
    let sql = format!("SELECT {}, t.archived_at IS NOT NULL FROM {} t WHERE t.production_id = $1 AND t.id = $2", kind.name(), kind.table());
    let row = sqlx::query(&sql).bind(production).bind(id).fetch_optional(pool).await?;
    row.map(|r| Ok((r.try_get::<Option<String>, _>(0)?.unwrap_or_default(), r.try_get(1)?))).transpose()
}

/// Why a thing cannot be archived now.
pub async fn held_by(pool: &PgPool, kind: Kind, id: Uuid) -> Result<Option<String>, sqlx::Error> {
    stands(&mut *pool.acquire().await?, kind.held_by(), id).await
}

async fn stands(connection: &mut PgConnection, on: &[(&'static str, &'static str)], id: Uuid) -> Result<Option<String>, sqlx::Error> {
    for (sql, words) in on {
        let n: i64 = sqlx::query_scalar(sql).bind(id).fetch_one(&mut *connection).await?;
        if n > 0 {
            return Ok(Some(format!("{n} {words}")));
        }
    }
    Ok(None)
}

/// What is archived, the last first; none where the row that it should follow on is no longer there.
pub async fn list(pool: &PgPool, production: Uuid, part: Part) -> Result<Option<Vec<Archived>>, sqlx::Error> {
    let each = Kind::ALL.iter().enumerate().map(|(k, kind)| {
        format!(
            "SELECT {k} AS kind, t.id, {} AS name, t.archived_at FROM {} t WHERE t.production_id = $1 AND t.archived_at IS NOT NULL",
            kind.name(),
            kind.table()
        )
    });
    let all = each.collect::<Vec<_>>().join(" UNION ALL ");
    let last: Option<(time::OffsetDateTime, Uuid)> = match part.after {
        None => None,
        Some(after) => {
            let sql = format!("SELECT archived_at, id FROM ({all}) a WHERE id = $2");
            match sqlx::query_as(&sql).bind(production).bind(after).fetch_optional(pool).await? {
                None => return Ok(None),
                found => found,
            }
        }
    };
    let (at, id) = last.unzip();
    let sql = format!(
        "SELECT kind, id, name, archived_at FROM ({all}) a WHERE $2::timestamptz IS NULL OR (archived_at, id) < ($2, $3) ORDER BY archived_at DESC, id DESC LIMIT $4"
    );
    let rows = sqlx::query(&sql).bind(production).bind(at).bind(id).bind(part.most).fetch_all(pool).await?;
    let read = rows.into_iter().map(|r| {
        let kind = Kind::ALL[usize::try_from(r.try_get::<i32, _>(0)?).unwrap_or_default()];
        Ok(Archived { kind, id: r.try_get(1)?, name: r.try_get::<Option<String>, _>(2)?.unwrap_or_default(), at: iso(r.try_get(3)?) })
    });
    read.collect::<Result<_, sqlx::Error>>().map(Some)
}

/// What would go with a thing.
pub async fn removal(connection: &mut PgConnection, kind: Kind, id: Uuid) -> Result<Removal, sqlx::Error> {
    let mut goes = vec![format!("1 {}", kind.one())];
    let mut count = 1;
    for (sql, words, _) in kind.goes().iter().filter(|g| !g.1.is_empty()) {
        let n: i64 = sqlx::query_scalar(sql).bind(id).fetch_one(&mut *connection).await?;
        if n > 0 {
            goes.push(format!("{n} {words}"));
        }
        count += n;
    }
    let held_by = match stands(connection, kind.held_by(), id).await? {
        Some(h) => Some(h),
        None => stands(connection, kind.needed_by(), id).await?,
    };
    Ok(Removal { goes, count, held_by })
}

/// Removes an archived thing with all that goes with it, and its pictures where nothing else shows them. The error is what would go,
/// where that is not what was counted, or where something stands on it.
pub async fn remove(db: &mut PgConnection, production: Uuid, kind: Kind, id: Uuid, counted: Option<i64>) -> Result<Result<Removal, Removal>, sqlx::Error> {
    let mut tx = db.begin().await?;
    // Held, so that nothing is added between the count and the removal.
    let sql = format!("SELECT id FROM {} WHERE production_id = $1 AND id = $2 AND archived_at IS NOT NULL FOR UPDATE", kind.table());
    let there = sqlx::query(&sql).bind(production).bind(id).fetch_optional(&mut *tx).await?.is_some();
    let goes = removal(&mut tx, kind, id).await?;
    if !there || goes.held_by.is_some() || counted != Some(goes.count) {
        return Ok(Err(goes));
    }
    let pictures: Vec<String> = match kind {
        Kind::Deliveries => sqlx::query_scalar!("SELECT DISTINCT sha256 FROM drawings WHERE delivery_id = $1", id).fetch_all(&mut *tx).await?,
        Kind::Pens => sqlx::query_scalar!("SELECT scan_sha256 FROM pens WHERE id = $1", id).fetch_all(&mut *tx).await?,
        _ => Vec::new(),
    };
    for (_, _, sql) in kind.goes() {
        sqlx::query(sql).bind(id).execute(&mut *tx).await?;
    }
    let sql = format!("DELETE FROM {} WHERE production_id = $1 AND id = $2 AND archived_at IS NOT NULL", kind.table());
    sqlx::query(&sql).bind(production).bind(id).execute(&mut *tx).await?;
    sqlx::query!(
        "DELETE FROM production_images i WHERE i.production_id = $1 AND i.sha256 = ANY($2)
           AND NOT EXISTS (SELECT FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = $1 AND w.sha256 = i.sha256)
           AND NOT EXISTS (SELECT FROM pens p WHERE p.production_id = $1 AND p.scan_sha256 = i.sha256)
           AND NOT EXISTS (SELECT FROM trial_pages t WHERE t.production_id = $1 AND i.sha256 = ANY(t.pictures))",
        production,
        &pictures
    )
    .execute(&mut *tx)
    .await?;
    // What lies elsewhere is the sweep's to take away: this may still be taken back.
    sqlx::query!(
        "DELETE FROM images m WHERE m.sha256 = ANY($1) AND m.bytes IS NOT NULL AND NOT EXISTS (SELECT FROM production_images i WHERE i.sha256 = m.sha256)
           AND NOT EXISTS (SELECT FROM drawings w WHERE w.sha256 = m.sha256) AND NOT EXISTS (SELECT FROM pens p WHERE p.scan_sha256 = m.sha256)",
        &pictures
    )
    .execute(&mut *tx)
    .await?;
    tx.commit().await?;
    Ok(Ok(goes))
}
