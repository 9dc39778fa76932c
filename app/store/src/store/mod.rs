//! Every SQL query, by what it is about. Nothing here computes.

pub mod archive;
pub mod artists;
pub mod attempts;
pub mod audit;
pub mod brushes;
pub mod decisions;
pub mod deliveries;
pub mod drawings;
pub mod guides;
pub mod images;
pub mod invitations;
pub mod keeping;
pub mod members;
pub mod pens;
pub mod profiles;
pub mod regions;
pub mod roll;
pub mod sign_ins;
pub mod takes;
pub mod team;
pub mod trials;

/// The SHA-256 of bytes, in hexadecimal digits.
pub fn sha256(bytes: &[u8]) -> String {
    use sha2::{Digest, Sha256};
    Sha256::digest(bytes).iter().map(|b| format!("{b:02x}")).collect()
}

/// A time as ISO 8601 in UTC.
pub fn iso(t: time::OffsetDateTime) -> String {
    t.format(&time::format_description::well_known::Rfc3339).unwrap_or_default()
}

/// Whole days since a time as `iso` writes it; 0 of what is no time.
pub fn days_since(at: &str) -> i64 {
    let parsed = time::OffsetDateTime::parse(at, &time::format_description::well_known::Rfc3339);
    parsed.map_or(0, |t| (time::OffsetDateTime::now_utc() - t).whole_days())
}

/// A stored document as its type.
pub fn document<T: serde::de::DeserializeOwned>(value: serde_json::Value) -> Result<T, sqlx::Error> {
    serde_json::from_value(value).map_err(|e| sqlx::Error::Decode(Box::new(e)))
}

/// A document to be stored.
pub fn value(document: &impl serde::Serialize) -> Result<serde_json::Value, sqlx::Error> {
    serde_json::to_value(document).map_err(|e| sqlx::Error::Encode(Box::new(e)))
}

/// How many tables the database has of its own.
pub async fn tables(pool: &sqlx::PgPool) -> Result<i64, sqlx::Error> {
    let n = sqlx::query_scalar!(r#"SELECT count(*) AS "n!" FROM information_schema.tables WHERE table_schema NOT IN ('pg_catalog', 'information_schema')"#)
        .fetch_one(pool)
        .await?;
    Ok(n)
}
