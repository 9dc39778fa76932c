//! The manifest of a delivery as CSV with a header.

use std::collections::BTreeMap;

use eddymist_check::document::{MANIFEST_COLUMNS, Manifest};

use crate::ReadError;

/// Reads a manifest: file name → its columns. Unknown columns are an error.
pub fn read(text: &str) -> Result<BTreeMap<String, Manifest>, ReadError> {
    let bad = |e: String| ReadError::Manifest(e);
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).from_reader(text.as_bytes());
    let headers = reader.headers().map_err(|e| bad(e.to_string()))?.clone();
    let file = headers.iter().position(|h| h == "file").ok_or_else(|| bad("the header has no “file” column".into()))?;
    if let Some(unknown) = headers.iter().find(|h| *h != "file" && !MANIFEST_COLUMNS.contains(h)) {
        return Err(bad(format!("the column “{unknown}” is not known; file, {} are", MANIFEST_COLUMNS.join(", "))));
    }
    let mut out = BTreeMap::new();
    for record in reader.records() {
        let record = record.map_err(|e| bad(e.to_string()))?;
        let row = headers
            .iter()
            .zip(&record)
            .enumerate()
            .filter(|(i, (_, v))| *i != file && !v.is_empty())
            .map(|(_, (h, v))| (h.to_string(), v.to_string()))
            .collect();
        out.insert(record.get(file).unwrap_or_default().to_string(), row);
    }
    Ok(out)
}
