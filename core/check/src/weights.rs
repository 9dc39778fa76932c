//! A role's weight from its lines: mean and percentiles over the body, and how sure the mean is.
//!
//! How: places along a line repeat one another, so the mean's uncertainty comes from blocks of six widths; the measure's own share is
//! added (methods.md, section 6). Limits: fewer than four places say nothing.

use eddymist_measure::{
    Picture,
    drawing::{Line, Place},
    source::Kind,
    stats::quantile_sorted,
};

use crate::{document::WeightStats, guide::Finish};

/// What the measure itself may be off by, as a standard uncertainty (methods.md, section 6).
#[derive(Debug, Clone, Copy, PartialEq)]
pub(crate) struct Own {
    px: f64,
    share: f64,
}

impl Own {
    /// On clean lines 0.02 px, on aliased ones 0.05; of a scan half a per cent, or 0.02 px where that is more.
    pub fn new(picture: Option<&Picture>, finish: Finish) -> Self {
        let px = if finish == Finish::Hard { 0.05 } else { MEASURE_PX };
        Self { px, share: if picture.is_some_and(|p| p.kind != Kind::Drawing) { 0.005 } else { 0.0 } }
    }

    fn of(self, width: f64) -> f64 {
        self.px.max(self.share * width)
    }
}

/// What the measure itself may be off by on clean lines, px.
pub(crate) const MEASURE_PX: f64 = 0.02;

/// Blocks of this many widths are taken as independent of one another.
pub(crate) const BLOCK_WIDTHS: f64 = 6.0;

pub(crate) fn body(lines: &[Line]) -> impl Iterator<Item = f64> {
    lines.iter().flat_map(|l| &l.points).filter(|p| p.place == Place::Body).map(|p| f64::from(p.width))
}

/// Mean and percentiles over the body; leaves `widths` sorted.
pub(crate) fn weigh(widths: &mut [f64], lines: &[Line], own: Own) -> Option<WeightStats> {
    let n = widths.len();
    if n < 4 {
        return None;
    }
    let mean = widths.iter().sum::<f64>() / n as f64;
    let sd = (widths.iter().map(|w| (w - mean).powi(2)).sum::<f64>() / (n - 1) as f64).sqrt();
    // The mean's uncertainty from blocks long enough to be independent.
    let mut blocks: Vec<(f64, f64)> = Vec::new();
    for line in lines {
        let line_widths: Vec<f64> = body(std::slice::from_ref(line)).collect();
        // Widths, not places: a vector drawing's places lie closer.
        let block = ((BLOCK_WIDTHS * mean / line.step_px.max(1e-6)) as usize).max(8);
        blocks.extend(line_widths.chunks(block).map(|c| (c.iter().sum::<f64>() / c.len() as f64, c.len() as f64)));
    }
    let total: f64 = blocks.iter().map(|b| b.1).sum();
    let variance: f64 = blocks.iter().map(|b| b.1 * b.1 * (b.0 - mean).powi(2)).sum::<f64>() / (total * total);
    let few = blocks.len() as f64 / (blocks.len() as f64 - 1.0).max(0.5);
    let u = (variance * few + own.of(mean).powi(2)).sqrt();
    widths.sort_by(f64::total_cmp);
    let q = |p: f64| quantile_sorted(widths, p).unwrap_or(mean);
    Some(WeightStats { mean, interval: [mean - 1.96 * u, mean + 1.96 * u], median: q(0.5), p10: q(0.1), p90: q(0.9), sd })
}
