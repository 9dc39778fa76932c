//! What a scan of a sampler sheet told, cell by cell and stroke by stroke, and why one cannot be read.

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

use super::{
    beside::Beside,
    layout::{CellKind, SheetPlan},
};
use crate::course::Coarseness;

/// What a scan of a sampler sheet told.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct SheetReading {
    pub plan: SheetPlan,
    /// The scan's, as the file or the member says.
    pub resolution_dpi: f64,
    /// What lies beside the sheet and tells the scale in place of the file.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub beside: Option<Beside>,
    /// Corners of the whole page in scan px, clockwise from its top left.
    pub page_px: [[f64; 2]; 4],
    /// Corner marks that were found, of four.
    pub marks: u32,
    pub turn_deg: f64,
    /// Printed size over full size, across and down.
    pub printed_scale: [f64; 2],
    /// Absorptance of the solid ink, and −log₁₀ of its reflectance over the paper's.
    pub ink_absorptance: f64,
    pub darkness: f64,
    /// Fall of the light over the page that was taken out, as a share.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub shading: Option<f64>,
    pub cells: Vec<CellReading>,
    pub warnings: Vec<String>,
    /// What a photo told beside; none of a scan. Widths are corrected by it already, and edges are the photo's and not the pen's.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub photo: Option<PhotoReading>,
}

/// What a photo told beside what a scan does.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PhotoReading {
    /// Photo px for one mm in the sheet's middle, and where it has the fewest.
    pub px_per_mm: f64,
    pub fewest_px_per_mm: f64,
    /// How far from straight the lens bends a line at the picture's corner, as a share of half the diagonal.
    pub lens_bends: f64,
    /// Standard deviation of the printed frames about a flat sheet's, mm.
    pub frames_off_mm: f64,
    /// How the printed bars correct widths; none where the sheet has no bars, or they could not be read.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub widths: Option<Widths>,
}

/// Bars of one thickness, as the photo shows them.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct BarsSeen {
    /// As printed at full size, mm.
    pub true_mm: f64,
    /// The median of those that were read, mm.
    pub seen_mm: f64,
    pub bars: u32,
}

/// What was made of widths: seen = gain · true + offset.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Widths {
    pub gain: f64,
    pub offset_um: f64,
    /// Each thickness of the bars.
    pub bars: Vec<BarsSeen>,
    /// From a tenth to nine tenths of the way from paper to ink across the thickest bars' edges, mm: how soft the photo is.
    pub edge_mm: f64,
}

impl Widths {
    /// The width that looks like this.
    pub fn of(&self, seen_mm: f64) -> f64 {
        ((seen_mm - 0.001 * self.offset_um) / self.gain).max(0.0)
    }
}

/// One cell as it was read.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct CellReading {
    pub id: String,
    pub kind: CellKind,
    /// Its corners in scan px, clockwise from its top left.
    pub corners_px: [[f64; 2]; 4],
    pub strokes: Vec<StrokeReading>,
    /// Widths by direction of travel, where the cell is the circle: degrees counter-clockwise, mm.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub by_direction: Vec<[f64; 2]>,
    /// The circle's outer and inner edge in scan px.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub ring_px: Vec<Vec<[f64; 2]>>,
    /// Lines of any course, where the cell is the free line or the hatching.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub free: Vec<FreeLine>,
    /// How close the hatching's lines lie, in mm.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub coarseness: Option<Coarseness>,
    /// Whether its place was marked by hand.
    #[serde(default, skip_serializing_if = "std::ops::Not::not")]
    pub by_hand: bool,
    /// Mean coverage of the hatched or the solid field.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub tone: Option<f64>,
    /// What could not be read, and why; empty when all was.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub says: Vec<String>,
}

/// A line of any course: its middle in scan px and its width there, mm.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct FreeLine {
    pub points_px: Vec<[f64; 2]>,
    pub width_mm: Vec<f64>,
}

