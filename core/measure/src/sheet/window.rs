//! A field of the sheet with lines of any course, cut out of the scan as it lies there.
//!
//! Limits: 2 % inside its borders, so that the printed frame is no ink; lines of eight places and fewer are left out.

use super::{FreeLine, beside::Axes, layout::Slot, marks::Placement};
use crate::{
    course::Patch,
    drawing::{Line, Place},
    scan::{levels::InkLevel, paper::Flat},
};

/// A field of the sheet cut out of the scan as it lies there.
pub(super) struct Window {
    pub(super) patch: Patch,
    /// Its top left corner in scan px.
    pub(super) corner: [f64; 2],
    pub(super) px_mm: f64,
}

impl Window {
    /// The field about a slot, 2 % inside its borders; what lies beyond it is paper.
    pub(super) fn cut(slot: &Slot, place: &Placement, flat: &Flat, axes: &Axes, ink: &InkLevel) -> Self {
        let (reach, long) = (0.98 * slot.reach, 0.01 * (slot.to[0] - slot.from[0]));
        let (l, r, t, b) = (slot.from[0] + long, slot.to[0] - long, slot.from[1] - reach, slot.from[1] + reach);
        let quad = [[l, t], [r, t], [r, b], [l, b]].map(|p| place.px(p));
        let bound = |k: usize, most: usize| {
            let v = quad.map(|p| p[k].clamp(0.0, most as f64));
            let low = v.into_iter().fold(f64::INFINITY, f64::min).floor() as usize;
            (low, (v.into_iter().fold(0.0, f64::max).ceil() as usize).max(low))
        };
        let ((x0, x1), (y0, y1)) = (bound(0, flat.width), bound(1, flat.height));
        let inside = |x: f64, y: f64| {
            (0..4).all(|i| {
                let (a, b) = (quad[i], quad[(i + 1) % 4]);
                (b[0] - a[0]) * (y - a[1]) - (b[1] - a[1]) * (x - a[0]) >= 0.0
            })
        };
        let at = |x: usize, y: usize| (flat.data[y * flat.width + x] / ink.absorptance as f32).clamp(0.0, 1.0);
        let mut coverage = Vec::with_capacity((x1 - x0) * (y1 - y0));
        for y in y0..y1 {
            coverage.extend((x0..x1).map(|x| if inside(x as f64 + 0.5, y as f64 + 0.5) { at(x, y) } else { 0.0 }));
        }
        let patch = Patch { width: x1 - x0, height: y1 - y0, coverage };
        Self { patch, corner: [x0 as f64, y0 as f64], px_mm: 25.4 / axes.dpi_mean() }
    }

    /// The lines of the patch with their whole course, tapers too; within one width of their tips they are caps.
    pub(super) fn free(&self) -> Vec<FreeLine> {
        let mut lines = self.patch.lines();
        for line in &mut lines {
            let n = line.points.len();
            let widest = line.points.iter().filter(|p| p.place == Place::Body).map(|p| p.width).fold(0.0, f32::max);
            let cap = ((f64::from(widest) / line.step_px).ceil() as usize).min(n / 2);
            line.points[cap..n - cap].iter_mut().filter(|p| p.place == Place::End).for_each(|p| p.place = Place::Body);
        }
        self.kept(&lines, 500)
    }

    /// Lines with at most so many places each, their widths where they are body.
    pub(super) fn kept(&self, lines: &[Line], most: usize) -> Vec<FreeLine> {
        let digits = |v: f64, d: f64| (v * d).round() / d;
        let kept = |l: &Line| {
            let stride = (l.points.len() / most).max(1);
            let body: Vec<_> = l.points.iter().filter(|p| p.place == Place::Body).step_by(stride).collect();
            FreeLine {
                points_px: body.iter().map(|p| [self.corner[0] + f64::from(p.x), self.corner[1] + f64::from(p.y)].map(|v| digits(v, 100.0))).collect(),
                width_mm: body.iter().map(|p| digits(f64::from(p.width) * self.px_mm, 1e4)).collect(),
            }
        };
        lines.iter().map(kept).filter(|l| l.width_mm.len() > 8).collect()
    }
}
