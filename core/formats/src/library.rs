//! `eddymist/brush-library`: several brushes in one file, their images inside, with the pen roll.

use std::collections::HashSet;

use eddymist_ink::{Brush, DocumentError, check_document};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/brush-library";
/// Brushes of one file at most.
const MOST: usize = 2000;

/// Brushes and the pen roll.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct BrushLibrary {
    /// Always `eddymist/brush-library`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub brushes: Vec<LibraryBrush>,
    /// In the order of the passes.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub roll: Vec<RollEntry>,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LibraryBrush {
    pub brush: Brush,
    /// The version that it was where it comes from.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub of_version: Option<i32>,
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub tags: Vec<String>,
}

/// What one line role is inked with.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RollEntry {
    pub role: String,
    /// Name of a brush of this file.
    pub brush: String,
    /// `#rrggbb`; left out, it is the brush's own.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub colour: Option<String>,
    #[serde(default = "one")]
    pub weight_factor: f64,
}

fn one() -> f64 {
    1.0
}

/// Whether a text is `#rrggbb`.
pub fn is_colour(text: &str) -> bool {
    text.strip_prefix('#').is_some_and(|h| h.len() == 6 && h.chars().all(|c| c.is_ascii_hexdigit()))
}

impl RollEntry {
    /// Checks role, colour and factor.
    pub fn validate(&self) -> Result<(), String> {
        if self.role.trim().is_empty() {
            return Err("roll: an entry names no line role".into());
        }
        if self.colour.as_deref().is_some_and(|c| !is_colour(c)) {
            return Err(format!("roll, {}: the colour is written #rrggbb", self.role));
        }
        if !(0.05..=20.0).contains(&self.weight_factor) {
            return Err(format!("roll, {}: the weight factor lies between 0.05 and 20", self.role));
        }
        Ok(())
    }
}

impl BrushLibrary {
    pub fn new(brushes: Vec<LibraryBrush>, roll: Vec<RollEntry>) -> Self {
        Self { format: FORMAT.into(), version: 1, brushes, roll }
    }

    /// Reads and checks a library: every brush, every name once, every entry of the roll.
    pub fn from_json(text: &str) -> Result<Self, DocumentError> {
        let malformed = |problem: String| DocumentError::Malformed { expected: FORMAT, problem };
        let mut value: serde_json::Value = serde_json::from_str(text).map_err(|e| malformed(e.to_string()))?;
        check_document(&value, FORMAT)?;
        // A brush of a newer version is named as such, not by the fields that it has.
        for b in value.get("brushes").and_then(|b| b.as_array()).into_iter().flatten() {
            check_document(b.get("brush").unwrap_or(&serde_json::Value::Null), eddymist_ink::brush::FORMAT)?;
        }
        eddymist_ink::older::renamed(&mut value);
        let library: Self = serde_json::from_value(value).map_err(|e| malformed(e.to_string()))?;
        if library.brushes.is_empty() || library.brushes.len() > MOST {
            return Err(malformed(format!("a library holds 1 to {MOST} brushes")));
        }
        let mut names = HashSet::new();
        for b in &library.brushes {
            b.brush.validate().map_err(|e| malformed(format!("{}: {e}", b.brush.name)))?;
            if !names.insert(b.brush.name.as_str()) {
                return Err(malformed(format!("two brushes are called “{}”", b.brush.name)));
            }
        }
        let mut roles = HashSet::new();
        for e in &library.roll {
            e.validate().map_err(malformed)?;
            if !names.contains(e.brush.as_str()) {
                return Err(malformed(format!("roll, {}: no brush of the file is called “{}”", e.role, e.brush)));
            }
            if !roles.insert(e.role.as_str()) {
                return Err(malformed(format!("roll: {} stands there twice", e.role)));
            }
        }
        Ok(library)
    }
}
