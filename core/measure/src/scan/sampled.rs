//! Absorptance between the pixels of a scan.
//!
//! How: bilinear between pixel centres. Limits: beyond the scan there is paper.

use super::paper::Flat;

/// Bilinear absorptance at a place, pixel centres at .5; paper beyond the scan.
pub fn sample(flat: &Flat, x: f64, y: f64) -> f32 {
    let (u, v) = (x - 0.5, y - 0.5);
    if u < 0.0 || v < 0.0 || u >= (flat.width - 1) as f64 || v >= (flat.height - 1) as f64 {
        return 0.0;
    }
    bilinear(flat, u, v)
}

/// Between four pixels; `u`, `v` count from the middle of the first pixel and lie inside.
#[inline]
pub(super) fn bilinear(flat: &Flat, u: f64, v: f64) -> f32 {
    let (ix, iy) = (u as usize, v as usize);
    let (tx, ty) = ((u - ix as f64) as f32, (v - iy as f64) as f32);
    let i = iy * flat.width + ix;
    let (a, b) = (&flat.data[i..i + 2], &flat.data[i + flat.width..i + flat.width + 2]);
    let (top, low) = (a[0] + (a[1] - a[0]) * tx, b[0] + (b[1] - b[0]) * tx);
    top + (low - top) * ty
}
