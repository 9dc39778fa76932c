//! Ink alone on clean paper, read as it is in a sheet's cells: what holds a brush's ink to the measure that a pen's went through.
//!
//! How: the picture stands in for a flattened scan without grain; lines, flicks, dots and rings go through the very functions that read a
//! sheet. Limits: one stroke to a picture, with clean paper about it.

use super::{
    StrokeReading,
    beside::Axes,
    lane,
    layout::{CellKind, RING_MM, Slot},
    marks::Placement,
    patches,
};
use crate::scan::{levels::InkLevel, paper::Flat};

/// A picture of one stroke: absorptance row by row, 0 paper and `level` solid ink.
pub struct Alone {
    flat: Flat,
    axes: Axes,
    ink: InkLevel,
    px_per_mm: f64,
}

impl Alone {
    /// `data` has `width` values to a row, at `dpi` dots to the inch.
    pub fn new(width: usize, data: Vec<f32>, dpi: f64, level: f64) -> Self {
        let height = data.len() / width.max(1);
        Self {
            flat: Flat { width, height, data, grain: 0.0, shading: 0.0, lost: false },
            axes: Axes::new([dpi; 2]),
            ink: InkLevel { absorptance: level, grain: 0.0 },
            px_per_mm: dpi / 25.4,
        }
    }

    /// Where `scale` mm of a plan are one of the picture's, its origin at the picture's place `at`, mm.
    fn place(&self, scale: f64, at: [f64; 2]) -> Placement {
        let (k, [x, y]) = (self.px_per_mm / scale, at.map(|v| v * self.px_per_mm));
        Placement { h: [k, 0.0, x, 0.0, k, y, 0.0, 0.0, 1.0] }
    }

    /// A stroke from one place to another, mm from the picture's corner, in a lane that reaches so far to both sides, read as one of a
    /// cell of this kind; none where it would not be read on a sheet either.
    pub fn stroke(&self, kind: CellKind, from: [f64; 2], to: [f64; 2], reach: f64) -> Option<StrokeReading> {
        lane::stroke(0, &Slot { from, to, reach }, kind, &self.place(1.0, [0.0; 2]), &self.flat, &self.axes, &self.ink).ok()
    }

    /// The mean width of such a stroke's body alone, mm, as one that is ruled.
    pub fn width_mm(&self, from: [f64; 2], to: [f64; 2], reach: f64) -> Option<f64> {
        lane::width_mm(&Slot { from, to, reach }, &self.place(1.0, [0.0; 2]), &self.flat, &self.axes, &self.ink).ok()
    }

    /// The diameter of a dot near a place, mm.
    pub fn dot_mm(&self, at: [f64; 2], reach: f64) -> Option<f64> {
        patches::dot(0, &Slot { from: at, to: at, reach }, &self.place(1.0, [0.0; 2]), &self.flat, &self.axes, &self.ink)?.dot_mm
    }

    /// Widths of a ring about a place by direction of travel, degrees counter-clockwise and mm; none of what does not close.
    pub fn ring(&self, middle: [f64; 2], radius: f64, reach: f64) -> Option<Vec<[f64; 2]>> {
        // The sheet's ring has a size of its own: the plan's mm are stretched to it, widths stay in the picture's.
        let scale = RING_MM / radius;
        let slot = Slot { from: [0.0; 2], to: [RING_MM, 0.0], reach: (reach * scale).min(RING_MM - 3.0) };
        let ring = patches::ring(&slot, &self.place(scale, middle), &self.flat, &self.axes, &self.ink)?;
        Some(ring.by_direction)
    }
}
