//! One thing found on a line, and what its finders ask of a line.

use eddymist_measure::{
    drawing::{Line, Place},
    stats::median,
};

use crate::document::{FindingKind, StretchPlace};

/// One thing found on a line, before it is worded.
#[derive(Debug, Clone, PartialEq)]
pub struct Fault {
    pub kind: FindingKind,
    pub x: f64,
    pub y: f64,
    pub length_px: Option<f64>,
    pub value: f64,
    pub limit: f64,
    /// Where there is more than one.
    pub stretches: Vec<StretchPlace>,
}

impl Fault {
    pub(crate) fn new(kind: FindingKind, (x, y): (f64, f64), length_px: Option<f64>, value: f64, limit: f64) -> Self {
        Self { kind, x, y, length_px, value, limit, stretches: Vec::new() }
    }
}

/// Median width of a line's body, px.
pub(crate) fn width_of(line: &Line) -> Option<f64> {
    let body: Vec<f64> = line.points.iter().filter(|p| p.place == Place::Body).map(|p| f64::from(p.width)).collect();
    median(&body).or_else(|| median(&line.points.iter().map(|p| f64::from(p.width)).collect::<Vec<_>>()))
}

/// A place of a line, px.
pub(crate) fn xy(line: &Line, i: usize) -> (f64, f64) {
    (f64::from(line.points[i].x), f64::from(line.points[i].y))
}
