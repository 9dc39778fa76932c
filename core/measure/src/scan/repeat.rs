//! The strip of a real line, cut where it repeats: both edges agree in place and slope at its two ends.
//!
//! How: the pair of places, far apart, whose edges differ least; the mismatch is told in µm. Limits: none of a line too short to have two.

use super::{
    RepeatingStrip, Strip,
    edges::edge,
    levels::InkLevel,
    profile::{ACROSS, Straight},
};
use crate::stats::moving_mean;

/// Cuts columns `from..to` of a straightened line to the longest part, of at least half, whose ends agree best; none
/// where the line is too short.
pub fn repeat(s: &Straight, ink: &InkLevel, from: usize, to: usize) -> Option<RepeatingStrip> {
    let length = to.checked_sub(from)?;
    if length < 64 {
        return None;
    }
    let edges = [edge(s, ink, false), edge(s, ink, true)];
    // Places over a tenth of a millimetre, slopes over three: a seam is seen at that size.
    let near = ((0.1 / s.px_mm).round() as usize).max(1);
    let smooth: Vec<Vec<f64>> = edges
        .iter()
        .map(|e| {
            let filled: Vec<f64> = e[from..to].iter().map(|v| if v.is_finite() { *v } else { 0.0 }).collect();
            moving_mean(&filled, near)
        })
        .collect();
    let slope = |side: usize, k: usize| {
        let (a, b) = (k.saturating_sub(3 * near), (k + 3 * near).min(length - 1));
        (smooth[side][b] - smooth[side][a]) / (b - a).max(1) as f64
    };
    let reach = length / 4;
    let step = (reach / 160).max(1);
    let mut best: Option<(f64, usize, usize)> = None;
    for a in (0..reach).step_by(step) {
        for b in (length - reach..length).step_by(step) {
            let off: f64 = (0..2).map(|i| (smooth[i][a] - smooth[i][b]).powi(2) + (2.0 * near as f64 * (slope(i, a) - slope(i, b))).powi(2)).sum();
            // Among ends that agree alike, the longer strip repeats less often.
            let score = off.sqrt() * (1.0 + 0.2 * (length - (b - a)) as f64 / length as f64);
            if best.is_none_or(|x| score < x.0) {
                best = Some((score, a, b));
            }
        }
    }
    let (_, a, b) = best?;
    let mismatch = (0..2).map(|i| (smooth[i][a] - smooth[i][b]).abs()).fold(0.0, f64::max);
    let across = ACROSS as usize;
    let (columns, rows) = (b - a, s.rows / across);
    let mut data = Vec::with_capacity(columns * rows);
    for r in 0..rows {
        for k in from + a..from + b {
            let sum: f32 = (0..across).map(|i| s.data[(r * across + i) * s.columns + k]).sum();
            data.push((sum / across as f32 / ink.absorptance as f32).clamp(0.0, 1.0));
        }
    }
    Some(RepeatingStrip { strip: Strip { columns, rows, px_mm: s.px_mm, data }, mismatch_um: mismatch * s.px_mm * 1000.0 })
}
