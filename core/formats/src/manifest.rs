//! The manifest of a delivery as CSV with a header.

use std::collections::BTreeMap;

use eddymist_check::document::{MANIFEST_COLUMNS, Manifest};

use crate::{ReadError, svg_drawing};

/// A table's text: UTF-8, UTF-16 by its mark, else as western spreadsheets write it (Latin-1).
pub fn text(bytes: &[u8]) -> String {
    svg_drawing::text(bytes).map_or_else(|_| bytes.iter().map(|b| char::from(*b)).collect(), |t| t.into_owned())
}

/// What parts a table's columns: of comma, semicolon and tab the one that the header has most of.
fn delimiter(text: &str) -> u8 {
    let header = text.lines().next().unwrap_or_default();
    let count = |d: &u8| header.bytes().filter(|b| b == d).count();
    [b'\t', b';', b','].into_iter().max_by_key(count).unwrap_or(b',')
}

/// Whether a table is meant as a manifest: its header has a column “file”.
pub fn is_one(text: &str) -> bool {
    let header = text.trim_start_matches('\u{feff}').trim_start().lines().next().unwrap_or_default().to_lowercase();
    header.split(char::from(delimiter(&header))).any(|h| h.trim().trim_matches('"') == "file")
}

/// Reads a manifest: file name → its columns, parted by comma, semicolon or tab as the header is, whose case does not matter. Unknown
/// columns are an error.
pub fn read(text: &str) -> Result<BTreeMap<String, Manifest>, ReadError> {
    let bad = |e: String| ReadError::Manifest(e);
    let text = text.trim_start_matches('\u{feff}').trim_start();
    let mut reader = csv::ReaderBuilder::new().trim(csv::Trim::All).delimiter(delimiter(text)).from_reader(text.as_bytes());
    let headers: Vec<String> = reader.headers().map_err(|e| bad(e.to_string()))?.iter().map(|h| h.to_lowercase().replace([' ', '-'], "_")).collect();
    let file = headers.iter().position(|h| h == "file").ok_or_else(|| bad("the header has no “file” column".into()))?;
    // A column without a head and without values is what a spreadsheet leaves at the side.
    if let Some(unknown) = headers.iter().find(|h| !h.is_empty() && *h != "file" && !MANIFEST_COLUMNS.contains(&h.as_str())) {
        return Err(bad(format!("the column “{unknown}” is not known; file, {} are", MANIFEST_COLUMNS.join(", "))));
    }
    let mut out = BTreeMap::new();
    for record in reader.records() {
        let record = record.map_err(|e| bad(e.to_string()))?;
        let name = record.get(file).unwrap_or_default();
        let row: Manifest = headers
            .iter()
            .zip(&record)
            .enumerate()
            .filter(|(i, (h, v))| *i != file && !h.is_empty() && !v.is_empty())
            .map(|(_, (h, v))| (h.clone(), v.to_string()))
            .collect();
        // So are rows of nothing below the last.
        if !name.is_empty() || !row.is_empty() {
            out.insert(name.to_string(), row);
        }
    }
    Ok(out)
}
