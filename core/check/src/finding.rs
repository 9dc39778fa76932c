//! What may be wrong with a drawing: the kinds, and one finding with its place, its number and its limit.
//!
//! Part of the document `eddymist/line-check` (`document`); lengths and places are px of the drawing.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum FindingKind {
    Heavy,
    Thin,
    Uneven,
    Gap,
    Hook,
    Speck,
    Pinhole,
    OffPalette,
    SoftEdge,
    HardEdge,
    Double,
    BluntEnd,
    TaperedEnd,
    Drift,
    Boil,
}

impl FindingKind {
    /// All kinds, in the order of the document.
    pub const ALL: [Self; 15] = [
        Self::Heavy,
        Self::Thin,
        Self::Uneven,
        Self::Gap,
        Self::Hook,
        Self::Speck,
        Self::Pinhole,
        Self::OffPalette,
        Self::SoftEdge,
        Self::HardEdge,
        Self::Double,
        Self::BluntEnd,
        Self::TaperedEnd,
        Self::Drift,
        Self::Boil,
    ];

    /// Its name in files, in words.
    pub fn name(self) -> String {
        serde_json::to_value(self).ok().and_then(|v| Some(v.as_str()?.replace('-', " "))).unwrap_or_default()
    }
}

/// One thing wrong, at one place, with its number and its limit.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Finding {
    pub kind: FindingKind,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub role: Option<String>,
    /// Its middle, px from the top left corner, pixel centres at .5.
    pub x: f64,
    pub y: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub length_px: Option<f64>,
    pub value: f64,
    pub limit: f64,
    pub must_mend: bool,
    pub message: String,
    /// Both points of a gap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub points: Option<[[f64; 2]; 2]>,
    /// All its stretches, where there is more than one: the finding's own place is the worst's.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub stretches: Vec<StretchPlace>,
    /// The region that would leak through a gap.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub region: Option<Vec<[f64; 2]>>,
    /// Somebody calls it meant: it no longer sends the drawing back.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dismissed: Option<Dismissed>,
}

impl Finding {
    /// A finding at a place, of no role yet.
    pub fn new(kind: FindingKind, [x, y]: [f64; 2], value: f64, limit: f64, message: String) -> Self {
        Self {
            kind,
            role: None,
            x,
            y,
            length_px: None,
            value,
            limit,
            must_mend: false,
            message,
            points: None,
            stretches: Vec::new(),
            region: None,
            dismissed: None,
        }
    }
}

/// A stretch of a finding: its middle and length, px.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct StretchPlace {
    pub x: f64,
    pub y: f64,
    pub length_px: f64,
}

/// Who called a finding meant, and why.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Dismissed {
    pub by: String,
    pub why: String,
}
