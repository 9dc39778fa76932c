//! Every SQL query, by what it is about. Nothing here computes.

pub mod audit;
pub mod brushes;
pub mod decisions;
pub mod deliveries;
pub mod drawings;
pub mod guides;
pub mod images;
pub mod members;
pub mod pens;
pub mod profiles;
pub mod roll;
pub mod trials;

/// A time as ISO 8601 in UTC.
pub fn iso(t: time::OffsetDateTime) -> String {
    t.format(&time::format_description::well_known::Rfc3339).unwrap_or_default()
}

/// A stored document as its type.
pub fn document<T: serde::de::DeserializeOwned>(value: serde_json::Value) -> Result<T, sqlx::Error> {
    serde_json::from_value(value).map_err(|e| sqlx::Error::Decode(Box::new(e)))
}

/// A document to be stored.
pub fn value(document: &impl serde::Serialize) -> Result<serde_json::Value, sqlx::Error> {
    serde_json::to_value(document).map_err(|e| sqlx::Error::Encode(Box::new(e)))
}
