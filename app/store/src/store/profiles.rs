//! Tablet profiles with the warm-ups that they came from.

use eddymist_calibrate::PressurePairs;
use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use super::{document, iso, value};
use crate::model::{Access, NewProfile, Part, ProfileReading, ProfileView};

pub async fn keep(
    db: &mut PgConnection,
    access: &Access,
    new: &NewProfile,
    reading: &ProfileReading,
    pairs: Option<(&PressurePairs, Option<Uuid>)>,
) -> Result<Uuid, sqlx::Error> {
    sqlx::query_scalar!(
        "INSERT INTO profiles (id, production_id, artist, tablet, profile, used, warmup, created_by, pairs, pairs_pen)
           VALUES ($1, $2, $3, $4, $5, $6, $7, $8, $9, $10) RETURNING id",
        Uuid::new_v4(),
        access.production,
        new.artist.trim(),
        new.tablet.trim(),
        value(&reading.profile)?,
        value(&reading.used)?,
        reading.inkml,
        access.member.id,
        pairs.map(|p| value(p.0)).transpose()?,
        pairs.and_then(|p| p.1)
    )
    .fetch_one(&mut *db)
    .await
}

/// The pairs that a profile's response comes from, and the pen whose lines they are.
pub async fn pairs(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<(PressurePairs, Option<Uuid>)>, sqlx::Error> {
    let row = sqlx::query!("SELECT pairs, pairs_pen FROM profiles WHERE production_id = $1 AND id = $2 AND pairs IS NOT NULL", production, id)
        .fetch_optional(pool)
        .await?;
    row.and_then(|r| Some((r.pairs?, r.pairs_pen))).map(|(p, pen)| Ok((document(p)?, pen))).transpose()
}

pub async fn list(pool: &PgPool, production: Uuid, part: Part) -> Result<Vec<ProfileView>, sqlx::Error> {
    let rows = sqlx::query!(
        "SELECT id, artist, tablet, profile, used, created_at FROM profiles WHERE production_id = $1 AND archived_at IS NULL
           AND ($2::uuid IS NULL OR (created_at, id) > (SELECT l.created_at, l.id FROM profiles l WHERE l.id = $2 AND l.production_id = $1))
         ORDER BY created_at, id LIMIT $3",
        production,
        part.after,
        part.most
    )
    .fetch_all(pool)
    .await?;
    rows.into_iter()
        .map(|r| {
            Ok(ProfileView {
                id: r.id,
                artist: r.artist,
                tablet: r.tablet,
                profile: document(r.profile)?,
                used: document(r.used)?,
                kept_at: iso(r.created_at),
                mine: false,
            })
        })
        .collect()
}

/// A profile and its warm-up as InkML.
pub async fn one(pool: &PgPool, production: Uuid, id: Uuid) -> Result<Option<(ProfileView, String)>, sqlx::Error> {
    let row = sqlx::query!("SELECT id, artist, tablet, profile, used, warmup, created_at FROM profiles WHERE production_id = $1 AND id = $2", production, id)
        .fetch_optional(pool)
        .await?;
    row.map(|r| {
        Ok((
            ProfileView {
                id: r.id,
                artist: r.artist,
                tablet: r.tablet,
                profile: document(r.profile)?,
                used: document(r.used)?,
                kept_at: iso(r.created_at),
                mine: false,
            },
            r.warmup,
        ))
    })
    .transpose()
}

/// Gives a profile's tablet another name; the name that it had, none where the profile is not there.
pub async fn rename(db: &mut PgConnection, production: Uuid, id: Uuid, tablet: &str) -> Result<Option<String>, sqlx::Error> {
    let before =
        sqlx::query_scalar!("SELECT tablet FROM profiles WHERE production_id = $1 AND id = $2 FOR UPDATE", production, id).fetch_optional(&mut *db).await?;
    sqlx::query!(
        "UPDATE profiles SET tablet = $3, profile = jsonb_set(profile, '{label}', to_jsonb(artist || ' on the ' || $3::text)) WHERE production_id = $1 AND id = $2",
        production,
        id,
        tablet
    )
    .execute(db)
    .await?;
    Ok(before)
}
