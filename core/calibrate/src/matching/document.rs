//! The match as a document: a fitted brush, and part by part how it compares with the pen.

use eddymist_ink::{Brush, InkError};
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// The document's `format`.
pub const FORMAT: &str = "eddymist/match";

/// A difference inside this many spreads is alike.
pub(crate) const MARGIN: f64 = 1.0;

/// A fitted brush and how it compares with the pen, part by part.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Match {
    /// Always `eddymist/match`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub brush: Brush,
    pub parts: Vec<PartMatch>,
    /// The part that differs most; absent where nothing could be compared.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub worst: Option<Part>,
    /// What neither card nor warm-up shows.
    pub assumed: Vec<String>,
    /// The smoothing of position that was matched; absent where the brush has what it had.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub smoothing: Option<FittedSmoothing>,
}

/// Why the match set the brush's smoothing of position: what the hand's ink showed more of than the pen's.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct FittedSmoothing {
    /// How far live ink stays behind the stylus on the hand's own strokes.
    pub lag_ms: f64,
    /// Roughness of its lines at normal effort, µm; absent where it is no more than the pen's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub edge_um: Option<Steadied>,
    /// How much larger than a line a held dot is before any ink pools, as a share of the line; absent where it is no more than the pen's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dot: Option<Steadied>,
    pub says: String,
}

/// A figure of the hand's ink without the smoothing, what is left of it with it, and the pen's.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Steadied {
    pub hand: f64,
    pub left: f64,
    pub pen: f64,
}

#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct PartMatch {
    pub part: Part,
    pub verdict: Verdict,
    /// Brush minus pen, in `unit`; absent where there is no spread to measure it in.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub difference: Option<f64>,
    /// 95 %.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub interval: Option<[f64; 2]>,
    /// Spread of the brush's lines over the pen's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub spread_ratio: Option<f64>,
    /// How far the brush's width is off where the part shows, as a share of the pen's; of a taper where the pen has reached 90 %, of several widths
    /// the worst effort's, or the root mean square over directions or paces. Absent where there is nothing to compare.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub off_share: Option<f64>,
    pub unit: String,
    pub measured: String,
    pub lines: u32,
    pub says: String,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Part {
    Weight,
    Nib,
    Pace,
    Pooling,
    LeadIn,
    LeadOut,
    Edge,
    Steadiness,
    /// Never among a match's parts: it has no pen to be held against. It can be locked.
    Smoothing,
}

#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum Verdict {
    Alike,
    Differs,
    TooFew,
    CannotBeMatched,
}

impl Part {
    pub const ALL: [(Part, &'static str); 9] = [
        (Self::Weight, "weight"),
        (Self::Nib, "nib"),
        (Self::Pace, "pace"),
        (Self::Pooling, "pooling"),
        (Self::LeadIn, "lead-in"),
        (Self::LeadOut, "lead-out"),
        (Self::Edge, "edge"),
        (Self::Steadiness, "steadiness"),
        (Self::Smoothing, "smoothing"),
    ];

    /// Those that a match holds against the pen: all but smoothing.
    pub fn compared() -> impl Iterator<Item = (Part, &'static str)> {
        Self::ALL.into_iter().filter(|p| p.0 != Self::Smoothing)
    }

    /// The part of this name.
    pub fn from_name(name: &str) -> Option<Self> {
        Self::ALL.iter().find(|p| p.1 == name).map(|p| p.0)
    }
}

/// Why nothing could be fitted.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum FitError {
    #[error("the pen card shows no widths; measure at least one ruled line of the pen")]
    NoWidths,
    #[error("{0}")]
    Ink(#[from] InkError),
}
