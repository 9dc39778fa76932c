//! Edges that are softer than the guide's finish has them, or harder.
//!
//! How: what a place's edge shows depends on how it lies to the pixels, so that it is averaged along the line, over as long as a steep line needs
//! to pass through a whole pixel, before it is called soft. Limits: px are the drawing's own; told only where a line is body, or too soft to be
//! measured.

use eddymist_measure::{
    drawing::{Line, Place, edge_px},
    stats::moving_mean,
};

use crate::{
    document::{FindingKind, StretchPlace},
    fault::{Fault, xy},
    guide::Finish,
};

/// Of lines drawn smoothly so many edges may miss every partly covered pixel; of aliased ones all do.
const CRISP: f64 = 0.8;
/// An edge of a hard finish covers pixels whole or not at all; over this width, px, it was smoothed.
const HARD_PX: f64 = 0.5;
/// An edge is averaged over so many px at least, or so many widths: at 2° to the pixels it passes through one in 29.
const LEAST_SPAN: f64 = 29.0;
const SPAN_WIDTHS: f64 = 3.0;

pub(crate) fn edges(line: &Line, finish: Finish, soft_px: f64, target: f64) -> Option<Fault> {
    let body: Vec<usize> = (0..line.points.len()).filter(|&i| matches!(line.points[i].place, Place::Body | Place::Soft)).collect();
    if (body.len() as f64) < 8.0 {
        return None;
    }
    let widths: Vec<f64> = body.iter().map(|&i| f64::from(line.points[i].edge)).collect();
    let middle = xy(line, body[body.len() / 2]);
    let whole = edge_px(widths.iter().sum::<f64>() / widths.len() as f64);
    let of_line = |kind, limit| Some(Fault::new(kind, middle, Some(line.length_px()), whole, limit));
    if finish == Finish::Hard {
        return if line.crisp.is_some_and(|c| c < 1.0 - CRISP) { of_line(FindingKind::SoftEdge, HARD_PX) } else { None };
    }
    if line.crisp.is_some_and(|c| c > CRISP) && line.length_px() > 6.0 * target {
        return of_line(FindingKind::HardEdge, HARD_PX);
    }
    let span = LEAST_SPAN.max(SPAN_WIDTHS * target);
    let soft: Vec<f64> = moving_mean(&widths, ((span / line.step_px) as usize).max(5)).into_iter().map(edge_px).collect();
    let mut found: Vec<(StretchPlace, f64)> = Vec::new();
    let mut k = 0;
    while k < soft.len() {
        let first = k;
        while k < soft.len() && soft[k] > soft_px {
            k += 1;
        }
        let long = (k - first) as f64 * line.step_px;
        if long > (3.0 * target).max(8.0) {
            let (x, y) = xy(line, body[(first + k) / 2]);
            found.push((StretchPlace { x, y, length_px: long }, soft[first..k].iter().sum::<f64>() / (k - first) as f64));
        }
        k = k.max(first + 1);
    }
    let (worst, value) = *found.iter().max_by(|a, b| (a.1 * a.0.length_px).total_cmp(&(b.1 * b.0.length_px)))?;
    let long = found.iter().map(|f| f.0.length_px).sum();
    let stretches = if found.len() > 1 { found.iter().map(|f| f.0).collect() } else { Vec::new() };
    Some(Fault { stretches, ..Fault::new(FindingKind::SoftEdge, (worst.x, worst.y), Some(long), value, soft_px) })
}
