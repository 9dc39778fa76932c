//! The document `eddymist/line-check`: drawings checked against a guide, and their lines as they are drawn over them.
//!
//! All px are the drawing's own; intervals are 95 %; `scale` and `shot_factor` are what the guide's px were multiplied by.

use std::collections::BTreeMap;

use eddymist_measure::{drawing::Masked, source::Source};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

pub use crate::finding::{Dismissed, Finding, FindingKind, StretchPlace};
use crate::limits::LeftOut;

/// The document's `format`.
pub const FORMAT: &str = "eddymist/line-check";

/// Drawings held against a guide.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LineCheck {
    /// Always `eddymist/line-check`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub guide: String,
    pub not_looked_for: Vec<FindingKind>,
    pub drawings: Vec<DrawingCheck>,
    pub sequence: Vec<SequenceFinding>,
    /// What could not be said of the sequence.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    pub failed: Vec<Failed>,
}

/// What is known of a drawing: artist, shot, drawing and the manifest's other columns.
pub type Manifest = BTreeMap<String, String>;

/// The columns that a manifest may have, besides `file`.
pub const MANIFEST_COLUMNS: [&str; 12] =
    ["artist", "shot", "character", "drawing", "exposure", "kind", "shot_size", "tablet", "brush", "drawn_at", "take", "picture_kind"];

/// All px are the drawing's own.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct DrawingCheck {
    pub file: String,
    pub width_px: u32,
    pub height_px: u32,
    /// Drawing width over page width.
    pub scale: f64,
    pub shot_factor: f64,
    /// What kind of picture was given, in which light, and how that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<Source>,
    /// Absent while a must-mend kind was not looked for and no must-mend finding stands.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hand_on: Option<HandOn>,
    /// Beside `not-checked`: why, and what to do.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub why: Option<String>,
    /// What is to be known before the findings are read.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub warnings: Vec<String>,
    /// Regions in which nothing was measured or found.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub left_out: Vec<LeftOut>,
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub manifest: Manifest,
    pub roles: Vec<RoleCheck>,
    pub findings: Vec<Finding>,
    /// Places whose ink is no line and was not weighed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub masked: Vec<Masked>,
    /// What print would lose, where the guide says how it is printed.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub print: Vec<PrintPlace>,
    /// What people pinned on it.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub pins: Vec<Pin>,
    /// How many more there are of a kind than are listed: a drawing's list ends somewhere.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub not_listed: BTreeMap<FindingKind, u32>,
}

/// A drawing's findings that are listed, the worst first.
pub const MOST_FINDINGS: usize = 5000;

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum HandOn {
    Ready,
    Return,
    /// Too little of a role could be measured, and nothing that was found must be fixed.
    NotChecked,
}

/// Why a part of a line that should have been measured was not.
#[derive(Debug, Clone, Copy, PartialEq, Eq, PartialOrd, Ord, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "lowercase")]
pub enum Unread {
    /// It leans on a black, on another role's ink, or nearly on another line.
    Leans,
    Soft,
    /// It lies in what is masked as tone.
    Masked,
    Photo,
    /// What lies beside it could not be told.
    Ground,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct RoleCheck {
    pub role: String,
    /// All of the role's centre line.
    pub length_px: f64,
    pub measured_share: f64,
    /// Length that should have been measured and was not, px, by the reason.
    #[serde(default, skip_serializing_if = "BTreeMap::is_empty")]
    pub unread_px: BTreeMap<Unread, f64>,
    /// Absent where no body could be measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub weight_px: Option<WeightStats>,
    /// Of the width averaged over one width, inside the tolerance or the swell.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub share_within: Option<f64>,
    /// Absent for a role that is not judged or could not be measured.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub verdict: Option<Verdict>,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tapers_px: Option<Tapers>,
    /// Its strokes that stand in groups as hatching does: measured like all others. Absent where there is none.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub hatching: Option<Hatching>,
}

/// Strokes of hatching.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Hatching {
    pub strokes: u32,
    pub length_px: f64,
}

/// Weighted by length, over the body of the lines; the interval is 95 % of the mean.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WeightStats {
    pub mean: f64,
    pub interval: [f64; 2],
    pub median: f64,
    pub p10: f64,
    pub p90: f64,
    pub sd: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Tapers {
    pub median: f64,
    pub ends: u32,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Verdict {
    Within,
    Thin,
    Heavy,
    Mixed,
    TooClose,
    /// Less than the guide's share of it could be measured.
    NotChecked,
}

impl Verdict {
    /// In words.
    pub fn says(self) -> &'static str {
        match self {
            Self::Within => "within",
            Self::Thin => "thin",
            Self::Heavy => "heavy",
            Self::Mixed => "mixed",
            Self::TooClose => "too close to say",
            Self::NotChecked => "not checked",
        }
    }
}

/// Something that a person pinned.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Pin {
    pub x: f64,
    pub y: f64,
    pub text: String,
    pub by: String,
}

/// Something wrong only in a sequence of drawings.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct SequenceFinding {
    pub kind: FindingKind,
    pub role: String,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub artist: Option<String>,
    pub drawings: Vec<String>,
    pub value: f64,
    pub limit: f64,
    pub message: String,
}

#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Failed {
    pub file: String,
    pub message: String,
}

/// What is lost.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Lost {
    /// The line is thinner in print than can be printed.
    TooThin,
    /// The white between two lines closes.
    Closes,
}

/// A stretch that print loses; its middle and length in px of the drawing, its width or gap in print and the limit in mm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PrintPlace {
    pub lost: Lost,
    pub role: String,
    pub x: f64,
    pub y: f64,
    pub length_px: f64,
    pub value_mm: f64,
    pub limit_mm: f64,
    /// The stretch itself: places along it, px.
    pub along: Vec<[f64; 2]>,
}

/// A judged drawing, with its lines for the eye.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct WeighedDrawing {
    pub check: DrawingCheck,
    pub lines: Vec<WeighedLine>,
}

/// A line as it is drawn over the drawing: every other place of it.
#[derive(Debug, Clone, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WeighedLine {
    pub role: usize,
    pub closed: bool,
    /// x, y, width in tenths of a px, three numbers a place.
    pub places: Vec<i32>,
    /// One letter a place: `-` not measured, `t` thin, `w` within, `h` heavy.
    pub standing: String,
}
