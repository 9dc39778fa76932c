//! Which member an artist of the manifests is. A lead says so: a name alone gives no right.

use sqlx::{PgConnection, PgPool};
use uuid::Uuid;

use crate::model::{Access, ArtistLink};

/// The artists that the production's manifests and trims name, with who they are.
pub async fn list(pool: &PgPool, production: Uuid) -> Result<Vec<ArtistLink>, sqlx::Error> {
    let rows = sqlx::query!(
        r#"SELECT DISTINCT ON (lower(btrim(n.artist))) btrim(n.artist) AS "artist!", a.member_id AS "member_id?" FROM (
             SELECT DISTINCT w.artist FROM drawings w JOIN deliveries d ON d.id = w.delivery_id WHERE d.production_id = $1
             UNION SELECT artist FROM trims WHERE production_id = $1
             UNION SELECT artist FROM artist_members WHERE production_id = $1) n
           LEFT JOIN artist_members a ON a.production_id = $1 AND a.artist = lower(btrim(n.artist))
           WHERE coalesce(btrim(n.artist), '') <> '' ORDER BY lower(btrim(n.artist)), n.artist DESC"#,
        production
    )
    .fetch_all(pool)
    .await?;
    Ok(rows.into_iter().map(|r| ArtistLink { artist: r.artist, member: r.member_id, fits: None }).collect())
}

/// The artists that a member is, in small letters.
pub async fn of_member(pool: &PgPool, production: Uuid, member: Uuid) -> Result<Vec<String>, sqlx::Error> {
    sqlx::query_scalar!("SELECT artist FROM artist_members WHERE production_id = $1 AND member_id = $2", production, member).fetch_all(pool).await
}

/// The artists who are some member of the production, whoever, in small letters.
pub async fn linked(pool: &PgPool, production: Uuid) -> Result<Vec<String>, sqlx::Error> {
    sqlx::query_scalar!(
        "SELECT a.artist FROM artist_members a JOIN memberships m ON m.production_id = a.production_id AND m.member_id = a.member_id WHERE a.production_id = $1",
        production
    )
    .fetch_all(pool)
    .await
}

/// Says who an artist is, or with none that nobody is; false where the member is not of the production.
pub async fn link(db: &mut PgConnection, access: &Access, artist: &str, member: Option<Uuid>) -> Result<bool, sqlx::Error> {
    let artist = artist.trim().to_lowercase();
    let Some(member) = member else {
        sqlx::query!("DELETE FROM artist_members WHERE production_id = $1 AND artist = $2", access.production, artist).execute(db).await?;
        return Ok(true);
    };
    let done = sqlx::query!(
        "INSERT INTO artist_members (production_id, artist, member_id, linked_by)
         SELECT $1, $2, member_id, $4 FROM memberships WHERE production_id = $1 AND member_id = $3
         ON CONFLICT (production_id, artist) DO UPDATE SET member_id = excluded.member_id, linked_by = excluded.linked_by, at = now()",
        access.production,
        artist,
        member,
        access.member.id
    )
    .execute(db)
    .await?;
    Ok(done.rows_affected() > 0)
}
