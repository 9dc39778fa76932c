//! One line with what a page needs to show it: its figures, and the picture that they came from.

use serde::{Deserialize, Serialize};

use super::MeasuredLine;

/// One line with what a page needs to show it: the figures, and the picture they came from.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct LineView {
    pub figures: MeasuredLine,
    /// Ends of the fitted line in scan px.
    pub from: [f64; 2],
    pub to: [f64; 2],
    /// Step along the line, mm, of `left`, `right` and `width_mm`.
    pub step_mm: f64,
    /// Edges at the 60 % threshold, mm to either side of the fitted line (left of the direction is negative), or of where a hand's bow takes it.
    pub left_mm: Vec<f64>,
    pub right_mm: Vec<f64>,
    /// How far that is off the fitted line, mm; empty where the line is straight.
    pub bow_mm: Vec<f64>,
    pub width_mm: Vec<f64>,
    /// The straightened line: absorptance over the ink's, rows across the line.
    pub strip: Strip,
    /// The longest part of the body that repeats, at the scan's own resolution.
    pub repeating: Option<RepeatingStrip>,
    /// Of the edges about their lines: lag in µm, correlation. Empty where they are too smooth to tell.
    pub autocorrelation: Vec<[f64; 2]>,
}

/// A straightened picture of a line, coverage 0…1, `rows` across and `columns` along it.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct Strip {
    pub columns: usize,
    pub rows: usize,
    pub px_mm: f64,
    pub data: Vec<f32>,
}

/// A strip whose end meets its own start.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize)]
pub struct RepeatingStrip {
    pub strip: Strip,
    /// How far the edges miss one another at the seam, µm (the larger of both).
    pub mismatch_um: f64,
}