/// A cell whose place on the scan was marked by hand.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Marked {
    /// The cell's id.
    pub id: String,
    /// Its corners in scan px, clockwise from its top left.
    pub corners_px: [[f64; 2]; 4],
}

/// One stroke of a cell.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct StrokeReading {
    /// Which of the cell's strokes, from 0.
    pub slot: u32,
    /// Ends of the fitted line in scan px.
    pub from: [f64; 2],
    pub to: [f64; 2],
    /// Direction drawn, counter-clockwise on the sheet, degrees.
    pub direction_deg: f64,
    /// How far along its slot the stroke begins, mm.
    pub begins_mm: f64,
    pub length_mm: f64,
    /// Step along the line, mm, of the widths and edges.
    pub step_mm: f64,
    pub width_mm: Vec<f64>,
    /// Edges at the 60 % threshold to either side of where the line runs, mm.
    pub left_mm: Vec<f64>,
    pub right_mm: Vec<f64>,
    /// How far a hand's bow takes it off the fitted line, mm; empty where it is straight.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub bow_mm: Vec<f64>,
    /// Of the edges about their lines, where the stroke is ruled: lag in µm, correlation.
    #[serde(default, skip_serializing_if = "Vec::is_empty")]
    pub autocorrelation: Vec<[f64; 2]>,
    /// The body's figures, where the stroke is ruled.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub body: Option<Body>,
    /// A dot's diameter, where it is one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub dot_mm: Option<f64>,
}

/// Figures of a stroke's body.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct Body {
    pub width_mm: f64,
    pub sd_mm: f64,
    pub raggedness_um: f64,
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub raggedness_correlation_um: Option<f64>,
    /// The hand's: the line's smooth middle about a straight line; none where the stroke is too short for one.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub wander_um: Option<f64>,
    pub blurriness_um: f64,
    /// 95 % of both; absent where the stroke is a ray.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub intervals_um: Option<EdgeIntervals>,
    /// How much lighter than paper it is beside the line, over the ink's level: a scanner's sharpening.
    pub overshoot: f64,
    pub from_mm: f64,
}

/// How sure an edge's figures are, 95 %.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct EdgeIntervals {
    pub raggedness: [f64; 2],
    pub blurriness: [f64; 2],
}

/// Why a scan is no sheet.
#[derive(Debug, thiserror::Error, Clone, PartialEq)]
pub enum SheetError {
    #[error("no corner mark of a sampler sheet was found; scan the whole sheet in grey at 300 dpi or more, all four marks in view")]
    NoMarks,
    #[error("only one corner mark was found, which does not tell where the sheet lies; scan it with at least two in view, better all four")]
    OneMark,
    #[error(
        "the sheet's marks lie {found:.0} % of their distance apart: either the resolution is not {stated} dpi (about {likely:.0} would fit), or it was printed far off its size. Type the scan's true resolution"
    )]
    Resolution { found: f64, stated: f64, likely: f64 },
    #[error("the picture is mirrored, as a front camera’s is; flip it, or take it with the other camera, then read it again")]
    Mirrored,
    #[error("the sheet is blank: no cell holds any ink")]
    Blank,
    #[error("{0}: no cell of the sheet is called so, or its four corners make no area; mark it again")]
    Marked(String),
    #[error("{0} of the four corner marks could be found in this photo, and three are needed; have the whole sheet in view, flat and sharp")]
    PhotoMarks(u32),
    #[error("the camera was too far away: a millimetre of the sheet has {has:.1} px, and ten are wanted; fill the picture with the sheet")]
    PhotoFar { has: f64 },
    #[error("the photo is too dark to measure; take it in daylight or under an even lamp, without a shadow of your own")]
    Dark,
    #[error("the photo is out of focus or shaken: its edges are {0:.2} mm wide, and 0.7 mm is the most; tap on the sheet to focus and hold still")]
    Soft(f64),
    #[error("the resolution must lie between 100 and 2400 dpi, not {0}")]
    Range(f64),
}
