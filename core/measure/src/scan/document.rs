//! The document `eddymist/line-measurement`.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use crate::source::Source;

/// The document's `format`.
pub const FORMAT: &str = "eddymist/line-measurement";

/// The widths of ISO 9175 technical pens, mm.
pub const STANDARD_WIDTHS_MM: [f64; 9] = [0.13, 0.18, 0.25, 0.35, 0.5, 0.7, 1.0, 1.4, 2.0];

/// The nearest standard width within 10 %.
pub fn nearest_standard(width_mm: f64) -> Option<f64> {
    STANDARD_WIDTHS_MM.into_iter().min_by(|a, b| (width_mm / a).ln().abs().total_cmp(&(width_mm / b).ln().abs())).filter(|s| (width_mm - s).abs() <= 0.1 * s)
}

/// Of the median line; none where none is near.
pub(crate) fn nearest_of(lines: &[MeasuredLine]) -> Option<f64> {
    crate::stats::median(&lines.iter().map(|l| l.width_mm.mean).collect::<Vec<_>>()).and_then(nearest_standard)
}

/// How a photo of lines beside a card was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct CardPhoto {
    /// Photo px for a millimetre at the card, and where it has fewest, at a line.
    pub px_per_mm: f64,
    pub fewest_px_per_mm: f64,
    /// Without printed bars nothing says what the camera's sharpening does to an edge: widths are sure to so much, mm.
    pub sure_mm: f64,
    /// How far the lens bends straight lines, as a share of the picture's half diagonal at its corner.
    pub lens_bends: f64,
    /// The card's corners in the photo laid flat, px, if they were sharp.
    pub card_px: [[f64; 2]; 4],
}

/// Ruled lines measured in one scan, or in one photo.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LineMeasurement {
    /// Always `eddymist/line-measurement`.
    pub format: String,
    /// Always 1.
    pub version: u32,
    pub resolution_dpi: f64,
    /// What kind of picture was given, in which light, and how that is known.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub source: Option<Source>,
    /// Where it is a photo, with a card for its scale: places and the resolution are those of the photo laid flat.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub photo: Option<CardPhoto>,
    /// Top to bottom by their middle.
    pub lines: Vec<MeasuredLine>,
    /// Of the median line; absent if none is within 10 %.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub nearest_standard_width_mm: Option<f64>,
    pub warnings: Vec<String>,
}

impl LineMeasurement {
    /// Of a scan with no ruled line, and why.
    pub fn none(resolution_dpi: f64, why: String) -> Self {
        Self {
            format: FORMAT.into(),
            version: 1,
            resolution_dpi,
            source: None,
            photo: None,
            lines: Vec::new(),
            nearest_standard_width_mm: None,
            warnings: vec![why],
        }
    }
}

/// One ruled line.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct MeasuredLine {
    pub length_mm: f64,
    /// Counter-clockwise as seen on the page.
    pub angle_deg: f64,
    /// Integrated absorptance over the solid ink's, over the body.
    pub width_mm: WidthStats,
    /// Distance between the edges at the 60 % threshold of ISO/IEC 13660.
    pub width_60_mm: f64,
    /// Mean of both edges; absent in a photo, whose own edges are softer.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_um: Option<f64>,
    /// 95 %: how much edge there is, in correlation lengths, tells how sure it is.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_interval_um: Option<[f64; 2]>,
    /// Distance at which the edge's autocorrelation has fallen to 1/e; absent where the edge is too smooth to tell.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_correlation_um: Option<f64>,
    /// Standard deviation of the line's smooth middle about the straight line, which is the hand's; absent where the line is too short.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wander_um: Option<f64>,
    /// Absent in a photo.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blurriness_um: Option<f64>,
    /// 95 %, from how it differs between parts of the line.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub blurriness_interval_um: Option<[f64; 2]>,
    /// −log₁₀ of the ink's reflectance over the paper's.
    pub darkness: f64,
    /// Length of body that the figures came from.
    pub from_mm: f64,
    pub start: LineEnd,
    pub end: LineEnd,
}

/// Of the width averaged over 0.2 mm.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct WidthStats {
    pub mean: f64,
    pub sd: f64,
    pub min: f64,
    pub max: f64,
}

#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct LineEnd {
    /// Distance from the tip at which the width first stays over 90 % of the body's; 0 for a blunt end.
    pub taper_mm: f64,
    /// The widest place at the end over the body's mean.
    pub dot_ratio: f64,
}
