//! Reading who, shot and drawing from a file's name by a pattern such as `{shot}_{artist}_{drawing}`.
//!
//! How: literal text between fields, each field up to the text that follows it. Limits: two fields side by side cannot
//! be told apart and are refused.

use crate::document::{MANIFEST_COLUMNS, Manifest};

/// A pattern made of literal text and fields in braces.
#[derive(Debug, Clone, PartialEq, Eq)]
pub struct NamePattern {
    parts: Vec<Piece>,
}

#[derive(Debug, Clone, PartialEq, Eq)]
enum Piece {
    Text(String),
    Field(String),
}

/// Why a pattern cannot be used.
#[derive(Debug, thiserror::Error, Clone, PartialEq, Eq)]
pub enum PatternError {
    #[error("“{{{0}}}” is not a field; use {known}", known = MANIFEST_COLUMNS.join(", "))]
    Field(String),
    #[error("a brace is not closed in the pattern")]
    Brace,
    #[error("“{{{0}}}” and “{{{1}}}” stand side by side; put a character between them, so that it is known where one ends")]
    Touching(String, String),
    #[error("“{{{0}}}” stands twice in the pattern")]
    Twice(String),
    #[error("the pattern has no field; write something like {{shot}}_{{artist}}_{{drawing}}")]
    NoField,
}

impl NamePattern {
    /// Reads a pattern.
    pub fn parse(text: &str) -> Result<Self, PatternError> {
        let mut parts: Vec<Piece> = Vec::new();
        let mut rest = text;
        while !rest.is_empty() {
            if let Some(after) = rest.strip_prefix('{') {
                let end = after.find('}').ok_or(PatternError::Brace)?;
                let field = after[..end].trim().to_string();
                if !MANIFEST_COLUMNS.contains(&field.as_str()) {
                    return Err(PatternError::Field(field));
                }
                if let Some(Piece::Field(before)) = parts.last() {
                    return Err(PatternError::Touching(before.clone(), field));
                }
                if parts.iter().any(|p| *p == Piece::Field(field.clone())) {
                    return Err(PatternError::Twice(field));
                }
                parts.push(Piece::Field(field));
                rest = &after[end + 1..];
            } else {
                let end = rest.find('{').unwrap_or(rest.len());
                parts.push(Piece::Text(rest[..end].to_string()));
                rest = &rest[end..];
            }
        }
        if parts.iter().any(|p| matches!(p, Piece::Field(_))) { Ok(Self { parts }) } else { Err(PatternError::NoField) }
    }

    /// The fields of a file's name (its folders and its ending left out); none when it does not fit.
    pub fn read(&self, file: &str) -> Option<Manifest> {
        let name = file.rsplit(['/', '\\']).next().unwrap_or(file);
        let stem = name.rsplit_once('.').map_or(name, |s| s.0);
        let mut out = Manifest::new();
        let mut rest = stem;
        for (i, part) in self.parts.iter().enumerate() {
            match part {
                Piece::Text(t) => rest = rest.strip_prefix(t.as_str())?,
                Piece::Field(f) => {
                    let end = match self.parts.get(i + 1) {
                        Some(Piece::Text(t)) => rest.find(t.as_str())?,
                        _ => rest.len(),
                    };
                    if end == 0 {
                        return None;
                    }
                    out.insert(f.clone(), rest[..end].to_string());
                    rest = &rest[end..];
                }
            }
        }
        rest.is_empty().then_some(out)
    }
}
