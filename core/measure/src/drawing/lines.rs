//! What measuring a drawing yields: lines with their width along the way, and the ink that is no line.
//!
//! Lengths are px of the drawing, pixel centres at .5; areas px².

use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// Why a place of a line is in the line's body, or is not.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Place {
    Body,
    /// In a taper, or within one width of a blunt end.
    End,
    /// Within one width of a junction.
    Junction,
    /// Within one width of a turn over 30°.
    Corner,
    /// The normal meets other ink before it meets paper.
    Blocked,
    /// The normal meets what is neither paper nor ink: which it is could not be told.
    Unclear,
    /// Dots of a tone stand about it, and some may have grown on it.
    Toned,
    /// The line's edges are wider than the line; who judges says so.
    Soft,
    /// In a region that nothing is to be measured in; who judges says so.
    LeftOut,
}

impl Place {
    /// Whether what lies beside it hides where it ends.
    pub fn is_hidden(self) -> bool {
        matches!(self, Self::Blocked | Self::Unclear | Self::Toned)
    }
}

/// One step along a line.
#[derive(Debug, Clone, Copy, PartialEq)]
pub struct LinePoint {
    /// Sub-pixel centre in px, pixel centres at .5.
    pub x: f32,
    pub y: f32,
    /// Width in px across the line; meaningless where blocked.
    pub width: f32,
    /// Σ c·(1 − c) of coverage c across one edge, px, the mean of both; see [`edge_px`].
    pub edge: f32,
    pub place: Place,
}

/// The 10–90 % width in px of an edge whose Σ c·(1 − c) is given.
///
/// For a Gaussian edge of deviation σ that sum is σ/√π, and its 10–90 % width 2.563 σ; reading between pixels adds 1/6 px² to
/// the variance.
pub fn edge_px(edge: f64) -> f64 {
    2.563 * (std::f64::consts::PI * edge * edge - 1.0 / 6.0).max(0.0).sqrt()
}

/// How a line ends.
#[derive(Debug, Clone, Copy, PartialEq)]
pub enum End {
    /// At a junction with ink of its own role.
    Joined,
    /// Free: the distance in px from the tip at which the width first stays over 90 % of the body's, and whether that
    /// is a taper (over 1.5 widths) or blunt.
    Free { taper_px: f64, tapered: bool },
}

/// A line between two ends.
#[derive(Debug, Clone, PartialEq)]
pub struct Line {
    pub points: Vec<LinePoint>,
    /// Distance between points in px.
    pub step_px: f64,
    pub closed: bool,
    pub ends: [End; 2],
    /// The share of its body's edges, where they run aslant to the pixels, at which no pixel is partly covered; none where no edge does.
    pub crisp: Option<f64>,
    /// Whether ink of another role, or masked ink, begins within half a width of either end, ahead or aside.
    pub against: [bool; 2],
    /// Of a group of short, near-parallel strokes; told where a whole drawing is looked at.
    pub hatching: bool,
}

impl Line {
    /// The widths along it; where `unknown` holds nothing was measured, and the nearest that was stands in.
    pub fn known_widths(&self, unknown: impl Fn(Place) -> bool) -> Vec<f64> {
        let mut out: Vec<f64> = self.points.iter().map(|p| f64::from(p.width)).collect();
        let (not, known): (Vec<usize>, Vec<usize>) = (0..out.len()).partition(|&i| unknown(self.points[i].place));
        for i in not {
            let next = known.partition_point(|c| *c < i);
            let near = [next.checked_sub(1), Some(next)].into_iter().flatten().filter_map(|k| known.get(k)).min_by_key(|c| c.abs_diff(i));
            if let Some(k) = near {
                out[i] = f64::from(self.points[*k].width);
            }
        }
        out
    }

    /// Length along the centre line in px.
    pub fn length_px(&self) -> f64 {
        let joins = if self.closed { self.points.len() } else { self.points.len().saturating_sub(1) };
        joins as f64 * self.step_px
    }
}

/// The lines of one role.
#[derive(Debug, Clone, PartialEq)]
pub struct RoleLines {
    pub lines: Vec<Line>,
    /// Ink in px².
    pub ink_px2: f64,
    /// Its ink in px² that is masked as tone and stands in no lattice: lines may have fallen into it.
    pub toned_px2: f64,
    /// How opaque its ink is, 0…1: its widths are as if it were solid.
    pub opacity: f64,
}

impl Default for RoleLines {
    fn default() -> Self {
        Self { lines: Vec::new(), ink_px2: 0.0, toned_px2: 0.0, opacity: 1.0 }
    }
}

/// How the file's ink was mixed with its paper.
#[derive(Debug, Clone, Copy, PartialEq, Eq)]
pub enum Blend {
    /// In encoded sRGB values, as drawings nearly always are.
    Encoded,
    /// In linear light, as this file's own edges say.
    Linear,
}

/// All lines of a drawing.
#[derive(Debug, Clone, PartialEq)]
pub struct DrawingLines {
    /// As many as the plan has roles, in its order.
    pub roles: Vec<RoleLines>,
    pub blend: Blend,
    /// Ink in px² that is in no role's colour.
    pub off_palette_px2: f64,
    /// Ink that is no line.
    pub masked: Vec<Masked>,
    /// Of a scan or a photo: the sheet does not fill the picture, and what lies about it was passed over.
    pub beside: bool,
    /// Of a scan: what is said of a contrast that was stretched until paper or ink was cut.
    pub clipped: Option<&'static str>,
}

/// Why ink is not weighed.
#[derive(Debug, Clone, Copy, PartialEq, Eq, Serialize, Deserialize, JsonSchema)]
#[serde(rename_all = "kebab-case")]
pub enum MaskKind {
    SpottedBlack,
    Tone,
    Lettering,
}

/// A place whose ink is not weighed, by its upper left corner and sides in px.
#[derive(Debug, Clone, Copy, PartialEq, Serialize, Deserialize, JsonSchema)]
#[serde(deny_unknown_fields)]
pub struct Masked {
    pub kind: MaskKind,
    pub x: f64,
    pub y: f64,
    pub width: f64,
    pub height: f64,
    pub ink_px2: f64,
}
