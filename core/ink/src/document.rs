//! The head that every JSON document of ours carries, and its check.

/// Why a JSON document was not accepted.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum DocumentError {
    /// Not JSON at all, or not the document's shape.
    #[error("not a readable {expected} document: {}", plain(problem))]
    Malformed { expected: &'static str, problem: String },
    /// Another document, or none of ours.
    #[error("this is {}, and {expected} is needed here", plain(found))]
    Format { expected: &'static str, found: String },
    /// Written by a newer version.
    #[error("this {format} is of version {found}, and this program reads up to version {known}; use a newer Eddymist")]
    Version { format: &'static str, found: u64, known: u64 },
}

/// What a document said, without what a terminal would run, and no page of it.
fn plain(text: &str) -> String {
    let end = text.char_indices().nth(600).map_or("", |_| "…");
    text.chars().take(600).map(|c| if c.is_control() { '\u{fffd}' } else { c }).chain(end.chars()).collect()
}

/// Checks `format` and `version` of a parsed JSON document before its body is read.
pub fn check_document(value: &serde_json::Value, expected: &'static str) -> Result<(), DocumentError> {
    let Some(object) = value.as_object() else {
        return Err(DocumentError::Malformed { expected, problem: "it is not a JSON object".into() });
    };
    match object.get("format").and_then(|f| f.as_str()) {
        Some(f) if f == expected => {}
        Some(f) => {
            return Err(DocumentError::Format { expected, found: format!("“{f}”") });
        }
        None => {
            return Err(DocumentError::Format { expected, found: "a document without a “format”".into() });
        }
    }
    match object.get("version").and_then(|v| v.as_u64()) {
        Some(1) => Ok(()),
        Some(found) if found > 1 => Err(DocumentError::Version { format: expected, found, known: 1 }),
        _ => Err(DocumentError::Malformed { expected, problem: "“version” must be 1".into() }),
    }
}
