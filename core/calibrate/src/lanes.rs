//! Pen and brush laid over one ruler: the pen's line as scanned, the hand's stroke as inked, and what lies between.

use eddymist_ink::{Inker, Stroke};
use eddymist_measure::stats::moving_mean;
use schemars::JsonSchema;
use serde::{Deserialize, Serialize};

/// A pen's line as it was measured.
#[derive(Debug, Clone, PartialEq, Serialize, Deserialize, JsonSchema)]
pub struct PenLine {
    /// Effort it was ruled at, where the artist said it.
    #[serde(default, skip_serializing_if = "Option::is_none")]
    pub effort: Option<f64>,
    /// Ends of the fitted line in scan px.
    pub from: [f64; 2],
    pub to: [f64; 2],
    pub step_mm: f64,
    /// Edges to either side of the fitted line, mm.
    pub left_mm: Vec<f64>,
    pub right_mm: Vec<f64>,
    pub width_mm: Vec<f64>,
    /// The straightened line as a grey PNG, a data URI.
    pub strip_png: String,
    /// Height and length of the strip, mm.
    pub strip_mm: [f64; 2],
}

/// One exercise on the bench: closed shapes in mm, the line along y = 0.
#[derive(Debug, Clone, PartialEq, Serialize, JsonSchema)]
pub struct Lane {
    pub length_mm: f64,
    pub pen: Vec<[f64; 2]>,
    pub brush: Vec<[f64; 2]>,
    /// Brush minus pen, `[mm along, µm]`.
    pub difference: Vec<[f64; 2]>,
    pub pen_mm: f64,
    pub brush_mm: f64,
}

/// Lays a pen's line over a stroke of the hand at the same effort; the stroke is straightened along its chord.
pub fn lane(pen: Option<&PenLine>, stroke: Option<&Stroke>, inker: &Inker) -> Lane {
    let widths = stroke.map(|s| inked(s, inker)).unwrap_or_default();
    let pen_length = pen.map_or(0.0, |p| p.step_mm * p.width_mm.len() as f64);
    let brush_length = widths.last().map_or(0.0, |w| w[0]);
    let length_mm = pen_length.max(brush_length);
    let mut out = Lane { length_mm, pen: Vec::new(), brush: Vec::new(), difference: Vec::new(), pen_mm: 0.0, brush_mm: middle(&widths) };
    if let Some(p) = pen {
        let at = |i: usize| i as f64 * p.step_mm;
        out.pen = p.left_mm.iter().enumerate().map(|(i, e)| [at(i), *e]).chain(p.right_mm.iter().enumerate().rev().map(|(i, e)| [at(i), *e])).collect();
        let window = ((0.4 / p.step_mm) as usize).max(1);
        let smooth = moving_mean(&p.width_mm, window);
        let pairs: Vec<[f64; 2]> = smooth.iter().enumerate().map(|(i, w)| [at(i), *w]).collect();
        out.pen_mm = middle(&pairs);
        if !widths.is_empty() {
            let shared = pen_length.min(brush_length);
            let steps = 240;
            out.difference = (0..=steps)
                .map(|k| {
                    let s = shared * f64::from(k) / f64::from(steps);
                    [s, 1000.0 * (interpolate(&widths, s) - interpolate(&pairs, s))]
                })
                .collect();
        }
    }
    let half = |w: &[f64; 2], side: f64| [w[0], side * 0.5 * w[1]];
    out.brush = widths.iter().map(|w| half(w, -1.0)).chain(widths.iter().rev().map(|w| half(w, 1.0))).collect();
    out
}

/// `[mm along, width]` of a stroke as inked.
fn inked(stroke: &Stroke, inker: &Inker) -> Vec<[f64; 2]> {
    let samples = inker.ink(stroke).samples;
    let way = eddymist_ink::stroke::along(samples.iter().map(|s| (s.x, s.y)));
    samples.iter().zip(way).map(|(s, w)| [w, s.width_mm]).collect()
}

fn middle(pairs: &[[f64; 2]]) -> f64 {
    let n = pairs.len();
    let part = &pairs[n / 5..n - n / 5];
    part.iter().map(|p| p[1]).sum::<f64>() / part.len().max(1) as f64
}

fn interpolate(pairs: &[[f64; 2]], s: f64) -> f64 {
    let i = pairs.partition_point(|p| p[0] < s).clamp(1, pairs.len().max(2) - 1);
    let (Some(a), Some(b)) = (pairs.get(i - 1), pairs.get(i)) else {
        return pairs.first().map_or(0.0, |p| p[1]);
    };
    let t = if b[0] > a[0] { ((s - a[0]) / (b[0] - a[0])).clamp(0.0, 1.0) } else { 0.0 };
    a[1] + (b[1] - a[1]) * t
}
